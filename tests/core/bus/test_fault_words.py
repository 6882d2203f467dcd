"""What names of signals and of their values tell: a fault, a warning, or neither."""

from __future__ import annotations

import pytest
from cantools.database import conversion
from cantools.database.can import Signal

from pondrel.core.bus.fault_words import FAULT, WARNING, fault_told, wrong_values
from pondrel.core.bus.words import called


@pytest.mark.parametrize(
    ("name", "told"),
    [
        ("CrashLoopOpen", FAULT), ("DoorOpen", ""), ("DriveNotAllowed", FAULT), ("DriveAllowed", ""), ("NoFault", ""), ("RampFlt", FAULT),
        ("BrakeLampFault", FAULT), ("HVIL_Interrupted", FAULT), ("ChargeDoorOpen", ""), ("KeyOn", ""), ("FaultFree", ""),
        ("CoolantSensorCircuitShort", FAULT), ("FetShortToGround", FAULT), ("ShortPress", ""), ("SET_ON_SHORT_PRESS", ""),
        ("LoopNotFailed", ""), ("RAMP_ERROR_NONE", ""), ("kein_Fehler", ""), ("Systemfehler", FAULT), ("Lampe_defekt", FAULT),
        ("BrakeWarning", WARNING), ("LaneWarningSwitch", ""), ("ChargerDisabled", WARNING), ("TripDistance", ""), ("PreCrashBelt", ""),
        ("IsolationResistance", ""), ("ErrorOff", ""), ("LoopNotClosed", FAULT),
    ],
)  # fmt: skip
def test_names_tell_of_a_fault_or_not(name, told):
    assert fault_told(name) == told


def signal(name, bits=1, comment=None, **values):
    choices = {int(raw.removeprefix("v")): called for raw, called in values.items()} or None
    own = conversion.BaseConversion.factory(1, 0, choices, False)
    return Signal(name, 0, bits, "little_endian", conversion=own, comment=comment)


@pytest.mark.parametrize(
    ("own", "wrong"),
    [
        (signal("RampFault"), {1: FAULT}),
        (signal("RampFault", 2), {1: FAULT}),
        (signal("RampFault", 8), {}),
        (signal("RampFault", v0="Yes", v1="No"), {0: FAULT}),
        (signal("RampFault", v0="not set", v1="set"), {1: FAULT}),
        (signal("RampFault", v0="Inactive", v1="Active"), {1: FAULT}),
        (signal("RampErrorCode", 4, v0="RAMP_ERROR_NONE", v1="RAMP_ERROR_IDLE", v2="RAMP_ERROR_SPEED"), {2: FAULT}),
        (signal("RampFaultReason", 4, v0="none", v1="too hot", v2="too steep"), {1: FAULT, 2: FAULT}),
        (signal("RampState", 4, v0="rest", v1="moving", v2="failed", v3="disabled"), {2: FAULT, 3: WARNING}),
        (signal("RampWarningMode", 4, v0="quiet", v1="loud", v2="blinking"), {}),
        (signal("RampWarning", v0="off", v1="lit"), {1: WARNING}),
        (signal("RampPlaceQuality", v0="invalid", v1="valid"), {0: FAULT}),
        (signal("RampLanguage", 4, v0="invalid", v1="old", v2="new"), {0: WARNING}),
        (signal("Ramp", comment="Ramp fault"), {1: FAULT}),
        (signal("Ramp", comment="Chime of the belt warning"), {}),
    ],
)  # fmt: skip
def test_of_a_flag_these_values_tell_of_a_fault(own, wrong):
    assert wrong_values(own) == wrong


@pytest.mark.parametrize(
    ("comment", "says"),
    [
        ("ramp is too steep.", "Ramp is too steep"),
        ("Signal not transmitted on long ramps", "Ramp steep"),
        ("1 = steep", "Ramp steep"),
        ("Measured by the second of two sensors, where there are two, and else by the only one", "Ramp steep"),
        (None, "Ramp steep"),
    ],
)
def test_a_remark_is_no_name(comment, says):
    assert called(signal("RampSteep", comment=comment)) == says
