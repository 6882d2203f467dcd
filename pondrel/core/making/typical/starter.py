"""A starter with its control relay and what must be closed before it turns: key, neutral switch and the like."""

from __future__ import annotations

from ..asked import Thing, choice, fuse, ground, part, relay, switch, text, times, wire
from ..maker import MINUS, PLUS, Maker
from ..sizes import load_of
from .typical import CIRCUIT, Given, Typical, many, numbered, picked

_PLAIN, _TIMED, _NONE = "a plain relay", "a relay with a timer inside", "no relay"
_RELAYS = (_PLAIN, _TIMED, _NONE)
MOST = 4
_INTERLOCKS = ("neutral switch", "clutch switch", "seat switch", "hood switch")
USUAL_AMPS = 150.0
# Nodes of the heavy path that every such sheet has.
CLAMP_PLUS, CLAMP_MINUS, BLOCK, BODY_ENGINE, BODY_MINUS = "clamp+", "clamp-", "block", "body.engine", "body.minus"
_JOINT_OHMS = 0.0002
_CAUTION = "The engine turns: neutral or park, brake on, fuel or ignition off, nobody near belt and fan, ten seconds at most."


def _things(given: Given) -> tuple[Thing, ...]:
    how, count = picked(given, f"{CIRCUIT}.relay", *_RELAYS), many(given, f"{CIRCUIT}.interlocks", 1, MOST, 0)
    asked = (
        choice("relay", "Control relay", *_RELAYS),
        times("interlocks", "Interlock switches in the control line", 1, MOST, "switches", 0),
    )
    return (
        Thing(CIRCUIT, "The circuit", asked),
        wire("cable", "starter cable", "1.5 m", "35"),
        fuse("fuse", "start fuse", "30 A"),
        wire("key_feed", "wire, fuse to key switch"),
        switch("key", "key switch, start"),
        *(switch(key, _INTERLOCKS[n]) for n, key in enumerate(numbered("interlock", count))),
        *(wire(f"control{n + 1}", f"wire, control line, stretch {n + 1}") for n in range(count + 1)),
        *(() if how == _NONE else (relay("relay", "start relay"), wire("trigger", "wire, start relay to starter terminal 50"))),
        *(() if how == _NONE else (ground("relay_ground", "ground point of the start relay"),)),
        part(
            "starter",
            "starter",
            text("size", "Amps while it turns the engine, or kW", "not known", load_of, ("not known",)),
            reach="underneath",
        ),
        ground("strap", "engine ground strap", "underneath"),
    )


def _build(m: Maker) -> None:
    given = m.answers.given
    how, count = picked(given, f"{CIRCUIT}.relay", *_RELAYS), many(given, f"{CIRCUIT}.interlocks", 1, MOST, 0)
    m.caution = _CAUTION
    code, label = m.code_of("starter", "M")
    stud, trigger, motor_stud, case = (f"{code.lower()}.{end}" for end in ("30", "50", "45", "case"))
    size = load_of(m.answers.said("starter", "size"))
    amps = size.at(m.system).amps if size else USUAL_AMPS * 12.0 / m.system
    note = "" if size else f"amps not known, {amps:g} A taken"
    pulls = {} if m.system < 18.0 else {"pull_in": 16.0, "drop_out": 6.0, "pull_ohms": 0.9, "hold_ohms": 2.4}
    pins = {"30": stud, "50": trigger, "31": case, "45": motor_stud}
    m.add(code, "starter", pins, label, note, volts=m.system, amps=amps, tolerance=None if size else 0.35, **pulls)
    behind = m.behind("starter", label or code)
    for node, words in ((stud, "stud 30"), (trigger, "terminal 50"), (motor_stud, "motor stud"), (case, "case")):
        m.place(node, f"{label or code} {words}", behind)
    m.see(code, "runs")
    _heavy_path(m, stud, case)
    out, key = m.fuse("fuse"), m.switch("key")
    m.wire("key_feed", out, key.a, "fuse to key switch")
    closed, at = {key.part: "closed"}, key.b
    rest = {}
    for n, name in enumerate(numbered("interlock", count), 1):
        lock = m.switch(name)
        m.wire(f"control{n}", at, lock.a, f"control line, stretch {n}")
        at = lock.b
        rest[lock.part] = "closed"
    last = f"control{count + 1}"
    if how == _NONE:
        m.wire(last, at, trigger, "control line to the starter")
    else:
        k = _relay(m, how)
        m.add(m.next_code("W"), "wire", {"a": out, "b": k["30"]}, "fuse to start relay", length_m=0.5, csa_mm2=4.0)
        m.wire(last, at, k["coil"], "control line to the relay")
        m.wire("trigger", k["87"], trigger, "start relay to terminal 50")
    m.state("rest", key="off")
    m.state("key on", key="on", **rest)
    m.state("start", key="start", caution=_CAUTION, **closed, **rest)
    _limits(m, stud, motor_stud, case)


