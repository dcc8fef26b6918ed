"""Days as people write them in a list: `Dec 21 – Jan 1  Winter break`, `14.10.2026 bis 23.10.2026 Herbstferien`.

Lines in, events out. The year of a day without one follows from a heading, from the school year the list names, or from the
line before.
"""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.core.errors import BadInput
from almanaque.core.school.calendar_event import Event
from almanaque.core.school.event_words import plain

_MONTHS = (
    "january|jan|januar|janvier|janv|enero|ene|gennaio|gen|janeiro|januari|jaenner|janner|stycznia|styczen",
    "february|feb|februar|fevrier|fev|febrero|febbraio|fevereiro|februari|lutego|luty",
    "march|mar|marz|maerz|mrz|mars|marzo|marco|maart|mrt|marca|marzec|marts",
    "april|apr|avril|avr|abril|abr|aprile|kwietnia|kwiecien",
    "may|mai|mayo|maggio|mag|maio|mei|maj|maja",
    "june|jun|juni|juin|junio|giugno|giu|junho|czerwca|czerwiec",
    "july|jul|juli|juillet|juil|julio|luglio|lug|julho|lipca|lipiec",
    "august|aug|aout|agosto|ago|augustus|augusti|sierpnia|sierpien",
    "september|sept|sep|septembre|septiembre|setiembre|settembre|set|setembro|wrzesnia|wrzesien",
    "october|oct|oktober|okt|octobre|octubre|ottobre|ott|outubro|out|oktober|pazdziernika|pazdziernik",
    "november|nov|novembre|noviembre|novembro|listopada|listopad",
    "december|dec|dezember|dez|decembre|diciembre|dic|dicembre|dezembro|grudnia|grudzien",
)
MONTH_OF: dict[str, int] = {name: at for at, names in enumerate(_MONTHS, start=1) for name in names.split("|")}
_MONTH = "(?:" + "|".join(sorted(MONTH_OF, key=len, reverse=True)) + r")\b\.?"
_WEEKDAY = (
    r"(?:(?:mon|tues?|wed(?:nes)?|thu(?:rs?)?|fri|sat(?:ur)?|sun)(?:day)?s?|mo|di|mi|do|fr|sa|so|montag|dienstag|mittwoch|donnerstag|freitag|samstag|sonntag|"
    r"lundi|mardi|mercredi|jeudi|vendredi|samedi|dimanche|lunes|martes|miercoles|jueves|viernes|sabado|domingo|lunedi|martedi|mercoledi|giovedi|venerdi|sabato|domenica|"
    r"maandag|dinsdag|woensdag|donderdag|vrijdag|zaterdag|zondag|segunda|terca|quarta|quinta|sexta)(?:-feira)?\b[.,]? *"
)  # fmt: skip
_DAY = r"(\d{1,2})(?:st|nd|rd|th|er|re|o|e|\.)?"
_YEAR = r"(?:[,.]? ?(?:de |del )?'?(20\d\d))?"
_TO = r" *(?:-|bis(?: zum)?|to|through|thru|until|till|au|al|ate|a|t/m|tot(?: en met)?|till|til|do|e|and|&|y|et|und|u\.|en|og|och) *(?:the )?"
_ISO = r"(20\d\d)-(\d{1,2})-(\d{1,2})"
_NUMERIC = r"(?<!at )(?<!um )(?<!om )(?<!@ )(?!1/2 (?:school |day))(\d{1,2})([./]|-(?=\d{1,2}-\d))(\d{1,2})(?:[./-](\d{4}|\d{2})?)?(?!\d)(?! ?(?:uhr|[ap]\.?m\b|h\b))"
_DMY = rf"{_DAY}(?: of| de| d'| del)? ?{_MONTH}{_YEAR}"
_MDY = rf"{_MONTH} ?{_DAY}(?!\d){_YEAR}"
_ONE = rf"(?:{_WEEKDAY})?(?:the )?(?:{_ISO}|{_NUMERIC}|{_DMY}|{_MDY})"


_MARKS = " -–—:|,;.\t•*·"


@dataclass(frozen=True)
class WrittenDay:
    """A day as far as a line gives it."""

    day: int
    month: int | None
    year: int | None


@dataclass(frozen=True)
class DaysInLine:
    """The first and last day a line begins or ends with, and the rest of it."""

    first: WrittenDay
    last: WrittenDay
    rest: str


