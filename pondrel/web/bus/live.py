"""Recording what a bus says, by any interface that the workshop has, with a touch for each thing that is done meanwhile."""

from __future__ import annotations

import hashlib
import itertools
import secrets
import threading
import time
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, cast

import can
from flask import Blueprint, Flask, Response, abort, current_app, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as WerkzeugResponse

from ...core.base.errors import PondrelError
from ...core.bus.frames import ChannelNames, Frames
from ...instruments.bus import INTERFACES, Interface, messages_from
from ...logs.keep_apart import found_in
from ...logs.kept import keep, kept_path
from ...logs.packaged import frames_of
from ...logs.writing import write_log
from ...store.buses import add_bus_mark, all_databases
from ...store.db import atomic, opened
from ...store.house import house_choices, settle_house
from ...store.jobs import get_job
from ...store.vehicles import all_vehicles
from ..jobs.files import data_folder
from ..shell.database import get_db
from ..shell.fields import checked, typed, whole
from ..shell.once import answered_with
from ..shell.who import me
from .taking import LONGEST_SAYS, kept_log, taken_databases
from .views import LONGEST_MARK, MOST_MARKS, MOVES

__all__ = ["init_app"]

bp = Blueprint("bus_live", __name__, url_prefix="/bus/live")

MOST_AT_ONCE, MOST_KEPT, MOST_SECONDS, MOST_FRAMES = 3, 20, 600.0, 2_000_000
PIECE = 500
_FIELDS = ("interface", "channel", "bit_rate", "host", "port", "seconds", "says", "vehicle", "job", "database")
_USUAL = {"interface": "socketcand", "channel": "can0", "bit_rate": "500000", "host": "127.0.0.1", "port": "29536", "seconds": "30"}


@dataclass
class Recording:
    """A recording under way: how long at most (s), what it is of, and how it stands."""

    token: str
    interface: Interface
    seconds: float
    about: Mapping[str, Any]
    began: float = field(default_factory=time.monotonic)
    count: int = 0
    marks: list[tuple[float, str]] = field(default_factory=list)
    enough: bool = False
    called_off: bool = False
    kept_id: int | None = None
    error: str = ""

    @property
    def ended(self) -> bool:
        """Whether nothing is to be waited for any more."""
        return self.kept_id is not None or bool(self.error) or self.called_off

    @property
    def share(self) -> float:
        """How much of its time is over."""
        return min((time.monotonic() - self.began) / self.seconds, 1.0)


