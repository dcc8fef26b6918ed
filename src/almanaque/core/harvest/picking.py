"""What was picked: amounts in any unit, their weight with its range, and what becomes of them.

Masses are grams. A weight that was counted rather than weighed is an estimate and says how far it may be off; a weight that nobody
knows is None and never counts as nothing.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import ROUND_DOWN, ROUND_HALF_UP, Decimal
from statistics import fmean, stdev

from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.core.units import GRAMS_PER_OUNCE, GRAMS_PER_POUND, IN_THOUSANDTHS, Units, parse_mass, plain_number

WEIGHED: dict[str, Decimal] = {
    "lb": GRAMS_PER_POUND,
    "oz": GRAMS_PER_OUNCE,
    "kg": Decimal(1000),
    "g": Decimal(1),
}
COUNTED = ("count", "bunch", "handful", "head", "ear", "pint", "quart", "peck", "bushel", "bag", "basket", "tray")
PARTS_OF_BUSHEL = {"pint": 64, "quart": 32, "peck": 4, "bushel": 1}  # US dry measure, exact
USES = (
    "eaten in class",
    "kitchen",
    "taken home",
    "given away",
    "sold",
    "kept as seed",
    "planting stock",
    "preserved",
    "compost",
    "lost",
)
PARTS = (
    "leaf",
    "stem",
    "flower",
    "bud",
    "scape",
    "fruit",
    "pod",
    "seed",
    "grain",
    "root",
    "bulb",
    "tuber",
    "shoot",
    "whole plant",
)
MOST_GRAMS = Decimal(2_000_000)
CATALOGUE_OFF, ONCE_OFF, LEAST_OFF = 0.30, 0.15, 0.05  # how far an estimate may be off; our own rule
ASK_ABOVE = 3.0  # times the usual yield of its ground or plants
ALWAYS_BELIEVED_G = 500.0  # a picking as light as this is never doubted: our own rule
CENT = Decimal("0.01")
SHARE = Decimal("0.0000000001")


@dataclass(frozen=True)
class Weighing:
    """So many of a unit were weighed together [g]."""

    unit: str
    amount: Decimal
    grams: Decimal


@dataclass(frozen=True)
class UnitWeight:
    """Mass of one of a unit [g] with its range, and in words where it comes from."""

    grams: float
    low: float
    high: float
    source: str


@dataclass(frozen=True)
class Weight:
    """Mass of a picking [g] and its range; None when it cannot be told. `estimated` when counted rather than weighed."""

    grams: Decimal | None
    estimated: bool
    low: Decimal | None = None
    high: Decimal | None = None


def unit_weight(
    crop: Crop, unit: str, weighings: Sequence[Weighing] = (), bushel_lb: Mapping[str, float] | None = None
) -> UnitWeight | None:
    """What one of a unit weighs: as the school weighed it, else by the catalogue, else by the statutory bushel; None if unknown.

    Weighed once it may be off by 15 %, by the catalogue 30 %; weighed more often by twice the deviation of the weighings, at least 5 %.
    **Source:** the share of the bushel is US dry measure; how far an estimate may be off is our own rule.
    """
    own = [float(w.grams / w.amount) for w in weighings if w.unit == unit]
    if own:
        mean = fmean(own)
        off = ONCE_OFF if len(own) == 1 else max(LEAST_OFF, 2 * stdev(own) / mean)
        times = "once" if len(own) == 1 else "twice" if len(own) == 2 else f"{len(own)} times"
        return _about(mean, off, f"weighed {times} here")
    if unit in crop.weights_g:
        return _about(crop.weights_g[unit], CATALOGUE_OFF, "a rough figure of the catalogue")
    for known, grams in crop.weights_g.items():
        if known in PARTS_OF_BUSHEL and unit in PARTS_OF_BUSHEL:
            return _about(
                grams * PARTS_OF_BUSHEL[known] / PARTS_OF_BUSHEL[unit], CATALOGUE_OFF, f"from the catalogue's {known}"
            )
    pounds = (bushel_lb or {}).get(crop.kind)
    if pounds and unit in PARTS_OF_BUSHEL:
        bushel = pounds * float(GRAMS_PER_POUND)
        return _about(bushel / PARTS_OF_BUSHEL[unit], CATALOGUE_OFF, f"from the bushel of {pounds:g} lb")
    return None


def _about(grams: float, off: float, source: str) -> UnitWeight:
    return UnitWeight(grams, grams * max(0.0, 1 - off), grams * (1 + off), source)


def weigh(
    crop: Crop,
    amount: Decimal,
    unit: str,
    weighings: Sequence[Weighing] = (),
    bushel_lb: Mapping[str, float] | None = None,
) -> Weight:
    """Mass of an amount in a unit of this crop; unknown for a unit without a weight. Raises BadInput for nothing and too much.

    Any unit may be used: what it weighs can be found out later.
    """
    if not amount.is_finite() or amount <= 0:
        raise BadInput("harvest.picking_of_nothing", field="amount")
    if unit in WEIGHED:
        weight = Weight((amount * WEIGHED[unit]).quantize(CENT), estimated=False)
    else:
        one = unit_weight(crop, read_unit(unit), weighings, bushel_lb)
        if one is None:
            return Weight(None, estimated=True)
        grams, low, high = ((amount * Decimal(str(value))).quantize(CENT) for value in (one.grams, one.low, one.high))
        weight = Weight(grams, True, max(low, CENT), high)
    if weight.grams is not None and weight.grams > MOST_GRAMS:
        raise BadInput("harvest.picking_over_two_tonnes", field="amount")
    if weight.grams is not None and weight.grams < CENT:
        raise BadInput("harvest.picking_too_light", field="amount")
    return weight


def read_unit(text: str) -> str:
    """A unit of the list, or one of the school's own in at most 20 letters. Raises BadInput."""
    unit = " ".join(text.split())
    if unit.lower() in WEIGHED or unit.lower() in COUNTED:
        return unit.lower()
    if not unit or len(unit) > 20 or not all(c.isalpha() or c in " -'" for c in unit):
        raise BadInput("harvest.unit_too_long", field="unit")
    return unit


