"""The seasons of a garden as a school lives them: its terms, and the summer between two school years."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.core.school.school_year import SUMMER_PROGRAMME, Calendar

DAY = timedelta(days=1)


@dataclass(frozen=True)
class Season:
    """A season of the map, both days included; what lies between two terms belongs to the one before."""

    name: str
    starts: date
    ends: date

    def __contains__(self, day: date) -> bool:
        return self.starts <= day <= self.ends


def seasons(calendar: Calendar) -> list[Season]:
    """All seasons on file, without gaps: each lasts until the next begins, the last one to the end of its year."""
    starts: list[tuple[date, str]] = []
    for year in calendar.years:
        terms = sorted((t for t in year.terms if t.kind != SUMMER_PROGRAMME), key=lambda term: term.starts)
        starts += [(term.starts, term.name) for term in terms]
        if terms and (year.ends - terms[-1].ends).days > 20:
            starts.append(
                (terms[-1].ends + DAY, "Summer" if not starts or year.ends.month in (7, 8, 9) else "Long break")
            )
    end = calendar.years[-1].ends if calendar.years else None
    found = []
    for number, (start, name) in enumerate(starts):
        last = starts[number + 1][0] - DAY if number + 1 < len(starts) else end
        if last is not None and last >= start:
            found.append(Season(f"{name} {_years(start, last)}", start, last))
    return found


def around(found: Sequence[Season], day: date) -> tuple[Season | None, Season | None, Season | None]:
    """The season before a day's, its own, and the next."""
    at = next((n for n, season in enumerate(found) if day in season), None)
    if at is None:
        return None, None, next((season for season in found if season.starts > day), None)
    return (found[at - 1] if at else None), found[at], (found[at + 1] if at + 1 < len(found) else None)


def map_day(season: Season, today: date) -> date:
    """The day on which a season's map is drawn: today while it lasts, else its middle."""
    return today if today in season else season.starts + (season.ends - season.starts) / 2


def _years(start: date, end: date) -> str:
    return str(start.year) if start.year == end.year else f"{start.year}–{end.year % 100:02}"
