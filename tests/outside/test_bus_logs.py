"""Logs against python-can: what its writers write is read as its readers read it, and what is written here is read by them.

Source: python-can 4.6, the reference program for logs, and for MDF4 asammdf 8.8 through it; frames by lot.
"""

from __future__ import annotations

import gzip
import pickle
import random
import subprocess
import sys

import can
import numpy as np
import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.bus.frames import BRS, ESI, FD, LIN, REMOTE, SENT, ChannelNames, joined
from pondrel.logs.packaged import frames_of
from pondrel.logs.reading import LogFile
from pondrel.logs.writing import write_log

START = 1_700_000_000.0
FD_LENGTHS = (0, 1, 5, 8, 12, 20, 64)


def messages(seed: int, count: int = 700, flexible: bool = True, errors: bool = True, remotes: bool = True) -> list[can.Message]:
    """Frames of every kind at times of whole microseconds."""
    rng = random.Random(f"log {seed}")
    made, time = [], START
    for _ in range(count):
        time = round(time + rng.randrange(1, 20_000) * 1e-6, 6)
        kind = rng.random()
        extended = rng.random() < 0.4
        identity = rng.randrange(1 << 29) if extended else rng.randrange(1 << 11)
        common = {"timestamp": time, "channel": rng.choice((0, 1)), "is_rx": rng.random() < 0.8}
        if errors and kind < 0.03:
            made.append(can.Message(timestamp=time, channel=common["channel"], is_error_frame=True))
        elif remotes and kind < 0.08:
            made.append(can.Message(arbitration_id=identity, is_extended_id=extended, is_remote_frame=True, dlc=rng.randrange(9), **common))
        elif flexible and kind < 0.3:
            data = rng.randbytes(rng.choice(FD_LENGTHS[1:]))
            switch = rng.random() < 0.7
            made.append(
                can.Message(
                    arbitration_id=identity, is_extended_id=extended, is_fd=True, bitrate_switch=switch,
                    error_state_indicator=rng.random() < 0.2, data=data, **common,
                )
            )  # fmt: skip
        else:
            made.append(can.Message(arbitration_id=identity, is_extended_id=extended, data=rng.randbytes(rng.randrange(9)), **common))
    return made


def read(path):
    file = LogFile(path)
    return joined(list(file)), file


def assert_same(own, other, *, flags=0xFF, times=True, relative=False):
    for name in ("id", "length", "data"):
        np.testing.assert_array_equal(getattr(own, name), getattr(other, name), err_msg=name)
    np.testing.assert_array_equal(own.flags & flags, other.flags & flags)
    if times:
        shift = (own.time[0], other.time[0]) if relative else (0.0, 0.0)
        np.testing.assert_allclose(own.time - shift[0], other.time - shift[1], rtol=0, atol=2e-6)


def by_package(path):
    """The same file as python-can reads it."""

    with can.LogReader(path) as reader:
        return frames_of(list(reader), ChannelNames())


WRITTEN = [
    # name, what it cannot hold of a frame's marks, whether times begin anew
    ("log.log", 0, False),
    ("log.asc", 0, True),
    ("log.blf", 0, False),
    ("log.csv", FD | BRS | ESI | SENT, False),
    ("log.trc", SENT, True),
]


@pytest.mark.parametrize("seed", range(3))
@pytest.mark.parametrize(("name", "lost", "relative"), WRITTEN, ids=[name for name, *_ in WRITTEN])
def test_what_python_can_writes_is_read_as_it_reads_it(tmp_path, name, lost, relative, seed):
    path = tmp_path / name
    plain = name in ("log.csv", "log.trc")
    made = messages(seed, flexible=not plain, errors=name != "log.trc", remotes=name != "log.trc")
    with can.Logger(path) as logger:
        for one in made:
            logger.on_message_received(one)
    own, file = read(path)
    assert file.notes == ()
    assert len(own) == len(made)
    assert_same(own, by_package(path), flags=0xFF & ~lost, relative=relative)
    wanted = frames_of(made, file.channels)
    if name == "log.log":  # its writer leaves out what a remote frame asks for
        wanted.length[wanted.has(REMOTE)] = 0
    assert_same(own, wanted, flags=0xFF & ~(lost | SENT), relative=relative, times=name != "log.trc")