def parse_amount(text: str, unit: str) -> Decimal:
    """An amount as people type it: `3`, `2.5`, `2,5`, `1/2`, `1 1/2` or `1,200`. Raises BadInput.

    Three digits behind a comma are thousands, but of kilograms. What is weighed may be written with its units: `2 lb 3 oz`.
    """
    if unit in WEIGHED and re.search(r"[a-z]", text.lower()):
        return _weighed(text, unit)
    spelled = text.strip().replace("½", " 1/2").replace("¼", " 1/4").replace("¾", " 3/4")
    thousandths = unit in IN_THOUSANDTHS
    words = spelled.split() if "/" in spelled else [plain_number(spelled, thousandths=thousandths)]
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
        raise BadInput("harvest.amount_not_a_number", field="amount") from None
    if total <= 0:
        raise BadInput("harvest.picking_of_nothing", field="amount")
    if total >= 1_000_000_000:
        raise BadInput("harvest.amount_too_large", field="amount")
    return max(total.quantize(Decimal("0.001")), Decimal("0.001"))


def _weighed(text: str, unit: str) -> Decimal:
    """An amount in a unit of weight from one that says its own units."""
    try:
        total = (parse_mass(text.replace(", ", " ")) / WEIGHED[unit]).quantize(Decimal("0.0001"))
    except BadInput:
        raise BadInput("harvest.amount_not_a_number", field="amount") from None
    if total <= 0:
        raise BadInput("harvest.picking_of_nothing", field="amount")
    return max(total.quantize(Decimal("0.001"), ROUND_HALF_UP), Decimal("0.001"))


def parts_of(crop: Crop) -> list[str]:
    """Parts that may be picked: the crop's own first, then its other ones, then all that plants have."""
    return list(dict.fromkeys([crop.part, *crop.parts, *PARTS]))


def units_of(crop: Crop, weighings: Iterable[Weighing] = ()) -> list[str]:
    """Units in which this crop may be noted: weights, those it has a weight for, the school's own, then the rest."""
    return list(dict.fromkeys([*WEIGHED, *crop.weights_g, *(w.unit for w in weighings), *COUNTED]))


