"""The days that a line names, as far as it gives them: `December 21-31`, `21.-31.12.2026`, `Dec 21 to Jan 1`, `11/25-27`.

What year a day without one lies in is the business of `written_days.py`.
"""

import re
from collections.abc import Callable
from dataclasses import dataclass

from almanaque.core.school.day_patterns import (
    AND,
    DAY_NUMBER,
    ENDS,
    MONTH,
    MONTH_OF,
    NO_MONTH,
    ONE,
    STARTS,
    TO,
    WEEKDAY,
    YEAR,
    full_year,
    month_in,
)


@dataclass(frozen=True)
class WrittenDay:
    """A day as far as a line gives it."""

    day: int
    month: int | None
    year: int | None


Days = tuple[
    WrittenDay, WrittenDay, int, int
]  # the first and the last day, and from where to where in the line they stand
OneSpan = Callable[[WrittenDay, WrittenDay], bool]


def first_days(low: str, *, day_first: bool, one_span: OneSpan) -> Days | None:
    """The first days that a line of small letters names, and of two readings that begin with the same day the longer.

    `one_span` says of two days that are joined by `and` whether they are the ends of one span.
    """
    found = [days for days in (_short_range(low, day_first), _long_range(low, day_first, one_span)) if days is not None]
    return min(found, key=lambda days: (days[2], -days[3]), default=None)


def across_months(low: str, month: int, year: int | None, *, day_first: bool) -> Days | None:
    """Under a heading of a month, `21 - January 1 Winter break`."""
    across = re.match(rf"(?:{WEEKDAY})?(\d{{1,2}})(?:st|nd|rd|th|\.)?{TO}(?={ONE})", low)
    if across and 1 <= int(across[1]) <= 31 and (two := re.compile(ONE).match(low, across.end())):
        last = _written(two, day_first)
        if last is not None:
            return WrittenDay(int(across[1]), month, year), last, 0, two.end()
    return None


def bare_in_month(low: str, month: int, year: int | None) -> Days | None:
    """Under a heading of a month, `17 First day` or `21-25: Fall break`."""
    got = re.match(
        rf"(?:{WEEKDAY})?(\d{{1,2}})(?:st|nd|rd|th|\.)?(?:{TO}(?:{WEEKDAY})?(\d{{1,2}})(?:st|nd|rd|th|\.)?)?"
        r"(?![\d/]|:\d)(?: *[-:|.)])?(?= |$)",
        low,
    )
    if not got or not 1 <= int(got[1]) <= 31 or (got[2] and not int(got[1]) < int(got[2]) <= 31):
        return None
    days = [WrittenDay(int(part), month, year) for part in (got[1], got[2] or got[1])]
    return days[0], days[1], got.start(), got.end()


def _short_range(low: str, day_first: bool) -> Days | None:
    """`December 21-31, 2026`, `21.-31.12.2026`, `21 to 31 December`, `Nov 25, 26 & 27`."""
    for pattern, order in (
        (
            rf"(?<!\w)(?:{WEEKDAY})?{NO_MONTH}({MONTH}) ?{DAY_NUMBER}(?:, ?\d{{1,2}})*,?{TO}"
            rf"(?:{WEEKDAY})?{DAY_NUMBER}(?![\d/.]){YEAR}(?! ?{MONTH})",
            "mdd",
        ),
        (
            rf"(?<!\w)(?:{WEEKDAY})?{DAY_NUMBER}(?:, ?\d{{1,2}})*,?{TO}(?:{WEEKDAY})?{DAY_NUMBER}(?: of| de)? ?({MONTH}){YEAR}",
            "ddm",
        ),
        (rf"(?<![\w.])(\d{{1,2}})\.?{TO}(\d{{1,2}})\.(\d{{1,2}})\.(20\d\d|\d\d)?", "numeric"),
        (r"(?<![\w./])(\d{1,2}) ?- ?(\d{1,2})/(\d{1,2})(?![\d/])()", "numeric"),
        (r"(?<![\w./])(\d{1,2})/(\d{1,2}) ?- ?(\d{1,2})(?![\d/.:-])()", "slashed"),
    ):
        got = re.search(pattern, low)
        if not got or (order == "slashed" and day_first):
            continue
        if order == "mdd":
            month, first, last = MONTH_OF[got[1].rstrip(".")], int(got[2]), int(got[3])
        elif order == "ddm":
            first, last, month = int(got[1]), int(got[2]), MONTH_OF[got[3].rstrip(".")]
        elif order == "slashed":  # 11/25-27
            month, first, last = int(got[1]), int(got[2]), int(got[3])
        else:
            first, last, month = int(got[1]), int(got[2]), int(got[3])
        if not (1 <= first < last <= 31 and 1 <= month <= 12):
            continue
        number = full_year(got[4])
        return WrittenDay(first, month, number), WrittenDay(last, month, number), got.start(), got.end()
    return None


def _long_range(low: str, day_first: bool, one_span: OneSpan) -> Days | None:
    one = re.search(rf"(?<![\w]){ONE}", low)
    if not one:
        return None
    first = _written(one, day_first)
    if first is None:
        return None
    two, at = re.compile(rf"{TO}{ONE}").match(low, one.end()), one.start()
    joined = two is not None and AND.match(low, one.end()) is not None
    if two is None and (starts := re.search(rf"{STARTS}[: ]*(?:on )?$", low[:at])):
        two = re.compile(ENDS).match(low, one.end())
        at = starts.start() if two else at
    last = _written(two, day_first) if two else None
    if two is None or last is None or (joined and not one_span(first, last)):
        return first, first, one.start(), one.end()
    if first.year is None and last.year is not None and first.month is not None and last.month is not None:
        first = WrittenDay(first.day, first.month, last.year - (first.month > last.month))
    return first, last, at, two.end()


def _written(got: re.Match[str], day_first: bool) -> WrittenDay | None:
    """The groups of `ONE` as a day."""
    groups = got.groups()
    if groups[0]:
        return WrittenDay(int(groups[2]), int(groups[1]), int(groups[0]))
    if groups[3]:
        first, second = int(groups[3]), int(groups[5])
        day, month = (first, second) if day_first or groups[4] == "." else (second, first)
        if month > 12:
            day, month = month, day
        return WrittenDay(day, month, full_year(groups[6])) if 1 <= month <= 12 and 1 <= day <= 31 else None
    named = month_in(got[0])
    for at in (7, 9):
        if groups[at] and named:
            return WrittenDay(int(groups[at]), named, full_year(groups[at + 1]))
    return None
