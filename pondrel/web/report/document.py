"""A report as a document of its own: HTML with everything in it, and PDF with its fonts embedded and its structure tagged."""

from __future__ import annotations

import base64
from pathlib import Path
from threading import Lock
from typing import Any

from flask import current_app, render_template
from markupsafe import Markup

from ...core.base.errors import PondrelError
from ...store.files import file_path, get_file
from ..jobs.files import data_folder
from ..shell.database import get_db

__all__ = ["DocumentError", "html_of", "pdf_of", "picture_inside"]

_FONTS = {
    ("Atkinson Next", 400): "atkinson-hyperlegible-next-latin-400-normal.woff2",
    ("Atkinson Next", 700): "atkinson-hyperlegible-next-latin-700-normal.woff2",
    ("Atkinson Mono", 400): "atkinson-hyperlegible-mono-latin-400-normal.woff2",
    ("Atkinson Mono", 700): "atkinson-hyperlegible-mono-latin-700-normal.woff2",
}  # fmt: skip
_ONE_AT_A_TIME = Lock()  # a long record takes seconds and a hundred megabytes
WAIT_SECONDS = 20.0


class DocumentError(PondrelError):
    """A PDF that cannot be made here."""


def _static(name: str) -> Path:
    return Path(str(current_app.static_folder)) / name


def _inside(media: str, content: bytes) -> str:
    return f"data:{media};base64,{base64.b64encode(content).decode('ascii')}"


def picture_inside(digest: str) -> str:
    """A picture of the record as an address that holds it whole; empty where it is gone."""
    stored, path = get_file(get_db(), digest), file_path(data_folder(), digest)
    return _inside(stored.media, path.read_bytes()) if stored and stored.media.startswith("image/") and path.exists() else ""


def _font(name: str) -> str:
    return _inside("font/woff2", _static(f"fonts/{name}").read_bytes())


def _style() -> Markup:
    """All that it is set with, inside the document."""
    faces = "".join(
        f'@font-face{{font-family:"{family}";font-weight:{weight};src:url({_font(name)})}}\n' for (family, weight), name in _FONTS.items()
    )
    sheets = "".join(_static(name).read_text(encoding="utf-8") for name in ("paper.css", "document.css"))
    return Markup("<style>{}</style>").format(Markup(faces + sheets))


def html_of(sheet: str, report: Any) -> str:
    """One of the sheets as one HTML file that fetches nothing."""
    return render_template("report/document.html", sheet=sheet, report=report, style=_style(), picture=picture_inside)


def pdf_of(sheet: str, report: Any) -> bytes:
    """The same as PDF. Raises DocumentError where the machine lacks what that takes, or another one is being made."""
    text = html_of(sheet, report)
    if not _ONE_AT_A_TIME.acquire(timeout=WAIT_SECONDS):
        raise DocumentError("Another PDF is being made just now: try again in a moment.")
    try:
        return _printed(text)
    finally:
        _ONE_AT_A_TIME.release()


def _printed(text: str) -> bytes:
    try:
        import weasyprint
    except OSError as error:
        raise DocumentError(
            "This machine lacks Pango, which a PDF is set with: install it with 'apt-get install libpangoft2-1.0-0', or print the page."
        ) from error
    # Nothing is fetched: no file, no address, whatever a text may hold.
    inside = weasyprint.urls.URLFetcher(allowed_protocols=("data",), allow_redirects=False)
    pdf: bytes = weasyprint.HTML(string=text, url_fetcher=inside).write_pdf(pdf_variant="pdf/ua-1")
    return pdf
