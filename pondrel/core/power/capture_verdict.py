"""What a capture of starting or charging comes to: what was seen in it, held against the limits of cranking and charging."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ..base.judgement import OWN_RULE, judged
from ..base.quantity import show
from ..bench.case import Case
from ..bench.common import RIPPLE_MOST
from ..bench.decide import by_number
from ..bench.family import Check, Family, Setting
from ..bench.judged import Chart, Figures, Judged, Line, Outcome, Service
from ..check import Limit, Verdict, worst
from ..wave.capture import Capture
from . import cautions
from .capture import Seen, seen_in
from .common import PRACTICE, SYSTEM, batteries, limit
from .families.charge import SCHOOLS
from .families.crank import CRANK_LEAST, SPEED_LEAST
from .trend import trend_of

__all__ = ["CAPTURE", "capture_json", "capture_outcome"]

COMPRESSION_LEAST = judged("COMPRESSION_LEAST", 0.75, "share", "of the deepest compression that the weakest one has at the least", OWN_RULE)
READ_WITHIN = judged("CAPTURE_WITHIN", 0.01, "share", "of full level by which a capture's volts may be off", OWN_RULE)

_LOWEST = Check("lowest", "lowest volts while cranking, after the inrush", ("V",),
                beyond=("That alone does not name the battery: drops and amperes tell.", ""),
                then="Load test the battery, and read the drop on both sides while it is cranked.")  # fmt: skip
_RPM = Check("rpm", "cranking speed", ("rpm",), beyond=("It turns too slowly.", ""), then="Read the drops; turn the engine by hand.")
_CHARGE = Check("charge", "charging volts at its end", ("V",), beyond=("Too little to charge the battery.", "Too much."),
                then="Look at the charge lamp, the belt and the exciter wire first.")  # fmt: skip
_RIPPLE = Check(
    "ripple", "ripple, peak to peak", ("V",), beyond=("", "A diode is open or shorted."), then="Test the diodes, or renew the rectifier."
)
CAPTURE = Family(
    "capture",
    "Capture of starting or charging",
    "capture waveform scope",
    "lowest",
    (),
    (cautions.NEUTRAL, cautions.HANDS, cautions.LEFT_ON),
    (
        SYSTEM,
        Setting("cylinders", "cylinders of the engine, four strokes", "", usual=4.0),
        Setting("pole_pairs", "pole pairs of the alternator", "", usual=6.0),
        Setting("full_scale", "volts at full scale of a WAV", "V"),
        Setting("school", "charging volts by the school of", words=tuple(SCHOOLS), usual="13.5-14.7", house="charging"),
    ),
    derived=(_LOWEST, _RPM, _CHARGE, _RIPPLE),
    group="Starting and charging",
)
_CYLINDERS = (1, 16)


def capture_outcome(case: Case, capture: Capture) -> tuple[Seen, Outcome]:
    """What is in a capture, and what it comes to. Raises CaptureError."""
    cylinders = int(min(max(case.number("cylinders"), _CYLINDERS[0]), _CYLINDERS[1]))
    seen = seen_in(capture, batteries(case), cylinders)
    found = [*_cranking(case, seen, cylinders), *_charging(case, seen), *_rippling(seen, case)]
    ordered = tuple(sorted(found, key=lambda one: tuple(Verdict).index(one.verdict)))
    then = [one.then for one in ordered if one.then] or (["By what it shows all is well."] if found else [_nothing(seen)])
    outcome = Outcome(
        "capture",
        worst(one.verdict for one in found),
        ordered,
        (),
        _service(case, seen, cylinders),
        tuple(dict.fromkeys(then)),
        (),
        "",
        _chart(seen),
    )
    return seen, outcome


def _nothing(seen: Seen) -> str:
    if not seen.scaled:
        return "The scale of this WAV is not known: say what full scale is, as in full_scale=20."
    return "Neither cranking nor charging is to be seen in it."


def _by(case: Case, check: Check, value: float, own: Limit, told: str, u: float | None = None) -> Judged:
    return by_number(case, check, value, READ_WITHIN * abs(value) if u is None else u, own, told)


def _cranking(case: Case, seen: Seen, cylinders: int) -> list[Judged]:
    own = seen.cranking
    if own is None:
        return []
    found = []
    if seen.scaled:
        told = f"While cranked for {own.end - own.begin:.1f} s it keeps {show(own.lowest, 'V')}"
        found.append(_by(case, _LOWEST, own.lowest, limit(case, CRANK_LEAST), told))
    if own.pulses_hz is not None:
        rpm = _rpm(own.pulses_hz, cylinders)
        told = f"{own.pulses_hz:.1f} compressions a second, {cylinders} cylinders: {rpm:.0f} r/min"
        found.append(_by(case, _RPM, rpm, Limit("rpm", SPEED_LEAST, source=PRACTICE), told, 0.03 * rpm))
    return found


def _rpm(pulses_hz: float, cylinders: int) -> float:
    return pulses_hz * 120.0 / cylinders


def _charging(case: Case, seen: Seen) -> list[Judged]:
    least, most = SCHOOLS[case.word("school")]
    own = limit(case, least, most, f"{PRACTICE}: school of {case.word('school').replace('-', ' to ')}")
    if len(seen.points) > 1:
        moving = trend_of(seen.points, READ_WITHIN * seen.points[-1][1], own, 0.2 * READ_WITHIN * seen.points[-1][1])
        if moving is not None:
            u = READ_WITHIN * seen.points[-1][1]
            return [Judged("trend", moving.verdict, seen.points[-1][1], "V", moving.says, u, limit=own, then=moving.then)]
    if seen.charge is None:
        return []
    found = _by(case, _CHARGE, seen.charge, own, f"At its end {show(seen.charge, 'V')} stand there")
    return [found]


def _rippling(seen: Seen, case: Case) -> list[Judged]:
    own = seen.ripple
    if own is None:
        return []
    found = []
    if seen.scaled:
        told = f"Ripple {show(own.peak_to_peak, 'V')} at {own.hertz:.0f} Hz"
        usual = Limit("V", most=RIPPLE_MOST, source=PRACTICE)
        found.append(_by(case, _RIPPLE, own.peak_to_peak, usual, told, 0.03 * own.peak_to_peak))
    if own.missing:
        because = f"In each turn there are {own.humps} pulses and a gap, where six even ones belong: pulses of a diode are missing."
        found.append(Judged("pulses", Verdict.OUTSIDE, "missing", "", because, then="Test the diodes, or renew the rectifier."))
    else:
        found.append(Judged("pulses", Verdict.WITHIN, "even", "", "Its pulses are even: no diode is missing."))
    return found


def _service(case: Case, seen: Seen, cylinders: int) -> Service:
    own, ripple = seen.cranking, seen.ripple
    figures: Figures = {}
    says = []
    if own is not None:
        volts = {
            "rest_v": own.rest,
            "key_on_v": own.before,
            "inrush_v": own.inrush,
            "lowest_v": own.lowest,
            "crank_v": own.mean,
            "recovery_v": own.recovery,
        }
        figures |= {name: value if seen.scaled and value is not None else None for name, value in volts.items()}
        figures |= {"crank_s": own.end - own.begin, "started": own.started, "compressions_hz": own.pulses_hz}
        figures["rpm"] = _rpm(own.pulses_hz, cylinders) if own.pulses_hz else None
        figures["weakest_compression"] = min(own.depths) if own.depths else None
        says.append("It starts." if own.started else "It does not start in this capture.")
        if own.depths and min(own.depths) < COMPRESSION_LEAST:
            says.append(
                f"The compressions differ: the weakest has {100 * min(own.depths):.0f} % of "
                "the strongest. A hint: a compression tester decides."
            )
    figures["charge_v"] = seen.charge
    if ripple is not None:
        figures |= {
            "ripple_pp_v": ripple.peak_to_peak if seen.scaled else None, "ripple_hz": ripple.hertz, "missing_pulses": ripple.missing,
            "alternator_rpm": 60.0 * ripple.turns_hz / case.number("pole_pairs"),
        }  # fmt: skip
        says.append(f"By its ripple the alternator turns about {60.0 * ripple.turns_hz / case.number('pole_pairs'):.0f} r/min.")
    figures |= dict(seen.amps)
    return Service(figures, tuple(says))


def _chart(seen: Seen) -> Chart | None:
    if len(seen.line) < 2:
        return None
    points = tuple((at, value) for at, low, high in seen.line for value in ((low, high) if high - low > 0 else (low,)))
    return Chart("The capture", ("time", "s"), ("at the posts", "V" if seen.scaled else ""), (Line("volts", points),))


def capture_json(capture: Capture, seen: Seen, outcome: Outcome) -> Mapping[str, object]:
    """As the command line writes it: an outcome, and what is in the capture."""
    events: Sequence[Mapping[str, object]] = [{"name": one.name, "at_s": one.at, "volts": one.volts} for one in seen.events]
    return {
        **outcome.as_json(),
        "capture": {
            "samples": capture.count, "seconds": capture.seconds, "samples_per_second": 1.0 / capture.step,
            "channels": [{"name": channel.name, "unit": channel.unit or None} for channel in capture.channels],
        },
        "events": events,
        "compressions": list(seen.cranking.depths) if seen.cranking else [],
    }  # fmt: skip
