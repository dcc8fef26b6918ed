"""Carers' rounds: the days on which no child is at school, and the walks that keep the garden alive in them."""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.core.school.school_year import Calendar

WEEK = timedelta(days=7)
DAY = timedelta(days=1)
LEAST_DAYS = 4  # without children in a row, such as from a Thursday on: more than a long week-end: our own rule
AFTER_SCHOOL = 10  # rounds of a week that begins with school are numbered from 11 on: our own choice
SEEDBED = 20  # daily rounds to seedbeds are numbered from 21, a Monday's, to 27: our own choice


@dataclass(frozen=True)
class Round:
    """One walk: the Monday of its week, its number in the week, its days, and the break it falls into; `seedbed` is a short one to water
    what was sown."""

    week: date
    ordinal: int
    from_day: date
    to_day: date
    closed_for: str
    seedbed: bool = False

    @property
    def key(self) -> tuple[date, int]:
        return self.week, self.ordinal


def rounds(
    calendar: Calendar, start: date, end: date, *, a_week: int, seedbeds: Sequence[tuple[date, date]] = ()
) -> list[Round]:
    """The rounds of all days from `start` to `end` on which nobody is at school, longer than a week-end with one day more.

    A week without any school has `a_week` rounds; of a week partly closed the days that are have as many as fall to them, one at the
    least. While a seedbed must not dry out (`seedbeds`, from and to) each of these days has a round of its own besides. Outside the
    school years of the calendar there are none: nobody can tell whether children are there. Raises ValueError for a number of
    rounds that is not 1 to 7. **Source:** our own rule; how many rounds keep a garden alive, a school knows.
    """
    if not 1 <= a_week <= 7:
        raise ValueError("there are 1 to 7 rounds a week")
    found = []
    for gap in calendar.closed_between(start - timedelta(days=start.weekday()), end, least=LEAST_DAYS):
        sown = [(begins, ends) for begins, ends in seedbeds if begins < gap.starts]  # in a closure nobody sows
        monday = gap.starts - timedelta(days=gap.starts.weekday())
        while monday <= gap.ends:
            first, last = max(gap.starts, monday), min(gap.ends, monday + 6 * DAY)
            # On a week-end before or after school nobody need come.
            if first <= end and monday + 6 * DAY >= start and (first.weekday() < 5 or (last - first).days > 1):
                found += _of_week(monday, first, last, gap.name, a_week)
                found += _of_seedbeds(monday, first, last, gap.name, sown)
            monday += WEEK
    return sorted(found, key=lambda one: (one.week, one.from_day, one.ordinal))


def _of_week(monday: date, first: date, last: date, name: str, a_week: int) -> list[Round]:
    """The rounds of the closed days of a week, spread over them."""
    days = (last - first).days + 1
    number = a_week if days == 7 else max(1, round(days * a_week / 7))
    edges = [first + (days * n // number) * DAY for n in range(number + 1)]
    # A break that ends within a week and one that begins in it are numbered on.
    after = 0 if first == monday else AFTER_SCHOOL
    return [Round(monday, after + n + 1, edges[n], edges[n + 1] - DAY, name) for n in range(number)]


def _of_seedbeds(
    monday: date, first: date, last: date, name: str, seedbeds: Sequence[tuple[date, date]]
) -> list[Round]:
    """A short round for each closed day on which a seedbed must be kept moist."""
    days = [first + DAY * n for n in range((last - first).days + 1)]
    return [
        Round(monday, SEEDBED + 1 + day.weekday(), day, day, name, seedbed=True)
        for day in days
        if any(begins <= day <= ends for begins, ends in seedbeds)
    ]


def open_rounds(all_rounds: Iterable[Round], taken: Collection[tuple[date, int]], *, today: date) -> list[Round]:
    """Rounds that are still to be walked and that nobody has taken."""
    return [found for found in all_rounds if found.key not in taken and found.to_day >= today]
