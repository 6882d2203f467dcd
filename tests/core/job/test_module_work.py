"""What asked modules lead to in a job: the chain, a silent module, a code with a circuit, resets and a renewal, each as what comes next."""

from __future__ import annotations

import pytest

from pondrel.core.job.codes import scan_content
from pondrel.core.job.entry import Entry, Struck
from pondrel.core.job.kinds import checked_content
from pondrel.core.job.links import facts_said, standing_in
from pondrel.core.job.module_work import FROM_MODULES, Room, module_work_of
from pondrel.core.job.renewing import renewing_of, step_content
from pondrel.core.job.stages import Known, state_of
from pondrel.core.module.fault_code import FaultCode
from tests.served import roster_named

READER, CARRALL, FERROW = roster_named("reader_75"), roster_named("carrall"), roster_named("ferrow")
ROOF = READER.functions["roof"]


class Record:
    """A record that grows."""

    def __init__(self) -> None:
        self.entries: list[Entry] = []

    def add(self, kind: str, struck: Struck | None = None, **content) -> Record:
        number = len(self.entries) + 1
        made_at = f"2026-01-01T{8 + number // 60:02d}:{number % 60:02d}:00Z"
        self.entries.append(Entry(number, 7, None, kind, checked_content(kind, content), "Oda", made_at, struck))
        return self

    def call(self, silent: str = "", answered: str = "Gateway, Roof module", struck: Struck | None = None) -> Record:
        return self.add("roll_call", struck, answered=answered, silent=silent)

    def link(self, condition: str, word: str, function: str = "roof") -> Record:
        return self.add("link", title=f"{function}: {condition}", word=word, function=function, condition=condition)

    def codes(self, *codes: FaultCode) -> Record:
        return self.add("scan", **scan_content(codes))

    def reset(self, off: float, works: bool) -> Record:
        return self.add("reset", module="Shelf light module", off=f"{off:g}", woke="", works="yes" if works else "no")

    def step(self, name: str, result: str = "done") -> Record:
        return self.add("renewal", **step_content(renewing_of(FERROW.module("brakes"), self.entries), name, result, "x"))

    def next(self, roster=READER) -> str:
        work = module_work_of(roster, self.entries)
        return work.next if work is not None else ""


STRUCK = Struck("mistyped", "Oda", "2026-01-02T08:00:00Z")


def test_a_silent_module_leads_to_the_function_that_it_stops_and_its_circuit():
    record = Record().call("Bow module")
    work = module_work_of(READER, record.entries)
    assert (work.room, work.named, work.title) == (Room.CHAIN, "roof", "The roof")
    assert work.next == "bow module is silent, and the roof waits for it: go to its circuit"


def test_who_stops_no_function_is_looked_at_itself_and_several_have_one_cause():
    assert Record().call("Shelf light module").next() == "shelf light module is silent: look at its supply, ground and plug"
    both = Record().call("Shelf light module, Tail-lift module").next()
    assert both == "shelf light module, tail-lift module are silent: look for one cause"


@pytest.mark.parametrize("record", [Record(), Record().call(), Record().call("Somebody else"), Record().call("Bow module", struck=STRUCK)])
def test_nothing_is_next_where_all_answer_or_the_roster_knows_nobody_of_that_name(record):
    assert module_work_of(READER, record.entries) is None


def test_only_the_last_roll_call_counts():
    assert Record().call("Bow module").call().next() == ""
    assert Record().call().call("Bow module").next().startswith("bow module is silent")


def test_a_function_that_was_spoken_of_goes_on_with_its_next_link_until_one_does_not_hold():
    record = Record().link("key", "in Run").link("speed", "0")
    assert record.next().startswith("the roof: ask the module that knows ") or "does it answer?" in record.next()
    record.link("latch", "no")
    assert record.next() == "roof latch is not open, and the roof waits for that: go to its circuit"
    record.link("latch", "unknown").link("oil", "no")
    assert record.next() == "oil in the pump is not enough, and the roof waits for that: look at what it hangs on"


def test_what_cannot_be_known_names_the_module_as_it_is_called():
    chain = standing_in(READER, ROOF, Record().call("Bow module").entries)
    assert [link.why for link in chain.links if link.why] == ["bow module is silent"]


def test_a_chain_that_holds_is_looked_behind():
    record = Record().call(answered="Bow module")
    for name in ROOF.conditions:
        if name != "bow":
            record.link(name, "yes")
    assert standing_in(READER, ROOF, record.entries).complete
    assert record.next() == "all links of the roof hold: look behind the chain, at the output itself"


