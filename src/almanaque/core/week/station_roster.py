"""Who looks after which station over a year: term by term, with what is open, and a fair way to fill it."""

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

DAY = timedelta(days=1)
LIVING = frozenset(
    {"worm box", "animals", "butterfly"}
)  # kinds of station that want a place for the winter and for breaks


@dataclass(frozen=True)
class RosterTerm:
    """A stretch of the year for which a station is given: a term, or the summer."""

    name: str
    starts: date
    ends: date


@dataclass(frozen=True)
class Care:
    """A group looks after a station from a day to a day, both included."""

    station: str
    group: str
    starts: date
    ends: date

    def meets(self, term: RosterTerm) -> bool:
        return self.starts <= term.ends and self.ends >= term.starts


@dataclass(frozen=True)
class RosterCell:
    """A station in a term: who has it, in order, and the days on which nobody has."""

    cares: tuple[Care, ...]
    gaps: tuple[tuple[date, date], ...]


def cell(station: str, term: RosterTerm, cares: Iterable[Care]) -> RosterCell:
    """What a station's cell of the roster holds."""
    mine = sorted((c for c in cares if c.station == station and c.meets(term)), key=lambda c: c.starts)
    gaps, day = [], term.starts
    for care in mine:
        if care.starts > day:
            gaps.append((day, care.starts - DAY))
        day = max(day, care.ends + DAY)
    if day <= term.ends:
        gaps.append((day, term.ends))
    return RosterCell(tuple(mine), tuple(gaps))


def fair(
    stations: Sequence[str], terms: Sequence[RosterTerm], groups: Sequence[str], cares: Sequence[Care]
) -> list[Care]:
    """Groups for the terms in which nobody has a station at all: who has had fewest turns first, then who has not had that station.

    **Source:** our own rule. Terms in which somebody has a station for some days are left as they are.
    """
    given, turns = list(cares), Counter(care.group for care in cares)
    found: list[Care] = []
    for term in terms:
        for station in stations:
            if not groups or any(c.station == station and c.meets(term) for c in given):
                continue
            here = Counter(c.group for c in given if c.meets(term))
            had = {c.group for c in given if c.station == station}
            chosen = min(groups, key=lambda g: (here[g], turns[g], g in had, groups.index(g)))
            care = Care(station, chosen, term.starts, term.ends)
            turns[chosen] += 1
            given.append(care)
            found.append(care)
    return found


def homeless(starts: date, ends: date, homes: Sequence[tuple[date, date]]) -> bool:
    """True when no home is named for any day of a stretch."""
    return not any(first <= ends and last >= starts for first, last in homes)
