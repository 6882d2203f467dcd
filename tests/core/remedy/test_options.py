"""The ways side by side: what is offered, what is never offered, and what each comes to."""

from __future__ import annotations

from dataclasses import replace

import pytest

from pondrel.core.base.errors import PondrelError
from pondrel.core.bench import Judged
from pondrel.core.check import Verdict
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.sheet import Access
from pondrel.core.power.guide import WAYS as GUIDED
from pondrel.core.remedy.builds import BUILDS, build_in_words
from pondrel.core.remedy.experience import Mended, experience_of
from pondrel.core.remedy.failing import UNKNOWN, failure_of, failure_on_the_bench
from pondrel.core.remedy.gates import FOUND, KILLED, MIMIC, NOT_FOUND, Met, gates_for, open_gates
from pondrel.core.remedy.money import Rates, amount_from, checked_rates
from pondrel.core.remedy.offer import OFFER, Offer, offers_from
from pondrel.core.remedy.options import ALL, FAILED, OLD, ONE_BY_ONE, PAIR, TOGETHER, compared, times_in_words
from pondrel.core.remedy.registry import WAYS, ways_for
from pondrel.core.remedy.safety import safety_function
from pondrel.core.remedy.target import Found, Member, Target, member_in_words, members_on, pair_of, target_in_words, target_on
from pondrel.core.vehicle.ledger import Fitted, warranty_of
from pondrel.core.vehicle.mileage import Mileage

RATES = Rates("€", 60.0, 0.0, shipped=False)
SKIRT = Access("skirt", 30.0, "skirt under the step")
FOUR = tuple(Member(name, name, 9.0, "failed" if name == "rear left valve" else "good") for name in
             ("rear left valve", "rear right valve", "front left valve", "front right valve"))  # fmt: skip


def valve(**changed) -> Target:
    """A failed valve of four behind a skirt that is off already."""
    whole = Target("Y3", "rear left valve", BUILDS["coil"], Found(0.98, True, 40.0), "", FOUR, (SKIRT,), frozenset({"skirt"}))
    return replace(whole, **changed)


def found(target: Target, *offers: Offer, years: float = 3.0, school: str = ONE_BY_ONE, rates: Rates = RATES):
    return compared(target, {offer.way: offer for offer in offers}, rates, years, school)


def test_today_is_what_is_not_yet_open_the_work_the_closing_and_the_parts():
    new = found(valve(), Offer("new", price=100.0, minutes=20.0, once=15.0)).find("new:failed")
    assert new.minutes == pytest.approx(20.0 + 30.0)  # the skirt is off, and goes back on
    assert new.today == pytest.approx(100.0 + 15.0 + 50.0) and new.parts == 115.0
    shut = found(valve(gained=frozenset()), Offer("new", price=100.0, minutes=20.0, once=15.0)).find("new:failed")
    assert shut.today == pytest.approx(new.today + 30.0)
    pair = found(valve(), Offer("new", price=100.0, minutes=20.0, once=15.0)).find("new:pair")
    assert pair.today == pytest.approx(215.0 + 30.0 + 40.0)  # once is once, and the way in is walked once


def test_what_comes_back_of_what_was_mended_is_told_apart_from_what_is_left_in():
    new = found(valve(), Offer("new", price=100.0)).find("new:failed")
    life = replace(BUILDS["coil"].life, early=WAYS["new"].early)
    assert new.returns == pytest.approx(life.chance_within(3.0)) and [name for name, _ in new.left] == [m.name for m in FOUR[1:]]
    assert all(chance == pytest.approx(BUILDS["coil"].life.aged(9.0).chance_within(3.0)) for _, chance in new.left)
    assert new.itself == "1 time in 22" and new.back == "likely once" and times_in_words(0.9) == "most likely"
    assert times_in_words(0.67) == times_in_words(0.5) == "1 time in 2" and times_in_words(0.03) == "hardly ever"
    whole = found(valve(), Offer("new", price=100.0)).find("new:old")
    assert whole.left == () and whole.itself == "" and whole.returns == pytest.approx(1.0 - (1.0 - new.returns) ** 4)


