"""How something failed, by the failure type byte behind a fault code. After SAE J2012-DA, from memory and in our own wording."""

from __future__ import annotations

from collections.abc import Mapping

__all__ = ["FAILURE_GROUPS", "FAILURE_TYPES"]

# By the first digit, where the byte itself is not in the table.
FAILURE_GROUPS: Mapping[str, str] = {
    "0": "a failure in general", "1": "an electrical failure of the circuit", "2": "a failure of the signal",
    "3": "a failure of the pulses", "4": "a failure inside the module", "5": "a failure of its programming",
    "6": "a failure that was reckoned out", "7": "a mechanical failure", "8": "a failure of bus messages", "9": "a failure of the part",
}  # fmt: skip
FAILURE_TYPES: Mapping[str, str] = {
    "00": "no more is said", "01": "electrical failure", "02": "signal failure", "03": "pulse failure", "04": "failure inside the module",
    "05": "programming failure", "06": "failure of a calculation", "07": "mechanical failure", "08": "bus message failure",
    "09": "failure of the part",
    "11": "circuit short to ground", "12": "circuit short to battery", "13": "circuit open", "14": "circuit short to ground or open",
    "15": "circuit short to battery or open", "16": "circuit voltage too low", "17": "circuit voltage too high",
    "18": "circuit current too low", "19": "circuit current too high", "1A": "circuit resistance too low",
    "1B": "circuit resistance too high", "1C": "circuit voltage out of range", "1D": "circuit current out of range",
    "1E": "circuit resistance out of range", "1F": "circuit comes and goes",
    "21": "signal too small", "22": "signal too large", "23": "signal stuck low", "24": "signal stuck high", "25": "signal of wrong shape",
    "26": "signal changes too slowly", "27": "signal changes too fast", "28": "signal off its zero", "29": "signal invalid",
    "2A": "signal stuck within its range", "2B": "signal coupled with another", "2F": "signal erratic",
    "31": "no signal", "32": "low time too short", "33": "low time too long", "34": "high time too short", "35": "high time too long",
    "36": "frequency too low", "37": "frequency too high", "38": "frequency wrong", "39": "too few pulses", "3A": "too many pulses",
    "41": "checksum failure", "42": "memory failure", "43": "special memory failure", "44": "data memory failure",
    "45": "program memory failure", "46": "calibration memory failure", "47": "watchdog failure", "48": "supervision failure",
    "49": "failure of its electronics", "4A": "wrong part installed", "4B": "too hot inside",
    "51": "not programmed", "52": "not activated", "53": "switched off", "54": "calibration missing", "55": "not configured",
    "56": "configuration does not fit", "57": "software does not fit",
    "61": "calculation failed", "62": "two signals differ", "63": "protection timed out", "64": "signal not plausible",
    "65": "too few changes", "66": "too many changes", "67": "wrong after an event", "68": "tells of an event",
    "71": "actuator stuck", "72": "actuator stuck open", "73": "actuator stuck closed", "74": "actuator slips",
    "75": "emergency position not reached", "76": "mounted in a wrong position", "77": "commanded position not reached",
    "78": "adjustment wrong", "79": "linkage failed", "7A": "fluid leaks", "7B": "fluid low",
    "81": "invalid data received", "82": "counter of messages does not go on", "83": "protection of a message wrong",
    "84": "signal below what is allowed", "85": "signal above what is allowed", "86": "signal marked invalid", "87": "message missing",
    "88": "bus switched off", "8F": "messages erratic",
    "91": "values off", "92": "works wrongly", "93": "does not work", "94": "works when it should not", "95": "assembled wrongly",
    "96": "part failed inside", "97": "obstructed or blocked", "98": "too hot",
}  # fmt: skip
