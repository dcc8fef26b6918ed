"""Days as people write them in a list: `Dec 21 – Jan 1  Winter break`, `14.10.2026 bis 23.10.2026 Herbstferien`.

Lines in, events out. The year of a day without one follows from a heading, from the school year the list names, or from the
line before.
"""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

from almanaque.core.errors import BadInput
from almanaque.core.school.calendar_event import Event
from almanaque.core.school.calendar_import import only_weekend
from almanaque.core.school.day_patterns import (
    AND_OF_MONTH,
    BEGINS_AND_ENDS,
    CLOSES,
    DAYS_OF_MONTH,
    MARKS,
    MONTH,
    MONTH_OF,
    REOPENS,
    WEEKEND_BETWEEN,
    WEEKLY,
    full_year,
    without_days,
)
from almanaque.core.school.day_ranges import Days, WrittenDay, across_months, bare_in_month, first_days
from almanaque.core.school.event_meaning import meaning
from almanaque.core.school.event_words import BREAK, term_named
from almanaque.core.words.plain_words import plain

LONGEST_HEADING = 40  # letters of a line that names a term: our own rule
EDGE_ALONE = re.compile(
    r"(?:school |term |pupils )?(?:starts?|begins?|opens?|commences?|ends?|finish(?:es)?|closes?|first day|last day)(?: of term)?:?"
)
ENDS_ALONE = re.compile(r"ends?|finish|closes?|last day")
MOST_IN_A_LINE = 24  # days that one line names: our own rule


@dataclass(frozen=True)
class DaysInLine:
    """The first and last day a line begins or ends with, and the rest of it."""

    first: WrittenDay
    last: WrittenDay
    rest: str
    between: bool = False  # the days after the first and before the last: `closes 22 December, reopens 6 January`
    closes_at: str = ""  # when school ends on the first of them, as it is written


