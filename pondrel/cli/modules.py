"""`pondrel module`: a vehicle's control modules asked over a bus or a K-line, and chains of conditions from a file."""

from __future__ import annotations

import json
import re
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

import click

from ..core.base.brief import lowered
from ..core.base.errors import PondrelError
from ..core.module.chain.next_link import asked_next, shares_of
from ..core.module.chain.order import order_of
from ..core.module.chain.standing import Standing, fact_of, standing_of
from ..core.module.felt import codes_behind
from ..core.module.movement import judged_move
from ..core.module.roll_call import NOBODY, roll_call
from ..core.module.roster import Module, Roster, Speaks, parse_roster
from ..core.module.roster.standard import standard_roster
from ..core.module.told import answer_words, request_words
from ..core.talk.exchange import Exchange
from ..instruments.modules.odx import numbers_from, roster_from_odx
from ..instruments.modules.reached import lines_at
from ..instruments.modules.tester import Answered, Codes, Tester, Value
from .files import roster_in, text_in

__all__ = ["module"]

MOST_HELD_S = 30.0
_NUMBER = re.compile(r"0x[0-9a-fA-F]{1,8}")
_JSON = click.option("--json", "as_json", is_flag=True, help="Print JSON.")


@click.group("module")
def module() -> None:
    """Control modules: roll call, codes, data, outputs, routines, and chains of conditions."""


def _asking(command: Callable[..., Any]) -> Callable[..., Any]:
    """The options that say whom to ask and how."""
    for option in (
        _JSON,
        click.option("--answers", metavar="0x71A", help="What a module without a roster answers on."),
        click.option("--asks", metavar="0x712", help="What a module without a roster is asked on (UDS)."),
        click.option("--modules", "roster_file", type=click.Path(), help="The roster: what the workshop knows of the vehicle's modules."),
        click.option("--bus", required=True, metavar="URL", help="socketcand://HOST:PORT/can0, socketcan:can0, kline:/dev/ttyUSB0, …"),
    ):
        command = option(command)
    return command


def _made_safe(command: Callable[..., Any]) -> Callable[..., Any]:
    return click.option(
        "--made-safe", "made_safe", multiple=True, metavar="NAME", help="A hazard that was made safe, or 'caution' where it was read."
    )(command)


def _roster(file: str | None, asks: str | None, answers: str | None) -> Roster | None:
    if file is not None:
        return roster_in(file)
    if (asks is None) != (answers is None):
        raise PondrelError("Give --asks and --answers together: what the module is asked on, and what it answers on.")
    if asks is None or answers is None:
        return None
    for text in (asks, answers):
        if not _NUMBER.fullmatch(text):
            raise PondrelError(f"'{text}' is no identifier: write it such as 0x712.")
    name = asks[2:].lower()
    own = Module(name, f"Module on {asks[2:].upper()}", Speaks.UDS, int(asks, 16), int(answers, 16))
    return Roster("asked by hand", {name: own})


class _Asked:
    """A tester at work for a command, with the whole conversation."""

    def __init__(self, tester: Tester, roster: Roster):
        self.tester, self.roster = tester, roster
        self.conversation: list[Exchange] = []

    def chosen(self, names: Sequence[str]) -> tuple[Module, ...]:
        """The modules of some names, all for none."""
        return tuple(self.roster.module(name) for name in names) if names else tuple(self.roster.modules.values())

    def told(self) -> list[dict[str, Any]]:
        """The conversation as JSON."""
        return [self._line(one) for one in self.conversation]

    def _line(self, one: Exchange) -> dict[str, Any]:
        own = self.roster.modules[one.module]
        return {
            "at": round(one.at, 4), "module": one.module, "request": one.request.hex(), "answer": one.answer.hex() or None,
            "seconds": round(one.seconds, 4), "asks": request_words(own, one.request),
            "says": one.fault or answer_words(own, one.request, one.answer),
        }  # fmt: skip


