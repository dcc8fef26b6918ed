"""What the beds gave: per area, per plant, per season and bed-day, in money and servings; compared only like with like.

Masses are grams, areas square metres. A weight that is not known is never counted as nothing: a total says how many pickings had none
and that it is then the least that was picked.
"""

import itertools
from collections.abc import Callable, Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from statistics import median
from typing import Literal, NamedTuple, TypeVar

from almanaque.core.crops.crop import Crop

SERVING_G = 80.0  # of vegetables: WHO counts five of them a day, 400 g; from memory
SERVED = ("dark green vegetables", "red and orange vegetables", "other vegetables", "beans, peas and lentils", "fruits")
TREND_SEASONS = 4  # before a trend is spoken of: our own rule


class GrownPlanting(NamedTuple):
    """A planting as the book needs it: its ground [m²], its plants, and from when to when it held its place."""

    planting: str
    bed: str
    crop: str
    variety: str
    area_m2: float
    plants: int
    bed_from: date
    bed_to: date


class PickedSum(NamedTuple):
    """Pickings of one planting, part, class and team in one season, added up. Mass [g]; the range is of the estimated part."""

    planting: str
    season: str
    part: str
    group: str
    team: str
    pickings: int
    weighed_g: Decimal
    estimated_g: Decimal
    low_g: Decimal
    high_g: Decimal
    without_weight: int
    first: date
    last: date


@dataclass(frozen=True)
class Total:
    """A sum of pickings: weighed and estimated mass [g] apart, and how many pickings had no weight at all.

    `area_days` [m² d] is ground times the days for which it was held.
    """

    pickings: int
    weighed_g: Decimal
    estimated_g: Decimal
    low_g: Decimal
    high_g: Decimal
    without_weight: int
    area_m2: float
    plants: int
    area_days: float
    first: date
    last: date

    @property
    def grams(self) -> Decimal:
        return self.weighed_g + self.estimated_g

    @property
    def range_g(self) -> tuple[Decimal, Decimal]:
        """The mass [g] that it may have been at least and at most, where some of it was estimated."""
        return self.weighed_g + self.low_g, self.weighed_g + self.high_g

    @property
    def complete(self) -> bool:
        """True when every picking has a weight; else the mass is the least that was picked."""
        return self.without_weight == 0

    @property
    def known(self) -> bool:
        return self.pickings > self.without_weight

    @property
    def per_square_metre(self) -> float | None:
        """Yield [g/m²] of the ground that the picked plantings took; None when no weight is known."""
        return float(self.grams) / self.area_m2 if self.area_m2 > 0 and self.known else None

    @property
    def per_plant_g(self) -> float | None:
        return float(self.grams) / self.plants if self.plants and self.known else None


Against = Literal["", "below", "within", "above"]


def against_usual(crop: Crop, total: Total, part: str) -> Against:
    """`below`, `within` or `above` the crop's usual range [g/m²] of its main part; empty when that cannot be said.

    It cannot for another part of the plant, without a weight, and `below` not while a weight is missing.
    """
    given = total.per_square_metre
    if given is None or part != crop.part:
        return ""
    low, high = crop.yield_g_m2
    if given < low:
        return "below" if total.complete else ""
    return "above" if given > high else "within"


Key = TypeVar("Key", bound=Hashable)
Seasons = Mapping[str, tuple[date, date]]


def totals_by(
    sums: Iterable[PickedSum], grown: Mapping[str, GrownPlanting], key: Callable[[PickedSum], Key], seasons: Seasons
) -> dict[Key, Total]:
    """Add up by a key such as bed, crop or season. Each planting's ground and plants count once in a season of a group.

    `seasons` gives first and last day of each season that may occur; bed-days are counted within them.
    """
    groups: dict[Key, list[PickedSum]] = {}
    for one in sums:
        groups.setdefault(key(one), []).append(one)
    return {name: total(group, grown, seasons) for name, group in groups.items()}


def total(sums: Iterable[PickedSum], grown: Mapping[str, GrownPlanting], seasons: Seasons) -> Total:
    """Add up. Raises ValueError for nothing, because no picking is not a harvest of nothing."""
    group = list(sums)
    if not group:
        raise ValueError("there is nothing to add up")
    held = {(one.planting, one.season): grown[one.planting] for one in group}
    plantings = {planting.planting: planting for planting in held.values()}
    return Total(
        pickings=sum(one.pickings for one in group),
        weighed_g=sum((one.weighed_g for one in group), Decimal(0)),
        estimated_g=sum((one.estimated_g for one in group), Decimal(0)),
        low_g=sum((one.low_g for one in group), Decimal(0)),
        high_g=sum((one.high_g for one in group), Decimal(0)),
        without_weight=sum(one.without_weight for one in group),
        area_m2=sum(planting.area_m2 for planting in plantings.values()),
        plants=sum(planting.plants for planting in plantings.values()),
        area_days=sum(p.area_m2 * days_held(p, seasons.get(season)) for (_, season), p in held.items()),
        first=min(one.first for one in group),
        last=max(one.last for one in group),
    )


def days_held(planting: GrownPlanting, season: tuple[date, date] | None) -> int:
    """Days [d] for which a planting held its ground, within a season if one is given; first and last day count."""
    first, last = planting.bed_from, planting.bed_to
    if season is not None:
        first, last = max(first, season[0]), min(last, season[1])
    return max(0, (last - first).days + 1)


def servings(crop: Crop, grams: Decimal | float) -> int | None:
    """Servings of 80 g as picked; None for herbs, grains and whatever is no vegetable or fruit to serve.

    **Source:** WHO and FAO (2003), Technical Report Series 916: at least 400 g of fruit and vegetables a day, commonly in five
    portions; potatoes and other starchy tubers do not count. From memory.
    """
    if crop.food_group not in SERVED:
        return None
    return int(float(grams) // SERVING_G)


def across_seasons(values: Sequence[tuple[str, Total]], words: Callable[[float], str]) -> str:
    """One sentence on the yield per area of the same crop and part over seasons, oldest first, with n.

    Seasons in which a weight is missing are left out and named. Two seasons are no trend; one is only said when all of at least four
    seasons rise, or all fall. **Source:** our own rule; four in a row by chance alone come once in twelve times.
    """
    known = [(season, t.per_square_metre) for season, t in values if t.complete and t.per_square_metre is not None]
    left_out = [season for season, t in values if not t.complete or t.per_square_metre is None]
    tail = f" Left out for want of weights: {', '.join(left_out)}." if left_out else ""
    numbers = [value for _, value in known if value is not None]
    n = len(numbers)
    if n == 0:
        return f"No season with all its weights yet, so there is nothing to compare.{tail}"
    if n == 1:
        return f"{words(numbers[0])} in {known[0][0]}, the only season with all its weights (n = 1).{tail}"
    if n == 2:
        return f"{words(numbers[0])} in {known[0][0]}, {words(numbers[1])} in {known[1][0]} (n = 2): two seasons are no trend.{tail}"
    steps = [later - earlier for earlier, later in itertools.pairwise(numbers)]
    said = f"{words(min(numbers))} to {words(max(numbers))}, in the middle {words(median(numbers))} (n = {n} seasons)"
    if n >= TREND_SEASONS and all(step > 0 for step in steps):
        return f"{said}; more each season.{tail}"
    if n >= TREND_SEASONS and all(step < 0 for step in steps):
        return f"{said}; less each season.{tail}"
    return f"{said}; no steady rise or fall.{tail}"
