"""The ribbon: the whole school year, its breaks, the chance of a freeze, and the day that is shown. Positions are percent."""

from dataclasses import dataclass
from datetime import date, timedelta
from functools import lru_cache

from almanaque.commands.context import Context
from almanaque.core.place.climate import Climate
from almanaque.web import words

LABELS_UNTIL = 50  # percent; further right the form stands
STEP_DAYS = 4  # the freeze line is drawn through every fourth day


@dataclass(frozen=True)
class RibbonBand:
    name: str
    left: float
    width: float


@dataclass(frozen=True)
class Mark:
    name: str
    left: float


@dataclass(frozen=True)
class Ribbon:
    """Everything the template draws; `first` and `days` let the page turn a place on it into a day."""

    year_name: str
    first: date
    days: int
    last: int
    at: int
    shown: date
    handle: float
    terms: list[RibbonBand]
    term_labels: list[RibbonBand]
    breaks: list[RibbonBand]
    months: list[Mark]
    feasts: list[Mark]
    freeze_path: str
    sentence: str
    freeze_sentence: str


def ribbon(context: Context, day: date) -> Ribbon | None:
    """The ribbon of the school year that holds the day; None when no year is on file for it."""
    calendar, climate = context.calendar, context.climate
    year = calendar.year_of(day)
    if year is None or day > year.ends:
        return None
    days = (year.ends - year.starts).days + 1

    def at(moment: date) -> float:
        return round(100 * (moment - year.starts).days / days, 3)

    def band(name: str, start: date, end: date) -> RibbonBand:
        start, end = max(start, year.starts), min(end, year.ends)
        return RibbonBand(name, at(start), round(at(end + timedelta(days=1)) - at(start), 3))

    months = []
    first = date(year.starts.year, year.starts.month, 1)
    while first <= year.ends:
        if first >= year.starts:
            months.append(Mark(words.month(first), at(first)))
        first = (first + timedelta(days=32)).replace(day=1)
    single = [c for c in year.closures if c.days == 1]
    rows = next(row for row in context.years if row.name == year.name)
    terms = [band(term.name, term.starts, term.ends) for term in year.terms]
    return Ribbon(
        year_name=year.name,
        first=year.starts,
        days=days,
        last=days - 1,
        at=(day - year.starts).days,
        shown=day,
        handle=at(day),
        terms=terms,
        term_labels=[term for term in terms if term.left < LABELS_UNTIL],
        breaks=[band(gap.name, gap.starts, gap.ends) for gap in calendar.breaks_between(year.starts, year.ends)]
        + [band(c.name, c.starts, c.ends) for c in single],
        months=months,
        feasts=[
            Mark(f"{row.span.name}, {words.short_day(row.span.starts)}", at(row.span.starts)) for row in rows.feasts
        ],
        freeze_path=_freeze_path(climate, year.starts, days) if climate and climate.seasons else "",
        sentence=_sentence(context, day),
        freeze_sentence=_freeze_sentence(context, day),
    )


@lru_cache(maxsize=64)
def _freeze_path(climate: Climate, first: date, days: int) -> str:
    """The chance of a freeze as an SVG path in a 1000 × 100 box; kept as long as the climate is."""
    points = [
        f"{1000 * offset / days:.1f} {100 - 92 * climate.freeze_chance(first + timedelta(days=offset)):.1f}"
        for offset in range(0, days + STEP_DAYS, STEP_DAYS)
    ]
    return "M" + " L".join(points)


def _sentence(context: Context, day: date) -> str:
    calendar = context.calendar
    term = calendar.term_of(day)
    gap = calendar.next_break(day)
    year = calendar.year_of(day)
    closed = next((closure.name for closure in year.closures if day in closure), "") if year else ""
    where = closed or (term.name if term else gap.name if gap and day in gap else "Between terms")
    left = calendar.school_days_left(day)
    return words.joined([where, words.weekday_day(day), f"{words.count(left, 'school day')} left" if left else ""])


def _freeze_sentence(context: Context, day: date) -> str:
    """The line in words, for those who do not see it."""
    if context.climate is None or not context.climate.seasons:
        return "No weather on file, so no freeze line."
    chance = context.climate.freeze_chance(day)
    return f"Frost season: {round(100 * chance)} of 100 years ({context.climate.seasons} seasons on file)."
