"""Charging: the lamp first, volts at idle and raised speed, unloaded and loaded, their trend, amperes, cable, sense wire and ripple."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ...base.judgement import judged
from ...base.lead_acid import charge_of
from ...base.quantity import show
from ...bench.case import Case, Read
from ...bench.common import RIPPLE_MOST
from ...bench.decide import by_reading
from ...bench.family import Check, Column, Family, Setting
from ...bench.judged import Band, Chart, Dot, Figures, Judged, School, Service
from ...check import Limit, Verdict
from ...check.judge import COVERAGE
from .. import cautions
from ..common import PRACTICE, SYSTEM, TYPE, ahead, batteries, check_in, current, held, limit, not_comparable, scaled, unsigned
from ..trend import Trend, trend_of

PLACE = 30

# By school: charging volts of 12 V. Common practice, no source; a managed alternator's own figures are the maker's.
SCHOOLS = {"13.5-14.7": (13.5, 14.7), "13.0-14.5": (13.0, 14.5), "managed": (12.5, 15.0)}
# A cold battery takes more volts and a hot one less, and many regulators follow that, though not all: the band opens to the side to which
# they go and closes on neither. Lead-acid charging goes by 3 to 5 mV per kelvin and cell; regulators in a hot bay fall by about 10 mV per
# kelvin. From memory; no source at hand.
MEANT_AT = 20.0  # °C, for which the schools are meant
COLD_RISE = judged("CHARGING_COLD_RISE", 0.024, "V/K", "by which charging volts of 12 V may be higher below 20 °C")
HOT_FALL = judged("CHARGING_HOT_FALL", 0.010, "V/K", "by which charging volts of 12 V may be lower above 20 °C")
COLDEST, HOTTEST = -30.0, 80.0  # °C, beyond which nothing is said of it
CHARGE_CABLE_MOST = judged("CHARGE_CABLE_MOST", 0.3, "V", "what the output cable of an alternator may lose at the most")
CHARGE_GROUND_MOST = judged("CHARGE_GROUND_MOST", 0.2, "V", "what may be lost between an alternator's case and the minus post")
EXCITATION_LEAST = judged("EXCITATION_LEAST_V", 9.0, "V", "what the exciter wire brings at the least, unplugged, key on")
SENSE_MOST = judged("SENSE_MOST", 0.2, "V", "by which the sense wire may be below the battery's posts")
AMPS_SHARE = judged("OUTPUT_SHARE", 0.8, "share", "of its rating that an alternator gives at raised speed when all is switched on")
NOT_CHARGING = judged("NOT_CHARGING_V", 0.2, "V", "above rest up to which running volts are no charging at all")
RUNNING = ("idle", "raised", "loaded")

CHECKS = (
    Check("raised", "volts at the posts at about 2000 r/min", ("V",), aside=True),
    Check("idle", "volts at the posts at idle", ("V",), aside=True),
    Check("loaded", "volts at the posts at about 2000 r/min, lamps and blower on", ("V",), aside=True),
    Check("lamp_key", "charge lamp with the key on, engine off", words=("on", "off", "has none"), aside=True),
    Check("lamp_running", "charge lamp with the engine running", words=("off", "dim", "on", "has none"), aside=True),
    Check("rest", "volts at the posts before, engine off", ("V",), aside=True),
    Check("amps", "output amperes, all switched on", ("A",), aside=True),
    Check(
        "ripple",
        "ripple at the posts, peak to peak",
        ("V",),
        aside=True,
        beyond=("", "A diode is open or shorted."),
        then="Take a capture: missing pulses tell an open diode.",
    ),
    Check(
        "cable_drop",
        "output stud to the plus post, loaded",
        ("V",),
        aside=True,
        beyond=("", "The output cable, its link or a lug loses it."),
        then="Read across each lug and the link; clean and tighten, or renew the cable.",
    ),
    Check(
        "ground_drop",
        "alternator's case to the minus post, loaded",
        ("V",),
        aside=True,
        beyond=("", "Its bracket or a strap loses it."),
        then="Clean the bracket's seats and the straps.",
    ),
    Check(
        "excitation",
        "exciter wire, unplugged, key on",
        ("V",),
        aside=True,
        beyond=("It brings too little.", ""),
        then="Follow it back: plug, lamp, fuse, key.",
    ),
    Check(
        "sense_drop",
        "plus post to the sense pin at the regulator's plug, running",
        ("V",),
        aside=True,
        beyond=("", "The regulator sees too little and charges too high."),
        then="Follow the sense wire: fuse, plug.",
    ),
    Check("other_battery", "with a good battery in its place", words=("comes up", "no change"), aside=True),
    Check("sense", "sense wire at the regulator's plug, at the same speed as the volts at the posts", ("V",), aside=True),
    Check(
        "belt",
        "belt and pulley",
        words=("sound", "loose or squeals", "slips", "missing"),
        good=lambda case: "sound",
        bad="Tension or renew it, look at the pulley and the tensioner, then read again.",
    ),
)
_LOW_THEN = "Lamp, excitation, belt and cable first; the alternator last."
_HIGH_THEN = "Read the sense wire and the joints of the regulator; the battery is boiled meanwhile."
_BEYOND = ("Too little to charge the battery.", "Too much: it boils the battery and burns lamps.")


def school(case: Case) -> str:
    """The school that charging is judged by."""
    return case.word("school") or "13.5-14.7"


def charging_limit(case: Case, name: str = "") -> Limit:
    """The limit of charging volts: what was given for a reading or for the volts at all, else that of the school."""
    given = case.given(name) or case.given("volts")
    if given is not None:
        return given
    return _of_school(case, school(case), _warmth(case, name))


def _warmth(case: Case, name: str) -> float | None:
    """How warm it was at a reading, or at the last one of all; None where nobody noted it."""
    own = case.reads.get(name, ()) if name else [read for each in RUNNING for read in case.reads.get(each, ())]
    return next((read.noted.celsius for read in reversed(own) if read.noted.celsius is not None), None)


def _of_school(case: Case, name: str, celsius: float | None) -> Limit:
    """The band of a school, opened for the cold or the heat. A managed alternator's range holds that already."""
    least, most = SCHOOLS[name]
    source = f"{PRACTICE}: school of {name.replace('-', ' to ')}"
    if celsius is None or name == "managed" or celsius == MEANT_AT:
        return limit(case, least, most, source)
    off = min(max(celsius, COLDEST), HOTTEST) - MEANT_AT
    return limit(case, least - HOT_FALL * max(off, 0.0), most + COLD_RISE * max(-off, 0.0), f"{source}, opened for {celsius:.4g} °C")