def test_a_set_is_offered_as_one_pair_and_all_and_none_of_them_twice():
    whole = found(valve(), Offer("new", price=100.0))
    assert [o.which for o in whole.options if o.way.name == "new"] and {FAILED, PAIR, OLD} <= {o.which for o in whole.options}
    assert whole.find("new:pair").members[1].name == "rear right valve"
    two = found(valve(members=FOUR[:2]), Offer("new", price=100.0))
    assert {o.which for o in two.options if o.way.name == "new"} == {FAILED, PAIR}
    one = found(valve(members=FOUR[:1]), Offer("new", price=100.0))
    assert {o.which for o in one.options if o.way.name == "new"} == {FAILED}


def test_what_is_under_warranty_is_left_alone_and_a_claimed_part_is_not_paid():
    line = Fitted(1, "front left valve", "Y1", "2025-09-10", Mileage(100.0, "km"), "new", "Hollin Parts", 24, None, None, "", "")
    warranty = warranty_of(line, "2026-11-27", Mileage(110.0, "km"))
    assert warranty.months_left == 9
    young = replace(FOUR[2], fitted=line, warranty=warranty, years=1.2)
    whole = found(valve(members=(FOUR[0], FOUR[1], young, FOUR[3])), Offer("new", price=100.0, minutes=20.0))
    assert young not in whole.find("new:old").members and whole.find("new:old").count == 3
    assert young in whole.find("new:all").members
    own = replace(FOUR[0], fitted=line, warranty=warranty)
    claimed = found(valve(members=(own, *FOUR[1:])), Offer("new", price=100.0, minutes=20.0)).find("new:failed")
    assert claimed.claimed and claimed.parts == 0.0 and not claimed.lacks


def test_renewing_the_aged_set_spares_visits_and_the_schools_differ():
    whole = found(valve(), Offer("new", price=100.0, minutes=20.0))
    one, every = whole.find("new:failed"), whole.find("new:old")
    assert every.today > one.today and every.outlook.visits < one.outlook.visits / 2
    together = found(valve(), Offer("new", price=100.0, minutes=20.0), school=TOGETHER).find("new:failed")
    assert together.outlook.average > one.outlook.average and together.outlook.visits < one.outlook.visits
    assert found(valve(), Offer("new", price=100.0), years=5.0).find("new:failed").outlook.average > one.outlook.average


def test_a_day_off_the_road_counts_for_the_wait_and_the_work():
    plain = found(valve(), Offer("new", price=100.0, days=3.0, minutes=20.0)).find("new:failed")
    dear = found(valve(), Offer("new", price=100.0, days=3.0, minutes=20.0), rates=replace(RATES, day=50.0)).find("new:failed")
    assert dear.today - plain.today == pytest.approx(50.0 * plain.days) and plain.days > 3.0
    assert plain.off_road == "1 h, and 3 days for the part"


def test_if_it_may_be_another_part_the_search_goes_on_and_is_counted():
    sure = found(valve(), Offer("new", price=100.0)).find("new:failed")
    unsure = found(valve(found=Found(0.7, False, 40.0)), Offer("new", price=100.0)).find("new:failed")
    assert unsure.outlook.average - sure.outlook.average == pytest.approx((0.3 - 0.02) * 40.0, abs=0.5)
    assert unsure.outlook.none < sure.outlook.none


def test_without_a_price_nothing_is_reckoned_and_what_costs_none_is():
    whole = found(valve())
    assert whole.find("new:failed").lacks == "its price" and whole.find("new:failed").outlook is None and whole.alike == 0
    assert "Write a price" in whole.says
    joint = Target("G3", "ground stud", BUILDS["joint"], Found(0.99, True), "", (member_in_words("ground stud", "failed"),))
    assert all(option.outlook for option in found(joint).options if option.way.cures)


