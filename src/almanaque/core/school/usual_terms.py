"""A usual school year of a country, to begin with before anybody has the office's calendar. Everything in it is to be corrected.

**Source:** common practice, no source; northern and southern years for countries that are not listed.
"""

from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.core.school.calendar_import import year_name
from almanaque.core.school.school_year import DAY, SchoolYear, Span

Week = tuple[int, int]  # month and day near which a Monday is taken


@dataclass(frozen=True)
class UsualYear:
    """Terms and breaks by the days near which they begin and end; a year of the south begins in January or February."""

    terms: tuple[tuple[str, Week, Week], ...]
    breaks: tuple[tuple[str, Week, int], ...]


ONE_YEAR = UsualYear(
    (("School year", (8, 25), (6, 10)),),
    (("Autumn break", (11, 23), 5), ("Winter break", (12, 21), 12), ("Spring break", (3, 22), 5)),
)
THREE_TERMS = UsualYear(
    (("Autumn term", (9, 3), (12, 18)), ("Spring term", (1, 5), (3, 26)), ("Summer term", (4, 12), (7, 20))),
    (("Half term", (10, 26), 5), ("Half term", (2, 15), 5), ("Half term", (5, 31), 5)),
)
FOUR_TERMS = UsualYear(
    (
        ("Term 1", (1, 29), (4, 8)),
        ("Term 2", (4, 26), (7, 2)),
        ("Term 3", (7, 19), (9, 24)),
        ("Term 4", (10, 11), (12, 15)),
    ),
    (),
)
NORTH = UsualYear(
    (("School year", (9, 1), (6, 25)),),
    (("Autumn break", (10, 26), 5), ("Winter break", (12, 21), 12), ("Spring break", (4, 5), 10)),
)
SOUTH = UsualYear((("School year", (2, 8), (12, 10)),), (("Winter break", (7, 5), 12),))
BY_COUNTRY = {
    "US": ONE_YEAR,
    "CA": ONE_YEAR,
    "GB": THREE_TERMS,
    "IE": THREE_TERMS,
    "AU": FOUR_TERMS,
    "NZ": FOUR_TERMS,
    "ZA": FOUR_TERMS,
}


def usual_year(country: str, *, southern: bool, today: date) -> SchoolYear:
    """The school year that today lies in, or the next one in its summer, as it usually is in a country."""
    usual = BY_COUNTRY.get(country, SOUTH if southern else NORTH)
    years = (_year(usual, start) for start in range(today.year - 1, today.year + 2))
    return next(year for year in years if today <= year.terms[-1].ends)


def _year(usual: UsualYear, start: int) -> SchoolYear:
    begins = usual.terms[0][1]

    def near(week: Week, weekday: int) -> date:
        """The weekday nearest to a day of this school year, Monday for beginnings and Friday for ends."""
        day = date(start if week >= begins else start + 1, *week)
        by = (weekday - day.weekday()) % 7
        return day + timedelta(days=by if by <= 3 else by - 7)

    spans = tuple(Span(name, near(first, 0), near(last, 4), "term") for name, first, last in usual.terms)
    closed = tuple(
        Span(name, monday, monday + (days - 1 + (days - 1) // 5 * 2) * DAY, "break")
        for name, week, days in usual.breaks
        if (monday := near(week, 0))
    )
    first = spans[0].starts
    last = (
        first.replace(year=first.year + 1) - DAY if (first.month, first.day) != (2, 29) else date(first.year + 1, 2, 28)
    )
    return SchoolYear(year_name(first, last), first, last, spans, closed)
