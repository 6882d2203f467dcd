"""Small sheets that together hold every kind of part, in states that work each of them."""

from __future__ import annotations

BATTERY = "BAT: {kind: battery, pins: {p: b+, n: b-}, ohms: 0.01}"

# name: (parts, states)
GALLERY: dict[str, tuple[str, str]] = {
    "alternator": (
        """
        BAT: {kind: battery, pins: {p: b+, n: b-}, charge: 60, temperature: 5}
        W1: {kind: wire, pins: {a: alt, b: b+}, length_m: 1.5, csa_mm2: 16}
        GEN: {kind: alternator, pins: {p: alt, n: case}, amps: 70}
        G1: {kind: ground, pins: {a: case, b: b-}}
        LOAD: {kind: resistor, pins: {a: b+, b: b-}, ohms: 0.4}
        """,
        "off: {GEN: stopped}, running: {GEN: running}",
    ),
    "bench": (
        """
        PS: {kind: bench_supply, pins: {p: p, n: n}, volts: 12, amps: 2}
        R1: {kind: resistor, pins: {a: p, b: m}, ohms: 3}
        D1: {kind: diode, pins: {a: m, k: k}}
        Z1: {kind: zener, pins: {a: n, k: z}, volts: 5.1, ohms: 4}
        R2: {kind: resistor, pins: {a: k, b: z}, ohms: 220}
        R3: {kind: resistor, pins: {a: k, b: n}, ohms: 15}
        C1: {kind: capacitor, pins: {a: z, b: n}, farads: 0.0001, leakage: 100000}
        L1: {kind: led, pins: {a: p, b: n}}
        """,
        "on: {PS: on}",
    ),
    "reference": (
        f"""
        {BATTERY}
        REF: {{kind: reference, pins: {{in: b+, out: ref, gnd: mgnd}}, amps: 0.05}}
        GR: {{kind: ground, pins: {{a: mgnd, b: b-}}}}
        P1: {{kind: potentiometer, pins: {{a: ref, w: p1, b: mgnd}}, ohms: 4000}}
        IN1: {{kind: module_input, pins: {{in: p1, gnd: mgnd}}, pull_volts: 0, ohms: 220000, low_code: 0.2, high_code: 4.8}}
        B1: {{kind: pressure_sensor, pins: {{supply: ref, signal: s1, gnd: mgnd}}}}
        IN2: {{kind: module_input, pins: {{in: s1, gnd: mgnd}}, ohms: 100000, low_code: 0.25, high_code: 4.75}}
        T1: {{kind: thermistor, pins: {{a: t1, b: mgnd}}}}
        IN3: {{kind: module_input, pins: {{in: t1, gnd: mgnd}}, ohms: 2200}}
        PED: {{kind: pedal, pins: {{supply1: ref, signal1: q1, gnd1: mgnd, supply2: ref, signal2: q2, gnd2: mgnd}}}}
        T2: {{kind: thermistor, pins: {{a: q1, b: q2}}, sh_a: 0.001129148, sh_b: 0.000234125, sh_c: 0.0000000876741}}
        """,
        "cold: {T1: -10, P1: 20, B1: 2, PED: 0}, warm: {T1: 90, P1: 75, B1: 8.5, PED: 100}",
    ),
    "wheel": (
        f"""
        {BATTERY}
        HS: {{kind: hall_switch, pins: {{supply: b+, signal: h, gnd: b-}}}}
        INH: {{kind: module_input, pins: {{in: h, gnd: b-}}, pull_volts: 5, ohms: 2200}}
        WS: {{kind: current_sensor, pins: {{a: b+, b: w}}}}
        RW: {{kind: resistor, pins: {{a: w, b: b-}}, ohms: 115}}
        PU: {{kind: pickup, pins: {{a: pu, b: b-}}}}
        INP: {{kind: module_input, pins: {{in: pu, gnd: b-}}, pull_volts: 2.5, ohms: 10000}}
        OX: {{kind: oxygen_sensor, pins: {{signal: o, gnd: b-, heater_a: b+, heater_b: b-}}}}
        INO: {{kind: module_input, pins: {{in: o, gnd: b-}}, pull_volts: 0.45, ohms: 500000}}
        """,
        "still: {}, turning: {HS: near, WS: high, PU: 800, OX: rich}, lean: {OX: lean}",
    ),
    "outputs": (
        f"""
        {BATTERY}
        HS: {{kind: high_side, pins: {{supply: b+, out: o1, gnd: b-}}, limit: 5}}
        LA: {{kind: lamp, pins: {{a: o1, b: b-}}, watts: 21}}
        LS: {{kind: low_side, pins: {{out: o2, gnd: b-, supply: b+}}, duty: 30}}
        Y1: {{kind: solenoid, pins: {{a: b+, b: o2}}, ohms: 12, pull_in_amps: 0.4}}
        HB1: {{kind: half_bridge, pins: {{supply: b+, out: m1, gnd: b-}}, limit: 30}}
        HB2: {{kind: half_bridge, pins: {{supply: b+, out: m2, gnd: b-}}, limit: 30}}
        M1: {{kind: motor, pins: {{a: m1, b: m2}}, amps: 4}}
        """,
        "off: {}, on: {HS: 'on', LS: 'on', HB1: high, HB2: low}, back: {HB1: low, HB2: high, LS: pulsed}",
    ),
    "timer": (
        f"""
        {BATTERY}
        S1: {{kind: selector, pins: {{c: b+, 1: t15, 2: t2, 3: t3}}}}
        TR: {{kind: timed_relay, pins: {{30: b+, 87: out, 15: t15, 31: b-}}}}
        H1: {{kind: heater, pins: {{a: out, b: b-}}, watts: 150}}
        T2: {{kind: timed_relay, pins: {{30: b+, 87: out2, 15: t2, 31: b-}}, delays: 'off', ohms: 220000}}
        HN: {{kind: horn, pins: {{a: out2, b: b-}}, amps: 5}}
        GP: {{kind: glow_plug, pins: {{a: t3, b: b-}}}}
        """,
        "rest: {}, first: {S1: 1}, second: {S1: 2}, third: {S1: 3}",
    ),
    "relays": (
        f"""
        {BATTERY}
        FL: {{kind: fusible_link, pins: {{a: b+, b: f}}, rating: 60, length_m: 0.2, csa_mm2: 1.5}}
        CB: {{kind: breaker, pins: {{a: f, b: c}}, rating: 25}}
        BS: {{kind: brake_switch, pins: {{a: f, b: s, c: f, d: s2}}}}
        K1: {{kind: relay, pins: {{30: c, 87: k87, 87a: k87a, 85: b-, 86: s}}, suppressor: diode}}
        K2: {{kind: relay, pins: {{30: c, 87: x87, 85: b-, 86: s2}}, suppressor: resistor}}
        M1: {{kind: fan, pins: {{a: k87, b: mg}}, amps: 12}}
        SR: {{kind: slip_ring, pins: {{a: mg, b: b-}}}}
        R1: {{kind: resistor, pins: {{a: k87a, b: b-}}, ohms: 100}}
        CL: {{kind: clutch, pins: {{a: x87, b: b-}}, ampere_turns: 900, turns: 400}}
        """,
        "up: {}, down: {BS: pressed}",
    ),
    "loop": (
        f"""
        {BATTERY}
        F1: {{kind: fuse, pins: {{a: b+, b: f}}, rating: 10}}
        IS: {{kind: inertia_switch, pins: {{a: f, b: i}}}}
        PS: {{kind: pressure_switch, pins: {{a: i, b: p}}, threshold: 2, closes: below}}
        PL: {{kind: plug, pins: {{1a: p, 1b: q, 2a: b-, 2b: g}}}}
        SP: {{kind: splice, pins: {{a: q, b: y1, c: y2}}}}
        Y1: {{kind: injector, pins: {{a: y1, b: g}}}}
        Y2: {{kind: coil, pins: {{a: y2, b: g}}, ohms: 20, at: 20, temperature: 90}}
        C1: {{kind: contact, pins: {{a: g, b: g2}}}}
        R1: {{kind: resistor, pins: {{a: g2, b: b-}}, ohms: 1000}}
        """,
        "run: {}, high: {PS: 5}, crash: {IS: tripped}",
    ),
    "transistor": (
        f"""
        {BATTERY}
        R1: {{kind: resistor, pins: {{a: b+, b: base}}, ohms: 1200}}
        Q1: {{kind: transistor, pins: {{b: base, c: coll, e: b-}}}}
        R2: {{kind: resistor, pins: {{a: b+, b: coll}}, ohms: 47}}
        R3: {{kind: resistor, pins: {{a: pb, b: coll}}, ohms: 680}}
        Q2: {{kind: transistor, pins: {{b: pb, c: o, e: b+}}, type: pnp}}
        R4: {{kind: resistor, pins: {{a: o, b: b-}}, ohms: 30}}
        """,
        "on: {}",
    ),
    "bus": (
        f"""
        {BATTERY}
        A: {{kind: bus_transceiver, pins: {{high: h1, low: l1, gnd: b-}}}}
        B: {{kind: bus_transceiver, pins: {{high: h2, low: l2, gnd: b-}}}}
        WH: {{kind: wire, pins: {{a: h1, b: h2}}, length_m: 6, csa_mm2: 0.5}}
        WL: {{kind: wire, pins: {{a: l1, b: l2}}, length_m: 6, csa_mm2: 0.5}}
        T1: {{kind: bus_terminator, pins: {{high: h1, low: l1}}}}
        T2: {{kind: bus_terminator, pins: {{high: h2, low: l2}}}}
        LG: {{kind: bus_listener, pins: {{high: h2, low: l2}}}}
        """,
        "recessive: {}, dominant: {A: dominant}, talking: {B: pulsed}, asleep: {A: 'off', B: 'off'}",
    ),
    "lin": (
        f"""
        {BATTERY}
        MA: {{kind: lin_node, pins: {{line: l1, gnd: b-, supply: b+}}, ohms: 1000}}
        WL: {{kind: wire, pins: {{a: l1, b: l2}}, length_m: 4, csa_mm2: 0.35}}
        SL: {{kind: lin_node, pins: {{line: l2, gnd: b-, supply: b+}}}}
        LG: {{kind: lin_listener, pins: {{line: l2, gnd: b-, supply: b+}}}}
        """,
        "recessive: {}, dominant: {MA: dominant}, answering: {SL: dominant}, talking: {SL: pulsed}, asleep: {MA: 'off', SL: 'off'}",
    ),
    "low_speed": (
        f"""
        {BATTERY}
        A: {{kind: low_speed_transceiver, pins: {{high: h1, low: l1, gnd: b-, supply: b+}}, ohms: 200}}
        B: {{kind: low_speed_transceiver, pins: {{high: h2, low: l2, gnd: b-, supply: b+}}, ohms: 200}}
        WH: {{kind: wire, pins: {{a: h1, b: h2}}, length_m: 6, csa_mm2: 0.35}}
        WL: {{kind: wire, pins: {{a: l1, b: l2}}, length_m: 6, csa_mm2: 0.35}}
        LG: {{kind: low_speed_listener, pins: {{high: h2, low: l2, gnd: b-}}}}
        """,
        "recessive: {}, dominant: {A: dominant}, answering: {B: dominant}, talking: {B: pulsed}, asleep: {A: asleep, B: asleep}",
    ),
    "unfed": (
        f"""
        {BATTERY}
        S1: {{kind: switch, pins: {{a: b+, b: key}}}}
        W1: {{kind: wire, pins: {{a: key, b: n15}}, length_m: 2, csa_mm2: 0.75}}
        HS: {{kind: high_side, pins: {{supply: n15, out: o1, gnd: b-}}, limit: 6}}
        LA: {{kind: lamp, pins: {{a: o1, b: b-}}, watts: 10}}
        LS: {{kind: low_side, pins: {{out: o2, gnd: b-, supply: n15}}}}
        Y1: {{kind: solenoid, pins: {{a: key, b: o2}}, ohms: 30, pull_in_amps: 0.2}}
        IN: {{kind: module_input, pins: {{in: i1, gnd: b-, supply: n15}}, ohms: 2200, low_code: 0.2, high_code: 4.8}}
        T1: {{kind: thermistor, pins: {{a: i1, b: b-}}}}
        HB: {{kind: half_bridge, pins: {{supply: n15, out: m1, gnd: b-}}, limit: 20}}
        M1: {{kind: motor, pins: {{a: m1, b: b-}}, amps: 3}}
        CA: {{kind: bus_transceiver, pins: {{high: h, low: l, gnd: b-, supply: n15}}}}
        TE: {{kind: bus_terminator, pins: {{high: h, low: l}}}}
        HA: {{kind: hall_switch, pins: {{supply: n15, signal: sg, gnd: b-}}}}
        RP: {{kind: resistor, pins: {{a: b+, b: sg}}, ohms: 4700}}
        """,
        "key off: {HS: 'on', LS: 'on', HB: high, CA: dominant, HA: near}, working: {S1: closed, HS: 'on', LS: 'on', HB: high, HA: near}, "
        "idle: {S1: closed}",
    ),
    "gauges": (
        f"""
        {BATTERY}
        IVR: {{kind: bimetal_regulator, pins: {{in: b+, out: v, gnd: b-}}}}
        GA: {{kind: gauge, pins: {{a: v, b: g}}, ohms: 50, empty_amps: 0.02, full_amps: 0.075}}
        LS: {{kind: level_sender, pins: {{a: g, b: b-}}}}
        """,
        "half: {LS: 50}, full: {LS: 100}",
    ),
    "starting": (
        f"""
        {BATTERY}
        CB: {{kind: wire, pins: {{a: b+, b: st30}}, length_m: 1.6, csa_mm2: 35}}
        S1: {{kind: switch, pins: {{a: b+, b: key}}}}
        PL: {{kind: plug, pins: {{9a: key, 9b: st50, 10a: sig, 10b: sig2}}}}
        RS: {{kind: resistor, pins: {{a: sig2, b: b-}}, ohms: 400}}
        RT: {{kind: resistor, pins: {{a: b+, b: sig}}, ohms: 400}}
        M1: {{kind: starter, pins: {{30: st30, 50: st50, 31: block, 45: stud}}}}
        GE: {{kind: ground, pins: {{a: block, b: b-}}, ohms: 0.0008}}
        """,
        "rest: {}, start: {S1: closed}",
    ),
    "magneto": (
        f"""
        {BATTERY}
        ST: {{kind: stator, pins: {{u: u, v: v, w: w}}, amps: 12}}
        RB: {{kind: rectifier_bridge, pins: {{u: u, v: v, w: w, p: dc, n: gr}}}}
        F1: {{kind: fuse, pins: {{a: dc, b: b+}}, rating: 30}}
        GR: {{kind: ground, pins: {{a: gr, b: b-}}}}
        RL: {{kind: resistor, pins: {{a: b+, b: b-}}, ohms: 2}}
        RU: {{kind: resistor, pins: {{a: u, b: b-}}, ohms: 10000}}
        RV: {{kind: resistor, pins: {{a: v, b: b-}}, ohms: 10000}}
        RW: {{kind: resistor, pins: {{a: w, b: b-}}, ohms: 10000}}
        """,
        "still: {}, running: {ST: 4000}",
    ),
    "cooling": (
        f"""
        {BATTERY}
        S1: {{kind: switch, pins: {{a: b+, b: wake}}}}
        CU: {{kind: module, pins: {{supply: b+, gnd: b-, wake: wake}}}}
        CV: {{kind: module, pins: {{supply: wake, gnd: b-}}, amps: 1.5, sleep_amps: 0}}
        PS: {{kind: combined_pressure_switch, pins: {{a: wake, b: cl, c: wake, d: fan}}}}
        CL: {{kind: clutch, pins: {{a: cl, b: b-}}}}
        M1: {{kind: fan, pins: {{a: fan, b: b-}}, amps: 10}}
        """,
        "off: {}, empty: {S1: closed, PS: 0.5}, cool: {S1: closed, PS: 9}, hot: {S1: closed, PS: 18}, blocked: {S1: closed, PS: 29}",
    ),
}
