"""A conversation with a module in words: what was asked, and what was said."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from ..base.brief import lowered
from ..talk import emission
from ..talk.answers import TakenApart, TooShort, codes_by_status, data_in, kline_codes, snapshots_in
from ..talk.services import (
    ANSWER,
    CLEAR,
    CODES,
    KWP_CODES,
    KWP_LOCAL,
    KWP_OUTPUT,
    OUTPUT,
    PRESENT,
    READ,
    ROUTINE,
    SESSION,
    SESSIONS,
    refusal_of,
    service_words,
)
from .fault_code import FaultCode, code_from_bytes
from .roster.roster import Datum, Module, Output, Routine, Speaks

__all__ = ["answer_words", "codes_told", "emission_codes", "frozen_told", "request_words", "sizes_of", "values_told"]


def sizes_of(module: Module) -> dict[int, int]:
    """How many bytes each identifier of a module has at least, by what is known of its data."""
    found: dict[int, int] = {}
    for datum in module.data.values():
        found[datum.number] = max(found.get(datum.number, 0), datum.at + datum.size)
    return found


def codes_told(module: Module, taken: Iterable[TakenApart]) -> tuple[FaultCode, ...]:
    """Codes of an answer with what a roster knows of them."""
    found = []
    for one in taken:
        code, failure = code_from_bytes(one.high, one.low), "" if one.failure is None else f"{one.failure:02X}"
        known = module.code(f"{code}-{failure}" if failure else code)
        found.append(FaultCode(code, failure if failure != "00" else "", one.status.word, module.title, known.says if known else ""))
    return tuple(found)


def emission_codes(module: Module, answer: bytes, status: str) -> tuple[FaultCode, ...]:
    """Codes of an answer to 03, 07 or 0A."""
    names = [code_from_bytes(high, low) for high, low in emission.codes_in(answer)]
    return tuple(FaultCode(name, "", status, module.title, known.says if (known := module.code(name)) else "") for name in names)


def values_told(module: Module, data: Mapping[int, bytes]) -> tuple[tuple[Datum, bytes], ...]:
    """Every known datum of some data by identifier, with the bytes that it stands in."""
    return tuple((datum, data[datum.number]) for datum in module.data.values() if datum.number in data)


def frozen_told(module: Module, answer: bytes) -> tuple[tuple[str, str], ...]:
    """What was frozen with a code as pairs of a name and a value; what no roster knows is given in bytes."""
    pairs: list[tuple[str, str]] = []
    for shot in snapshots_in(answer, sizes_of(module)):
        pairs += [(lowered(datum.title), datum.says_in(own)) for datum, own in values_told(module, shot.data)]
        if shot.rest:
            pairs.append(("bytes that nothing explains", shot.rest.hex(" ").upper()))
    return tuple(dict.fromkeys(pairs))


def _named(things: Iterable[Datum | Output | Routine], number: int) -> str:
    titles = dict.fromkeys(lowered(thing.title) for thing in things if thing.number == number)
    return ", ".join(titles) or f"{number:04X}"


def request_words(module: Module, request: bytes) -> str:
    """What was asked, in words: ``read data: supply at the module``."""
    if not request:
        return "nothing"
    service, words = request[0], service_words(request[0])
    number = request[1] << 8 | request[2] if len(request) > 2 else 0
    if service == SESSION and len(request) > 1:
        return f"into session: {SESSIONS.get(request[1] & 0x7F, f'{request[1]:02X}')}"
    if service == READ and len(request) > 2:
        own = [request[at] << 8 | request[at + 1] for at in range(1, len(request) - 1, 2)]
        unknown = [f"{one:04X}" for one in own if one not in sizes_of(module)]
        return f"{words}: {', '.join(unknown)}" if unknown else words
    if service == OUTPUT and len(request) > 3:
        return f"{_named(module.outputs.values(), number)}: {_control(module, number, request[3], request[4:])}"
    if service == KWP_OUTPUT and len(request) > 2:
        return f"{_named(module.outputs.values(), request[1])}: {_control(module, request[1], request[2], request[3:])}"
    if service == KWP_LOCAL and len(request) > 1 and module.speaks is Speaks.KLINE:
        return words if request[1] in sizes_of(module) else f"{words}: {request[1]:02X}"
    if service == ROUTINE and len(request) > 3:
        how = {1: "begin", 2: "end", 3: "what came of it"}.get(request[1] & 0x7F, f"{request[1]:02X}")
        return f"{_named(module.routines.values(), request[2] << 8 | request[3])}: {how}"
    if service == CODES and len(request) > 1:
        return "what was frozen with a code" if request[1] == 4 else words
    if service in (emission.DATA, emission.FREEZE) and len(request) > 1 and module.speaks is Speaks.EMISSION:
        if request[1] in emission.VALUES:
            return words  # the answer names it
        return f"{words}: which it has" if request[1] % 0x20 == 0 else f"{words}: {request[1]:02X}"
    return words


def _control(module: Module, number: int, how: int, option: bytes) -> str:
    if how == 0:
        return "control goes back to the module"
    if how != 3 and module.speaks is not Speaks.KLINE:
        return {1: "as it is when it wakes", 2: "held as it is"}.get(how, f"{how:02X}")
    told = option or b""
    output = next((own for own in module.outputs.values() if own.number == number), None)
    name = next((c.name for c in output.commands.values() if c.data == told), "") if output is not None else ""
    return name or told.hex(" ").upper() or "commanded"


def answer_words(module: Module, request: bytes, answer: bytes) -> str:
    """What was said, in words: ``2 codes: C1A10-13 (present), C1A11-13 (stored)``."""
    refusal = refusal_of(answer)
    if refusal is not None:
        return refusal.says
    if not answer or not request or answer[0] != request[0] + ANSWER:
        return f"something that was not asked for: {answer[:16].hex(' ').upper()}"
    try:
        return _positive(module, request, answer)
    except (TooShort, IndexError) as error:
        return f"an answer that breaks off ({error})" if str(error) else "an answer that breaks off"


def _positive(module: Module, request: bytes, answer: bytes) -> str:
    service = request[0]
    if service == CODES and len(request) > 1 and request[1] in (0x02, 0x0A):
        return _listed_codes(codes_told(module, (one for one in codes_by_status(answer) if one.status.counts)))
    if service == CODES and len(request) > 1 and request[1] == 0x04:
        pairs = frozen_told(module, answer)
        return "; ".join(f"{name} {value}" for name, value in pairs) or "nothing was frozen with it"
    if service == KWP_CODES and module.speaks is Speaks.KLINE:
        return _listed_codes(codes_told(module, kline_codes(answer)))
    if service in (emission.STORED_CODES, emission.PENDING_CODES, emission.PERMANENT_CODES):
        return _listed_codes(emission_codes(module, answer, ""))
    if service == READ or (service == KWP_LOCAL and module.speaks is Speaks.KLINE):
        data = data_in(answer, sizes_of(module)) if service == READ else {answer[1]: answer[2:]}
        known = [f"{lowered(datum.title)} {datum.says_in(own)}" for datum, own in values_told(module, data)]
        return ", ".join(known) or answer[3:].hex(" ").upper()
    if service == emission.DATA and len(answer) > 2 and answer[1] % 0x20 == 0:
        count = len(emission.supported_in(answer[1], answer[2:]) - {answer[1] + 0x20})
        return f"{count} of the {0x20 - 1} from {answer[1] + 1:02X} on"
    if service in (emission.DATA, emission.FREEZE) and len(answer) > 2:
        own = answer[2:] if service == emission.DATA else answer[3:]
        known_value, value = emission.VALUES.get(answer[1]), emission.value_in(answer[1], own)
        if known_value is not None and value is not None:
            return f"{known_value.name} {value:.{known_value.digits}f} {known_value.unit}".rstrip()
    if service == emission.VEHICLE and len(answer) > 2 and answer[1] == 0x02:
        return f"identification number {emission.vin_in(answer)}"
    if service == ROUTINE and len(answer) > 4:
        routine = next((own for own in module.routines.values() if own.number == answer[2] << 8 | answer[3]), None)
        if routine is not None and answer[4] in routine.results:
            return routine.results[answer[4]][0]
    simple = {
        SESSION: "it is in it",
        PRESENT: "noted",
        CLEAR: "cleared",
        emission.CLEAR_CODES: "cleared",
        OUTPUT: "done",
        KWP_OUTPUT: "done",
    }
    return simple.get(service) or (answer[1:].hex(" ").upper() or "done")


def _listed_codes(codes: tuple[FaultCode, ...]) -> str:
    if not codes:
        return "no code"
    own = [code.name + (f" ({code.status})" if code.status else "") for code in codes]
    return f"{len(own)} {'code' if len(own) == 1 else 'codes'}: {', '.join(own[:12])}" + (" …" if len(own) > 12 else "")
