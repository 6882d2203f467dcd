"""Steps of a renewal that a module itself tells of: its number, a value, a routine, a drive; each is a line of the job as it comes."""

from __future__ import annotations

import time
from collections.abc import Collection

from ...core.base.brief import lowered
from ...core.base.errors import PondrelError
from ...core.job.renewing import DONE, FAILED, check_step, code_says, renewing_of, step_content
from ...core.job.safety import acknowledged
from ...core.module.moving import check_all_read
from ...core.module.roster import Module
from ...core.renewal.plan import OLD_READ, PlanStep, accepts_part, cautions_of, hazards_of_step, value_accepted
from ...core.renewal.yard_drive import Moment, seen_in
from ...instruments.modules.tester import Tester
from .live import Live
from .underway import Driving

__all__ = ["check_ready", "clear_it", "drive_it", "read_codes_of", "read_number", "read_old", "read_value", "run_it"]

clock = time.monotonic
LONGEST_DRIVE_S, MOST_MOMENTS, REDRAWN_S, WATCHED_S = 900.0, 6000, 0.5, 60.0


def _write(live: Live, module: Module, name: str, result: str, text: str) -> None:
    live.enter("renewal", lambda entries: step_content(renewing_of(module, entries), name, result, text))


def check_ready(live: Live, module: Module, name: str) -> PlanStep:
    """The step, if it is its turn and all that it waits for was made safe. Raises PondrelError naming what comes first."""
    entries = live.entries()
    step = check_step(renewing_of(module, entries), name).step
    check_all_read(step.title, hazards_of_step(module, step), cautions_of(module, step), _read(live, acknowledged(entries)))
    return step


def _read(live: Live, texts: Collection[str]) -> frozenset[str]:
    return frozenset(texts) | live.read_cautions


def read_old(live: Live, tester: Tester, module: Module) -> None:
    """Codes and data of the module that comes out, as far as it tells them."""
    check_ready(live, module, OLD_READ)
    live.read_codes(tester, [module])
    read = live.codes[module.name]
    if read.says:
        raise PondrelError(read.says)
    live.read_data(tester, module)
    told = [f"{lowered(value.datum.title)} {value.says}" for value in live.values[module.name] if value.datum.ascii]
    codes = ", ".join(code.name for code in read.codes) or "no code"
    _write(live, module, OLD_READ, DONE, ", ".join([codes, *told]))


def read_number(live: Live, tester: Tester, module: Module, name: str) -> None:
    """The number that the new one tells."""
    check_ready(live, module, name)
    assert module.renewal is not None
    part = module.renewal.part
    value = tester.data(module, (module.datum(part.datum),))[0]
    try:
        _write(live, module, name, DONE, f"{accepts_part(part, value.says)}, as it tells itself")
    except PondrelError as error:
        _write(live, module, name, FAILED, str(error))
        raise


def read_value(live: Live, tester: Tester, module: Module, name: str) -> None:
    """A value, and whether it is as the step wants it."""
    step = check_ready(live, module, name)
    assert step.own is not None
    datum = module.datum(step.own.datum)
    value = tester.data(module, (datum,))[0]
    good, says = value_accepted(step.own, datum, value.value, value.says)
    _write(live, module, name, DONE if good else FAILED, says)


def run_it(live: Live, tester: Tester, module: Module, name: str) -> None:
    """A routine, until it has a result."""
    step = check_ready(live, module, name)
    assert step.own is not None
    routine = module.routine(step.own.routine)
    says, good = live.run(tester, module, routine, live.made_safe(acknowledged(live.entries()), routine))
    _write(live, module, name, DONE if good else FAILED, says)


def read_codes_of(live: Live, tester: Tester, module: Module, name: str) -> None:
    """The codes of the module after its restart."""
    check_ready(live, module, name)
    live.read_codes(tester, [module])
    if live.codes[module.name].says:
        raise PondrelError(live.codes[module.name].says)
    good, says = code_says(module, live.entries())
    _write(live, module, name, DONE if good else FAILED, says)


def clear_it(live: Live, tester: Tester, module: Module, name: str) -> None:
    """Its codes cleared; the page says what is lost by it, and whoever asks for it has read that."""
    check_ready(live, module, name)
    live.clear(tester, module, True)
    left = ", ".join(code.name for code in live.codes[module.name].codes)
    _write(live, module, name, FAILED if left else DONE, f"{left} came back at once" if left else "none left")


def drive_it(live: Live, tester: Tester, driving: Driving) -> None:
    """Read pace and angle until all was driven, it was too fast, or it is ended. Nothing is commanded, and no session is kept for it."""
    module, drive = driving.module, driving.drive
    try:
        check_ready(live, module, driving.step.name)
        data = [module.datum(name) for name in (drive.speed, drive.steering) if name]
        began, drawn = clock(), 0.0
        while live.watched(WATCHED_S) and not driving.stop and not live.ended and len(driving.moments) < MOST_MOMENTS:
            values = {value.datum.name: value.value for value in tester.data(module, data)}
            at = clock() - began
            driving.moments.append(Moment(at, values.get(drive.speed), values.get(drive.steering) if drive.steering else None))
            driving.seen = seen_in(drive, driving.moments)
            live.used_at = time.monotonic()
            if driving.seen.done or driving.seen.too_fast or at > LONGEST_DRIVE_S:
                break
            if at - drawn > REDRAWN_S:
                drawn = at
                live.version += 1
            time.sleep(0.1)
        seen = seen_in(drive, driving.moments)
        _write(live, module, driving.step.name, DONE if seen.done else FAILED, seen.says(drive))
    finally:
        driving.over = True
        live.version += 1