@pytest.mark.parametrize("seed", range(3))
@pytest.mark.parametrize("name", ["out.log", "out.asc", "out.log.gz", "out.asc.gz"])
def test_what_is_written_here_is_read_by_python_can(tmp_path, name, seed):

    channels = ChannelNames(["1", "2"])
    made = frames_of([one for one in messages(seed) if len(one.data) or not one.is_fd], channels)
    path = tmp_path / name
    assert write_log(path, [made.part(0, 300), made.part(300, len(made))], channels) == (len(made), ())
    other = by_package(path)
    assert_same(other, made, relative="asc" in name)


@pytest.mark.parametrize("name", ["a.log", "a.asc", "a.csv", "a.csv.gz"])
def test_a_log_written_and_read_again_is_the_same(tmp_path, name):

    channels = ChannelNames()
    made = frames_of(messages(7), channels)
    path = tmp_path / name
    write_log(path, [made], channels)
    own, file = read(path)
    assert file.notes == ()
    names = [file.channels.names[place] for place in own.channel]
    assert names == [{"0": "1", "1": "2"}[channels.names[place]] if "asc" in name else channels.names[place] for place in made.channel]
    assert_same(own, made, relative="asc" in name)


@pytest.mark.parametrize("share", [0.3, 0.61, 0.97])
@pytest.mark.parametrize("packed", [False, True])
@pytest.mark.parametrize("name", ["log.blf", "log.log", "log.asc", "log.trc"])
def test_a_log_that_breaks_off_keeps_what_came_before(tmp_path, name, packed, share):
    whole = tmp_path / name
    made = messages(3, 4000, flexible=False, errors=False, remotes=False)
    with can.Logger(whole) as logger:
        for one in made:
            logger.on_message_received(one)
    data = whole.read_bytes()
    if packed:
        data = gzip.compress(data)
    cut = tmp_path / (f"cut-{name}.gz" if packed else f"cut-{name}")
    cut.write_bytes(data[: int(len(data) * share)])
    try:
        own, file = read(cut)
    except ReadingError:
        assert name in ("log.blf", "log.trc") or packed
        return
    assert 0 < len(own) < len(made)
    assert own.id.tolist() == [one.arbitration_id for one in made[: len(own)]]
    assert file.notes or name in ("log.log", "log.asc", "log.trc")  # a line that was cut may still be a frame


def written_as_blf(path, made, level=-1):
    with can.BLFWriter(path, compression_level=level) as writer:
        writer.max_container_size = 4000
        for one in made:
            writer.on_message_received(one)
    return bytearray(path.read_bytes())


def boxes(data):
    """Where the containers of a BLF file begin, and the size that each says that it has."""
    at, found = int.from_bytes(data[4:8], "little"), []
    while at < len(data):
        size = int.from_bytes(data[at + 8 : at + 12], "little")
        found.append((at, size))
        at += size + size % 4
    return found


@pytest.mark.parametrize("level", [0, -1])
def test_damage_to_one_container_costs_its_frames_and_no_others(tmp_path, level):
    made = messages(5, 2000)
    data = written_as_blf(tmp_path / "log.blf", made, level)
    whole = read(tmp_path / "log.blf")[0]
    places = boxes(data)
    assert len(places) > 8
    at, size = places[4]
    data[at : at + 4] = b"XXXX"
    data[at + 16 : at + size] = bytes([0x55]) * (size - 16)
    (tmp_path / "spoilt.blf").write_bytes(data)
    own, file = read(tmp_path / "spoilt.blf")
    assert len(whole) * 0.7 < len(own) < len(whole)
    assert np.isin(own.time, whole.time).all() and own.time[0] == whole.time[0] and own.time[-1] == whole.time[-1]
    kept = np.isin(whole.time, own.time)
    assert_same(own, whole.only(kept))
    assert any("damaged" in note for note in file.notes)


def test_objects_in_no_container_are_read_too(tmp_path):
    data = written_as_blf(tmp_path / "log.blf", messages(7, 900), 0)
    whole = read(tmp_path / "log.blf")[0]
    objects = b"".join(bytes(data[at + 32 : at + size]) for at, size in boxes(data))
    heading = bytes(data[: int.from_bytes(data[4:8], "little")])
    (tmp_path / "plain.blf").write_bytes(heading[:16] + len(heading + objects).to_bytes(8, "little") + heading[24:] + objects)
    own, file = read(tmp_path / "plain.blf")
    assert_same(own, whole)
    assert not any("damaged" in note or "breaks off" in note for note in file.notes)