@contextmanager
def _asked(bus: str, roster_file: str | None, asks: str | None, answers: str | None) -> Iterator[_Asked]:
    """A tester. Without a roster it knows those that every vehicle with emission diagnosis has, if they answer."""
    roster = _roster(roster_file, asks, answers)
    known = roster or standard_roster()
    with Tester(known, lines_at(bus)) as tester:
        own = _Asked(tester, known)
        tester.heard = own.conversation.append
        if roster is None:
            called = tester.roll_call()
            own.roster = replace(known, modules={one.module.name: one.module for one in called if one.answers})
            tester.roster = own.roster
            own.conversation[:] = [one for one in own.conversation if one.module in own.roster.modules]
        yield own


def _print(found: dict[str, Any]) -> None:
    click.echo(json.dumps(found, indent=2, ensure_ascii=False, allow_nan=False))


@module.command("rollcall")
@click.argument("names", nargs=-1)
@_asking
def rollcall(names: tuple[str, ...], bus: str, roster_file: str | None, asks: str | None, answers: str | None, as_json: bool) -> None:
    """Call all modules, or those that are named: who answers, who is silent."""
    with _asked(bus, roster_file, asks, answers) as own:
        chosen = own.chosen(names)
        called = own.tester.roll_call(chosen) if chosen else ()
        here, gone = ([one.module.title for one in called if one.answers == answers_] for answers_ in (True, False))
        says = roll_call(here, gone).says if called else NOBODY
        if as_json:
            _print({"modules": [_called_json(one) for one in called], "says": says, "conversation": own.told()})
            return
        for one in called:
            click.echo(f"{one.module.title:28} {_how(one)}")
        click.echo(says)


def _how(one: Answered) -> str:
    if not one.answers:
        return "silent" if "does not answer" in one.says or not one.says else f"silent: {one.says}"
    return f"answers after {1e3 * (one.seconds or 0.0):.0f} ms" + (f" ({one.says})" if one.says else "")


def _called_json(one: Answered) -> dict[str, Any]:
    own = one.module
    return {
        "name": own.name, "title": own.title, "speaks": own.speaks.value, "asks": own.asks, "answers_on": own.answers,
        "behind": own.behind or None, "answers": one.answers,
        "seconds": None if one.seconds is None else round(one.seconds, 4), "says": one.says or None,
    }  # fmt: skip


def _codes_json(own: Module, read: Codes) -> dict[str, Any]:
    codes = []
    for place, code in enumerate(read.codes):
        known = own.code(code.name)
        codes.append(
            {
                **code.as_json(),
                "name": code.name,
                "status_bits": list(read.status[place]) if place < len(read.status) else [],
                "takes_away": [own.outputs[name].title for name in known.takes_away] if known else [],
                "substitutes": (known.substitutes or None) if known else None,
                "felt": (known.felt or None) if known else None,
            }
        )
    return {"name": own.name, "title": own.title, "codes": codes, "says": read.says or None}


def _read(own: _Asked, one: Module) -> Codes:
    try:
        return own.tester.codes(one)
    except PondrelError as error:
        return Codes(one, (), (), str(error))


def _tell_codes(read: Codes) -> None:
    count = {0: "no code", 1: "1 code"}.get(len(read.codes), f"{len(read.codes)} codes")
    click.echo(f"{read.module.title}: {read.says or count}")
    for code in read.codes:
        click.echo(f"  {code.name} {code.status}".rstrip() + f": {code.text or code.says}")
        known = read.module.code(code.name)
        if known is not None and known.takes_away:
            click.echo(f"      off because of it: {', '.join(read.module.outputs[name].title for name in known.takes_away)}")
        if known is not None and known.felt:
            click.echo(f"      the driver notices: {known.felt}")
        for name, value in code.frame:
            click.echo(f"      {name} = {value}")


@module.command("codes")
@click.argument("names", nargs=-1)
@_asking
def codes_command(names: tuple[str, ...], bus: str, roster_file: str | None, asks: str | None, answers: str | None, as_json: bool) -> None:
    """Read the codes of all modules, or of those that are named, with their status and what was frozen."""
    with _asked(bus, roster_file, asks, answers) as own:
        found = [_read(own, one) for one in own.chosen(names)]
        if as_json:
            _print({"modules": [_codes_json(one.module, one) for one in found], "conversation": own.told()})
            return
        for one in found:
            _tell_codes(one)


