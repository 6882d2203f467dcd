"""No repair: a way round it, by hand, or leaving it. Never where a safety function hangs on it."""

from __future__ import annotations

from ..builds import BUILDS
from ..way import Way

_ANY = frozenset(BUILDS)

WAYS = (
    Way(
        "bypass",
        "Bypass it for now",
        "bypassed for now",
        frozenset({"switch", "relay", "joint", "wire"}),
        in_place=25.0,
        material="wire with a fuse of its own",
        cures=False,
        limits="The fuse stays in line. It holds until the repair, is written on the vehicle's papers, and local law may forbid it.",
        refused="A safety function is never bypassed",
        leaves={"switch": "stuck_closed", "relay": "contact_welded", "joint": r"pins\d+_shorted"},
    ),
    Way(
        "power_cycle",
        "A switch to restart it",
        "given a switch in its supply",
        frozenset({"module"}),
        in_place=40.0,
        material="switch, the fuse kept in line",
        cures=False,
        limits="Used standing only. The fuse stays in line, what the module forgets is told, and local law may forbid it.",
        refused="What acts while the vehicle can move is never switched off by hand",
        leaves={"module": r"(?!stays_awake$|does_not_wake$).+"},
    ),
    Way(
        "by_hand",
        "Work it by hand",
        "worked by hand from now on",
        frozenset({"motor", "coil", "switch", "module"}),
        in_place=0.0,
        cures=False,
        limits="It stays as it is. Whoever uses it is shown how, and its fuse is pulled if it could start by itself.",
        refused="A safety function is not worked by hand",
    ),
    Way(
        "leave",
        "Leave it",
        "left as it is",
        _ANY,
        in_place=0.0,
        cures=False,
        limits="It stays as it is, and may get worse.",
        tried=False,
        refused="A safety function is not left faulty: the vehicle stays where it is",
    ),
)
