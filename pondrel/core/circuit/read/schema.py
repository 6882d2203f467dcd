"""The JSON Schema and the reference page of the sheet format, both made from the registry so that they cannot drift."""

from __future__ import annotations

from typing import Any

from ...check.limit import KINDS as LIMIT_KINDS
from ..connector import FACES
from ..kinds import FAMILIES, KINDS
from ..limit import WHATS
from ..part import Kind, Param
from ..safety import ACTS
from .sheet import FORMAT

__all__ = ["json_schema", "kinds_reference"]

_TEXT = {"type": "string"}
_FLAG = {"type": "boolean"}
_NEVER = {"never": {"type": "array", "items": {"enum": list(ACTS)}}, "because": _TEXT}
_MINUTES = {"type": "number", "minimum": 0, "description": "minutes"}
_PLACE = {
    "at": _TEXT,
    "minutes": _MINUTES,
    "behind": _TEXT,
    "note": _TEXT,
    "caution": _TEXT,
    "acknowledge": _FLAG,
    **_NEVER,
    "connector": _TEXT,
    "cavity": {"type": ["string", "number"]},
    "face": {"enum": list(FACES)},
    "colour": _TEXT,
}
_CONNECTOR = {
    "label": _TEXT, "note": _TEXT, "face": {"enum": list(FACES)},
    "cavities": {"type": "array", "items": {"type": "array", "items": {"type": ["string", "number", "null"]}}},
}  # fmt: skip
_CODE = {
    "at": _TEXT, "state": _TEXT, "below": {"type": "number"}, "above": {"type": "number"}, "fed": _TEXT, "meaning": _TEXT, "note": _TEXT,
}  # fmt: skip
_TEXTS = {"type": ["string", "array"], "items": _TEXT}
_FIT = {
    "type": "object",
    "additionalProperties": False,
    "properties": {"make": _TEXT, "model": _TEXT, "years": {"type": ["string", "number"]}, "options": _TEXTS},
}
_FITS = {"oneOf": [_FIT, {"type": "array", "items": _FIT}]}
_SHARES = {"type": "array", "minItems": 2, "items": {"type": "number", "minimum": 0, "maximum": 1}}
_TABLE = {
    "minutes": _MINUTES, "state": _TEXT, "behind": _TEXT, "note": _TEXT, "caution": _TEXT, "acknowledge": _FLAG,
    "outcomes": {"type": "array", "minItems": 2, "uniqueItems": True, "items": {"type": ["string", "boolean", "number"]}},
    "given": {"type": "object", "required": ["otherwise"], "additionalProperties": _SHARES},
}  # fmt: skip


