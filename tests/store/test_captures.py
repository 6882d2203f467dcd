"""Captures in the store: made ready once, opened without being read, made anew when what was made ready is gone or old; rows never
change."""

from __future__ import annotations

import io
import json
import sqlite3

import numpy as np
import pytest

from pondrel.core.base.errors import CaptureError
from pondrel.store import prepare_apart
from pondrel.store.captures import (
    add_capture,
    add_judged,
    add_mark,
    capture_of,
    captures_beside,
    judged_of,
    latest_captures,
    marks_of,
    strike_mark,
)
from pondrel.store.db import DATABASE, atomic, opened
from pondrel.store.files import file_path, keep_large
from pondrel.store.folder import prepared as folder_for
from pondrel.store.prepared import is_prepared, prepare, prepared_path
from pondrel.store.prepared import opened as capture_opened

T = np.arange(4000) / 1000.0
SQUARE = np.where((T * 5 + 1e-9) % 1.0 < 0.25, 12.0, 0.0)
CSV = ("time,a,b\n" + "".join(f"{t:.3f},{v:.1f},{v / 2:.2f}\n" for t, v in zip(T, SQUARE, strict=True))).encode()


@pytest.fixture
def conn(tmp_path):
    own = opened(folder_for(tmp_path) / DATABASE)
    yield own
    own.close()


@pytest.fixture
def row(conn, tmp_path):
    with atomic(conn):
        stored = keep_large(conn, tmp_path, io.BytesIO(CSV), "text/plain")
        return add_capture(conn, stored.digest, "a.csv", "Output", 4000, 1e-3, [("a", "V"), ("b", "")])


def test_a_capture_is_made_ready_once_and_opened_as_it_was(tmp_path):
    path = prepared_path(tmp_path, "ab" * 32, None)
    told = []
    prepare(io.BytesIO(CSV), path, tell=told.append)
    own = capture_opened(path)
    assert is_prepared(path) and told[-1] == 1.0 and told == sorted(told)
    assert own.capture.step == pytest.approx(1e-3) and [c.name for c in own.capture.channels] == ["a", "b"]
    assert isinstance(own.capture.channels[0].samples, np.memmap) and own.capture.channels[0].values(0, 4000) == pytest.approx(SQUARE)
    value, u = own.numbers[0]["duty"]
    assert value == pytest.approx(0.25, abs=1e-3) and u > 0.0 and len(own.averages[0]) > 10
    assert [(phase.other, phase.seconds) for phase in own.phases] == [("b", 0.0)]
    assert own.channel("b") == own.channel("2") == 1 and own.channel("zeppelin") == 0


def test_one_of_another_form_is_made_anew(tmp_path):
    path = prepared_path(tmp_path, "ab" * 32, 20.0)
    prepare(io.BytesIO(CSV), path)
    about = json.loads((path / "about.json").read_text())
    (path / "about.json").write_text(json.dumps({**about, "format": 0}))
    assert not is_prepared(path)
    prepare(io.BytesIO(CSV), path)
    assert is_prepared(path) and not [one for one in path.parent.iterdir() if one.name.startswith(".")]


def test_what_is_no_capture_leaves_nothing_behind(tmp_path):
    path = prepared_path(tmp_path, "cd" * 32, None)
    with pytest.raises(CaptureError):
        prepare(io.BytesIO(b"hello\n" * 50), path)
    assert not path.parent.exists() or not list(path.parent.iterdir())


def test_a_large_file_is_kept_by_its_digest_and_only_once(conn, tmp_path):
    with atomic(conn):
        first = keep_large(conn, tmp_path, io.BytesIO(CSV), "text/plain")
        again = keep_large(conn, tmp_path, io.BytesIO(CSV), "text/plain")
    assert first == again and file_path(tmp_path, first.digest).read_bytes() == CSV
    assert not [one for one in (tmp_path / "files").iterdir() if one.name.startswith(".")]


def test_read_apart_it_tells_how_far_it_is_and_what_it_found(tmp_path, capsys):
    source, target = tmp_path / "a.csv", tmp_path / "ready"
    source.write_bytes(CSV)
    assert prepare_apart.main(str(source), str(target)) == 0
    *shares, done = capsys.readouterr().out.splitlines()
    assert [float(share) for share in shares] == sorted(float(share) for share in shares)
    assert json.loads(done.removeprefix("done ")) == {"count": 4000, "step": pytest.approx(1e-3), "channels": [["a", ""], ["b", ""]]}
    source.write_bytes(b"hello\n" * 50)
    assert prepare_apart.main(str(source), str(tmp_path / "other")) == 1
    assert "There are no numbers in this file" in capsys.readouterr().err


def test_marks_and_verdicts_are_added_struck_and_never_changed(conn, row):
    with atomic(conn):
        late, early = add_mark(conn, row, 3.0, "let go"), add_mark(conn, row, 1.0, "knocked")
        add_judged(conn, row, "hall", {"sets": {}}, "outside limits", "first")
        add_judged(conn, row, "hall", {"sets": {"pulled_to": "5"}}, "within limits", "second")
    assert [mark.says for mark in marks_of(conn, row)] == ["knocked", "let go"]
    with atomic(conn):
        assert strike_mark(conn, row, late) and not strike_mark(conn, row, late) and not strike_mark(conn, row + 1, early)
    assert [mark.says for mark in marks_of(conn, row)] == ["knocked"]
    found = judged_of(conn, [row, row + 5])
    assert list(found) == [row] and found[row].says == "second" and found[row].given == {"sets": {"pulled_to": "5"}}
    for sql in (
        "UPDATE capture SET says = 'x'",
        "DELETE FROM capture_mark",
        "DELETE FROM capture_judged",
        "UPDATE capture_mark SET at = 0",
    ):
        with pytest.raises(sqlite3.IntegrityError, match="never"):
            conn.execute(sql)


def test_captures_are_listed_newest_first_and_beside_those_of_the_same_vehicle(conn, row):
    own = capture_of(conn, row)
    assert own is not None and own.seconds == pytest.approx(4.0) and own.channels == (("a", "V"), ("b", ""))
    with atomic(conn):
        second = add_capture(conn, own.digest, "b.csv", "Later", 4000, 1e-3, [("a", "V")])
    assert [one.id for one in latest_captures(conn, 9)] == [second, row] and [one.id for one in captures_beside(conn, own)] == [second]
    assert capture_of(conn, 999) is None
