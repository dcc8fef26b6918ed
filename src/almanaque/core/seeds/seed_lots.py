"""The seed box: how old a lot may be, what a germination test says, and what to buy for the plans."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from math import ceil, sqrt
from typing import Literal, get_args

from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput

Origin = Literal["bought", "saved", "swapped", "gathered elsewhere"]
ORIGINS: tuple[Origin, ...] = get_args(Origin)
Place = Literal["cool and dry", "in a room", "warm or damp"]
PLACES: tuple[Place, ...] = get_args(Place)
KEEPS: dict[Place, float] = {"cool and dry": 1.0, "in a room": 0.5, "warm or damp": 0.25}
PELLETED_YEARS = 1.0  # that pelleted seed keeps: common practice, no source
Z95 = 1.959963984540054  # of the normal distribution, two-sided 95 %
LEAST_SOWN = 10  # seeds from which a test says something: our own rule
POOR = 0.5  # of the usual share: less than that is not worth the ground
THICKEST = 3.0  # times the usual sowing, at most: our own rule


@dataclass(frozen=True)
class Rate:
    """Share of seeds that came up, with its 95 % interval."""

    up: int
    sown: int
    low: float
    high: float

    @property
    def rate(self) -> float:
        return self.up / self.sown


def wilson(up: int, sown: int, *, z: float = Z95) -> Rate:
    """Share that came up with Wilson's score interval. Raises BadInput for more up than sown.

    >>> rate = wilson(17, 20)
    >>> round(rate.rate, 2), round(rate.low, 3), round(rate.high, 3)
    (0.85, 0.64, 0.948)

    **Source:** E. B. Wilson (1927), Journal of the American Statistical Association 22, 209–212; without continuity correction.
    """
    if not 1 <= sown <= 1_000_000:
        raise BadInput("seeds.sown_missing", field="sown")
    if not 0 <= up <= sown:
        raise BadInput("seeds.more_up_than_sown", field="up", up=up, sown=sown)
    share, zz = up / sown, z * z
    middle = (share + zz / (2 * sown)) / (1 + zz / sown)
    half = z * sqrt(share * (1 - share) / sown + zz / (4 * sown * sown)) / (1 + zz / sown)
    return Rate(up, sown, 0.0 if up == 0 else max(0.0, middle - half), 1.0 if up == sown else min(1.0, middle + half))


Advice = Literal["sow as usual", "sow thicker", "throw away", "too few sown"]


@dataclass(frozen=True)
class GerminationAnswer:
    """What a test says: a word, how many times as thick to sow, and a sentence."""

    advice: Advice
    times: float
    sentence: str


def told(rate: Rate, usual: float) -> GerminationAnswer:
    """What follows from a test against the usual share of good seed.

    As usual when at least the usual share came up; thrown away when even the upper end of the interval is under half of the usual share,
    or when it would take more than three times as much seed; else so many times as thick as the usual share is to the one found, to a
    tenth. **Source:** our own rule.
    """
    percent = f"{rate.rate:.0%} came up ({rate.low:.0%} to {rate.high:.0%})"
    if rate.high < POOR * usual:
        return GerminationAnswer(
            "throw away", THICKEST, f"{percent}: less than half of what good seed does. Throw it away."
        )
    if rate.sown >= LEAST_SOWN and rate.rate * THICKEST < usual:
        return GerminationAnswer(
            "throw away", THICKEST, f"{percent}: it would take more than three times as much. Throw it away."
        )
    if usual <= rate.high:
        few = " Sow more for a surer answer." if rate.sown < LEAST_SOWN else ""
        if rate.rate >= usual or rate.sown < LEAST_SOWN:
            return GerminationAnswer("too few sown" if few else "sow as usual", 1.0, f"{percent}: sow as usual.{few}")
    times = min(THICKEST, round(usual / rate.rate, 1)) if rate.up else THICKEST
    if times <= 1.05:
        return GerminationAnswer("sow as usual", 1.0, f"{percent}: sow as usual.")
    return GerminationAnswer("sow thicker", times, f"{percent}: sow {times:g} times as thick.")


@dataclass(frozen=True)
class SeedLife:
    """How old a lot is against its usual life [years], where it is kept taken into account."""

    age: int
    usual: tuple[float, float] | None
    state: Literal["fresh", "near its end", "old", "not known"]
    sentence: str


def life(crop: Crop, year: int, this_year: int, *, place: Place = "cool and dry", pelleted: bool = False) -> SeedLife:
    """Age of seed of a year against its usual life. Kept in a room it lives half as long, warm or damp a quarter; pelleted one year.

    **Source:** the crop's life from common tables; Harrington's rule of thumb (1972): seed life halves with 5 °C more or 1 % more
    moisture, from memory; pelleted seed: common practice, no source.
    """
    age = max(0, this_year - year)
    years = "this year's" if age == 0 else "a year old" if age == 1 else f"{age} years old"
    if crop.seed_years is None:
        return SeedLife(age, None, "not known", f"{years}; its usual life is not on file, so test it.")
    low, high = (max(0.5, value * KEEPS[place]) for value in crop.seed_years)
    if pelleted:
        low, high = min(low, PELLETED_YEARS), min(high, PELLETED_YEARS)
    lives = f"{low:g} to {high:g} years" if low != high else "a year" if low == 1 else f"{low:g} years"
    kept = "" if place == "cool and dry" and not pelleted else ", pelleted" if pelleted else f", kept {place}"
    if age > high:
        return SeedLife(
            age, (low, high), "old", f"{years}; it lives {lives}{kept}. Test it before it is sown, or buy anew."
        )
    if age >= low and age > 0:
        return SeedLife(age, (low, high), "near its end", f"{years}; it lives {lives}{kept}. Test it.")
    return SeedLife(age, (low, high), "fresh", f"{years}; it lives {lives}{kept}.")


@dataclass(frozen=True)
class Lot:
    """What is left of a lot [seeds], None when only its weight is known and nobody knows how many a gram holds; and its test."""

    crop: str
    seeds: int | None
    rate: Rate | None
    state: str
    price_minor: int | None = None
    packets: int | None = None


@dataclass(frozen=True)
class Wanted:
    """Plants that plans ask for of a crop, and by which day the first of its seed is needed (ISO, for sorting).

    `need` are the seeds that go with them, 0 where they follow from the plants alone.
    """

    crop: Crop
    plants: int
    by: str = ""
    need: int = 0


@dataclass(frozen=True)
class OrderLine:
    """A line of the order: seeds needed, there and to buy, in packets and grams, and what it would cost."""

    crop: Crop
    plants: int
    need: int
    have: int
    buy: int
    packets: int | None
    grams: float | None
    price_minor: int | None
    by: str
    why: str


def order(
    wanted: Iterable[Wanted], lots: Mapping[str, Sequence[Lot]], prices: Mapping[str, int] | None = None
) -> list[OrderLine]:
    """What to buy: seeds for the plants less the good seed that is there, by crop; crops with nothing to buy come last.

    Seed counts as so much good seed as it comes up against the usual share; old seed without a test and seed that its test says to
    throw away count nothing. **Source:** plants ÷ (germination × survival); the rest is our own rule.
    """
    found = []
    sums: dict[str, Wanted] = {}
    for one in wanted:
        known = sums.get(one.crop.key)
        by = min(filter(None, (one.by, known.by if known else "")), default="")
        sums[one.crop.key] = Wanted(
            one.crop, one.plants + (known.plants if known else 0), by, one.need + (known.need if known else 0)
        )
    for key, one in sums.items():
        crop = one.crop
        need = one.need or ceil(one.plants / (crop.germination * crop.survival) - 1e-9)
        have, unknown, left_out = 0.0, 0, 0
        for lot in lots.get(key, ()):
            if lot.seeds is None:
                unknown += 1
            elif (lot.rate is None and lot.state == "old") or (
                lot.rate and told(lot.rate, crop.germination).advice == "throw away"
            ):
                left_out += 1
            else:
                good = min(1.0, lot.rate.rate / crop.germination) if lot.rate else 1.0
                have += lot.seeds * good
        buy = max(0, need - int(have))
        packets = ceil(buy / crop.packet_seeds) if buy and crop.packet_seeds else (0 if crop.packet_seeds else None)
        grams = round(buy / crop.seeds_per_gram, 2) if crop.seeds_per_gram else None
        each = (prices or {}).get(key)
        notes = []
        if left_out:
            notes.append(f"{left_out} lot{'s' if left_out > 1 else ''} left out: too old or too poor")
        if unknown:
            notes.append(f"{unknown} lot{'s' if unknown > 1 else ''} of unknown number left out")
        found.append(
            OrderLine(
                crop,
                one.plants,
                need,
                int(have),
                buy,
                packets,
                grams,
                each * packets if each and packets else None,
                one.by,
                "; ".join(notes),
            )
        )
    return sorted(found, key=lambda line: (line.buy == 0, line.crop.name.en))


def seeds_in(crop: Crop, *, grams: float | None, seeds: int | None) -> int | None:
    """Number of seeds of an amount: as counted, else from its weight; None when nobody knows how many a gram holds."""
    if seeds is not None:
        return seeds
    if grams is None or not crop.seeds_per_gram:
        return None
    return int(grams * crop.seeds_per_gram)


def cells_needed(plants: int, crop: Crop, *, rate: float | None = None, per_cell: int = 1) -> int:
    """Cells of a tray for so many plants to set out, one kept in each, when so many seeds lie in a cell, rounded up.

    A cell fails when none of its seeds comes up. **Source:** independent seeds; survival is the crop's.
    """
    share = rate if rate is not None else crop.germination
    filled = 1 - (1 - share) ** per_cell
    if filled <= 0:
        raise BadInput("seeds.none_came_up", field="lot")
    return ceil(plants / (filled * crop.survival) - 1e-9)
