"""Trailer sockets and plugs: every pin by its function, unloaded and then loaded, and what must be wired to another pin."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from ...base.errors import ReadingError
from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit, Verdict, worst
from .. import cautions
from ..case import Case, Read
from ..decide import by_number
from ..family import Check, Column, Family, Setting
from ..judged import Judged, PinSeen, Service, Socket
from ..pinouts import SOCKETS, Pin, moves

PLACE = 270

SOURCE = "common practice, no source"
UNLOADED_LOST = judged("UNLOADED_LOST", 0.5, "V", "lost up to a trailer socket without load at the most")
LOADED_LOST = judged("LOADED_LOST", 1.0, "V", "lost up to a trailer socket with its lamps on at the most")
SOCKET_GROUND = judged("SOCKET_GROUND", 0.3, "V", "that a socket's ground stands above the battery's minus at the most")


def _pins(case: Case) -> Mapping[str, Pin]:
    return {pin.number: pin for pin in SOCKETS[case.word("socket")]}


def _pulsed(case: Case) -> frozenset[str]:
    return frozenset(case.word("pulsed").replace(",", " ").split())


def _fed(case: Case, pin: Pin) -> float:
    """The effective volts that feed a pin: of a pulsed output supply × √duty."""
    supply = case.number("supply")
    return supply * math.sqrt(case.number("duty") / 100.0) if pin.number in _pulsed(case) else supply


def _row(case: Case, row: Mapping[str, Read]) -> list[Judged]:
    pins = _pins(case)
    number = row["pin"].typed.strip()
    if number not in pins:
        raise ReadingError(f"{case.word('socket')} has no pin {number!r}: it has {', '.join(pins)}.")
    pin = pins[number]
    found = []
    for name in ("unloaded", "loaded"):
        if name not in row:
            continue
        read = row[name]
        if pin.ground:
            limit = Limit("V", most=SOCKET_GROUND, source=f"{SOURCE}: {pin.function}")
        else:
            limit = Limit("V", _fed(case, pin) - (LOADED_LOST if name == "loaded" else UNLOADED_LOST), source=f"{SOURCE}: {pin.function}")
        check = Check(
            f"pin {number} {name}",
            "",
            ("V",),
            beyond=(_low(row, name), "This ground carries volts: it is bad, and lamps light that should not."),
        )
        found.append(
            by_number(
                case,
                check,
                read.value,
                case.u(read),
                case.given(name) or limit,
                f"pin {number}, {pin.function}, {name} {show(read.value, 'V')}",
            )
        )
    return found


def _low(row: Mapping[str, Read], name: str) -> str:
    if name == "loaded" and "unloaded" in row and row["unloaded"].value > row["loaded"].value + 1.5:
        return "Volts without load and none with it: a joint with resistance on the way."
    return "Nothing, or too little, arrives."


def _derive(case: Case) -> Sequence[Judged]:
    found = [judged_ for row in case.rows for judged_ in _row(case, row)]
    for what, at, home in moves(case.word("socket"), _answers(case)):
        found.append(
            Judged(
                f"pin {at} function",
                Verdict.OUTSIDE,
                what,
                "",
                f"On pin {at} answers the {what}, which belongs on pin {home}.",
                then=f"Move the wire of the {what} from pin {at} to pin {home}, with the diagram at hand.",
            )
        )
    return found


def _answers(case: Case) -> Mapping[str, str]:
    return {row["pin"].typed.strip(): row["answers"].typed.strip().lower() for row in case.rows if "answers" in row}


def _socket(case: Case, findings: Sequence[Judged]) -> Socket:
    name = case.word("socket")
    seen = []
    for pin in SOCKETS[name]:
        own = [found.verdict for found in findings if found.check.split(" ")[1:2] == [pin.number]]
        seen.append(PinSeen(pin.number, pin.function, pin.x, pin.y, worst(own) if own else None))
    return Socket(name, tuple(seen), moves(name, _answers(case)))


def _rows(case: Case) -> Sequence[tuple[str, str]]:
    return [(pin.number, pin.function) for pin in SOCKETS.get(case.word("socket"), SOCKETS["ISO 1724"])]


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    moved = moves(case.word("socket"), _answers(case))
    read = {row["pin"].typed.strip() for row in case.rows}
    left = [f"{pin.number} {pin.function}" for pin in SOCKETS[case.word("socket")] if pin.number not in read]
    says = [f"{what}: from pin {at} to pin {home}." for what, at, home in moved]
    return Service({"moves": "; ".join(says), "not_read": ", ".join(left)}, tuple(says))


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    read = {row["pin"].typed.strip() for row in case.rows}
    left = [f"{pin.number} {pin.function}" for pin in SOCKETS[case.word("socket")] if pin.number not in read]
    says = [f"Not read: {', '.join(left)}."] if left and case.rows else []
    if case.rows and not any("loaded" in row for row in case.rows):
        says.insert(0, "Read every pin again with its lamp or a test load on it: volts without load prove no wire.")
    return says


FAMILY = Family(
    "socket",
    "Trailer socket or plug",
    "trailer socket plug pin tow iso 1724 11446 sae j560 re-pin",
    "loaded",
    (),
    (cautions.TRAILER, cautions.FUSED, "Battery off before pins are moved; seen from the wire side left and right are swapped."),
    (
        Setting("socket", "which socket", words=tuple(SOCKETS), usual="ISO 1724", early=True),
        Setting("supply", "volts at the battery meanwhile", "V", usual=12.6),
        Setting("pulsed", "pins that are pulsed, read as effective volts", usual=""),
        Setting("duty", "share of the time that they are on", "%", usual=100.0),
    ),
    (
        Column("pin", "pin", free=True),
        Column("unloaded", "to ground without load", "V"),
        Column("loaded", "with its lamp on", "V", optional=True),
        Column("answers", "which function answers there", free=True, optional=True),
    ),
    (Check("loaded", "each pin with its load", ("V",)), Check("unloaded", "each pin without load", ("V",))),
    derive=_derive,
    serve=_serve,
    advise=_advise,
    socket=_socket,
    rows=_rows,
    table="Pin by pin",
    group="Fuses, switches, plugs",
)