def points(case: Case) -> list[tuple[float, Read]]:
    """Minutes and the reading of everything that was read over time while it ran: in a table, or with its time beside it."""
    found = [(row["minutes"].value, row["volts"]) for row in case.rows]
    for name in RUNNING:
        found += [(read.noted.minutes, read) for read in case.reads.get(name, ()) if read.noted.minutes is not None]
    return sorted(found, key=lambda point: point[0])


def trend(case: Case) -> Trend | None:
    """The trend of what was read over time; None where there is none."""
    own = points(case)
    if len(own) < 2:
        return None
    reads = [read for _, read in own]
    return trend_of(
        [(minutes, read.value) for minutes, read in own], max(map(case.u, reads)), charging_limit(case), max(map(case.blur, reads))
    )


def flat(case: Case) -> bool:
    """Whether the battery was flat when charging began."""
    rest = case.value("rest")
    return rest is not None and charge_of(rest / batteries(case), None, case.word("type"))[1] < 50.0


def _running(case: Case, name: str, read: Read, moving: Trend | None) -> Judged:
    own = charging_limit(case, name)
    check = replace(check_in(CHECKS, name), beyond=_BEYOND, then=_LOW_THEN if read.value < own.least else _HIGH_THEN)
    found = by_reading(case, check, read, own)
    low = found.verdict is Verdict.OUTSIDE and found.limit is not None and read.value < found.limit.least
    if not low:
        return found
    if moving is not None and moving.verdict is not Verdict.OUTSIDE and not (name == "loaded" and moving.verdict is Verdict.WITHIN):
        return not_comparable(found, "The volts are still on their way: their trend counts.", moving.then)
    rest = case.value("rest")
    if rest is not None and read.value <= rest + scaled(case, NOT_CHARGING):
        return replace(found, because=f"{found.because} That is what the battery has by itself: nothing is charged.")
    if moving is None and flat(case):
        return not_comparable(
            found, "The battery was flat, and a flat one holds the first minutes down.",
            "Let it run at raised speed and note the volts every five minutes: judge where they go.",
        )  # fmt: skip
    if rest is None and moving is None:
        return replace(found, then=f"{found.then} Was the battery flat, watch for ten minutes first: it may only be coming up.")
    return found


def _trend(case: Case, moving: Trend) -> Judged:
    last = points(case)[-1][1]
    u = case.u(last)
    return Judged(
        "trend", moving.verdict, last.value, "V", moving.says, u, limit=charging_limit(case), guard=COVERAGE * u, then=moving.then
    )


