"""The steps of fitting it: from the way it is mended, from what it is, and from what was opened, closed in reverse.

Common practice without a source; the maker's instructions go before it.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..base.written import Content, EntryError, EntryField, EntryKind, Value
from ..circuit.sheet import Access
from ..remedy.options import Option
from ..remedy.target import Target

__all__ = ["BACK_ON", "CAME_OFF", "OPENED", "Step", "refit_steps"]


@dataclass(frozen=True, slots=True)
class Step:
    """One step: what is done (``title``), what to mind, what is ``wanted`` in words beside the tick (empty for nothing), and a caution."""

    name: str
    title: str
    detail: str = ""
    wanted: str = ""
    caution: str = ""


# By how the part is built, what fitting it asks for; then by what is said of it.
_BY_BUILD: dict[str, tuple[Step, ...]] = {
    "joint": (
        Step("bare", "Bare metal, both faces", "Brush or scrape until it shines; paint back over the edge afterwards, not under the ring."),
        Step("tight", "Tightened", "Star washer toward the body; the ring does not turn with the nut.", "torque, such as 9 Nm"),
        Step("greased", "Greased against water", "Thin, over the finished joint, never between the faces."),
    ),
    "wire": (
        Step("joined", "Joined and sealed", "Crimped or soldered, sleeve with glue over it, no strand outside."),
        Step("routed", "Laid as it was", "Same side, same clips, a drip loop where water runs."),
        Step("clear", "Clear of moving metal", "Move the seat, door, tilt or steering through its whole way and watch the wire."),
    ),
    "fuse": (Step("rating", "The same rating", "Never a larger one: the wire is the next thing to burn.", "amperes"),),
    "battery": (
        Step("posts", "Posts clean, polarity checked twice", "Plus first, minus last."),
        Step("held", "Clamped down, vent hose back", ""),
    ),
    "alternator": (
        Step("belt", "Belt on and tensioned", "Push it in the middle of its longest stretch.", "deflection in mm"),
        Step("output", "Output cable tight, boot over it", "", "torque, such as 12 Nm"),
    ),
    "stator": (
        Step("dowels", "Dowels and gasket in", "Magnets pull the cover in: fingers out of the gap."),
        Step("clear", "Wires clear of the rotor", "Under their clips, away from the flywheel."),
    ),
    "relay": (Step("polarity", "The right way round", "A coil with a diode inside has a plus: 86 or 85 as the diagram has it."),),
    "coil": (
        Step("seals", "New seals, clean seat", "O-rings oiled, screen clean; brass in plastic hand-tight and a touch."),
        Step("polarity", "The right way round", "Flow arrow and, where a diode is inside, polarity."),
    ),
    "motor": (Step("turns", "Turns free by hand first", "Then its first start unloaded, watched."),),
    "module": (
        Step("static", "Static let off before it is touched", "Strap on the wrist; pins not touched."),
        Step("pins", "Pins straight, plug locked", ""),
    ),
}  # fmt: skip
_BOARD = (
    Step("static", "Static let off", "Strap on the wrist, touch the case first, mat beneath."),
    Step("photo", "Photo with marks before anything is unsoldered", "Which part, which way its stripe or plus lay."),
    Step("heat", "Heat kept short", "A brittle board lifts its tracks: three seconds, then let it cool."),
    Step("solvent", "No solvent on the coating", "Unless it is known to bear it: try a corner first."),
    Step(
        "value",
        "The new part at least as good",
        "Capacitance as it was where it times; volts, temperature and life no less.",
        "value and rating",
    ),
    Step("polarity", "Polarity as on the photo", "Stripe to stripe."),
    Step("bridges", "No bridge, no splash", "Looked at with a lens, measured between neighbours."),
    Step("fallback", "The old unit kept", "It is what one goes back to if the mended one fails."),
)
_SAID: tuple[tuple[str, Step], ...] = (
    (
        r"brak\w*|abs\b",
        Step(
            "brake_fluid",
            "Filled and bled",
            "In the maker's order; where nothing is said the furthest first.",
            "fluid and amount",
            "Firm pedal, level and no leak before it moves.",
        ),
    ),
    (
        r"hydraulic\w*|tail.?lift|cylinder\w*|roof\b",
        Step("oil", "Oil filled and bled", "Run it empty through its whole way, fill again.", "fluid and amount"),
    ),
    (
        r"coolant|thermostat|radiator",
        Step("coolant", "Coolant filled and bled", "Heater on full, bleed screw open until it runs clear.", "fluid and amount"),
    ),
    (r"stator|flywheel|magneto", Step("cover_oil", "Oil that ran out filled up", "To its mark, engine level.", "fluid and amount")),
    (
        r"air spring\w*|kneel\w*|air suspension",
        Step(
            "air_line",
            "Air line cut square and pushed home",
            "Hand-tight and a quarter turn; soap on it.",
            caution="On stands, pump fuse out, until the line holds.",
        ),
    ),
    (r"belt\b|tensioner", Step("belt", "Belt on and tensioned", "Push it in the middle of its longest stretch.", "deflection in mm")),
    (
        r"seat\b|airbag\w*|pretensioner\w*",
        Step(
            "yellow",
            "Yellow plugs home, battery still off",
            "Then key on with nobody inside.",
            caution="No meter on a squib; battery off and the maker's wait before any yellow plug.",
        ),
    ),
)
OPENED = "open:"
BACK_ON = "back:"


def refit_steps(
    target: Target,
    option: Option,
    words: str,
    opened: Sequence[Access],
    unplugged: Iterable[str],
    came_off: Iterable[str],
    hazards: Iterable[str],
) -> tuple[Step, ...]:
    """The steps in the order in which they are done: the part itself, what was disturbed on the way in, and what was opened, in reverse.
    ``words`` is what is known of complaint and circuit; ``unplugged`` and ``came_off`` are names, ``hazards`` titles of what was made
    safe."""
    own = _BOARD if option.way.name == "board_repair" or target.build.name == "component" else _BY_BUILD.get(target.build.name, ())
    said = [step for pattern, step in _SAID if re.search(rf"\b(?:{pattern})", words, re.IGNORECASE)]
    steps = [*own, *said]
    steps += [Step(f"plug:{name}", f"{name} plugged in and locked", "Pull on it: it was apart on the way in.") for name in unplugged]
    steps += [Step(f"{BACK_ON}{name}", f"{name} back on", "It came off on the way in.") for name in came_off]
    for access in reversed(opened):
        called = access.note or access.name.replace("_", " ")
        steps.append(
            Step(f"{OPENED}{access.name}", f"Closed again: {called}", "Nothing left over, no wire pinched.", caution=access.caution)
        )
    steps += (
        [Step("battery_on", "Battery on again", "Plus first, minus last; clock, windows and radio told again.")]
        if "Battery" in hazards
        else []
    )
    return tuple({step.name: step for step in steps}.values())


def _checked(content: dict[str, Value]) -> dict[str, Value]:
    if not str(content["what"]).strip():
        raise EntryError("What came off is missing: write it down in a few words.")
    return content


CAME_OFF = EntryKind("came_off", "Came off", (EntryField("what", "What came off", longest=80),), lambda c: str(c["what"]), _checked)


def _ticked(content: Content) -> str:
    return f"{content['title']}" + (f": {content['text']}" if content.get("text") else "")


FITTED_STEP = EntryKind(
    "refitted",
    "Fitted",
    (
        EntryField("step", "The step", longest=140),
        EntryField("title", "What it was", longest=200),
        EntryField("text", "In a few words", required=False, longest=300),
    ),
    _ticked,
)