def _heavy_path(m: Maker, stud: str, case: str) -> None:
    """Every joint from the plus post to the starter's stud, and from its case back to the minus post."""
    m.fed_by = 200.0
    m.add("C1", "contact", {"a": PLUS, "b": CLAMP_PLUS}, "plus clamp", ohms=_JOINT_OHMS)
    m.wire("cable", CLAMP_PLUS, stud, "starter cable")
    m.add("C2", "contact", {"a": case, "b": BLOCK}, "starter flange", ohms=_JOINT_OHMS)
    strap, label = m.code_of("strap", "G")
    m.add(strap, "ground", {"a": BLOCK, "b": BODY_ENGINE}, label, ohms=0.0006)
    body = m.next_code("G")
    m.add(body, "ground", {"a": BODY_ENGINE, "b": BODY_MINUS}, "body between strap and minus cable", ohms=_JOINT_OHMS)
    m.add(m.next_code("W"), "wire", {"a": BODY_MINUS, "b": CLAMP_MINUS}, "minus cable", length_m=0.5, csa_mm2=35.0, tolerance=0.5)
    m.add("C3", "contact", {"a": CLAMP_MINUS, "b": MINUS}, "minus clamp", ohms=_JOINT_OHMS)
    behind = m.behind("strap", label or strap)
    for node, at in ((CLAMP_PLUS, "battery plus clamp"), (CLAMP_MINUS, "battery minus clamp"), (BLOCK, "engine block, bare metal")):
        m.place(node, at)
    m.place(BODY_ENGINE, "body, beside the engine strap's bolt", behind)
    m.place(BODY_MINUS, "body, beside the minus cable's bolt")


def _limits(m: Maker, stud: str, motor_stud: str, case: str) -> None:
    share = m.system / 12.0
    practice = "common practice"
    m.limit(what="volts", at=PLUS, state="rest", least=round(12.4 * share, 1), source=f"{practice}: a charged battery")
    m.limit(what="volts", at=PLUS, state="start", least=9.6 * share, source=f"{practice}: at least 9.6 V at the battery while cranking")
    for red, black, most, of in (
        (PLUS, motor_stud, 0.5, "the supply side of the starter"),
        (case, MINUS, 0.3, "the ground side of a heavy load"),
        (PLUS, CLAMP_PLUS, 0.1, "one connection"),
        (CLAMP_PLUS, stud, 0.2, "a heavy cable"),
        (stud, motor_stud, 0.2, "a solenoid's contacts"),
        (case, BLOCK, 0.1, "one connection"),
        (BLOCK, BODY_ENGINE, 0.1, "a strap"),
        (BODY_ENGINE, BODY_MINUS, 0.1, "the body"),
        (BODY_MINUS, CLAMP_MINUS, 0.1, "a short heavy cable"),
        (CLAMP_MINUS, MINUS, 0.1, "one connection"),
    ):
        source = f"{practice}: {most:g} V on {of}, for each 12 V"
        m.limit(what="drop", **{"from": red, "to": black}, state="start", most=round(most * share, 2), source=source)


def _relay(m: Maker, how: str) -> dict[str, str]:
    """The start relay; the node of what drives it under ``coil``."""
    earth = m.ground("relay_ground")
    m.parts[next(code for code, part in m.parts.items() if part["pins"].get("a") == earth)]["pins"]["b"] = BODY_ENGINE
    if how == _PLAIN:
        k = m.relay("relay")
        m.add(m.next_code("W"), "wire", {"a": k["85"], "b": earth}, "start relay to ground", length_m=0.4, csa_mm2=0.75)
        return k | {"coil": k["86"]}
    code, label = m.code_of("relay", "K")
    nodes = {terminal: f"{code.lower()}.{terminal}" for terminal in ("30", "87", "15", "31")}
    m.add(code, "timed_relay", nodes, label, ohms=47_000.0, farads=4.7e-6, delays="off")
    behind = m.behind("relay", label or code)
    for terminal, node in nodes.items():
        m.place(node, f"{label or code} terminal {terminal}", behind, connector=code, cavity=terminal)
    m.see(code, "clicks")
    m.add(m.next_code("W"), "wire", {"a": nodes["31"], "b": earth}, "start relay to ground", length_m=0.4, csa_mm2=0.75)
    return nodes | {"coil": nodes["15"]}


TYPICAL = Typical(
    "starter",
    "Starter with relay and interlocks",
    "starting",
    "Key, interlock switches, start relay, starter, and every joint of the heavy path.",
    _things,
    _build,
)
