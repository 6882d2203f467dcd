"""A data line: read to frames, how much of the time it is disturbed, and what is likely the matter with its wires."""

from __future__ import annotations

from ...base.judgement import judged
from ...bench.family import Check, Family
from ...bench.judged import Service
from ...check import Limit
from ...wave.bits import Bits, bits_of
from ...wave.measure import Measured
from ..pattern import PRACTICE, Looked, Pattern, Verdicts, unseen, wrong

PLACE = 130
RECEIVED = judged(
    "CAN_RECEIVED", 0.9, "V", "between its wires from which on a receiver is bound to take a line as dominant", "ISO 11898-2, from memory"
)
DISTURBED_MOST = judged("LINE_DISTURBED", 0.1, "%", "of the time that a data line may be disturbed", PRACTICE)
LIKELY = judged("LINE_LIKELY", 0.5, "share", "of likelihood from which on what is the matter with a data line is named", PRACTICE)
SOUND = "The line is as it should be."
_DISTURBED = Check(
    "disturbed",
    "the share of time that it is disturbed",
    ("%",),
    beyond=("", ""),
    then="Flex the harness where things move, one place at a time, and watch; then one plug or junction at a time.",
)
_DOMINANT = Check(
    "difference", "difference when dominant", ("V",), beyond=("Too little: a load on the line, or a sender's feed.", "An end is missing.")
)


def read_line(looked: Looked) -> Bits:
    """The line that a pattern looks at: both channels where there are two."""
    if looked.second is None:
        return bits_of(looked.capture, looked.channel.name if len(looked.capture.channels) > 1 else "")
    return bits_of(looked.capture)


def _find(looked: Looked) -> Verdicts:
    own = read_line(looked)
    found = []
    if not own.moves:
        found.append(
            unseen(
                "traffic",
                "none",
                "Nothing is sent on it in this capture.",
                then="Wake the vehicle: key on. If it stays dead, read ohms between the wires with the battery off.",
            )
        )
    else:
        share = Measured(100.0 * own.disturbed, 100.0 / max(looked.capture.count, 1) * 20.0)
        told = f"{len(own.frames)} frames are read, and the line is disturbed {share.value:.2g} % of the time"
        found.append(looked.judge(_DISTURBED, share, Limit("%", most=DISTURBED_MOST, source=PRACTICE), told))
    levels = own.volts.as_json()
    dominant = levels.get("differential_dominant")
    if isinstance(dominant, float) and own.frames:
        told = f"When dominant its wires are {dominant:.2f} V apart"
        told += f", and a receiver wants {RECEIVED:g} V" if dominant < RECEIVED else ""
        found.append(looked.judge(_DOMINANT, Measured(dominant, 0.05), Limit("V", 1.5, 3.0, "ISO 11898-2, at a sender"), told))
    first = own.suspects[0] if own.suspects else None
    if first is not None and first.says != SOUND and first.probability >= LIKELY and own.moves:
        found.append(
            wrong(
                "wires",
                first.says,
                f"{first.says} ({100 * first.probability:.0f} %)",
                then="Battery off: read ohms between the wires, and each to ground and to the supply.",
            )
        )
    return found


def _serve(looked: Looked, found: Verdicts) -> Service:
    own = read_line(looked)
    says = tuple(f"{one.says} {100 * one.probability:.0f} %" for one in own.suspects[:3])
    figures: dict[str, float | str | bool | None] = {
        "protocol": own.protocol or None,
        "bit_rate": own.bit_rate,
        "frames": float(len(own.frames)),
        "errors": float(len(own.errors)),
        "disturbed": own.disturbed,
    }
    return Service(figures, says)


PATTERN = Pattern(
    Family(
        "data_line",
        "Data line",
        "can lin bus network high low bit frame",
        "disturbed",
        (),
        ("No test lamp and no load on a data line; a scope's probe is light enough.",),
        derived=(_DISTURBED, _DOMINANT),
        group="Networks",
    ),
    "Clip on CAN high, a second channel on CAN low, the black leads on battery minus; key on.",
    _find,
    two="CAN low",
    serve=_serve,
)
