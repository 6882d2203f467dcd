"""What a family of checks is: what is set, what is read, what is needed, and the functions that judge it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

from ..check import Limit
from ..check.laws import Law, fixed
from .case import Case
from .judged import Chart, FuseBox, Judged, School, Service, Socket

__all__ = ["COPPER", "YES_NO", "Check", "Column", "Family", "Setting"]

YES_NO = ("yes", "no")
COPPER: Law | None = None  # a check of copper: the law hangs on the meter's thermometer


@dataclass(frozen=True, slots=True)
class Setting:
    """Something that is known before one reads: its name, what it is, its ``unit`` or its ``words`` to choose from, and what it is where
    nobody says otherwise (None for not known). ``early`` ones are asked before anything is read; those
    of ``service`` say how it is used on the vehicle; volts, watts and the like are above
    nought but for those that may be ``zero``. ``house`` names the house rule that it follows."""

    name: str
    says: str
    unit: str = ""
    words: tuple[str, ...] = ()
    usual: float | str | None = None
    service: bool = False
    early: bool = False
    zero: bool = False
    house: str = ""


@dataclass(frozen=True, slots=True)
class Check:
    """Something that is read: its name, what it is, the units that it may come in (the first where none is typed) or the ``words`` that
    answer it; ``limit`` gives its usual limit where nobody gave one, ``good`` the word that passes. ``aside`` numbers are not judged by
    themselves, ``exact`` ones are counted and not measured. ``law`` brings it to a limit's temperature (`COPPER`: windings). ``bad`` says
    what the other word means, ``beyond`` what too little and too much mean, ``then`` what to do about either; a ``warm``
    one is read with its temperature."""

    name: str
    says: str
    units: tuple[str, ...] = ()
    words: tuple[str, ...] = ()
    limit: Callable[[Case], Limit | None] = lambda case: None
    good: Callable[[Case], str] = lambda case: "yes"
    aside: bool = False
    exact: bool = False
    law: Law | None = fixed
    bad: str = ""
    beyond: tuple[str, str] = ("", "")
    then: str = "Read it once more to be sure, and compare it with a good one."
    warm: bool = False

    @property
    def hangs_on_warmth(self) -> bool:
        """Whether its temperature belongs beside the number: windings, and what is ``warm``."""
        return self.law is None or self.warm


@dataclass(frozen=True, slots=True)
class Column:
    """A column of a family's points: its name, what it is, its unit or its words; ``free`` text names the row, and what is
    ``optional`` may be left out of a table."""

    name: str
    says: str
    unit: str = ""
    words: tuple[str, ...] = ()
    free: bool = False
    optional: bool = False


def _nothing(case: Case) -> Sequence[Judged]:
    return ()


@dataclass(frozen=True, slots=True)
class Family:
    """A family of checks by itself.

    ``group`` is where it stands in the list, ``covers`` are other words for it; ``checks`` what is read, ``main`` the one that is first in
    sight; ``derived`` what follows from several; ``columns`` what a pasted table has; ``cautions`` what is never done and what is done
    first. ``needed`` names the checks and settings without which nothing is whole; ``derive`` judges what follows from several readings;
    ``serve`` tells what it means in service; ``advise`` what to do; ``chart`` draws it; ``schools`` tells other ways to judge it.
    ``function`` are the checks that show whether it works, ``aliases`` other names of checks and settings, ``kinds`` the kinds of part of a
    circuit that are checked so. ``socket`` draws one with its pins, ``fuse_box`` one with what each fuse carries; ``rows`` are those
    that a table of points begins with, each with what it is; points of a ``sweep`` are many and pasted, others are few and typed into a
    ``table`` of that title; where a known-good one tells nothing it is not ``compared``. ``since`` tells what changed from an earlier
    check of the same vehicle (the case now, the case then)."""

    name: str
    title: str
    covers: str
    main: str
    checks: tuple[Check, ...]
    cautions: tuple[str, ...]
    settings: tuple[Setting, ...] = ()
    columns: tuple[Column, ...] = ()
    derived: tuple[Check, ...] = ()
    function: tuple[str, ...] = ()
    aliases: Mapping[str, str] = field(default_factory=dict)
    needed: Callable[[Case], Sequence[str]] = lambda case: ()
    derive: Callable[[Case], Sequence[Judged]] = _nothing
    serve: Callable[[Case, Sequence[Judged]], Service] = lambda case, findings: Service()
    advise: Callable[[Case, Sequence[Judged]], Sequence[str]] = lambda case, findings: ()
    chart: Callable[[Case, Sequence[Judged]], Chart | None] = lambda case, findings: None
    schools: Callable[[Case], Sequence[School]] = lambda case: ()
    socket: Callable[[Case, Sequence[Judged]], Socket | None] = lambda case, findings: None
    fuse_box: Callable[[Case, Sequence[Judged]], FuseBox | None] = lambda case, findings: None
    rows: Callable[[Case], Sequence[tuple[str, str]]] = lambda case: ()
    sweep: bool = False
    table: str = "Several points"
    compared: bool = True
    since: Callable[[Case, Case], Sequence[str]] | None = None
    group: str = ""
    kinds: tuple[str, ...] = ()

    def check(self, name: str) -> Check | None:
        """The check of that name, one that is derived from others included."""
        return next((check for check in (*self.checks, *self.derived) if check.name == name), None)

    def setting_words(self, name: str) -> tuple[str, ...]:
        """The words to choose from of a setting; none where there is no such setting."""
        found = self.setting(name)
        return found.words if found else ()

    def setting(self, name: str) -> Setting | None:
        """The setting of that name."""
        return next((setting for setting in self.settings if setting.name == name), None)