@pytest.mark.parametrize(
    ("words", "function"),
    [
        ("brake light switch", "brakes"), ("steering lock module", "steering"), ("seat-belt pretensioner", "airbags and belts"),
        ("inertia switch", "crash and emergency cut-off"), ("throttle body", "the pedal that drives it"),
        ("stalls when warm", "a drive that stops by itself"), ("installed last year", ""),
        ("dies under load", "a drive that stops by itself"),
        ("interlock loop plug", "high voltage and its interlock"),
        ("park lock solenoid", "a lock that holds people or loads"), ("heated seat relay", ""), ("breaker of the roof unit", ""),
    ],
)  # fmt: skip
def test_a_safety_function_is_known_by_its_words(words, function):
    assert safety_function(words) == function


@pytest.mark.parametrize("build", list(BUILDS))
def test_no_way_around_a_safety_function_is_ever_offered(build):
    target = Target("X", "x", BUILDS[build], Found(1.0, True), "brakes", (member_in_words("x", "failed"),))
    whole = found(target)
    assert all(option.way.cures for option in whole.options)
    assert all(option.refused for option in whole.refused) and {o.way.name for o in whole.refused} >= {"leave"}
    free = found(replace(target, safety=""))
    assert {o.way.name for o in free.options if not o.way.cures} == {o.way.name for o in whole.refused}


def test_every_build_can_be_mended_somehow_and_left():
    for build in BUILDS.values():
        names = {way.name for way in ways_for(build)}
        assert "leave" in names and any(WAYS[name].cures for name in names), build.name


def of(kind: str, built: str, mode: str, called: str = "it") -> Target:
    """A part of a circuit that failed in a mode."""
    part = next(p for p in parse_sheet(OF_EACH).parts.values() if p.kind.name == kind)
    failure = failure_of(part, mode)
    assert failure.mode == mode and part.kind.built == built
    one = (Member("X1", called, None, "failed"),)
    return Target("X1", called, BUILDS[built], Found(0.98, True), "", one, failure=failure)


OF_EACH = """
format: pondrel-sheet/1
title: one of each
places: {p: {at: post}, n: {at: minus}, a: {at: one}, b: {at: two}, c: {at: three}}
parts:
  BAT: {kind: battery, pins: {p: p, n: n}}
  F1: {kind: fuse, pins: {a: p, b: a}, rating: 10}
  Y1: {kind: solenoid, pins: {a: a, b: n}, ohms: 20, henries: 0.1}
  S1: {kind: switch, pins: {a: a, b: b}}
  M1: {kind: motor, pins: {a: b, b: n}, ohms: 1, amps: 4}
  K1: {kind: relay, suppressor: diode, pins: {"30": a, "87": c, "85": n, "86": b}}
  G1: {kind: alternator, pins: {p: p, n: n}}
states: {parked: {}}
"""


@pytest.mark.parametrize(
    ("kind", "built", "mode", "offered", "shut", "silent"),
    [
        ("solenoid", "coil", "open", {"new", "unit", "used", "by_hand"}, {"rebuild", "free", "adjust"}, set()),
        ("fuse", "fuse", "open", {"new"}, set(), {"clean", "terminal"}),
        ("fuse", "fuse", "high_resistance", {"clean", "terminal"}, {"new"}, set()),
        ("switch", "switch", "stuck_closed", {"free", "rebuild", "new"}, {"bypass"}, set()),
        ("switch", "switch", "high_resistance", {"free", "bypass", "new"}, {"adjust"}, set()),
        ("motor", "motor", "high_resistance", {"rebuild", "new"}, set(), set()),
        ("motor", "motor", "shorted", {"new"}, {"rebuild"}, set()),
        ("relay", "relay", "contact_welded", {"new"}, {"bypass", "board_repair"}, set()),
        ("relay", "relay", "suppressor_shorted", {"new", "board_repair"}, set(), set()),
        ("battery", "battery", "high_resistance", {"new"}, {"clean"}, set()),
        ("alternator", "alternator", "not_driven", {"belt"}, {"new", "rebuilt", "rebuild", "used"}, set()),
        ("alternator", "alternator", "field_open", {"new", "rebuild"}, set(), {"belt"}),
    ],
)  # fmt: skip
def test_what_does_nothing_for_how_it_failed_is_not_offered_and_the_page_says_why(kind, built, mode, offered, shut, silent):
    target = of(kind, built, mode)
    whole = found(target)
    ways, refused = {o.way.name for o in whole.options}, {o.way.name: o.refused for o in whole.refused}
    assert offered <= ways and shut == set(refused) and not silent & (ways | set(refused))
    assert all(target.failure.words in why for why in refused.values())
    assert len(whole.shut) == len(set(refused.values()))  # one line for all that the same speaks against


