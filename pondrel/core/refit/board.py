"""Mending a board: its steps. Common practice without a source."""

from __future__ import annotations

from .step import Step

__all__ = ["BOARD", "FALLBACK", "VALUE"]

FALLBACK = Step("fallback", "The old unit kept", "It is what one goes back to if the mended one fails.")
VALUE = Step(
    "value",
    "Each new part at least as good",
    "As the list says: what times keeps its value; volts and heat no less.",
    "why, where it is not",
    optional=True,
)

BOARD = (
    Step("static", "Static let off", "Strap on the wrist, touch the case first, mat beneath."),
    Step(
        "discharged",
        "Big capacitors discharged",
        "Through a resistor, then measured: near 0 V.",
        caution="Off the vehicle it still holds its charge.",
    ),
    Step("photo", "Photo with marks before anything is unsoldered", "Which part, which way its stripe or plus lay."),
    Step(
        "coating",
        "Coating off only where it is worked",
        "Scraped or warmed off; solvent only where it is known to bear it: a corner first.",
    ),
    Step(
        "heat",
        "Heat kept short",
        "A brittle board lifts its tracks: three seconds, then let it cool.",
        caution="Lead and flux fumes: window open, hands washed.",
    ),
    VALUE,
    Step("polarity", "Polarity as on the photo", "Stripe to stripe, plus to plus, pin one to pin one."),
    Step(
        "bridges",
        "No bridge, no splash, no eaten track",
        "Looked at with a lens, measured between neighbours and along each track.",
        "what was measured",
    ),
    Step("coated", "Cleaned, dried, coated again", "Flux washed off; nothing wet is closed."),
    Step(
        "first",
        "First power through a lamp or a small fuse",
        "Watch the current, touch for heat, then the functions one by one.",
        "current it draws",
    ),
    FALLBACK,
)
