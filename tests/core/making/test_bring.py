"""Files of other formats: what is read, what is told line by line, and damaged ones answered in a sentence each."""

from __future__ import annotations

import random

import pytest

from pondrel.core.base.errors import MakingError, SheetError
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.solve import solve
from pondrel.core.making.bring import brought
from pondrel.core.making.bring.netlist import value_of
from pondrel.core.making.typical import TYPICALS, made

LIST = """From;To;Colour;Section;Length
BAT+;F14:1;red;2,5;0,4 m
F14:2;X3:7;red/black;1,5;1.2
X3:7;S1:1;red/black;1,5;2
S1:2;LA1:1;grey;0.75;not known
LA1:2;G3;brown;0.75;0.8
"""
HARNESS = """metadata: {title: Rear harness}
connectors:
  X1: {pinlabels: [GND, +12V, RX]}
  X2: {pincount: 3}
  X9: {pincount: 1}
cables:
  W1: {gauge: 0.5 mm2, length: 1.5, colors: [BK, RD, GN], wirecount: 3}
  W8: {wirecount: 1}
connections:
  - - X1: [1-3]
    - W1: [1-3]
    - X2: [1, 3, 2]
"""
NETLIST = """divider with a switch
V1 in 0 DC 12
S1 in sw ctl 0 relay
R1 sw mid 1k
+ $ goes on
R2 mid 0 2k  ; lower
C1 mid 0 100n
D1 mid out small
RL out 0 4.7k
R7 out 0 4k7
.model relay sw
X1 a b sub
Q1 c b e npn
R9 mid
.end
R10 mid 0 1
"""


def test_a_wire_list_becomes_a_circuit_that_works():
    found = brought("cabin lamp.csv", LIST)
    sheet = parse_sheet(found.text)
    assert found.unread == () and sheet.title == "cabin lamp"
    assert set(sheet.parts) == {"BAT", "W1", "W2", "W3", "W4", "W5", "F14", "X3", "S1", "LA1", "G3"}
    assert {"batt+", "batt-", "x3.7", "x3.7m"} <= set(sheet.places)
    assert sheet.parts["W1"].params["csa_mm2"] == 2.5 and sheet.parts["W1"].params["length_m"] == 0.4
    assert set(sheet.parts["X3"].pins) == {"7a", "7b"} and "not known" in sheet.parts["W4"].note
    assert solve(sheet, "all on").currents["LA1"] > 1.5 > 1e-3 > abs(solve(sheet, "all off").currents["LA1"])


@pytest.mark.parametrize("mark", [",", "\t", "|"])
def test_columns_are_found_by_their_headings_in_any_order_and_delimiter(mark):
    rows = [
        ["Length (mm)", "to", "Wire", "Gauge", "from", "color"],
        ["1200", "LA1:1", "W7", "AWG 16", "bat+", "red"],
        ["800", "gnd", "W8", "AWG 16", "LA1:2", ""],
    ]
    sheet = parse_sheet(brought("list.txt", "\n".join(mark.join(row) for row in rows)).text)
    assert (sheet.parts["W7"].params["length_m"], sheet.parts["W7"].params["awg"], sheet.parts["W7"].colour) == (1.2, "16", "red")
    assert sheet.parts["LA1"].pins == {"a": "la1.1", "b": "la1.2"}


def test_what_a_wire_list_does_not_say_is_told_line_by_line():
    found = brought("list.csv", LIST + "oops\nG3;???;brown;1;1\nS1:2;Q9:5;;;\nS1:1;S1:1;;;\nF14:1;Y1:1;;1;far\n")
    told = dict(found.unread)
    assert (
        "one end of the wire is missing" in told[7]
        and "'???' is no end" in told[8]
        and "both ends are" in told[10]
        and "a length such as" in told[11]
    )
    assert "Nobody can tell what Q9 is" in told[0]
    with pytest.raises(MakingError, match="No columns are headed 'from' and 'to'"):
        brought("list.csv", "a1;b2\nx;y\n")


def test_a_harness_is_read_with_its_cables_and_what_is_in_no_connection_is_told():
    found = brought("harness.yml", HARNESS)
    sheet = parse_sheet(found.text)
    wires = {part.name: (part.pins["a"], part.pins["b"], part.colour) for part in sheet.parts.values() if part.kind.name == "wire"}
    assert wires == {"W1.1": ("x1.1", "x2.1", "BK"), "W1.2": ("x1.2", "x2.3", "RD"), "W1.3": ("x1.3", "x2.2", "GN")}
    assert sheet.title == "Rear harness" and sheet.places["x1.2"].at == "X1 pin 2 +12V"
    assert solve(sheet, "as it is").nodes["x2.3"] == pytest.approx(12.6, abs=0.1)  # labelled as fed
    assert [says.split(":")[0] for _, says in found.unread] == ["Connector X9 is in no connection", "Cable W8 is in no connection"]
    assert [line for line, _ in found.unread] == [5, 8]


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (("[1, 3, 2]", "[1, 3]"), "The pins do not match in number: X1 has 3, W1 has 3, X2 has 2"),
        (("- X2: [1, 3, 2]", "- [7]"), "is no connector or cable"),
        (("[1-3]\n    - X2", "[1-999]\n    - X2"), "names too many pins at once"),
        (("length: 1.5", "length: long"), "a length such as 2.5 m is wanted"),
    ],
)
def test_a_connection_that_cannot_be_read_is_told_and_the_others_are(change, says):
    more = HARNESS.replace(*change) + "  - - X2: 1\n    - W8: 1\n    - X9: 1\n"
    found = brought("harness.yml", more)
    assert any(says in told for _, told in found.unread), found.unread
    assert any(part.kind.name == "wire" for part in parse_sheet(found.text).parts.values())