class Recordings:
    """Those that this server is making, or made last."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.known: dict[str, Recording] = {}

    def begin(self, own: Recording, folder: Path) -> None:
        """Begin one. Raises PondrelError where as many as there may be are under way."""
        with self.lock:
            if sum(not one.ended for one in self.known.values()) >= MOST_AT_ONCE:
                raise PondrelError(f"{MOST_AT_ONCE} recordings are under way already: end one first.")
            for old in [token for token, one in self.known.items() if one.ended][:-MOST_KEPT]:
                del self.known[old]
            self.known[own.token] = own
        threading.Thread(target=_record, args=(own, folder), daemon=True).start()


def _record(own: Recording, folder: Path) -> None:
    file = folder / "coming" / f"{own.token}.log"
    try:
        file.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        channels = ChannelNames()
        write_log(file, _pieces(own, channels), channels)
        if own.called_off:
            return
        if not own.count:
            raise PondrelError("Nothing was heard: is the ignition on, the bit rate right, and the plug on the right bus?")
        digest = hashlib.sha256(file.read_bytes()).hexdigest()
        found = found_in(keep(file, kept_path(folder, digest), file.name))
        conn = opened(folder / "pondrel.sqlite")
        try:
            with file.open("rb") as stream, atomic(conn):
                log_id = kept_log(conn, folder, stream, own.about, found)
                for at, says in own.marks:
                    add_bus_mark(conn, log_id, min(at, float(cast(float, found["seconds"]))), says, own.about["person"])
            own.kept_id = log_id
        finally:
            conn.close()
    except PondrelError as error:
        own.error = str(error)
    except Exception as error:  # a thread has nobody else to tell
        own.error = f"It could not be recorded: {type(error).__name__}. Try again."
    finally:
        file.unlink(missing_ok=True)


def _pieces(own: Recording, channels: ChannelNames) -> Iterator[Frames]:
    def over() -> bool:
        return own.enough or own.called_off or own.count >= MOST_FRAMES

    messages: Iterator[can.Message] = messages_from(own.interface, own.seconds, over, lambda count: None)
    while piece := list(itertools.islice(_counted(own, messages), PIECE)):
        yield frames_of(piece, channels)


def _counted(own: Recording, messages: Iterator[can.Message]) -> Iterator[can.Message]:
    for message in messages:
        own.count += 1
        yield message


def _recordings() -> Recordings:
    found: Recordings = current_app.extensions["recordings"]
    return found


def _known(token: str) -> Recording:
    return _recordings().known.get(token) or abort(404)


@bp.get("")
def begin() -> str:
    """The form: by which interface, and what it is of."""
    settled = house_choices(get_db())
    usual = {name: settled.get(f"bus.{name}", text) for name, text in _USUAL.items()}
    return _form({**usual, "job": request.args.get("job", "")}, "")


def _form(given: Mapping[str, str], error: str) -> str:
    conn = get_db()
    number = whole(given.get("job", ""))
    return render_template(
        "bus/record.html", typed=given, error=error, interfaces=INTERFACES, vehicles=all_vehicles(conn), databases=all_databases(conn),
        job=get_job(conn, number) if number is not None else None,
    )  # fmt: skip


def _interface(given: Mapping[str, str]) -> Interface:
    numbers = {}
    for name, most, says in (("bit_rate", 5_000_000, "A bit rate"), ("port", 65_535, "A port")):
        text = given[name] or "0"
        number = whole(text)
        if number is None or not 0 <= number <= most:
            raise PondrelError(f"{says} is a whole number up to {most}, got '{text[:20]}'.")
        numbers[name] = number
    channel = checked("The channel", given["channel"], 80)
    if not channel:
        raise PondrelError("Say which channel: can0, or the name of the device.")
    return Interface(given["interface"], channel, numbers["bit_rate"], checked("The address", given["host"], 120), numbers["port"])


@bp.post("")
def record() -> WerkzeugResponse | tuple[str, int]:
    """Begin to record; the interface is remembered."""
    given = typed(*_FIELDS)

    def ready() -> tuple[Recording, Interface]:
        interface = _interface(given)
        try:
            seconds = float(given["seconds"].replace(",", "."))
        except ValueError:
            seconds = 0.0
        if not 1.0 <= seconds <= MOST_SECONDS:
            raise PondrelError(f"Record for 1 to {MOST_SECONDS:.0f} seconds; '{given['seconds'][:20]}' is not that.")
        interface.opened().shutdown()  # what cannot be reached is said here and not later
        number = whole(given["job"])
        job = get_job(get_db(), number) if number is not None else None
        says = checked("What it is of", given["says"], LONGEST_SAYS) or "Recorded here"
        about = {
            "name": "recorded.log", "says": says, "vehicle_id": job.vehicle_id if job else whole(given["vehicle"]),
            "job_id": job.id if job else None, "person": me(), "databases": taken_databases(given["database"]),
        }  # fmt: skip
        return Recording(secrets.token_urlsafe(9), interface, seconds, about), interface

    def write(made: tuple[Recording, Interface]) -> str:
        for name in _USUAL:
            settle_house(get_db(), f"bus.{name}", given[name], me())
        _recordings().begin(made[0], data_folder())
        return url_for("bus_live.show", token=made[0].token)

    return answered_with(ready, write, lambda error: _form(given, error))


@bp.get("/<token>")
def show(token: str) -> str | WerkzeugResponse:
    """How it stands, and a touch for each thing that is done."""
    own = _known(token)
    if own.kept_id is not None:
        return redirect(url_for("bus.show", log_id=own.kept_id))
    return render_template("bus/recording.html", own=own, moves=MOVES)


@bp.get("/<token>/state")
def state(token: str) -> Response:
    """The same as data."""
    own = _known(token)
    address = url_for("bus.show", log_id=own.kept_id) if own.kept_id is not None else ""
    says = f"{own.count} messages" if own.count else "Nothing heard yet"
    answer: Any = {"share": own.share, "address": address, "error": own.error, "ended": own.ended, "says": says}
    return cast(Response, answer)


@bp.post("/<token>/mark")
def mark(token: str) -> WerkzeugResponse:
    """Something is done now."""
    own = _known(token)
    says = checked("What was done", request.form.get("says", ""), LONGEST_MARK)
    if says and not own.ended and len(own.marks) < MOST_MARKS:
        own.marks.append((time.monotonic() - own.began, says))
    return redirect(url_for("bus_live.show", token=token))


@bp.post("/<token>/enough")
def enough(token: str) -> WerkzeugResponse:
    """Stop and keep what was recorded."""
    _known(token).enough = True
    return redirect(url_for("bus_live.show", token=token))


@bp.post("/<token>/off")
def call_off(token: str) -> WerkzeugResponse:
    """Stop and keep nothing."""
    own = _known(token)
    own.called_off = own.kept_id is None
    return redirect(url_for("logs_taken.index"))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.extensions["recordings"] = Recordings()
    app.register_blueprint(bp)
