"""From the marks of single events to entries: what begins here and ends there made one, and what a file leaves open supposed.

`calendar_reading.py` asks about what was supposed; nothing here is final.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from itertools import pairwise

from almanaque.core.school import event_words
from almanaque.core.school.calendar_entries import (
    STAGGERED,
    before_the_year,
    break_name,
    days_meant,
    entry_of,
    left_out,
    merged,
    runs_between,
    stretched,
    term_name,
    without_overlaps,
)
from almanaque.core.school.calendar_import import CalendarEntry, EventKind
from almanaque.core.school.event_meaning import SURE, EventMark
from almanaque.core.school.school_year import DAY
from almanaque.core.school.school_year_windows import (
    ANOTHER_BY_NAME,
    USUAL_YEAR,
    YearWindow,
    after_summer,
    hardly_told,
    weekday_back,
    weekday_from,
    year_windows,
)
from almanaque.core.words import Phrase
from almanaque.core.words.days import short_day
from almanaque.core.words.plain_words import plain

SUPPOSED_BREAK = timedelta(days=60)  # a break that begins ends within: our own rule
WEEK_DAYS = 5  # beside terms that are given whole, a span of so many is a short one: our own rule
SHORTEST_TERM = 21  # days: a shorter one is asked about; our own rule


@dataclass(frozen=True)
class LeftOpen:
    """What a file leaves open and was supposed; `about` is the name it is known by."""

    asks: Phrase
    about: str


class CalendarComposer:
    """Entries from marks, a school year at a time; collects questions and what is told beside them."""

    def __init__(self, marks: Sequence[EventMark]) -> None:
        self.marks = sorted(marks, key=lambda mark: (mark.event.starts, mark.event.ends))
        self.supposed: list[LeftOpen] = []
        self.unsure: dict[tuple[str, date], float] = {}
        self.told: list[Phrase] = []

    def entries(self) -> list[CalendarEntry]:
        found: list[CalendarEntry] = []
        windows = year_windows(self.marks)
        if len(windows) > 1 and hardly_told(self.marks, windows[-1]):
            self._leave_out(windows.pop())
        for window in windows:
            found += self._year(window)
        found += self._half_days()
        found += self._single()
        self._tell()
        return sorted(merged(found), key=lambda entry: (entry.starts, entry.ends, entry.name))

    def _leave_out(self, window: YearWindow) -> None:
        """A last year of which next to nothing is told is told about and left out, with what belongs to it."""
        self.told.append(Phrase("school.year_left_out", {"day": window.begins}))
        self.marks = [
            mark
            for mark in self.marks
            if mark.event.starts not in window or mark.event.starts < window.begins - DAY * 7
        ]

    # --- one year -------------------------------------------------------------------------------------------------

    def _year(self, window: YearWindow) -> list[CalendarEntry]:
        mine = [mark for mark in self.marks if mark.event.starts in window]
        first = self._first_day(window, mine)
        last = self._last_day(window, mine, first)
        terms = self._terms(mine, first, last)
        found = [*terms, *self._breaks(mine, window, last.ends)]
        return [first, *found, last]

    def _first_day(self, window: YearWindow, mine: Sequence[EventMark]) -> CalendarEntry:
        given = [mark for mark in mine if mark.role == "first day"]
        given = [mark for mark in given if mark.event.starts <= given[0].event.starts + STAGGERED]
        general = [m for m in given if m.audience == "all"] or [m for m in given if m.audience == "most"] or given
        terms = [m for m in mine if m.role in ("term", "term begins") and m.term and m.term.unit != "marking period"]
        terms = [m for m in terms if m.event.starts <= terms[0].event.starts + STAGGERED]
        if general and not (terms and before_the_year(terms[0], general[0])):
            chosen = min(general, key=lambda mark: mark.event.starts)
            for other in given:
                if other.event.starts != chosen.event.starts:
                    self.told.append(
                        Phrase("school.other_first_day", {"name": other.event.name, "day": other.event.starts})
                    )
            return entry_of("first day", chosen, (chosen.event.starts, chosen.event.starts))
        if terms:
            return entry_of("first day", terms[0], (terms[0].event.starts, terms[0].event.starts))
        return self._supposed_first(window, mine)

    def _supposed_first(self, window: YearWindow, mine: Sequence[EventMark]) -> CalendarEntry:
        summer = [
            m
            for m in self.marks
            if after_summer(m) and abs(weekday_from(m.event.ends + DAY) - window.first) <= STAGGERED
        ]
        if summer:
            day = weekday_from(summer[0].event.ends + DAY)
            return entry_of("first day", summer[0], (day, day))
        back = [m for m in mine if m.role == "back" and m.event.starts <= window.first + STAGGERED]
        if back and back[0].event.starts.month in (1, 2, 7, 8, 9, 10):
            return entry_of("first day", back[0], (back[0].event.starts, back[0].event.starts))
        staff = [m for m in mine if m.role == "training day" and m.event.starts <= window.first + STAGGERED]
        day = weekday_from(staff[-1].event.ends + DAY if staff else window.first)
        entry = CalendarEntry("first day", "First day of school", ((day, day),), "")
        self.supposed.append(LeftOpen(Phrase("school.first_day_supposed", {"day": day}), entry.name))
        return entry

    def _last_day(self, window: YearWindow, mine: Sequence[EventMark], first: CalendarEntry) -> CalendarEntry:
        given = [m for m in mine if m.role == "last day" and m.event.ends > first.starts + DAY * SHORTEST_TERM]
        general = [m for m in given if m.audience == "all"] or [m for m in given if m.audience == "most"] or given
        spans = [m for m in mine if m.role in ("term", "term ends") and m.term and m.term.unit != "marking period"]
        spans = [m for m in spans if m.event.ends > first.starts]
        if general and not (
            spans and max(m.event.ends for m in spans) > max(m.event.ends for m in general) + STAGGERED
        ):
            chosen = max(general, key=lambda mark: mark.event.ends)
            again = [m.event.starts for m in mine if m.role == "first day" and m.audience == "all"]
            days = {m.event.ends for m in general if not any(m.event.ends < day <= chosen.event.ends for day in again)}
            if len(days) > 1 and chosen.audience == "all":
                self.supposed.append(
                    LeftOpen(
                        Phrase("school.several_last_days", {"days": tuple(short_day(day) for day in sorted(days))}),
                        chosen.event.name,
                    )
                )
            for other in given:
                if other not in general:
                    self.told.append(
                        Phrase("school.other_last_day", {"name": other.event.name, "day": other.event.ends})
                    )
            return entry_of("last day", chosen, (chosen.event.ends, chosen.event.ends))
        if spans and (
            len(spans) > 1 or spans[0].role == "term" or spans[-1].event.ends - first.starts > ANOTHER_BY_NAME
        ):
            chosen = max(spans, key=lambda mark: mark.event.ends)
            if (
                chosen.term
                and chosen.role == "term ends"
                and chosen.term.number in ("1", "autumn")
                and chosen.event.ends.month in (1, 2, 12)
            ):
                return self._supposed_last(window, mine, first)
            return entry_of("last day", chosen, (chosen.event.ends, chosen.event.ends))
        return self._supposed_last(window, mine, first)

    def _supposed_last(self, window: YearWindow, mine: Sequence[EventMark], first: CalendarEntry) -> CalendarEntry:
        summer = [
            m
            for m in self.marks
            if m.summer
            and m.role in ("break", "break begins", "break begins after")
            and first.starts + ANOTHER_BY_NAME < m.event.starts
            and m.event.starts <= window.last + DAY
        ]
        if summer:
            mark = summer[0]
            day = mark.event.starts if mark.role == "break begins after" else weekday_back(mark.event.starts - DAY)
            return entry_of("last day", mark, (day, day))
        day = min(weekday_back(first.starts + USUAL_YEAR), window.last)
        entry = CalendarEntry("last day", "Last day of school", ((day, day),), "")
        self.supposed.append(LeftOpen(Phrase("school.last_day_supposed", {"day": day}), entry.name))
        return entry

    # --- terms ----------------------------------------------------------------------------------------------------

    def _terms(self, mine: Sequence[EventMark], first: CalendarEntry, last: CalendarEntry) -> list[CalendarEntry]:
        spans = self._one_unit([m for m in mine if m.role == "term"])
        spans = without_overlaps([*spans, *self._short_terms(spans, mine)])
        if spans:
            terms = [entry_of("term", m, (m.event.starts, m.event.ends)) for m in spans]
            return stretched(terms, first.starts, last.ends)
        return self._terms_between_marks(mine, first, last)

    def _short_terms(self, spans: Sequence[EventMark], mine: Sequence[EventMark]) -> list[EventMark]:
        """Spans of a term's name beside terms that are given whole; alone they would be no terms."""
        units = {m.term.unit for m in spans if m.term}
        short = [m for m in mine if m.role == "told" and m.term and m.term.unit in units and m.event.days >= WEEK_DAYS]
        self.marks = [m for m in self.marks if m not in short]
        return short

    def _one_unit(self, spans: Sequence[EventMark]) -> list[EventMark]:
        """Where a file gives semesters and quarters, the one that fills more of the year, and of two that fill it the longer."""
        units: dict[str, list[EventMark]] = {}
        for mark in spans:
            if mark.term is not None:
                units.setdefault(mark.term.unit, []).append(mark)
        if not units:
            return []
        best = max(units.values(), key=lambda same: (sum(m.event.days for m in same) // 30, -len(same)))
        return without_overlaps(best)

    def _terms_between_marks(
        self, mine: Sequence[EventMark], first: CalendarEntry, last: CalendarEntry
    ) -> list[CalendarEntry]:
        """Terms between days on which one begins and days on which one ends. None where these only divide the year."""
        begins = [m for m in mine if m.role == "term begins" or (m.role == "back" and m.term is not None)]
        ends = [m for m in mine if m.role == "term ends" and m.event.ends <= last.ends]
        units = {m.term.unit for m in begins if m.term} | {m.term.unit for m in ends if m.term}
        if not units:
            return self._between_bare_days(mine, first, last)
        unit = "term" if "term" in units else sorted(units)[-1]
        of_unit = [m for m in begins if m.term and m.term.unit == unit]
        until = [m for m in ends if m.term and m.term.unit == unit]
        opens = {first.starts, *(m.event.starts for m in of_unit)}
        if unit == "term":
            opens |= {m.event.starts for m in mine if m.role == "back" and self._after_an_end(m, until)}
        opens = {day for day in opens if first.starts <= day < last.ends}
        closes = {m.event.ends for m in until} | {last.ends}
        runs = runs_between(sorted(opens), sorted(closes))
        if unit != "term" and (not of_unit or self._only_divides(runs, mine)):
            edges = [m for m in of_unit if m.event.starts == first.starts] + [
                m for m in until if m.event.ends == last.ends
            ]
            self._told_as_markers([m for m in (*of_unit, *until) if m not in edges])
            return []
        if len(runs) < 2:
            return []
        names = [term_name(unit, run, of_unit, until, number) for number, run in enumerate(runs, start=1)]
        where = (of_unit or until)[0].event.where
        return [CalendarEntry("term", name, (run,), where) for name, run in zip(names, runs, strict=True)]

    def _between_bare_days(
        self, mine: Sequence[EventMark], first: CalendarEntry, last: CalendarEntry
    ) -> list[CalendarEntry]:
        """Several first and last days in one year, without a word for terms."""
        later = [
            m
            for m in mine
            if m.role == "first day" and m.event.starts > first.starts + STAGGERED and m.audience == "all"
        ]
        ends = [
            m for m in mine if m.role == "last day" and m.event.ends < last.ends - STAGGERED and m.audience == "all"
        ]
        if not later or not ends:
            return []
        runs = runs_between(
            [first.starts, *(m.event.starts for m in later)], [*(m.event.ends for m in ends), last.ends]
        )
        return [CalendarEntry("term", f"Term {n}", (run,), later[0].event.where) for n, run in enumerate(runs, start=1)]

    def _after_an_end(self, mark: EventMark, ends: Sequence[EventMark]) -> bool:
        return any(timedelta(0) < mark.event.starts - m.event.ends <= timedelta(days=35) for m in ends)

    def _only_divides(self, runs: Sequence[tuple[date, date]], mine: Sequence[EventMark]) -> bool:
        """True when breaks of their own cover what lies between the terms."""
        off = {day for m in mine if m.role in ("break", "closed day", "training day") for day in m.event.each_day()}
        off |= {m.event.starts for m in mine if m.role in ("break begins", "break begins after")}
        return all(
            (opens - closes).days <= 5 or bool(off & {closes + DAY * n for n in range((opens - closes).days)})
            for (_, closes), (opens, _) in pairwise(runs)
        )

    def _told_as_markers(self, marks: Sequence[EventMark]) -> None:
        self.told += [Phrase("school.only_a_marker", {"name": m.event.name, "day": m.event.starts}) for m in marks]

    # --- breaks, closed days, half days -----------------------------------------------------------------------------

    def _breaks(self, mine: Sequence[EventMark], window: YearWindow, last: date) -> list[CalendarEntry]:
        """Breaks of which the file gives the first day and, apart, the last one or the first day back."""
        found = []
        whole = [m for m in self.marks if m.role == "break" and m.event.days > 1]
        for mark in mine:
            if mark.role not in ("break begins", "break begins after") or mark.summer:
                continue
            starts = mark.event.starts + (DAY if mark.role == "break begins after" else timedelta(0))
            if any(m.event.starts <= starts + DAY * 3 and m.event.ends >= starts for m in whole):
                continue
            if mark.role == "break begins after" and starts > last:
                continue
            ends = self._end_of_break(mark, starts, mine, last)
            name = break_name(mark.event.name)
            if ends is None:
                if mark.role == "break begins after" and event_words.BEFORE.search(plain(mark.event.name)):
                    continue
                ends = starts + DAY * (4 - starts.weekday() if starts.weekday() < 5 else 6)
                self.supposed.append(LeftOpen(Phrase("school.break_without_end", {"name": name, "day": starts}), name))
            found.append(CalendarEntry("break", name, ((starts, ends),), mark.event.where))
        return found

    def _end_of_break(self, mark: EventMark, starts: date, mine: Sequence[EventMark], last: date) -> date | None:
        for other in mine:
            if not starts <= other.event.starts <= starts + SUPPOSED_BREAK or other is mark:
                continue
            if other.role == "break ends":
                return other.event.ends
            if other.role in ("back", "term begins", "first day") and other.event.starts > starts:
                return other.event.starts - DAY
        return None

    def _half_days(self) -> list[CalendarEntry]:
        """One line for all of a name and an end."""
        lines: dict[tuple[str, str], list[EventMark]] = {}
        for mark in self.marks:
            if mark.role == "half day":
                if mark.audience == "some":
                    self.told.append(
                        Phrase("school.half_day_of_some", {"name": mark.event.name, "day": mark.event.starts})
                    )
                    continue
                lines.setdefault((mark.event.name, str(mark.until)), []).append(mark)
        found = []
        for marks in lines.values():
            days = sorted({day for mark in marks for day in days_meant(mark)})
            until = marks[0].until
            spans = tuple((day, day) for day in days)
            found.append(CalendarEntry("half day", marks[0].event.name, spans, marks[0].event.where, until))
        return found

    def _single(self) -> list[CalendarEntry]:
        """What needs no other mark to be understood."""
        found: list[CalendarEntry] = []
        ignored: dict[str, list[EventMark]] = {}
        for mark in self.marks:
            if mark.role in ("closed day", "training day", "break", "feast", "summer programme"):
                found.append(self._closing(mark))
            elif mark.role in ("ignored", "told"):
                ignored.setdefault(mark.event.name, []).append(mark)
        for same in ignored.values():
            spans = tuple(sorted({(m.event.starts, m.event.ends) for m in same}))
            found.append(CalendarEntry("ignored", same[0].event.name, spans, same[0].event.where))
        return found

    def _closing(self, mark: EventMark) -> CalendarEntry:
        kind: EventKind = mark.role  # type: ignore[assignment]  # the roles of `_single` are kinds
        if kind == "closed day" and mark.event.days >= 3:
            kind = "break"
        if mark.role in ("closed day", "break") and mark.closed < SURE:
            self.unsure[(mark.event.name, mark.event.starts)] = mark.closed
            if mark.closed < 0.5:
                kind = "ignored"
        return CalendarEntry(kind, mark.event.name, ((mark.event.starts, mark.event.ends),), mark.event.where)

    def _tell(self) -> None:
        for mark in self.marks:
            if mark.role == "told" and mark.why and mark.why != "marker":
                self.told.append(left_out(mark))
