"""From the events of a calendar file to school years: what an event means by its words, and how terms follow from it.

Nothing is decided for good here: a person sees each event with its meaning and may change it before anything is kept.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, time, timedelta
from typing import Literal, get_args

from almanaque.core.errors import BadInput
from almanaque.core.school.school_year import DAY, SUMMER_PROGRAMME, HalfDay, SchoolYear, Span, check_year

EventKind = Literal[
    "first day",
    "last day",
    "term",
    "summer programme",
    "break",
    "closed day",
    "training day",
    "half day",
    "feast",
    "ignored",
]
KINDS: tuple[EventKind, ...] = get_args(EventKind)

HALF_DAY_ENDS = time(12, 0)  # when the event does not say
NEW_YEAR_AFTER = timedelta(days=300)  # a first day so much later begins another school year
SUMMER_AT_LEAST = timedelta(days=28)  # between a last day and a first one of two school years: our own rule
STAFF_BEFORE = timedelta(days=45)  # staff days before the first day belong to its year: our own rule
MOST_WORDS, LONGEST_WORD = 40, 60  # of the school's own for one kind of event: our own rule
MOST_ROWS = 5_000  # of a calendar: our own rule


@dataclass(frozen=True)
class CalendarEntry:
    """An event with its meaning. One that comes again and again has several spans and one meaning for all of them."""

    kind: EventKind
    name: str
    spans: tuple[tuple[date, date], ...]
    where: str
    until: time | None = None

    @property
    def starts(self) -> date:
        return self.spans[0][0]

    @property
    def ends(self) -> date:
        return self.spans[-1][1]


def assemble(entries: Sequence[CalendarEntry]) -> list[SchoolYear]:
    """School years from entries: the first days and terms say when each begins, everything else is put into its year.

    Without terms, the time from each first day to its last day is one. A year lasts until the next begins, or a year less
    a day; staff days shortly before its first day are of it. Closed days that lie in a longer break are part of it, and half
    days count on school days only. Raises BadInput when nothing says when school begins or ends, and what `check_year` raises.
    """
    kept = [entry for entry in entries if entry.kind != "ignored"]
    starts = _beginnings(kept)
    ends = [after - DAY for after in starts[1:]] + [_year_later(starts[-1]) - DAY]
    years = []
    for first, last in zip(starts, ends, strict=True):
        mine = [entry for entry in kept if first <= entry.starts <= last]
        year = SchoolYear(
            year_name(first, last),
            first,
            last,
            (*_terms(mine), *_spans(mine, {SUMMER_PROGRAMME: SUMMER_PROGRAMME}, last)),
            _apart(_spans(mine, {"break": "break", "closed day": "holiday", "training day": "training day"}, last)),
            feasts=tuple(Span(e.name, day, day) for e in mine if e.kind == "feast" for day in _days(e) if day <= last),
        )
        check_year(year)
        years.append(replace(year, half_days=_half_days(mine, year)))
    return years


def half_days_left_out(entries: Sequence[CalendarEntry], years: Sequence[SchoolYear]) -> list[tuple[str, date]]:
    """Half days that lie on no school day, by name and day, so that they can be told."""
    school = {day for year in years for day in year.school_days}
    return [(e.name, day) for e in entries if e.kind == "half day" for day in _days(e) if day not in school]


def left_outside(entries: Sequence[CalendarEntry], years: Sequence[SchoolYear]) -> list[CalendarEntry]:
    """Entries with a meaning that lie in none of the years, so that they can be named and not lost in silence."""
    return [
        entry
        for entry in entries
        if entry.kind != "ignored" and not any(year.starts <= entry.starts <= year.ends for year in years)
    ]


def check_all_inside(entries: Sequence[CalendarEntry], years: Sequence[SchoolYear]) -> None:
    """Raise BadInput that names the first entry with a meaning which lies in none of the years."""
    outside = left_outside(entries, years)
    if outside:
        first = outside[0]
        raise BadInput("school.entry_outside_years", where=first.where, name=first.name, day=first.starts)


def check_span(entry: CalendarEntry, first: date, last: date) -> None:
    """Raise BadInput for an entry that would end before it starts."""
    if last < first:
        raise BadInput("school.row_ends_before_start", where=entry.where, entry=entry.name)


def check_words(kind: str, phrases: Sequence[str]) -> None:
    """Raise BadInput for more words of the school's own than are looked for, or too long ones."""
    if len(phrases) > MOST_WORDS or any(len(phrase) > LONGEST_WORD for phrase in phrases):
        raise BadInput("school.too_many_marking_words", field=f"words_{kind}", kind=kind)


