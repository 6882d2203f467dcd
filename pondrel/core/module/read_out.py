"""Fault codes from what was typed, pasted or loaded: lines of text or a table, with status, module and what was frozen with them.

engine module:                      a heading names the module of the codes beneath it
P0201-13 stored  Injector 1         code, status and words in any order; what is left is the code's text
  rpm=820 coolant=81C               pairs belong to the code above, on its own line or beneath it
"""

from __future__ import annotations

import csv
import io
import json
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from ..base.brief import first_unshowable, quoted
from .fault_code import CodeError, FaultCode, parse_code

__all__ = ["LONGEST_READ_OUT", "MOST_CODES", "ReadOut", "codes_from_text", "codes_kept", "kept_codes"]

MOST_CODES, LONGEST_READ_OUT = 200, 60_000  # codes, characters
_MOST_FRAME, _LONGEST_WORDS = 40, 200
_LINE_CODE = re.compile(
    r"(?<![A-Za-z0-9])(?:[PCBUpcbu][0-3][0-9A-Fa-f]{3}(?:[-:][0-9A-Fa-f]{2})?|flash\s*\d{1,2}(?:\s*-\s*\d{1,2})?)(?![A-Za-z0-9])"
)
# What looks like a code and is none: said, so that a slip is not passed over.
_NEARLY = re.compile(r"(?<![A-Za-z0-9])(?=\w*\d\w*\d)[PCBUpcbu][0-9A-Fa-fOoIl]{3,6}(?:[-:][0-9A-Fa-f]{1,3})?(?![A-Za-z0-9])")
_BYTE = re.compile(r"[0-9A-F]{2}")
_STATUS = {
    "stored": "stored", "confirmed": "stored", "current": "present", "active": "present", "present": "present", "permanent": "permanent",
    "pending": "pending", "maturing": "pending", "history": "history", "historic": "history", "past": "history", "inactive": "history",
    "intermittent": "history", "old": "history",
}  # fmt: skip
_STATUS_WORD = re.compile(rf"\b({'|'.join(_STATUS)})\b", re.IGNORECASE)
_PAIR = re.compile(r"([A-Za-z][\w.°/]{0,39})\s*=\s*(\"[^\"]*\"|[^\s;,]+(?:\s(?:km|mi|V|C|rpm|%|kPa|A|s|h))?)")
_BENEATH = re.compile(r"\s+([A-Za-z][\w .°/]{0,39}?)\s*:\s*(\S.*)")
_HEADING = re.compile(r"(?:\[([^\]]{1,60})\]|([A-Za-z][\w ./-]{0,59}?)\s*:)\s*")
_COLUMNS = {
    "code": "code", "dtc": "code", "status": "status", "state": "status", "module": "module", "unit": "module", "ecu": "module",
    "text": "text", "description": "text", "meaning": "text", "failure": "failure", "failure type": "failure", "ftb": "failure",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class ReadOut:
    """The codes of one reading out, in their order, each once for a module; ``passed_over`` are lines in which no code was found."""

    codes: tuple[FaultCode, ...]
    passed_over: tuple[str, ...] = ()

    def as_json(self) -> dict[str, object]:
        """As the command line tells it."""
        return {"codes": [code.as_json() for code in self.codes], "passed_over": list(self.passed_over)}


def codes_from_text(text: str) -> ReadOut:
    """The codes in a text or a table. Raises CodeError with one sentence where there is none, or more than are read at once."""
    if len(text) > LONGEST_READ_OUT:
        raise CodeError(f"This is {len(text):,} characters of text; at most {LONGEST_READ_OUT:,} are read: paste the codes alone.")
    bad = first_unshowable(text.replace("\r", ""))
    if bad:
        raise CodeError(f"The text holds a character that no screen can show ({bad}): is it a file of another kind?")
    lines = [line.rstrip() for line in text.replace("\r", "").split("\n") if line.strip()]
    if not lines:
        raise CodeError("No code was given: type one, such as P0201, or paste what was read out.")
    table = _table_of(lines)
    found = _from_table(table) if table else _from_lines(lines)
    if not found.codes:
        raise CodeError(f"No fault code is in it: one looks like P0201 or U0100-87; the first line is {quoted(lines[0][:60])}.")
    if len(found.codes) > MOST_CODES:
        raise CodeError(f"{len(found.codes):,} codes are too many for one reading out: at most {MOST_CODES} are taken. Paste one module's.")
    return replace(found, codes=_merged(found.codes))


def _merged(codes: Iterable[FaultCode]) -> tuple[FaultCode, ...]:
    """Each code of a module once; what was said of it later is added."""
    by_name: dict[tuple[str, str, str], FaultCode] = {}
    for code in codes:
        key = (code.module.lower(), code.code, code.failure)
        first = by_name.get(key)
        if first is None:
            by_name[key] = code
            continue
        frame = (*first.frame, *(pair for pair in code.frame if pair not in first.frame))
        by_name[key] = replace(first, status=first.status or code.status, text=first.text or code.text, frame=frame)
    return tuple(by_name.values())


def _from_lines(lines: Iterable[str]) -> ReadOut:
    codes: list[FaultCode] = []
    passed: list[str] = []
    module = ""
    for line in lines:
        matches = list(_LINE_CODE.finditer(line))
        beneath = _BENEATH.fullmatch(line)
        heading = _HEADING.fullmatch(line)
        if matches:
            codes += _codes_of(line, matches, module)
        elif codes and line[0].isspace() and (pairs := _PAIR.findall(line)):
            codes[-1] = _framed(codes[-1], pairs)
        elif codes and beneath:
            codes[-1] = _framed(codes[-1], [(beneath[1], beneath[2])])
        elif heading:
            module = (heading[1] or heading[2]).strip()
        else:
            nearly = _NEARLY.search(line)
            if nearly:
                parse_code(nearly[0])
            passed.append(line.strip()[:_LONGEST_WORDS])
    return ReadOut(tuple(codes), tuple(passed))


def _codes_of(line: str, matches: list[re.Match[str]], module: str) -> list[FaultCode]:
    """The codes of a line: several of them share no words."""
    parsed = [parse_code(match[0]) for match in matches]
    if len(parsed) > 1:
        return [FaultCode(code, failure, "", module) for code, failure in parsed]
    rest = (line[: matches[0].start()] + " " + line[matches[0].end() :]).strip()
    pairs = _PAIR.findall(rest)
    rest = _PAIR.sub(" ", rest)
    heading = _HEADING.match(rest)
    if heading and line.strip().startswith(heading[0].strip()):  # "engine: P0201"
        module, rest = (heading[1] or heading[2]).strip(), rest[heading.end() :]
    status = _STATUS_WORD.search(rest)
    words = " ".join(_STATUS_WORD.sub(" ", rest, count=1).split()).strip(" -:;,()[]")
    code, failure = parsed[0]
    found = FaultCode(code, failure, _STATUS[status[1].lower()] if status else "", module, words[:_LONGEST_WORDS])
    return [_framed(found, pairs)]


def _framed(code: FaultCode, pairs: Iterable[tuple[str, str]]) -> FaultCode:
    frame = [*code.frame, *((" ".join(name.split()).lower(), value.strip().strip('"')[:80]) for name, value in pairs)]
    return replace(code, frame=tuple(frame[:_MOST_FRAME]))


def _table_of(lines: list[str]) -> list[dict[str, str]] | None:
    """The rows of a table by its headings, None where the text is none."""
    for delimiter in (",", ";", "\t"):
        heads = [head.strip().strip('"').lower() for head in lines[0].split(delimiter)]
        if len(heads) > 1 and "code" in {_COLUMNS.get(head) for head in heads}:
            rows = csv.reader(io.StringIO("\n".join(lines[1:])), delimiter=delimiter)
            return [dict(zip(heads, (cell.strip() for cell in row), strict=False)) for row in rows if any(row)]
    return None


def _from_table(rows: list[dict[str, str]]) -> ReadOut:
    codes, passed = [], []
    for number, row in enumerate(rows, 2):
        known = {_COLUMNS[head]: cell for head, cell in row.items() if head in _COLUMNS}
        if not known.get("code"):
            passed.append(", ".join(filter(None, row.values()))[:_LONGEST_WORDS])
            continue
        try:
            code, failure = parse_code(known["code"])
        except CodeError as error:
            raise CodeError(f"Row {number}: {error}") from error
        given = known.get("failure", "").removeprefix("0x").upper()
        if given and not _BYTE.fullmatch(given):
            raise CodeError(f"Row {number}: the failure type {quoted(given)} must be two hexadecimal digits, such as 13.")
        status = _STATUS_WORD.search(known.get("status", ""))
        found = FaultCode(
            code, failure or given, _STATUS[status[1].lower()] if status else "",
            known.get("module", "")[:60], known.get("text", "")[:_LONGEST_WORDS],
        )  # fmt: skip
        codes.append(_framed(found, [(head, cell) for head, cell in row.items() if head not in _COLUMNS and head and cell]))
    return ReadOut(tuple(codes), tuple(passed))


def codes_kept(codes: Iterable[FaultCode]) -> str:
    """Codes as the record keeps them."""
    fields = ("code", "failure", "status", "module", "text", "frame")
    rows = [{name: getattr(code, name) for name in fields if getattr(code, name)} for code in codes]
    return json.dumps(rows, ensure_ascii=False, separators=(",", ":"))


def kept_codes(text: str) -> tuple[FaultCode, ...]:
    """The codes that a line of the record keeps. Raises CodeError where it holds none."""
    try:
        rows = json.loads(text)
        return tuple(_from_kept(row) for row in rows)
    except (ValueError, TypeError, AttributeError, KeyError) as error:
        raise CodeError(f"What was read out cannot be read any more: {quoted(text[:60])}.") from error


def _from_kept(row: Mapping[str, object]) -> FaultCode:
    frame = row.get("frame") or ()
    assert isinstance(frame, (list, tuple))
    code, _ = parse_code(str(row["code"]))
    failure, status, module, words = (str(row.get(name, "")) for name in ("failure", "status", "module", "text"))
    return FaultCode(code, failure, status, module, words, tuple((str(name), str(value)) for name, value in frame))
