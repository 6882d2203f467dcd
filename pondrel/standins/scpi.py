"""The language of the stand-in meter: SCPI 1999 over a line, with IEEE 488.2's common commands.

Keywords in long or short form whatever the case, optional ones left out or not, several commands in a line with semicolons, queries, an
error queue. What is wrong is queued and never answered, as the standard has it.
"""

from __future__ import annotations

import re
from collections import deque
from collections.abc import Callable
from functools import partial

from .. import __version__
from ..core.base.errors import PondrelError
from .meter import FUNCTIONS, OVER, Meter
from .modules.life import Life
from .scope import CHANNELS, Scope

__all__ = ["LONGEST_LINE", "Scpi"]

LONGEST_LINE = 2000  # characters
MOST_ERRORS = 20
IDENTITY = f"Pondrel,Stand-in meter,1,{__version__}"
# SCPI 1999, 21.8: numbers and texts of the queue.
NO_ERROR = '0,"No error"'
SYNTAX, UNDEFINED, TYPE, MISSING, EXTRA = -102, -113, -104, -109, -108
RANGE, ILLEGAL, OVERFLOW, OVERRUN, EXECUTION = -222, -224, -350, -363, -200
TEXTS = {
    SYNTAX: "Syntax error",
    UNDEFINED: "Undefined header",
    TYPE: "Data type error",
    MISSING: "Missing parameter",
    EXTRA: "Parameter not allowed",
    RANGE: "Data out of range",
    ILLEGAL: "Illegal parameter value",
    OVERFLOW: "Queue overflow",
    OVERRUN: "Input buffer overrun",
    EXECUTION: "Execution error",
}
_FUNCTIONS = {
    "VOLTage[:DC]": "VOLT",
    "VOLTage:AC": "VOLT:AC",
    "RESistance": "RES",
    "FRESistance": "FRES",
    "CURRent[:DC]": "CURR",
    "CONTinuity": "CONT",
}
_QUOTED = re.compile(r'"([^"]*)"|\'([^\']*)\'')


def _pattern(header: str) -> re.Pattern[str]:
    """A header such as ``MEASure:VOLTage[:DC]?`` as an expression: capitals are the short form, brackets may be left out."""
    out = []
    for piece in re.findall(r"\[|\]|:|[A-Z]+[a-z]*|\?|\*", header):
        if piece == "[":
            out.append("(?:")
        elif piece == "]":
            out.append(")?")
        elif piece in (":", "?", "*"):
            out.append(re.escape(piece))
        else:
            short = re.match(r"[A-Z]+", piece)
            assert short is not None
            rest = piece[short.end() :]
            out.append(f"{short[0]}(?:{rest.upper()})?" if rest else short[0])
    return re.compile(":?" + "".join(out), re.IGNORECASE)


class ScpiError(Exception):
    """What goes into the error queue: its number, and what may be said beside it."""

    def __init__(self, number: int, says: str = ""):
        super().__init__(number, says)
        self.number, self.says = number, says


