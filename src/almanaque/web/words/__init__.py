"""Finished words for templates: dates, plurals and counts, with Babel for the months; and the words of the pages' codes."""

from datetime import date, datetime, time
from functools import lru_cache

from babel.dates import format_date

from almanaque.core import words
from almanaque.core.words import days
from almanaque.core.words.days import FOR_YEARS

LOCALE = "en"

words.add(__name__)


@lru_cache(maxsize=8192)
def short_day(day: date) -> str:
    """`14 Apr`"""
    return format_date(day, "d MMM", locale=LOCALE)


def weekday_day(day: date) -> str:
    """`Wed 14 Apr`"""
    return format_date(day, "EEE d MMM", locale=LOCALE)


def long_day(day: date) -> str:
    """`Wednesday, 14 April 2027`"""
    return format_date(day, "EEEE, d MMMM y", locale=LOCALE)


def weekday(day: date) -> str:
    return format_date(day, "EEE d", locale=LOCALE)


def month(day: date) -> str:
    return format_date(day, "MMM", locale=LOCALE)


def month_name(day: date) -> str:
    return format_date(day, "MMMM", locale=LOCALE)


def span(start: date, end: date) -> str:
    """`2 – 9 Jun`, `28 May – 9 Jun`"""
    return days.span(start, end)


def clock(at: time) -> str:
    return f"{at.hour}:{at.minute:02}"


def moment(at: datetime) -> str:
    """`29 Nov 2026, 9:05`"""
    return f"{short_day(at.date())} {at.year}, {clock(at.time())}"


def stay(start: date, end: date) -> str:
    """`2 Apr – 9 Jun`, or `since 2 Apr 2025` for what stays for years."""
    return f"since {short_day(start)} {start.year}" if end - start > FOR_YEARS else span(start, end)


def count(number: int, one: str, many: str = "") -> str:
    """`1 square`, `4 squares`, `1,200 plants`"""
    return f"{number:,} {one if number == 1 else many or one + 's'}"


def joined(parts: list[str]) -> str:
    """Parts that are there, with a middle dot between."""
    return " · ".join(part for part in parts if part)
