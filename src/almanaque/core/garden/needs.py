"""What beds and plans need: soil and compost by the bag, string, seed, starts, trays, supports and tools; one list to buy from.

Volumes are litres, lengths millimetres, money minor units of the school's currency.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Literal

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.errors import BadInput
from almanaque.core.garden.spacing import seeds_needed
from almanaque.core.units import LITRES_PER_CUBIC_FOOT, Units, format_mass, format_volume
from almanaque.core.words import terms
from almanaque.core.words.days import short_day

Kind = Literal["soil", "string", "seed", "starts", "trays", "support", "tool", "wall"]
# Bags and barrows as commonly sold, no source.
BAG_L: dict[Units, float] = {"us": float(2 * LITRES_PER_CUBIC_FOOT), "metric": 40.0}
BARROW_L: dict[Units, float] = {"us": float(3 * LITRES_PER_CUBIC_FOOT), "metric": 85.0}
TRAYS = (6, 12, 24, 36, 50, 72, 98, 128, 144, 200)  # cells of usual trays: common practice, no source
SPARE_STARTS = 0.05  # share of starts bought besides: common practice, no source
COMPOST_MM = 3 * 25.4  # 2 to 4 in a year: common practice, no source
MULCH_MM = 2 * 25.4  # around what is set out: common practice, no source
# What a class works with: tool, and children to one of it. Common practice, no source.
TOOLS: tuple[tuple[str, int], ...] = (
    ("hand trowel", 3),
    ("watering can", 6),
    ("depth gauge", 3),
    ("rake", 12),
    ("bucket", 6),
    ("pair of gloves", 1),
    ("measuring tape", 8),
)


@dataclass(frozen=True)
class MaterialNeed:
    """One line: so many of a thing to buy or have, and why. `what` is the name a price and a stock go by.

    What moves on once it is free, such as string, stakes, nets and cages, `stands` in its bed from a day until a day.
    """

    kind: Kind
    what: str
    amount: float
    unit: str
    why: str
    litres: float = 0.0
    have: float = 0.0
    price_minor: int | None = None
    stands: tuple[date, date] | None = None

    @property
    def to_get(self) -> float:
        """What is lacking once what is there is used; whole things are rounded up."""
        left = max(0.0, self.amount - self.have)
        return float(math.ceil(left - 1e-9))

    @property
    def cost_minor(self) -> int | None:
        return None if self.price_minor is None else round(self.price_minor * self.to_get)


def layer(name: str, litres: float, units: Units, why: str) -> list[MaterialNeed]:
    """A volume as bags; `barrows` says how many wheelbarrows it is. **Source:** bag and barrow sizes as commonly sold."""
    if litres <= 0:
        return []
    bag = BAG_L[units]
    return [
        MaterialNeed(
            "soil",
            f"{name}, bag of {format_volume(bag, units)}",
            litres / bag,
            "bags",
            f"{why} {format_volume(litres, units)}",
            litres,
        )
    ]


def barrows(litres: float, units: Units) -> int:
    """Wheelbarrows of a volume [L], rounded up."""
    return math.ceil(litres / BARROW_L[units] - 1e-9)


def string(
    string_mm: float, sticks: int, units: Units, why: str, stands: tuple[date, date] | None = None
) -> list[MaterialNeed]:
    """String to the next yard or metre, and sticks, for as long as they stand."""
    if sticks == 0:
        return []
    unit_mm, word = (914.4, "yd") if units == "us" else (1000.0, "m")
    return [
        MaterialNeed(
            "string",
            "string",
            math.ceil(string_mm / unit_mm - 1e-9),
            word,
            why,
            stands=stands,
        ),
        MaterialNeed("string", "stick", sticks, "", why, stands=stands),
    ]


def tray_for(starts: int) -> tuple[int, int]:
    """Cells of the tray and how many of them hold so many starts with the fewest cells to spare; the larger tray on a tie."""
    if starts < 1:
        raise BadInput("garden.no_start_in_tray")
    return min(
        ((cells, math.ceil(starts / cells)) for cells in TRAYS),
        key=lambda t: (t[0] * t[1] - starts + 4 * (t[1] - 1), -t[0]),
    )


def pieces(
    crop: Crop, method: Method, plants: int, *, germination: float | None = None, sow_factor: float = 1.0
) -> int:
    """Seeds, starts, or what is set (cloves, tubers, slips …) to have for so many plants: the one count on every page.

    Starts have one in twenty to spare, none where they are few. **Source:** plants ÷ (germination × survival); the spare ones are
    common practice, no source.
    """
    if method == "starts":
        return plants + int(plants * SPARE_STARTS + 0.5)
    if method == "cloves":
        return plants
    seeds = seeds_needed(plants, germination=germination or crop.germination, survival=crop.survival)
    return math.ceil(seeds * sow_factor - 1e-9)


def piece_name(crop: Crop, method: Method) -> str:
    """What the pieces are: `seeds`, `starts`, or the crop's own stock, such as `seed potatoes`."""
    return {"direct": "seeds", "indoors": "seeds", "starts": "starts", "cloves": crop.stock}[method]


