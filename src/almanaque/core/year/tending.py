"""What a planting wants between its sowing and its clearing: shoots led in, soil drawn up, nets, pinching, covers for the winter.

A practice is a row of a table; its steps follow from the dates of the crop, from what somebody saw (`called`), and end by their
window, by a word that it wants no more, or by a plant that is at the top. **Source:** common practice, no source.
"""

import tomllib
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Literal

from almanaque.core.crops.crop import Crop, turned
from almanaque.core.growth.growth_dates import GrowthDates
from almanaque.core.year.steps import WEEK, Step, season_of

Event = Literal["bed", "up", "pick", "last", "clear", "freeze", "thaw"]
EVENTS: tuple[Event, ...] = ("bed", "up", "pick", "last", "clear", "freeze", "thaw")
Called = Literal["", "females without males or visitors", "bolted"]
LEAST_WINDOW_DAYS = 4  # of a week that are a window of their own: our own rule
POLLEN_DAYS = 3  # mornings after a count of flowers on which pollen is carried: our own rule
HARD_FREEZE_C = -4.0  # a winter has nights as cold as that where straw and leaves are of use: our own rule
CALLED_DAYS = 42  # what was called for by something seen is asked about no longer than so: our own rule
AFTER_PICKING_DAYS = (
    60  # what follows a season's picking of a plant that comes again belongs to it for so long: our own rule
)
VISITS_DAYS = 7  # visitors that were seen so lately are still about: our own rule


@dataclass(frozen=True)
class Anchor:
    """So many days after something of a planting's life."""

    event: Event
    days: int


@dataclass(frozen=True)
class Practice:
    """A thing that is done to a planting. `every` [days] is 0 for what is done once; `months` are those north of the equator.

    `word` is what it is called in a list, `asks` the question of the tour, `no_more` the answer that ends it. `top` is the share of
    its height [mm] at which a plant needs it no longer. `under` are covers that must lie over it, `stands` asks for a crop that
    is left in the ground over winter, `potted` for a pot that can be carried, `in_still` for air without wind.
    """

    step: str
    word: str
    title: str
    asks: str
    how: str
    every: int
    minutes: int
    ages_from: int
    crops: frozenset[str] = frozenset()
    supports: frozenset[str] = frozenset()
    parts: frozenset[str] = frozenset()
    under: frozenset[str] = frozenset()
    tools: tuple[str, ...] = ()
    months: tuple[int, ...] = ()
    begins: Anchor | None = None
    ends: Anchor | None = None
    called: Called = ""
    no_more: str = ""
    caution: str = ""
    top: float = 0.0
    in_still: bool = False
    pollinated: bool = False
    stands: bool = False
    potted: bool = False

    def suits(self, crop: Crop, cover: str | None, *, potted: bool = True) -> bool:
        """True where its crops, supports, parts eaten and covers are those of a planting, and it is in a pot where that is asked."""
        if self.potted and not potted:
            return False
        if self.crops and crop.kind not in self.crops:
            return False
        if self.supports and crop.support_kind not in self.supports:
            return False
        if self.parts and crop.part not in self.parts:
            return False
        if self.under and cover not in self.under:
            return False
        if self.pollinated and crop.pollination != "insects":
            return False
        if self.called == "females without males or visitors" and not crop.male_female:
            return False
        return not (self.called == "bolted" and crop.life == "perennial")

    @property
    def rhythm(self) -> str:
        """How often, in words; empty for what is done once."""
        if not self.every:
            return ""
        if self.every < WEEK.days:
            return f"every {self.every - 1} to {self.every} days"
        return "every week" if self.every == WEEK.days else f"every {self.every} days"


@dataclass(frozen=True)
class Frost:
    """Month and day on which nights of `HARD_FREEZE_C` usually begin, and on which the last freeze of spring is past; None without."""

    begins: tuple[int, int] | None = None
    ends: tuple[int, int] | None = None


NO_FROST = Frost()
YEARLY = frozenset({"freeze", "thaw"})  # what comes every year by the calendar