def _lamp(case: Case) -> list[Judged]:
    key, running = case.answer("lamp_key"), case.answer("lamp_running")
    found = []
    if key == "on":
        found.append(Judged("lamp_key", Verdict.WITHIN, key, "", "The charge lamp comes on with the key: it and its wire conduct."))
    elif key == "off":
        found.append(
            Judged(
                "lamp_key",
                Verdict.OUTSIDE,
                key,
                "",
                "The charge lamp stays dark with the key on: lamp, fuse or exciter wire.",
                then="Unplug the exciter wire and hold it to ground, key on: a lamp that lights now is good, and so is its wire.",
            )
        )
    if running == "off":
        because = "The charge lamp goes out." if key != "off" else "It was dark before: that it stays dark tells nothing."
        found.append(Judged("lamp_running", Verdict.WITHIN if key != "off" else Verdict.NOT_COMPARABLE, running, "", because))
    elif running in ("dim", "on"):
        says = "glows: a diode or a joint" if running == "dim" else "stays on: nothing is charged, or a diode is gone"
        found.append(Judged("lamp_running", Verdict.OUTSIDE, running, "", f"With the engine running the charge lamp {says}.",
                            then="Read the volts at the posts at raised speed."))  # fmt: skip
    return found


def _amps(case: Case) -> list[Judged]:
    """Amperes count where the volts give way: an alternator that is not asked gives little."""
    read, rated, loaded = current(case, "amps"), case.known("rated"), case.value("loaded")
    if read is None:
        return []
    usual = Limit("A", AMPS_SHARE * rated, source=f"{PRACTICE}: {100 * AMPS_SHARE:.0f} % of {rated:g} A") if rated else None
    check = replace(check_in(CHECKS, "amps"), beyond=("It does not give what it is rated for.", ""), then="Belt and excitation first.")
    if case.given("amps") is None and (loaded is None or loaded >= charging_limit(case, "loaded").least):
        because = f"{show(read.value, 'A')}: no more is asked of it while the volts hold."
        return [Judged("amps", Verdict.WITHIN, read.value, "A", because, case.u(read))] if loaded is not None else []
    found = held(case, check, read, usual)
    if found.verdict is Verdict.WITHIN and loaded is not None:
        found = replace(found, because=f"{found.because} It gives all it has, and more is asked of it.")
    return [found]


def _sense(case: Case) -> list[Judged]:
    """What the sense wire loses, the regulator adds at the battery; it is held against the volts at raised speed where they were read."""
    sense, posts = case.read("sense"), next((case.read(name) for name in ("raised", "loaded", "idle") if case.read(name)), None)
    if sense is None or posts is None:
        return []
    lost = posts.value - sense.value
    check = Check(
        "sense", "", ("V",), beyond=("", "The regulator sees too little and charges too high."), then="Follow the sense wire: fuse, plug."
    )
    read = replace(sense, measured=replace(sense.measured, value=lost), typed=show(lost, "V"))
    return [held(case, check, read, limit(case, most=SENSE_MOST))]


def _derive(case: Case) -> Sequence[Judged]:
    moving = trend(case)
    found = _lamp(case)
    found += [_running(case, name, case.reads[name][-1], moving) for name in RUNNING if name in case.reads and _counts(case, name, moving)]
    if moving is not None:
        found.append(_trend(case, moving))
    found += [*_amps(case), *_sense(case)]
    for name, usual in (
        ("ripple", Limit("V", most=RIPPLE_MOST, source=PRACTICE)),
        ("cable_drop", limit(case, most=CHARGE_CABLE_MOST)),
        ("ground_drop", limit(case, most=CHARGE_GROUND_MOST)),
        ("sense_drop", limit(case, most=SENSE_MOST)),
        ("excitation", limit(case, EXCITATION_LEAST)),
    ):
        found += [held(case, check_in(CHECKS, name), unsigned(read), usual) for read in case.reads.get(name, ())[-1:]]
    return found


def _counts(case: Case, name: str, moving: Trend | None) -> bool:
    """Whether a running reading is judged by itself: one with a time is part of the trend."""
    return moving is None or case.reads[name][-1].noted.minutes is None


