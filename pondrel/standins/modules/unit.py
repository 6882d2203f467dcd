"""A simulated module that answers a tester: sessions, codes, data, outputs, routines; as ISO 14229-1, SAE J1979 and ISO 14230-3 have them,
from memory, written apart from the tester that asks it."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from ...core.module.fault_code import parse_code
from ...core.module.roster import Module, Output, Routine, Speaks
from ...core.module.roster.simulated import Rehearsed
from .life import Life
from .memory import Memory

__all__ = ["FORGETS_AFTER_S", "Unit"]

FORGETS_AFTER_S = 5.0  # S3 of ISO 14229-2: without a word from the tester a module goes back to its ordinary session
_UNKNOWN, _NO_SUCH_KIND, _WRONG_LENGTH, _CONDITIONS, _SEQUENCE, _PREVENTED, _RANGE, _LOCKED = 0x11, 0x12, 0x13, 0x22, 0x24, 0x26, 0x31, 0x33
_KIND_NOT_NOW, _NOT_NOW = 0x7E, 0x7F
_SILENT_WHEN_ALL_ARE_ASKED = (_UNKNOWN, _NO_SUCH_KIND, _RANGE, _KIND_NOT_NOW, _NOT_NOW)
_TIMING = bytes([0x01, 0xF4, 0x01, 0xF4])  # within 500 ms, since it solves its circuit anew; within 5 s after asking for patience
_LETTERS = "PCBU"
_ALL_CODES = 0xFFFFFF


class _No(Exception):
    """A refusal by its number."""

    def __init__(self, number: int):
        super().__init__(number)
        self.number = number


class Unit:
    """One module with its session, what it holds under command, and its memory."""

    def __init__(self, module: Module, life: Life):
        self.module, self.life = module, life
        self.memory = Memory(module, life)
        self._fitted = life.fitted.get(module.name, 0)
        self.session, self.spoken_at = 1, life.clock()
        self.held: dict[str, bytes] = {}
        self.running: dict[int, float] = {}  # routines by number, with the time at which they end
        self._services: Mapping[int, Callable[[bytes], bytes]] = {
            0x10: self._session, 0x11: self._restart, 0x14: self._clear, 0x19: self._codes, 0x22: self._read, 0x2F: self._control,
            0x31: self._routine, 0x3E: self._present, 0x27: self._locked, 0x2E: self._locked, 0x34: self._locked,
        }  # fmt: skip
        self._others: Mapping[int, Callable[[bytes], bytes]] = {
            0x01: self._live, 0x02: self._frozen, 0x03: self._stored, 0x07: self._stored, 0x0A: self._stored, 0x04: self._clear_all,
            0x09: self._vehicle, 0x3E: self._present,
        }  # fmt: skip
        self._on_line: Mapping[int, Callable[[bytes], bytes]] = {
            0x81: self._begun, 0x82: self._ended, 0x3E: self._present, 0x18: self._line_codes, 0x14: self._line_clear,
            0x21: self._line_read, 0x30: self._line_control,
        }  # fmt: skip

    @property
    def alive(self) -> bool:
        """Whether it answers at all."""
        return self.life.alive(self.module)

    def go_on(self) -> None:
        """Let time pass: a session that nobody keeps ends, and what was held goes back."""
        if self.session != 1 and self.life.clock() - self.spoken_at > FORGETS_AFTER_S:
            self._back()
        if not self.alive:
            self._back()
            return
        if self.life.fitted.get(self.module.name, 0) != self._fitted:
            self._fitted = self.life.fitted[self.module.name]
            self._back()
            self.memory.renewed()
        self.memory.look()

    def act(self) -> None:
        """Put what hangs on its outputs into the positions that they are in now."""
        on = [name for name, told in self.held.items() if told == next(iter(self.module.outputs[name].commands.values())).data]
        self.life.put(self.module.name, self._positions(), on)

    def answer(self, request: bytes, asked_all: bool = False) -> bytes | None:
        """The answer to a request; None where it says nothing."""
        if not self.alive or not request:
            return None
        self.spoken_at = self.life.clock()
        services = {Speaks.UDS: self._services, Speaks.EMISSION: self._others, Speaks.KLINE: self._on_line}[self.module.speaks]
        service = request[0]
        try:
            serves = services.get(service)
            if serves is None:
                raise _No(_UNKNOWN)
            answer = serves(request)
        except _No as no:
            if asked_all and no.number in _SILENT_WHEN_ALL_ARE_ASKED:
                return None
            return bytes([0x7F, service, no.number])
        except IndexError:
            return bytes([0x7F, service, _WRONG_LENGTH])
        quiet = service in (0x10, 0x11, 0x3E, 0x31) and len(request) > 1 and request[1] & 0x80 and self.module.speaks is Speaks.UDS
        return None if quiet else answer

    def _positions(self) -> dict[str, str]:
        found = {}
        for name, output in self.module.outputs.items():
            if output.link is None or not self.life.here(output.link):
                continue
            part = output.link.part
            if name in self.memory.taken_away:
                found[part] = self.life.world.sheet.parts[part].rest
            elif name in self.held:
                told = next((c.position for c in output.commands.values() if c.data == self.held[name]), "")
                if told:
                    found[part] = told
        return found

    def _back(self) -> None:
        self.session = 1
        self.held.clear()
        self.running.clear()

    def _locked(self, request: bytes) -> bytes:
        raise _No(_LOCKED)

    def _session(self, request: bytes) -> bytes:
        wanted = request[1] & 0x7F
        if len(request) != 2:
            raise _No(_WRONG_LENGTH)
        if wanted == 2:
            raise _No(_CONDITIONS)
        if wanted not in (1, 3):
            raise _No(_NO_SUCH_KIND)
        if wanted == 1:
            self._back()
        self.session = wanted
        return bytes([0x50, wanted]) + _TIMING

    def _restart(self, request: bytes) -> bytes:
        if request[1] & 0x7F not in (1, 3):
            raise _No(_NO_SUCH_KIND)
        self._back()
        return bytes([0x51, request[1] & 0x7F])

    def _present(self, request: bytes) -> bytes:
        if self.module.speaks is Speaks.UDS and (len(request) != 2 or request[1] & 0x7F):
            raise _No(_NO_SUCH_KIND if len(request) == 2 else _WRONG_LENGTH)
        return bytes([0x7E, 0x00]) if self.module.speaks is Speaks.UDS else b"\x7e"

    def _clear(self, request: bytes) -> bytes:
        if len(request) != 4:
            raise _No(_WRONG_LENGTH)
        if int.from_bytes(request[1:4], "big") != _ALL_CODES:
            raise _No(_RANGE)
        self.memory.clear()
        return b"\x54"

    def _codes(self, request: bytes) -> bytes:
        kind = request[1]
        if kind in (0x01, 0x02):
            mask = request[2]
            if len(request) != 3:
                raise _No(_WRONG_LENGTH)
            own = [(name, status) for name, status in self.memory.status.items() if status & mask]
            if kind == 0x01:
                return bytes([0x59, 0x01, 0xFF, 0x01]) + len(own).to_bytes(2, "big")
            return bytes([0x59, 0x02, 0xFF]) + b"".join(_three(name) + bytes([status]) for name, status in own)
        if kind == 0x0A:
            return bytes([0x59, 0x0A, 0xFF]) + b"".join(_three(name) + bytes([status]) for name, status in self.memory.status.items())
        if kind == 0x04:
            if len(request) != 6:
                raise _No(_WRONG_LENGTH)
            name = next((name for name in self.memory.status if _three(name) == request[2:5]), None)
            if name is None:
                raise _No(_RANGE)
            shot = self.memory.frozen.get(name, {})
            told = b"".join(number.to_bytes(2, "big") + data for number, data in shot.items())
            return bytes([0x59, 0x04]) + request[2:5] + bytes([self.memory.status[name]]) + (bytes([1, len(shot)]) + told if shot else b"")
        raise _No(_NO_SUCH_KIND)

    def _read(self, request: bytes) -> bytes:
        if len(request) < 3 or len(request) % 2 == 0:
            raise _No(_WRONG_LENGTH)
        found = b""
        for at in range(1, len(request), 2):
            number = request[at] << 8 | request[at + 1]
            data = self.life.bytes_of(self.module, number)
            if data is not None:
                found += number.to_bytes(2, "big") + data
        if not found:
            raise _No(_RANGE)
        return b"\x62" + found

    def _output(self, number: int) -> Output:
        found = next((output for output in self.module.outputs.values() if output.number == number), None)
        if found is None:
            raise _No(_RANGE)
        return found

    def _control(self, request: bytes) -> bytes:
        number, how, option = request[1] << 8 | request[2], request[3], request[4:]
        output = self._output(number)
        if how == 0:
            self.held.pop(output.name, None)
            return bytes([0x6F]) + request[1:4]
        if how != 3:
            raise _No(_RANGE)
        if output.session != self.session:
            raise _No(_NOT_NOW)
        self._command(output, option)
        return bytes([0x6F]) + request[1:4] + option

    def _command(self, output: Output, option: bytes) -> None:
        if option not in [command.data for command in output.commands.values()]:
            raise _No(_RANGE)
        if output.name in self.memory.taken_away:
            raise _No(_PREVENTED)
        self.held[output.name] = option

    def _routine(self, request: bytes) -> bytes:
        how, number = request[1] & 0x7F, request[2] << 8 | request[3]
        routine = next((own for own in self.module.routines.values() if own.number == number), None)
        if routine is None:
            raise _No(_RANGE)
        if routine.session != self.session:
            raise _No(_KIND_NOT_NOW)
        if how == 1:
            self.running[number] = self.life.clock() + self._rehearsed(routine).seconds
            return bytes([0x71]) + request[1:4]
        if how == 2:
            self.running.pop(number, None)
            return bytes([0x71]) + request[1:4]
        if how == 3:
            if number not in self.running:
                raise _No(_SEQUENCE)
            return bytes([0x71]) + request[1:4] + bytes([self._result(routine, number)])
        raise _No(_NO_SUCH_KIND)

    def _rehearsed(self, routine: Routine) -> Rehearsed:
        return self.life.roster.stand_in.routines.get(f"{self.module.name}.{routine.name}", Rehearsed())

    def _result(self, routine: Routine, number: int) -> int:
        """A result that is good, or one that is not; while it runs, none of both: 0xFF."""
        if self.life.clock() < self.running[number]:
            return 0xFF
        good = self.life.fits(self._rehearsed(routine).wants)
        if good:
            self.memory.done.add(routine.name)
        return next((byte for byte, (_, is_good) in routine.results.items() if is_good == good), 0)

    # What every vehicle with emission diagnosis answers.

    def _live(self, request: bytes) -> bytes:
        return self._emission(0x41, request[1], b"")

    def _frozen(self, request: bytes) -> bytes:
        shot = next(iter(self.memory.frozen.values()), None)
        number = request[1]
        if number == 0:
            return bytes([0x42, 0, 0]) + self._supported(0, frozenset(shot or ()))
        if shot is None or number not in shot:
            raise _No(_NO_SUCH_KIND)
        return bytes([0x42, number, 0]) + shot[number]

    def _emission(self, service: int, number: int, between: bytes) -> bytes:
        if number % 0x20 == 0:
            return bytes([service, number]) + between + self._supported(number, frozenset(d.number for d in self.module.data.values()))
        data = self.life.bytes_of(self.module, number)
        if data is None:
            raise _No(_NO_SUCH_KIND)
        return bytes([service, number]) + between + data

    def _supported(self, base: int, known: frozenset[int]) -> bytes:
        bits = sum(1 << 31 - (number - base - 1) for number in known if base < number <= base + 0x20)
        return (bits | any(number > base + 0x20 for number in known)).to_bytes(4, "big")

    def _stored(self, request: bytes) -> bytes:
        wanted = {0x03: 0x08, 0x07: 0x04, 0x0A: 0x08}[request[0]]
        own = [_three(name)[:2] for name, status in self.memory.status.items() if status & wanted]
        return bytes([request[0] + 0x40, len(own)]) + b"".join(own)

    def _clear_all(self, request: bytes) -> bytes:
        self.memory.clear()
        return b"\x44"

    def _vehicle(self, request: bytes) -> bytes:
        if request[1] == 0x00:
            return bytes([0x49, 0x00, 0x40, 0, 0, 0])
        if request[1] != 0x02:
            raise _No(_NO_SUCH_KIND)
        return bytes([0x49, 0x02, 0x01]) + self.life.vin.encode("ascii", "replace")

    # On a K-line (ISO 14230-3).

    def _begun(self, request: bytes) -> bytes:
        return bytes([0xC1, 0xEF, 0x8F])

    def _ended(self, request: bytes) -> bytes:
        self._back()
        return b"\xc2"

    def _line_codes(self, request: bytes) -> bytes:
        own = [(name, status) for name, status in self.memory.status.items() if status & 0x09]
        told = b"".join(_three(name)[:2] + bytes([(0x40 if status & 1 else 0) | (0x20 if status & 8 else 0)]) for name, status in own)
        return bytes([0x58, len(own)]) + told

    def _line_clear(self, request: bytes) -> bytes:
        self.memory.clear()
        return bytes([0x54]) + request[1:3]

    def _line_read(self, request: bytes) -> bytes:
        data = self.life.bytes_of(self.module, request[1])
        if data is None:
            raise _No(_RANGE)
        return bytes([0x61, request[1]]) + data

    def _line_control(self, request: bytes) -> bytes:
        output = self._output(request[1])
        if request[2] == 0:
            self.held.pop(output.name, None)
        elif request[2] == 7:
            self._command(output, request[3:])
            self.session = 3  # it goes back by itself as a session does
        else:
            raise _No(_NO_SUCH_KIND)
        return bytes([0x70]) + request[1:3]


def _three(name: str) -> bytes:
    """A code's three bytes."""
    code, failure = parse_code(name)
    value = _LETTERS.index(code[0]) << 14 | int(code[1:], 16)
    return value.to_bytes(2, "big") + bytes([int(failure or "0", 16)])
