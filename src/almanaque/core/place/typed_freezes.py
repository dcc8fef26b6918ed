"""Freeze dates that somebody typed, for a school without a weather record: rougher than a record, and it says so."""

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
    """`05-12` from `12 May`, `May 12`, `05-12` or `2027-05-12`; None when empty. Raises BadInput for 31 February.

    >>> parse_day_of_year("12 May"), parse_day_of_year("2027-05-12"), parse_day_of_year("")
    ('05-12', '05-12', None)
    """
    plain = text.strip().replace(".", " ").replace(",", " ")
    if not plain:
        return None
    month, day = _parts(plain)
    try:
        date(2028, month, day)
    except ValueError:
        raise BadInput("place.not_a_day_of_the_year", field=field, text=text.strip()[:20]) from None
    return f"{month:02}-{day:02}"


_MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")


def _parts(text: str) -> tuple[int, int]:
    """Month and day, (0, 0) when there are none."""
    words = text.split()
    if len(words) == 2:
        for name, number in (words, words[::-1]):
            if name[:3].lower() in _MONTHS and name.isalpha() and number.isdigit() and len(number) <= 2:
                return _MONTHS.index(name[:3].lower()) + 1, int(number)
    numbers = text.split("-")[-2:]
    if len(numbers) == 2 and all(part.isdigit() and len(part) <= 2 for part in numbers):
        return int(numbers[0]), int(numbers[1])
    return 0, 0