@module.command("clear")
@click.argument("names", nargs=-1)
@click.option("--loss-is-known", is_flag=True, help="Say that codes, freeze frames and readiness monitors are lost by it.")
@_asking
def clear_command(
    names: tuple[str, ...], loss_is_known: bool, bus: str, roster_file: str | None, asks: str | None, answers: str | None, as_json: bool
) -> None:
    """Read codes out and print them, then clear them. A crash flag is not cleared from here."""
    with _asked(bus, roster_file, asks, answers) as own:
        found = [(one, own.tester.codes(one)) for one in own.chosen(names)]
        for one, read in found:
            own.tester.clear(one, read, loss_is_known)
        after = {one.name: _read(own, one) for one, _ in found}
        if as_json:
            told = [{"before": _codes_json(one, read), "after": _codes_json(one, after[one.name])} for one, read in found]
            _print({"cleared": told, "conversation": own.told()})
            return
        for one, read in found:
            _tell_codes(read)
            left = after[one.name].codes
            back = f"back at once: {', '.join(code.name for code in left)}" if left else "none came back at once"
            click.echo(f"{one.title}: cleared; {back}.")


def _value_json(value: Value) -> dict[str, Any]:
    own = value.datum
    return {
        "name": own.name, "title": own.title, "id": own.number, "value": value.value, "unit": own.unit or None, "says": value.says,
        "least": own.least, "most": own.most, "within": _within(value), "at": round(value.at, 4),
    }  # fmt: skip


def _within(value: Value) -> bool | None:
    own = value.datum
    if value.value is None or (own.least is None and own.most is None):
        return None
    return (own.least is None or value.value >= own.least) and (own.most is None or value.value <= own.most)


@module.command("data")
@click.argument("name", required=False)
@click.argument("data", nargs=-1)
@_asking
def data_command(
    name: str | None, data: tuple[str, ...], bus: str, roster_file: str | None, asks: str | None, answers: str | None, as_json: bool
) -> None:
    """Read live data of a module: all that its roster knows, or what is named; 0xF190 asks for an identifier without a roster."""
    with _asked(bus, roster_file, asks, answers) as own:
        if asks is not None and name is not None:
            name, data = asks[2:].lower(), (name, *data)
        if not own.roster.modules:
            raise PondrelError("Nobody answers: is the ignition on, and the plug on the right bus?")
        one = own.roster.module(name) if name is not None else next(iter(own.roster.modules.values()))
        if one.speaks is Speaks.EMISSION and (own.roster.by_calling or not one.data):
            told = [
                {"name": f"{value.number:02x}", "title": value.name, "id": value.number, "value": number, "unit": value.unit or None,
                 "says": f"{number:.{value.digits}f} {value.unit}".rstrip()}
                for value, number in own.tester.emission_data(one)
            ]  # fmt: skip
        else:
            told = [_raw(own, one, int(n, 16)) for n in data if _NUMBER.fullmatch(n)]
            wanted = tuple(one.datum(n) for n in data if not _NUMBER.fullmatch(n))
            if wanted or not data:
                told += [_value_json(value) for value in own.tester.data(one, wanted)]
        if as_json:
            _print({"module": one.name, "title": one.title, "values": told, "conversation": own.told()})
            return
        for row in told:
            click.echo(f"{row['title']:32} {row['says']}")


def _raw(own: _Asked, one: Module, number: int) -> dict[str, Any]:
    """An identifier of which nothing is known: its bytes, and as text where they are one."""
    if number > 0xFFFF:
        raise PondrelError(f"{number:#x} is no data identifier: they go up to 0xffff.")
    answer = own.tester.talk(one).ask(bytes([0x22]) + number.to_bytes(2, "big"))[3:]
    text = answer.decode("ascii") if answer and all(0x20 <= byte < 0x7F for byte in answer) else None
    spelled = f"{number:#06x}"
    says = text or answer.hex(" ")
    return {"name": spelled, "title": spelled, "id": number, "value": None, "unit": None, "says": says, "bytes": answer.hex(), "text": text}