def year_name(starts: date, ends: date) -> str:
    """`2026–27`, or `2026` for a year that lies mostly in one.

    >>> year_name(date(2026, 8, 26), date(2027, 8, 24)), year_name(date(2026, 2, 3), date(2027, 2, 1))
    ('2026–27', '2026')
    """
    return str(starts.year) if starts.month <= 3 else f"{starts.year}–{(starts.year + 1) % 100:02}"


def _beginnings(kept: Sequence[CalendarEntry]) -> list[date]:
    """The first day of each school year, staff days before the children's included."""
    begins = sorted(e.starts for e in kept if e.kind in ("first day", "term"))
    if not begins:
        raise BadInput("school.no_begin_of_school")
    lasts = [e.ends for e in kept if e.kind == "last day"]
    starts = [begins[0]]
    for day in begins:
        over = any(starts[-1] < last <= day - SUMMER_AT_LEAST for last in lasts)
        if day - starts[-1] >= NEW_YEAR_AFTER or over:
            starts.append(day)
    staff = [e.starts for e in kept if e.kind == "training day"]
    return [min([first, *(day for day in staff if first - STAFF_BEFORE <= day < first)]) for first in starts]


def _half_days(mine: Sequence[CalendarEntry], year: SchoolYear) -> tuple[HalfDay, ...]:
    school = set(year.school_days)
    by_day: dict[date, HalfDay] = {}
    for entry in mine:
        for day in _days(entry) if entry.kind == "half day" else []:
            half = HalfDay(entry.name, day, entry.until or HALF_DAY_ENDS)
            if day in school and (day not in by_day or half.until < by_day[day].until):
                by_day[day] = half
    return tuple(by_day[day] for day in sorted(by_day))


def _apart(closures: Sequence[Span]) -> tuple[Span, ...]:
    """Closures without common days: what lies in a longer one is part of it, what lasts into one ends before."""
    found: list[Span] = []
    for span in sorted(closures, key=lambda s: (-s.days, s.starts)):
        starts, ends = span.starts, span.ends
        for longer in found:
            if longer.starts <= starts <= longer.ends:
                starts = longer.ends + DAY
            if longer.starts <= ends <= longer.ends:
                ends = longer.starts - DAY
        if starts <= ends and not any(starts <= longer.ends and ends >= longer.starts for longer in found):
            found.append(replace(span, starts=starts, ends=ends))
    return tuple(sorted(found, key=lambda s: s.starts))


def _terms(mine: Sequence[CalendarEntry]) -> tuple[Span, ...]:
    given = _spans(mine, {"term": "term"}, date.max)
    if given:
        return given
    marks = sorted(
        [(e.starts, 0) for e in mine if e.kind == "first day"] + [(e.ends, 1) for e in mine if e.kind == "last day"]
    )
    if not marks or marks[-1][1] == 0:
        begins = max(day for day, _ in marks)
        raise BadInput("school.no_end_of_school", begins=begins.isoformat())
    runs = []
    opened: date | None = None
    for day, closes in marks:
        if closes:
            if opened is not None:
                runs.append((opened, day))
            opened = None
        else:
            if opened is not None:
                runs.append((opened, day - DAY))
            opened = day
    names = ("School year",) if len(runs) == 1 else tuple(f"Term {n}" for n in range(1, len(runs) + 1))
    return tuple(Span(name, *run, "term") for name, run in zip(names, runs, strict=True))


def _spans(mine: Sequence[CalendarEntry], kinds: Mapping[str, str], last: date) -> tuple[Span, ...]:
    """What lasts beyond the year ends with it."""
    return tuple(
        Span(e.name, first, max(first, min(until, last)), kinds[e.kind])
        for e in mine
        if e.kind in kinds
        for first, until in e.spans
    )


def _days(entry: CalendarEntry) -> list[date]:
    return [start + DAY * n for start, end in entry.spans for n in range((end - start).days + 1)]


def only_weekend(last: date, starts: date) -> bool:
    return all((last + DAY * n).weekday() >= 5 for n in range(1, (starts - last).days))


def _year_later(day: date) -> date:
    return day.replace(year=day.year + 1) if (day.month, day.day) != (2, 29) else date(day.year + 1, 3, 1)
