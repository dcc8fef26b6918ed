"""A whole calendar read: the events of a file in; school years, what must be asked about them and what was left out come out.

Marks that belong together become one entry: `Autumn term starts` and `Autumn term ends` a term, `Winter break begins` and
`Classes resume` a break. What the file leaves open is supposed, and asked about before anything is kept.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date

from almanaque.core.errors import BadInput
from almanaque.core.school import event_words
from almanaque.core.school.calendar_composing import SHORTEST_TERM, CalendarComposer
from almanaque.core.school.calendar_event import Event
from almanaque.core.school.calendar_import import (
    MOST_ROWS,
    CalendarEntry,
    EventKind,
    assemble,
)
from almanaque.core.school.event_meaning import EventMark, Holidays, meaning
from almanaque.core.school.event_words import TermName
from almanaque.core.school.school_year import DAY
from almanaque.core.school.school_year_windows import returns_begin_years
from almanaque.core.words import Phrase
from almanaque.core.words.plain_words import plain

FEWEST_DAYS = 100  # school days of a year: fewer are asked about; our own rule


@dataclass(frozen=True)
class CalendarAnswer:
    """One answer to a question: what its entries would be then, and how many school days their year would have."""

    kind: EventKind
    says: Phrase
    school_days: int


@dataclass(frozen=True)
class CalendarQuestion:
    """What a person is asked before the calendar is kept. `entries` are the places in the reading that an answer sets."""

    asks: Phrase
    about: str = ""
    entries: tuple[int, ...] = ()
    answers: tuple[CalendarAnswer, ...] = ()
    of_years: bool = False


@dataclass(frozen=True)
class CalendarReading:
    """What a file holds: entries with their meaning, what is asked, and what is told of it."""

    entries: tuple[CalendarEntry, ...]
    questions: tuple[CalendarQuestion, ...]
    told: tuple[Phrase, ...]


def read(
    events: Sequence[Event],
    *,
    holidays: Holidays | None = None,
    usual_days: tuple[int, int] | None = None,
    own: Mapping[str, Sequence[str]] | None = None,
    given: Sequence[CalendarEntry] = (),
    national: Holidays | None = None,
    regional: Holidays | None = None,
) -> CalendarReading:
    """Read the events of a file. `holidays` are the public ones of the school's country by day, `regional` those of its parts while
    nobody said in which it lies, `usual_days` the school days of a usual year there, `own` a school's own words by kind of event.

    Raises BadInput for more than 5,000 events.
    """
    if given and not events:
        return CalendarReading(tuple(given), tuple(asked_of_years(given, national or {}, usual_days)), ())
    found: list[EventMark] = [_as_mark(entry) for entry in given]
    for count, event in enumerate(_until_the_return(_once(events)), start=1):
        if count > MOST_ROWS:
            raise BadInput("school.too_many_events", most=MOST_ROWS)
        found += meaning(event, holidays=holidays or {}, own=own or {}, regional=regional)
    composed = CalendarComposer(returns_begin_years(found))
    entries = composed.entries()
    asked = [
        *(CalendarQuestion(left.asks, left.about) for left in composed.supposed),
        *_asked_of_events(entries, composed.unsure),
    ]
    return CalendarReading(
        tuple(entries), (*asked, *asked_of_years(entries, national or {}, usual_days)), tuple(composed.told)
    )


def _as_mark(entry: CalendarEntry) -> EventMark:
    event = Event(entry.name, entry.starts, entry.ends, entry.where)
    named = event_words.term_named(plain(entry.name)) if entry.kind == "term" else None
    term = TermName(named.unit if named else "term", named.number if named else "")
    return EventMark(entry.kind, event, term if entry.kind == "term" else None, until=entry.until)


def _once(events: Iterable[Event]) -> list[Event]:
    """The same event given twice is one."""
    return list(
        {(e.name, e.starts, e.ends, e.begins): e for e in sorted(events, key=lambda e: (e.starts, e.name))}.values()
    )


def _until_the_return(events: list[Event]) -> list[Event]:
    """`Vacances du samedi 17 octobre au lundi 2 novembre` names the Monday on which school is in again, where a file does so throughout."""
    mondays = [e for e in events if _french_break(e) and e.ends.weekday() == 0 and e.days > 2]
    if len(mondays) < 2 or any(_french_break(e) and e.ends.weekday() != 0 and e.days > 2 for e in events):
        return events
    return [replace(e, ends=e.ends - DAY) if e in mondays else e for e in events]


def _french_break(event: Event) -> bool:
    return plain(event.name).startswith(("vacances", "pont "))


def asked_of_years(
    entries: Sequence[CalendarEntry], holidays: Holidays, usual_days: tuple[int, int] | None
) -> list[CalendarQuestion]:
    """What is asked about years as they stand: hardly any school days, far from the usual, a term of days, school on public holidays."""
    try:
        years = assemble(entries)
    except BadInput as problem:
        return [CalendarQuestion(Phrase("school.contradicts_itself", {"problem": problem.message}), of_years=True)]
    found = []
    for year in years:
        count = len(year.school_days)
        if count < FEWEST_DAYS:
            found.append(CalendarQuestion(Phrase("school.hardly_a_year", {"year": year.name, "n": count})))
        elif usual_days and not usual_days[0] - 15 <= count <= usual_days[1] + 15:
            low, high = usual_days
            found.append(
                CalendarQuestion(
                    Phrase("school.unusual_year", {"year": year.name, "n": count, "low": low, "high": high})
                )
            )
        found += [
            CalendarQuestion(Phrase("school.short_term", {"name": term.name, "n": term.days}), term.name)
            for term in year.terms
            if term.days < SHORTEST_TERM and not term.kind.startswith("summer")
        ]
        found += [
            CalendarQuestion(Phrase("school.starts_on_weekend", {"year": year.name, "day": term.starts}), term.name)
            for term in year.terms[:1]
            if term.starts.weekday() >= 5
        ]
        in_school = set(year.school_days)
        public = [(day, name) for day, name in holidays.items() if day in in_school and not _often_open(name)]
        if public:
            names = tuple(name for _, name in public)
            found.append(
                CalendarQuestion(
                    Phrase("school.school_on_holidays", {"year": year.name, "names": names, "n": len(public)})
                )
            )
    return [replace(question, of_years=True) for question in found]


def _often_open(name: str) -> bool:
    return bool(event_words.OFTEN_OPEN.search(plain(name)))


def _asked_of_events(
    entries: Sequence[CalendarEntry], unsure: Mapping[tuple[str, date], float]
) -> list[CalendarQuestion]:
    """Events that close school perhaps, each with what the year would have either way."""
    found = []
    for place, entry in enumerate(entries):
        if (entry.name, entry.starts) not in unsure:
            continue
        free: EventKind = "break" if (entry.ends - entry.starts).days >= 2 else "closed day"
        answers = (
            CalendarAnswer(free, Phrase("school.no_school"), _days_of_year(entries, place, free)),
            CalendarAnswer("ignored", Phrase("school.is_school"), _days_of_year(entries, place, "ignored")),
        )
        if answers[0].school_days == answers[1].school_days:
            continue
        asks = Phrase("school.closed_or_not", {"name": entry.name})
        found.append(CalendarQuestion(asks, entry.name, (place,), answers))
    return found


def _days_of_year(entries: Sequence[CalendarEntry], place: int, kind: EventKind) -> int:
    changed = [replace(entry, kind=kind) if at == place else entry for at, entry in enumerate(entries)]
    try:
        years = assemble(changed)
    except BadInput:
        return 0
    day = entries[place].starts
    return next((len(year.school_days) for year in years if year.starts <= day <= year.ends), 0)
