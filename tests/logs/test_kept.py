"""A log's columns beside its file: made a piece at a time, mapped, put in their place whole."""

from __future__ import annotations

import json

import numpy as np
import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.bus.frames import FD, joined
from pondrel.logs import kept as kept_module
from pondrel.logs.keep_apart import main
from pondrel.logs.kept import is_kept, keep, kept, kept_path
from pondrel.logs.reading import LogFile

LINES = "".join(
    f"({k / 1000:.6f}) can{k % 2} {0x100 + k % 7:03X}#{k:08X}\n" if k % 5 else f"({k / 1000:.6f}) can0 12345678##1{'AB' * 64}\n"
    for k in range(40_000)
)


@pytest.fixture(scope="module")
def source(tmp_path_factory):
    path = tmp_path_factory.mktemp("log") / "a.log"
    path.write_text(LINES)
    return path


def test_what_is_kept_is_what_was_read(source, tmp_path):
    shares = []
    own = keep(source, kept_path(tmp_path, "ab" * 32), "a.log", shares.append)
    read = LogFile(source)
    whole = joined(list(read))
    for name in ("time", "id", "flags", "channel", "length", "data"):
        np.testing.assert_array_equal(getattr(own.frames, name), getattr(whole, name))
    assert len(shares) > 2 and shares == sorted(shares) and shares[-1] == 1.0
    assert own.channels == ("can0", "can1") and own.kind == "candump" and own.seconds == pytest.approx(39.999)
    again = kept(kept_path(tmp_path, "ab" * 32))
    assert isinstance(again.frames.time, np.memmap) and again.notes == ()
    place = next(k for k in range(len(whole)) if whole.flags[k] & FD)
    assert again.frames.bytes_of(place, again.frames.begins) == b"\xab" * 64


def test_parts_of_a_log_are_the_log(source):
    whole = joined(list(LogFile(source)))
    pieces = [part for _, part in whole.parts(777)]
    again = joined(pieces)
    np.testing.assert_array_equal(again.data, whole.data)
    np.testing.assert_array_equal(joined([whole.part(0, 5), whole.part(5, len(whole))]).data, whole.data)
    chosen = whole.only(whole.id == 0x101)
    assert chosen.data.tolist() == whole.data[np.repeat(whole.id == 0x101, whole.stored)].tolist()


def test_what_cannot_be_kept_leaves_nothing_behind(tmp_path, monkeypatch):
    target = kept_path(tmp_path, "cd" * 32)
    empty = tmp_path / "empty.csv"
    empty.write_text("time,id,data\n")
    with pytest.raises(ReadingError, match="no frames"):
        keep(empty, target, "empty.csv")
    monkeypatch.setattr(kept_module, "MOST_FRAMES", 100)
    long = tmp_path / "long.log"
    long.write_text(LINES)
    with pytest.raises(ReadingError, match="shorter logs"):
        keep(long, target, "long.log")
    assert not is_kept(target) and list(target.parent.iterdir()) == []


def test_columns_that_are_gone_are_said_to_be(source, tmp_path):
    target = kept_path(tmp_path, "ef" * 32)
    keep(source, target, "a.log")
    (target / "data.bin").unlink()
    with pytest.raises(ReadingError, match="gone or damaged"):
        kept(target)
    (target / "about.json").write_text(json.dumps({"format": 0}))
    assert not is_kept(target)


def test_it_is_kept_apart_with_its_progress_told(source, tmp_path, capsys):
    assert main(str(source), str(kept_path(tmp_path, "12" * 32)), "a.log") == 0
    lines = capsys.readouterr().out.splitlines()
    assert json.loads(lines[-1].removeprefix("done "))["frames"] == 40_000 and all(0 <= float(line) <= 1 for line in lines[:-1])
    odd = tmp_path / "odd.txt"
    odd.write_text("nothing\n")
    assert main(str(odd), str(kept_path(tmp_path, "34" * 32)), "odd.txt") == 1
    assert "is no log that is known here" in capsys.readouterr().err
