"""The bench against what is published: each check names its source; values from memory are said to be."""

from __future__ import annotations

import math

import pytest

from pondrel.core.bench.families.capacitor import life_hours
from pondrel.core.bench.families.stator import BRIDGE
from pondrel.core.bench.pinouts import SOCKETS

from ..core.bench.cases import judged, verdicts


@pytest.mark.parametrize("celsius", [-40.0, 0.0, 60.0, 120.0])
def test_ohms_of_copper_follow_iec_60028(celsius):
    """IEC 60028: 0.00393 per kelvin of the resistance at 20 °C."""
    found = judged("coil", f"ohms={13.0 * (1 + 0.00393 * (celsius - 20)):.4f} @{celsius:g}C", limits=["ohms 12..14 @20C"])
    assert found.findings[0].brought == pytest.approx(13.0, rel=1e-4)


# 10 kΩ at 25 °C, material type 2.252 ("curve J"): A, B, C as published for it by makers of interchangeable thermistors, and ohms at some
# temperatures of their tables. From memory of the published table.
CURVE = {"a": "1.129148e-3", "b": "2.34125e-4", "c": "8.76741e-8"}


@pytest.mark.parametrize(("celsius", "ohms"), [(0, 32650), (25, 10000), (50, 3603), (100, 679)])
def test_a_common_ten_kilohm_curve_is_the_published_one(celsius, ohms):
    found = judged("thermistor", f"ohms={ohms} @{celsius}C", tolerance="3", **CURVE)
    assert found.service.figures["believed_c"] == pytest.approx(celsius, abs=0.15)


@pytest.mark.parametrize(("celsius", "ohms"), [(0.0, 1000.0), (100.0, 1385.1), (50.0, 1194.0)])
def test_platinum_follows_iec_60751(celsius, ohms):
    """IEC 60751, from memory of its table: 100.00, 119.40, 138.51 Ω for a sensor of 100 Ω."""
    found = judged("thermistor", f"ohms={ohms} @{celsius:g}C", sort="platinum", tolerance="1")
    assert found.service.figures["believed_c"] == pytest.approx(celsius, abs=0.05) and str(found.verdict) == "within limits"
    assert found.findings[0].limit.kind == "standard"


@pytest.mark.parametrize(("guard", "value", "verdict"), [(1.65, 14.61, "within limits"), (1.65, 14.63, "too close to call")])
def test_the_guard_band_is_that_of_iso_14253_1(guard, value, verdict):
    """ISO 14253-1:2017 (from memory), default 95 % at one edge: 1.65 u. Here u is 0.05 V: (0.0866 V half-width)/√3, and nothing else."""
    from pondrel.core.meter.handheld import Accuracy, Handheld

    meter = Handheld("test", "", {"V": Accuracy(0.0, 0.05 * math.sqrt(3) / 0.01)})
    found = judged("relay", f"contact_drop={value}", limits=["contact_drop 11.5..14.7"], meter=meter)
    assert found.findings[0].guard == pytest.approx(guard * 0.05) and str(found.findings[0].verdict) == verdict


def test_the_standard_uncertainty_is_the_rectangular_one_of_the_gum():
    """JCGM 100 (GUM) 4.3.7: half-width a gives u = a/√3; 0.5 % of 3.7 and two digits of 0.1 are a = 0.2185."""
    assert judged("coil", "ohms=3.7", limits=["3..4"]).findings[0].uncertainty == pytest.approx(0.2185 / 1.7320508)


def test_a_capacitor_charges_as_the_closed_form_says():
    """u(t) = U·(1 − e^(−t/RC)), any textbook: to half in 0.693·RC, to 63.2 % in RC, to 95 % in 3.00·RC."""
    for threshold, times in (("50", 0.6931), ("63.212", 1.0), ("95.021", 3.0)):
        found = judged("timed-relay", ohms="100k", farads="10u", threshold=threshold)
        assert found.service.figures["delay_s"] == pytest.approx(times, rel=1e-3)


def test_a_three_phase_bridge_has_a_mean_of_1_35_times_the_line_volts():
    """3·√2/π, by integrating six pulses of the line voltage numerically here."""
    steps = [math.pi / 6 + (math.pi / 3) * (k + 0.5) / 10000 for k in range(10000)]
    mean = sum(math.sqrt(2) * max(abs(math.sin(x - p)) for p in (0, 2 * math.pi / 3, 4 * math.pi / 3)) for x in steps) / len(steps)
    assert pytest.approx(mean, rel=1e-6) == BRIDGE
    assert judged("rectifier", "ac=20.0").service.figures["expected_v"] == pytest.approx(20 * mean - 1.4)


