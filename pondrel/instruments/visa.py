"""A meter that speaks SCPI over TCP, USB or serial: opened by its address, asked for one number at a time.

Connections are kept open and shared; each has a lock and a time-out, so that a meter that hangs holds nobody else up. Whatever goes wrong
becomes one sentence (`MeterError`), and the connection is opened anew the next time.
"""

from __future__ import annotations

import re
import threading
from dataclasses import dataclass, field
from typing import Any

import pyvisa

from ..core.base.brief import quoted
from ..core.base.errors import PondrelError

__all__ = [
    "ADDRESS",
    "OVER_FROM",
    "STANDIN",
    "WAIT_S",
    "Line",
    "Live",
    "MeterError",
    "close_all",
    "forget",
    "line_to",
    "read_live",
    "refusals",
    "sentence_of",
]

OVER_FROM = 9.0e37  # SCPI 1999 says 9.9E37 for over range
TIMEOUT_MS, WAIT_S = 1500, 2.0
LONGEST_REPLY = 200
MOST_REFUSALS = 20
STANDIN = "Pondrel,Stand-in"
# By the unit that is wanted: how a meter is set up for it, and what its configuration reads like then.
SET_UP = {"V": ("CONF:VOLT:DC", "VOLT"), "V~": ("CONF:VOLT:AC", "VOLT:AC"), "Ω": ("CONF:RES", "RES"), "A": ("CONF:CURR:DC", "CURR")}
ADDRESS = re.compile(r"(?:TCPIP\d*|USB\d*|ASRL[\w./-]*|GPIB\d*)::[\x21-\x7e]{1,120}", re.IGNORECASE)
_END = re.compile(r"[-+]?\d+(?:\.\d*)?(?:[eE][-+]?\d+)?")


class MeterError(PondrelError):
    """A meter that cannot be read; the text says what to look at."""


@dataclass(frozen=True, slots=True)
class Live:
    """One number from a meter: ``value`` in ``unit`` (SI), whether it is over range, the end of the range that it was read on where the
    meter says so (None where it chooses by itself), and what it calls itself."""

    value: float
    unit: str
    over: bool
    range_end: float | None
    identity: str

    @property
    def is_standin(self) -> bool:
        """Whether it is the simulated vehicle's."""
        return self.identity.startswith(STANDIN)


@dataclass(slots=True)
class Line:
    """An open connection: the resource, what it calls itself, and what it was set up for last."""

    resource: Any
    identity: str
    set_up: str = ""
    lock: threading.Lock = field(default_factory=threading.Lock)


_lines: dict[str, Line] = {}
_opening: set[str] = set()
_guard = threading.Lock()
_manager: list[Any] = []


def read_live(address: str, unit: str, probes: tuple[str, str] | None = None, state: str = "", off: str = "") -> Live:
    """One number of ``unit`` (V, V~ for alternating volts, Ω, A) from the meter at an address. Where that is the simulated vehicle's, its
    probes are put on two places first, in a state and with what is ``off`` unplugged. Raises MeterError with one sentence."""
    if not ADDRESS.fullmatch(address):
        raise MeterError(f"{quoted(address)} is no address of a meter: one such as TCPIP0::127.0.0.1::5025::SOCKET is wanted.")
    if unit not in SET_UP:
        raise MeterError(f"A meter on the wire reads volts, ohms and amperes; {quoted(unit)} is typed by hand.")
    line = line_to(address)
    if not line.lock.acquire(timeout=WAIT_S):
        raise MeterError("The meter is busy with somebody else's reading: try again in a moment.")
    try:
        return _read(line, unit, probes, state, off)
    except (pyvisa.Error, OSError, ValueError) as error:
        forget(address, line)
        raise MeterError(sentence_of(error)) from None
    finally:
        line.lock.release()


