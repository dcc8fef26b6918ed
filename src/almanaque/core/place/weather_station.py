"""What a weather station answers, read with suspicion: what cannot be is marked and left out, the rest is kept."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Any

from almanaque.core.errors import BadInput
from almanaque.core.place.readings import Reading, check

FIELDS: dict[str, str] = {
    "tmin_c": "least temperature",
    "tmax_c": "greatest temperature",
    "rain_mm": "rain",
    "wind_ms": "wind",
}
MOST_DAYS = 60  # an answer with more days is none of ours
MOST_RAIN_MM = 350.0  # beyond this a tipping bucket was kicked: our own rule
JUMP_C = 22.0  # from one day to the next: our own rule
STUCK_DAYS = 4  # so many days with the very same reading, and the sensor hangs: our own rule


@dataclass(frozen=True)
class Doubt:
    """A value that is left out: of which day and which field, what was said, and why not."""

    day: date
    what: str
    value: str
    why: str


@dataclass(frozen=True)
class Examined:
    """Readings that may be kept, in order of their days, and what was left out."""

    readings: tuple[Reading, ...]
    doubts: tuple[Doubt, ...]


def parse(answer: Any) -> list[Mapping[str, Any]]:
    """The days of an answer. Raises BadInput for what is no answer of a station."""
    days = answer.get("days") if isinstance(answer, dict) else None
    if not isinstance(days, list) or len(days) > MOST_DAYS or not all(isinstance(row, dict) for row in days):
        raise BadInput("place.station_answer")
    return days


def examine(days: Sequence[Mapping[str, Any]], *, before: Sequence[Reading], today: date) -> Examined:
    """Sort what may be kept from what is doubtful. `before` are the readings on file of the days before, oldest first.

    A day that cannot be read or is still to come is left out whole; a value is left out when it is no number, beyond the records, a
    jump of more than 22 °C from the day before, more rain than falls, or one that has not moved for four days. **Source:** limits of
    the earth by the WMO as in `readings`; the others are our own rules.
    """
    doubts: list[Doubt] = []
    found: dict[date, Reading] = {}
    for row in days:
        day = _day(row.get("day"))
        if day is None or day > today:
            doubts.append(
                Doubt(day or today, "day", str(row.get("day"))[:40], "is still to come" if day else "is no day")
            )
            continue
        values: dict[str, Any] = {field: _number(row, field, day, doubts) for field in FIELDS}
        reading = Reading(day, **values)
        found[day] = _possible(reading, today, doubts)
    history = [r for r in before if r.day not in found]
    kept: list[Reading] = []
    for day in sorted(found):
        earlier = sorted([r for r in history if r.day < day] + kept, key=lambda r: r.day)
        reading = _likely(found[day], earlier, doubts)
        kept.append(reading)
    return Examined(tuple(r for r in kept if any(getattr(r, field) is not None for field in FIELDS)), tuple(doubts))


def _day(value: Any) -> date | None:
    try:
        found = date.fromisoformat(value)
    except (TypeError, ValueError):
        return None
    return found if 1990 <= found.year <= 2150 else None


def _number(row: Mapping[str, Any], field: str, day: date, doubts: list[Doubt]) -> float | None:
    value = row.get(field)
    if value is None:
        return None
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        doubts.append(Doubt(day, field, str(value)[:40], f"is no {FIELDS[field]}"))
        return None
    return float(value)


def _possible(reading: Reading, today: date, doubts: list[Doubt]) -> Reading:
    """The reading without what no place on earth has seen; of a least above the greatest both go."""
    for field in FIELDS:
        alone = Reading(reading.day, None, None, None)
        value = getattr(reading, field)
        too_much = field == "rain_mm" and value is not None and value > MOST_RAIN_MM
        if value is not None and (too_much or check([_with(alone, field, value)], today=today).problems):
            doubts.append(Doubt(reading.day, field, f"{value:g}", f"cannot be as {FIELDS[field]}"))
            reading = _without(reading, field)
    if reading.tmin_c is not None and reading.tmax_c is not None and reading.tmin_c > reading.tmax_c:
        doubts.append(
            Doubt(reading.day, "tmin_c", f"{reading.tmin_c:g}", f"is above the greatest of {reading.tmax_c:g}")
        )
        doubts.append(Doubt(reading.day, "tmax_c", f"{reading.tmax_c:g}", f"is below the least of {reading.tmin_c:g}"))
        reading = replace(reading, tmin_c=None, tmax_c=None)
    return reading


def _with(reading: Reading, field: str, value: float | None) -> Reading:
    changed: dict[str, Any] = {field: value}
    return replace(reading, **changed)


def _without(reading: Reading, field: str) -> Reading:
    return _with(reading, field, None)


def _likely(reading: Reading, earlier: Sequence[Reading], doubts: list[Doubt]) -> Reading:
    """The reading without a jump from the day before, or what hangs."""
    yesterday = earlier[-1] if earlier and earlier[-1].day == reading.day - timedelta(days=1) else None
    for field in ("tmin_c", "tmax_c"):
        value = getattr(reading, field)
        last = getattr(yesterday, field) if yesterday else None
        if value is not None and last is not None and abs(value - last) > JUMP_C:
            doubts.append(
                Doubt(reading.day, field, f"{value:g}", f"jumps by {abs(value - last):.0f} °C from the day before")
            )
            reading = _without(reading, field)
    run = list(earlier[-(STUCK_DAYS - 1) :])
    if len(run) == STUCK_DAYS - 1 and (reading.day - run[0].day).days == STUCK_DAYS - 1:
        pairs = {(r.tmin_c, r.tmax_c) for r in (*run, reading)}
        if len(pairs) == 1 and reading.tmin_c is not None:
            doubts.append(Doubt(reading.day, "tmin_c", f"{reading.tmin_c:g}", f"has not moved for {STUCK_DAYS} days"))
            doubts.append(Doubt(reading.day, "tmax_c", f"{reading.tmax_c:g}", f"has not moved for {STUCK_DAYS} days"))
            reading = replace(reading, tmin_c=None, tmax_c=None)
    return reading
