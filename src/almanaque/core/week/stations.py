"""Stations beside the beds: their routines by week and season, readings with limits, and supplies that run low."""

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Literal

from almanaque.core.crops.crop import turned
from almanaque.core.errors import BadInput
from almanaque.core.findings import Finding, Fix
from almanaque.core.year.steps import Step

Every = Literal["day", "week", "month"]
OURS = "own_rule"
MOST_READING = 1_000_000.0  # beyond which it is a slip: our own rule


@dataclass(frozen=True)
class Routine:
    """What is done at a station, how often and how long [min]. A `resting` one is for the months in which it is asleep."""

    what: str
    every: Every
    minutes: int
    resting: bool = False


@dataclass(frozen=True)
class StationReading:
    """What is read: a number in its unit with limits, or one of some choices, of which those in `bad` want something done.

    `below` and `above` say what to do beyond the limits. A `count` has no unit of its own.
    """

    name: str
    unit: str = ""
    least: float | None = None
    most: float | None = None
    below: str = ""
    above: str = ""
    choices: tuple[str, ...] = ()
    bad: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class StationKind:
    """A kind of station as it ships. `asleep` are months north of the equator."""

    key: str
    name: str
    about: str
    how_to: str
    caution: str
    readings: tuple[StationReading, ...] = ()
    routines: tuple[Routine, ...] = ()
    supplies: tuple[str, ...] = ()
    asleep: tuple[int, ...] = ()


def check_reading(reading: StationReading, value: float | None, choice: str) -> None:
    """Raise BadInput for a value that this reading cannot have."""
    if reading.choices:
        if choice not in reading.choices:
            raise BadInput(
                "week.reading_choice_unknown",
                field=reading.name,
                reading=reading.name.capitalize(),
                choices=", ".join(reading.choices),
            )
    elif value is None:
        raise BadInput("week.reading_not_a_number", field=reading.name, reading=reading.name.capitalize())
    elif not abs(value) <= MOST_READING or (reading.unit == "count" and (value < 0 or value != int(value))):
        raise BadInput(
            "week.reading_not_whole" if reading.unit == "count" else "week.reading_too_large",
            field=reading.name,
            reading=reading.name.capitalize(),
        )
    elif reading.unit == "%" and not 0 <= value <= 100:
        raise BadInput("week.reading_not_a_share", field=reading.name, reading=reading.name.capitalize())


def check_limits(reading: StationReading, number: int) -> None:
    """Raise BadInput for limits the wrong way round; `number` is the reading's on its form."""
    if reading.least is not None and reading.most is not None and reading.least > reading.most:
        raise BadInput("week.limits_swapped", field=f"least-{number}", reading=reading.name)


def judge(station: str, reading: StationReading, value: float | None, choice: str) -> Finding | None:
    """What a reading means, None while it is in order. **Source:** common practice; the limits are the school's own to set."""
    if choice and choice in reading.bad:
        return Finding(
            "station",
            "care",
            station,
            {"station": station, "reading": reading.name, "choice": choice},
            OURS,
            (Fix.written(reading.bad[choice]),),
            case="choice",
        )
    if value is None:
        return None
    unit = "" if reading.unit in ("", "count") else f" {reading.unit}"
    if reading.least is not None and value < reading.least:
        return Finding(
            "station",
            "care",
            station,
            {"station": station, "reading": reading.name, "value": value, "unit": unit, "least": reading.least},
            OURS,
            (Fix.written(reading.below),) if reading.below else (),
            case="below",
        )
    if reading.most is not None and value > reading.most:
        return Finding(
            "station",
            "care",
            station,
            {"station": station, "reading": reading.name, "value": value, "unit": unit, "most": reading.most},
            OURS,
            (Fix.written(reading.above),) if reading.above else (),
            case="above",
        )
    return None


def head_count(station: str, reading: StationReading, counted: Sequence[float]) -> Finding | None:
    """Fewer heads than last time is said at once. `counted` are the counts so far, oldest first."""
    if reading.name != "head count" or len(counted) < 2 or counted[-1] >= counted[-2]:
        return None
    missing = counted[-2] - counted[-1]
    return Finding(
        "head_count",
        "fault",
        station,
        {"station": station, "missing": missing, "now": counted[-1], "before": counted[-2]},
        OURS,
        (Fix("look_for_them"),),
    )


def asleep_in(months: Collection[int], day: date, *, southern: bool) -> bool:
    """Whether a station rests on a day; half a year on south of the equator."""
    return day.month in turned(tuple(months), southern=southern)


def jobs(
    name: str,
    routines: Iterable[tuple[int, Routine]],
    caution: str,
    asleep: Collection[int],
    first: date,
    last: date,
    *,
    southern: bool,
) -> Iterator[tuple[int, Step]]:
    """The routines' jobs of the weeks from a day to a day, each with its routine's number.

    What is done every day is one job a week, as nobody ticks off five; what is done every month falls into its first whole week. A
    resting routine has jobs while the station is asleep, the others while it is not. The ordinal is the number of the week, so that
    the same week always means the same job. **Source:** our own rule.
    """
    monday = first - timedelta(days=first.weekday())
    while monday <= last:
        sunday = monday + timedelta(days=6)
        resting = asleep_in(asleep, monday, southern=southern)
        for number, routine in routines:
            if routine.resting != resting and (asleep or routine.resting):
                continue
            if routine.every == "month" and monday.day > 7:
                continue
            title = (
                f"{name}: {routine.what[:1].lower()}{routine.what[1:]}"
                if name.lower() not in routine.what.lower()
                else routine.what
            )
            if routine.every == "day":
                title = f"{title}, every day"
            yield (
                number,
                Step(
                    f"station {number}",
                    monday.toordinal() // 7,
                    title[:200],
                    max(monday, first),
                    sunday,
                    routine.minutes,
                    caution,
                ),
            )
        monday += timedelta(days=7)


def running_low(name: str, have: float, unit: str, low: float | None, told: str) -> Finding | None:
    """A supply at or below its mark, and who is told."""
    if low is None or have > low:
        return None
    return Finding(
        "running_low",
        "care",
        name,
        {"name": name, "have": have, "unit": f" {unit}" if unit else "", "low": low},
        OURS,
        (Fix("tell", params={"whom": told}) if told else Fix("buy_some"),),
    )
