"""Identification numbers against 49 CFR 565.15: its own worked example of the check digit, and the rule reckoned another way.

Form: ISO 3779:2009, 17 characters, Roman capitals without I, O and Q. The example number is the one of 49 CFR 565.15(c) (from memory of the
regulation's text; the arithmetic below does not hang on it).
"""

from __future__ import annotations

import random

import pytest

from pondrel.core.vehicle.identity import VinError, check_digit, checked_vin, vin_remarks

LETTERS = "ABCDEFGHJKLMNPRSTUVWXYZ0123456789"
# 49 CFR 565.15(c)(3), Table III, written out and not by rule: what each letter counts.
TABLE = {
    "A": 1, "B": 2, "C": 3, "D": 4, "E": 5, "F": 6, "G": 7, "H": 8, "J": 1, "K": 2, "L": 3, "M": 4, "N": 5, "P": 7, "R": 9, "S": 2, "T": 3,
    "U": 4, "V": 5, "W": 6, "X": 7, "Y": 8, "Z": 9,
}  # fmt: skip


def reckoned(number: str) -> str:
    """The check digit by adding each character as often as its position weighs, without multiplying."""
    total = 0
    for place, c in enumerate(number, 1):
        weight = 0 if place == 9 else 10 if place == 8 else 9 - place if place < 8 else 19 - place
        total += sum([TABLE.get(c, 0) if c.isalpha() else int(c)] * weight)
    return "0123456789X"[total % 11]


def test_the_regulation_s_example_has_the_check_digit_x():
    assert check_digit("1M8GDM9AXKP042788") == "X" and vin_remarks("1M8GDM9AXKP042788") == ()


def test_seventeen_ones_check():
    """A number of ones: the weights add up to 89, and 89 mod 11 is 1."""
    assert check_digit("1" * 17) == "1" and vin_remarks("1" * 17) == ()


def test_every_number_s_digit_is_the_rule_s():
    chance = random.Random(565)
    for _ in range(500):
        number = "".join(chance.choice(LETTERS) for _ in range(17))
        assert check_digit(number) == reckoned(number)


def test_one_character_misread_is_noticed():
    """Weights are prime to 11, so one wrong digit always shows."""
    chance = random.Random(3779)
    for _ in range(200):
        number = "".join(chance.choice("0123456789") for _ in range(17))
        number = number[:8] + check_digit(number) + number[9:]
        place = chance.choice([i for i in range(17) if i != 8])
        other = chance.choice([d for d in "0123456789" if d != number[place]])
        wrong = number[:place] + other + number[place + 1 :]
        if number[8] != "X":
            assert any("check digit" in text for text in vin_remarks(wrong))


def test_a_wrong_check_digit_warns_and_is_never_refused():
    number = checked_vin("9t2rdr75 1g1004410")
    assert number == "9T2RDR751G1004410" and "many regions use none" in vin_remarks(number)[0]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("1M8GDM9AXKP04278", "has 16 characters"), ("1M8GDM9AXKPO42788", "holds the letter O, which no such number has: 0 is meant"),
        ("1M8GDM9AXKPI42788", "1 is meant"), ("1M8GDM9AXKP0427_8", "holds '_'"), ("<script>alert(1)</script>", "holds '<'"),
    ],
)  # fmt: skip
def test_what_cannot_be_one_is_refused_in_a_sentence(text, says):
    with pytest.raises(VinError, match=says):
        checked_vin(text)
