"""What the beds gave: pickings in any unit, weighed or estimated, per area, per plant and per season.

Masses are grams, areas square metres. A weight that is not known is never counted as nothing.
"""

from collections.abc import Callable, Hashable, Iterable, Mapping
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import TypeVar

from almanaque.core.crops import Crop
from almanaque.core.errors import BadInput
from almanaque.core.units import GRAMS_PER_OUNCE, GRAMS_PER_POUND, Units

WEIGHED: dict[str, Decimal] = {
    "lb": GRAMS_PER_POUND,
    "oz": GRAMS_PER_OUNCE,
    "kg": Decimal(1000),
    "g": Decimal(1),
}
USES = ("eaten in class", "kitchen", "taken home", "given away", "sold", "kept as seed", "compost", "lost")
MOST_GRAMS = Decimal(2_000_000)


@dataclass(frozen=True)
class Weight:
    """Mass of a picking [g], None when it cannot be told; `estimated` when it was counted rather than weighed."""

    grams: Decimal | None
    estimated: bool


@dataclass(frozen=True)
class Picking:
    """One picking of one planting. `area_m2` and `plants` are the planting's; `bed` and `crop` name where it came from."""

    planting: str
    bed: str
    crop: str
    day: date
    season: str
    grams: Decimal | None
    estimated: bool
    area_m2: float
    plants: int


@dataclass(frozen=True)
class Total:
    """A sum of pickings: weighed and estimated mass [g] apart, and how many pickings had no weight at all."""

    pickings: int
    weighed_g: Decimal
    estimated_g: Decimal
    without_weight: int
    area_m2: float
    plants: int
    first: date
    last: date

    @property
    def grams(self) -> Decimal:
        return self.weighed_g + self.estimated_g

    @property
    def per_square_metre(self) -> float | None:
        """Yield [g/m²] of the ground that the picked plantings took; None when no weight is known."""
        if self.area_m2 <= 0 or self.pickings == self.without_weight:
            return None
        return float(self.grams) / self.area_m2

    @property
    def per_plant_g(self) -> float | None:
        if not self.plants or self.pickings == self.without_weight:
            return None
        return float(self.grams) / self.plants


def against_usual(crop: Crop, total: Total) -> str:
    """`below`, `within` or `above` the crop's usual range [g/m²]; empty when no weight is known."""
    given = total.per_square_metre
    if given is None:
        return ""
    low, high = crop.yield_g_m2
    return "below" if given < low else "above" if given > high else "within"


def units_of(crop: Crop) -> list[str]:
    """The units in which this crop may be noted: weights first, then what the catalogue has a weight for."""
    return [*WEIGHED, *crop.weights_g]


def weigh(crop: Crop, amount: Decimal, unit: str) -> Weight:
    """Mass of an amount in a unit of this crop. Raises BadInput for nothing, for too much and for an unknown unit."""
    if not amount.is_finite() or amount <= 0:
        raise BadInput("A picking must be more than nothing. Give an amount above 0.", field="amount")
    if unit in WEIGHED:
        grams, estimated = amount * WEIGHED[unit], False
    elif unit in crop.weights_g:
        grams, estimated = amount * Decimal(str(crop.weights_g[unit])), True
    else:
        raise BadInput(f"{crop.name.en} cannot be noted in “{unit[:20]}”. Use one of: {', '.join(units_of(crop))}.",
                       field="unit")  # fmt: skip
    if grams > MOST_GRAMS:
        raise BadInput("That is more than two tonnes. Check the amount and the unit.", field="amount")
    return Weight(grams.quantize(Decimal("0.01")), estimated)


def parse_amount(text: str) -> Decimal:
    """An amount as people type it: `3`, `2.5`, `2,5`, `1/2` or `1 1/2`. Raises BadInput."""
    words = text.strip().replace(",", ".").replace("½", " 1/2").replace("¼", " 1/4").replace("¾", " 3/4").split()
    total = Decimal(0)
    try:
        if not 1 <= len(words) <= 2 or len(text) > 20:
            raise ValueError
        for word in words:
            over, slash, under = word.partition("/")
            if not over.replace(".", "", 1).isascii() or not over.replace(".", "", 1).isdigit():
                raise ValueError
            total += Decimal(over) / Decimal(under) if slash else Decimal(over)
    except (ValueError, ArithmeticError):
        raise BadInput("The amount is not a number. Write it like 3, 2.5 or 1/2.", field="amount") from None
    if total <= 0:
        raise BadInput("A picking must be more than nothing. Give an amount above 0.", field="amount")
    return total.quantize(Decimal("0.001"))


def check_shares(shares: Mapping[str, Decimal]) -> None:
    """Raise BadInput unless the shares of a picking's uses are known uses and add up to the whole."""
    for use in shares:
        if use not in USES:
            raise BadInput(f"“{use[:30]}” is not a use the book keeps. Use one of: {', '.join(USES)}.", field="use")
    if any(share <= 0 for share in shares.values()) or abs(sum(shares.values(), Decimal(0)) - 1) > Decimal("0.0001"):
        raise BadInput("The uses must add up to the whole picking.", field="use")


Key = TypeVar("Key", bound=Hashable)


def totals_by(pickings: Iterable[Picking], key: Callable[[Picking], Key]) -> dict[Key, Total]:
    """Sum pickings by a key such as bed, crop or season. Each planting's area and plants count once in a group."""
    groups: dict[Key, list[Picking]] = {}
    for picking in pickings:
        groups.setdefault(key(picking), []).append(picking)
    return {name: total(group) for name, group in groups.items()}


def total(pickings: Iterable[Picking]) -> Total:
    """Sum pickings. Raises ValueError for none, because no picking is not a harvest of nothing."""
    group = list(pickings)
    if not group:
        raise ValueError("there is nothing to add up")
    plantings = {picking.planting: picking for picking in group}
    return Total(
        pickings=len(group),
        weighed_g=sum((p.grams for p in group if p.grams is not None and not p.estimated), Decimal(0)),
        estimated_g=sum((p.grams for p in group if p.grams is not None and p.estimated), Decimal(0)),
        without_weight=sum(p.grams is None for p in group),
        area_m2=sum(p.area_m2 for p in plantings.values()),
        plants=sum(p.plants for p in plantings.values()),
        first=min(p.day for p in group),
        last=max(p.day for p in group),
    )


def unit_choices(crops: Iterable[Crop], units: Units) -> list[str]:
    """Every unit that some crop can be noted in: the school's own weights first, then counts in the catalogue's order."""
    weights = ["lb", "oz", "kg", "g"] if units == "us" else ["kg", "g", "lb", "oz"]
    return [*weights, *dict.fromkeys(unit for crop in crops for unit in crop.weights_g)]
