"""A scope that speaks SCPI: it is asked to look back for so many seconds, and gives each channel's samples as a block of definite length.

The commands are those of SCPI 1999 (SENSe:SWEep, TRACe, FORMat; IEEE 488.2 blocks); ``TRACe:ACQuire``, ``TRACe:TIME?`` and
``ROUTe:SCOPe`` are what the simulated vehicle's scope adds to them.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np
import pyvisa
from numpy.typing import NDArray

from ..core.base.brief import quoted
from ..core.wave.capture import LEAST_SAMPLES
from .visa import ADDRESS, STANDIN, WAIT_S, Line, MeterError, forget, line_to, refusals, sentence_of

__all__ = ["Acquired", "Lead", "acquire", "places_of", "turn"]

MOST_POINTS = 200_000


@dataclass(frozen=True, slots=True)
class Lead:
    """Where a channel's leads are on the simulated vehicle; both empty for nowhere."""

    red: str = ""
    black: str = ""


@dataclass(frozen=True, slots=True)
class Acquired:
    """What a scope has acquired: volts of each channel (C, N), ``start`` on its own clock in seconds and ``step`` between two samples,
    and what it calls itself."""

    volts: NDArray[np.float64]
    start: float
    step: float
    identity: str


def acquire(address: str, seconds: float, points: int, leads: tuple[Lead, ...]) -> Acquired:
    """The last so many seconds of as many channels as there are leads. Raises MeterError with one sentence."""
    line = _line(address)
    try:
        write, query = line.resource.write, line.resource.query
        if line.identity.startswith(STANDIN):
            for number, lead in enumerate(leads, 1):
                write(f'ROUT:SCOP CH{number},"{_plain(lead.red)}","{_plain(lead.black)}"')
        for command in ("FORM REAL,32", "FORM:BORD NORM", f"SWE:TIME {seconds:.6E}", f"SWE:POIN {min(points, MOST_POINTS)}", "TRAC:ACQ"):
            write(command)
        refused = refusals(line)
        if refused:
            raise MeterError(f"The scope refuses: {refused.rstrip('.')}.")
        start = float(query("TRAC:TIME?"))
        found = [
            line.resource.query_binary_values(f"TRAC? CH{number}", datatype="f", is_big_endian=True, container=np.array)
            for number in range(1, len(leads) + 1)
        ]
        volts = np.array(found, dtype=np.float64)
        if volts.ndim != 2 or volts.shape[1] < LEAST_SAMPLES or not np.isfinite(volts).all():
            raise ValueError("a block of too few samples")
        return Acquired(volts, start, seconds / volts.shape[1], line.identity)
    except (pyvisa.Error, OSError, ValueError) as error:
        forget(address, line)
        raise MeterError(sentence_of(error)) from None
    finally:
        line.lock.release()


def places_of(address: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Places and states of the simulated vehicle at an address; none of another instrument. Raises MeterError."""
    line = _line(address)
    try:
        if not line.identity.startswith(STANDIN):
            return (), ()
        answers = [str(line.resource.query(question)) for question in ("ROUT:PLAC?", "ROUT:STAT:CAT?")]
        places, states = (tuple(re.findall(r'"([^"]*)"', text)) for text in answers)
        return places, states
    except (pyvisa.Error, OSError) as error:
        forget(address, line)
        raise MeterError(sentence_of(error)) from None
    finally:
        line.lock.release()


def turn(address: str, state: str) -> None:
    """Bring the simulated vehicle into a state. Raises MeterError."""
    line = _line(address)
    try:
        line.resource.write(f'ROUT:STAT "{_plain(state)}"')
        refused = refusals(line)
        if refused:
            raise MeterError(f"The simulated vehicle refuses: {refused.rstrip('.')}.")
    except (pyvisa.Error, OSError) as error:
        forget(address, line)
        raise MeterError(sentence_of(error)) from None
    finally:
        line.lock.release()


def _line(address: str) -> Line:
    if not ADDRESS.fullmatch(address):
        raise MeterError(f"{quoted(address)} is no address of a scope: one such as TCPIP0::127.0.0.1::5025::SOCKET is wanted.")
    line = line_to(address)
    if not line.lock.acquire(timeout=WAIT_S):
        raise MeterError("The scope is busy with somebody else's look: try again in a moment.")
    return line


def _plain(text: str) -> str:
    return re.sub(r'[";\r\n]', "", text)