class ListReader:
    """Reads a list line by line and remembers what headings said of year and month."""

    def __init__(self, *, day_first: bool, year: int | None) -> None:
        self.day_first = day_first
        self.school_year: tuple[int, int] | None = (year, year) if year else None
        self.month: int | None = None
        self.year_of_month: int | None = None
        self.latest: date | None = None

    def events(self, lines: Sequence[tuple[int, str]], name: str) -> list[Event]:
        """Events of lines with their numbers. Raises BadInput when a day has no year and no line names one."""
        found: list[Event] = []
        self._look_for_the_year(text for _, text in lines)
        for number, text, days in self._pairs(lines):
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
            found.append(Event(text[:80], starts, ends, where))
        return found

    def _pairs(self, lines: Sequence[tuple[int, str]]) -> list[tuple[int, str, DaysInLine]]:
        """Each dated line with its name, which may stand in the line before or after it."""
        read: list[tuple[int, str, DaysInLine | None]] = []
        for number, text in lines:
            if self._heading(text):
                continue
            days = self._days_in(text)
            read.append((number, text, days))
        bare = [at for at, (_, _, days) in enumerate(read) if days is not None and not days.rest]
        name_first = (
            bool(bare)
            and bare[0] > 0
            and read[bare[0] - 1][2] is None
            and not (
                bare[0] + 1 < len(read)
                and read[bare[0] + 1][2] is None
                and bare[0] >= 2
                and read[bare[0] - 2][2] is None
            )
        )
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
        all_days = [days]
        while (more := self._long_range(plain(all_days[-1].rest))) is not None and len(all_days) < 12:
            first, last, at, to = more
            rest = _kept(all_days[-1].rest, plain(all_days[-1].rest), at, to)
            if not rest:
                break
            all_days.append(DaysInLine(first, last, rest))
        return [(number, all_days[-1].rest, each) for each in all_days]

    def _look_for_the_year(self, texts: Iterable[str]) -> None:
        for text in texts:
            low = plain(text)
            span = re.search(r"(?<!\d)(20\d\d) ?[-/] ?(20)?(\d\d)(?!\d)(?![-/.]\d)", low)
            if span and self._days_in(text) is None and int(span[3]) == (int(span[1]) + 1) % 100:
                self.school_year = (int(span[1]), int(span[1]) + 1)
                return
            one = re.search(
                r"(?:school|academic|calendar|schuljahr|term dates|year|ano|annee)\D{0,40}(20\d\d)|(20\d\d)\D{0,20}(?:school|academic|term|calendar)",
                low,
            )
            if one and self._days_in(text) is None and self.school_year is None:
                year = int(one[1] or one[2])
                self.school_year = (year, year)

    def _heading(self, text: str) -> bool:
        """A line that names a month, with or without a year, and nothing more."""
        found = re.fullmatch(rf"({_MONTH})[ ,]*(20\d\d)?[: ]*", plain(text))
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
        found = self._across_months(low) or self._short_range(low) or self._long_range(low) or self._bare_in_month(low)
        if found is None:
            return None
        first, last, at, to = found
        rest = _kept(text, low, at, to)
        return DaysInLine(first, last, rest)

    def _short_range(self, low: str) -> tuple[WrittenDay, WrittenDay, int, int] | None:
        """`December 21-31, 2026`, `21.-31.12.2026`, `21 to 31 December`, `Nov 25, 26 & 27`."""
        for pattern, order in (
            (
                rf"(?<!\w)(?:{_WEEKDAY})?({_MONTH}) ?{_DAY}(?:, ?\d{{1,2}})*,?{_TO}(?:{_WEEKDAY})?{_DAY}(?![\d/.]){_YEAR}(?! ?{_MONTH})",
                "mdd",
            ),
            (
                rf"(?<!\w)(?:{_WEEKDAY})?{_DAY}(?:, ?\d{{1,2}})*,?{_TO}(?:{_WEEKDAY})?{_DAY}(?: of| de)? ?({_MONTH}){_YEAR}",
                "ddm",
            ),
            (rf"(?<![\w.])(\d{{1,2}})\.?{_TO}(\d{{1,2}})\.(\d{{1,2}})\.(20\d\d|\d\d)?", "numeric"),
        ):
            got = re.search(pattern, low)
            if not got:
                continue
            if order == "mdd":
                month, first, last = MONTH_OF[got[1].rstrip(".")], int(got[2]), int(got[3])
            elif order == "ddm":
                first, last, month = int(got[1]), int(got[2]), MONTH_OF[got[3].rstrip(".")]
            else:
                first, last, month = int(got[1]), int(got[2]), int(got[3])
            if not (1 <= first < last <= 31 and 1 <= month <= 12):
                continue
            number = _full_year(got[4])
            return WrittenDay(first, month, number), WrittenDay(last, month, number), got.start(), got.end()
        return None

    def _long_range(self, low: str) -> tuple[WrittenDay, WrittenDay, int, int] | None:
        one = re.search(rf"(?<![\w]){_ONE}", low)
        if not one:
            return None
        first = self._written(one, 0)
        if first is None:
            return None
        two = re.compile(rf"{_TO}{_ONE}").match(low, one.end())
        last = self._written(two, 0) if two else None
        if two is None or last is None:
            return first, first, one.start(), one.end()
        if first.year is None and last.year is not None and first.month is not None and last.month is not None:
            first = WrittenDay(first.day, first.month, last.year - (first.month > last.month))
        return first, last, one.start(), two.end()

    def _across_months(self, low: str) -> tuple[WrittenDay, WrittenDay, int, int] | None:
        """Under a heading of a month, `21 - January 1 Winter break`."""
        if self.month is None:
            return None
        across = re.match(rf"(?:{_WEEKDAY})?(\d{{1,2}})(?:st|nd|rd|th|\.)?{_TO}(?={_ONE})", low)
        if across and 1 <= int(across[1]) <= 31 and (two := re.compile(_ONE).match(low, across.end())):
            last = self._written(two, 0)
            if last is not None:
                return WrittenDay(int(across[1]), self.month, self.year_of_month), last, 0, two.end()
        return None

    def _bare_in_month(self, low: str) -> tuple[WrittenDay, WrittenDay, int, int] | None:
        """Under a heading of a month, `17 First day` or `21-25: Fall break`."""
        if self.month is None:
            return None
        got = re.match(
            rf"(?:{_WEEKDAY})?(\d{{1,2}})(?:st|nd|rd|th|\.)?(?:{_TO}(?:{_WEEKDAY})?(\d{{1,2}})(?:st|nd|rd|th|\.)?)?(?![\d:/])(?: *[-:|.)])?(?= |$)",
            low,
        )
        if not got or not 1 <= int(got[1]) <= 31 or (got[2] and not int(got[1]) < int(got[2]) <= 31):
            return None
        days = [WrittenDay(int(part), self.month, self.year_of_month) for part in (got[1], got[2] or got[1])]
        return days[0], days[1], got.start(), got.end()

    def _written(self, got: re.Match[str], at: int) -> WrittenDay | None:
        """The groups of `_ONE` as a day."""
        groups = got.groups()[at:]
        if groups[0]:
            return WrittenDay(int(groups[2]), int(groups[1]), int(groups[0]))
        if groups[3]:
            first, second = int(groups[3]), int(groups[5])
            day, month = (first, second) if self.day_first or groups[4] == "." else (second, first)
            if month > 12:
                day, month = month, day
            return WrittenDay(day, month, _full_year(groups[6])) if 1 <= month <= 12 and 1 <= day <= 31 else None
        named = _month_in(got[0])
        for at in (7, 9):
            if groups[at] and named:
                return WrittenDay(int(groups[at]), named, _full_year(groups[at + 1]))
        return None

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
            return first if month >= 7 or first == last else last
        if self.latest is not None:
            return self.latest.year + (month < self.latest.month - 5)
        raise BadInput("school.list_without_year", where=where)

    def _moved(self, day: date, years: int) -> date:
        return (day + timedelta(days=366 * years)).replace(month=day.month, day=day.day)