def planting(
    crop: Crop, method: Method, plants: int, *, germination: float | None, sow_factor: float, units: Units, why: str
) -> list[MaterialNeed]:
    """Seeds, grams and packets, or starts, or stock, and trays, for so many plants.

    `sow_factor` is how many seeds are sown where one plant is to stand, such as when it is sown close and thinned.
    """
    if plants == 0:
        return []
    name = crop.name.en
    if method in ("starts", "cloves"):
        what = f"{name} starts" if method == "starts" else f"{name} {crop.stock}"
        return [
            MaterialNeed(
                "starts",
                what,
                pieces(crop, method, plants),
                "",
                f"{why}: {plants} plants{', one in twenty to spare' if method == 'starts' else ''}",
            )
        ]
    seeds = pieces(crop, method, plants, germination=germination, sow_factor=sow_factor)
    words = f"{why}: {plants} plants from {seeds} seeds"
    if crop.seeds_per_gram:
        words += f", {format_mass(seeds / crop.seeds_per_gram, 'metric') if seeds / crop.seeds_per_gram >= 1 else 'under 1 g'}"
    packets = math.ceil(seeds / crop.packet_seeds) if crop.packet_seeds else None
    found = [
        MaterialNeed("seed", f"{name} seed, packet of {crop.packet_seeds}", seeds / crop.packet_seeds, "packets", words)
        if packets and crop.packet_seeds
        else MaterialNeed("seed", f"{name} seed", seeds, "seeds", words)
    ]
    if method == "indoors":
        cells, trays = tray_for(seeds_needed(plants, germination=1.0, survival=crop.survival))
        found.append(MaterialNeed("trays", f"tray of {cells} cells", trays, "", why))
    return found


def tools(children: int) -> list[MaterialNeed]:
    """What a class of so many works with on a planting day. **Source:** common practice, no source."""
    return [
        MaterialNeed("tool", tool, math.ceil(children / each), "", f"one for {each}" if each > 1 else "one each")
        for tool, each in TOOLS
    ]


def gathered(needs: Iterable[MaterialNeed], shed: Mapping[str, tuple[float, int | None]]) -> list[MaterialNeed]:
    """One line for each thing, kind by kind; amounts are added before rounding, tools are taken at their most, and what moves from bed to
    bed at the most that stands at once.

    `shed` says by name what is there and what one costs.
    """
    lines: dict[tuple[Kind, str], list[MaterialNeed]] = {}
    for need in needs:
        lines.setdefault((need.kind, need.what), []).append(need)
    order = list(terms("need"))
    found = [
        replace(
            _together(same),
            have=shed.get(same[0].what, (0.0, None))[0],
            price_minor=shed.get(same[0].what, (0.0, None))[1],
        )
        for same in lines.values()
    ]
    return sorted(found, key=lambda need: (order.index(need.kind), need.what))


def _together(same: Sequence[MaterialNeed]) -> MaterialNeed:
    first = same[0]
    if first.kind == "tool":
        most = max(same, key=lambda need: need.amount)
        return replace(most, amount=_whole(most.amount))
    total = math.fsum(need.amount for need in same)
    why = "; ".join(need.why for need in same)
    if all(need.stands for need in same):
        at_once = most_at_once(same)
        if at_once < total - 1e-9:
            return replace(first, amount=_whole(at_once), why=f"one set that moves: {_in_turn(same)}")
    return replace(first, amount=_whole(total), litres=math.fsum(need.litres for need in same), why=why)


def most_at_once(same: Sequence[MaterialNeed]) -> float:
    """The most that stands on any day, of needs that say when they stand; what comes free is used again the day after."""
    begins = [need.stands[0] for need in same if need.stands]
    return max(
        math.fsum(need.amount for need in same if need.stands and need.stands[0] <= day <= need.stands[1])
        for day in begins
    )


def _in_turn(same: Sequence[MaterialNeed]) -> str:
    """`Bed 2 until 4 Jun, Bed 5 until 20 Sep`, in the order in which they are free again."""
    ordered = sorted((need for need in same if need.stands), key=lambda need: need.stands or (date.max, date.max))
    return ", ".join(f"{need.why} until {short_day(need.stands[1])}" for need in ordered if need.stands)


def total_minor(needs: Sequence[MaterialNeed]) -> tuple[int, int]:
    """What all with a known price cost, and how many lines that are to be bought have none."""
    buy = [need for need in needs if need.to_get > 0]
    return sum(need.cost_minor or 0 for need in buy), sum(need.price_minor is None for need in buy)


def _whole(amount: float) -> float:
    return float(math.ceil(amount - 1e-9))
