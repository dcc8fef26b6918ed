"""From the events of a calendar file to school years: what an event means by its words, and how terms follow from it.

Nothing is decided for good here: a person sees each event with its meaning and may change it before anything is kept.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, time, timedelta
from itertools import pairwise
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

# Words by which an event is recognised; a school may set its own. The longest that is found in the title decides.
WORDS: dict[EventKind, tuple[str, ...]] = {
    "first day": ("first day", "school begins", "school starts", "classes begin", "back to school"),
    "last day": ("last day", "school ends", "classes end"),
    "term": ("term", "semester", "trimester", "quarter"),
    "summer programme": ("summer programme", "summer program", "summer school", "summer camp"),
    "break": (
        "break",
        "spring break",
        "summer break",
        "autumn break",
        "fall break",
        "winter break",
        "mid-term break",
        "half-term",
        "vacation",
        "holidays",
        "recess",
    ),
    "closed day": ("no school", "school closed", "schools closed", "holiday", "public holiday"),
    "training day": (
        "training day",
        "staff day",
        "teacher work day",
        "in-service",
        "inset day",
        "pupil-free day",
        "professional development",
    ),
    "half day": ("half day", "half-day", "early release", "early dismissal", "late start"),
    "feast": ("feast", "soup day", "harvest day", "harvest festival", "garden day"),
}
HALF_DAY_ENDS = time(12, 0)  # when the event does not say
MERGE_GAP = 3  # days: the same event before and after a weekend is one run
BREAK_FROM_DAYS = 3  # closed for so many days in a row is a break, whatever it is called
NEW_YEAR_AFTER = timedelta(days=300)  # a first day so much later begins another school year
MOST_WORDS, LONGEST_WORD = 40, 60  # of the school's own for one kind of event: our own rule
MOST_ROWS = 5_000  # of a calendar: our own rule

Words = Mapping[EventKind, Sequence[str]]


@dataclass(frozen=True)
class Event:
    """An event as a file gave it: days are local and both included; `where` says which file and line."""

    name: str
    starts: date
    ends: date
    where: str
    until: time | None = None


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


def recognise(title: str, *, words: Words = WORDS) -> EventKind:
    """What an event means by its title: the longest of the words that it holds decides; `ignored` without any.

    >>> recognise("No school – Founders' Day"), recognise("Spring break – no school"), recognise("Band practice")
    ('closed day', 'break', 'ignored')
    """
    plain = _plain(title)
    best: tuple[int, EventKind] = (0, "ignored")
    for kind, phrases in words.items():
        for phrase in phrases:
            wanted = _plain(phrase)
            if len(wanted) > best[0] and re.search(rf"(?<!\w){re.escape(wanted)}(?!\w)", plain):
                best = (len(wanted), kind)
    return best[1]


def gather(events: Iterable[Event], *, words: Words = WORDS) -> list[CalendarEntry]:
    """Recognise events and put those of one name together: neighbouring days become one run, repetitions one entry.

    In the order of their first days. Raises BadInput for more than 5,000 of them.
    """
    by_name: dict[str, list[Event]] = {}
    for count, event in enumerate(events, start=1):
        if count > MOST_ROWS:
            raise BadInput("school.too_many_events", most=MOST_ROWS)
        by_name.setdefault(event.name, []).append(event)
    entries = []
    for name, same in by_name.items():
        kind = recognise(name, words=words)
        until = next((event.until for event in same if event.until), None) or (_time_in(name) or HALF_DAY_ENDS)
        runs = _runs(same)
        base = CalendarEntry(kind, name, tuple(runs), same[0].where, until if kind == "half day" else None)
        # Breaks, closed days and the like are few and each may need a change; what is ignored stays in one line.
        entries += [base] if kind == "ignored" else [_one_run(base, run) for run in runs]
    return sorted(entries, key=lambda entry: (entry.starts, entry.name))


def assemble(entries: Sequence[CalendarEntry]) -> list[SchoolYear]:
    """School years from entries: the first days and terms say when each begins, everything else is put into its year.

    Without terms, the time from each first day to its last day is one. A year lasts until the next begins, or a year less
    a day. Raises BadInput when nothing says when school begins or ends, and what `check_year` raises.
    """
    kept = [entry for entry in entries if entry.kind != "ignored"]
    begins = sorted(e.starts for e in kept if e.kind in ("first day", "term"))
    if not begins:
        raise BadInput("school.no_begin_of_school")
    starts = [begins[0]]
    for day in begins:
        if day - starts[-1] >= NEW_YEAR_AFTER:
            starts.append(day)
    ends = [after - DAY for after in starts[1:]] + [_year_later(starts[-1]) - DAY]
    years = []
    for first, last in zip(starts, ends, strict=True):
        mine = [entry for entry in kept if first <= entry.starts <= last]
        year = SchoolYear(
            year_name(first, last),
            first,
            last,
            (*_terms(mine), *_spans(mine, {SUMMER_PROGRAMME: SUMMER_PROGRAMME})),
            _spans(mine, {"break": "break", "closed day": "holiday", "training day": "training day"}),
            tuple(
                HalfDay(e.name, day, e.until or HALF_DAY_ENDS) for e in mine if e.kind == "half day" for day in _days(e)
            ),
            tuple(Span(e.name, day, day) for e in mine if e.kind == "feast" for day in _days(e)),
        )
        check_year(year)
        years.append(year)
    return years


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


def _one_run(base: CalendarEntry, run: tuple[date, date]) -> CalendarEntry:
    long = base.kind == "closed day" and (run[1] - run[0]).days + 1 >= BREAK_FROM_DAYS
    return replace(base, kind="break" if long else base.kind, spans=(run,))


def _terms(mine: Sequence[CalendarEntry]) -> tuple[Span, ...]:
    given = _spans(mine, {"term": "term"})
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


def _spans(mine: Sequence[CalendarEntry], kinds: Mapping[str, str]) -> tuple[Span, ...]:
    return tuple(Span(e.name, *run, kinds[e.kind]) for e in mine if e.kind in kinds for run in e.spans)


def _days(entry: CalendarEntry) -> list[date]:
    return [start + DAY * n for start, end in entry.spans for n in range((end - start).days + 1)]


def _runs(same: Sequence[Event]) -> list[tuple[date, date]]:
    """Spans in order, those that touch or are a weekend apart as one."""
    ordered = sorted((event.starts, event.ends) for event in same)
    runs = [ordered[0]]
    for (_, _), (starts, ends) in pairwise(ordered):
        first, last = runs[-1]
        if (starts - last).days <= MERGE_GAP and (starts - last).days >= 0 and _only_weekend(last, starts):
            runs[-1] = (first, max(last, ends))
        elif (starts, ends) != runs[-1]:
            runs.append((starts, ends))
    return runs


def _only_weekend(last: date, starts: date) -> bool:
    return all((last + DAY * n).weekday() >= 5 for n in range(1, (starts - last).days))


def _year_later(day: date) -> date:
    return day.replace(year=day.year + 1) if (day.month, day.day) != (2, 29) else date(day.year + 1, 3, 1)


def _plain(text: str) -> str:
    return " ".join(text.casefold().replace("–", "-").replace("—", "-").replace("’", "'").split())


_TIME = re.compile(
    r"(?<!\d)(\d{1,2})[:.](\d{2})\s*(am|pm|a\.m\.|p\.m\.)?|(?<!\d)(\d{1,2})\s*(am|pm|a\.m\.|p\.m\.)", re.I
)


def _time_in(title: str) -> time | None:
    """A time of day written in a title, `dismissal at 12:30`."""
    found = _TIME.search(title)
    if not found:
        return None
    hour, minute = int(found[1] or found[4]), int(found[2] or 0)
    half = (found[3] or found[5] or "").lower()
    if half.startswith("p") and hour < 12:
        hour += 12
    return time(hour, minute) if hour < 24 and minute < 60 else None