def test_while_nobody_knows_how_it_failed_all_but_the_rest_of_it_is_offered():
    ways = {o.way.name for o in found(valve()).options}
    assert {"rebuild", "free", "new"} <= ways  # it may only stick
    fuse = found(replace(of("fuse", "fuse", "open"), failure=UNKNOWN))
    assert "new" in {o.way.name for o in fuse.options} and "clean" not in {o.way.name for o in fuse.options}


def test_every_way_in_which_a_drawn_part_can_fail_has_one_that_mends_it(demo_sheets):
    for sheet in (*demo_sheets.values(), parse_sheet(OF_EACH)):
        for part in sheet.parts.values():
            for mode in part.modes:
                build, failure = BUILDS[part.kind.built], failure_of(part, mode.name)
                assert any(way.cures and way.helps(build, failure) for way in ways_for(build, failure)), (part.kind.name, mode.name)


def test_wrong_ohms_on_the_bench_are_the_winding_of_a_coil_and_say_nothing_of_a_motor():
    wrong = Judged("ohms", Verdict.OUTSIDE, 3.5, "Ω", "too low")
    sticks = Judged("click", Verdict.OUTSIDE, "no", "", "sticks")
    winding = failure_on_the_bench("coil", [wrong])
    assert {o.way.name for o in found(valve(failure=winding)).refused} == {"rebuild", "free", "adjust"}
    assert failure_on_the_bench("coil", [sticks, replace(wrong, verdict=Verdict.WITHIN)]) is UNKNOWN
    assert failure_on_the_bench("motor", [wrong]) is UNKNOWN


@pytest.mark.parametrize(
    ("called", "build"),
    [
        ("Ground cable", "wire"), ("starter relay", "relay"), ("Starter: worn brushes", "alternator"), ("Stator", "stator"),
        ("Battery worn out", "battery"), ("post clamp", "joint"), ("engine computer", "module"), ("thing", "part"),
        ("ignition switch", "switch"), ("capacitor of the board", "component"),
        ("lamp in the door switch", "lamp"), ("fuel pump motor", "motor"), ("shift solenoid", "coil"), ("regulator", "board"),
        ("announcement unit", "module"), ("charging unit", "alternator"), ("tank unit", "sensor"), ("radio", "module"),
    ],
)  # fmt: skip
def test_what_a_part_is_follows_from_the_word_that_stands_last(called, build):
    assert build_in_words(called).name == build


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("38.2", ""), ("38,2 Ω @20C, clicks", ""), ("33.0 @-15C", ""), ("38.2 ohms", ""),
        ("OL", "The new one is outside limits"), ("3.5", "outside limits by 31.5 Ω"), ("33.0 @20C", "outside limits"),
        ("12k", "outside limits"), ("clicks", "begins with no number"), ("38.2 @foo", "'@foo' is no condition"), ("", "no number"),
    ],
)  # fmt: skip
def test_the_new_one_is_held_against_the_limits_of_its_circuit(demo_sheets, text, says):
    sheet = demo_sheets["kneeling_valves"]
    target = target_on(sheet, sheet.parts["Y1"], Found(0.99, True), (member_in_words("left vent valve", "failed"),), (), "")
    new = found(target, Offer("new", price=100.0)).find("new:failed")
    gate = next(g for g in gates_for(target, new, {"measured": Met("done", text, "", "")}, (), None) if g.name == "measured")
    assert gate.numbered and "35.0 Ω to 41.0 Ω" in gate.detail
    assert (says in gate.stops) if says else not gate.stops
    assert gate.open is bool(says)