@pytest.mark.parametrize("size", [0, 1, 15, 0x7FFFFFFF, 0xFFFFFFFF])
def test_an_object_that_lies_about_its_size_neither_hangs_nor_hides_what_follows(tmp_path, size):
    """An object of no size at all would be read again and again."""
    made = messages(6, 500)
    data = written_as_blf(tmp_path / "log.blf", made, 0)
    whole = read(tmp_path / "log.blf")[0]
    for where in (data.index(b"LOBJ", boxes(data)[3][0] + 200), boxes(data)[3][0]):  # a frame, and a container
        spoilt = bytearray(data)
        spoilt[where + 8 : where + 12] = size.to_bytes(4, "little")
        (tmp_path / "spoilt.blf").write_bytes(spoilt)
        own, file = read(tmp_path / "spoilt.blf")
        assert len(whole) * 0.6 < len(own) <= len(whole) and own.time[-1] == whole.time[-1]
        assert file.notes


def test_a_frame_of_a_number_that_no_bus_has_is_left_out_and_told(tmp_path):
    path = tmp_path / "log.trc"
    path.write_text(";$FILEVERSION=1.1\n;$STARTTIME=43000.0\n1) 1.0 Rx F00000123 2 11 22\n2) 2.0 Rx 0123 2 11 22\n")
    own, file = read(path)
    assert own.id.tolist() == [0x123] and file.notes == ("1 things in it have no identifier of 29 bits or no time, and were left out.",)


def test_lin_is_written_where_the_format_knows_it(tmp_path):

    path = tmp_path / "lin.csv"
    path.write_text("time;id;data;checksum\n0.010;0x12;01 02 03;5A\n0.020;13;FF;00\n0.030;0x3C;;11\n")
    own, file = read(path)
    assert own.flags.tolist() == [LIN] * 3 and own.id.tolist() == [0x12, 13, 0x3C] and own.length.tolist() == [3, 1, 0]
    again = tmp_path / "again.asc"
    assert write_log(again, [own], file.channels) == (3, ())
    assert_same(read(again)[0], own, relative=True)
    assert write_log(tmp_path / "again.log", [own], ChannelNames(["1"])) == (
        0,
        ("3 frames of LIN were left out: candump's format knows none.",),
    )


def convert(source, target):
    """As the command line does it, in a process of its own: what asammdf does in one with a damaged file is its own affair."""
    command = [sys.executable, "-m", "pondrel", "bus", "convert", str(source), str(target)]
    return subprocess.run(command, capture_output=True, text=True, timeout=120)


@pytest.mark.slow
def test_mdf4_is_read_where_its_package_is_there(tmp_path):
    made = messages(4, 600)
    script = tmp_path / "made.py"
    script.write_text(
        "import can, pickle, sys\nwith can.Logger(sys.argv[2]) as logger:\n"
        "    for one in pickle.load(open(sys.argv[1], 'rb')):\n        logger.on_message_received(one)\n"
    )
    (tmp_path / "made.pickle").write_bytes(pickle.dumps(made))
    source, target = tmp_path / "log.mf4", tmp_path / "log.log"
    subprocess.run([sys.executable, str(script), str(tmp_path / "made.pickle"), str(source)], check=True, timeout=120)
    said = convert(source, target)
    assert said.returncode == 0, said.stderr
    own, _ = read(target)
    wanted = frames_of(made, ChannelNames())
    assert len(own) == len(wanted)
    order = np.argsort(own.time, kind="stable")  # kinds of frames lie apart in such a file
    np.testing.assert_array_equal(own.id[order], wanted.id)
    np.testing.assert_array_equal((own.flags & ~np.uint8(SENT))[order], wanted.flags & ~np.uint8(SENT))
    whole = source.read_bytes()
    source.write_bytes(whole[: len(whole) // 2])
    said = convert(source, tmp_path / "half.log")
    assert said.returncode == 1 and "damaged" in said.stderr and "Traceback" not in said.stderr.split("Exception ignored")[0]