def day_first(texts: Iterable[str], usual: bool) -> bool:
    """Whether numbers are written day first, by those that can be only one of the two; `usual` where none says."""
    firsts, seconds = 0, 0
    for text in texts:
        for got in re.finditer(r"(?<![\d.:/-])(\d{1,2})[/-](\d{1,2})[/-](?:20)?\d\d(?!\d)", text):
            firsts += int(got[1]) > 12
            seconds += int(got[2]) > 12
    return usual if firsts == seconds else firsts > seconds


def _month_in(text: str) -> int | None:
    got = re.search(
        _MONTH, re.sub(_WEEKDAY, "", text) if not re.search(rf"\d ?(?:de |of )?{_MONTH}|{_MONTH} ?\d", text) else text
    )
    near = re.search(rf"\d(?:st|nd|rd|th|er|re|o|e|\.)?(?: of| de| d'| del)? ?({_MONTH})|({_MONTH}) ?\d", text)
    name = (near[1] or near[2]) if near else (got[0] if got else "")
    return MONTH_OF.get(name.rstrip("."))


def _full_year(text: str | None) -> int | None:
    return None if not text else int(text) + (2000 if len(text) == 2 else 0)


def _kept(text: str, low: str, at: int, to: int) -> str:
    """A line without its days. Where the small letters have another length than the line, those are kept instead."""
    whole = " ".join(text.split())
    source = whole if len(whole) == len(low) else low
    rest = f"{source[:at]} {source[to:]}"
    rest = re.sub(r"\((?:" + _WEEKDAY + r"[-,&/ ]*)*\)", " ", rest, flags=re.I)
    rest = re.sub(rf"^(?:{_WEEKDAY})+(?=[-:|, ]|$)", " ", rest.strip(), flags=re.I)
    small = r"(?:du|vom|from|del|dal|de|van|fra|od|le|el|il|den|on|the|und|and|y|et|e|am|de la)"
    rest = re.sub(rf"^{small}\b(?= *[-:|,;]*( |$))", " ", rest.strip(_MARKS), flags=re.I).strip(_MARKS)
    rest = re.sub(rf"(?: |^){small}$", " ", rest, flags=re.I).strip(_MARKS)
    rest = rest if rest.count("(") == rest.count(")") else rest.replace("(", "").replace(")", "")
    return " ".join(rest.split())
