"""`pondrel bus` as others run it: the contract's keys to the letter, and one sentence for what cannot be."""

from __future__ import annotations

import csv
import gzip
import io
import json

import cantools.database
import pytest

from pondrel.core.bus.decode import DECODED_COLUMNS
from pondrel.demo.buses import LOGS, SIGNALS

from .test_cli import run

CART = SIGNALS / "parcel-cart.dbc"


@pytest.fixture(scope="module")
def held(tmp_path_factory):
    """The log of the cart that does not drive."""
    path = tmp_path_factory.mktemp("log") / "cart-2.log.gz"
    path.write_bytes(LOGS["cart_held"][2]())
    return path


@pytest.fixture(scope="module")
def drives(tmp_path_factory):
    """The log of the one that does."""
    path = tmp_path_factory.mktemp("log") / "cart-1.log.gz"
    path.write_bytes(LOGS["cart_drives"][2]())
    return path


def done(*args):
    made = run("bus", *map(str, args))
    assert made.exit_code == 0, made.output
    return made


def test_read_has_the_keys_of_the_contract(held):
    own = json.loads(done("read", held, "--db", CART, "--json").output)
    assert list(own) == ["frames", "error_frames", "first", "last", "channels", "ids", "unknown", "notes"]
    assert all(list(row) == ["channel", "id", "extended", "frame", "count", "period_ms", "late", "silent"] for row in own["ids"])
    assert own["error_frames"] == 5 and own["channels"] == ["can0"] and own["unknown"] == []
    assert own["frames"] == sum(row["count"] for row in own["ids"]) + 5
    rows = {row["frame"]: row for row in own["ids"]}
    assert rows["HeaterState"]["silent"] and rows["HeaterState"]["count"] == 0 and rows["HeaterState"]["period_ms"] is None
    assert rows["SteeringState"]["late"] > 300 and not rows["SteeringState"]["silent"]
    bare = json.loads(done("read", held, "--json").output)
    assert len(bare["unknown"]) == 7 and all(row["frame"] is None for row in bare["ids"])


def test_decode_is_a_line_a_signal_in_the_logs_order_and_as_cantools_has_it(held):
    out = done("decode", held, "--db", CART, "--csv").stdout
    rows = list(csv.DictReader(io.StringIO(out)))
    assert tuple(rows[0]) == DECODED_COLUMNS == ("time", "channel", "id", "frame", "signal", "raw", "value", "text", "unit")
    times = [float(row["time"]) for row in rows]
    assert times == sorted(times)
    database = cantools.database.load_file(CART)
    place = 0
    for line in gzip.decompress(held.read_bytes()).decode().splitlines()[:500]:
        time, _, frame = line.split()
        identity, data = int(frame.split("#")[0], 16), bytes.fromhex(frame.split("#")[1])
        for name, value in database.decode_message(identity, data, decode_choices=False).items():
            row = rows[place]
            assert (float(row["time"]), int(row["id"]), row["signal"]) == (float(time[1:-1]), identity, name)
            assert float(row["value"]) == value
            place += 1


def test_census_tells_what_is_set_who_is_silent_and_what_differs(held, drives):
    own = json.loads(done("census", held, "--db", CART, "--against", drives, "--json").output)
    assert [flag["signal"] for flag in own["flags"]] == ["CrashLoopOpen", "DriveNotAllowed", "HeaterModuleMissing"]
    assert own["flags"][2]["silent"] == "HeaterModule"
    states = {sender["sender"]: sender["state"] for sender in own["senders"]}
    assert states["HeaterModule"] == "silent" and states["SteeringAssist"] == "late" and states["BatteryManager"] == "talks"
    assert own["channels"][0]["bit_rate"] == 500_000 and own["channels"][0]["guessed"]
    assert [change["signal"] or change["frame"] for change in own["changes"][:3]] == ["HeaterState", "CrashLoopOpen", "HeaterModuleMissing"]
    assert all(check["wrong"] == 0 for check in own["check_sums"]) and len(own["check_sums"]) == 2
    said = done("census", held, "--db", CART, "--bit-rate", "250000").output
    assert "HeaterModule is silent." in said and "250000 bit/s, 1" in said


@pytest.mark.parametrize("name", ["out.asc", "out.csv", "out.log", "out.asc.gz"])
def test_convert_keeps_every_frame(held, tmp_path, name):
    out = tmp_path / name
    assert "11331 frames written" in done("convert", held, out).output
    first, second = (json.loads(done("read", path, "--db", CART, "--json").output) for path in (held, out))
    assert [row["count"] for row in first["ids"]] == [row["count"] for row in second["ids"]]
    assert second["error_frames"] == 5


@pytest.mark.parametrize(
    ("args", "says"),
    [
        (("read", "{none}"), "cannot be read"),
        (("read", "{empty}"), "is empty"),
        (("read", "{odd}"), "is no log that is known here"),
        (("decode", "{log}", "--csv"), "needs a signal database"),
        (("decode", "{log}", "--db", "{odd}", "--csv"), "DBC, ARXML, KCD or SYM"),
        (("decode", "{log}", "--db", "{bad}", "--csv"), "cannot be read as DBC"),
        (("convert", "{log}", "{folder}/out.blf"), ".log (candump), .asc or .csv"),
        (("convert", "{log}", "{log}"), "is the log itself"),
        (("convert", "{log}", "{folder}/none/out.asc"), "cannot be written"),
        (("census", "{log}", "--bit-rate", "fast"), "a bit rate is a whole number"),
    ],
)
def test_what_cannot_be_gets_one_sentence(tmp_path, args, says):
    (tmp_path / "a.log").write_text("(1.0) can0 123#11\n")
    (tmp_path / "empty.log").write_bytes(b"")
    (tmp_path / "odd.txt").write_text("nothing of use\n")
    (tmp_path / "bad.dbc").write_text("BO_ nonsense\n")
    places = {"log": "a.log", "none": "none.log", "empty": "empty.log", "odd": "odd.txt", "bad": "bad.dbc", "folder": ""}
    made = run("bus", *(arg.format(**{name: str(tmp_path / path) for name, path in places.items()}) for arg in args))
    assert made.exit_code == 1
    assert says in made.output and "Traceback" not in made.output and made.output.strip().count("\n") == 0