@dataclass(frozen=True)
class Tended:
    """What people said of a planting's tending: from which day a practice was called for, and since which it wants no more."""

    called: Mapping[str, date] = field(default_factory=dict)
    ended: Mapping[str, date] = field(default_factory=dict)


def read(text: str) -> tuple[Practice, ...]:
    """The practices of a table. Raises ValueError for an anchor that is not known, and for a row without days."""
    found = tuple(_practice(row) for row in tomllib.loads(text)["practice"])
    for one in found:
        if not (one.begins and one.ends) and not one.months and not one.called:
            raise ValueError(f"{one.step}: no days")
    return found


def _practice(row: dict[str, object]) -> Practice:
    made = dict(row)
    for name in ("crops", "supports", "parts", "under"):
        if name in made:
            made[name] = frozenset(made[name])  # type: ignore[call-overload]
    for name in ("tools", "months"):
        if name in made:
            made[name] = tuple(made[name])  # type: ignore[arg-type]
    for name in ("begins", "ends"):
        if name in made:
            made[name] = _anchor(str(made[name]))
    return Practice(**made)  # type: ignore[arg-type]


def _anchor(text: str) -> Anchor:
    event, sign, days = text.split()
    known = next((one for one in EVENTS if one == event), None)
    if known is None or sign not in ("+", "-"):
        raise ValueError(f"{text}: no such day")
    return Anchor(known, int(days) if sign == "+" else -int(days))


def of(crop: Crop, practices: Sequence[Practice], *, cover: str | None = None, potted: bool = True) -> list[Practice]:
    """What a crop wants, each step once."""
    found: dict[str, Practice] = {}
    for one in practices:
        if one.suits(crop, cover, potted=potted):
            found.setdefault(one.step, one)
    return list(found.values())


def steps(
    crop: Crop,
    dates: GrowthDates,
    wanted: Sequence[Practice],
    *,
    tended: Tended,
    since: date,
    cover: str | None = None,
    southern: bool = False,
    frost: Frost = NO_FROST,
    potted: bool = False,
    picked: date | None = None,
) -> Iterator[Step]:
    """The steps of tending of a planting, by the season that holds or follows `since` of one that comes again.

    What goes on for some time is a step a week, the same one whenever it is reckoned again; how often within it is in its title.
    Where it is `potted` it can be carried in and out. What is done once while it grows is over when it was `picked`.
    """
    if crop.life == "perennial":
        dates, _ = season_of(crop, dates, max(dates.bed_from, since - timedelta(days=AFTER_PICKING_DAYS)))
    for practice in of(crop, wanted, cover=cover, potted=potted):
        ended = tended.ended.get(practice.step)
        if picked is not None and not practice.every and practice.begins and practice.begins.event in ("bed", "up"):
            ended = min(ended or picked, picked)
        for ordinal, first, last in _windows(practice, crop, dates, tended, since, southern, frost):
            if ended is not None and last >= ended:
                continue
            yield Step(
                practice.step,
                ordinal,
                _named(practice.title, crop),
                first,
                last,
                practice.minutes,
                practice.caution,
                lapses=True,
                again=practice.every,
            )


def known(step: str, crop: Crop, practices: Sequence[Practice]) -> Practice | None:
    """The practice of a step of a crop, under whatever cover; None for a step that is no tending."""
    return next(
        (one for one in practices if one.step == step and one.suits(crop, next(iter(one.under), None))),
        None,
    )


def asks(practice: Practice, crop: Crop) -> str:
    """The tour's question about a practice."""
    return _named(practice.asks, crop)


def _named(text: str, crop: Crop) -> str:
    name = crop.name.en.lower()
    said = text.replace("{crop}", name).replace("{support}", crop.support_kind or "support")
    return said[:1].upper() + said[1:]