def _read(line: Line, unit: str, probes: tuple[str, str] | None, state: str, off: str) -> Live:
    if probes is not None and line.identity.startswith(STANDIN):
        _place(line, probes, state, off)
    command, word = SET_UP[unit]
    if line.set_up != unit:
        line.resource.write(command)
        line.set_up = unit
    text = str(line.resource.query("READ?")).strip()
    value = _number(text)
    over = abs(value) >= OVER_FROM
    return Live(value, unit.rstrip("~"), over, _range_end(line, word) if over else None, line.identity)


def _place(line: Line, probes: tuple[str, str], state: str, off: str) -> None:
    """Work at the simulated vehicle: what it refuses it queues, and that is told."""
    red, black = (re.sub(r'[";\r\n]', "", place) for place in probes)
    for command in (f'ROUT:STAT "{state}"' if state else "", f'ROUT:UNPL "{off}"', f'ROUT:PROB "{red}","{black}"'):
        if command:
            line.resource.write(command)
    refused = refusals(line)
    if refused:
        raise MeterError(f"The simulated vehicle refuses: {refused.rstrip('.')}. Start it with this job's circuit, by --sheet.")


def refusals(line: Line) -> str:
    """The first sentence that an instrument has queued of what it refused; empty where it refused nothing. The queue is empty
    afterwards."""
    refused = ""
    for _ in range(MOST_REFUSALS):
        error = str(line.resource.query("SYST:ERR?")).strip()
        if error.startswith(("0,", "+0,")):
            break
        says = error.partition(",")[2].strip('"')
        refused = refused or says.partition("; ")[2] or says
    return refused


def _range_end(line: Line, word: str) -> float | None:
    """The end of the range by `CONF?`, where the meter tells it."""
    told = str(line.resource.query("CONF?"))
    rest = told.strip().strip('"').removeprefix(word).removeprefix(":DC")
    match = _END.search(rest)
    return float(match[0]) if match else None


def _number(text: str) -> float:
    if len(text) > LONGEST_REPLY:
        raise ValueError("more text than a number has")
    value = float(text.split(",")[0])
    if value != value:
        raise ValueError("no number")
    return value


def line_to(address: str) -> Line:
    """The open connection to an instrument, made where there is none. Raises MeterError."""
    with _guard:
        known = _lines.get(address)
        if known is not None:
            return known
        if address in _opening:
            raise MeterError("The meter is being looked for: a moment.")
        _opening.add(address)
    # Only one looks for a meter at a time: one that is not there holds up nobody but whoever asked first.
    try:
        opened = _opened(address)
        with _guard:
            return _lines.setdefault(address, opened)
    finally:
        with _guard:
            _opening.discard(address)


def _opened(address: str) -> Line:
    try:
        if not _manager:
            _manager.append(pyvisa.ResourceManager("@py"))
        resource = _manager[0].open_resource(address, open_timeout=TIMEOUT_MS)
        resource.timeout = TIMEOUT_MS
        resource.read_termination = resource.write_termination = "\n"
        return Line(resource, str(resource.query("*IDN?")).strip()[:LONGEST_REPLY])
    except Exception as error:
        raise MeterError(sentence_of(error)) from None


def forget(address: str, line: Line) -> None:
    """Let a connection go that went wrong: the next one is made anew."""
    with _guard:
        if _lines.get(address) is line:
            del _lines[address]
    try:
        line.resource.close()
    except Exception:
        return


def sentence_of(error: Exception) -> str:
    """What a person is told of an error of the connection."""
    if isinstance(error, pyvisa.errors.VisaIOError) and error.error_code == pyvisa.constants.StatusCode.error_timeout:
        return "The meter does not answer: is it switched on, and its cable in? What was read before is kept."
    if isinstance(error, ValueError):
        return f"The meter answered {quoted(str(error)[:60])}, and a number is wanted: switch it off and on, then try again."
    return "The meter cannot be reached at its address: see that it is on and that the address fits; numbers can be typed meanwhile."


def close_all() -> None:
    """Let every meter go."""
    with _guard:
        lines, known = list(_lines.values()), list(_lines)
        for address in known:
            del _lines[address]
    for line in lines:
        try:
            line.resource.close()
        except Exception:
            continue