def test_a_part_without_limits_is_held_against_the_ohms_that_it_is_drawn_with():
    sheet = parse_sheet(OF_EACH)
    own = {name: target_on(sheet, sheet.parts[name], Found(0.99, True), (), (), "").limits for name in ("Y1", "S1")}
    assert [(limit.least, limit.most, limit.source) for limit in own["Y1"]] == [(18.0, 22.0, "as drawn")] and own["S1"] == ()
    rough = parse_sheet(OF_EACH.replace("ohms: 20,", "ohms: 20, tolerance: 0.35,"))
    assert target_on(rough, rough.parts["Y1"], Found(0.99, True), (), (), "").limits[0].most == pytest.approx(27.0)


def test_members_of_a_set_are_the_twins_on_the_sheet_with_their_ages(demo_sheets):
    sheet = demo_sheets["kneeling_valves"]
    part = sheet.parts["Y1"]
    line = Fitted(1, "right vent valve", "Y2", "2025-05-01", None, "new", "", None, None, None, "", "")
    members = members_on(sheet, part, [line], "2017", "2026-05-01", None, {"Y2": "good"})
    assert members[0].failed and members[0].years == pytest.approx(9.3, abs=0.1)
    assert [m.on_sheet for m in members][1:] == ["Y2"] and members[1].years == pytest.approx(1.0, abs=0.01) and members[1].state == "good"
    assert pair_of(members) is members[1]
    target = target_on(sheet, part, Found(0.9, True), members, (), "left front does not kneel")
    assert target.build.name == "coil" and target.behind and target.saved == 0.0 and target.opening == sum(a.minutes for a in target.behind)


def test_every_cause_of_a_guided_way_that_is_mended_is_known_to_be_built_somehow():
    for way in GUIDED.values():
        aims = {cause.aim for cause in way.causes}
        assert set(way.mends) <= aims and {one.built for one in way.mends.values()} <= set(BUILDS), way.name
        assert aims - set(way.mends) <= {"none", "load", "draws", "not_charged", "engine"}, way.name
        for cause in way.causes:  # what is mended is a thing, and what is wrong with it is said beside it
            own = way.mended(cause.name)
            assert (own.called and " loses" not in own.called) or cause.aim not in way.mends, cause.name
            assert (own.wrong == cause.title) is (cause.aim in way.mends)
    assert GUIDED["start"].mended("a bolt") is None


def test_a_part_on_no_sheet_is_known_by_its_name():
    target = target_in_words("Starter motor", Found(0.9, False), (member_in_words("Starter motor", "failed"),), "does not crank")
    assert target.build.name == "motor" and target.opening == 0.0 and target.safety == ""


def test_gates_ask_what_killed_it_and_what_mimics_it_before_something_new_goes_in():
    module = Target("M", "lamp module", BUILDS["module"], Found(0.9, True), "", (member_in_words("lamp module", "failed"),))
    new = found(module, Offer("new", price=300.0)).find("new:failed")
    gates = gates_for(module, new, {}, ("Battery",), None)
    names = {gate.name for gate in open_gates(gates)}
    assert {KILLED + name for name in BUILDS["module"].died_of} <= names and {MIMIC + name for name in BUILDS["module"].mimicked} <= names
    assert {"fits", "measured", "agreed", "safe"} <= names and "proved" not in names
    seen = {gate.name: Met(NOT_FOUND, "", "Oda", "") for gate in gates if gate.looks}
    seen |= {"fits": Met("done", "9W-1", "Oda", ""), "measured": Met("done", "4.1 V", "Oda", "")}
    assert not open_gates(gates_for(module, new, seen, (), Met("done", "", "Jonne", "")))
    outside = seen | {MIMIC + BUILDS["module"].mimicked[0]: Met(FOUND, "melted plug", "Oda", "")}
    stopped = open_gates(gates_for(module, new, outside, (), Met("done", "", "Jonne", "")))
    assert [gate.stops[:15] for gate in stopped] == ["Mend that first"]
    leave = found(module).find("leave:failed")
    assert {gate.name for gate in gates_for(module, leave, {}, (), None)} == {"proved", "safe", "agreed"}


