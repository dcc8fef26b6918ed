"""What the weather of the last days means for what stands in the beds, of which nobody would think: no bees, heat, frost, dry seedbeds.

Every limit is common practice or our own rule, said beside it.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date

from almanaque.core.crops.crop import Crop
from almanaque.core.findings import Finding, Fix, Severity
from almanaque.core.growth.observed_stages import FRUITS
from almanaque.core.units import Units, format_rain, format_temperature
from almanaque.core.words import listed

BEES_C = 14.0  # greatest temperature of a day [°C] below which bees hardly fly: common practice, no source
WINDY_MS = 7.0  # mean wind [m/s] in which they stay at home: common practice, no source
WET_MM = 5.0  # rain of a day on which they do: our own rule
BEELESS_DAYS, HOT_DAYS, DRY_DAYS = 4, 3, 4  # of the days looked at: our own rule
DRY_MM = 2.0  # rain in so many dry days that a seedbed has nothing of: our own rule
LEAST_SAID_MM = 1.3  # less rain than that is called none
DRYING_C = 14.0  # greatest temperature on the mean of them from which an inch of soil dries out: our own rule
DOWNPOUR_MM = 30.0  # rain of a day that washes seed away: our own rule
OURS = "own_rule"


@dataclass(frozen=True)
class SeenDay:
    """A day's readings at the beds; None for what nobody read."""

    day: date
    tmin_c: float | None
    tmax_c: float | None
    rain_mm: float | None
    wind_ms: float | None


@dataclass(frozen=True)
class OutdoorPlant:
    """A planting in the ground: where it stands, from when, whether it is up, and whether it flowers in these days."""

    crop: Crop
    place: str
    since: date
    up: bool
    in_flower: bool
    under_cover: bool = False

    @property
    def name(self) -> str:
        return f"{self.crop.name.en} in {self.place}"


def notes(standing: Sequence[OutdoorPlant], days: Sequence[SeenDay], units: Units) -> list[Finding]:
    """What to look at because of these days, the worst first; each kind once, with all plantings that it is about."""
    rules = (_froze, _hot, _beeless, _dry, _washed)
    found = [finding for rule in rules for finding in rule(standing, days, units)]
    order: dict[Severity, int] = {"fault": 0, "care": 1, "note": 2}
    return sorted(found, key=lambda finding: order[finding.severity])


def _froze(standing: Sequence[OutdoorPlant], days: Sequence[SeenDay], units: Units) -> list[Finding]:
    read = [day for day in days if day.tmin_c is not None]
    if not read:
        return []
    coldest = min(read, key=lambda day: day.tmin_c or 0.0)
    least = coldest.tmin_c or 0.0
    hit = [s for s in standing if s.up and s.since <= coldest.day and not s.under_cover and s.crop.bears_c > least]
    if not hit:
        return []
    return [
        Finding(
            "froze",
            "fault",
            listed(_names(hit)),
            {"least": format_temperature(least, units), "day": coldest.day, "hit": _names(hit)},
            OURS,
            (Fix("look_for_black_leaves"),),
        )
    ]


def _hot(standing: Sequence[OutdoorPlant], days: Sequence[SeenDay], units: Units) -> list[Finding]:
    def too_hot(s: OutdoorPlant) -> bool:
        return sum(d.tmax_c is not None and d.tmax_c >= s.crop.heat_c and d.day >= s.since for d in days) >= HOT_DAYS

    found = []
    leafy = [
        s
        for s in standing
        if s.up and s.crop.season == "cool" and s.crop.life != "perennial" and not s.in_flower and too_hot(s)
    ]
    flowering = [s for s in standing if s.in_flower and s.crop.part in FRUITS and too_hot(s)]
    if leafy:
        found.append(
            Finding(
                "heat_now",
                "care",
                listed(_names(leafy)),
                {"hot_days": HOT_DAYS, "leafy": _names(leafy)},
                OURS,
                (Fix("pick_and_shade"),),
                case="leaves",
            )
        )
    if flowering:
        found.append(
            Finding(
                "heat_now",
                "care",
                listed(_names(flowering)),
                {"flowering": _names(flowering)},
                OURS,
                (Fix("water_at_the_root"),),
                case="flowers",
            )
        )
    return found


def _beeless(standing: Sequence[OutdoorPlant], days: Sequence[SeenDay], _: Units) -> list[Finding]:
    poor = [d for d in days if _no_bees(d)]
    hit = [s for s in standing if s.in_flower and s.crop.pollination == "insects" and s.crop.part in FRUITS]
    if len(poor) < BEELESS_DAYS or not hit:
        return []
    apart = any(s.crop.male_female for s in hit)
    return [
        Finding(
            "no_bees",
            "care",
            listed(_names(hit)),
            {"poor": len(poor), "days": len(days), "hit": _names(hit)},
            OURS,
            (Fix("carry_pollen_to_female" if apart else "carry_pollen"),),
        )
    ]


def _no_bees(day: SeenDay) -> bool:
    tests: tuple[tuple[float | None, Callable[[float], bool]], ...] = (
        (day.tmax_c, lambda value: value < BEES_C),
        (day.wind_ms, lambda value: value > WINDY_MS),
        (day.rain_mm, lambda value: value >= WET_MM),
    )
    return any(value is not None and test(value) for value, test in tests)


def _dry(standing: Sequence[OutdoorPlant], days: Sequence[SeenDay], units: Units) -> list[Finding]:
    last = list(days)[-DRY_DAYS:]
    warm = [d.tmax_c for d in last if d.tmax_c is not None]
    if len(last) < DRY_DAYS or not warm or sum(warm) / len(warm) < DRYING_C or any(d.rain_mm is None for d in last):
        return []
    fell = sum(d.rain_mm or 0.0 for d in last)
    hit = [s for s in standing if not s.up and s.since <= last[-1].day]
    if fell >= DRY_MM or not hit:
        return []
    return [
        Finding(
            "seedbed_dry",
            "care",
            listed(_names(hit)),
            {"rain": format_rain(fell, units), "days": DRY_DAYS, "hit": _names(hit)},
            OURS,
            (Fix("keep_seedbed_moist"),),
            case="" if fell >= LEAST_SAID_MM else "none",
        )
    ]


def _washed(standing: Sequence[OutdoorPlant], days: Sequence[SeenDay], units: Units) -> list[Finding]:
    found = []
    for day in days:
        if day.rain_mm is not None and day.rain_mm >= DOWNPOUR_MM:
            hit = [s for s in standing if not s.up and not s.under_cover and s.since <= day.day]
            if hit:
                found.append(
                    Finding(
                        "washed",
                        "care",
                        listed(_names(hit)),
                        {"rain": format_rain(day.rain_mm, units), "day": day.day, "hit": _names(hit)},
                        OURS,
                        (Fix("look_at_the_rows"),),
                    )
                )
    return found


def _names(hit: Sequence[OutdoorPlant]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(s.name for s in hit))
