"""The words of school calendars in ten languages, as signs that a title carries: closed, half day, term begins, for one grade only.

Words alone decide nothing here; `event_meaning.py` weighs them against each other. **Source:** common practice of school
offices, no source; the words lie in `event_words.toml` and are held by `tests/core/school/calendars/`.
"""

import re
import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import time
from functools import cache
from importlib.resources import files
from typing import Literal, cast

from almanaque.core.words.plain_words import plain

Audience = Literal["all", "most", "some"]
Unit = Literal["term", "trimester", "semester", "quarter", "marking period"]


@cache
def _table() -> Mapping[str, Mapping[str, Sequence[str]]]:
    return tomllib.loads((files("almanaque.core.school") / "event_words.toml").read_text(encoding="utf-8"))


def _whole_words(patterns: Sequence[str]) -> re.Pattern[str]:
    return re.compile(r"(?<!\w)(?:" + "|".join(patterns) + r")(?!\w)")


def _sign(name: str) -> re.Pattern[str]:
    return _whole_words(_table()["signs"][name])


CANCELLED = _sign("cancelled")
CLOSED = _sign("closed")
FULLY_CLOSED = _sign("fully_closed")
HOLIDAY = _sign("holiday")
OPEN = _sign("open")
HALF = _sign("half")
LATE = _sign("late")
STAFF = _sign("staff")
APPRECIATION = _sign("appreciation")
FOR_PUPILS = _sign("for_pupils")
BREAK = _sign("break")
SUMMER_BREAK = _sign("summer_break")
BACK = _sign("back")
FIRST = _sign("first")
LAST = _sign("last")
NOT_SCHOOL = _sign("not_school")
BEGINS = _sign("begins")
ENDS = _sign("ends")
BEFORE = _sign("before")
AT_CLOSE = _sign("at_close")
AFTER = _sign("after")
MARKER = _sign("marker")
MAKE_UP = _sign("make_up")
NOUN = _sign("noun")
SUMMER = _sign("summer")
FEAST = _sign("feast")
HOLIDAY_NAMES = _sign("holiday_names")
OFTEN_OPEN = _sign("often_open")
NEVER_FREE = _sign("never_free")
MONTH = _sign("month")
SEASON_WEEK = _sign("season_week")
_GRADE = _sign("grade")
_MOST = _sign("most")
_ALL = _sign("all")
UNITS: dict[Unit, re.Pattern[str]] = {
    cast(Unit, unit): _whole_words(words) for unit, words in _table()["units"].items()
}
_NUMBERS = {key: "|".join(words) for key, words in _table()["numbers"].items()}
_SEASONS = {key: _whole_words(words) for key, words in _table()["seasons"].items()}
_WEEKDAYS = tuple(_whole_words(words) for words in _table()["weekdays"].values())
BEGIN_THE_YEAR = {"1", "autumn"}  # a term so named is the first of its school year
_TIME = re.compile(
    r"(?<![\d:.])(\d{1,2})(?:(?:[:.h]| h )(\d{2})| ?h(?!\w))? ?(am|pm|a\.m\.?|p\.m\.?|uhr)?(?![\d:])", re.I
)
_NOON = _whole_words(("noon", "midday", "mittag", "midi", "mediodia", "mezzogiorno", "meio-dia"))


@dataclass(frozen=True)
class TermName:
    """Which term a title speaks of: its unit, and its number or season as a key (`2`, `autumn`), empty if it does not say."""

    unit: Unit
    number: str


@cache
def term_named(title: str) -> TermName | None:
    """The term of a plain title; None when it speaks of none.

    >>> term_named("end of 2nd quarter"), term_named("autumn term starts")
    (TermName(unit='quarter', number='2'), TermName(unit='term', number='autumn'))
    """
    unit = next((unit for unit, pattern in UNITS.items() if pattern.search(title)), None)
    if unit is None:
        return None
    season = next((key for key, words in _SEASONS.items() if words.search(title)), "")
    words = UNITS[unit].pattern
    for key, numbers in _NUMBERS.items():
        before = rf"(?<!\w)(?:{numbers})(?: |-)+{words}"
        after = rf"{words}(?: |-|#|no\.? ?)*(?:{numbers})(?!\w)(?! (?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec))"
        if (
            re.search(before, title)
            or re.search(after, title)
            or re.search(rf"(?<!\w)(?:t|q|mp|sem) ?{key}(?!\w)", title)
        ):
            return TermName(unit, key)
    return TermName(unit, season)


@cache
def audience(title: str) -> Audience:
    """For whom a plain title holds: all, most of the lower grades, or some only.

    >>> audience("first day of school"), audience("first day, grades 1-6"), audience("first day for kindergarten")
    ('all', 'most', 'some')
    """
    if _ALL.search(title):
        return "all"
    if _MOST.search(title):
        return "most"
    return "some" if _GRADE.search(title) else "all"


def leaving_time(text: str) -> time | None:
    """When school ends by a text that says it ends early: the time beside those words, of `8:00-11:45` the later. None without any.

    >>> leaving_time("Winter play 2 p.m., early out 1:00"), leaving_time("12:30 dismissal, fair at 3 pm"), leaving_time("Half day")
    (datetime.time(13, 0), datetime.time(12, 30), None)
    """
    low = plain(text)
    sign = HALF.search(low)
    if sign is None:
        return time_in(text)
    found = [
        (part, at) for part in _TIME.finditer(low) if (at := _clock(part, low[max(0, part.start() - 4) : part.start()]))
    ]
    within = [(part, at) for part, at in found if sign.start() - 1 <= part.end() and part.start() <= sign.end()]
    after = within or [(part, at) for part, at in found if part.start() >= sign.end()]
    if not after:
        return time_in(text)
    first, at = after[0]
    ends = next(
        (other for part, other in found if re.fullmatch(r" ?(?:-|to|bis) ?", low[first.end() : part.start()])), at
    )
    return max(at, ends)


def time_in(text: str) -> time | None:
    """The time of day a text ends with: `dismissal at 12:30`, `8:00-11:45`, `sortie à 12 h`, `noon`. None without any.

    An hour from 1 to 6 without a sign is in the afternoon.

    >>> time_in("Early release 1:15 pm"), time_in("Schulschluss um 11.30 Uhr"), time_in("Room 31")
    (datetime.time(13, 15), datetime.time(11, 30), None)
    """
    plain_text = plain(text)
    found = [
        at
        for part in _TIME.finditer(plain_text)
        if (at := _clock(part, plain_text[max(0, part.start() - 4) : part.start()]))
    ]
    if found:
        return max(found)
    return time(12, 0) if _NOON.search(plain_text) else None


def _clock(part: re.Match[str], before: str) -> time | None:
    sign = (part[3] or "").lower().replace(".", "")
    says_hour = "h" in part[0] and not sign
    if not part[2] and not sign and not says_hour and not re.search(r"(?:at|@) ?$", before):
        return None
    hour, minute = int(part[1]), int(part[2] or 0)
    if (sign == "pm" and hour < 12) or (not sign and not says_hour and 1 <= hour <= 6):
        hour += 12
    return time(hour, minute) if 6 <= hour < 24 and minute < 60 else None


def weekdays_in(title: str) -> set[int]:
    """The weekdays that a plain title names, 0 for Monday.

    >>> weekdays_in("early release every wednesday and friday")
    {2, 4}
    """
    return {at for at, names in enumerate(_WEEKDAYS) if names.search(title)}
