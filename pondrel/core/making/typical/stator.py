"""A permanent-magnet generator: three-phase stator, rectifier with its regulator's plug, battery."""

from __future__ import annotations

from ..asked import Thing, fuse, ground, load, part, text, wire
from ..maker import MINUS, PLUS, Maker
from ..sizes import load_of, number_of
from .typical import Given, Typical

USUAL_OHMS, USUAL_VOLTS = 0.4, 14.0
_REGULATED_VOLTS, _REGULATOR_OHMS = 14.0, 0.03  # of 12 V; it shunts what is too much. Common practice, no source
_CHARGED_AMPS = 8.0  # what a small battery takes while it is charged


def _volts(said: str) -> float | None:
    return number_of(said, {"": 1.0, "v": 1.0, "volts": 1.0}, "volts such as 20 V are wanted", 200.0)


def _things(given: Given) -> tuple[Thing, ...]:
    return (
        part(
            "stator",
            "stator",
            text("size", "Ohms of one winding", "not known", load_of, ("0.2 ohm", "0.4 ohm", "0.8 ohm", "not known")),
            text("volts", "AC volts between two phases at 1000 rpm, unplugged", "not known", _volts, ("not known",)),
        ),
        part("rectifier", "regulator-rectifier"),
        wire("output", "wire, rectifier to main fuse", "not known", "4"),
        fuse("fuse", "main fuse", "30 A", "cover"),
        ground("ground", "rectifier ground"),
        load("lights", "lights that are always on", size="55 W", sorts=("heater",)),
    )


def _build(m: Maker) -> None:
    m.caution = "Unplugged, the stator gives high AC volts while the engine runs: seconds only, hands off the pins."
    code, label = m.code_of("stator", "GEN")
    size, volts = load_of(m.answers.said("stator", "size")), _volts(m.answers.said("stator", "volts"))
    ohms = (size.at(m.system).ohms or USUAL_OHMS) if size else USUAL_OHMS
    note = "" if size and volts else f"not all known, {ohms:g} Ω a winding and {volts or USUAL_VOLTS:g} V at 1000 rpm taken"
    phases = {phase: f"{code.lower()}.{phase}" for phase in ("u", "v", "w")}
    m.add(
        code, "stator", phases, label, note, ohms=round(ohms / 2, 4), volts=volts or USUAL_VOLTS, amps=15.0, tolerance=0.2 if note else None
    )
    bridge, bridge_label = m.code_of("rectifier", "V")
    plus, case = f"{bridge.lower()}.plus", f"{bridge.lower()}.case"
    m.add(bridge, "rectifier_bridge", {**phases, "p": plus, "n": case}, bridge_label)
    m.parts["BAT"]["accepts"] = _CHARGED_AMPS
    m.add("VR1", "zener", {"a": case, "k": plus}, f"regulator in {bridge_label or bridge}",
          volts=round(_REGULATED_VOLTS * m.system / 12.0, 1), ohms=round(_REGULATOR_OHMS * m.system / 12.0, 4))  # fmt: skip
    behind, at_bridge = m.behind("stator", label or code), m.behind("rectifier", bridge_label or bridge)
    for number, node in enumerate(phases.values(), 1):
        m.place(node, f"{label or code} plug pin {number}", behind, connector=code, cavity=str(number))
    m.place(plus, f"{bridge_label or bridge} plus", at_bridge)
    m.place(case, f"{bridge_label or bridge} case", at_bridge)
    m.wire("output", plus, m.fuse("fuse"), "rectifier to main fuse")
    earth, earth_label = m.code_of("ground", "G")
    m.add(earth, "ground", {"a": case, "b": MINUS}, earth_label)
    lights = m.load("lights", "heater")
    m.parts[lights.part]["pins"] = {"a": PLUS, "b": MINUS}
    m.places.pop(lights.a, None)
    m.places.pop(lights.b, None)
    m.seen.clear()
    m.state("stopped", engine="stopped")
    m.state("idle", engine="running", caution="The engine runs.", **{code: 1500})
    m.state("fast", engine="running", caution="The engine runs.", **{code: 4000})


TYPICAL = Typical(
    "stator",
    "Three-phase stator with regulator-rectifier",
    "charging",
    "Magnets and a stator feed the battery through a rectifier.",
    _things,
    _build,
)