class Scpi:
    """A session of the language over one meter. ``answer`` takes a line and gives what is sent back, None for nothing."""

    def __init__(self, meter: Meter, scope: Scope | None = None, life: Life | None = None):
        self.life = life
        self.meter = meter
        self.scope = scope or Scope(meter.world)
        self.form, self.swapped = "ASC", False
        self.errors: deque[str] = deque()
        self.events = 0
        self.last: float | None = None
        self._commands: list[tuple[re.Pattern[str], Callable[[list[str]], str | None]]] = []
        self._register()

    def _add(self, header: str, does: Callable[[list[str]], str | None]) -> None:
        self._commands.append((_pattern(header), does))

    def _register(self) -> None:
        meter, world = self.meter, self.meter.world
        self._add("*IDN?", lambda given: IDENTITY)
        self._add("*RST", lambda given: meter.reset())
        self._add("*CLS", lambda given: self._clear())
        self._add("*OPC?", lambda given: "1")
        self._add("*TST?", lambda given: "0")
        self._add("*ESR?", lambda given: self._esr())
        self._add("*STB?", lambda given: "4" if self.errors else "0")
        for header in ("*OPC", "*WAI", "*ESE", "*SRE", "INITiate[:IMMediate]", "ABORt"):
            self._add(header, lambda given: None)
        for header in ("*ESE?", "*SRE?"):
            self._add(header, lambda given: "0")
        self._add("SYSTem:ERRor[:NEXT]?", lambda given: self.errors.popleft() if self.errors else NO_ERROR)
        self._add("SYSTem:ERRor:COUNt?", lambda given: str(len(self.errors)))
        self._add("SYSTem:VERSion?", lambda given: "1999.0")
        for header, word in _FUNCTIONS.items():
            self._add(f"MEASure[:SCALar]:{header}?", partial(self._measured, word))
            self._add(f"CONFigure[:SCALar]:{header}", partial(self._configured, word))
            self._add(f"[SENSe:]{header}:RANGe[:UPPer]", partial(self._ranged, word))
            self._add(f"[SENSe:]{header}:RANGe[:UPPer]?", partial(self._range_told, word))
            self._add(f"[SENSe:]{header}:RANGe:AUTO", partial(self._auto, word))
            self._add(f"[SENSe:]{header}:RANGe:AUTO?", partial(self._auto_told, word))
        self._add("CONFigure?", lambda given: self._configuration())
        self._add("[SENSe:]FUNCtion", lambda given: self._function(given))
        self._add("[SENSe:]FUNCtion?", lambda given: f'"{meter.function.word}"')
        self._add("READ?", lambda given: self._read())
        self._add("FETCh?", lambda given: self._number(self.last) if self.last is not None else self._read())
        self._add("SENSe:ZERO", lambda given: meter.zero())
        self._add("ROUTe:PROBes", lambda given: self._put(given))
        self._add("ROUTe:PROBes?", lambda given: f'"{world.probes.red}","{world.probes.black}"')
        self._add("ROUTe:PLACes?", lambda given: ",".join(f'"{place}"' for place in world.sheet.places))
        self._add("ROUTe:STATe", lambda given: world.turn(self._text(given)))
        self._add("ROUTe:STATe?", lambda given: f'"{world.state}"')
        self._add("ROUTe:STATe:CATalog?", lambda given: ",".join(f'"{state}"' for state in world.sheet.states))
        self._add("ROUTe:SIGHts?", lambda given: ",".join(f'"{part}","{says}"' for part, says in world.seen().items()))
        self._add("ROUTe:UNPLug", lambda given: world.unplug(given[0] if given else ""))
        self._register_scope()
        if self.life is not None:
            self._register_life(self.life)
        self._add("ROUTe:LOAD", lambda given: self._load(given))
        self._add("ROUTe:MEND", lambda given: world.mend())
        self._add("ROUTe:UNPLug?", lambda given: f'"{", ".join(world.without)}"')

    def _register_life(self, life: Life) -> None:
        """What modules know beside the circuit."""
        self._add("ROUTe:FACT", lambda given: life.set(*([*given, "", ""][:2])))
        self._add("ROUTe:DRIVe", lambda given: life.drive(self._text(given)))
        self._add("ROUTe:RENew", lambda given: life.renew(self._text(given)))
        self._add("ROUTe:FACT:CATalog?", lambda given: ",".join(f'"{name}",{value:g}' for name, value in life.facts.items()))

    def _load(self, given: list[str]) -> None:
        """A load in place of a part: its name, and the ohms (0: the part back)."""
        if len(given) != 2:
            raise ScpiError(MISSING)
        self.meter.world.substitute(self._text(given[:1]), self._plain(given[1:]))

    def _register_scope(self) -> None:
        """The scope beside the meter: sweep, acquisition and traces (SCPI 1999: SENSe:SWEep, INITiate, FORMat, TRACe)."""
        scope = self.scope
        self._add("[SENSe:]SWEep:TIME", lambda given: scope.sweep(seconds=self._plain(given)))
        self._add("[SENSe:]SWEep:TIME?", lambda given: self._number(scope.seconds))
        self._add("[SENSe:]SWEep:POINts", lambda given: scope.sweep(points=self._plain(given)))
        self._add("[SENSe:]SWEep:POINts?", lambda given: str(scope.points))
        self._add("TRACe:ACQuire", lambda given: scope.acquire())
        self._add("TRACe:CATalog?", lambda given: ",".join(f'"{name}"' for name in CHANNELS))
        self._add("TRACe:TIME?", lambda given: f"{scope.started:+.9E}")
        self._add("TRACe[:DATA]?", lambda given: self._trace(given))
        self._add("FORMat[:DATA]", lambda given: self._format(given))
        self._add("FORMat[:DATA]?", lambda given: "REAL,32" if self.form == "REAL" else "ASC,0")
        self._add("FORMat:BORDer", lambda given: self._border(given))
        self._add("FORMat:BORDer?", lambda given: "SWAP" if self.swapped else "NORM")
        self._add("ROUTe:SCOPe", lambda given: scope.put(*([*given, "", "", ""][:3])))
        self._add("ROUTe:SCOPe?", lambda given: ",".join(f'"{red}","{black}"' for red, black in scope.leads.values()))

    def _plain(self, given: list[str]) -> float:
        try:
            return float(self._text(given))
        except ValueError:
            raise ScpiError(TYPE, given[0][:40]) from None

    def _format(self, given: list[str]) -> None:
        said = self._text(given).upper()[:4]
        if said not in ("REAL", "ASC", "ASCI"):
            raise ScpiError(ILLEGAL, given[0][:40])
        self.form = "REAL" if said == "REAL" else "ASC"

    def _border(self, given: list[str]) -> None:
        said = self._text(given).upper()[:4]
        if said not in ("NORM", "SWAP"):
            raise ScpiError(ILLEGAL, given[0][:40])
        self.swapped = said == "SWAP"

    def _trace(self, given: list[str]) -> str:
        """What a channel has acquired: numbers, or a block of definite length (IEEE 488.2, 8.7.9), a byte a character."""
        name = self._text(given).upper()
        found = self.scope.acquired.get(name)
        if found is None:
            raise ScpiError(ILLEGAL if name not in CHANNELS else EXECUTION, f"{name[:20]} has acquired nothing yet")
        if self.form == "ASC":
            return ",".join(f"{value:+.6E}" for value in found.tolist())
        block = found.astype("<f4" if self.swapped else ">f4").tobytes()
        count = str(len(block))
        return f"#{len(count)}{count}" + block.decode("latin-1")

    def answer(self, line: str) -> str | None:
        """What is sent back for a line, None where nothing is; whatever is wrong goes into the queue."""
        if len(line) > LONGEST_LINE:
            self.queue(ScpiError(OVERRUN))
            return None
        replies = []
        for command in _apart(line):
            try:
                reply = self._run(command)
            except ScpiError as error:
                self.queue(error)
                break
            if reply is not None:
                replies.append(reply)
        return ";".join(replies) if replies else None

    def _run(self, command: str) -> str | None:
        head, _, rest = command.strip().partition(" ")
        if not head:
            return None
        if not head.isascii() or not re.fullmatch(r"[:*A-Za-z0-9?_]+", head):
            raise ScpiError(SYNTAX)
        for pattern, does in self._commands:
            if pattern.fullmatch(head):
                try:
                    return does(_parameters(rest))
                except PondrelError as error:
                    raise ScpiError(ILLEGAL, str(error)) from None
        raise ScpiError(UNDEFINED, head[:40])

    def queue(self, error: ScpiError) -> None:
        """Put an error into the queue; when it is full its last one says so."""
        self.events |= 32 if error.number > EXECUTION and error.number <= -100 else 16
        text = TEXTS[error.number] + (f"; {error.says}" if error.says else "")
        if len(self.errors) >= MOST_ERRORS:
            self.errors[-1] = f'{OVERFLOW},"{TEXTS[OVERFLOW]}"'
            return
        self.errors.append(f'{error.number},"{text.replace(chr(34), chr(39)).replace("…", "...")[:200]}"')

    def _clear(self) -> None:
        self.errors.clear()
        self.events = 0

    def _esr(self) -> str:
        events, self.events = self.events, 0
        return str(events)

    def _text(self, given: list[str]) -> str:
        if not given:
            raise ScpiError(MISSING)
        return given[0]

    def _put(self, given: list[str]) -> None:
        self.meter.world.put(*(given[:2] if given else [""]))

    def _wanted(self, word: str, given: list[str]) -> float | None:
        """The range that the parameters ask for: None by itself."""
        if not given or given[0].upper() in ("AUTO", "DEF", "DEFAULT"):
            return None
        ranges = FUNCTIONS[word].ranges
        if given[0].upper() in ("MIN", "MINIMUM"):
            return ranges[0]
        if given[0].upper() in ("MAX", "MAXIMUM"):
            return ranges[-1]
        try:
            return float(given[0])
        except ValueError:
            raise ScpiError(TYPE, given[0][:40]) from None

    def _configured(self, word: str, given: list[str]) -> None:
        if not self.meter.choose(word, self._wanted(word, given)):
            raise ScpiError(RANGE)

    def _measured(self, word: str, given: list[str]) -> str:
        self._configured(word, given)
        return self._read()

    def _ranged(self, word: str, given: list[str]) -> None:
        wanted = self._wanted(word, given)
        ranges = FUNCTIONS[word].ranges
        if wanted is not None and abs(wanted) > ranges[-1]:
            raise ScpiError(RANGE)
        self.meter.ranges[word] = None if wanted is None else next(end for end in ranges if end >= abs(wanted) * (1 - 1e-9))

    def _auto_told(self, word: str, given: list[str]) -> str:
        return "1" if self.meter.ranges[word] is None else "0"

    def _range_told(self, word: str, given: list[str]) -> str:
        return self._number(self.meter.ranges[word] or FUNCTIONS[word].ranges[-1])

    def _auto(self, word: str, given: list[str]) -> None:
        said = self._text(given).upper()
        if said not in ("ON", "OFF", "1", "0", "ONCE"):
            raise ScpiError(ILLEGAL, said[:40])
        if said in ("ON", "1", "ONCE"):
            self.meter.ranges[word] = None
        elif self.meter.ranges[word] is None:
            self.meter.ranges[word] = FUNCTIONS[word].ranges[-1]

    def _configuration(self) -> str:
        word = self.meter.function.word
        end = self.meter.ranges[word]
        return f'"{word} {self._number(end) if end is not None else "AUTO"}"'

    def _function(self, given: list[str]) -> None:
        said = self._text(given)
        word = next((word for header, word in _FUNCTIONS.items() if _pattern(header).fullmatch(said)), None)
        if word is None:
            raise ScpiError(ILLEGAL, said[:40])
        self.meter.choose(word, self.meter.ranges[word])

    def _read(self) -> str:
        self.last = self.meter.read()
        return self._number(self.last)

    @staticmethod
    def _number(value: float) -> str:
        return "+9.90000000E+37" if value >= OVER else f"{value:+.8E}"


def _apart(line: str) -> list[str]:
    """Commands of a line: semicolons within quotes part nothing."""
    return [piece for piece in re.findall(r'(?:"[^"]*"|\'[^\']*\'|[^;])+', line) if piece.strip()]


def _parameters(rest: str) -> list[str]:
    """What follows a header: commas part, quotes are taken off."""
    found = re.findall(r'"[^"]*"|\'[^\']*\'|[^,]+', rest)
    return [
        (match[1] or match[2] or "") if (match := _QUOTED.fullmatch(piece.strip())) else piece.strip() for piece in found if piece.strip()
    ]