class ListReader:
    """Reads a list line by line and remembers what headings said of year and month."""

    def __init__(self, *, day_first: bool, year: int | None) -> None:
        self.day_first = day_first
        self.school_year: tuple[int, int] | None = (year, year) if year else None
        self.month: int | None = None
        self.year_of_month: int | None = None
        self.latest: date | None = None
        self.term = ""  # the line that last named a term and nothing more: `Autumn term 2026`

    def events(self, lines: Sequence[tuple[int, str]], name: str) -> list[Event]:
        """Events of lines with their numbers. Raises BadInput when a day has no year and no line names one."""
        found: list[Event] = []
        lines = [(number, self._two_days(DAYS_OF_MONTH.sub(_spelled_out, text))) for number, text in lines]
        lines = [(number, part) for number, text in lines for part in self._clauses(text)]
        weekly: list[tuple[int, str]] = []
        dated: list[tuple[int, str]] = []
        for line in lines:
            every_week = WEEKLY.search(plain(line[1])) and self._days_in(line[1]) is None
            (weekly if every_week else dated).append(line)
        self._look_for_the_year(text for _, text in dated)
        for number, text, days in self._pairs(dated):
            where = f"{name}, line {number}"
            starts, ends = self._dated(days.first, where), self._dated(days.last, where)
            if ends < starts:
                if days.last.year is None:
                    ends = self._moved(ends, 1)
                if ends < starts:
                    raise BadInput("school.entry_ends_before_start", where=where, name=text)
            if (ends - starts).days > 400:
                raise BadInput("school.entry_ends_before_start", where=where, name=text)
            self.latest = starts
            if days.between:
                starts, ends = starts + timedelta(days=1), ends - timedelta(days=1)
                if ends < starts:
                    continue
            found.append(Event(text[:80], starts, ends, where))
        if found:
            first, last = min(event.starts for event in found), max(event.ends for event in found)
            found += [Event(text.strip(MARKS)[:80], first, last, f"{name}, line {number}") for number, text in weekly]
        return found

    def _clauses(self, text: str) -> list[str]:
        """A line of several sentences, each with words and days of its own: `First day Aug 24; last day June 11`."""
        parts = text.split(";")
        if len(parts) > 1 and all((days := self._days_in(part)) is not None and days.rest for part in parts):
            return parts
        both = BEGINS_AND_ENDS.match(plain(text))
        if both is None or term_named(both["what"]) or BREAK.search(both["what"]):
            return [text]
        return [f"{both['what']} {both[half]}".strip() for half in ("begins", "ends")]

    def _two_days(self, text: str) -> str:
        """`October 14 and 16` with its month and year at each day, unless they follow on one another."""

        def spelled(found: re.Match[str]) -> str:
            month = found["month_first"] or found["month_last"]
            days = [
                WrittenDay(int(found[name]), MONTH_OF[plain(month).rstrip(".")], full_year(found["year"]))
                for name in ("one", "two")
            ]
            if not days[0].day < days[1].day <= 31 or self._one_span(*days):
                return found[0]
            year = f" {found['year']}" if found["year"] else ""
            return ", ".join(f"{day.day} {month}{year}" for day in days)

        return AND_OF_MONTH.sub(spelled, text)

    def _pairs(self, lines: Sequence[tuple[int, str]]) -> list[tuple[int, str, DaysInLine]]:
        """Each dated line with its name, which may stand in the line before or after it."""
        read: list[tuple[int, str, DaysInLine | None]] = []
        for number, text in lines:
            if self._heading(text):
                continue
            days = self._days_in(text)
            if (
                days is None
                and len(text) <= LONGEST_HEADING
                and term_named(plain(text))
                and not BREAK.search(plain(text))
            ):
                self.term = text.strip(MARKS)
            elif days is not None and self.term and EDGE_ALONE.fullmatch(plain(days.rest)):
                over = ENDS_ALONE.search(plain(days.rest)) is not None
                days = replace(days, rest=f"{self.term}: {days.rest}")
                self.term = "" if over else self.term
            read.append((number, text, days))
        name_first = _names_stand_above(read)
        found = []
        for at, (number, _, days) in enumerate(read):
            if days is None:
                continue
            if days.rest:
                found += self._several(number, days)
                continue
            beside = at - 1 if name_first else at + 1
            if 0 <= beside < len(read) and read[beside][2] is None:
                found.append((number, read[beside][1], days))
        return found

    def _several(self, number: int, days: DaysInLine) -> list[tuple[int, str, DaysInLine]]:
        """A line may name several days: `INSET days: 1 September, 4 January`."""
        if days.between:
            return self._around_a_break(number, days)
        all_days = [days]
        while (more := self._range(plain(all_days[-1].rest))) is not None and len(all_days) < MOST_IN_A_LINE:
            first, last, at, to = more
            rest = without_days(all_days[-1].rest, plain(all_days[-1].rest), at, to)
            if not rest:
                break
            all_days.append(DaysInLine(first, last, rest))
        return [(number, all_days[-1].rest, each) for each in all_days]

    def _around_a_break(self, number: int, days: DaysInLine) -> list[tuple[int, str, DaysInLine]]:
        """The days off, and the day before them where it says when school ends on it."""
        found = [(number, days.rest, days)]
        if days.closes_at:
            closes = f"{days.rest}: school closes {days.closes_at}"
            found.insert(0, (number, closes, DaysInLine(days.first, days.first, closes)))
        return found

    def _between(self, text: str) -> DaysInLine | None:
        """`Christmas: school closes at 12 noon on 22 December. Reopens 6 January`."""
        low = plain(text)
        closes = CLOSES.search(low)
        reopens = REOPENS.search(low, closes.end()) if closes else None
        if closes is None or reopens is None or len(low) != len(" ".join(text.split())):
            return None
        before, after = low[closes.end() : reopens.start()], low[reopens.end() :]
        off, on = self._range(before), self._range(after)
        if off is None or on is None or off[0] != off[1] or on[0] != on[1]:
            return None
        name = " ".join(text.split())[: closes.start()].strip(MARKS) or "Break"
        if not re.search(r"break|holiday|recess|vacation|mid-?term|half-?term", plain(name)):
            name = f"{name} break"
        time = re.search(
            r"at (?:12 )?(?:noon|midday)|at \d{1,2}[:.]\d\d ?(?:[ap]\.?m\.?)?|at \d{1,2} ?[ap]\.?m\.?", before
        )
        return DaysInLine(off[0], on[0], name, between=True, closes_at=time[0] if time else "")

    def _look_for_the_year(self, texts: Iterable[str]) -> None:
        for text in texts:
            low = plain(text)
            span = re.search(r"(?<!\d)(20\d\d) ?[-/] ?(20)?(\d\d)(?!\d)(?![-/.]\d)", low)
            if span and self._days_in(text) is None and int(span[3]) == (int(span[1]) + 1) % 100:
                self.school_year = (int(span[1]), int(span[1]) + 1)
                return
            season = re.search(
                r"(autumn|fall|michaelmas)? ?(spring|summer|lent|trinity)? (?:term|semester),? (20\d\d)(?!\d)", low
            )
            if season and (season[1] or season[2]) and self._days_in(text) is None:
                begins = int(season[3]) - (0 if season[1] else 1)
                self.school_year = (begins, begins + 1)
                return
            term = re.match(r"term [1-4],? \(?(20\d\d)(?!\d| ?[-/])", low)
            if term and self.school_year is None:
                self.school_year = (int(term[1]), int(term[1]))
            one = re.search(
                r"(?:school|academic|calendar|schuljahr|term dates|year|ano|annee)\D{0,40}(20\d\d)|"
                r"(20\d\d)\D{0,20}(?:school|academic|term|calendar)",
                low,
            )
            if one and self._days_in(text) is None and self.school_year is None:
                year = int(one[1] or one[2])
                self.school_year = (year, year)

    def _heading(self, text: str) -> bool:
        """A line that names a month, with or without a year, and nothing more."""
        found = re.fullmatch(rf"({MONTH})[ ,]*(20\d\d)?[: ]*(?:[-(] ?\d{{1,2}} [a-z ]{{0,20}}days?\)?)?", plain(text))
        if not found:
            return bool(
                re.fullmatch(
                    r"(?:school year |schuljahr |calendar )?20\d\d(?: ?[-/] ?(?:20)?\d\d)?(?: .{0,30}(?:calendar|dates))?",
                    plain(text),
                )
            )
        self.month = MONTH_OF[found[1].rstrip(".")]
        self.year_of_month = int(found[2]) if found[2] else None
        return True

    def _days_in(self, text: str) -> DaysInLine | None:
        low = plain(text)
        if (around := self._between(text)) is not None:
            return around
        found = self._range(low)
        if self.month is not None:
            across = across_months(low, self.month, self.year_of_month, day_first=self.day_first)
            found = across or found or bare_in_month(low, self.month, self.year_of_month)
        if found is None:
            return None
        first, last, at, to = found
        rest = without_days(text, low, at, to)
        return DaysInLine(first, last, rest)

    def _range(self, low: str) -> Days | None:
        return first_days(low, day_first=self.day_first, one_span=self._one_span)

    def _one_span(self, first: WrittenDay, last: WrittenDay) -> bool:
        """Whether two days that are joined by `and` are all there is of a span: nothing lies between them, or a weekend."""
        if first.month is None or last.month is None:
            return True
        try:
            ends = self._dated(last, "")
            starts = date(ends.year - (first.month > last.month), first.month, first.day)
        except (BadInput, ValueError):  # without a year no weekday is known
            return (last.month - first.month) % 12 * 30 + last.day - first.day in (1, WEEKEND_BETWEEN)
        return starts < ends and only_weekend(starts, ends)

    def _dated(self, written: WrittenDay, where: str) -> date:
        month = written.month or self.month
        if month is None:
            raise BadInput("school.list_without_year", where=where)
        try:
            return date(written.year or self._year_for(month, where), month, written.day)
        except ValueError:
            raise BadInput("school.entry_not_a_day", where=where, text=f"{written.day}.{month}.") from None

    def _year_for(self, month: int, where: str) -> int:
        if self.year_of_month is not None and month == self.month:
            return self.year_of_month
        if self.school_year is not None:
            first, last = self.school_year
            begun = self.latest is not None and self.latest >= date(first, 8, 1)  # a July below that ends the year
            return first if month > 7 or first == last or (month == 7 and not begun) else last
        if self.latest is not None:
            return self.latest.year + (month < self.latest.month - 5)
        raise BadInput("school.list_without_year", where=where)

    def _moved(self, day: date, years: int) -> date:
        return (day + timedelta(days=366 * years)).replace(month=day.month, day=day.day)


