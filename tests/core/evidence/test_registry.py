"""The registry of sorts: a new one is one file, and everything knows it."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import textwrap

import pytest

from pondrel.core.evidence.items import Observation, Reading
from pondrel.core.evidence.registry import SORTS, WORD_SORTS, columns_of, content_of, item_from, item_of
from pondrel.core.evidence.trend import EARLIER
from pondrel.core.job.kinds import checked_content, title_of

SMELL = '''
"""A trial sort: what the nose finds. One file, and nothing else."""

import numpy as np

from pondrel.core.base.judgement import judged
from pondrel.core.evidence.families import here
from pondrel.core.evidence.sort import WordSort

PLACE = 45
BURNT = judged("SMELL_BURNT", 12.0, "times", "a burnt smell at the part that is at fault")


class Smell(WordSort):
    name, title, words = "smell", "Smell", "what the nose finds"
    verbs = ("smell",)
    answers = {"burnt": ("scorched",), "nothing": ("clean",)}
    looks = True

    def chances(self, world, question):
        ratios = [(BURNT, 0.5) if inside else (1.0, 1.0) for inside in here(world, question.subject)]
        return world.by_cause(np.array(ratios))


SORTS = (Smell(),)
'''

PARTED = '''
"""A trial sort: a reading with a part off its plug. One file, and nothing else."""

from dataclasses import replace

from pondrel.core.evidence.sort import Field, head_of
from pondrel.core.evidence.sorts.reading import Measured

PLACE = 2


class Parted(Measured):
    name, title, words = "parted", "Parted", "a reading with a part off its plug"
    verbs = ("parted",)
    fields = (*Measured.fields, Field("without", "The part"))

    def read(self, sheet, given):
        item = self.reading(sheet, *(given.get(name, "") for name in ("state", "instrument", "red", "black", "value", "note")))
        return replace(item, kind=self.name, without=(given["without"],))

    def content(self, item, typed):
        return {**super().content(replace(item, without=()), typed), "without": item.without[0]}

    def columns(self, item):
        return item.state, f"parted {item.without[0]} {item.instrument}", item.red, item.black

    def parse(self, sheet, verb, rest, state, named):
        part, rest = head_of(rest, sheet.parts)
        meter, rest = head_of(rest, Measured.verbs)
        item, typed = super().parse(sheet, meter, rest, state, named)
        return replace(item, kind=self.name, without=(part,)), typed


SORTS = (Parted(),)
'''

USE = """
import json, sys
from pathlib import Path

from click.testing import CliRunner

import pondrel.core.evidence.sorts as sorts

sorts.__path__.append(sys.argv[1])  # as if the file lay there
from pondrel.cli import main
from pondrel.web import create_app

sheet, folder, line = sys.argv[2:5]
told = [json.loads(CliRunner().invoke(main, ["isolate", sheet, "--json", *more]).output) for more in ([], ["--line", line])]
app = create_app(Path(folder))
app.config["WTF_CSRF_ENABLED"] = False
client = app.test_client()
form = {"state": "raise", "instrument": "volts", "red": "f21.out", "black": "batt-", "value": line}
codes = [client.get("/jobs/2/preview", query_string=form).status_code, client.post("/jobs/2/readings", data=form).status_code]
pages = [client.get(path).get_data(as_text=True) for path in ("/jobs/2/trace?view=why", "/jobs/2")]
before, after = (sum(s["probability"] for s in a["suspects"] if s["part"] == sys.argv[5] and s["mode"] in sys.argv[6:]) for a in told)
print(json.dumps({"codes": codes, "before": before, "after": after, "pages": pages}))
"""


def used(root, data_folder, tmp_path, name: str, text: str, line: str, *fault: str) -> dict:
    """What comes of a sort that is one file more, in a process of its own."""
    (tmp_path / f"{name}.py").write_text(textwrap.dedent(text))
    sheet = root / "pondrel/demo/sheets/tail_lift.yaml"
    command = [sys.executable, "-c", USE, str(tmp_path), str(sheet), str(data_folder), line, *fault]
    done = subprocess.run(command, capture_output=True, text=True, check=False, cwd=root, env={**os.environ, "OPENBLAS_NUM_THREADS": "1"})
    assert done.returncode == 0, done.stderr
    return json.loads(done.stdout)


@pytest.mark.slow
def test_a_new_sort_of_words_is_one_file_known_to_lines_forms_record_and_ranking(data_folder, tmp_path, pytestconfig):
    came = used(pytestconfig.rootpath, data_folder, tmp_path, "smell", SMELL, "smell K2 scorched", "K2", "contact_open", "coil_open")
    assert came["codes"] == [200, 302] and came["after"] > 1.5 * came["before"]
    trace, record = came["pages"]
    assert "smell" in trace and "burnt" in trace and "Smell" in record


@pytest.mark.slow
def test_a_new_sort_of_numbers_is_one_file_too(data_folder, tmp_path, pytestconfig):
    """With the contactor unplugged its feed is there: the fuse before it is whole, unless the reading was a slip."""
    line = "raise parted K2 volts k2.85 12.4"
    came = used(pytestconfig.rootpath, data_folder, tmp_path, "parted", PARTED, line, "F21", "open")
    assert came["codes"] == [200, 302] and came["after"] < 0.2 * came["before"]
    assert "parted" in came["pages"][0] and "Parted" in came["pages"][1]


def test_every_sort_says_what_a_form_a_record_and_a_message_need():
    for name, sort in SORTS.items():
        assert sort.name == name and sort.title and sort.words and (sort.verbs or name == EARLIER) and sort.fields
        assert all(field.name and field.words for field in sort.fields) and title_of(name) == sort.title
    assert len({verb for sort in SORTS.values() for verb in sort.verbs}) == sum(len(sort.verbs) for sort in SORTS.values())


@pytest.mark.parametrize(
    ("verb", "red", "value"),
    [("volts", "f21.out", "12.4 @20C"), ("good volts", "f21.out", "12.4"), ("wiggle", "K2", "dropped"), ("see", "contactor", "clicks")],
)
def test_what_the_record_keeps_reads_back_as_the_same_item(demo_sheets, verb, red, value):
    sheet = demo_sheets["tail_lift"]
    item = item_of(sheet, "raise", verb, red, "", value, "a note")
    typed = item.outcome if isinstance(item, Observation) else value
    kept = checked_content(item.kind, content_of(item, typed))
    assert item_from(sheet, item.kind, {name: str(text) for name, text in kept.items()}) == item
    columns = columns_of(item)
    assert item_of(sheet, *columns, typed, "a note") == item
    assert isinstance(item, Reading) == (item.kind not in WORD_SORTS)
