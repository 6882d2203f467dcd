"""An alternator with its output cable and link, and what the vehicle draws."""

from __future__ import annotations

from ..asked import Thing, fuse, ground, load, part, text, wire
from ..maker import MINUS, PLUS, Maker
from ..sizes import rating_of
from .typical import Given, Typical

USUAL_AMPS = 90.0


def _things(given: Given) -> tuple[Thing, ...]:
    amps = text("amps", "Amps on its plate", "not known", rating_of, ("55 A", "70 A", "90 A", "120 A", "150 A", "not known"))
    return (
        part("alternator", "alternator", amps, reach="underneath"),
        wire("cable", "output cable", "not known", "16"),
        fuse("link", "main fuse of the output cable", "125 A", "open"),
        ground("bracket", "alternator bracket", "underneath"),
        ground("strap", "engine ground strap"),
        fuse("loads_fuse", "fuse of the loads", "60 A"),
        load("loads", "lights, blower and rear glass together", size="35 A", sorts=("heater",)),
    )


def _build(m: Maker) -> None:
    m.caution = "The engine runs: hair, sleeves and leads away from belt and fan. Take battery minus off before you touch the output stud."
    code, label = m.code_of("alternator", "GEN")
    amps = rating_of(m.answers.said("alternator", "amps"))
    stud, case, block = f"{code.lower()}.b+", f"{code.lower()}.case", "engine.block"
    note = "" if amps else f"amps not known, {USUAL_AMPS:g} A taken"
    m.add(code, "alternator", {"p": stud, "n": case}, label, note, volts=14.2 * m.system / 12.0, amps=amps or USUAL_AMPS)
    behind = m.behind("alternator", label or code)
    m.place(stud, f"{label or code} output stud", behind, caution="Unfused: no ring and no spanner across to ground.")
    m.place(case, f"{label or code} case", behind)
    m.place(block, "engine block")
    link = m.fuse("link", kind="fuse")
    m.fed_by = 125.0
    m.wire("cable", stud, link, "output cable")
    one, one_label = m.code_of("bracket", "G")
    m.add(one, "ground", {"a": case, "b": block}, one_label, ohms=0.0006)
    other, other_label = m.code_of("strap", "G")
    m.add(other, "ground", {"a": block, "b": MINUS}, other_label, ohms=0.0008)
    out, loads = m.fuse("loads_fuse"), m.load("loads", "heater")
    switch = m.next_code("S")
    m.add(switch, "switch", {"a": out, "b": loads.a}, "the loads switched on")
    m.parts[loads.part]["pins"]["b"] = MINUS
    m.places.pop(loads.b, None)
    m.seen.clear()
    running = {"engine": "running", code: "running", "caution": "The engine runs: keep clear of belt and fan."}
    m.state("standing", engine="stopped")
    m.state("standing, loads on", engine="stopped", **{switch: "closed"})
    m.state("running", **running)
    m.state("running, loads on", **running, **{switch: "closed"})
    share = m.system / 12.0
    for state in ("running", "running, loads on"):
        m.limit(
            what="volts",
            at=PLUS,
            state=state,
            least=round(13.5 * share, 1),
            most=round(14.7 * share, 1),
            source="common practice: 13.5 to 14.7 V for each 12 V",
        )
    m.limit(
        what="drop", **{"from": stud, "to": PLUS}, state="running, loads on", most=0.3, source="common practice: alternator output cable"
    )
    m.limit(what="drop", **{"from": case, "to": MINUS}, state="running, loads on", most=0.2, source="common practice: ground side")


TYPICAL = Typical(
    "alternator",
    "Alternator and its output cable",
    "charging",
    "Alternator, cable and link to the battery, ground, the vehicle's loads.",
    _things,
    _build,
)
