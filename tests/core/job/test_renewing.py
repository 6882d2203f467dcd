"""A renewal in a job's record: steps in their order, what a new fitting undoes, what makes it taught, and the proof that takes it up."""

from __future__ import annotations

import pytest

from pondrel.core.base.written import EntryError
from pondrel.core.evidence.hazards import HAZARDS
from pondrel.core.job.codes import scan_content
from pondrel.core.job.entry import Entry
from pondrel.core.job.kinds import checked_content, words_of
from pondrel.core.job.proof import proving_of
from pondrel.core.job.renewing import check_step, code_says, renewing_of, step_content, taken, taught_by
from pondrel.core.module.fault_code import FaultCode
from pondrel.core.remedy.checks import CHECKS
from pondrel.core.renewal.plan import RenewalError
from tests.served import roster_named

ROSTER = roster_named("ferrow")
BRAKES, TRAILER = ROSTER.module("brakes"), ROSTER.module("trailer")
SEEN_TO = {HAZARDS["steering_brakes"].caution, TRAILER.renewal.steps["level"].caution}
BEFORE = ("old_read", "right_part", "kept", "fitted")


class Record:
    """A record that grows."""

    def __init__(self) -> None:
        self.entries: list[Entry] = []

    def add(self, kind: str, content: dict) -> None:
        number = len(self.entries) + 1
        self.entries.append(Entry(number, 7, None, kind, checked_content(kind, content), "Oda", f"2026-01-01T08:{number:02d}:00Z"))

    def step(self, name: str, result: str = "done", text: str = "x", module=BRAKES) -> None:
        self.add("renewal", step_content(renewing_of(module, self.entries), name, result, text))

    def check(self, name: str, result: str = "done") -> None:
        self.add("checked", {"check": name, "result": result, "text": ""})

    def of(self, module=BRAKES):
        return renewing_of(module, self.entries)


def fitted() -> Record:
    record = Record()
    for name in BEFORE:
        record.step(name)
    return record


def braked() -> Record:
    record = fitted()
    for name in ("pedal", "fluid", "brakes_bled"):
        record.check(name)
    return record


def taught() -> Record:
    record = braked()
    for name in ("coding", "straight", "teach", "yard"):
        record.step(name)
    return record


def test_it_goes_step_by_step():
    record = Record()
    assert record.of().next.step.name == "old_read"
    record = fitted()
    assert record.of().next.step.name == "pedal" and record.of().says == "4 of 15 steps are accepted."
    with pytest.raises(RenewalError, match="Firm pedal: that comes first"):
        check_step(record.of(), "teach")
    assert braked().of().next.step.name == "coding"


def test_a_pedal_that_was_firm_before_the_old_one_came_out_says_nothing():
    record = Record()
    record.check("pedal")
    for name in BEFORE:
        record.step(name)
    assert record.of().next.step.name == "pedal"


def test_what_was_not_accepted_is_next_again_with_its_reason():
    record = braked()
    record.step("coding")
    record.step("straight", "failed", "Steering angle 14 °, should be -2 to 2 °")
    assert record.of().next.step.name == "straight" and record.of().says.endswith("Steering angle 14 °, should be -2 to 2 °")
    with pytest.raises(EntryError, match="What was in the way"):
        record.step("straight", "failed", "")


def test_another_module_has_learned_nothing():
    record = taught()
    assert record.of().taught
    record.step("fitted", text="a second one")
    assert record.of().next.step.name == "pedal" and not record.of().taught


def test_the_proof_takes_up_what_was_taught_after_the_repair():
    checks = [check for check in CHECKS if check.name in ("taught", "restart", "pedal")]
    record = fitted()
    record.add("remedy", {"text": "brake module renewed"})
    for name in ("pedal", "fluid", "brakes_bled"):
        record.check(name)
    seen = lambda: {check.name: found for check, found in proving_of(record.entries, (), checks).checks}  # noqa: E731
    assert seen()["taught"] is None and seen()["restart"] is None
    for name in ("coding", "straight", "teach", "yard"):
        assert seen()["taught"] is None
        record.step(name)
    assert seen()["taught"].result == "done" and "step by step" in seen()["taught"].text
    record.step("restart")
    assert seen()["restart"].result == "done"
    record.step("teach", "failed", "it forgot")
    assert seen()["taught"] is None


def test_codes_count_after_the_restart_and_only_those_of_the_module():
    record = taught()
    with pytest.raises(RenewalError, match="Read its codes first"):
        code_says(BRAKES, record.entries)
    record.step("restart")
    record.add("scan", scan_content([], "by Pondrel from Winch module"))
    with pytest.raises(RenewalError, match="Read its codes first"):
        code_says(BRAKES, record.entries)
    other = FaultCode("P0113", "", "present", "Engine module")
    record.add("scan", scan_content([other], "by Pondrel from Brake module, Engine module"))
    assert code_says(BRAKES, record.entries) == (True, "read out after the restart: none of brake module")
    own = FaultCode("C1A52", "54", "present", "Brake module")
    record.add("scan", scan_content([own], "by Pondrel from Brake module"))
    assert code_says(BRAKES, record.entries) == (False, "C1A52-54 is there")


def test_a_sensitivity_is_found_by_its_tries():
    record = Record()
    for name in BEFORE:
        record.step(name, module=TRAILER)
    for name in ("pedal", "fluid", "brakes_bled"):
        record.check(name)
    add = lambda result, text="": record.add(*taken(record.of(TRAILER), record.entries, "level", result, text, SEEN_TO))  # noqa: E731
    add("yes")
    add("failed", "the pedal was pressed too hard")
    assert record.of(TRAILER).step("level").setting.says == "Begin in the middle."  # begun anew
    while (setting := record.of(TRAILER).step("level").setting).next is not None:
        assert not record.of(TRAILER).taught
        add("yes" if setting.next >= 4 else "no")
    standing = record.of(TRAILER).step("level")
    assert standing.done and standing.text.endswith("It just triggers at 4, and not at 3.") and record.of(TRAILER).taught
    assert words_of(record.entries[-1]).startswith("Towed-brake unit, Sensitivity until it just triggers: at ")
    assert taught_by(record.entries, 0) is record.entries[-1]
    with pytest.raises(RenewalError, match="No setting is left"):
        add("yes")
