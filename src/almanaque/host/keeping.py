"""Which backups of a folder are kept: the last of each of so many days, weeks and months."""

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import UTC, datetime

from almanaque.host.errors import HostError

NAME = re.compile(r"almanaque-(\d{8}-\d{6})\.backup")
STAMP = "%Y%m%d-%H%M%S"


@dataclass(frozen=True)
class Keeping:
    """How many days, weeks and months with a backup keep their last one."""

    days: int = 7
    weeks: int = 4
    months: int = 12


def read(text: str) -> Keeping:
    """`7d,4w,12m`; what is left out keeps none. Raises HostError for anything else."""
    found = {"d": 0, "w": 0, "m": 0}
    for part in text.split(","):
        match = re.fullmatch(r"\s*(\d{1,3})\s*([dwm])\s*", part)
        if match is None:
            raise HostError(f"“{text}” does not say what to keep. Write it like 7d,4w,12m: days, weeks and months.")
        found[match[2]] = int(match[1])
    if not any(found.values()):
        raise HostError(f"“{text}” would keep no backup at all. Write it like 7d,4w,12m: days, weeks and months.")
    return Keeping(found["d"], found["w"], found["m"])


def name_of(now: datetime) -> str:
    """The name of a backup that is made now, in UTC."""
    return f"almanaque-{now.strftime(STAMP)}.backup"


def to_drop(names: Iterable[str], wish: Keeping) -> list[str]:
    """Those of our backups that need not be kept, the oldest first. Files of other names are nobody's business, the newest always stays."""
    made = sorted(
        (
            (datetime.strptime(match[1], STAMP).replace(tzinfo=UTC), name)
            for name in names
            if (match := NAME.fullmatch(name))
        ),
        reverse=True,
    )
    kept = {name for _, name in made[:1]}
    periods: list[tuple[int, Callable[[datetime], object]]] = [
        (wish.days, datetime.date),
        (wish.weeks, lambda at: at.isocalendar()[:2]),
        (wish.months, lambda at: (at.year, at.month)),
    ]
    for most, period in periods:
        last: dict[object, str] = {}
        for at, name in made:
            last.setdefault(period(at), name)
        kept |= set(list(last.values())[:most])
    return [name for _, name in reversed(made) if name not in kept]
