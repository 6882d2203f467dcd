"""The ways to mend one target side by side: what each costs today and over the years, how often it comes back, how long it is off the road.

What fails later is mended the same way: only that one, or the whole set together, as the workshop's school has it. A warranty pays the part
and not the labour. Where the part is not the culprit after all, the search goes on for as long as it has taken.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from ..base.judgement import OWN_RULE, judged
from .experience import Experience
from .life import Life
from .money import Rates
from .offer import Offer
from .registry import ways_for
from .spend import Outlook, Stream, outlook
from .target import Member, Target, pair_of
from .way import Way

__all__ = ["ONE_BY_ONE", "SCHOOLS", "SETS", "TOGETHER", "Comparison", "Option", "compared", "times_in_words", "years_in_words"]

FAILED_TOO = "failed too"  # what is written down of another of the set that is bad as well
ONE_BY_ONE, TOGETHER = "one", "set"
SCHOOLS: Mapping[str, str] = {ONE_BY_ONE: "what fails later alone", TOGETHER: "all of them whenever one fails"}
# Which of a set is mended today.
FAILED, PAIR, OLD, ALL = "failed", "pair", "old", "all"
SETS: Mapping[str, str] = {FAILED: "only the failed one", PAIR: "the pair", OLD: "all that are old", ALL: "all of them"}
ALIKE = judged("COST_ALIKE", 0.15, "share", "above the cheapest up to which ways cost about the same", OWN_RULE)
WORKING_DAY = 480.0  # minutes
NONE_SEEN = Experience(0, 1.0, 0, 0)
UNKNOWN_AGE = judged("UNKNOWN_AGE", 0.5, "share", "of its median life that a part has lived whose age nobody knows", OWN_RULE)


@dataclass(frozen=True, slots=True)
class Option:
    """A way for some of a set (``which``). ``today`` is what is paid now, ``parts`` and ``minutes`` of that; ``outlook`` is over the years,
    None while a number ``lacks`` or it cures nothing; ``days`` is how long it is off the road, ``wait`` of them for the part; ``months`` of
    warranty it brings, ``refused`` why it is not offered,
    ``seen`` what repairs here say of the way; ``returns`` is the chance that what is mended itself fails again within the years, ``left``
    that of each that is left in, by what it is called."""

    way: Way
    which: str
    members: tuple[Member, ...]
    parts: float = 0.0
    minutes: float = 0.0
    today: float | None = None
    outlook: Outlook | None = None
    days: float = 0.0
    wait: float = 0.0
    months: float = 0.0
    refused: str = ""
    lacks: str = ""
    claimed: bool = False
    again: float = 0.0
    seen: str = ""
    returns: float = 0.0
    left: tuple[tuple[str, float], ...] = ()

    @property
    def key(self) -> str:
        """What it is chosen by."""
        return f"{self.way.name}:{self.which}"

    @property
    def count(self) -> int:
        """How many are mended."""
        return len(self.members)

    @property
    def title(self) -> str:
        """As it heads its row."""
        if self.which == FAILED or not self.way.cures:
            return self.way.title
        return f"{self.way.title}: {SETS[self.which] if self.which != OLD else f'the {self.count} old ones'}"

    @property
    def off_road(self) -> str:
        """How long the vehicle is away, in words."""
        work = _said_hours((self.days - self.wait) * WORKING_DAY / 60.0)
        return f"{work}, and {_days(round(self.wait))} for the part" if self.wait else work

    @property
    def back(self) -> str:
        """How often it is back within the horizon, in words; empty where it cures nothing."""
        if self.outlook is None:
            return ""
        comes = 1.0 - self.outlook.none
        if self.outlook.visits >= 1.5:
            return f"about {self.outlook.visits:.0f} times"
        if comes >= 0.7:
            return "likely once"
        return times_in_words(comes)

    @property
    def itself(self) -> str:
        """How often that is what was mended itself, in words; empty where nothing else could bring it back."""
        return times_in_words(self.returns) if self.left and self.back else ""


def times_in_words(chance: float) -> str:
    """A chance as a customer is told it."""
    if chance >= 0.7:
        return "most likely"
    return f"1 time in {max(1.0 / chance, 2.0):.0f}" if chance >= 0.04 else "hardly ever"


@dataclass(frozen=True, slots=True)
class Comparison:
    """The ways that are offered, the cheapest over the years first, those without a price behind them; those ``refused``; how many of the
    first cost about the same, and what ``says`` how to choose."""

    options: tuple[Option, ...]
    refused: tuple[Option, ...]
    alike: int
    says: str

    @property
    def shut(self) -> tuple[tuple[str, str], ...]:
        """What is not offered, as titles in one text and why, those together that the same speaks against."""
        found: dict[str, list[str]] = {}
        for option in self.refused:
            found.setdefault(option.refused, []).append(option.title)
        return tuple((", ".join(titles), why) for why, titles in found.items())

    def find(self, key: str) -> Option | None:
        """The option that is chosen by ``key``."""
        return next((option for option in self.options if option.key == key), None)


NOTHING_SEEN: Mapping[tuple[str, str], Experience] = {}


def compared(
    target: Target,
    offers: Mapping[str, Offer],
    rates: Rates,
    years: float,
    school: str = ONE_BY_ONE,
    seen: Mapping[tuple[str, str], Experience] = NOTHING_SEEN,
) -> Comparison:
    """Every way for a target, reckoned over so many years; ``seen`` is what repairs here say by way and build."""
    found = []
    for way in ways_for(target.build, target.failure):
        refused = _refused(way, target)
        for which, members in _subsets(target) if way.cures and way.one_by_one and not refused else [(FAILED, (target.failed,))]:
            option = Option(way, which, members, refused=refused)
            offer, own = offers.get(way.name, Offer(way.name)), seen.get((way.name, target.build.name), NONE_SEEN)
            found.append(option if refused else _reckoned(option, target, offer, rates, years, school, own))
    offered = [option for option in found if not option.refused]
    offered.sort(key=lambda o: (not o.way.cures, o.outlook is None, o.outlook.average if o.outlook else 0.0, o.key))
    alike = _alike(offered)
    return Comparison(tuple(offered), tuple(o for o in found if o.refused), alike, _says(offered, alike, rates, years))


def _refused(way: Way, target: Target) -> str:
    """Why a way is not offered, empty where it is."""
    if way.refused and target.safety:
        return f"{way.refused} ({target.safety})."
    if not way.helps(target.build, target.failure):
        return f"It does not {'mend' if way.cures else 'get round'} this: {target.failure.words}."
    return ""


def _subsets(target: Target) -> list[tuple[str, tuple[Member, ...]]]:
    """The sets of members that are worth a row, none twice."""
    members, failed = target.members, target.failed
    pair = pair_of(members)
    wanted = [
        (FAILED, tuple(m for m in members if m is failed or m.state == FAILED_TOO)),
        (PAIR, (failed, pair) if pair and not pair.spared else ()),
        (OLD, tuple(m for m in members if not m.spared)),
        (ALL, members),
    ]
    found: list[tuple[str, tuple[Member, ...]]] = []
    for which, chosen in wanted:
        if chosen and all(set(chosen) != set(other) for _, other in found):
            found.append((which, chosen))
    return found


def _reckoned(option: Option, target: Target, offer: Offer, rates: Rates, years: float, school: str, seen: Experience) -> Option:
    way, count = option.way, option.count
    claimed = way.name == "new" and bool(target.failed.warranty and target.failed.warranty.stands)
    work = offer.minutes if offer.minutes is not None else way.minutes(target.build)
    times = 1.0 if offer.minutes is not None else seen.times  # what somebody wrote goes before what was usual here
    minutes = times * (target.opening - target.saved + target.closing + work * count)
    option = replace(option, seen=seen.says)
    wait = offer.days if offer.days is not None else way.wait_days
    months = offer.months if offer.months is not None else float(way.months)
    days = minutes / WORKING_DAY + wait
    if not way.cures:
        minutes = minutes if way.in_place else 0.0
        price = (offer.price or 0.0) + (offer.once or 0.0)
        today = rates.labour(minutes) + price
        return replace(option, parts=price, minutes=minutes, today=today, days=minutes / WORKING_DAY, months=months)
    lacks = "its price" if way.priced and offer.price is None and not (claimed and count == 1) else ""
    paid = count - 1 if claimed else count
    price, once = offer.price or 0.0, offer.once or 0.0
    parts = price * paid + once
    option = replace(option, parts=parts, minutes=minutes, days=days, wait=wait, months=months, claimed=claimed, lacks=lacks)
    if lacks:
        return option
    today = rates.labour(minutes) + parts + rates.day * days
    again = (1.0 - target.found.chance, rates.labour(target.found.search_minutes))
    visit = _Visit(target, rates, work, price, once, wait, times)
    mended = way.life(target.build)
    mended = replace(mended, early=seen.early(mended.early))
    streams = _streams(option, target, visit, months, school, mended)
    others = [member for member in target.members if member not in option.members]
    return replace(
        option,
        today=today,
        outlook=outlook(today, streams, years, again),
        again=1.0 - target.found.chance,
        returns=1.0 - (1.0 - mended.chance_within(years)) ** count,
        left=tuple((member.called, _lived(member, target).chance_within(years)) for member in others),
    )


@dataclass(frozen=True, slots=True)
class _Visit:
    """What a later visit takes."""

    target: Target
    rates: Rates
    work: float
    price: float
    once: float
    wait: float
    times: float

    def costs(self, count: int, paid: int) -> float:
        """That of one for so many parts, of which so many are paid."""
        minutes = self.times * (self.target.opening + self.target.closing + self.work * count)
        return self.rates.labour(minutes) + self.price * paid + self.once + self.rates.day * (minutes / WORKING_DAY + self.wait)


def _streams(option: Option, target: Target, visit: _Visit, months: float, school: str, mended: Life) -> list[Stream]:
    lives = {member.name: mended if member in option.members else _lived(member, target) for member in target.members}
    left = {m.name: months if m in option.members else _months_left(m) for m in target.members}
    if school == TOGETHER and len(target.members) > 1:
        count = len(target.members)
        first = tuple(lives[member.name] for member in target.members)
        least = min(left.values())
        return [Stream(first, (mended,) * count, visit.costs(count, count), visit.costs(count, count - 1), least, months)]
    one, covered = visit.costs(1, 1), visit.costs(1, 0)
    return [Stream((lives[m.name],), (mended,), one, covered, left[m.name], months) for m in target.members]


def _lived(member: Member, target: Target) -> Life:
    years = member.years if member.years is not None else UNKNOWN_AGE * target.build.years
    return target.build.life.aged(years)


def _months_left(member: Member) -> float:
    return member.warranty.months_left if member.warranty and member.warranty.stands else 0.0


def _days(count: int) -> str:
    return f"{count} day" if count == 1 else f"{count} days"


def _said_hours(hours: float) -> str:
    """Hours of work as somebody says them who is asked when the vehicle is ready."""
    if hours <= 0.0:
        return "no time"
    if hours < 0.75:
        return "under an hour"
    if hours < 3.5:
        return f"{max(round(hours), 1)} h"
    return "half a day" if hours < 5.0 else _days(max(round(hours * 60.0 / WORKING_DAY), 1))


def years_in_words(years: float) -> str:
    """A horizon as it is said."""
    return "1 year" if years == 1.0 else f"{years:g} years"


def _alike(options: Sequence[Option]) -> int:
    """How many of the first cost about the same as the cheapest."""
    averages = [option.outlook.average for option in options if option.outlook]
    return sum(average <= averages[0] * (1.0 + ALIKE) + 1.0 for average in averages) if averages else 0


_NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten")


def _says(options: Sequence[Option], alike: int, rates: Rates, years: float) -> str:
    """How to choose between them, in a sentence or two."""
    known = [(option, option.outlook) for option in options if option.outlook]
    if not known:
        return "Write a price to a way, and it is reckoned over the years."
    first, least = known[0]
    over = years_in_words(years)
    if alike < 2:
        if len(known) < 2:
            return f"{first.title} is the only way that can be reckoned so far."
        return f"{first.title} costs least over {over}, by {rates.about(known[1][1].average - least.average)} on the average."
    fewest, _ = min(known[:alike], key=lambda pair: pair[1].visits)
    many = "Both" if alike == 2 == len(known) else f"The first {_NUMBERS[alike] if alike < len(_NUMBERS) else alike}"
    return f"{many} cost about the same over {over}. Choose by visits and days off the road: {fewest.title} brings it back least often."