def test_a_capacitor_lasts_twice_as_long_for_every_ten_degrees_cooler():
    """The Arrhenius rule as makers of electrolytic capacitors give it (common practice): L = L0·2^((T0 − T)/10)."""
    assert life_hours(2000, 105, 65) == 2000 * 16 and life_hours(1000, 85, 95) == 500


@pytest.mark.parametrize(("share", "least", "most"), [(1.35, 0.75, 600), (2.0, 0.15, 5), (3.5, 0.04, 0.5), (6.0, 0.02, 0.1)])
def test_a_blade_fuse_melts_within_iso_8820_3(share, least, most):
    """ISO 8820-3, from memory of the published table."""
    found = judged("fuse", f"amps={10 * share:.1f}", rating="10").service.figures
    assert (found["melts_least_s"], found["melts_most_s"]) == pytest.approx((least, most))


def test_a_blade_fuse_bears_a_tenth_more_for_a_hundred_hours():
    """ISO 8820-3, from memory: 110 % for at least 100 h."""
    found = judged("fuse", "amps=11.0", rating="10").service
    assert found.figures["melts_least_s"] is None and "100 h" in found.says[0]


@pytest.mark.parametrize(("ends", "ohms"), [("1", 120.0), ("2", 60.0)])
def test_a_bus_is_ended_as_iso_11898_2_has_it(ends, ohms):
    """ISO 11898-2: 120 Ω at each of two ends, so 60 Ω between the lines (from memory)."""
    assert str(judged("terminator", f"ohms={ohms:.1f}", ends=ends).verdict) == "within limits"


@pytest.mark.parametrize(
    ("socket", "pins"),
    [
        ("ISO 1724", {"1": "left indicator", "3": "ground", "4": "right indicator", "6": "stop lamps"}),
        (
            "ISO 11446",
            {"6": "stop lamps", "8": "reversing lamp", "9": "lasting supply", "10": "supply with the key", "13": "ground of pin 9"},
        ),
        ("SAE J560", {"1": "ground", "4": "stop lamps", "3": "left turn", "5": "right turn"}),
    ],
)
def test_trailer_sockets_have_the_functions_of_their_standards(socket, pins):
    """ISO 1724, ISO 11446, SAE J560: from memory of the published tables."""
    own = {pin.number: pin.function for pin in SOCKETS[socket]}
    assert {number: own[number] for number in pins} == pins


@pytest.mark.parametrize(
    ("family", "reads", "settings", "verdict"),
    [
        ("coil", ["ohms=13.0"], {"sort": "shift solenoid"}, "within limits"),
        ("coil", ["ohms=3.50"], {"sort": "shift solenoid"}, "outside limits"),
        ("coil", ["ohms=20.0"], {"sort": "lock-up solenoid"}, "within limits"),
        ("relay", ["pull_in=7.50", "drop_out=1.50", "contact_drop=0.05"], {}, "within limits"),
        ("relay", ["contact_drop=0.15"], {}, "outside limits"),
        ("pickup", ["ohms=1200"], {}, "within limits"),
        ("stator", ["ab=28.0V", "bc=28.5V", "ca=27.9V", "a_ground=OL", "b_ground=OL", "c_ground=OL"], {}, "within limits"),
        ("stator", ["ab=3.3V", "bc=4.8V", "ca=2.4V", "a_ground=50", "b_ground=50", "c_ground=50"], {}, "outside limits"),
        ("rectifier", ["ripple=0.20"], {}, "within limits"),
        ("hall", ["low_amps=7.0mA", "high_amps=14.0mA"], {"wires": "2"}, "within limits"),
    ],
)
def test_common_practice_values_are_those_of_the_trade(family, reads, settings, verdict):
    """Common practice, no source: what electricians go by where no maker's limit is at hand."""
    found = judged(family, *reads, **settings)
    assert str(found.verdict) == verdict
    assert all("no source" in one.limit.source for one in found.findings if one.limit and one.limit.kind == "common practice")


def test_a_heated_gauge_follows_the_effective_value():
    """Mean = duty·U, effective value = U·√duty of a rectangular wave: any textbook. 41 % of 12.4 V: 5.08 and 7.94 V."""
    figures = judged("regulator", "duty=41", "supply=12.4").service.figures
    assert figures["mean_v"] == pytest.approx(5.084) and figures["rms_v"] == pytest.approx(7.9399, rel=1e-4)


def test_a_clutch_coil_a_little_over_its_limit_is_out():
    """One maker's limit, 3.15 to 3.45 Ω at 20 °C (common practice, no source): 3.7 Ω at 21 °C is out."""
    assert verdicts(judged("coil", "ohms=3.7 @21C", limits=["ohms 3.15..3.45 @20C"]))["ohms"] == "outside limits"
