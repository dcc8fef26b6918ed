"""What one event of a school calendar means: a title and its days in, marks out.

What several marks make together is `calendar_reading.py`.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, time, timedelta
from typing import Literal

from almanaque.core.school import event_words as words
from almanaque.core.school.calendar_event import Event
from almanaque.core.school.event_words import Audience, TermName
from almanaque.core.words.plain_words import plain

Role = Literal[
    "first day",
    "last day",
    "term",
    "term begins",
    "term ends",
    "back",
    "break",
    "break begins",
    "break begins after",
    "break ends",
    "closed day",
    "training day",
    "half day",
    "feast",
    "summer programme",
    "told",
    "ignored",
]
Holidays = Mapping[date, str]
_PARTS = re.compile(r"[,;/&]| and ")  # of a title that says two things

TERM_FROM_DAYS = 21  # a span of a term's name from so many days on is the term itself: our own rule
BREAK_FROM_DAYS = 3  # closed for so many days in a row is a break, whatever it is called: our own rule
CLOSES_FROM = timedelta(hours=5)  # an event of fewer hours closes no school unless it says so: our own rule
LEAVES_FROM, LEAVES_UNTIL = time(10, 0), time(14, 45)  # an early end of school lies between: our own rule
LATEST_HALF = time(16, 0)  # a half day that would end later is one of which something else was said: our own rule
SURE = 0.9  # from this likelihood on nobody is asked: our own rule


@dataclass(frozen=True)
class EventMark:
    """An event with its role. `closed` is how likely there is no school then; `why` is the code of what is told of it."""

    role: Role
    event: Event
    term: TermName | None = None
    audience: Audience = "all"
    until: time | None = None
    closed: float = 1.0
    why: str = ""
    summer: bool = False


def meaning(
    event: Event, *, holidays: Holidays, own: Mapping[str, Sequence[str]], regional: Holidays | None = None
) -> tuple[EventMark, ...]:
    """The marks of an event; `holidays` are the public ones by day, `regional` those of parts of the country, of which nobody said which
    is meant, `own` a school's own words by kind of event.

    One without any meaning for school is one mark of the role `ignored`.
    """
    title = plain(event.name)
    if event.cancelled or words.CANCELLED.search(title):
        return (EventMark("told", event, why="cancelled"),)
    found = _by_own_words(event, title, own) or _by_title(event, title, holidays)
    here = (regional or {}).get(event.starts, "")
    if found[0].role == "ignored" and here and event.days == 1 and _share_a_word(title, plain(here)):
        found = (EventMark("closed day", event, closed=0.6),)
    return _with_notes(found, event, title) if event.notes else found


def _with_notes(found: tuple[EventMark, ...], event: Event, title: str) -> tuple[EventMark, ...]:
    """What the title leaves open, the words beside it may say: closed, or an early end."""
    noted = plain(event.notes)
    first = found[0]
    closed = words.FULLY_CLOSED.search(noted) or (words.CLOSED.search(noted) and not words.NOUN.search(title))
    if closed and event.lasts is None and (first.role in ("ignored", "told") or first.closed < SURE):
        return (_closed(event, f"{title} - no school"),)
    ends_early = words.HALF.search(noted) and words.time_in(event.notes)
    if (
        ends_early
        and not any(mark.role == "half day" for mark in found)
        and first.role in ("first day", "last day", "term ends", "told", "ignored")
    ):
        return (*found, _half(event))
    return found


def _by_own_words(event: Event, title: str, own: Mapping[str, Sequence[str]]) -> tuple[EventMark, ...]:
    """The longest of a school's own words decides, whatever else the title says."""
    best = max(
        (
            (len(phrase), kind)
            for kind, phrases in own.items()
            for phrase in map(plain, phrases)
            if _stands(phrase, title)
        ),
        default=(0, ""),
    )[1]
    if not best:
        return ()
    role: Role = best  # type: ignore[assignment]  # kinds of events are roles
    return (_of_role(role, event, title),)


def _stands(phrase: str, title: str) -> bool:
    at = title.find(phrase) if phrase else -1
    return at >= 0 and not title[at - 1 : at].isalnum() and not title[at + len(phrase) :][:1].isalnum()


def _of_role(role: Role, event: Event, title: str) -> EventMark:
    if role == "half day":
        return _half(event)
    if role == "closed day":
        return _closed(event, title)
    return EventMark(role, event, words.term_named(title), words.audience(title))