def test_a_joint_that_is_cleaned_asks_for_no_new_part():
    joint = Target("G3", "ground stud", BUILDS["joint"], Found(0.99, True), "", (member_in_words("ground stud", "failed"),))
    option = found(joint).find("clean:failed")
    assert {gate.name for gate in gates_for(joint, option, {}, (), None)} == {"proved", "safe", "agreed"}
    unproved = gates_for(replace(joint, found=Found(0.6, False)), option, {}, (), None)
    assert "proved" in {gate.name for gate in open_gates(unproved)}
    reason = gates_for(replace(joint, found=Found(0.6, False)), option, {}, (), None, "seen burnt")
    assert "proved" not in {gate.name for gate in open_gates(reason)}


@pytest.mark.parametrize("text", ["-1", "1e3", "12.345", "a", "nan", "10000000", "٣"])
def test_what_is_no_amount_is_refused_in_a_sentence(text):
    with pytest.raises(PondrelError, match="must be an amount such as"):
        amount_from("The price", text)


def test_amounts_are_read_and_shown_as_people_write_them():
    assert amount_from("x", "1 234,5") == 1234.5 and amount_from("x", " ") is None
    assert (
        Rates().exact(37.97) == "37.97 €"
        and Rates().exact(0.999) == "1.00 €"
        and Rates("CHF").about(12345.6) == "12\N{NO-BREAK SPACE}346 CHF"
    )
    assert checked_rates({"currency": "CHF", "hourly": "98,5", "day": ""}) == {"currency": "CHF", "hourly": "98.5", "day": "0"}
    for wrong in ({"currency": "", "hourly": "60"}, {"currency": "€", "hourly": "0"}, {"currency": "12", "hourly": "60"}):
        with pytest.raises(PondrelError):
            checked_rates({"day": "", **wrong})


def test_the_last_price_counts_and_one_that_cannot_be_read_is_passed_over():
    given = [{"way": "new", "price": "10"}, {"way": "new", "price": "12", "months": "24"}, {"way": "used", "price": "x"}]
    assert offers_from(given) == {"new": Offer("new", price=12.0, months=24.0)}
    with pytest.raises(PondrelError, match="Nothing is filled in"):
        OFFER.check({"way": "new", **dict.fromkeys(("price", "minutes", "once", "days", "months", "source"), "")})


def test_all_is_another_set_than_the_old_ones_only_where_one_is_spared():
    assert found(valve(), Offer("new", price=1.0)).find(f"new:{ALL}") is None


def test_what_was_seen_here_moves_minutes_and_returns_and_a_written_number_goes_before_it():
    repairs = [Mended("new", "coil", 40.0, 80.0, False)] * 6 + [Mended("new", "coil", None, None, True)] * 6
    seen = experience_of(repairs)
    assert seen["new", "coil"].times == pytest.approx(1.5) and seen["new", "coil"].early(0.02) == pytest.approx((6 * 0.02 + 6) / 18)
    assert seen["new", "coil"].says == "takes 1.5 times the minutes here (6 jobs), 6 of 12 came back within a year"
    price = {"new": Offer("new", price=100.0)}
    plain, known = (compared(valve(), price, RATES, 3.0, seen=own).find("new:failed") for own in ({}, seen))
    assert known.minutes == pytest.approx(1.5 * plain.minutes) and known.outlook.visits > plain.outlook.visits + 0.2
    written = compared(valve(), {"new": Offer("new", price=100.0, minutes=20.0)}, RATES, 3.0, seen=seen).find("new:failed")
    assert written.minutes == pytest.approx(50.0)
    assert not experience_of([])


def test_one_wild_number_moves_little():
    seen = experience_of([Mended("clean", "joint", 20.0, 2000.0, None)])["clean", "joint"]
    assert seen.times == pytest.approx((6 + 3) / 7) and seen.followed == 0