@module.command("output")
@click.argument("name")
@click.argument("output")
@click.argument("command")
@click.option(
    "--seconds", type=click.FloatRange(0.1, MOST_HELD_S), default=None, help="How long; the roster's longest where it is left out."
)
@_made_safe
@_asking
def output_command(
    name: str, output: str, command: str, seconds: float | None, made_safe: tuple[str, ...], bus: str, roster_file: str | None,
    asks: str | None, answers: str | None, as_json: bool,
) -> None:  # fmt: skip
    """Command one output for some seconds, watch what it does, and give it back to its module."""
    with _asked(bus, roster_file, asks, answers) as own:
        one = own.roster.module(name)
        thing = one.output(output)
        told = thing.command(command)
        longest = min(seconds or thing.longest_s, thing.longest_s)
        seen: list[Value] = []
        with own.tester.hold(one, thing, told, made_safe) as held:
            if held.before is not None:
                seen.append(replace(held.before, at=0.0))
            began = time.monotonic()
            while time.monotonic() - began < longest:
                held.keep()
                value = held.look()
                if value is not None:
                    seen.append(replace(value, at=time.monotonic() - began))
                    if not as_json:
                        click.echo(f"{seen[-1].at:6.2f} s  {value.datum.title}: {value.says}")
                time.sleep(0.1)
        verdict = judged_move(told, [(value.at, value.value) for value in seen], seen[0].datum.unit if seen else "")
        if as_json:
            _print(
                {
                    "module": one.name,
                    "output": thing.name,
                    "command": told.name,
                    "held_s": round(longest, 3),
                    "given_back": True,
                    "watched": thing.watch or None,
                    "values": [{"at": round(v.at, 3), "value": v.value, "says": v.says} for v in seen],
                    "verdict": verdict.word,
                    "says": verdict.says,
                    "conversation": own.told(),
                }
            )
            return
        click.echo(f"{verdict.says} Control went back to {lowered(one.title)}.")


@module.command("routine")
@click.argument("name")
@click.argument("routine")
@_made_safe
@_asking
def routine_command(
    name: str, routine: str, made_safe: tuple[str, ...], bus: str, roster_file: str | None, asks: str | None, answers: str | None,
    as_json: bool,
) -> None:  # fmt: skip
    """Run a routine of a module until it has a result."""
    with _asked(bus, roster_file, asks, answers) as own:
        one = own.roster.module(name)
        thing = one.routine(routine)
        says, good = own.tester.routine(one, thing, made_safe)
        if as_json:
            _print({"module": one.name, "routine": thing.name, "good": good, "says": says, "conversation": own.told()})
            return
        click.echo(f"{thing.title}: {says}")


@module.command("chain")
@click.argument("file")
@click.option("--function", "function", default="", help="Which function, where the file has several.")
@click.option(
    "--facts", "facts", multiple=True, metavar="NAME=WORD", help="What is known of a condition: latch=open, pedal=no; or a JSON file."
)
@click.option("--silent", multiple=True, metavar="MODULE", help="A module that does not answer.")
@_JSON
def chain_command(file: str, function: str, facts: tuple[str, ...], silent: tuple[str, ...], as_json: bool) -> None:
    """How the chain of a function stands: which link is unmet, what it hangs on, and what to ask next."""
    roster = roster_in(file)
    if not roster.functions:
        raise PondrelError(f"{file} describes no function: it needs a heading 'functions'.")
    names = list(roster.functions)
    if not function and len(names) > 1:
        raise PondrelError(f"{file} has several functions: say --function with one of {', '.join(names)}.")
    if function and function not in names:
        raise PondrelError(f"There is no function '{function}': {', '.join(names)}.")
    own = roster.functions[function or names[0]]
    known = {}
    for name, word in _facts(facts):
        condition = own.condition(name)
        fact = fact_of(condition, word)
        if fact is not None:
            known[condition.name] = fact
    gone = [roster.module(name).name for name in silent] if roster.modules else list(silent)
    standing = standing_of(own, known, gone)
    if as_json:
        _print(_chain_json(standing))
        return
    for link in standing.links:
        why = f" ({link.says or link.why})" if link.says or link.why else ""
        click.echo(f"{link.condition.title:28} {link.condition.wants:16} {link.state.value}{why}")
    click.echo(standing.says)
    for asked in asked_next(standing)[:3]:
        click.echo(f"  next: {asked.says} ({asked.minutes:g} min)")


