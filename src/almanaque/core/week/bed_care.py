"""What a bed wants as a whole: weeding by the age of its plants and the weather, a cover for bare ground, a look at its drip line."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.core.year.steps import WEEK, Step

DAY = timedelta(days=1)
SEEDLINGS, YOUNG = 35, 63  # days since they came up, until which plants are called so: our own rule
AMONG_SEEDLINGS, AMONG_YOUNG, AMONG_GROWN = 7, 14, 28  # days from one weeding to the next: common practice, no source
STILL_C = 6.0  # mean of the last days [°C] below which weeds hardly grow: common practice, no source
WARM_C, WET_MM = 12.0, 20.0  # warmer and wetter than that in two weeks, they come in half the time: our own rule
WEEDS_SEED_DAYS = 35  # annual weeds seed five weeks after they come up: common practice, no source
MINUTES_A_M2, LEAST_MINUTES, MOST_MINUTES = 4.0, 10, 40  # of weeding, for a class: our own rule
BARE_DAYS = 56  # ground that lies bare for so long over the winter is covered: our own rule
BARE_SHARE = 0.4  # of a bed's squares, from which on it is: our own rule
COVER_BEFORE, COVER_AFTER = (
    timedelta(days=28),
    timedelta(days=14),
)  # around the first freeze: common practice, no source
DRIP_EVERY = 14  # days from one look at a drip line to the next: our own rule
RESULTS = ("in order", "blocked", "leaking")
GLOVES = "Gloves. Nobody pulls what nobody knows: some saps burn."


@dataclass(frozen=True)
class LatelyOutdoors:
    """The last two weeks: mean of the day [°C] and rain [mm]; None for what nobody read."""

    mean_c: float | None
    rain_mm: float | None


@dataclass(frozen=True)
class WeededBed:
    """A bed with the days on which its plants came up, when and how often it was weeded, and its ground [m²]."""

    name: str
    up: tuple[date, ...]
    weeded: date | None
    area_m2: float
    times: int = 0


def weeding(bed: WeededBed, lately: LatelyOutdoors, today: date) -> Step | None:
    """The next weeding of a bed; None where nothing is up, or where it is too cold for weeds.

    Due so many days after the last one, or after its first seedlings, as its youngest plants and the weather have it; never later
    than weeds need to seed. **Source:** common practice and our own rules.
    """
    up = [day for day in bed.up if day <= today]
    if not up or (lately.mean_c is not None and lately.mean_c < STILL_C):
        return None
    age = (today - max(up)).days
    every = AMONG_SEEDLINGS if age < SEEDLINGS else AMONG_YOUNG if age < YOUNG else AMONG_GROWN
    warm = lately.mean_c is not None and lately.mean_c >= WARM_C
    if warm and lately.rain_mm is not None and lately.rain_mm >= WET_MM:
        every = max(WEEK.days, every // 2)
    begun = max(bed.weeded or min(up), today - WEEDS_SEED_DAYS * DAY)
    due = max(begun + every * DAY, today)
    minutes = min(MOST_MINUTES, max(LEAST_MINUTES, round(bed.area_m2 * MINUTES_A_M2)))
    return Step(
        "weeding",
        bed.times + 1,  # the next one is the same job however its day moves
        f"Weed {bed.name}, roots out; say how much it was",
        due,
        due + 6 * DAY,
        minutes,
        GLOVES,
        lapses=True,
        again=every,
    )


def winter_cover(name: str, bare: int, squares: int, freeze: date | None, today: date) -> Step | None:
    """A cover for ground that lies bare over the winter; None where little of a bed does, or where no winter comes.

    `bare` are squares in which nothing stands for `BARE_DAYS` from the first freeze on. **Source:** common practice, no source.
    """
    if freeze is None or not squares or bare / squares < BARE_SHARE:
        return None
    first, last = freeze - COVER_BEFORE, freeze + COVER_AFTER
    if last < today:
        return None
    what = "all of it" if bare == squares else f"{bare} of {squares} squares"
    return Step(
        "bare ground",
        freeze.year,
        f"Cover the bare ground of {name} ({what}): a hand of leaves or straw, or sow a cover crop",
        max(first, today),
        last,
        25,
        "Leaves without litter or droppings; wash hands.",
        lapses=True,
    )


def drip_check(
    name: str, looked: date | None, planted: bool, cold: bool, today: date, *, times: int = 0
) -> Step | None:
    """The next look at a bed's drip line; None where nothing stands in it or it is too cold to water. **Source:** our own rule."""
    if not planted or cold:
        return None
    due = max(today, looked + DRIP_EVERY * DAY) if looked else today
    return Step(
        "drip",
        times + 1,
        f"Check the drip line of {name}: it drips at every hole, and a can at its end fills as always",
        due,
        due + 6 * DAY,
        5,
        lapses=True,
        again=DRIP_EVERY,
    )


def last_of(days: Iterable[date | None]) -> date | None:
    """The latest day; None without one."""
    return max((day for day in days if day is not None), default=None)
