"""How far the first picking was from its forecast, crop by crop, and what the school's own seasons say for the next one.

Errors are days, above 0 when it came later than forecast. They are taken from the forecast as it was when the planting was started.
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from statistics import median

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.growth import predictive_range
from almanaque.core.growth.range_moved import Cause
from almanaque.core.harvest.learned_shift import Evidence, Learned, Nearby, Shift, by_itself

LEAST_DAYS, MOST_DAYS = 2, 60  # of a correction: our own rule
PACE_STEP = 0.02  # share; every pace has the whole record gone through anew, and less is half a day: our own rule
LEAST_PACE, MOST_PACE = 0.8, 1.2  # share of its usual time: our own rule


@dataclass(frozen=True)
class ForecastOutcome:
    """A planting with its forecast and what came. `corrected` days were added to the forecast already.

    `last_range` is the range as it was on the eve of the first picking (early, middle, late), `moved_by` what had moved it by then.
    """

    crop: str
    bed: str
    season: str
    method: Method
    started: date
    early: date
    forecast: date
    late: date
    last_forecast: date
    first: date
    last: date
    corrected: int = 0
    last_range: tuple[date, date, date] | None = None
    moved_by: Cause | None = None
    bed_id: str = ""

    @property
    def error(self) -> int:
        """Days by which the first picking came after its forecast."""
        return (self.first - self.forecast).days

    @property
    def inside(self) -> bool:
        """True when the first picking fell into the range that was given."""
        return self.early <= self.first <= self.late

    @property
    def inside_last(self) -> bool | None:
        """True when it fell into the last range before it; None where that was not kept."""
        return self.last_range[0] <= self.first <= self.last_range[2] if self.last_range else None


@dataclass(frozen=True)
class Error:
    """A crop's errors: how many plantings in how many seasons, their median and extremes [d], and how many fell into the range.

    `learned` are the days by which the next one is expected later than forecast without any correction, `unsure` the standard
    deviation that is left of it, from all of the school's pickings.
    """

    crop: str
    plantings: int
    seasons: int
    median_days: float
    least: int
    most: int
    inside: int
    learned: float
    unsure: float

    @property
    def usable(self) -> int:
        """Days for the school's own correction; 0 for less than two days. **Source:** our own rule."""
        return self.worth if abs(self.worth) >= LEAST_DAYS else 0

    @property
    def worth(self) -> int:
        """Whole days that the pickings are worth, however few, for a school whose dates follow them by themselves."""
        return max(-MOST_DAYS, min(MOST_DAYS, round(self.learned)))


def errors(facts: Iterable[ForecastOutcome], nearby: Sequence[Nearby] = ()) -> list[Error]:
    """Errors by crop, those with the most seasons first; what schools near by found counts into what is `learned`."""
    by_crop: dict[str, list[ForecastOutcome]] = {}
    for fact in facts:
        by_crop.setdefault(fact.crop, []).append(fact)
    learned = Learned([_evidence(fact) for group in by_crop.values() for fact in group], nearby)
    found = (_error(crop, group, learned.shift(crop)) for crop, group in by_crop.items())
    return sorted(found, key=lambda e: (-e.seasons, e.crop))


@dataclass(frozen=True)
class BedPace:
    """The share of its usual time that an annual takes in a bed, and by how many first pickings that is known."""

    pace: float
    plantings: int


def bed_paces(facts: Iterable[ForecastOutcome], nearby: Sequence[Nearby] = ()) -> dict[str, BedPace]:
    """By bed, how its plants go against the school's others; beds that go like them are left out."""
    group = [fact for fact in facts if fact.bed_id]
    learned = Learned([_evidence(fact) for fact in group], nearby)
    found = {}
    for bed in dict.fromkeys(fact.bed_id for fact in group):
        # Whole steps are believed: where beds go alike, hardly one is moved.
        pace = 1 + math.trunc(learned.of_bed(bed) / PACE_STEP) * PACE_STEP
        found[bed] = BedPace(round(min(MOST_PACE, max(LEAST_PACE, pace)), 2), sum(fact.bed_id == bed for fact in group))
    return {bed: one for bed, one in found.items() if one.pace != 1}


def own_shares(facts: Iterable[ForecastOutcome]) -> dict[str, Shift]:
    """By crop, what the school's own pickings by themselves say of it, as shares of its time: what it may tell others."""
    group = list(facts)
    learned = Learned([_evidence(fact) for fact in group])
    found = {crop: by_itself(learned.shift(crop)) for crop in sorted({fact.crop for fact in group})}
    return {crop: shift for crop, shift in found.items() if shift is not None}


def of_neighbours(crop: Crop, nearby: Sequence[Nearby]) -> int:
    """Days by which a crop that was never measured here is expected later, by what schools near by found; 0 where they say nothing."""
    learned = Learned([], [one for one in nearby if one.crop == crop.key]).shift(crop.key)
    least, most = crop.days[crop.methods[0]]
    return max(-MOST_DAYS, min(MOST_DAYS, round(learned.share * ((least + most) / 2 - crop.corrected_days))))


def _evidence(fact: ForecastOutcome) -> Evidence:
    """What a first picking teaches, with the days that people usually take to come set aside."""
    chance = (fact.late - fact.early).days / (2 * predictive_range.Z)
    later = fact.error + fact.corrected - predictive_range.PEOPLE_DAYS
    return Evidence(fact.crop, fact.bed_id, later / _grows(fact), chance / _grows(fact))


def _grows(fact: ForecastOutcome) -> int:
    return max(1, (fact.forecast - fact.started).days - fact.corrected)


def _error(crop: str, group: list[ForecastOutcome], shift: Shift) -> Error:
    days = [fact.error for fact in group]
    grows = median(_grows(fact) for fact in group)
    return Error(
        crop=crop,
        plantings=len(group),
        seasons=len({fact.season for fact in group}),
        median_days=median(days),
        least=min(days),
        most=max(days),
        inside=sum(fact.inside for fact in group),
        learned=shift.share * grows,
        unsure=shift.unsure * grows,
    )


def words(error: Error) -> str:
    """The sentence beside a crop: how it came, with n."""
    days = round(error.median_days)
    came = (
        "on the day forecast" if days == 0 else f"{_days(abs(days))} {'later' if days > 0 else 'earlier'} than forecast"
    )
    plantings = "1 planting" if error.plantings == 1 else f"{error.plantings} plantings"
    seasons = "1 season" if error.seasons == 1 else f"{error.seasons} seasons"
    return (
        f"{came}, in the middle of {plantings} in {seasons}; {error.inside} of {error.plantings} within the range given"
    )


def _days(count: int) -> str:
    return "1 day" if count == 1 else f"{count} days"


def corrected(crop: Crop, days: int) -> Crop:
    """The crop with its time to the first picking longer or shorter by `days`, packet days and warmth in proportion.

    Nothing ripens in less than half its packet's days; plants that come again each year stay as they are. **Source:** our own rule.
    """
    if crop.life == "perennial":
        return crop
    changed: dict[Method, tuple[int, int]] = {}
    warmth = dict(crop.degree_days)
    for method, (least, most) in crop.days.items():
        middle = (least + most) / 2
        shift = max(days, -int(middle // 2))
        changed[method] = (max(1, least + shift), max(1, most + shift))
        if method in warmth and middle > 0:
            warmth[method] = round(warmth[method] * (middle + shift) / middle, 1)
    copy = crop.model_copy(update={"days": changed, "degree_days": warmth, "corrected_days": days})
    vars(copy).pop("digest", None)  # a copy keeps what was computed of the other crop
    return copy