def _cause(case: Case, findings: Sequence[Judged]) -> tuple[str, str]:
    outside = {found.check: found for found in findings if found.verdict is Verdict.OUTSIDE}
    within = {found.check for found in findings if found.verdict is Verdict.WITHIN}
    levels = [outside[name] for name in (*RUNNING, "trend") if name in outside]
    low = [one for one in levels if one.limit is not None and isinstance(one.value, float) and one.value < one.limit.least]
    if len(low) < len(levels):
        return (
            ("sense", "The sense wire makes it charge too high.")
            if {"sense", "sense_drop"} & set(outside)
            else ("regulator", "The regulator lets the volts run up.")
        )
    if not low:
        for name, says in (("ripple", "A diode is gone: the ripple tells."), ("cable_drop", "The output cable loses too much.")):
            if name in outside:
                return ("diode" if name == "ripple" else "cable"), says
        return ("diode", "The lamp glows: a diode or a joint.") if case.answer("lamp_running") == "dim" else ("", "")
    for name, cause, says in (
        ("belt", "belt", "The belt does not drive it."),
        ("lamp_key", "excitation", "It is not excited: lamp, fuse or exciter wire."),
        ("excitation", "excitation", "It is not excited: the exciter wire brings too little."),
        ("cable_drop", "cable", "What it gives is lost in the output cable."),
        ("ground_drop", "ground", "What it gives is lost on the ground side."),
    ):
        if name in outside:
            return cause, says
    if "amps" in within and case.known("rated"):
        return "load", "It gives all it has: more is asked of it than it is made for, or the battery takes it all."
    if {"belt", "cable_drop"} <= within and ({"lamp_key", "excitation"} & within):
        return "alternator", "Belt, excitation and cable are good: the alternator itself does not charge."
    return "", "It does not charge: belt, excitation and cable come before the alternator."


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    cause, says = _cause(case, findings)
    moving = trend(case)
    amps, drop = current(case, "amps"), case.value("cable_drop")
    figures: Figures = {"cause": cause or None, "cable_ohms": abs(drop) / amps.value if drop is not None and amps and amps.value else None}
    if moving is not None:
        figures |= {"goes": moving.goes, "volts_per_minute": moving.slope, "more_minutes": moving.more_minutes, "expects_v": moving.expects}
    told = [says] if says else []
    if figures["cable_ohms"]:
        told.append(f"The output cable has {show(float(figures['cable_ohms'] or 0.0), 'Ω')}.")
    return Service(figures, tuple(told))


def _schools(case: Case) -> Sequence[School]:
    """Every school of charging volts on what was read last."""
    read = next((case.read(name) for name in ("raised", "loaded", "idle") if case.read(name)), None)
    last = read or (case.rows[-1]["volts"] if case.rows else None)
    if last is None:
        return ()
    found = []
    for name in SCHOOLS:
        own = _of_school(case, name, last.noted.celsius)
        words = f"The school of {name.replace('-', ' to ')} V" if name != "managed" else "That of managed alternators"
        shows = f"{show(own.least, 'V')} to {show(own.most, 'V')}"
        found.append(
            School(words, shows, PRACTICE, by_reading(case, replace(check_in(CHECKS, "raised"), name="school"), last, own).verdict)
        )
    return found


def _needed(case: Case) -> Sequence[str]:
    return () if case.rows or any(name in case.reads for name in RUNNING) else ("raised",)


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    says = []
    outside = any(found.verdict is Verdict.OUTSIDE for found in findings)
    if outside and "lamp_key" not in case.reads:
        says.append("Look at the charge lamp first: on with the key, out with the engine running. It is free.")
    if outside and "belt" not in case.reads:
        says.append(f"{ahead(FAMILY, 'belt')}: look, and press it.")
    if outside and school(case) != "managed":
        says.append("Is it managed by a module? Then 12.5 to 15 V are meant, and its maker's range is the limit (school: managed).")
    return says


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    own = points(case)
    if len(own) < 2:
        return None
    band = charging_limit(case)
    return Chart("Charging volts", ("minutes", "min"), ("at the posts", "V"), (), (Band("as it should be", band.least, band.most),),
                 tuple(Dot(minutes, read.value) for minutes, read in own))  # fmt: skip


FAMILY = Family(
    "charge",
    "Charging",
    "alternator generator charging volts lamp excitation ripple trend regulator",
    "raised",
    CHECKS,
    (cautions.HANDS, cautions.LEFT_ON, cautions.UNFUSED),
    (
        SYSTEM,
        TYPE,
        Setting("school", "charging volts by the school of", words=tuple(SCHOOLS), usual="13.5-14.7", house="charging"),
        Setting("rated", "amperes on the alternator's plate", "A"),
    ),
    (Column("minutes", "since it was started", "min"), Column("volts", "at the posts", "V")),
    (Check("volts", "charging volts at all", ("V",)), Check("trend", "where the volts go", ("V",))),
    needed=_needed,
    derive=_derive,
    serve=_serve,
    advise=_advise,
    chart=_chart,
    schools=_schools,
    table="Volts over minutes",
    compared=False,
    group="Starting and charging",
)
