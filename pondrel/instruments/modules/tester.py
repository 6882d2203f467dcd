"""The tester: roll call, codes, data, outputs and routines of a vehicle's modules, each as its roster describes it.

Security access is not asked for: what a module keeps for its maker is said to be so. Every output goes back to its module at the end,
however the end comes.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Collection, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace
from types import TracebackType
from typing import Protocol

from udsoncan.connections import BaseConnection
from udsoncan.services.ClearDiagnosticInformation import ClearDiagnosticInformation
from udsoncan.services.DiagnosticSessionControl import DiagnosticSessionControl
from udsoncan.services.ReadDTCInformation import ReadDTCInformation
from udsoncan.services.TesterPresent import TesterPresent

from ...core.base.errors import PondrelError
from ...core.module.fault_code import FaultCode
from ...core.module.moving import check_clear, check_made_safe
from ...core.module.roster import Command, Datum, Module, Output, Roster, Routine, Speaks
from ...core.module.told import codes_told, emission_codes, frozen_told, sizes_of, values_told
from ...core.talk import emission
from ...core.talk.answers import TakenApart, TooShort, codes_by_status, data_in, kline_codes
from ...core.talk.exchange import Exchange
from ...core.talk.services import KWP_CLEAR, KWP_CODES, KWP_LOCAL, KWP_OUTPUT, PRESENT, ROUTINE
from .talk import Talk
from .trouble import Broken, Refused, Silent

__all__ = ["Answered", "Codes", "Held", "Tester", "Value"]

_CALLS, _CALL_WAIT_S = 2, 0.4
PRESENT_EVERY_S = 2.0  # a module goes back to its ordinary session after 5 s of silence (ISO 14229-2, S3)
_DATA_AT_ONCE = 8


class Lines(Protocol):
    """What gives a line to each module: a bus or a K-line; ``at_once`` is how many may be spoken to at the same time, ``emission_once``
    says that the emission system is one address, whoever of it answers."""

    at_once: int
    emission_once: bool

    def line_to(self, module: Module) -> BaseConnection: ...

    def faults_of(self, module: Module) -> Collection[str]: ...

    def close(self) -> None: ...


@dataclass(frozen=True, slots=True)
class Answered:
    """Whether a module answered a roll call, after how many seconds, and what was in the way."""

    module: Module
    answers: bool
    seconds: float | None = None
    says: str = ""


@dataclass(frozen=True, slots=True)
class Codes:
    """What a module has stored: codes with what was frozen, each with all that its status says; ``says`` why where they could not be
    read."""

    module: Module
    codes: tuple[FaultCode, ...]
    status: tuple[tuple[str, ...], ...] = ()
    says: str = ""


@dataclass(frozen=True, slots=True)
class Value:
    """A value as it was read: ``at`` seconds since the talk began, the number (None where bytes are missing), and how it is said."""

    datum: Datum
    at: float
    value: float | None
    says: str


@dataclass
class Held:
    """An output under command: its datum ``before``, how to ``look`` at it meanwhile, and ``keep`` to say that somebody still holds it."""

    module: Module
    output: Output
    command: Command
    before: Value | None
    look: Callable[[], Value | None]
    keep: Callable[[], None]


class Tester:
    """A tester over some lines. ``heard`` is told of every request and answer. Use with ``with``."""

    def __init__(
        self,
        roster: Roster,
        lines: Lines,
        heard: Callable[[Exchange], None] = lambda exchange: None,
        stop: Callable[[], bool] = lambda: False,
    ):
        self.roster, self.lines, self.heard, self.stop = roster, lines, heard, stop
        self.began = time.monotonic()
        self._talks: dict[str, Talk] = {}

    def __enter__(self) -> Tester:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        self.lines.close()

    def talk(self, module: Module) -> Talk:
        """The talk with a module. Raises Silent or Broken where no line to it can be had."""
        if module.name not in self._talks:
            line = self.lines.line_to(module)
            self._talks[module.name] = Talk(module, line, self.heard, self.began, lambda: self.lines.faults_of(module), self.stop)
        return self._talks[module.name]

    def roll_call(self, modules: Sequence[Module] = (), tell: Callable[[Answered], None] = lambda one: None) -> tuple[Answered, ...]:
        """Call every module, on a bus several at once; one that is silent is called again."""

        def called(module: Module) -> Answered:
            found = self._call(module)
            tell(found)
            return found

        wanted = tuple(modules) or tuple(self.roster.modules.values())
        if self.lines.emission_once:
            first = next((module for module in wanted if module.speaks is Speaks.EMISSION), None)
            wanted = tuple(module for module in wanted if module.speaks is not Speaks.EMISSION or module is first)
        with ThreadPoolExecutor(self.lines.at_once) as pool:
            return tuple(pool.map(called, wanted))

    def _call(self, module: Module) -> Answered:
        says = ""
        for _ in range(_CALLS):
            if self.stop():
                break
            began = time.monotonic()
            try:
                self.talk(module).ask(_hello(module), _CALL_WAIT_S)
                return Answered(module, True, time.monotonic() - began)
            except Refused as refused:  # whoever refuses is there
                return Answered(module, True, time.monotonic() - began, refused.refusal.says)
            except Silent as silent:
                says = str(silent)
            except Broken as broken:
                says = str(broken)
                break
        return Answered(module, False, None, says)

    def codes(self, module: Module, frozen: bool = True) -> Codes:
        """The codes of a module with what was frozen with each. Raises Silent, Refused or Broken."""
        talk = self.talk(module)
        if module.speaks is Speaks.UDS:
            return self._uds_codes(talk, frozen)
        if module.speaks is Speaks.KLINE:
            taken = self._taken(talk, bytes([KWP_CODES, 0x00, 0xFF, 0x00]), kline_codes)
            return Codes(module, codes_told(module, taken), tuple(one.status.bits for one in taken))
        found: dict[str, FaultCode] = {}
        refused: list[Refused] = []
        services = (
            (emission.STORED_CODES, "stored"), (emission.PENDING_CODES, "pending"), (emission.PERMANENT_CODES, "permanent"),
        )  # fmt: skip
        for service, status in services:
            try:
                answer = talk.ask(bytes([service]))
            except Refused as no:
                refused.append(no)
                continue
            for code in emission_codes(module, answer, status):
                found.setdefault(code.name, code)
        if len(refused) == len(services):  # it speaks another language: that is not the same as having no code
            raise refused[0]
        codes = tuple(found.values())
        if frozen and codes:
            codes = (replace(codes[0], frame=self._emission_frozen(talk)), *codes[1:])
        return Codes(module, codes, tuple((code.status,) for code in codes))

    def _taken(self, talk: Talk, request: bytes, apart: Callable[[bytes], tuple[TakenApart, ...]]) -> tuple[TakenApart, ...]:
        try:
            return tuple(one for one in apart(talk.ask(request)) if one.status.counts)
        except TooShort as error:
            raise Broken(f"{talk.module.title}: {error}") from error

    def _uds_codes(self, talk: Talk, frozen: bool) -> Codes:
        request = ReadDTCInformation.make_request(ReadDTCInformation.Subfunction.reportDTCByStatusMask, status_mask=0xFF)
        taken = self._taken(talk, request.get_payload(), codes_by_status)
        codes = codes_told(talk.module, taken)
        if frozen:
            codes = tuple(replace(code, frame=self._frozen(talk, one)) for code, one in zip(codes, taken, strict=True))
        return Codes(talk.module, codes, tuple(one.status.bits for one in taken))

    def _frozen(self, talk: Talk, one: TakenApart) -> tuple[tuple[str, str], ...]:
        try:
            return frozen_told(talk.module, talk.ask(bytes([0x19, 0x04, one.high, one.low, one.failure or 0, 0xFF])))
        except PondrelError:
            return ()  # many modules freeze nothing

    def _emission_frozen(self, talk: Talk) -> tuple[tuple[str, str], ...]:
        pairs = []
        with suppress(PondrelError):
            known = emission.supported_in(0, talk.ask(bytes([emission.FREEZE, 0x00, 0x00]))[3:])
            for number in sorted(known & set(emission.VALUES)):
                value = emission.value_in(number, talk.ask(bytes([emission.FREEZE, number, 0x00]))[3:])
                own = emission.VALUES[number]
                if value is not None:
                    pairs.append((own.name, f"{value:.{own.digits}f} {own.unit}".rstrip()))
        return tuple(pairs)

    def clear(self, module: Module, read: Codes, loss_is_known: bool) -> None:
        """Clear a module's codes, which were read and kept before. Raises PondrelError where that is not done from here, and as `codes`."""
        check_clear(read.codes, loss_is_known)
        talk = self.talk(module)
        if module.speaks is Speaks.EMISSION:
            talk.ask(bytes([emission.CLEAR_CODES]))
        elif module.speaks is Speaks.KLINE:
            talk.ask(bytes([KWP_CLEAR, 0xFF, 0x00]))
        else:
            talk.ask(ClearDiagnosticInformation.make_request(0xFFFFFF).get_payload())

    def data(self, module: Module, data: Sequence[Datum] = ()) -> tuple[Value, ...]:
        """Values of a module, all where none is named. Raises Silent, Refused or Broken."""
        wanted = tuple(data) or tuple(module.data.values())
        talk = self.talk(module)
        found: dict[int, bytes] = {}
        numbers = list(dict.fromkeys(datum.number for datum in wanted))
        if module.speaks is Speaks.UDS:
            for at in range(0, len(numbers), _DATA_AT_ONCE):
                found |= self._read(talk, numbers[at : at + _DATA_AT_ONCE])
        elif module.speaks is Speaks.EMISSION:
            found = {number: self._emission_value(talk, number) for number in sorted(self._supported(talk) & set(numbers))}
        else:
            for number in numbers:
                with suppress(Refused):
                    found[number] = talk.ask(bytes([KWP_LOCAL, number & 0xFF]))[2:]
        now = time.monotonic() - self.began
        told = {datum.name: data for datum, data in values_told(module, found)}
        return tuple(_value(datum, now, told.get(datum.name, b"")) for datum in wanted)

    def _read(self, talk: Talk, numbers: list[int]) -> dict[int, bytes]:
        """Several identifiers at once; where a module takes only one at a time, one by one. What it does not have is left out."""
        sizes = sizes_of(talk.module)
        request = bytes([0x22]) + b"".join(number.to_bytes(2, "big") for number in numbers)
        try:
            return data_in(talk.ask(request), sizes)
        except Refused:
            if len(numbers) == 1:
                return {}
        found: dict[int, bytes] = {}
        for number in numbers:
            found |= self._read(talk, [number])
        return found

    def emission_data(self, module: Module) -> Iterator[tuple[emission.EmissionValue, float]]:
        """What a module of the emission system tells live, of what is known here. Raises Silent, Refused or Broken."""
        talk = self.talk(module)
        for number in sorted(self._supported(talk) & set(emission.VALUES)):
            value = emission.value_in(number, self._emission_value(talk, number))
            if value is not None:
                yield emission.VALUES[number], value

    def _supported(self, talk: Talk) -> frozenset[int]:
        """The numbers of the values that a module says to have. One that it does not have is answered by nothing at all."""
        base, known = 0x00, frozenset[int]()
        while True:
            known |= emission.supported_in(base, talk.ask(bytes([emission.DATA, base]))[2:])
            if base + 0x20 not in known or base >= 0xC0:
                return known
            base += 0x20

    def _emission_value(self, talk: Talk, number: int) -> bytes:
        try:
            return talk.ask(bytes([emission.DATA, number]))[2:]
        except Refused:
            return b""

    @contextmanager
    def hold(self, module: Module, output: Output, command: Command, made_safe: Collection[str]) -> Iterator[Held]:
        """Command an output while the block runs; at its end control goes back to the module and the session ends, whatever happened.

        Nothing keeps the session alive but `Held.keep`. Raises LockedError where something is not made safe, and as `codes`.
        """
        check_made_safe(output.title, output.hazards, output.caution, made_safe)
        talk = self.talk(module)
        watched = module.data.get(output.watch)
        before = self.data(module, (watched,))[0] if watched else None
        try:
            self._session(talk, output.session)
            talk.ask(_control(module, output, command.data))
            last = [time.monotonic()]

            def keep() -> None:
                if output.session != 1 and time.monotonic() - last[0] >= PRESENT_EVERY_S:
                    talk.ask(bytes([PRESENT, 0x00]) if module.speaks is Speaks.UDS else bytes([PRESENT, 0x01]))
                    last[0] = time.monotonic()

            yield Held(module, output, command, before, lambda: self.data(module, (watched,))[0] if watched else None, keep)
        finally:
            self._give_back(talk, output)

    def _session(self, talk: Talk, session: int) -> None:
        if talk.module.speaks is Speaks.UDS and session != 1:
            talk.ask(DiagnosticSessionControl.make_request(session).get_payload())

    def _give_back(self, talk: Talk, output: Output) -> None:
        with suppress(PondrelError):
            talk.ask(_control(talk.module, output, None))
        with suppress(PondrelError):
            if talk.module.speaks is Speaks.UDS and output.session != 1:
                talk.ask(DiagnosticSessionControl.make_request(1).get_payload())

    def routine(self, module: Module, routine: Routine, made_safe: Collection[str]) -> tuple[str, bool]:
        """Run a routine until it has a result: what came of it, and whether that is good. Raises LockedError, Refused, Silent or Broken."""
        check_made_safe(routine.title, routine.hazards, routine.caution, made_safe)
        talk = self.talk(module)
        number = routine.number.to_bytes(2, "big")
        try:
            self._session(talk, routine.session)
            talk.ask(bytes([ROUTINE, 0x01]) + number + routine.option)
            return self._result(talk, routine, number)
        finally:
            with suppress(PondrelError):
                if routine.session != 1:
                    talk.ask(DiagnosticSessionControl.make_request(1).get_payload())

    def _result(self, talk: Talk, routine: Routine, number: bytes) -> tuple[str, bool]:
        end = time.monotonic() + routine.takes_s
        while True:
            answer = talk.ask(bytes([ROUTINE, 0x03]) + number)
            known = routine.results.get(answer[4]) if len(answer) > 4 else None
            if known is not None:
                return known
            if time.monotonic() > end or self.stop():
                said = answer[4:].hex(" ").upper()
                return (f"It answered {said}, which the roster does not explain." if said else "It gave no result in its time."), False
            time.sleep(0.2)


def _value(datum: Datum, at: float, data: bytes) -> Value:
    return Value(datum, at, datum.value_in(data), datum.says_in(data))


def _hello(module: Module) -> bytes:
    if module.speaks is Speaks.UDS:
        return TesterPresent.make_request().get_payload()
    return bytes([PRESENT, 0x01]) if module.speaks is Speaks.KLINE else bytes([emission.DATA, 0x00])


def _control(module: Module, output: Output, data: bytes | None) -> bytes:
    """The request that commands an output, or where there is no data gives it back."""
    if module.speaks is Speaks.KLINE:
        return bytes([KWP_OUTPUT, output.number & 0xFF]) + (b"\0" if data is None else b"\x07" + data)
    parameter = 0x00 if data is None else 0x03
    return bytes([0x2F]) + output.number.to_bytes(2, "big") + bytes([parameter]) + (data or b"")
