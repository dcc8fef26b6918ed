"""What to buy: what plans ask for, less what is in the seed box, and the starts, sets, tubers and slips to have."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from typing import Any

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.garden import drafts
from almanaque.commands.garden import needs as garden_needs
from almanaque.commands.growth import forecasts
from almanaque.commands.seeds.seed_box import left_of, life_of, rate_of
from almanaque.core.crops.crop import Crop
from almanaque.core.garden import needs
from almanaque.core.seeds import seed_lots as rules
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.seeds import seed_box
from almanaque.store.seeds.seed_box import LotRow


@dataclass(frozen=True)
class SeedDemand:
    """What a plan asks for: plants, sown or set, by its first day."""

    planting: Planting
    bed: Bed
    crop: Crop
    plants: int

    @property
    def sown(self) -> bool:
        return self.planting.method in ("direct", "indoors")

    @property
    def pieces(self) -> int:
        """Seeds, starts, or what is set, as the run sheet of its day counts them."""
        return needs.pieces(
            self.crop, self.planting.method, self.plants, sow_factor=garden_needs.sow_factor(self.planting)
        )


@dataclass(frozen=True)
class StartsLine:
    """Starts, sets, tubers or slips to have of a crop: what they are called, how many for how many plants, from which day on, where."""

    crop: Crop
    what: str
    plants: int
    pieces: int
    by: date
    beds: tuple[str, ...]


def asked(connection: Connection[Any], context: Context, *, since: date, until: date | None = None) -> list[SeedDemand]:
    """Plans in pencil and ink that have not begun, from a day on, in order of their first day."""
    beds = {bed.id: bed for bed in garden.beds(connection)}
    found = []
    for planting in drafts.on_table(connection, garden.plantings(connection, since=since)):
        if planting.status not in ("pencilled", "planned") or planting.events or (until and planting.start_on > until):
            continue
        crop, bed = context.crops[planting.crop], beds[planting.bed_id]
        found.append(SeedDemand(planting, bed, crop, forecasts.layout_of(planting, bed, crop).plants))
    return sorted(found, key=lambda a: (a.planting.start_on, a.crop.name.en))


def order(connection: Connection[Any], context: Context, *, since: date, today: date) -> list[rules.OrderLine]:
    """What to buy for the plans that are sown, less what is in the box."""
    wanted = [
        rules.Wanted(a.crop, a.plants, a.planting.start_on.isoformat(), a.pieces)
        for a in asked(connection, context, since=since)
        if a.sown
    ]
    box: dict[str, list[rules.Lot]] = {}
    lots = seed_box.lots(connection)
    for lot in lots:
        if lot.closed_on is None and lot.crop in context.crops:
            crop = context.crops[lot.crop]
            box.setdefault(lot.crop, []).append(
                rules.Lot(lot.crop, left_of(crop, lot), rate_of(lot), life_of(context, lot, today).state)
            )
    return rules.order(wanted, box, prices_of(lots))


def starts(connection: Connection[Any], context: Context, *, since: date) -> list[StartsLine]:
    """What is set rather than sown for the plans from a day on, by crop, the first needed first."""
    found: dict[tuple[str, str], list[SeedDemand]] = {}
    for one in asked(connection, context, since=since):
        if not one.sown:
            found.setdefault((one.crop.key, needs.piece_name(one.crop, one.planting.method)), []).append(one)
    lines = [
        StartsLine(
            some[0].crop,
            what,
            sum(one.plants for one in some),
            sum(one.pieces for one in some),
            min(one.planting.start_on for one in some),
            tuple(dict.fromkeys(one.bed.name for one in some)),
        )
        for (_, what), some in found.items()
    ]
    return sorted(lines, key=lambda line: (line.by, line.crop.name.en))


def suppliers_of(lots: Iterable[LotRow]) -> dict[str, str]:
    """From whom each crop was had last, where that was written down; lots come newest first."""
    found: dict[str, str] = {}
    for lot in lots:
        if lot.whom.strip():
            found.setdefault(lot.crop, lot.whom.strip())
    return found


def prices_of(lots: Iterable[LotRow]) -> dict[str, int]:
    """What a packet of each crop cost when it was bought last [minor units], where that was written down."""
    prices: dict[str, int] = {}
    for lot in lots:
        if lot.price_minor and lot.packets:
            prices.setdefault(lot.crop, round(lot.price_minor / lot.packets))
    return prices
