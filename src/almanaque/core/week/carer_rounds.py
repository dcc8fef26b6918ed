"""Carers' rounds: the weeks in which no child is at school, and the walks that keep the garden alive in them."""

from collections.abc import Collection, Iterable
from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.core.school.school_year import Calendar

WEEK = timedelta(days=7)
DAY = timedelta(days=1)


@dataclass(frozen=True)
class Round:
    """One walk: the Monday of its week, its number in the week, its days, and the break it falls into."""

    week: date
    ordinal: int
    from_day: date
    to_day: date
    closed_for: str

    @property
    def key(self) -> tuple[date, int]:
        return self.week, self.ordinal


def rounds(calendar: Calendar, start: date, end: date, *, a_week: int) -> list[Round]:
    """The rounds of every week from `start` to `end` that lies in a break from Monday to Friday, spread over the week.

    Outside the school years of the calendar there are none: nobody can tell whether children are there. Raises ValueError
    for a number of rounds that is not 1 to 7. **Source:** our own rule; how many rounds keep a garden alive, a school knows.
    """
    if not 1 <= a_week <= 7:
        raise ValueError("there are 1 to 7 rounds a week")
    found = []
    monday = start - timedelta(days=start.weekday())
    while monday <= end:
        closed = [
            gap
            for gap in calendar.breaks_between(monday, monday + 4 * DAY)
            if monday in gap and monday + 4 * DAY in gap
        ]
        for gap in closed:
            edges = [monday + (7 * n // a_week) * DAY for n in range(a_week + 1)]
            found += [Round(monday, n + 1, edges[n], edges[n + 1] - DAY, gap.name) for n in range(a_week)]
        monday += WEEK
    return found


def open_rounds(all_rounds: Iterable[Round], taken: Collection[tuple[date, int]], *, today: date) -> list[Round]:
    """Rounds that are still to be walked and that nobody has taken."""
    return [found for found in all_rounds if found.key not in taken and found.to_day >= today]
