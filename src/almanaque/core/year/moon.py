"""Full and new moons, for those who plant by them: a note in the calendar, off at first. There is no good evidence for it."""

from collections.abc import Iterator
from datetime import date, timedelta
from typing import Literal

Phase = Literal["new moon", "full moon"]
FULL, CYCLE = 14.0, 28.0  # the library's scale of the phase: 0 new, 14 full, 28 new again


def phases(starts: date, ends: date) -> Iterator[tuple[date, Phase]]:
    """Days of new and full moon from a day to a day, both included, by the phase at the day's beginning in universal time.

    **Source:** the library astral; within a day of the almanac's instant.
    """
    from astral import moon  # with long tables, for the few who want it

    before = moon.phase(starts - timedelta(days=1))
    for offset in range((ends - starts).days + 1):
        day = starts + timedelta(days=offset)
        now = moon.phase(day)
        if before < FULL <= now:
            yield day, "full moon"
        elif now < before:
            yield day, "new moon"
        before = now
