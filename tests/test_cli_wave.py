"""`pondrel wave` as others run it: the contract's keys to the letter, and one sentence for what cannot be."""

from __future__ import annotations

import json

import numpy as np
import pytest

from .data_lines import can_bits, differential, sampled
from .test_cli import run

CHANNEL = [
    "name", "unit", "samples", "rate_hz", "minimum", "maximum", "mean", "rms", "top", "base", "frequency_hz", "period_s", "duty", "rise_s",
    "fall_s", "overshoot", "pulses", "dropouts",
]  # fmt: skip


def answer(*args):
    done = run("wave", *map(str, args), "--json")
    assert done.exit_code == 0, done.output
    return json.loads(done.output)


@pytest.fixture
def regulator(tmp_path):
    t = np.arange(20_000) / 1000.0
    volts = np.where((t / 1.5 + 1e-9) % 1.0 < 0.4, 12.4, 0.02)
    path = tmp_path / "regulator.csv"
    path.write_text(
        "Time [s];Out [V];Feed [V]\n" + "".join(f"{a:.3f};{b:.2f};12.50\n".replace(".", ",") for a, b in zip(t, volts, strict=True))
    )
    return path


@pytest.fixture
def bus(tmp_path):
    bits = [1] * 20 + [bit for k in range(20) for bit in can_bits(0x321 + k, bytes([k, 255 - k]))] + [1] * 20
    high, low = differential(sampled(bits, 250e3, 5e6), 0.01)
    path = tmp_path / "bus.npz"
    np.savez(path, upper=high, lower=low, rate=5e6)
    return path


def test_measure_writes_the_keys_of_the_contract(regulator):
    found = answer("measure", regulator)
    assert list(found) == ["channels", "notes"] and found["notes"] == []
    out, feed = found["channels"]
    assert list(out) == list(feed) == CHANNEL
    assert out["name"] == "Out" and out["unit"] == "V" and out["samples"] == 20_000 and out["rate_hz"] == pytest.approx(1000.0)
    assert out["period_s"] == pytest.approx(1.5, rel=1e-3) and out["duty"] == pytest.approx(0.4, abs=2e-3)
    assert feed["mean"] == pytest.approx(12.5) and feed["period_s"] is feed["top"] is feed["pulses"] is None


def test_measure_says_what_was_put_right(tmp_path):
    path = tmp_path / "a.csv"
    path.write_text("t,v\n" + "".join(f"{k},{'nan' if k % 10 == 5 else 1.0}\n" for k in range(100)))
    assert answer("measure", path)["notes"] == ["10 of 100 samples of v hold no number: straight lines bridge them."]


def test_measure_tells_the_phase_between_two_channels_that_pulse_alike(tmp_path):
    t = np.arange(4000)
    path = tmp_path / "pair.npz"
    np.savez(path, feed=np.where(t % 200 < 80, 5.0, 0.0), back=np.where((t - 50) % 200 < 80, 5.0, 0.0), rate=10e3)
    (says,) = answer("measure", path)["notes"]
    assert says.startswith("back rises 5.00 ms after feed: 90 degrees") and says in run("wave", "measure", str(path)).output


def test_judge_answers_in_the_shape_of_the_bench(regulator):
    found = answer("judge", "bimetal_regulator", regulator, "--set", "supply=12.5")
    bench = json.loads(run("bench", "regulator", "--read", "mean=5.0", "--json").output)
    assert list(found) == list(bench) and list(found["findings"][0]) == list(bench["findings"][0])
    assert found["family"] == "bimetal_regulator" and found["verdict"] == "within limits"
    assert answer("judge", "bimetal_regulator", regulator, "--channel", "Feed")["verdict"] == "outside limits"
    assert answer("judge", "bimetal_regulator", regulator, "--limit", "average 5.2..5.6V")["verdict"] == "outside limits"


def test_bits_writes_the_keys_of_the_contract(bus):
    for named in ((), ("--high", "upper", "--low", "lower"), ("--high", "1")):
        found = answer("bits", bus, *named)
        assert list(found) == ["bit_rate", "frames", "errors", "levels", "disturbed", "suspects"]
        assert found["bit_rate"] == pytest.approx(250e3, rel=1e-4) and found["errors"] == [] and found["disturbed"] == 0.0
        assert list(found["frames"][0]) == ["time", "id", "extended", "remote", "data", "crc_ok", "acknowledged"]
        assert [(frame["id"], bytes.fromhex(frame["data"])) for frame in found["frames"]] == [
            (0x321 + k, bytes([k, 255 - k])) for k in range(20)
        ]
        assert list(found["suspects"][0]) == ["says", "probability"]


def test_what_cannot_be_is_one_sentence(regulator, bus, tmp_path):
    for args, says in (
        (("measure", tmp_path / "none.csv"), "cannot be read"), (("judge", "bimetal", regulator), "no pattern; near it: bimetal_regulator"),
        (("judge", "hall"), "A pattern and a file are wanted"), (("judge", "hall", regulator, "--set", "pulled_to=x"), "'x' is no reading"),
        (("bits", bus, "--high", "middle"), "'middle' is no channel"), (("judge", "cranking_current", regulator), "no channel of amperes"),
    ):  # fmt: skip
        done = run("wave", *map(str, args))
        assert done.exit_code == 1 and says in done.output and "Traceback" not in done.output, done.output


def test_without_json_it_is_told_in_words(regulator, bus):
    assert "share of time on" in run("wave", "measure", str(regulator)).output
    assert "within limits" in run("wave", "judge", "bimetal_regulator", str(regulator)).output
    assert "321  00 ff" in run("wave", "bits", str(bus)).output
    assert "pickup" in run("wave", "judge", "--list").output and "teeth" in run("wave", "judge", "pickup", "--list").output
