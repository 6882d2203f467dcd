"""Before something is measured, looked at or moved: what is never done there, and what is read first."""

from __future__ import annotations

from collections.abc import Collection

from ..circuit.safety import ACTS_OF, Caution, check_acts, forbidden
from ..circuit.sheet import Sheet
from ..circuit.unplug import parts_meant
from .asked import Measurement, Question
from .hazards import hazards_of, hazards_of_sheet, locking
from .items import Item
from .registry import sort_of
from .stands import cannot_be, check_stands

__all__ = ["acknowledged_first", "cautions_for", "check_allowed", "is_allowed", "locking_cautions"]


def _acts(test: Measurement | Question) -> tuple[str, ...]:
    if isinstance(test, Measurement):
        return ACTS_OF.get(test.instrument, ("meter",))
    return sort_of(test).acts


def _parts(sheet: Sheet, test: Measurement | Question) -> tuple[str, ...]:
    return parts_meant(sheet, test.without) if isinstance(test, Measurement) else sort_of(test).touches(sheet, test)


def is_allowed(sheet: Sheet, test: Measurement | Question) -> bool:
    """Whether nothing forbids it, and its state lets it be done: what is forbidden is not proposed."""
    if cannot_be(sheet, test):
        return False
    unplugs = ("unplug",) if isinstance(test, Measurement) and test.without else ()
    nodes = (test.red, test.black) if isinstance(test, Measurement) else ()
    return not forbidden(sheet, _acts(test), nodes) and not forbidden(sheet, unplugs or _acts(test), (), _parts(sheet, test))


def check_allowed(sheet: Sheet, item: Item) -> None:
    """Raises ForbiddenError where what an item tells of is never done there, ReadingError where its state does not let it be done."""
    test = item.test
    check_stands(sheet, test)
    if isinstance(test, Measurement):
        check_acts(sheet, _acts(test), (test.red, test.black))
        check_acts(sheet, ("unplug",), (), parts_meant(sheet, test.without))
    else:
        check_acts(sheet, _acts(test), (test.red,), _parts(sheet, test))


def cautions_for(sheet: Sheet, test: Measurement | Question) -> tuple[Caution, ...]:
    """What to mind: of the sheet, the state, the places or what is asked, and what they lie behind; each once."""
    found = [Caution(sheet.caution, sheet.acknowledge)]
    if test.state and not test.dead:  # with the battery off nothing starts to move when a switch is closed
        state = sheet.states[test.state]
        found.append(Caution(state.caution, state.acknowledge))
    found += sort_of(test).cautions(sheet, test)
    found += [Caution(sheet.access[name].caution, sheet.access[name].acknowledge) for name in sort_of(test).behind(sheet, test) if name]
    by_text = {caution.text: caution for caution in sorted(found, key=lambda caution: caution.locks) if caution.text}
    return tuple(by_text[text] for text in dict.fromkeys(caution.text for caution in found if caution.text))


def locking_cautions(sheet: Sheet) -> tuple[str, ...]:
    """Every caution of a sheet that locks a step."""
    marked = [Caution(sheet.caution, sheet.acknowledge)]
    marked += [Caution(state.caution, state.acknowledge) for state in sheet.states.values()]
    marked += [Caution(place.caution, place.acknowledge) for place in sheet.places.values()]
    marked += [Caution(access.caution, access.acknowledge) for access in sheet.access.values()]
    marked += [Caution(table.caution, table.acknowledge) for table in sheet.tables.values()]
    own = [caution.text for caution in marked if caution.locks and caution.text]
    return tuple(dict.fromkeys((*own, *locking(hazards_of_sheet(sheet)))))


def acknowledged_first(sheet: Sheet, test: Measurement | Question, acknowledged: Collection[str]) -> tuple[str, ...]:
    """The cautions that lock a step and that nobody has said to have read."""
    own = [caution.text for caution in cautions_for(sheet, test) if caution.locks]
    return tuple(text for text in (*own, *locking(hazards_of(sheet, test))) if text not in acknowledged)