def test_words_for_a_link_that_is_no_more_and_a_word_that_is_none_are_left_out():
    assert facts_said(ROOF, [("gone", "yes"), ("bow", "perhaps")]) == {}
    assert facts_said(ROOF, [("bow", "answers"), ("bow", "perhaps")]) == {}  # who says nonsense now knows no longer


def test_a_code_of_the_vehicle_leads_to_its_circuit_and_one_that_the_work_made_does_not():
    valve = FaultCode("P0765", "13", "present", "Gearbox module", "Shift valve D circuit open")
    assert Record().codes(valve).next(CARRALL) == "P0765-13, shift valve D circuit open: go from the code to its circuit"
    assert Record().codes(valve).add("code_note", code="P0765-13", self_made=True, text="").next(CARRALL) == ""
    cleared = Record().codes(valve).add("cleared", text="")
    assert cleared.next(CARRALL) == "P0765-13 was cleared: read the codes out once more"
    assert cleared.codes().next(CARRALL) == ""
    assert cleared.codes(valve).next(CARRALL).endswith("go from the code to its circuit")  # it came back
    assert Record().codes(FaultCode("P0999", "", "present", "Gearbox module")).next(CARRALL) == ""


def test_resets_go_on_with_the_next_try_until_a_time_is_known_or_none_helps():
    record = Record().reset(5, False)
    assert record.next().startswith("shelf light module hangs: next time ") and record.next().endswith("write down whether it woke")
    hopeless = Record()
    for off in (30, 60, 120, 120, 300, 300):
        hopeless.reset(off, False)
    assert hopeless.next() == "shelf light module hangs: its supply off does not wake it, so look at its supply, ground and plug"
    for off in (20, 20, 20, 20, 20):
        record.reset(off, True)
    assert "s off wakes it, so find out why, or choose how to live with it" in record.next()


def test_a_renewal_goes_on_with_its_next_step_after_the_cause_is_found_and_the_new_one_is_in():
    record = Record()
    for name in ("old_read", "right_part", "kept", "fitted"):
        record.step(name)
    record.add("conclusion", faulty=True, proved=True, says="Brake module")
    record.add("remedy", part="Brake module", text="renewed", minutes="90")
    for name in ("pedal", "fluid", "brakes_bled"):
        record.add("checked", check=name, result="done", text="")
    work = module_work_of(FERROW, record.entries)
    assert work.room is Room.RENEWAL and work.next == "brake module is renewed: coded for this chassis comes next"
    state = state_of(Known("lamps on", modules=work), record.entries)
    assert (state.here, state.waits_for, state.modules) == ("Proof", work.next, work)
    assert record.step("coding").step("straight", "failed").next(FERROW).endswith("steering straight ahead was not accepted, so once more")


def test_a_renewal_that_was_only_begun_is_no_business_of_a_job_that_is_about_something_else():
    record = Record().step("old_read")
    work = module_work_of(FERROW, record.entries)
    assert work.renews and not work.fitted
    begun = state_of(Known("lamps on", "always", {1: "Lamps"}, modules=work), record.entries)
    assert begun.modules is None and "is renewed" not in begun.waits_for
    record.add("conclusion", faulty=True, proved=True, says="Brake module")
    found = state_of(Known("lamps on", "always", {1: "Lamps"}, modules=work), record.entries)
    assert found.waits_for == "brake module is renewed: the right version comes next"
    record.add("remedy", part="lamp", text="another part", minutes="5")
    record.add("proof", works="yes", text="lamps out")
    assert "is renewed" not in state_of(Known("lamps on", "always", {1: "Lamps"}, modules=work), record.entries).waits_for


def test_what_was_written_of_last_counts_first():
    record = Record().step("old_read").reset(5, False)
    assert record.next(READER).startswith("shelf light module hangs") and record.next(FERROW).startswith("brake module is renewed")


def test_asked_modules_are_past_the_look_and_give_way_to_a_circuit_that_is_traced():
    record = Record().call("Bow module")
    work = module_work_of(READER, record.entries)
    asked = state_of(Known("roof", "always", modules=work), record.entries)
    assert (asked.here, asked.waits_for, asked.stages[2].brief) == ("Trace", work.next, "modules asked")
    before = state_of(Known("roof", "always"), record.entries)
    assert (before.here, before.modules) == ("Look", None)
    traced = state_of(Known("roof", "always", {1: "Folding roof"}, modules=work), record.entries)
    assert traced.modules is None and "first reading" in traced.waits_for


def test_every_kind_that_is_asked_for_here_is_known_to_lead_somewhere():
    assert {"roll_call", "scan", "link", "reset", "hung", "renewal"} <= FROM_MODULES
