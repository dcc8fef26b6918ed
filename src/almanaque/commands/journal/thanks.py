"""A page of thanks to partners and donors: what came to the garden, and what became of it. Who gave is not named."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from typing import Any

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.crops.crop import Crop
from almanaque.core.harvest import money, yields
from almanaque.core.harvest.money import Kind
from almanaque.core.units import format_area, format_mass
from almanaque.core.words.days import short_day
from almanaque.store.garden import garden
from almanaque.store.harvest import ledger, pickings
from almanaque.store.harvest.pickings import Picked
from almanaque.store.journal import photos
from almanaque.store.journal.open_gardens import OpenGarden
from almanaque.store.journal.photos import Photo

CAME: dict[Kind, str] = {"gift": "A gift", "grant": "A grant", "sale": "A sale"}
MOST_PICKINGS = 5000


@dataclass(frozen=True)
class CropGiven:
    """What a crop gave: how much, in words, and how often it was picked."""

    crop: Crop
    amount: str
    times: int


@dataclass(frozen=True)
class Thanks:
    """What came, what was bought with it, what grew, what was picked and where it went, in words; and the photos that were chosen."""

    came: list[str]
    bought: list[str]
    grew: list[str]
    crops: list[CropGiven]
    went: list[str]
    photos: list[Photo]


def read(connection: Connection[Any], context: Context, made: OpenGarden, *, today: date) -> Thanks:
    """Everything since the day from which the page tells."""
    lots = [
        lot
        for lot in pickings.recent(connection, until=today, limit=MOST_PICKINGS)
        if lot.picked_on >= made.from_day and lot.taken_back_on is None
    ]
    came, bought = _money(connection, context, made.from_day, today)
    pictures = [p for p in photos.photos(connection, until=today, limit=1000) if p.id in made.photos]
    return Thanks(
        came,
        bought,
        _grew(connection, context, lots, made.from_day, today),
        _crops(context, lots),
        _went(context, lots),
        pictures,
    )


def _money(connection: Connection[Any], context: Context, since: date, today: date) -> tuple[list[str], list[str]]:
    names = {p.id: p.name for p in ledger.purposes(connection)}
    lines = [e for e in ledger.entries(connection, until=today) if e.on_day >= since and e.taken_back_on is None]
    currency = context.school.currency
    came, bought = [], []
    for line in sorted(lines, key=lambda e: e.on_day):
        purpose = names.get(line.purpose_id) if line.purpose_id else None
        amount, what = money.write(line.amount_minor, currency), f" for {purpose}" if purpose else ""
        if line.kind == "purchase":
            bought.append(f"{line.what or 'Bought'}: {amount}{what}, {_day(line.on_day)}.")
        else:
            about = f": {line.what}" if line.what else ""
            came.append(f"{CAME[line.kind]} of {amount}{what}{about}, {_day(line.on_day)}.")
    return came, bought


def _grew(connection: Connection[Any], context: Context, lots: list[Picked], since: date, today: date) -> list[str]:
    beds = [bed for bed in garden.beds(connection) if bed.stood_on(today)]
    grown = [
        p
        for p in garden.plantings(connection, since=since, until=today)
        if p.draft_id is None and p.status in ("in the ground", "finished")
    ]
    kinds = {context.crops[p.crop].kind for p in grown}
    classes = {p.class_group_id for p in grown if p.class_group_id}
    area = format_area(sum(bed.area_m2 for bed in beds), context.school.units)
    found = [f"{len(kinds)} kinds of plants grew in {len(beds)} beds, on {area} of ground, since {_day(since)}."]
    if classes:
        found.append(f"{_count(len(classes), 'class', 'classes')} looked after plants of their own.")
    if grams := _grams(lots):
        least = "" if all(lot.grams is not None for lot in lots) else "At least "
        found.append(
            f"{least}{format_mass(grams, context.school.units)} came in, in {_count(len(lots), 'picking', 'pickings')}."
        )
        servings = sum(yields.servings(crop, _grams(mine)) or 0 for crop, mine in _by_crop(context, lots))
        if servings:
            found.append(f"That is about {servings:,} servings of vegetables and fruit of 80 g each.")
    return found


def _crops(context: Context, lots: list[Picked]) -> list[CropGiven]:
    found = []
    for crop, mine in _by_crop(context, lots):
        grams = _grams(mine)
        amount = format_mass(grams, context.school.units) if grams else "not weighed"
        found.append((grams, CropGiven(crop, amount, len(mine))))
    return [given for _, given in sorted(found, key=lambda pair: (-pair[0], pair[1].crop.name.en))]


def _by_crop(context: Context, lots: Iterable[Picked]) -> list[tuple[Crop, list[Picked]]]:
    found: dict[str, list[Picked]] = {}
    for lot in lots:
        found.setdefault(lot.crop, []).append(lot)
    return [(context.crops[key], mine) for key, mine in found.items()]


def _went(context: Context, lots: list[Picked]) -> list[str]:
    """Where it went, most first."""
    sums: dict[str, float] = {}
    for lot in lots:
        for use in lot.uses:
            if lot.grams is not None:
                sums[use.use] = sums.get(use.use, 0.0) + float(lot.grams * use.share)
    ranked = sorted(sums.items(), key=lambda pair: -pair[1])
    return [f"{use[:1].upper()}{use[1:]}: {format_mass(grams, context.school.units)}" for use, grams in ranked if grams]


def _grams(lots: Iterable[Picked]) -> float:
    return sum(float(lot.grams) for lot in lots if lot.grams is not None)


def _count(number: int, one: str, many: str) -> str:
    return f"{number} {one if number == 1 else many}"


def _day(day: date) -> str:
    return f"{short_day(day)} {day.year}"
