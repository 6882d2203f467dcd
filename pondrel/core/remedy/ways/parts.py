"""A part that is renewed, or made as good as it can be."""

from __future__ import annotations

from ...base.judgement import judged
from ..way import Way

NEW_EARLY = judged("EARLY_NEW", 0.02, "share", "new parts that fail within months")
REBUILT = judged("LIFE_REBUILT", 0.8, "share", "of a new part's life that one bought rebuilt has")
REBUILT_EARLY = judged("EARLY_REBUILT", 0.05, "share", "parts bought rebuilt that fail within months")
OWN = judged("LIFE_REBUILT_HERE", 0.75, "share", "of a new part's life that one rebuilt here has")
OWN_EARLY = judged("EARLY_REBUILT_HERE", 0.05, "share", "parts rebuilt here that fail within months")
FREED = judged("LIFE_FREED", 0.5, "share", "of a new part's life that one cleaned and freed has")
FREED_EARLY = judged("EARLY_FREED", 0.15, "share", "parts that stick again within months of being cleaned and freed")
ADJUSTED = judged("LIFE_ADJUSTED", 0.6, "share", "of a new part's life that one whose gap or play was set has")
ADJUSTED_EARLY = judged("EARLY_ADJUSTED", 0.1, "share", "parts that are out again within months of being set")
BOARD = judged("LIFE_BOARD", 0.6, "share", "of a new unit's life that one with a mended board has")
BOARD_EARLY = judged("EARLY_BOARD", 0.1, "share", "mended boards that fail within months")
USED_EARLY = judged("EARLY_USED", 0.08, "share", "used parts, tested first, that fail within months")

_RENEWED = frozenset(
    {"fuse", "switch", "relay", "coil", "lamp", "motor", "alternator", "stator", "battery", "sensor", "gauge", "module", "board"}
    | {"component", "part"}
)
_REBUILDS = frozenset({"coil", "motor", "alternator", "switch"})
_BOUGHT_REBUILT = frozenset({"motor", "alternator", "module", "board", "gauge", "stator"})
_USED = frozenset({"switch", "relay", "coil", "motor", "alternator", "stator", "sensor", "gauge", "module", "board", "part"})

# What a part leaves as it is that goes in, or that is opened and closed again.
_BURNT_CLIP, _NOT_DRIVEN = "high_resistance", "not_driven"
_OUTSIDE_IT = {"fuse": _BURNT_CLIP, "alternator": _NOT_DRIVEN}
_WINDINGS = {
    "coil": ".+",  # a circuit's coil fails in its winding only
    "motor": r"(?:.*_)?(?:shorted|short_to_ground)|(?:pull|hold)_open",
    "alternator": _NOT_DRIVEN,
}
_NOT_STUCK = {"coil": ".+", "sensor": r"(?!.*wiper).+"}
_NOT_ON_A_BOARD = {"relay": r"coil_.*|contact_.*", "gauge": ".+"}

_SITS_IN_A_UNIT = frozenset({"coil", "component", "board", "gauge", "switch", "lamp"})

WAYS = (
    Way(
        "new",
        "New",
        "renewed with a new one",
        _RENEWED,
        1.0,
        NEW_EARLY,
        priced=True,
        wait_days=1.0,
        months=24,
        measured=True,
        fitted_as="new",
        leaves=_OUTSIDE_IT,
    ),
    Way(
        "unit",
        "The whole unit it sits in",
        "renewed with the whole unit it sits in",
        _SITS_IN_A_UNIT,
        1.0,
        NEW_EARLY,
        more_minutes=30.0,
        one_by_one=False,
        priced=True,
        wait_days=2.0,
        months=24,
        measured=True,
        fitted_as="new",
    ),
    Way(
        "rebuilt",
        "Bought rebuilt",
        "renewed with a rebuilt one",
        _BOUGHT_REBUILT,
        REBUILT,
        REBUILT_EARLY,
        priced=True,
        wait_days=2.0,
        months=12,
        measured=True,
        fitted_as="rebuilt",
        leaves=_OUTSIDE_IT,
    ),
    Way(
        "rebuild",
        "Rebuild it here",
        "rebuilt here",
        _REBUILDS,
        OWN,
        OWN_EARLY,
        more_minutes=40.0,
        material="seals, brushes or contacts",
        priced=True,
        measured=True,
        leaves=_WINDINGS,
    ),
    Way(
        "free",
        "Clean and free it",
        "cleaned and freed",
        frozenset({"coil", "switch", "sensor"}),
        FREED,
        FREED_EARLY,
        more_minutes=15.0,
        material="cleaner and seals, where it only sticks",
        priced=True,  # so that it does not head the list where nobody knows whether it sticks
        leaves=_NOT_STUCK,
    ),
    Way(
        "adjust",
        "Set its gap or play",
        "set right",
        frozenset({"coil", "switch", "sensor"}),
        ADJUSTED,
        ADJUSTED_EARLY,
        in_place=20.0,
        material="shims, gauge",
        priced=True,  # as for freeing
        leaves={"coil": ".+", "sensor": ".+", "switch": "high_resistance"},
    ),
    Way(
        "board_repair",
        "Repair its board",
        "mended on its board",
        frozenset({"module", "board", "gauge", "relay"}),
        BOARD,
        BOARD_EARLY,
        more_minutes=60.0,
        material="components",
        priced=True,
        measured=True,
        leaves=_NOT_ON_A_BOARD,
    ),
    Way(
        "used",
        "Used, tested first",
        "renewed with a used one",
        _USED,
        1.0,
        USED_EARLY,
        priced=True,
        measured=True,
        half_lived=True,
        fitted_as="used",
        leaves=_OUTSIDE_IT,
    ),
)
