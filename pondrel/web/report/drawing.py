"""A circuit drawn for paper: the app's own path diagram with its colours in attributes and its symbols in place, so that the same drawing
stands on the screen, in an HTML file and in a PDF."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from copy import deepcopy
from xml.etree import ElementTree as ET

from flask import current_app, render_template

from ...core.circuit.sheet import Sheet
from ...core.circuit.solve import solve
from ..shell.figures import diagram, frame_of

__all__ = ["drawn_circuit"]

_INK, _FAINT, _PAPER = "#1f2a33", "#59656d", "#fffefb"
_SANS, _MONO = "Atkinson Next, DejaVu Sans, sans-serif", "Atkinson Mono, DejaVu Sans Mono, monospace"
_LINE = {"fill": "none", "stroke": _INK}
# By class of the diagram: how it is set on paper.
_SET: Mapping[str, Mapping[str, str]] = {
    "link": {"fill": "none", "stroke": _FAINT, "stroke-width": "1.2", "stroke-dasharray": "4 4"},
    "run": {**_LINE, "stroke-width": "2"},
    "thin": {**_LINE, "stroke-width": "1.6"},
    "lever": {**_LINE, "stroke-width": "2.4"},
    "plates": {**_LINE, "stroke-width": "2.6"},
    "body": {"fill": _PAPER, "stroke": _INK, "stroke-width": "1.6"},
    "block": {"fill": _PAPER, "stroke": _INK, "stroke-width": "1.6"},
    "flat": {"fill": _INK},
    "joint": {"fill": _INK},
    "target": {"fill": _PAPER, "stroke": _INK, "stroke-width": "1.6", "r": "4.5"},
    "goes-on": {"fill": _FAINT},
    "part-name": {"font-family": _SANS, "font-size": "13", "font-weight": "700", "fill": _INK},
    "part-code": {"font-family": _MONO, "font-size": "13", "font-weight": "400", "fill": _FAINT},
    "part-differs": {"font-size": "15", "font-weight": "700", "fill": "#a8531c"},
    "place-name": {"font-family": _SANS, "font-size": "13", "fill": _FAINT},
    "pin-name": {"font-family": _MONO, "font-size": "13", "fill": _FAINT},
}  # fmt: skip
_LEFT_OUT = ("touch", "halo")
_KEPT = frozenset(
    {"d", "x", "y", "dx", "dy", "x1", "x2", "y1", "y2", "cx", "cy", "r", "rx", "ry", "width", "height", "transform", "points",
     "text-anchor", "viewBox", "fill", "stroke", "stroke-width"}
)  # fmt: skip


def drawn_circuit(sheet: Sheet, differs: frozenset[str] = frozenset()) -> tuple[str, ...]:
    """The strips of a circuit's drawing as SVG texts, in the sheet's last state; parts that ``differ`` here are marked."""
    point = solve(sheet, list(sheet.states)[-1])
    drawing = diagram(sheet, frame_of(sheet), point, point.nodes, {}, differs=differs)
    macro = current_app.jinja_env.get_template("components/diagram.html").module.path_diagram  # type: ignore[attr-defined]
    strips = re.findall(r'<svg class="diagram".*?</svg>', str(macro(drawing, "", "", False)), re.DOTALL)
    symbols = {str(one.get("id")): one for one in ET.fromstring(render_template("components/symbols.html")).iter("g") if one.get("id")}
    return tuple(_on_paper(ET.fromstring(strip), symbols, number, len(strips)) for number, strip in enumerate(strips, 1))


def _on_paper(strip: ET.Element, symbols: Mapping[str, ET.Element], number: int, count: int) -> str:
    whole = ET.Element("svg", {name: value for name, value in strip.attrib.items() if name in ("viewBox", "width", "height")})
    whole.set("xmlns", "http://www.w3.org/2000/svg")
    whole.set("class", "paper-circuit")
    whole.set("role", "img")
    whole.set("aria-label", "The circuit, feed at the top, ground at the bottom" + (f", part {number} of {count}" if count > 1 else ""))
    whole.extend(made for child in strip for made in _set(child, symbols))
    return ET.tostring(whole, encoding="unicode")


def _set(element: ET.Element, symbols: Mapping[str, ET.Element]) -> Iterator[ET.Element]:
    classes = (element.get("class") or "").split()
    if element.tag in ("defs", "title") or any(name in _LEFT_OUT for name in classes):
        return
    if element.tag == "use":
        yield from _set(deepcopy(symbols[str(element.get("href")).lstrip("#")]), symbols)
        return
    attributes = {name: value for name, value in element.attrib.items() if name in _KEPT}
    for name in classes:
        attributes |= _SET.get(name, {})
    made = ET.Element(element.tag, attributes)
    made.text, made.tail = element.text, element.tail
    for child in element:
        made.extend(_set(child, symbols))
    yield made