def _windows(
    practice: Practice,
    crop: Crop,
    dates: GrowthDates,
    tended: Tended,
    since: date,
    southern: bool,
    frost: Frost,
) -> Iterator[tuple[int, date, date]]:
    """(ordinal, first day, last day) of each time."""
    called = tended.called.get(practice.step)
    if practice.called == "females without males or visitors":
        if called is not None:
            yield called.toordinal(), called, called + timedelta(days=POLLEN_DAYS - 1)
        return
    if practice.months:
        yield from _in_months(practice, dates, since, southern)
        return
    assert practice.begins is not None
    assert practice.ends is not None
    first = _day(practice.begins, crop, dates, frost, since)
    last = _day(practice.ends, crop, dates, frost, since)
    if first is None or last is None:
        return
    if practice.called:
        if called is None:
            return
        first, last = max(first, called), min(last, called + timedelta(days=CALLED_DAYS))
    if practice.begins.event in YEARLY:
        leaves = (dates.stands_until or dates.last_pick) if practice.stands else dates.clear_by
        if not dates.bed_from <= first <= leaves or (practice.stands and first < dates.first_pick):
            return
    first = max(first, dates.bed_from)
    late = practice.begins.event == "bed" and not practice.every and first >= dates.first_pick
    if last < first or late:
        return
    if not practice.every:
        season = first.year - dates.bed_from.year if crop.life == "perennial" else 0
        yield 1 + season, first, last
        return
    yield from _weeks(practice, first, last)


def _weeks(practice: Practice, first: date, last: date) -> Iterator[tuple[int, date, date]]:
    """Windows from Monday to Sunday, of as many weeks as the rhythm has; numbered by the calendar, so that a shift keeps them.

    A few days at the beginning or the end, in which there may be no lesson, belong to the week beside them.
    """
    span = WEEK.days * max(1, round(practice.every / WEEK.days))
    monday = first - timedelta(days=first.weekday())
    if WEEK.days - first.weekday() < LEAST_WINDOW_DAYS:
        monday += WEEK
    begin = first
    while begin <= last:
        end = monday + timedelta(days=span - 1)
        if (last - end).days < LEAST_WINDOW_DAYS:
            end = last
        yield monday.toordinal() // WEEK.days, begin, max(begin, end)
        monday += timedelta(days=span)
        begin = end + timedelta(days=1)


def _in_months(practice: Practice, dates: GrowthDates, since: date, southern: bool) -> Iterator[tuple[int, date, date]]:
    """The next time in each of its months, each year's of its own."""
    for month in sorted(turned(practice.months, southern=southern)):
        day = date(dates.bed_from.year, month, 1)
        while day < dates.bed_from + timedelta(days=60) or day + timedelta(days=27) < since:
            day = day.replace(year=day.year + 1)
        yield day.year * 12 + month, day, day + timedelta(days=27)


def _day(anchor: Anchor, crop: Crop, dates: GrowthDates, frost: Frost, since: date) -> date | None:
    if anchor.event in YEARLY:
        month_day = frost.begins if anchor.event == "freeze" else frost.ends
        if month_day is None:
            return None
        begin = max(dates.bed_from, since - timedelta(days=60)) if crop.life == "perennial" else dates.bed_from
        day = date(begin.year, *month_day)
        if day < begin:
            day = day.replace(year=day.year + 1)
        return day + timedelta(days=anchor.days)
    days = {
        "bed": dates.bed_from,
        "up": dates.emerge_to or dates.bed_from,
        "pick": dates.first_pick,
        "last": dates.last_pick,
        "clear": dates.clear_by,
    }
    return days[anchor.event] + timedelta(days=anchor.days)


def at_the_top(practice: Practice, crop: Crop, height_mm: float) -> bool:
    """True for a plant that has grown beyond what the practice is for."""
    return bool(practice.top) and height_mm >= practice.top * crop.height_mm


def wants_pollen(crop: Crop, *, males: float, females: float, visited: bool) -> bool:
    """True when female flowers are open and pollen does not come by itself: no male beside them, or nobody who carries it.

    **Source:** common practice, no source.
    """
    return crop.male_female and females > 0 and (males == 0 or not visited)


def steps_named(practices: Collection[Practice]) -> dict[str, str]:
    """What each step is called in a list."""
    return {one.step: one.word for one in reversed(list(practices))}
