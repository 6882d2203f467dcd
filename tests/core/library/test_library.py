"""What a search means, and bundles of sheets: good ones, damaged ones, and those that want to lead elsewhere."""

from __future__ import annotations

import io
import zipfile

import pytest

from pondrel.core.base.errors import MakingError
from pondrel.core.library import bundle
from pondrel.core.library.bundle import packed, unpacked
from pondrel.core.library.find import mentions_pin, wanted
from pondrel.core.making.typical import TYPICALS, made

LOAD = made(TYPICALS["switched_load"], {"feed.plug": "C3 pin 7", "fuse.name": "F14 lamp fuse"})


def _zip(**files: bytes | str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made_of:
        for name, content in files.items():
            made_of.writestr(name.replace("__", "/"), content)
    return out.getvalue()


@pytest.mark.parametrize(
    ("said", "words", "pins"),
    [
        ("rear lamp", ("rear", "lamp"), ()), ("C3 pin 7", (), (("C3", "7"),)), ("lamp C3:7 rear", ("lamp", "rear"), (("C3", "7"),)),
        ("C3/7", (), (("C3", "7"),)), ("12 V", ("12", "V"), ()), ("", (), ()),
    ],
)  # fmt: skip
def test_a_search_is_words_and_pins(said, words, pins):
    assert (wanted(said).words, wanted(said).pins) == (words, pins)


@pytest.mark.parametrize(
    ("plug", "pin", "there"), [("C3", "7", True), ("c3", "7", True), ("C3", "8", False), ("C33", "7", False), ("LA1", "2", True)]
)
def test_a_pin_is_found_wherever_a_sheet_names_it(plug, pin, there):
    assert mentions_pin(LOAD, plug, pin) == there
    assert mentions_pin("parts:\n  X9: {kind: plug, pins: {4a: p, 4b: q}}", "X9", "4") and not mentions_pin("X9.14: {}", "X9", "1")
    assert mentions_pin("  C2.1: {kind: contact, pins: {a: x, b: y}}", "C2", "1")


def test_what_is_packed_is_unpacked_the_same_and_packed_again_to_the_same_bytes():
    sheets = [("lights", "A lamp", LOAD), ("lights", "A lamp", LOAD.replace("rating: 10", "rating: 15")), ("", "Ünï/../code", LOAD)]
    content = packed(sheets)
    found = unpacked(content)
    assert [text for _, text in found.sheets] == [text for _, _, text in sheets] and found.refused == ()
    assert [name for name, _ in found.sheets] == ["lights/a-lamp.yaml", "lights/a-lamp-2.yaml", "other/n-code.yaml"]
    assert packed(sheets) == content


@pytest.mark.parametrize("name", ["../evil.yaml", "/etc/sheet.yaml", "a/../../b.yaml", "C:\\x.yaml", "..\\x.yaml"])
def test_a_name_that_leads_out_of_the_bundle_is_refused_and_the_others_are_taken(name):
    found = unpacked(_zip(**{name: LOAD, "good.yaml": LOAD}))
    assert [own for own, _ in found.sheets] == ["good.yaml"] and "leads out of the bundle" in found.refused[0][1]


def test_a_file_that_is_no_sheet_is_told_by_its_name():
    found = unpacked(_zip(**{"a.yaml": LOAD.replace("rating: 10", "rating: none"), "b.bin": b"\xff\xfe", "c.txt": "hello", "d.yaml": LOAD}))
    assert [name for name, _ in found.sheets] == ["d.yaml"]
    told = dict(found.refused)
    assert "rating" in told["a.yaml"] and "unpacked as text" in told["b.bin"] and "Nobody can tell" in told["c.txt"]


def test_what_is_no_zip_or_too_much_of_one_is_refused(monkeypatch):
    for content in (b"", b"hello", packed([("", "x", LOAD)])[:-30]):
        with pytest.raises(MakingError, match="no ZIP file, or a damaged one"):
            unpacked(content)
    monkeypatch.setattr(bundle, "MOST_FILES", 2)
    with pytest.raises(MakingError, match="at most 2 are taken"):
        unpacked(_zip(a="x", b="x", c="x"))
    monkeypatch.setattr(bundle, "MOST_BYTES", 1000)
    with pytest.raises(MakingError, match="larger than"):
        unpacked(_zip(a="x" * 2000))


def test_a_file_that_unfolds_without_end_is_not_read():
    found = unpacked(_zip(**{"bomb.yaml": b"0" * 5_000_000}))
    assert found.sheets == () and "unfolds to far more" in found.refused[0][1]


def test_a_bundle_with_a_byte_changed_is_read_or_refused_and_never_breaks():
    content = bytearray(packed([("lights", "A lamp", LOAD)]))
    for at in range(0, len(content), 7):
        changed = bytearray(content)
        changed[at] ^= 0x5A
        try:
            unpacked(bytes(changed))
        except MakingError:
            continue
