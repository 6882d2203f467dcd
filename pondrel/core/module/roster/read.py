"""A roster of modules from YAML text, with every flaw named by its place in the file."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Mapping
from dataclasses import replace
from typing import Any, TypeVar

from ...base.brief import quoted
from ...base.errors import SheetError
from ...circuit.read.fits import fits_of
from ...circuit.read.plain import load_plain
from ...circuit.read.reader import Reader
from ..chain.function import MOST_CONDITIONS, Condition, Function, Hangs, Step
from ..fault_code import CodeError, parse_code
from ..roll_call import MOST_MODULES
from .read_renewal import renewal_in, resets_in
from .read_simulated import simulated_in
from .roster import Command, Datum, Module, ModuleCode, Output, PinLink, Roster, Routine, Speaks, StayTest
from .values import LONGEST_S, each, hazards_in, hex_bytes, names_in, number_of, one_of, optional, whole

__all__ = ["FORMAT", "parse_roster", "parse_roster_if_one"]

FORMAT = "pondrel-modules/1"
TOP_KEYS = ("format", "title", "note", "source", "fits", "bus", "by_calling", "modules", "functions", "stand_in")
MODULE_KEYS = (
    *("name", "speaks", "asks", "answers", "address", "start", "behind", "gateway", "at", "circuit"),
    *("codes", "data", "outputs", "routines", "resets", "renewal"),
)
CODE_KEYS = ("says", "takes_away", "substitutes", "felt", "circuit", "silent", "until")
DATUM_KEYS = (
    "name",
    "id",
    "byte",
    "size",
    "mask",
    "signed",
    "scale",
    "offset",
    "unit",
    "words",
    "least",
    "most",
    "source",
    "circuit",
    "ascii",
    "digits",
)
OUTPUT_KEYS = ("name", "id", "commands", "session", "longest_s", "hazards", "caution", "watch", "circuit", "hear", "stays")
STAY_KEYS = ("seconds", "by")
COMMAND_KEYS = ("bytes", "by", "within_s", "position")
ROUTINE_KEYS = ("name", "id", "session", "hazards", "caution", "needs", "results", "takes_s", "bytes")
LINK_KEYS = ("sheet", "part", "place", "shows", "below", "above")
FUNCTION_KEYS = ("name", "does", "conditions", "steps", "note", "caution", "never")
CONDITION_KEYS = (
    *(
        "name",
        "wants",
        "answers",
        "datum",
        "is",
        "least",
        "most",
        "after",
        "minutes",
        "weight",
        "sheet",
        "on",
        "look",
        "caution",
        "hazards",
    ),
    "refers",
)
STEP_KEYS = ("name", "output", "until", "seconds")
MOST_ID, MOST_ADDRESS = 0x1FFFFFFF, 0xFF
LONGEST_NUMBER, LONGEST_WORD = 8, 64  # bytes of a datum
_SESSIONS = {"ordinary": 1, "extended": 3}
T = TypeVar("T")


def parse_roster_if_one(text: str) -> Roster | None:
    """A roster, or None where the text does not begin as one."""
    return parse_roster(text) if re.search(rf"^format:\s*['\"]?{re.escape(FORMAT)}", text, re.MULTILINE) else None


def parse_roster(text: str) -> Roster:
    """Read a roster. Raises SheetError with every flaw found, each with its path and what would be right."""
    raw = load_plain(text).value
    if not isinstance(raw, dict):
        raise SheetError((("", f"must be a mapping that starts with 'format: {FORMAT}', got {type(raw).__name__}"),))
    reader = Reader()
    top = {str(key): value for key, value in raw.items()}
    reader.keys(top, TOP_KEYS, "")
    if top.get("format") != FORMAT:
        reader.flaw("format", f"must be {FORMAT}, got {quoted(top.get('format'))}")
    title = reader.text(top.get("title"), "title", 200)
    if not title:
        reader.flaw("title", "must say in a few words which vehicle's modules these are")
    bus = reader.mapping(top.get("bus"), "bus", "a mapping such as {bit_rate: 500000}")
    reader.keys(bus, ("bit_rate",), "bus")
    rate = reader.number(bus.get("bit_rate", 500_000), "bus.bit_rate", "a number of bits a second", "positive")
    modules = each(reader, top.get("modules"), "modules", "a mapping of names to modules", _module, MOST_MODULES)
    functions = _with_tellers(each(reader, top.get("functions"), "functions", "a mapping of names to functions", _function), modules)
    found = Roster(
        title, modules, fits_of(reader, top.get("fits"), "fits"), reader.text(top.get("note"), "note"),
        reader.text(top.get("source"), "source"), int(rate or 500_000), functions,
        simulated_in(reader, top.get("stand_in"), "stand_in"), reader.flag(top, "by_calling", ""),
    )  # fmt: skip
    _joined(reader, found)
    if not modules and not functions and not reader.flaws:
        reader.flaw("modules", "must name at least one module, or there must be a function")
    if reader.flaws:
        raise SheetError(reader.told)
    return found


def _with_tellers(functions: Mapping[str, Function], modules: Mapping[str, Module]) -> dict[str, Function]:
    """Functions whose conditions know what the modules are called that tell them."""

    def told(condition: Condition) -> Condition:
        module = modules.get(condition.told_by)
        return replace(condition, teller=module.title) if module is not None else condition

    return {
        name: replace(function, conditions={key: told(condition) for key, condition in function.conditions.items()})
        for name, function in functions.items()
    }


def _module(reader: Reader, name: str, item: Any, path: str) -> Module:
    given = reader.mapping(item, path, "a mapping with speaks, asks and answers")
    reader.keys(given, MODULE_KEYS, path)
    speaks = one_of(reader, given.get("speaks", "uds"), f"{path}.speaks", [one.value for one in Speaks])
    on_line = speaks == Speaks.KLINE.value
    if on_line:
        asks = answers = whole(reader, given.get("address"), f"{path}.address", MOST_ADDRESS)
    else:
        asks, answers = (whole(reader, given.get(key), f"{path}.{key}", MOST_ID) for key in ("asks", "answers"))
        if asks == answers and asks:
            reader.flaw(f"{path}.answers", f"must differ from what it is asked on ({asks:#x})")
    link = _link(reader, given.get("circuit"), f"{path}.circuit", "")
    sheet = link.sheet if link else ""

    def own(key: str, what: str, one: Callable[[Reader, str, Any, str, str], T]) -> dict[str, T]:
        return each(reader, given.get(key), f"{path}.{key}", what, lambda r, n, i, p: one(r, n, i, p, sheet))

    return Module(
        name, reader.text(given.get("name"), f"{path}.name", 60) or name, Speaks(speaks), asks, answers,
        reader.text(given.get("behind"), f"{path}.behind", 60), reader.flag(given, "gateway", path),
        reader.text(given.get("at"), f"{path}.at", 120), link,
        own("codes", "a mapping of codes to what they mean", _code), own("data", "a mapping of names to data", _datum),
        own("outputs", "a mapping of names to outputs", _output), own("routines", "a mapping of names to routines", _routine),
        one_of(reader, given.get("start", "fast"), f"{path}.start", ["fast", "slow"]) == "slow",
        resets_in(reader, given.get("resets"), f"{path}.resets"), renewal_in(reader, given.get("renewal"), f"{path}.renewal"),
    )  # fmt: skip


def _link(reader: Reader, value: Any, path: str, sheet: str) -> PinLink | None:
    if value is None:
        return None
    given = reader.mapping(value, path, "a mapping such as {sheet: title of the sheet, part: N7}")
    reader.keys(given, LINK_KEYS, path)
    own = reader.text(given.get("sheet"), f"{path}.sheet", 200) or sheet
    if not own:
        reader.flaw(path, "must say of which sheet, by its title: {sheet: Kneeling valves, part: N7}")
    part, place, shows = (reader.text(given.get(key), f"{path}.{key}", 60) for key in ("part", "place", "shows"))
    if bool(part) == bool(place):
        reader.flaw(path, "must name a part or a place, one of both")
    return PinLink(own, part, place, shows, optional(reader, given, "below", path), optional(reader, given, "above", path))


def _code(reader: Reader, name: str, item: Any, path: str, sheet: str) -> ModuleCode:
    given = {"says": item} if isinstance(item, str) else reader.mapping(item, path, "what it means, or a mapping with says")
    reader.keys(given, CODE_KEYS, path)
    try:
        code, failure = parse_code(name)
        name = f"{code}-{failure}" if failure else code
    except CodeError as error:
        reader.flaw(path, str(error))
    return ModuleCode(
        name, reader.text(given.get("says"), f"{path}.says", 160), names_in(reader, given.get("takes_away"), f"{path}.takes_away"),
        reader.text(given.get("substitutes"), f"{path}.substitutes", 200), reader.text(given.get("felt"), f"{path}.felt", 200),
        _link(reader, given.get("circuit"), f"{path}.circuit", sheet),
        reader.text(given.get("silent"), f"{path}.silent", 60), reader.text(given.get("until"), f"{path}.until", 60),
    )  # fmt: skip


def _datum(reader: Reader, name: str, item: Any, path: str, sheet: str) -> Datum:
    given = reader.mapping(item, path, "a mapping such as {id: 0xD001, size: 2, scale: 0.01, unit: V}")
    reader.keys(given, DATUM_KEYS, path)
    words: dict[int, str] = {}
    for key, word in reader.mapping(given.get("words"), f"{path}.words", "a mapping of whole numbers to words").items():
        if not re.fullmatch(r"\d{1,9}", key):
            reader.flaw(f"{path}.words.{key}", "a word stands for a whole number")
        else:
            words[int(key)] = reader.text(word, f"{path}.words.{key}", 60)
    scale = number_of(reader, given, "scale", path, 1.0)
    if scale == 0.0:
        reader.flaw(f"{path}.scale", "must not be 0")
        scale = 1.0
    is_text = reader.flag(given, "ascii", path)
    size = whole(reader, given.get("size", 1), f"{path}.size", LONGEST_WORD if is_text else LONGEST_NUMBER, 1)
    return Datum(
        name, reader.text(given.get("name"), f"{path}.name", 60) or name, whole(reader, given.get("id"), f"{path}.id", 0xFFFF),
        whole(reader, given.get("byte", 0), f"{path}.byte", 250), size,
        whole(reader, given.get("mask", 0), f"{path}.mask", (1 << 8 * min(size, LONGEST_NUMBER)) - 1),
        reader.flag(given, "signed", path), scale,
        number_of(reader, given, "offset", path, 0.0), reader.text(given.get("unit"), f"{path}.unit", 20), words,
        optional(reader, given, "least", path), optional(reader, given, "most", path),
        reader.text(given.get("source"), f"{path}.source", 160), _link(reader, given.get("circuit"), f"{path}.circuit", sheet), is_text,
        whole(reader, given["digits"], f"{path}.digits", 6) if "digits" in given else None,
    )  # fmt: skip


def _session(reader: Reader, given: Mapping[str, Any], path: str) -> int:
    return _SESSIONS[one_of(reader, given.get("session", "extended"), f"{path}.session", list(_SESSIONS))]


def _command(reader: Reader, name: str, item: Any, path: str) -> Command:
    given = {"bytes": item} if not isinstance(item, dict) else reader.mapping(item, path, "bytes")
    reader.keys(given, COMMAND_KEYS, path)
    return Command(
        name, hex_bytes(reader, given.get("bytes"), f"{path}.bytes"), number_of(reader, given, "by", path, 0.0),
        number_of(reader, given, "within_s", path, 0.0, "zero", LONGEST_S),
        reader.text(given.get("position"), f"{path}.position", 60),
    )  # fmt: skip


def _output(reader: Reader, name: str, item: Any, path: str, sheet: str) -> Output:
    given = reader.mapping(item, path, 'a mapping such as {id: 0xD110, commands: {open: "01", shut: "00"}}')
    reader.keys(given, OUTPUT_KEYS, path)
    commands = each(reader, given.get("commands"), f"{path}.commands", "a mapping of words to bytes", _command, 20)
    if not commands:
        reader.flaw(f"{path}.commands", 'must say what it can be told, such as {open: "01", shut: "00"}')
    return Output(
        name, reader.text(given.get("name"), f"{path}.name", 60) or name, whole(reader, given.get("id"), f"{path}.id", 0xFFFF), commands,
        _session(reader, given, path), number_of(reader, given, "longest_s", path, 5.0, "positive", LONGEST_S),
        hazards_in(reader, given.get("hazards"), f"{path}.hazards"), reader.text(given.get("caution"), f"{path}.caution", 300),
        reader.text(given.get("watch"), f"{path}.watch", 60), _link(reader, given.get("circuit"), f"{path}.circuit", sheet),
        reader.text(given.get("hear"), f"{path}.hear", 60), _stay(reader, given, path),
    )  # fmt: skip


def _stay(reader: Reader, given: Mapping[str, Any], path: str) -> StayTest | None:
    if given.get("stays") is None:
        return None
    path, watched = f"{path}.stays", given.get("watch")
    stays = reader.mapping(given["stays"], path, "a mapping such as {seconds: 10, by: 3}")
    reader.keys(stays, STAY_KEYS, path)
    if not watched:
        reader.flaw(path, "needs the datum to watch")
    seconds = number_of(reader, stays, "seconds", path, 5.0, "positive", LONGEST_S)
    return StayTest(seconds, number_of(reader, stays, "by", path, 0.0, "zero"))


def _routine(reader: Reader, name: str, item: Any, path: str, sheet: str) -> Routine:
    given = reader.mapping(item, path, "a mapping such as {id: 0x0203, results: {1: done}}")
    reader.keys(given, ROUTINE_KEYS, path)
    results: dict[int, tuple[str, bool]] = {}
    for key, value in reader.mapping(given.get("results"), f"{path}.results", "a mapping of bytes to what they mean").items():
        own = {"says": value, "good": False} if not isinstance(value, dict) else value
        at = f"{path}.results.{key}"
        if not re.fullmatch(r"\d{1,3}", key) or int(key) > 255:
            reader.flaw(at, "a result stands for a byte, 0 to 255")
            continue
        reader.keys(own, ("says", "good"), at)
        results[int(key)] = reader.text(own.get("says"), f"{at}.says", 160), reader.flag(own, "good", at)
    return Routine(
        name, reader.text(given.get("name"), f"{path}.name", 60) or name, whole(reader, given.get("id"), f"{path}.id", 0xFFFF),
        _session(reader, given, path), hazards_in(reader, given.get("hazards"), f"{path}.hazards"),
        reader.text(given.get("caution"), f"{path}.caution", 300), reader.text(given.get("needs"), f"{path}.needs", 300), results,
        number_of(reader, given, "takes_s", path, 10.0, "positive", LONGEST_S), hex_bytes(reader, given.get("bytes"), f"{path}.bytes"),
    )  # fmt: skip


def _function(reader: Reader, name: str, item: Any, path: str) -> Function:
    given = reader.mapping(item, path, "a mapping with name and conditions")
    reader.keys(given, FUNCTION_KEYS, path)
    conditions = each(
        reader, given.get("conditions"), f"{path}.conditions", "a mapping of names to conditions", _condition, MOST_CONDITIONS
    )
    if not conditions:
        reader.flaw(f"{path}.conditions", "must name what has to be true")
    for own in conditions.values():
        for other in own.after:
            if other not in conditions:
                reader.flaw(f"{path}.conditions.{own.name}.after", f"there is no condition {quoted(other)}{reader.near(other, conditions)}")
    steps = each(reader, given.get("steps"), f"{path}.steps", "a mapping of names to steps", _step, MOST_CONDITIONS)
    return Function(
        name, reader.text(given.get("name"), f"{path}.name", 60) or name, reader.text(given.get("does"), f"{path}.does", 60) or "runs",
        conditions, tuple(steps.values()), reader.text(given.get("note"), f"{path}.note", 300),
        reader.text(given.get("caution"), f"{path}.caution", 300), reader.text(given.get("never"), f"{path}.never", 300),
    )  # fmt: skip


def _condition(reader: Reader, name: str, item: Any, path: str) -> Condition:
    given = reader.mapping(item, path, "a mapping with name and wants")
    reader.keys(given, CONDITION_KEYS, path)
    module, dot, datum = reader.text(given.get("datum"), f"{path}.datum", 130).partition(".")
    if bool(module) != bool(datum):
        reader.flaw(f"{path}.datum", "must be MODULE.DATUM, such as gateway.key")
    answers = reader.text(given.get("answers"), f"{path}.answers", 60)
    wants = reader.text(given.get("wants"), f"{path}.wants", 60) or ("answering" if answers else "")
    if not wants:
        reader.flaw(f"{path}.wants", "must say in a word how it has to be: shut, released, in Run")
    return Condition(
        name, reader.text(given.get("name"), f"{path}.name", 60) or name, wants, module if dot else "", datum,
        reader.text(given.get("is"), f"{path}.is", 60),
        optional(reader, given, "least", path), optional(reader, given, "most", path), answers,
        names_in(reader, given.get("after"), f"{path}.after"), number_of(reader, given, "minutes", path, 1.0, "zero", 1e4),
        number_of(reader, given, "weight", path, 1.0, "positive", 1e4),
        Hangs(reader.text(given.get("sheet"), f"{path}.sheet", 200), reader.text(given.get("on"), f"{path}.on", 120)),
        reader.text(given.get("look"), f"{path}.look", 200), reader.text(given.get("caution"), f"{path}.caution", 300),
        hazards_in(reader, given.get("hazards"), f"{path}.hazards"), reader.flag(given, "refers", path),
    )  # fmt: skip


def _step(reader: Reader, name: str, item: Any, path: str) -> Step:
    given = reader.mapping(item, path, "a mapping with name, output and until")
    reader.keys(given, STEP_KEYS, path)
    return Step(
        name, reader.text(given.get("name"), f"{path}.name", 60) or name, reader.text(given.get("output"), f"{path}.output", 130),
        reader.text(given.get("until"), f"{path}.until", 130), number_of(reader, given, "seconds", path, 0.0, "zero", 600.0),
    )  # fmt: skip


def _joined(reader: Reader, roster: Roster) -> None:
    """Flaws of what one part of a roster says of another."""
    taken: dict[int, str] = {}
    for name, module in roster.modules.items():
        path = f"modules.{name}"
        for key, other in (("behind", module.behind), *((f"codes.{code.name}.silent", code.silent) for code in module.codes.values())):
            if other and other not in roster.modules:
                reader.flaw(f"{path}.{key}", f"there is no module {quoted(other)}{reader.near(other, roster.modules)}")
        if module.speaks is not Speaks.KLINE:
            for number in (module.asks, module.answers):
                if number in taken and taken[number] != name and module.speaks is not Speaks.EMISSION:
                    reader.flaw(path, f"{number:#x} is already what {taken[number]} uses")
                taken.setdefault(number, name)
        _known_renewal(reader, module, path)
        for output in module.outputs.values():
            if output.watch and output.watch not in module.data:
                reader.flaw(f"{path}.outputs.{output.name}.watch", f"there is no datum {quoted(output.watch)} of this module")
        for code in module.codes.values():
            for gone in code.takes_away:
                if gone not in module.outputs:
                    reader.flaw(
                        f"{path}.codes.{code.name}.takes_away",
                        f"there is no output {quoted(gone)} of this module{reader.near(gone, module.outputs)}",
                    )
            if code.until and code.until not in module.routines:
                reader.flaw(f"{path}.codes.{code.name}.until", f"there is no routine {quoted(code.until)} of this module")
    for signal, said in roster.stand_in.signals.items():
        if isinstance(said, str) and said != "count":
            of, _, what = said.removeprefix("code ").partition(".")
            talker = roster.modules.get(of)
            known: Collection[str] = () if talker is None else talker.codes if said.startswith("code ") else talker.data
            if what not in known:
                reader.flaw(f"stand_in.signals.{signal}", f"there is nothing {quoted(said)} in this roster")
    for function in roster.functions.values():
        for condition in function.conditions.values():
            _known_condition(reader, roster, condition, f"functions.{function.name}.conditions.{condition.name}")


def _known_condition(reader: Reader, roster: Roster, condition: Condition, path: str) -> None:
    if not roster.modules:
        return  # a chain by itself: its modules are elsewhere
    if condition.answers and condition.answers not in roster.modules:
        reader.flaw(f"{path}.answers", f"there is no module {quoted(condition.answers)}{reader.near(condition.answers, roster.modules)}")
    if condition.module:
        module = roster.modules.get(condition.module)
        if module is None or condition.datum not in module.data:
            reader.flaw(f"{path}.datum", f"there is no datum {quoted(f'{condition.module}.{condition.datum}')}")


def _known_renewal(reader: Reader, module: Module, path: str) -> None:
    if module.renewal is None:
        return
    part = module.renewal.part.datum
    wanted: list[tuple[str, str, str, Collection[str]]] = [(f"{path}.renewal.part.datum", part, "datum", module.data)] if part else []
    for step in module.renewal.steps.values():
        at = f"{path}.renewal.steps.{step.name}"
        data = [step.datum, *((step.drive.speed, step.drive.steering) if step.drive else ())]
        wanted += [(at, name, "datum", module.data) for name in data if name]
        wanted += [(at, step.routine, "routine", module.routines)] if step.routine else []
    for at, name, what, known in wanted:
        if name not in known:
            reader.flaw(at, f"there is no {what} {quoted(name)} of this module{reader.near(name, known)}")
