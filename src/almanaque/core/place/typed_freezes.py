"""Freeze dates that somebody typed, for a school without a weather record: rougher than a record, and it says so."""

import re
from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.errors import BadInput


@dataclass(frozen=True)
class TypedFreezes:
    """Days of the year as MM-DD: the usual last and first freeze, and those that come late and early, one year in ten."""

    last_usual: str | None
    last_late: str | None
    first_early: str | None
    first_usual: str | None
    from_whom: str = ""

    def frost_may_fall(self, day: date) -> bool:
        """True on days of the cold season, from the early first freeze to the late last one; False without both."""
        ends, begins = self.last_late or self.last_usual, self.first_early or self.first_usual
        if ends is None or begins is None:
            return False
        at = f"{day.month:02}-{day.day:02}"
        return begins <= at <= ends if begins <= ends else at >= begins or at <= ends

    def windows(self, crop: Crop, method: Method, near: date) -> list[tuple[date, date]]:
        """The usual windows for starting a crop that way, by the usual freeze dates, the ones nearest to a day."""
        found = []
        for window in crop.windows:
            typed = self.last_usual if window.anchor == "last freeze" else self.first_usual
            if window.method != method or typed is None:
                continue
            month, day = (int(part) for part in typed.split("-"))
            years = [date(near.year + n, month, min(day, 28) if month == 2 else day) for n in (-1, 0, 1)]
            spans = [
                (y + timedelta(weeks=window.weeks[0]), y + timedelta(weeks=window.weeks[1], days=6)) for y in years
            ]
            found.append(min(spans, key=lambda span: max((span[0] - near).days, (near - span[1]).days)))
        return found


def parse_day_of_year(text: str, *, field: str = "") -> str | None:
    """`05-12` from `12 May`, `May 12th`, `05-12`, `5/26` or `2027-05-12`, `05-15` from `mid May`; None when empty.

    Raises BadInput for 31 February, and for `5/12`, which may be one day or another.

    >>> parse_day_of_year("12 May"), parse_day_of_year("2027-05-12"), parse_day_of_year("early May"), parse_day_of_year("")
    ('05-12', '05-12', '05-05', None)
    """
    plain = " ".join(re.sub(r"[.,]", " ", text).lower().split())
    if not plain:
        return None
    month, day = _parts(plain)
    try:
        date(2028, month, day)
    except ValueError:
        raise BadInput("place.not_a_day_of_the_year", field=field, text=text.strip()[:20]) from None
    return f"{month:02}-{day:02}"


_MONTHS = [
    "january",
    "february",
    "march",
    "april",
    "may",
    "june",
    "july",
    "august",
    "september",
    "october",
    "november",
    "december",
]
_ABOUT = {"early": 5, "mid": 15, "middle of": 15, "late": 25, "end of": 25}  # days of a month: our own choice
_YEAR = r"(?: (?:19|20)\d\d)?"


def _parts(text: str) -> tuple[int, int]:
    """Month and day, (0, 0) when there are none."""
    named = re.fullmatch(
        rf"(?:(?P<a>\d{{1,2}})(?:st|nd|rd|th)? (?:of )?)?(?P<name>[a-z]{{3,9}})(?: (?P<b>\d{{1,2}})(?:st|nd|rd|th)?)?{_YEAR}",
        text,
    )
    if named and (named["a"] is None) != (named["b"] is None):
        return _month(named["name"]), int(named["a"] or named["b"])
    about = re.fullmatch(rf"({'|'.join(_ABOUT)})[ -]([a-z]{{3,9}})", text)
    if about:
        return _month(about[2]), _ABOUT[about[1]]
    if numbers := re.fullmatch(r"(?:\d{4}-)?(\d{1,2})-(\d{1,2})", text):
        return int(numbers[1]), int(numbers[2])
    slashed = re.fullmatch(r"(\d{1,2})/(\d{1,2})(?:/(?:\d\d){1,2})?", text)
    if slashed:
        small, large = sorted((int(slashed[1]), int(slashed[2])))
        return (small, large) if large > 12 or small == large else (0, 0)
    return 0, 0


def _month(name: str) -> int:
    """The number of a month by its name or the first letters of it; 0 for none."""
    name = "sep" if name == "sept" else name
    return next((number for number, month in enumerate(_MONTHS, start=1) if month.startswith(name)), 0)
