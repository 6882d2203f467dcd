"""`pondrel demo` and `serve`."""

from __future__ import annotations

import click
import waitress

from ..demo.load import load_demo
from ..store.folder import prepared, used_by_server
from ..web import create_app
from ..web.shell.guard import names_for
from .files import data_folder

__all__ = ["SERVER", "demo_command", "serve_command"]

# Eight threads; a connection that sends nothing for ten seconds is closed, so that half a request holds nothing up for long.
SERVER = {
    "threads": 8,
    "connection_limit": 800,
    "channel_timeout": 10,
    "cleanup_interval": 2,
    "backlog": 256,
    "asyncore_use_poll": True,
    "max_request_header_size": 32 * 1024,
    "max_request_body_size": 34 * 1024 * 1024,
    "ident": "Pondrel",
}


@click.command("demo")
@click.option("--reset", is_flag=True, help="Make the demo database anew; the one before is copied to the folder 'backups' first.")
def demo_command(reset: bool) -> None:
    """Load the made-up depot into its data folder (PONDREL_DATA, else ./demo-data) if that holds no database yet."""
    click.echo(load_demo(data_folder("demo-data"), reset))


@click.command("serve")
@click.option("--host", default="127.0.0.1", show_default=True)
@click.option("--port", type=click.IntRange(1, 65535), envvar="PONDREL_PORT", default=8765, show_default=True)
@click.option(
    "--allow-host", "allowed", multiple=True, help="One more name that browsers may use for this server; may be given more than once."
)
def serve_command(host: str, port: int, allowed: tuple[str, ...]) -> None:
    """Serve the application (waitress)."""
    folder = prepared(data_folder())
    with used_by_server(folder):
        app = create_app(folder, names_for(host, allowed))
        try:
            server = waitress.create_server(app, host=host, port=port, **SERVER)
        except OSError as error:
            reason = f"Port {port} on {host} cannot be used ({error.strerror})"
            raise click.ClickException(f"{reason}: set PONDREL_PORT to a free one.") from None
        click.echo(f"Pondrel is at http://{host}:{port}")
        server.run()