@module.command("felt")
@click.argument("file")
@click.argument("missing")
@_JSON
def felt_command(file: str, missing: str, as_json: bool) -> None:
    """Which codes of a roster would take away what the driver misses, as in 'fifth and sixth gear'."""
    found = codes_behind(roster_in(file), missing)
    if as_json:
        rows = [
            {
                "module": one.module.name, "code": one.code.name, "text": one.code.says, "felt": one.code.felt or None,
                "takes_away": [one.module.outputs[name].title for name in one.code.takes_away],
                "explains": list(one.explains), "leaves": list(one.leaves),
            }
            for one in found
        ]  # fmt: skip
        _print({"missing": missing, "codes": rows})
        return
    for one in found:
        click.echo(f"{one.code.name} {one.code.says} ({one.module.title}): {one.code.felt}")
    if not found:
        click.echo("No code of these modules takes that away.")


def _facts(given: Sequence[str]) -> Iterator[tuple[str, str]]:
    for text in given:
        name, mark, word = text.partition("=")
        if mark:
            yield name, word
            continue
        try:
            found = json.loads(text_in(text))
        except ValueError as error:
            raise PondrelError(f"{text} is no JSON: {str(error)[:80]}; facts are written NAME=WORD or stand in a JSON file.") from None
        if not isinstance(found, dict):
            raise PondrelError(f"{text} must be like {{'latch': 'open', 'pedal': false}}.")
        for key, value in found.items():
            yield str(key), "" if value is None else ("yes" if value else "no") if isinstance(value, bool) else str(value)


def _chain_json(standing: Standing) -> dict[str, Any]:
    shares = shares_of(standing)
    return {
        "function": standing.function.name, "title": standing.function.title, "complete": standing.complete, "counts": standing.counts,
        "root": standing.root.condition.name if standing.root else None, "says": standing.says, "silent": list(standing.silent),
        "links": [
            {
                "name": link.condition.name, "title": link.condition.title, "wants": link.condition.wants, "state": link.state.value,
                "says": link.says or None, "why": link.why or None, "share": round(shares.get(link.condition.name, 0.0), 4),
                "sheet": link.condition.hangs.sheet or None, "hangs_on": link.condition.hangs.on or None,
            }
            for link in standing.links
        ],
        "order": [
            {"step": one.step.name, "title": one.step.title, "state": one.state, "look": list(one.look)} for one in order_of(standing)
        ],
        "next": [
            {
                "conditions": [one.name for one in asked.conditions], "says": asked.says, "minutes": asked.minutes,
                "bits": round(asked.bits, 4),
            }
            for asked in asked_next(standing)
        ],
    }  # fmt: skip


@module.command()
@click.argument("file", type=click.Path(exists=True, dir_okay=False))
@click.option("--title", default="", help="What the roster is called; the file's name where it is left out.")
@click.option("--numbers", multiple=True, metavar="MODULE=7E0/7E8", help="What a module is asked and answers on, if the file lacks it.")
@click.option("--make", default="", help="The make of the vehicles that it fits.")
@click.option("--model", default="", help="Their model.")
@click.option("--out", type=click.Path(dir_okay=False), help="Where the roster is written; to the screen where it is left out.")
@_JSON
def odx(file: str, title: str, numbers: tuple[str, ...], make: str, model: str, out: str | None, as_json: bool) -> None:
    """A roster from an ODX or PDX file (needs the extra: pip install 'pondrel[odx]')."""
    path = Path(file)
    found = roster_from_odx(path, title or path.stem, dict(numbers_from(text) for text in numbers), make, model)
    parse_roster(found.text)
    if out is not None:
        Path(out).write_text(found.text, encoding="utf-8")
    if as_json:
        click.echo(json.dumps({"roster": found.text, "left_out": found.notes}, ensure_ascii=False))
        return
    if out is None:
        click.echo(found.text, nl=False)
    for note in found.notes:
        click.echo(note, err=True)
