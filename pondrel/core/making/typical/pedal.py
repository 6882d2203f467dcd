"""A pedal with two tracks, whose voltages must agree by a rule."""

from __future__ import annotations

from ...base.errors import MakingError
from ..asked import Thing, choice, sensor, wire
from ..maker import Maker
from .typical import Given, Typical, module_feed, module_things, on_the_module

_PINS = {
    "ref1": "5 V reference 1", "signal1": "signal 1", "low1": "sensor ground 1",
    "ref2": "5 V reference 2", "signal2": "signal 2", "low2": "sensor ground 2",
}  # fmt: skip
_HALF, _SAME = "half of the first", "the same as the first"
_LEADS = {"ref": "reference", "signal": "signal", "low": "ground"}


def _things(given: Given) -> tuple[Thing, ...]:
    return (
        *module_things(_PINS),
        sensor("pedal", "pedal", choice("rule", "The second track's volts are", _HALF, _SAME), pins="1, 2, 3, 4, 5, 6", reach="open"),
        *(wire(f"{lead}{track}", f"wire, {words} {track}") for track in (1, 2) for lead, words in _LEADS.items()),
    )


def _build(m: Maker) -> None:
    nodes = module_feed(m, _PINS)
    code, label = m.code_of("pedal", "B")
    said = m.answers.said("pedal", "pins").replace(",", " ").split()
    if len(set(said)) != 6:
        raise MakingError(f"A pedal of two tracks has six pins: name them in the order {', '.join(_PINS.values())}.")
    at = dict(zip(("supply1", "signal1", "gnd1", "supply2", "signal2", "gnd2"), said, strict=True))
    pins = {name: f"{code.lower()}.{pin}" for name, pin in at.items()}
    ratio = 0.5 if m.answers.said("pedal", "rule") == _HALF else 1.0
    m.add(code, "pedal", pins, label, ratio=ratio)
    behind = m.behind("pedal", label or code)
    for (name, pin), words in zip(at.items(), _PINS.values(), strict=True):
        m.place(pins[name], f"{label or code} pin {pin}, {words}", behind, connector=code, cavity=pin)
    for track in ("1", "2"):
        low, ref, signal = nodes[f"low{track}"], nodes[f"ref{track}"], nodes[f"signal{track}"]
        m.add(m.next_code("G"), "splice", {"a": low, "b": nodes["ground"]}, f"sensor ground {track} inside the module")
        m.add(
            f"{nodes['part']}.5V{track}", "reference", {"in": nodes["supply"], "out": ref, "gnd": nodes["ground"]}, f"5 V reference {track}"
        )
        m.wire(f"ref{track}", ref, pins[f"supply{track}"], f"reference {track}")
        m.wire(f"signal{track}", pins[f"signal{track}"], signal, f"signal {track}")
        m.wire(f"low{track}", pins[f"gnd{track}"], low, f"sensor ground {track}")
        high = 4.75 if track == "1" or ratio == 1.0 else 2.4
        reads = on_the_module(m, nodes, f"signal{track}", "module_input", f"module input, track {track}", pull_volts=0.0, ohms=220_000.0,
                              low_code=0.3 if track == "1" else 0.15, high_code=high)  # fmt: skip
        m.see(reads, "code")
    m.state("pedal up", key="on", **{code: 0})
    m.state("half way", key="on", **{code: 50})
    m.state("pedal down", key="on", note="engine stopped, pedal pressed fully", **{code: 100})


TYPICAL = Typical(
    "pedal",
    "Pedal with two tracks",
    "sensors",
    "Two tracks on a reference each, two signals that must agree.",
    _things,
    _build,
)
