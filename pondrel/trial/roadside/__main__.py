"""Print what the ways are worth, with a meter and ears and with everything."""

from __future__ import annotations

import sys
from collections import Counter

from .walk import told, walks

REACH = {"starter": 15.0, "alternator": 10.0, "stator": 8.0}


def main() -> None:
    """Walk every way with little and with much at hand."""
    count, seed = (int(text) for text in (*sys.argv[1:], *("320", "1")[len(sys.argv) - 1 :]))
    for way, hands in (
        ("start", ("helper",)),
        ("start", ("helper", "clamp", "tester", "boost", "load tester")),
        ("charge", ()),
        ("charge", ("clamp", "scope")),
        ("magnet", ()),
        ("magnet", ("tester", "boost")),
        ("drain", ()),
        ("drain", ("clamp", "tester", "load tester")),
    ):
        found = walks(way, count, seed, hands, REACH)
        print(f"{way}, at hand: {', '.join(('meter', *hands))}")
        print(f"  {told(found)}")
        wrong = Counter(f"{w.fault} called {w.named or 'nothing'}" for w in found if not w.right)
        for text, times in wrong.most_common(12):
            print(f"    {times:3} {text}")


if __name__ == "__main__":
    main()
