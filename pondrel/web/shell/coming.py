"""Large files that are being read: in a process of their own, with how far it is, and a way to call it off."""

from __future__ import annotations

import hashlib
import json
import secrets
import shutil
import subprocess
import sys
import threading
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO, cast

from flask import Blueprint, Flask, Response, abort, current_app, flash, redirect, render_template, url_for
from werkzeug.wrappers import Response as WerkzeugResponse

__all__ = ["Coming", "Comings", "add_coming", "comings", "digest_of", "init_app"]

AT_ONCE = 2
MOST_KEPT = 50
_FOLDER = "coming"


@dataclass
class Coming:
    """A file that is being read: its ``token``, the file's name, the share that is done, and how it ended: the id of what was kept, or a
    sentence."""

    token: str
    name: str
    file: Path
    share: float = 0.0
    kept_id: int | None = None
    error: str = ""
    process: subprocess.Popen[str] | None = None
    called_off: bool = False

    @property
    def ended(self) -> bool:
        """Whether nothing is to be waited for any more."""
        return self.kept_id is not None or bool(self.error) or self.called_off


Finish = Callable[[Mapping[str, Any]], int]


class Comings:
    """Those that this server is reading, or read last."""

    def __init__(self, folder: Path):
        self.folder = folder / _FOLDER
        self._known: dict[str, Coming] = {}
        self._lock = threading.Lock()
        self._places = threading.Semaphore(AT_ONCE)
        # What an earlier server left over is nobody's any more.
        shutil.rmtree(self.folder, ignore_errors=True)

    def file_for(self) -> tuple[str, Path]:
        """A token for a file that comes, and where it may lie until it is read."""
        token = secrets.token_urlsafe(9)
        self.folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        return token, self.folder / token

    def begin(self, token: str, name: str, file: Path, command: Sequence[str], finish: Finish) -> Coming:
        """Begin to read a file by a module of Python and what it is told (``command``): it writes shares that are done, then ``done`` with
        JSON; ``finish`` keeps what was read and returns its id."""
        own = Coming(token, name, file)
        with self._lock:
            self._known[token] = own
            for old in [key for key, one in self._known.items() if one.ended][:-MOST_KEPT]:
                del self._known[old]
        threading.Thread(target=self._read, args=(own, command, finish), daemon=True).start()
        return own

    def known(self, token: str) -> Coming | None:
        """One by its token; None where this server does not know it."""
        with self._lock:
            return self._known.get(token)

    def call_off(self, own: Coming) -> None:
        """Read it no further; nothing of it is kept."""
        own.called_off = True
        if own.process is not None:
            own.process.terminate()

    def _read(self, own: Coming, command: Sequence[str], finish: Finish) -> None:
        try:
            with self._places:
                if own.called_off:
                    return
                self._run(own, command, finish)
        except Exception as error:  # a thread has nobody else to tell
            own.error = own.error or f"It could not be read: {type(error).__name__}. Try again, or take a shorter one."
        finally:
            own.file.unlink(missing_ok=True)

    def _run(self, own: Coming, command: Sequence[str], finish: Finish) -> None:
        with subprocess.Popen([sys.executable, "-m", *command], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True) as process:
            own.process = process
            assert process.stdout is not None and process.stderr is not None
            if own.called_off:
                process.terminate()
            found: Mapping[str, Any] | None = None
            for line in process.stdout:
                if line.startswith("done "):
                    found = json.loads(line.removeprefix("done "))
                else:
                    own.share = float(line)
            said = process.stderr.read().strip().splitlines()
        if own.called_off:
            return
        if process.returncode or found is None:
            own.error = said[-1] if said and process.returncode == 1 else "It could not be read: it may be too large for this machine."
            return
        own.kept_id = finish(found)
        own.share = 1.0


def comings() -> Comings:
    """Those of the application that is running."""
    found: Comings = current_app.extensions["comings"]
    return found


def digest_of(stream: BinaryIO) -> str:
    """The SHA-256 of a file that was sent, from its beginning on."""
    stream.seek(0)
    digest = hashlib.sha256()
    while piece := stream.read(1 << 20):
        digest.update(piece)
    return digest.hexdigest()


def add_coming(bp: Blueprint, shown: Callable[[int], str]) -> None:
    """Give a blueprint the pages of files that it is reading: how far one is, that as data, and to call it off. ``shown`` is the address of
    what was kept, by its id; the blueprint has a page ``index``."""
    at = bp.name

    @bp.get("/coming/<token>")
    def coming(token: str) -> str | WerkzeugResponse:
        """How far a file is read."""
        own = comings().known(token)
        if own is None:
            flash("That file is not being read any more: choose it again.")
            return redirect(url_for(f"{at}.index"))
        return redirect(shown(own.kept_id)) if own.kept_id is not None else render_template("coming.html", coming=own, at=at)

    @bp.get("/coming/<token>/state")
    def state(token: str) -> Response:
        """The same as data: the share that is done, where it went, or the sentence why not."""
        own = comings().known(token)
        if own is None:
            abort(404)
        address = shown(own.kept_id) if own.kept_id is not None else ""
        answer: Any = {"share": own.share, "address": address, "error": own.error, "ended": own.ended}
        return cast(Response, answer)

    @bp.post("/coming/<token>/off")
    def call_off(token: str) -> WerkzeugResponse:
        """Read it no further."""
        own = comings().known(token)
        if own is not None:
            comings().call_off(own)
        flash("Called off: nothing of that file is kept.")
        return redirect(url_for(f"{at}.index"))


def init_app(app: Flask) -> None:
    """Give the application its list."""
    app.extensions["comings"] = Comings(Path(app.config["DATABASE"]).parent)
