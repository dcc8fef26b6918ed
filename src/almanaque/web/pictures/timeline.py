"""A stretch of days laid along a drawing, as the charts of Year share it: days to pixels, bands, months."""

from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.web import words

DAY = timedelta(days=1)


@dataclass(frozen=True)
class TimelineBand:
    """A named stretch on the drawing [px]; a line has no width."""

    x: float
    width: float
    name: str


@dataclass(frozen=True)
class Timeline:
    """Days from `starts` to `ends`, both included, over `width` pixels from `left` on."""

    starts: date
    ends: date
    left: float
    width: float

    @property
    def days(self) -> int:
        return (self.ends - self.starts).days + 1

    @property
    def day_px(self) -> float:
        return self.width / self.days

    def at(self, day: date) -> float:
        """Where a day begins; days beyond the stretch lie at its ends."""
        return round(self.left + min(max((day - self.starts).days, 0), self.days) * self.day_px, 1)

    def band(self, name: str, first: date, last: date) -> TimelineBand:
        """From the beginning of the first day to the end of the last."""
        return TimelineBand(self.at(first), round(self.at(last + DAY) - self.at(first), 1), name)

    def months(self) -> list[TimelineBand]:
        """The first days of months within the stretch, with their short names."""
        found, first = [], self.starts.replace(day=1)
        while first <= self.ends:
            if first >= self.starts:
                found.append(TimelineBand(self.at(first), 0, words.month(first)))
            first = (first + timedelta(days=32)).replace(day=1)
        return found

    def line(self, day: date | None) -> float | None:
        """Where a day lies, None without one or beyond the stretch."""
        return self.at(day) if day is not None and self.starts <= day <= self.ends else None
