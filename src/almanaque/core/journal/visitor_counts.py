"""Visitors to flowers, as classes and the tour count them: week by week over the bloom, over the years, and before and after a change."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.core.journal.class_counts import ClassCount, watched
from almanaque.core.words import Phrase
from almanaque.core.words.days import MONTH_NAMES

LEAST_WATCHES = 3  # on either side before two times are compared: our own rule
MINUTES = 10.0  # in which visitors are compared
WEEK = timedelta(days=7)


@dataclass(frozen=True)
class VisitorRate:
    """Visitors in a span of time: how often somebody watched, for how many minutes in all, and how many came."""

    watches: int
    minutes: float
    visitors: float

    @property
    def in_ten(self) -> float:
        """Visitors in ten minutes."""
        return MINUTES * self.visitors / self.minutes if self.minutes else 0.0


def rate(counts: Iterable[ClassCount]) -> VisitorRate:
    """What some counts of visitors come to; those without minutes are left out."""
    timed = watched([count for count in counts if count.kind == "visitors" and count.of])
    return VisitorRate(len(timed), sum(c.of or 0.0 for c in timed), sum(c.amount for c in timed))


def weeks(seen: Iterable[tuple[date, float]], starts: date, ends: date) -> list[tuple[date, float]]:
    """Visitors week by week between two days, by the first day of each week that has any."""
    found: dict[date, float] = {}
    for day, amount in seen:
        if starts <= day <= ends and amount:
            week = starts + WEEK * ((day - starts) // WEEK)
            found[week] = found.get(week, 0.0) + amount
    return sorted(found.items())


def years(counts: Sequence[ClassCount]) -> list[tuple[int, VisitorRate]]:
    """The rate of each calendar year in which somebody watched, oldest first."""
    known = sorted({count.day.year for count in counts if count.of})
    return [(year, rate(c for c in counts if c.day.year == year)) for year in known]


def before_and_after(counts: Sequence[ClassCount], since: date) -> Phrase:
    """What was seen before a day and from it on, in one honest sentence: only in months that were counted on both sides.

    **Source:** our own rule; children count on other days and in other weather, so nothing is said of why.
    """
    timed = [count for count in counts if count.kind == "visitors" and count.of]
    sides = [c for c in timed if c.day < since], [c for c in timed if c.day >= since]
    both = {c.day.month for c in sides[0]} & {c.day.month for c in sides[1]}
    before, after = (rate(c for c in side if c.day.month in both) for side in sides)
    if before.watches < LEAST_WATCHES or after.watches < LEAST_WATCHES:
        params = {"since": since, "before": before.watches, "after": after.watches, "least": LEAST_WATCHES}
        return Phrase("journal.visitors_too_few", params)
    return Phrase(
        "journal.visitors_before_and_after",
        {
            "since": since,
            "year": since.year,
            "months": [MONTH_NAMES[month - 1] for month in sorted(both)],
            "watches": before.watches,
            "minutes": before.minutes,
            "rate": before.in_ten,
            "watches_after": after.watches,
            "minutes_after": after.minutes,
            "rate_after": after.in_ten,
        },
    )
