"""A roster from an ODX file (ISO 22901-1), read by odxtools, which is an extra of its own: `pip install pondrel[odx]`.

What becomes of it: each ECU variant (or base variant) is a module; services that read data, control outputs and run routines by number
(0x22, 0x2F, 0x31) with what their answers mean, where that is a number with a straight scale, a table of words or a text; codes with
their words. What is not of these is left out and said. An ODX file does not say what moves or what is dangerous: every output and routine
is locked until a caution is read.
"""

from __future__ import annotations

import io
import re
import warnings
import zipfile
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ruamel.yaml import YAML

from ...core.base.brief import listed, quoted
from ...core.base.errors import PondrelError
from ...core.module.fault_code import CodeError, code_from_bytes, parse_code

__all__ = ["OdxRead", "numbers_from", "roster_from_odx"]

MOST_BYTES, MOST_UNPACKED, MOST_MODULES, MOST_OF_EACH = 40_000_000, 400_000_000, 60, 300
_READ, _CONTROL, _ROUTINE = 0x22, 0x2F, 0x31
_GOOD = re.compile(r"\b(?:ok|done|completed?|success\w*|finished|passed)\b", re.IGNORECASE)
_NOT_GOOD = re.compile(r"\b(?:not|no|never|fail\w*|error\w*|abort\w*|without|in)\b", re.IGNORECASE)
_CAUTION = "The ODX file does not say what this does: find out what moves, heats or opens before it is told to."
_LONGEST_NAME, _LONGEST_WORDS = 60, 160


@dataclass
class OdxRead:
    """A roster's text, and in sentences what was left out."""

    text: str
    notes: list[str] = field(default_factory=list)


def roster_from_odx(
    path: Path, title: str, numbers: Mapping[str, tuple[int, int]] | None = None, make: str = "", model: str = ""
) -> OdxRead:
    """A roster from an ODX or PDX file, for a ``make`` and ``model`` where they are known. ``numbers`` are by module the CAN identifiers
    that it is asked and answers on, where the file does not say them. Raises PondrelError."""
    database = _loaded(path)
    notes: list[str] = []
    modules: dict[str, Any] = {}
    layers = list(database.ecu_variants) or list(database.base_variants)
    if not layers:
        raise PondrelError(f"{path.name} describes no ECU: neither a variant nor a base variant is in it.")
    unknown = []
    for layer in layers[:MOST_MODULES]:
        name = _name(layer.short_name)
        asks, answers = (numbers or {}).get(name, (None, None))
        asks = asks if asks is not None else _number(layer.get_can_receive_id)
        answers = answers if answers is not None else _number(layer.get_can_send_id)
        if asks is None or answers is None:
            unknown.append(name)
            continue
        modules[name] = {
            "name": _words(layer.long_name or layer.short_name, _LONGEST_NAME),
            "asks": asks,
            "answers": answers,
            **_told(layer, notes),
        }
    if unknown:
        raise PondrelError(
            f"{path.name} does not say on which CAN identifiers {listed(unknown)} {'is' if len(unknown) == 1 else 'are'} asked: give them, "
            f"such as {unknown[0]}=7E0/7E8."
        )  # fmt: skip
    if len(layers) > MOST_MODULES:
        notes.append(f"{len(layers) - MOST_MODULES} more modules: a roster has {MOST_MODULES} at most.")
    told: dict[str, Any] = {"format": "pondrel-modules/1", "title": title, "source": f"read from {path.name}", "modules": modules}
    if make or model:
        told["fits"] = [{key: text for key, text in (("make", make), ("model", model)) if text}]
    writer = YAML(typ="safe")
    writer.default_flow_style, writer.allow_unicode, writer.width = False, True, 140
    stream = io.StringIO()
    writer.dump(told, stream)
    # the reader knows a roster by its first line
    text = stream.getvalue()
    lines = [line for line in text.splitlines() if not line.startswith("format:")]
    return OdxRead("format: pondrel-modules/1\n" + "\n".join(lines) + "\n", notes)


def _loaded(path: Path) -> Any:
    try:
        import odxtools
    except ImportError:
        raise PondrelError("ODX files are read by an extra that is not installed here: pip install 'pondrel[odx]'.") from None
    _checked_size(path)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            return odxtools.load_file(path)
    except Exception as error:  # a parser raises what comes
        says = str(error).strip().splitlines()
        raise PondrelError(
            f"{path.name} is no ODX file that can be read: {says[0].rstrip('. ') if says else type(error).__name__}."
        ) from None


