"""The JSON Schema of a roster, made from the same lists of keys that its reader goes by."""

from __future__ import annotations

from typing import Any

from ...evidence.hazards import HAZARDS
from . import read
from . import read_renewal as renewal
from . import read_simulated as simulated
from .roster import Speaks

__all__ = ["json_schema"]

_TEXT = {"type": "string"}
_NUMBER = {"type": "number"}
_FLAG = {"type": "boolean"}
_NAMES = {"oneOf": [_TEXT, {"type": "array", "items": _TEXT}]}
_HAZARDS = {
    "oneOf": [{"enum": sorted(HAZARDS)}, {"type": "array", "items": {"enum": sorted(HAZARDS)}}],
    "description": "what has to be made safe before it moves",
}
_BYTES = {"type": ["string", "integer"], "description": 'bytes in hexadecimal digits, such as "01 F4"'}
_WORD = {"type": ["string", "number", "boolean"]}


def _whole(most: int, says: str = "") -> dict[str, Any]:
    return {"type": "integer", "minimum": 0, "maximum": most} | ({"description": says} if says else {})


def _object(keys: tuple[str, ...], known: dict[str, Any], required: tuple[str, ...] = ()) -> dict[str, Any]:
    """An object of just these keys; those that are not named are texts."""
    made = {"type": "object", "additionalProperties": False, "properties": {key: known.get(key, _TEXT) for key in keys}}
    return made | ({"required": list(required)} if required else {})


def _named(one: dict[str, Any]) -> dict[str, Any]:
    return {"type": "object", "additionalProperties": one}


def _renewal() -> dict[str, Any]:
    """How a module is renewed."""
    numbers = dict.fromkeys(("fastest", "metres", "turn", "least", "most"), _NUMBER)
    drive = _object(renewal.DRIVE_KEYS, numbers | {key: _whole(20) for key in ("left", "right", "stops")}, ("speed",))
    sensitivity = _object(renewal.SENSITIVITY_KEYS, {"least": _whole(100), "most": _whole(100)}, ("least", "most"))
    step = _object(
        renewal.TEACH_KEYS,
        {"least": _NUMBER, "most": _NUMBER, "drive": drive, "sensitivity": sensitivity, "authority": _FLAG, "hazards": _HAZARDS},
    )
    part = _object(renewal.PART_KEYS, {"fits": _NAMES})
    return _object(renewal.RENEWAL_KEYS, {"part": part, "steps": _named(step), "functions": _NAMES, "hazards": _HAZARDS})


def json_schema() -> dict[str, Any]:
    """JSON Schema (2020-12) of a roster."""
    link = _object(read.LINK_KEYS, {"below": _NUMBER, "above": _NUMBER})
    session = {"enum": ["ordinary", "extended"]}
    code = _object(read.CODE_KEYS, {"takes_away": _NAMES, "circuit": link})
    datum = _object(
        read.DATUM_KEYS,
        {
            "id": _whole(0xFFFF, "data identifier, or the local one on a K-line"),
            "byte": _whole(250), "size": _whole(read.LONGEST_WORD), "mask": _whole(2**64 - 1),
            "signed": _FLAG, "scale": _NUMBER, "offset": _NUMBER,
            "words": _named(_WORD), "least": _NUMBER, "most": _NUMBER, "circuit": link, "ascii": _FLAG, "digits": _whole(6),
        },
        ("id",),
    )  # fmt: skip
    command = _object(read.COMMAND_KEYS, {"bytes": _BYTES, "by": _NUMBER, "within_s": _NUMBER}, ("bytes",))
    output = _object(
        read.OUTPUT_KEYS,
        {
            "id": _whole(0xFFFF), "commands": _named({"oneOf": [_BYTES, command]}), "session": session, "longest_s": _NUMBER,
            "hazards": _HAZARDS, "circuit": link, "stays": _object(read.STAY_KEYS, {"seconds": _NUMBER, "by": _NUMBER}),
        },
        ("id", "commands"),
    )  # fmt: skip
    result = {"oneOf": [_TEXT, _object(("says", "good"), {"good": _FLAG})]}
    routine = _object(
        read.ROUTINE_KEYS,
        {"id": _whole(0xFFFF), "session": session, "hazards": _HAZARDS, "results": _named(result), "takes_s": _NUMBER, "bytes": _BYTES},
        ("id",),
    )
    module = _object(
        read.MODULE_KEYS,
        {
            "speaks": {"enum": [one.value for one in Speaks]}, "asks": _whole(read.MOST_ID, "CAN identifier"),
            "answers": _whole(read.MOST_ID),
            "address": _whole(read.MOST_ADDRESS, "on a K-line"), "start": {"enum": ["fast", "slow"]}, "gateway": _FLAG, "circuit": link,
            "codes": _named({"oneOf": [_TEXT, code]}), "data": _named(datum), "outputs": _named(output), "routines": _named(routine),
            "resets": _object(renewal.RESETS_KEYS, {"off_s": _NUMBER, "wakes_s": _NUMBER}), "renewal": _renewal(),
        },
    )  # fmt: skip
    condition = _object(
        read.CONDITION_KEYS,
        {
            "least": _NUMBER, "most": _NUMBER, "after": _NAMES, "minutes": _NUMBER, "weight": _NUMBER, "hazards": _HAZARDS, "refers": _FLAG,
        },
    )  # fmt: skip
    function = _object(
        read.FUNCTION_KEYS,
        {"conditions": _named(condition), "steps": _named(_object(read.STEP_KEYS, {"seconds": _NUMBER}))},
        ("conditions",),
    )
    stepped = _object(simulated.STEPPED_KEYS, {key: _NUMBER for key in simulated.STEPPED_KEYS if key not in ("part", "output")})
    pair = {"type": "array", "items": _NUMBER, "minItems": 2, "maxItems": 2}
    rehearsed = _object(simulated.REHEARSED_KEYS, {"seconds": _NUMBER, "wants": _named(pair)})
    stand_in = _object(
        simulated.STAND_IN_KEYS,
        {
            "facts": _named(_NUMBER), "texts": _named(_TEXT), "renewed": _named(_TEXT), "values": _named(stepped),
            "routines": _named(rehearsed), "drives": _named(_named({"type": "array", "items": pair})),
            "signals": _named({"type": ["number", "string"]}),
            "hangs": _named(_object(simulated.FREEZES_KEYS, {"off_s": _NUMBER, "wakes_s": _NUMBER})),
        },
    )  # fmt: skip
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Pondrel roster of modules",
        **_object(
            read.TOP_KEYS,
            {
                "format": {"const": read.FORMAT}, "fits": {"type": ["object", "array"]},
                "bus": _object(("bit_rate",), {"bit_rate": _NUMBER}), "by_calling": _FLAG,
                "modules": _named(module), "functions": _named(function), "stand_in": stand_in,
            },
            ("format", "title"),
        ),
    }  # fmt: skip