def _names_stand_above(read: Sequence[tuple[int, str, DaysInLine | None]]) -> bool:
    """Of days that stand alone in their lines, whether the names are the lines above them, and not below.

    Where both can be, as below a title, the line above the first day is a name when it says something of school.
    """
    bare = [at for at, (_, _, days) in enumerate(read) if days is not None and not days.rest]
    if not bare or bare[0] == 0 or read[bare[0] - 1][2] is not None:
        return False
    if bare[-1] + 1 == len(read) or read[bare[-1] + 1][2] is not None:
        return True
    _, above, _ = read[bare[0] - 1]
    return meaning(Event(above, date.min, date.min, ""), holidays={}, own={})[0].role != "ignored"


def day_first(texts: Iterable[str], usual: bool) -> bool:
    """Whether numbers are written day first, by those that can be only one of the two; `usual` where none says."""
    firsts, seconds = 0, 0
    for text in texts:
        for got in re.finditer(r"(?<![\d.:/-])(\d{1,2})[/-](\d{1,2})[/-](?:20)?\d\d(?!\d)", text):
            firsts += int(got[1]) > 12
            seconds += int(got[2]) > 12
    return usual if firsts == seconds else firsts > seconds


def _spelled_out(found: re.Match[str]) -> str:
    """`August 12, 13, 14` with its month before each day, or as a span where they follow on one another."""
    days = [int(day) for day in re.findall(r"\d+", found[2])]
    if days == list(range(days[0], days[-1] + 1)):
        return f"{found[1]} {days[0]}-{days[-1]}"
    return ", ".join(f"{found[1]} {day}" for day in days)
