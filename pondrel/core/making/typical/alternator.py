"""An alternator with its output cable and link, and what the vehicle draws."""

from __future__ import annotations

from ..asked import Thing, choice, fuse, ground, load, part, switch, text, wire
from ..maker import MINUS, PLUS, Maker
from ..sizes import rating_of
from .typical import CIRCUIT, Given, Typical, picked

USUAL_AMPS = 90.0
_WITH_LAMP, _WITHOUT = "through the charge lamp", "by itself or by a module"
_LAMPS = (_WITH_LAMP, _WITHOUT)
CLAMP_PLUS, CLAMP_MINUS = "clamp+", "clamp-"
_JOINT_OHMS = 0.0002
_CHARGED_AMPS = 12.0  # what a battery that is nearly full still takes


def _things(given: Given) -> tuple[Thing, ...]:
    amps = text("amps", "Amps on its plate", "not known", rating_of, ("55 A", "70 A", "90 A", "120 A", "150 A", "not known"))
    lamp = picked(given, f"{CIRCUIT}.lamp", *_LAMPS) == _WITH_LAMP
    excitation = (
        fuse("lamp_fuse", "fuse of the charge lamp", "10 A"),
        switch("key", "key switch"),
        part("charge_lamp", "charge lamp", reach="cover"),
        wire("exciter", "exciter wire, charge lamp to alternator"),
    )
    return (
        Thing(CIRCUIT, "The circuit", (choice("lamp", "Excitation", *_LAMPS),)),
        *(excitation if lamp else ()),
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
    m.parts["BAT"]["accepts"] = _CHARGED_AMPS
    lamp = picked(m.answers.given, f"{CIRCUIT}.lamp", *_LAMPS) == _WITH_LAMP
    exciter = f"{code.lower()}.l"
    m.add(
        code,
        "alternator",
        {"p": stud, "n": case, **({"l": exciter} if lamp else {})},
        label,
        note,
        volts=round(14.2 * m.system / 12.0, 1),
        amps=amps or USUAL_AMPS,
        ohms=round(0.006 * m.system / 12.0, 4),
    )
    behind = m.behind("alternator", label or code)
    m.place(stud, f"{label or code} output stud", behind, caution="Unfused: no ring and no spanner across to ground.")
    m.place(case, f"{label or code} case", behind)
    m.place(block, "engine block")
    m.add("C1", "contact", {"a": PLUS, "b": CLAMP_PLUS}, "plus clamp", ohms=_JOINT_OHMS)
    m.place(CLAMP_PLUS, "battery plus clamp")
    link = m.fuse("link", CLAMP_PLUS)
    m.fed_by = 125.0
    m.wire("cable", stud, link, "output cable")
    one, one_label = m.code_of("bracket", "G")
    m.add(one, "ground", {"a": case, "b": block}, one_label, ohms=0.0006)
    other, other_label = m.code_of("strap", "G")
    m.add(other, "ground", {"a": block, "b": CLAMP_MINUS}, other_label, ohms=0.0008)
    m.add("C2", "contact", {"a": CLAMP_MINUS, "b": MINUS}, "minus clamp", ohms=_JOINT_OHMS)
    m.place(CLAMP_MINUS, "battery minus clamp")
    key = _excitation(m, exciter) if lamp else None
    out, loads = m.fuse("loads_fuse", CLAMP_PLUS), m.load("loads", "heater")
    switch = m.next_code("S")
    m.add(switch, "switch", {"a": out, "b": loads.a}, "the loads switched on")
    m.parts[loads.part]["pins"]["b"] = CLAMP_MINUS
    m.places.pop(loads.b, None)
    m.seen.pop(m.parts[loads.part].get("label") or loads.part, None)
    m.see(code, "ripple")
    on = {key: "closed"} if key else {}
    running = {**on, "engine": "running", code: "running", "caution": "The engine runs: keep clear of belt and fan."}
    m.state("standing", engine="stopped")
    if on:
        m.state("key on", key="on", engine="stopped", **on)
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


def _excitation(m: Maker, exciter: str) -> str:
    """Fuse, key, charge lamp and exciter wire; the name of the key switch."""
    out, key = m.fuse("lamp_fuse", CLAMP_PLUS), m.switch("key")
    m.add(m.next_code("W"), "wire", {"a": out, "b": key.a}, "fuse to key switch", length_m=1.0, csa_mm2=0.75)
    code, label = m.code_of("charge_lamp", "H")
    feed, back = f"{code.lower()}.1", f"{code.lower()}.2"
    m.add(code, "lamp", {"a": feed, "b": back}, label or "charge lamp", volts=m.system, watts=3.0)
    behind = m.behind("charge_lamp", label or code)
    m.place(feed, f"{label or code}, feed", behind)
    m.place(back, f"{label or code}, towards the alternator", behind)
    m.see(code, "brightness")
    m.add(m.next_code("W"), "wire", {"a": key.b, "b": feed}, "key switch to charge lamp", length_m=0.6, csa_mm2=0.75)
    m.wire("exciter", back, exciter, "exciter wire")
    m.place(exciter, "exciter terminal of the alternator", m.behind("alternator", "alternator"))
    return key.part


TYPICAL = Typical(
    "alternator",
    "Alternator and its output cable",
    "charging",
    "Alternator with charge lamp and exciter wire, cable and link to the battery, ground, the vehicle's loads.",
    _things,
    _build,
)