def test_a_netlist_is_read_element_by_element_and_the_rest_is_told():
    found = brought("divider.cir", NETLIST)
    sheet = parse_sheet(found.text)
    assert set(sheet.parts) == {"V1", "S1", "R1", "R2", "C1", "D1", "RL"} and sheet.title == "divider with a switch"
    assert sheet.parts["RL"].params["ohms"] == 4700 and sheet.parts["C1"].params["farads"] == 1e-7
    assert solve(sheet, "all on").nodes["mid"] > 5 > 1e-3 > solve(sheet, "all off").nodes["mid"]
    told = dict(found.unread)
    assert set(told) == {10, 12, 13, 14} and "is no resistor" in told[12] and "cut short" in told[14]
    assert "'4k7' is no value: a number such as 4.7k" in told[10]  # ngspice itself takes it for 4k


@pytest.mark.parametrize(
    ("said", "value"),
    [("4.7k", 4700), ("1MEG", 1e6), ("1m", 1e-3), ("100nF", 1e-7), ("10", 10), (".5", 0.5), ("1e3", 1000), ("2.2uH", 2.2e-6), ("-5", -5)],
)
def test_values_are_read_as_spice_writes_them(said, value):
    assert value_of(said) == pytest.approx(value)


@pytest.mark.parametrize(
    ("name", "text", "says"),
    [
        ("a.csv", "", "The file is empty"),
        ("a.bin", "hello there", "Nobody can tell what this file is"),
        ("a.yml", "connectors: {\nconnections: [", "is not YAML|It is"),
        ("a.yml", "cables: {}\nconnections: 7\n", "no list of connections"),
        ("a.yml", "cables: {}\nconnections: []\n", "Nothing in this file could be read"),
        ("a.cir", "title\nQ1 a b c d\n.end\n", "Nothing in this file could be read as a part of a circuit. Line 2: 'Q1' is no resistor"),
        ("a.csv", "from,to\n" + "X" * 5000 + ",Y\n", "too long"),
        ("a.csv", "from,to\nX1:1\x00,Y\n", "no screen can show"),
        ("a.csv", "from,to\n" + "".join(f"LA{n}:1,LA{n}:2\n" for n in range(450)), "a sheet has at most 400"),
        ("a.csv", "from,to\n" * 6000, "too long"),
        ("a.txt", "x" * 1_000_001, "at most 1,000,000 are read"),
    ],
)  # fmt: skip
def test_a_damaged_file_is_answered_in_one_sentence(name, text, says):
    with pytest.raises(MakingError, match=says):
        brought(name, text)


def test_aliases_that_unfold_without_end_are_refused():
    bomb = "a: &a [x, x]\nb: &b [*a, *a, *a, *a, *a, *a, *a, *a]\n" + "".join(
        f"{chr(99 + n)}: &{chr(99 + n)} [{', '.join(['*' + chr(98 + n)] * 8)}]\n" for n in range(8)
    )
    with pytest.raises(MakingError, match="at most"):
        brought("h.yml", bomb + "cables: {}\nconnections: []\n")


def test_a_sheet_is_taken_as_it_is_and_one_with_flaws_says_which():
    text = made(TYPICALS["relay"], {})
    assert brought("relay.yaml", text).text == text
    with pytest.raises(SheetError, match="rating"):
        brought("relay.yaml", text.replace("rating: 20", "rating: none"))


@pytest.mark.parametrize("source", [LIST, HARNESS, NETLIST], ids=["list", "harness", "netlist"])
@pytest.mark.parametrize("seed", range(25))
def test_a_file_with_letters_changed_is_read_or_refused_and_never_breaks(source, seed):
    dice = random.Random(seed)
    letters = list(source)
    for _ in range(dice.randint(1, 12)):
        at = dice.randrange(len(letters))
        letters[at] = dice.choice(["", letters[at] * 2, dice.choice("0;:,.-[]{}\n \tXé&*"), "\n"])
    name = {LIST: "f.csv", HARNESS: "f.yml", NETLIST: "f.cir"}[source]
    try:
        found = brought(name, "".join(letters))
    except (MakingError, SheetError):
        return
    sheet = parse_sheet(found.text)
    solve(sheet, next(iter(sheet.states)))
