"""What fitting it asks for, by how the part is built. Common practice without a source; the maker's instructions go before it."""

from __future__ import annotations

from collections.abc import Mapping

from .step import TORQUE, Step

__all__ = ["BELT", "FITTING", "SET_RIGHT"]

_BARE = Step("bare", "Bare metal, both faces", "Brush or scrape until it shines; paint back over the edge afterwards, not under the ring.")
_FIXED = Step(
    "fixed",
    "Fixings in by hand, then tightened",
    "Threads clean; threadlock where the old ones had it, new ones where the maker says they stretch.",
    TORQUE,
)
_PLUG = Step(
    "plug", "Plug home until it latches", "Pins straight and clean, seal in its groove, contact grease where it had some. Pull on it."
)
_ROUTED = Step("routed", "Laid as it was", "Same side, same clips, a drip loop where water runs, nothing under tension.")
_CLEAR = Step("clear", "Clear of moving metal", "Move the seat, door, tilt or steering through its whole way and watch the wire.")
_CABLE = Step("cable", "Cable nut tight, boot over it", "Counter-hold the stud: inside it carries a winding or a plate.", TORQUE)
_TURNS = Step("turns", "Turns free by hand first", "Then its first start unloaded, watched.")

BELT = (
    Step("belt", "Belt on and tensioned", "Push it in the middle of its longest stretch.", "deflection in mm"),
    Step("aligned", "Pulleys in one plane", "Look along the belt: it runs straight, and its ribs sit in every groove."),
)

SET_RIGHT = (
    Step("set", "Set as its maker says", "Gap, play or stop, measured before and after.", "before and after, in mm"),
    _FIXED,
    Step("works", "Works cold and hot", "Let it do its work ten times, then once more when it is warm."),
)

FITTING: Mapping[str, tuple[Step, ...]] = {
    "joint": (
        _BARE,
        Step("tight", "Tightened", "Star washer toward the body; the ring does not turn with the nut.", TORQUE),
        Step("greased", "Greased against water", "Thin, over the finished joint, never between the faces."),
    ),
    "wire": (
        Step("joined", "Joined and sealed", "Crimped or soldered, sleeve with glue over it, no strand outside."),
        _ROUTED,
        _CLEAR,
    ),
    "fuse": (
        Step("rating", "The same rating", "Never a larger one: the wire is the next thing to burn.", "amperes"),
        Step("clips", "Its clips grip", "No brown plastic, no green, no play: a loose clip burns the next one."),
    ),
    "switch": (
        _FIXED,
        _PLUG,
        Step(
            "positions", "Every position tried with the meter on it", "Closed near 0 Ω, open OL, and no click in between that does nothing."
        ),
    ),
    "relay": (
        Step("polarity", "The right way round", "A coil with a diode inside has a plus: 86 or 85 as the diagram has it."),
        Step("clips", "Its socket grips", "Pins clean, no brown plastic; it does not wobble."),
    ),
    "coil": (
        Step("seals", "New seals, clean seat", "O-rings oiled, screen clean; brass in plastic hand-tight and a touch."),
        Step("polarity", "The right way round", "Flow arrow and, where a diode is inside, polarity."),
        _FIXED,
        _PLUG,
    ),
    "lamp": (
        Step("watts", "The same watts and base", "More watts melt the holder and its wire.", "watts"),
        Step("glass", "Glass not touched, seal and cap back", "Wipe finger marks off with spirit."),
    ),
    "motor": (
        Step("faces", "Mounting faces bare", "Where its case is its ground, paint and rust are in the circuit."),
        _FIXED,
        _CABLE,
        _PLUG,
        _TURNS,
    ),
    "alternator": (
        _FIXED,
        *BELT,
        _CABLE,
        _PLUG,
    ),
    "stator": (
        Step("clear", "Wires clear of the rotor", "Under their clips, away from the flywheel."),
        Step(
            "dowels",
            "Dowels and a new gasket in",
            "Old gasket scraped off, faces wiped dry.",
            caution="Magnets pull the cover in: fingers out of the gap.",
        ),
        Step("crosswise", "Cover tightened crosswise, in two or three rounds", "Each length in its own hole: see the card.", TORQUE),
        _PLUG,
    ),
    "battery": (
        Step("posts", "Posts clean, polarity checked twice", "Plus first, minus last."),
        Step("held", "Clamped down, vent hose back", "It must not move by hand."),
    ),
    "sensor": (
        Step("seat", "Seat clean, new seal or washer", "Nothing on its tip or face; the gap as it was, or as the maker has it."),
        _FIXED,
        _PLUG,
        _ROUTED,
        Step(
            "travel",
            "Moves freely from end to end",
            "A pedal, lever or float: no mat, bracket or wire in its way, and it comes back by itself.",
        ),
    ),
    "gauge": (
        _PLUG,
        Step("rest", "Needle rests where it should", "Not turned by hand: some are stopped by nothing."),
        Step("case", "Case grounded, lamps in", "Where its case is its ground, the nuts carry the current."),
    ),
    "module": (
        Step("static", "Static let off before it is touched", "Strap on the wrist; pins not touched."),
        Step("pins", "Pins straight, plug locked", "No green, no water in the plug; its lever moves without force."),
        _FIXED,
        Step("dry", "It stays dry", "Seal and lid on, plug downwards, a drip loop in the loom."),
    ),
    "board": (
        Step("static", "Static let off before it is touched", "Strap on the wrist; pins not touched."),
        Step("sink", "Seat bare and flat", "Its case is its ground or its cooling: heat paste where it had some, thin."),
        _FIXED,
        _PLUG,
    ),
    "component": (),
    "part": (_FIXED, _PLUG, _ROUTED),
}