def unit_choices(crops: Iterable[Crop], units: Units, own: Iterable[str] = ()) -> list[str]:
    """Every unit that is offered: the school's own weights first, then counts, then units of its own."""
    weights = ["lb", "oz", "kg", "g"] if units == "us" else ["kg", "g", "lb", "oz"]
    return list(dict.fromkeys([*weights, *COUNTED, *(unit for crop in crops for unit in crop.weights_g), *own]))


def at_a_tap(crop: Crop, units: Units) -> list[tuple[str, str]]:
    """Amounts to offer as buttons, each with its unit: some of the school's weight, some of the first unit that is counted."""
    weight = [("1/2", "lb"), ("1", "lb"), ("2", "lb")] if units == "us" else [("250", "g"), ("500", "g"), ("1", "kg")]
    counted = next(iter(crop.weights_g), "count")
    return [*weight, ("1", counted), ("2", counted), ("5", counted)]


def split(amount: Decimal, parts: Mapping[str, Decimal], rest: str) -> dict[str, Decimal]:
    """Shares of a picking's uses from amounts in its unit; what is not named goes to `rest`. They add up to 1 exactly.

    Raises BadInput when the uses come to more than was picked, for an unknown use, and for an amount below nothing.
    """
    for use in (*parts, rest):
        if use not in USES:
            raise BadInput("harvest.use_unknown", field="use", use=use[:30], uses=", ".join(USES))
    if any(part < 0 for part in parts.values()):
        raise BadInput("harvest.use_below_nothing", field="use")
    named = sum(parts.values(), Decimal(0))
    if named > amount:
        raise BadInput(
            "harvest.uses_above_picking",
            field="use",
            named=_plain(named),
            amount=_plain(amount),
            too_much=_plain(named - amount),
        )
    shares = {use: (part / amount).quantize(SHARE, rounding=ROUND_DOWN) for use, part in parts.items() if use != rest}
    shares = {use: share for use, share in shares.items() if share > 0}
    left = 1 - sum(shares.values(), Decimal(0))
    if named == amount and rest not in parts and shares:
        largest = max(shares, key=lambda use: shares[use])
        shares[largest] += left  # nothing is left but the digits cut off
    elif left > 0:
        shares[rest] = left
    return shares


def doubt(
    crop: Crop, grams: Decimal | None, *, area_m2: float, plants: int, before: Decimal = Decimal(0)
) -> float | None:
    """How many times the most that is usual for its ground and plants a planting would have given, when above three; else None.

    `before` is what it gave already [g]. **Source:** our own rule over the crop's usual yield.
    """
    most = most_believed(crop, area_m2=area_m2, plants=plants)
    if grams is None or most is None or float(grams + before) <= max(ALWAYS_BELIEVED_G, most * ASK_ABOVE):
        return None
    return float(grams + before) / most


def most_believed(crop: Crop, *, area_m2: float, plants: int) -> float | None:
    """The most that is usual for a planting [g], by its ground or its plants, whichever is more; None when neither is known."""
    by_ground = crop.yield_g_m2[1] * area_m2
    by_plants = crop.yield_plant_g[1] * plants if crop.yield_plant_g else 0.0
    return max(by_ground, by_plants) or None


def curing_loss(wet_g: Decimal, cured_g: Decimal) -> float:
    """Share of the weight lost in curing or drying. Raises BadInput when it would weigh more than before."""
    if cured_g > wet_g:
        raise BadInput("harvest.cured_heavier", field="cured")
    return float(1 - cured_g / wet_g)


def tasted(tried: int, liked: int) -> str:
    """What a tasting found, in words. Raises BadInput when more liked it than tried it."""
    if tried < 1:
        raise BadInput("harvest.nobody_tried", field="tried")
    if not 0 <= liked <= tried:
        raise BadInput("harvest.more_liked_than_tried", field="liked", liked=liked, tried=tried)
    return f"{liked} of {tried} liked it"


def _plain(value: Decimal) -> str:
    return f"{value.normalize():f}"