def json_schema() -> dict[str, Any]:
    """JSON Schema (2020-12) of a sheet."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Pondrel circuit sheet",
        "type": "object",
        "additionalProperties": False,
        "required": ["format", "title", "places", "parts", "states"],
        "properties": {
            "format": {"const": FORMAT},
            "title": {"type": "string", "minLength": 1},
            "family": _TEXT,
            "note": _TEXT,
            "fits": _FITS,
            "caution": _TEXT,
            "acknowledge": _FLAG,
            "supply": _closed({"nominal": {"type": "number", "exclusiveMinimum": 0}, "unit": {"const": "V"}}),
            "access": _named(_closed({"minutes": _MINUTES, "note": _TEXT, "caution": _TEXT, "acknowledge": _FLAG}, ["minutes"])),
            "places": {**_named(_closed(_PLACE)), "minProperties": 1},
            "connectors": _named(_closed(_CONNECTOR)),
            "parts": {**_named({"oneOf": [_kind(kind) for kind in KINDS.values()]}), "minProperties": 1},
            "states": {
                **_named({"type": "object", "additionalProperties": {"type": ["string", "number", "boolean"]}}),
                "minProperties": 1,
            },
            "limits": {"type": "array", "items": _limit()},
            "observe": _named(_closed({"part": _TEXT, "sees": _TEXT, "note": _TEXT}, ["part", "sees"])),
            "codes": _named(_closed(_CODE, ["at", "state"])),
            "tests": _named(_closed(_TABLE, ["outcomes", "given"])),
        },
    }


def _limit() -> dict[str, Any]:
    numbers = {key: {"type": "number"} for key in ("least", "most", "nominal", "percent", "temperature")}
    texts = dict.fromkeys(("at", "from", "to", "of", "state", "source", "note", "conditions"), _TEXT)
    schema = _closed(
        {"what": {"enum": list(WHATS)}, "whose": {"enum": list(LIMIT_KINDS)}, **texts, **numbers, "fits": _FITS}, ["what", "source"]
    )
    return {**schema, "anyOf": [{"required": ["least"]}, {"required": ["most"]}, {"required": ["nominal", "percent"]}]}


def _named(item: dict[str, Any]) -> dict[str, Any]:
    return {"type": "object", "additionalProperties": item}


def _closed(properties: dict[str, Any], required: list[str] | None = None) -> dict[str, Any]:
    return {"type": ["object"], "additionalProperties": False, "properties": properties, "required": required or []}


def _kind(kind: Kind) -> dict[str, Any]:
    node = {"type": ["string", "number"]}
    pins = _closed(dict.fromkeys((*kind.pins, *kind.optional_pins), node), list(kind.pins))
    if kind.pin_pattern:
        pins = {**_closed({}), "patternProperties": {f"^({kind.pin_pattern})$": node}, "minProperties": len(kind.pins)}
    schema = _closed(
        {
            "kind": {"const": kind.name},
            "pins": pins,
            "label": _TEXT,
            "note": _TEXT,
            "colour": _TEXT,
            **_NEVER,
            **{param.name: _param(param) for param in kind.params},
        },
        ["kind", "pins", *(param.name for param in kind.params if param.required)],
    )
    if kind.needs:
        schema["anyOf"] = [{"required": list(group)} for group in kind.needs]
    return {"title": kind.name, "description": kind.summary, **schema}


def _param(param: Param) -> dict[str, Any]:
    text = f"{param.text}{', ' + param.unit if param.unit else ''}"
    if param.choices:
        return {"description": text, "enum": [*param.choices, *(int(c) for c in param.choices if c.isdecimal())]}
    bound = {"positive": {"exclusiveMinimum": 0}, "zero": {"minimum": 0}, "any": {}}[param.least]
    return {"description": text, "type": "number", **bound}


def kinds_reference() -> str:
    """Markdown: every kind with its pins, parameters, units, defaults, positions and fault modes, by family."""
    lines = []
    for family, kinds in FAMILIES.items():
        lines += [f"## {family}", ""]
        lines += [line for kind in kinds for line in _kind_lines(kind)]
    return "\n".join(lines)


def _kind_lines(kind: Kind) -> list[str]:
    optional = f"; optional {_ticked(kind.optional_pins)}" if kind.optional_pins else ""
    lines = [f"### `{kind.name}`", "", kind.summary, "", f"Pins {_ticked(kind.pins)}{optional}. Its current is counted {kind.current}."]
    if kind.positions:
        lines.append(f"Positions {_ticked(kind.positions)}; `{kind.rest}` where a state does not name it.")
    if kind.dial:
        dial = kind.dial
        scale = f"{dial.least:g} to {dial.most:g} {dial.unit}"
        lines.append(f"A state sets it to a number, {scale} ({dial.text}); {dial.default:g} where it does not.")
    if kind.notes:
        lines.append(kind.notes)
    if kind.params:
        lines += ["", "| parameter | unit | default | meaning |", "| --- | --- | --- | --- |"]
        for param in kind.params:
            default = "required" if param.required else param.default or ("one group below" if kind.needs else "the kind's own")
            lines.append(f"| `{param.name}` | {param.unit or '-'} | {default} | {param.text}; {param.wanted} |")
    if kind.needs:
        lines += ["", f"Needs {' or '.join(' with '.join(f'`{n}`' for n in group) for group in kind.needs)}."]
    lines += ["", "| fault mode | weight | value | without a value | means |", "| --- | --- | --- | --- | --- |"]
    for mode in kind.modes:
        value, default = ("ohms", mode.severity.default_text) if mode.severity else ("none", "-")
        lines.append(f"| `{mode.name}` | {mode.weight:g} | {value} | {default} | {mode.words} |")
    return [*lines, ""]


def _ticked(names: tuple[str, ...]) -> str:
    return ", ".join(f"`{name}`" for name in names)