def _checked_size(path: Path) -> None:
    try:
        size = path.stat().st_size
        if path.suffix.lower() == ".pdx":
            with zipfile.ZipFile(path) as packed:
                size = max(size, sum(one.file_size for one in packed.infolist()) * MOST_BYTES // MOST_UNPACKED)
    except (OSError, zipfile.BadZipFile) as error:
        raise PondrelError(f"{path.name} cannot be opened: {error}.") from None
    if size > MOST_BYTES:
        raise PondrelError(f"{path.name} is larger than {MOST_BYTES // 1_000_000} MB: no ODX file of one vehicle is.")


def _number(ask: Any) -> int | None:
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            found = ask()
    except Exception:  # a file may say it in a way that the library does not take
        return None
    return int(found) if found is not None else None


def _name(text: str) -> str:
    return "_".join(text.lower().split())[:_LONGEST_NAME]


def _words(text: str | None, longest: int = _LONGEST_WORDS) -> str:
    return " ".join((text or "").replace("_", " ").split())[:longest]


def _title(thing: Any) -> str:
    return _words(thing.long_name or thing.short_name, _LONGEST_NAME)


@dataclass(frozen=True)
class _Service:
    """A service by its constant bytes (by place), with its request's and its answer's parameters."""

    own: Any
    fixed: Mapping[int, int]
    answer: Sequence[Any]

    def number(self, at: int) -> int | None:
        """Two constant bytes from a place on, as one number."""
        high, low = self.fixed.get(at), self.fixed.get(at + 1)
        return None if high is None or low is None else high << 8 | low


def _services(layer: Any) -> Iterator[_Service]:
    for service in layer.services:
        request = getattr(service, "request", None)
        if request is None:
            continue
        fixed: dict[int, int] = {}
        for parameter in request.parameters:
            value, bits = getattr(parameter, "coded_value", None), parameter.get_static_bit_length()
            if isinstance(value, int) and parameter.byte_position is not None and bits and bits % 8 == 0:
                for place, byte in enumerate(value.to_bytes(bits // 8, "big")):
                    fixed[parameter.byte_position + place] = byte
        answers = list(service.positive_responses)
        yield _Service(service, fixed, tuple(answers[0].parameters) if answers else ())


def _told(layer: Any, notes: list[str]) -> dict[str, Any]:
    data: dict[str, Any] = {}
    outputs: dict[str, Any] = {}
    routines: dict[str, Any] = {}
    for service in _services(layer):
        sid = service.fixed.get(0)
        if sid == _READ and (number := service.number(1)) is not None:
            _add_data(data, service, number, layer, notes)
        elif sid == _CONTROL and (number := service.number(1)) is not None:
            _add_output(outputs, service, number, layer, notes)
        elif sid == _ROUTINE and (number := service.number(2)) is not None:
            _add_routine(routines, service, number)
    found = {
        "codes": _codes(layer),
        "data": data,
        "outputs": outputs,
        "routines": {name: own for name, own in routines.items() if "id" in own},
    }
    return {key: dict(list(own.items())[:MOST_OF_EACH]) for key, own in found.items() if own}


def _free(known: Mapping[str, Any], text: str) -> str:
    name, count = _name(text), 2
    while name in known:
        name, count = f"{_name(text)[: _LONGEST_NAME - 4]}_{count}", count + 1
    return name


def _add_data(data: dict[str, Any], service: _Service, number: int, layer: Any, notes: list[str]) -> None:
    values = [p for p in service.answer if p.parameter_type == "VALUE" and p.byte_position is not None and p.byte_position >= 3]
    for parameter in values:
        datum = _datum(parameter)
        if datum is None:
            notes.append(
                f"{_title(layer)}: {_title(parameter)} is neither a straight number, a table of words nor a text, and is left out."
            )
            continue
        title = _title(parameter) if len(values) > 1 else _title(service.own)
        data[_free(data, parameter.short_name if len(values) > 1 else service.own.short_name)] = {"name": title, "id": number, **datum}


def _datum(parameter: Any) -> dict[str, Any] | None:
    dop = getattr(parameter, "dop", None)
    coded, method = getattr(dop, "diag_coded_type", None), getattr(dop, "compu_method", None)
    bits = parameter.get_static_bit_length()
    if coded is None or method is None or not bits or not getattr(coded, "is_highlow_byte_order", True):
        return None
    at, shift, kind = parameter.byte_position - 3, parameter.bit_position or 0, coded.base_data_type.value
    size = -(-(bits + shift) // 8)
    found: dict[str, Any] = {"byte": at, "size": size}
    if kind in ("A_ASCIISTRING", "A_UTF8STRING"):
        return {**found, "ascii": True} if not bits % 8 and size <= 64 else None
    if kind not in ("A_UINT32", "A_INT32") or size > 8:
        return None
    if shift or bits % 8:
        found["mask"] = ((1 << bits) - 1) << shift
    if kind == "A_INT32":
        if "mask" in found:
            return None
        found["signed"] = True
    meaning = _meaning(method, bits)
    if meaning is None:
        return None
    unit = getattr(getattr(dop, "unit", None), "display_name", None)
    return {**found, **meaning, **({"unit": str(unit)[:20]} if unit and "words" not in meaning else {})}


def _meaning(method: Any, bits: int) -> dict[str, Any] | None:
    """What a raw number means: words, or a scale and an offset; None for what is not straight."""
    category = method.category.value
    if category == "TEXTTABLE":
        words = {}
        for raw in range(1 << min(bits, 8)):
            try:
                words[raw] = _words(str(method.convert_internal_to_physical(raw)), _LONGEST_NAME)
            except Exception:  # a number without a word
                continue
        return {"words": words} if words else None
    if category not in ("IDENTICAL", "LINEAR"):
        return None
    try:
        zero, one, ten = (float(method.convert_internal_to_physical(raw)) for raw in (0, 1, 10))
    except Exception:
        return None
    scale = one - zero
    if scale == 0.0 or abs(zero + 10.0 * scale - ten) > 1e-6 * max(abs(ten), 1.0):
        return None
    told = {"scale": scale} if scale != 1.0 else {}
    return told | ({"offset": zero} if zero else {})


def _add_output(outputs: dict[str, Any], service: _Service, number: int, layer: Any, notes: list[str]) -> None:
    if service.fixed.get(3) != 0x03:  # what gives control back belongs to every output, and holding it as it is to none
        return
    options = [p for p in service.own.request.parameters if p.parameter_type == "VALUE" and p.byte_position == 4]
    method = getattr(getattr(options[0], "dop", None), "compu_method", None) if len(options) == 1 else None
    bits = options[0].get_static_bit_length() if options else None
    words = (_meaning(method, bits) or {}).get("words") if method is not None and bits and bits % 8 == 0 else None
    if 4 in service.fixed:
        words = {service.fixed[4]: "on"}
        bits = 8
    if not words or not bits:
        notes.append(f"{_title(layer)}: what {_title(service.own)} can be told is no table of words: it is left out.")
        return
    commands = {word: raw.to_bytes(bits // 8, "big").hex(" ").upper() for raw, word in list(words.items())[:20]}
    outputs[_free(outputs, service.own.short_name)] = {
        "name": _title(service.own), "id": number, "longest_s": 3, "caution": _CAUTION, "commands": commands,
    }  # fmt: skip


def _add_routine(routines: dict[str, Any], service: _Service, number: int) -> None:
    own = routines.setdefault(f"routine_{number:04x}", {"caution": _CAUTION})
    if service.fixed.get(1) == 0x01:
        own.update({"name": _title(service.own), "id": number})
    if service.fixed.get(1) == 0x03:
        for parameter in service.answer:
            if parameter.parameter_type == "VALUE" and parameter.byte_position == 4 and (datum := _datum_at(parameter)):
                own["results"] = {raw: {"says": word, "good": _is_good(word)} for raw, word in datum.items()}


def _is_good(word: str) -> bool:
    """Whether a result's word says that it went well; what is not clear does not count as good."""
    return _GOOD.search(word) is not None and _NOT_GOOD.search(word) is None


def _datum_at(parameter: Any) -> Mapping[int, str]:
    found = _datum(parameter) or {}
    words = found.get("words", {})
    return words if found.get("size") == 1 and "mask" not in found else {}


def _codes(layer: Any) -> dict[str, str]:
    spec = layer.diag_data_dictionary_spec
    found: dict[str, str] = {}
    for dop in getattr(spec, "dtc_dops", ()) or ():
        for code in _plain(dop.dtcs):
            raw = int(code.trouble_code)
            name = _code_name(code.display_trouble_code, raw, dop.diag_coded_type.get_static_bit_length() or 24)
            found[name] = _words(str(code.text or code.long_name or code.short_name))
    return found


def _plain(codes: Iterable[Any]) -> Iterator[Any]:
    return (code for code in codes if getattr(code, "trouble_code", None) is not None)


def _code_name(shown: str | None, raw: int, bits: int) -> str:
    """A code's name: as it is displayed where that is one, else by its bytes."""
    try:
        code, failure = parse_code(shown or "")
        if failure or bits == 16:
            return f"{code}-{failure}" if failure else code
    except CodeError:
        code = ""
    if bits == 24:
        return f"{code_from_bytes(raw >> 16 & 0xFF, raw >> 8 & 0xFF)}-{raw & 0xFF:02X}"
    return code or code_from_bytes(raw >> 8 & 0xFF, raw & 0xFF)


def numbers_from(text: str) -> tuple[str, tuple[int, int]]:
    """A module's CAN identifiers as they are typed: ``ramp=7E0/7E8``. Raises PondrelError."""
    name, _, both = text.partition("=")
    asks, _, answers = both.partition("/")
    try:
        return name.strip().lower(), (int(asks, 16), int(answers, 16))
    except ValueError:
        raise PondrelError(f"{quoted(text)} must be a module with the identifiers that it is asked and answers on: ramp=7E0/7E8.") from None
