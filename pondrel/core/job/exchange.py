"""A job as one open JSON file, and whether such a file is whole. Format ``pondrel-job/1``; docs/the-record.md describes it.

A digest over everything in the file tells damage; it is no signature. Entries refer to one another and to traces by numbers of the file.
"""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Mapping
from typing import Any

from ..base.brief import first_unshowable, quoted
from ..base.dates import checked_date
from ..base.errors import PondrelError

__all__ = ["FORMAT", "MOST_CHARACTERS", "ExchangeError", "read_exchange", "written_exchange"]

FORMAT = "pondrel-job/1"
MOST_CHARACTERS = 256 * 1024 * 1024
_TIME = re.compile(r"\d{4}-\d\d-\d\dT(?:[01]\d|2[0-3]):[0-5]\d:[0-5]\dZ")
_DAMAGED = "The file is damaged, and nothing was taken from it: export the job once more."
# By place in the file the keys that are there and the type of each.
_TOP: Mapping[str, type | tuple[type, ...]] = {
    "format": str, "exported_at": str, "vehicle": dict, "vehicle_entries": list, "job": dict, "sheets": list, "traces": list,
    "entries": list, "files": list, "digest": str,
}  # fmt: skip
_EACH: Mapping[str, Mapping[str, type | tuple[type, ...]]] = {
    "vehicle_entries": {"kind": str, "content": dict, "person": str, "made_at": str, "own_job": bool, "struck": (dict, type(None))},
    "sheets": {"digest": str, "text": str},
    "traces": {"number": int, "sheet": str, "person": str, "opened_at": str},
    "entries": {
        "number": int, "trace": (int, type(None)), "kind": str, "content": dict, "person": str, "made_at": str,
        "struck": (dict, type(None)), "files": list, "parts": list, "basis": list,
    },
    "files": {"digest": str, "media": str, "base64": str},
}  # fmt: skip
_JOB: Mapping[str, type | tuple[type, ...]] = {"complaint": str, "conditions": str, "person": str, "opened_at": str}
_STRUCK: Mapping[str, type | tuple[type, ...]] = {"reason": str, "person": str, "at": str}


class ExchangeError(PondrelError):
    """A file that is no exported job, or a damaged one."""


def _digest(content: Mapping[str, Any]) -> str:
    """SHA-256 of everything but the digest itself, in a form that spacing and order of keys do not change."""
    whole = {name: value for name, value in content.items() if name != "digest"}
    text = json.dumps(whole, ensure_ascii=False, sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest()


def written_exchange(content: Mapping[str, Any]) -> str:
    """The file of an exported job, from all of its parts but format and digest."""
    whole = {"format": FORMAT, **content}
    return json.dumps({**whole, "digest": _digest(whole)}, ensure_ascii=False, indent=1) + "\n"


def read_exchange(text: str) -> dict[str, Any]:
    """What such a file holds, checked to be whole. Raises ExchangeError with one sentence."""
    if len(text) > MOST_CHARACTERS:
        raise ExchangeError(f"The file has {len(text):,} characters; an exported job has at most {MOST_CHARACTERS:,}.")
    try:
        found = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise ExchangeError("The file is no JSON, or was cut off: export the job once more.") from error
    if not isinstance(found, dict) or "format" not in found:
        raise ExchangeError(f"The file is no exported job: one begins with the format {FORMAT}.")
    if found["format"] != FORMAT:
        raise ExchangeError(f"The file has the format {quoted(found['format'])}; this Pondrel reads {FORMAT}.")
    if found.get("digest") != _digest(found):
        raise ExchangeError(_DAMAGED)
    _check(found, _TOP)
    _check(found["job"], _JOB)
    for name, wanted in _EACH.items():
        for item in found[name]:
            _check(item, wanted)
            if item.get("struck") is not None:
                _check(item["struck"], _STRUCK)
    _check_texts(found)
    return found


def _check_texts(found: Mapping[str, Any]) -> None:
    """Times, names and the complaint must be such as could have been written down here: pages show them as they are."""
    times = [found["exported_at"], found["job"]["opened_at"], *(t["opened_at"] for t in found["traces"])]
    for line in (*found["entries"], *found["vehicle_entries"]):
        times += [line["made_at"], *([line["struck"]["at"]] if line["struck"] else [])]
    if not all(_TIME.fullmatch(time) for time in times):
        raise ExchangeError("A time in the file is none, such as 2026-11-20T08:12:00Z: export the job once more.")
    for time in times:
        checked_date("A time in the file", time[:10])
    people = [found["job"]["person"], *(line["person"] for line in (*found["entries"], *found["vehicle_entries"], *found["traces"]))]
    for what, most, texts in (("A name", 80, people), ("The complaint", 2000, [found["job"]["complaint"], found["job"]["conditions"]])):
        if any(len(text) > most or first_unshowable(text) for text in texts):
            raise ExchangeError(f"{what} in the file is too long, or holds what no screen can show: export the job once more.")
    if not found["job"]["complaint"].strip():
        raise ExchangeError("The job in the file has no complaint: export it once more.")


def _check(item: object, wanted: Mapping[str, type | tuple[type, ...]]) -> None:
    whole = isinstance(item, dict) and all(
        name in item and isinstance(item[name], kind) and (kind is not int or not isinstance(item[name], bool))
        for name, kind in wanted.items()
    )
    if not whole:
        raise ExchangeError(_DAMAGED)
