"""What marks of a school calendar come to, one step each: names, runs of days, entries that touch.

`calendar_composing.py` puts them together.
"""

from collections.abc import Sequence
from dataclasses import replace
from datetime import date, timedelta
from itertools import zip_longest

from almanaque.core.school import event_words
from almanaque.core.school.calendar_import import CalendarEntry, EventKind, only_weekend
from almanaque.core.school.event_meaning import EventMark
from almanaque.core.school.school_year import DAY
from almanaque.core.words import Phrase
from almanaque.core.words.plain_words import plain

STAGGERED = timedelta(days=45)  # first days of several grades lie within: our own rule

IN_RUNS = ("break", "closed day", "training day")  # kinds of which days that touch are one run


def left_out(mark: EventMark) -> Phrase:
    """What is said of an event that is left out."""
    said = {"name": mark.event.name, "day": mark.event.starts}
    match mark.why:
        case "cancelled":
            return Phrase("school.told_cancelled", said)
        case "open":
            return Phrase("school.told_open", said)
        case "late":
            return Phrase("school.told_late", said)
        case _:
            return Phrase("school.told_make_up", said)


def entry_of(kind: EventKind, mark: EventMark, span: tuple[date, date]) -> CalendarEntry:
    return CalendarEntry(kind, mark.event.name, (span,), mark.event.where)


def before_the_year(term: EventMark, first: EventMark) -> bool:
    """A term that begins well before what is called the first day: that one is of a later term then."""
    return term.role == "term" and first.event.starts - term.event.starts > STAGGERED


def days_meant(mark: EventMark) -> list[date]:
    """The days of a half day: of one that lasts over weeks and names a weekday, those weekdays."""
    days = list(mark.event.each_day())
    if len(days) <= 2:
        return days
    named = event_words.weekdays_in(plain(mark.event.name)) or set(range(5))
    return [day for day in days if day.weekday() in named]


def runs_between(opens: Sequence[date], closes: Sequence[date]) -> list[tuple[date, date]]:
    """From each opening day to the last closing day before the next one, or to the day before that."""
    found = []
    for day, after in zip_longest(opens, opens[1:]):
        ends = [end for end in closes if end > day and (after is None or end < after)]
        if ends:
            found.append((day, ends[0] if after is None else ends[-1]))
        elif after is not None:
            found.append((day, after - DAY))
    return found


def term_name(
    unit: str, run: tuple[date, date], begins: Sequence[EventMark], ends: Sequence[EventMark], number: int
) -> str:
    named = next((m.term for m in begins if m.event.starts == run[0] and m.term and m.term.number), None) or next(
        (m.term for m in ends if m.event.ends == run[1] and m.term and m.term.number), None
    )
    key = named.number if named else str(number)
    return f"{unit.capitalize()} {key}" if key.isdigit() else f"{key.capitalize()} {unit}"


def break_name(name: str) -> str:
    """`Winter break begins (no school)` is called `Winter break`."""
    found = event_words.BREAK.search(plain(name))
    return " ".join(name.split()) if not found else (found[0][:1].upper() + found[0][1:])


def stretched(terms: list[CalendarEntry], first: date, last: date) -> list[CalendarEntry]:
    """The first term from the first day and the last to the last day, where these lie a little beyond."""
    starts, ends = terms[0].starts, terms[-1].ends
    if timedelta(0) < starts - first <= STAGGERED:
        terms[0] = replace(terms[0], spans=((first, terms[0].ends),))
    if timedelta(0) < last - ends <= STAGGERED:
        terms[-1] = replace(terms[-1], spans=((terms[-1].starts, last),))
    return terms


def without_overlaps(marks: Sequence[EventMark]) -> list[EventMark]:
    found: list[EventMark] = []
    for mark in sorted(marks, key=lambda m: (m.event.starts, -m.event.days)):
        if not found or mark.event.starts > found[-1].event.ends:
            found.append(mark)
    return found


def merged(entries: Sequence[CalendarEntry]) -> list[CalendarEntry]:
    """Days of one name and kind that touch, or lie a weekend apart, as one run."""
    found: list[CalendarEntry] = []
    for entry in sorted(entries, key=lambda e: ("" if e.kind in IN_RUNS else e.kind, e.name, e.starts, e.ends)):
        before = found[-1] if found else None
        if (
            before is not None
            and entry.kind in IN_RUNS
            and before.kind in IN_RUNS
            and before.name == entry.name
            and entry.starts <= before.ends + DAY * 3
            and only_weekend(before.ends, entry.starts)
        ):
            last = max(before.ends, entry.ends)
            long = (last - before.starts).days >= 2 and before.kind == "closed day"
            found[-1] = replace(before, kind="break" if long else before.kind, spans=((before.starts, last),))
        else:
            found.append(entry)
    return found