def _by_title(event: Event, title: str, holidays: Holidays) -> tuple[EventMark, ...]:
    """From what says most to what says least."""
    closed, half = words.CLOSED.search(title), words.HALF.search(title)
    if words.FEAST.search(title) and not closed:
        return (EventMark("feast", event),)
    if words.OPEN.search(title) and not closed:
        return (EventMark("told", event, why="open"),)
    if words.SUMMER.search(title) and event.days >= BREAK_FROM_DAYS and not closed:
        return (EventMark("summer programme", event),)
    if half and not (closed and _closes(event, title)):
        return (_half(event), *_ends_beside(event, title))
    if closed and words.AT_CLOSE.search(title) and words.BREAK.search(title):
        return (EventMark("break begins after", event),)
    if closed:
        return (_closed(event, title),)
    if words.LATE.search(title):
        return (EventMark("told", event, why="late"),)
    if words.MAKE_UP.search(title) and not words.LAST.search(title):
        return (EventMark("told", event, why="make_up"),)
    return _without_closing(event, title, holidays)


def _closes(event: Event, title: str) -> bool:
    """Closed and half in one title: closed wins, unless it is the school that closes early."""
    return bool(words.FULLY_CLOSED.search(title))


def _without_closing(event: Event, title: str, holidays: Holidays) -> tuple[EventMark, ...]:
    if words.NEVER_FREE.search(title) and not holidays.get(event.starts):
        return (EventMark("ignored", event),)
    edge = _edge(event, title)
    if edge is not None:
        return (edge, *_early_end(edge, event))
    if words.MARKER.search(title):
        return (EventMark("told", event, why="marker"),)
    if words.STAFF.search(title) and not words.APPRECIATION.search(title):
        short = event.lasts is not None and event.lasts < CLOSES_FROM
        return (EventMark("ignored" if short else "training day", event, audience=words.audience(title)),)
    if words.NOUN.search(title):
        return (EventMark("ignored", event),)
    term = words.term_named(title)
    if term is not None and not words.BREAK.search(title):
        found = _term(event, title, term)
        return (found, *_early_end(found, event))
    if words.BREAK.search(title):
        found = _break(event, title)
        return (found, *_early_end(found, event))
    return (_by_holiday(event, title, holidays),)


def _early_end(edge: EventMark, event: Event) -> tuple[EventMark, ...]:
    """A last day with a time in its name ends then."""
    said = words.time_in(event.name)
    if edge.role in ("last day", "term ends", "break begins after") and said and LEAVES_FROM <= said <= LEAVES_UNTIL:
        return (EventMark("half day", event, audience=edge.audience, until=said),)
    return ()


def _edge(event: Event, title: str) -> EventMark | None:
    """First and last days of school, and the days around breaks. None for anything else."""
    term, breaks = words.term_named(title), words.BREAK.search(title)
    who = words.audience(title)
    if words.BEFORE.search(title):
        return EventMark("break begins after", event, summer=bool(words.SUMMER_BREAK.search(title)))
    if words.STAFF.search(title) and not words.FOR_PUPILS.search(title):
        return None
    if words.AFTER.search(title) or words.BACK.search(title):
        return EventMark("back", event, term, who)
    if event.days > BREAK_FROM_DAYS:
        return None
    for role, pattern, of_term in (("first day", words.FIRST, "term begins"), ("last day", words.LAST, "term ends")):
        said = pattern.search(title)
        clause = _clause(title, said.start()) if said else ""
        if said and not words.NOT_SCHOOL.search(clause):
            if breaks:
                return None
            if words.MAKE_UP.search(title):
                return EventMark("told", event, why="make_up")
            of = of_term if term is not None else role
            return EventMark(of, event, term, words.audience(clause))  # type: ignore[arg-type]  # one of the roles above
    return None


def _clause(title: str, at: int) -> str:
    """The part of a title in which something stands: `classes begin; kindergarten orientation` has two."""
    return title[max(title.rfind(";", 0, at), 0) :].lstrip("; ").partition(";")[0]


def _term(event: Event, title: str, term: TermName) -> EventMark:
    if term.unit == "marking period":
        return EventMark("told", event, term, why="marker")
    if event.days >= TERM_FROM_DAYS:
        return EventMark("term", event, term)
    begins, ends = words.BEGINS.search(title), words.ENDS.search(title)
    if begins and ends:  # what is said last counts, with the term that it is said of
        ends = None if begins.start() > ends.start() else ends
        begins = None if ends else begins
        term = words.term_named(_PARTS.split(title)[-1]) or term
    if begins:
        return EventMark("term begins", event, term, words.audience(title))
    if ends:
        return EventMark("term ends", event, term, words.audience(title))
    return EventMark("told", event, term, why="marker")


