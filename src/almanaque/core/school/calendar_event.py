"""Events as a calendar file gives them, before anybody says what they mean."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, time, timedelta


@dataclass(frozen=True)
class Event:
    """An event as a file gave it: days are local and both included; `where` says which file and line.

    `begins` is the local time at which a timed event begins and `lasts` how long; both None for whole days. `notes` is what
    stands beside its name.
    """

    name: str
    starts: date
    ends: date
    where: str
    begins: time | None = None
    lasts: timedelta | None = None
    notes: str = ""
    cancelled: bool = False

    @property
    def days(self) -> int:
        return (self.ends - self.starts).days + 1

    def each_day(self) -> Iterator[date]:
        return (self.starts + timedelta(days=n) for n in range(self.days))
