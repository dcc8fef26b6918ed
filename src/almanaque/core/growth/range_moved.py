"""How the range of a first picking has moved since it was promised, and what moved it."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import Literal

Cause = Literal["picked", "seen", "correction", "season", "other"]
SEEN = ("emerged", "in flower", "ready", "bolted")


@dataclass(frozen=True)
class PromisedRange:
    """The range of the first picking as it was on the day it was kept, with the school's own correction [d] in it."""

    made_on: date
    early: date
    first: date
    late: date
    corrected: int = 0


@dataclass(frozen=True)
class Moved:
    """By how many days the middle came later (below 0: sooner), by how many the range got wider, and the cause.

    `picked` tells whether the first picking fell into the promise (`inside`); `seen` which stage was seen last, and when;
    `correction` that the school's own correction was changed; `season` that this season's warmth is counted and goes the same
    way; `other` that it is anything else, or cannot be told.
    """

    later: int
    wider: int
    cause: Cause
    stage: str = ""
    on: date | None = None
    inside: bool = False


def moved(
    promise: PromisedRange,
    now: tuple[date, date, date],
    events: Mapping[str, date],
    *,
    corrected: int = 0,
    warmer: float | None = None,
) -> Moved | None:
    """What became of a promise; None where nothing did. `now` is the range as it is: early, middle, late.

    `corrected` is the school's correction of today [d], `warmer` by what share the season was warmer for it than the middle
    year since then, None where that is not known.
    """
    early, first, late = now
    picked = events.get("first picking")
    if picked is not None:
        inside = promise.early <= picked <= promise.late
        return Moved((picked - promise.first).days, 0, "picked", on=picked, inside=inside)
    later = (first - promise.first).days
    wider = (late - early).days - (promise.late - promise.early).days
    if not later and not wider:
        return None
    seen = [(events[stage], stage) for stage in SEEN if stage in events and events[stage] >= promise.made_on]
    if seen:
        on, stage = max(seen)
        return Moved(later, wider, "seen", stage, on)
    if corrected != promise.corrected:
        return Moved(later, wider, "correction")
    return Moved(later, wider, "season" if warmer is not None and later * warmer <= 0 else "other")