def _break(event: Event, title: str) -> EventMark:
    summer = bool(words.SUMMER_BREAK.search(title))
    if event.days <= 2:
        if words.AT_CLOSE.search(title):
            return EventMark("break begins after", event, summer=summer)
        ends, begins = words.ENDS.search(title), words.BEGINS.search(title)
        if ends and not (begins and begins.start() > ends.start()):
            return EventMark("break ends", event, summer=summer)
        if begins or (summer and event.days == 1):
            return EventMark("break begins", event, summer=summer)
    return EventMark("break", event, summer=summer, audience=words.audience(title))


def _by_holiday(event: Event, title: str, holidays: Holidays) -> EventMark:
    """A day that is free by law or custom, by its name alone; or a week without a word about school."""
    public = next((holidays[day] for day in event.each_day() if day in holidays), "")
    if event.lasts is not None and event.lasts < CLOSES_FROM:
        return EventMark("ignored", event)
    if words.HOLIDAY.search(title):
        return _closed(event, title)
    named = words.HOLIDAY_NAMES.search(title)
    often_open = words.OFTEN_OPEN.search(title)
    if event.days >= BREAK_FROM_DAYS:
        if event.days > 25 or words.MONTH.search(title):
            return EventMark("ignored", event)
        if named or public:
            return EventMark("break", event, closed=SURE if event.starts.weekday() < 5 else 0.8)
        if words.SEASON_WEEK.search(title):
            return EventMark("break", event, closed=0.6)
        return EventMark("break", event, closed=0.4) if _whole_week(event) else EventMark("ignored", event)
    same = bool(public) and _share_a_word(title, plain(public))
    if often_open:
        return EventMark("closed day", event, closed=0.7)
    if (same or named) and public:
        return EventMark("closed day", event, closed=0.97)
    if named:
        return EventMark("closed day", event, closed=0.6 if holidays else SURE)
    if public and len(title.split()) <= 5:
        return EventMark("closed day", event, closed=0.6)
    return EventMark("ignored", event)


def _whole_week(event: Event) -> bool:
    return event.lasts is None and event.starts.weekday() in (0, 5, 6) and event.ends.weekday() in (4, 5, 6)


def _share_a_word(title: str, name: str) -> bool:
    def long(text: str) -> set[str]:
        return {word[:6] for word in text.replace("'", " ").split() if len(word) > 3}  # patriotes, Patriots'

    return bool(long(title) & long(name))


def _closed(event: Event, title: str) -> EventMark:
    who = words.audience(title)
    if who == "some":
        return EventMark("closed day", event, audience=who, closed=0.2)
    short = event.lasts is not None and event.lasts < CLOSES_FROM and not words.CLOSED.search(title)
    if short:
        return EventMark("ignored", event)
    summer = bool(words.SUMMER_BREAK.search(title))
    if words.BREAK.search(title) or (event.days >= BREAK_FROM_DAYS and not words.STAFF.search(title)):
        marked = _break(event, title)
        return replace(marked, role="break") if marked.role == "break begins" and not _begins_a_break(title) else marked
    if words.STAFF.search(title):
        return EventMark("training day", event, audience=who)
    return EventMark("closed day", event, audience=who, summer=summer)


def _begins_a_break(title: str) -> bool:
    return bool(words.BEGINS.search(title))


def _half(event: Event) -> EventMark:
    said = words.leaving_time(event.name)
    said = said if said is not None and said <= LATEST_HALF else None
    began = event.begins if event.begins is not None and event.begins >= LEAVES_FROM else None
    noted = words.time_in(event.notes) if event.notes and not said and not began else None
    return EventMark("half day", event, audience=words.audience(plain(event.name)), until=said or began or noted)


def _ends_beside(event: Event, title: str) -> tuple[EventMark, ...]:
    """A half day that is also the first or last day of school or of a term, or the last before a break."""
    edge = _edge(event, title)
    if edge is not None and edge.role != "back":
        return (edge,)
    term = words.term_named(title)
    if term is not None and words.ENDS.search(title):
        marked = _term(event, title, term)
        return (marked,) if marked.role == "term ends" else ()
    return ()
