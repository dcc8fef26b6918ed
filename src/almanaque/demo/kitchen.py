"""What became of Brindlecombe's harvest: parts and uses, what was weighed, cured, tasted, made and sold. Invented."""

from dataclasses import replace
from datetime import date
from decimal import Decimal
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.harvest import ledger as ledger
from almanaque.commands.harvest import pickings
from almanaque.commands.school import turn_of_year as turns
from almanaque.core.harvest.money import Kind
from almanaque.demo import DEMO_DAY
from almanaque.demo.shapes import demo_id
from almanaque.store.garden import garden
from almanaque.store.harvest import ledger as ledger_rows
from almanaque.store.harvest import pickings as picking_rows
from almanaque.store.harvest import tasting
from almanaque.store.harvest.ledger import Ingredient, LedgerEntry, Price, Product, Purpose
from almanaque.store.harvest.tasting import Tasting
from almanaque.store.school import turn_of_year
from almanaque.store.school.turn_of_year import Ballot

SCHOOL = "Brindlecombe School"


def _d(text: str) -> date:
    return date.fromisoformat(text)


# (bed, crop, picked on): what is put right afterwards
DETAILS: dict[tuple[str, str, str], dict[str, Any]] = {
    ("Bed 1", "garlic", "2025-07-01"): {"parts": {"planting stock": "9"}, "quality": "firm, some split"},
    ("Bed 1", "garlic", "2026-07-02"): {"parts": {"planting stock": "1.6"}},
    ("Bed 1", "potato", "2026-08-17"): {"parts": {"lost": "2.1"}, "lost_to": "wireworm"},
    ("Bed 6", "tomato", "2026-09-10"): {"parts": {"preserved": "4", "lost": "1.5"}, "lost_to": "split skins"},
    ("Bed 6", "pumpkin", "2025-08-21"): {"parts": {"eaten in class": "2"}},
    ("Bed 4", "radish", "2026-05-18"): {"team": "The Moles", "group": "Birches"},
    ("Bed 4", "radish", "2026-05-24"): {"team": "The Wrens", "group": "Birches"},
    ("Bed 4", "radish", "2025-05-19"): {"team": "The Wrens", "group": "Birches"},
    ("Bed 4", "radish", "2025-05-26"): {"team": "The Snails", "group": "Birches"},
}
# (bed, crop, day, amount, unit, part, use)
MORE = (
    ("Bed 1", "garlic", "2026-06-12", "14", "oz", "scape", "kitchen"),
    ("Bed 4", "radish", "2026-05-18", "1", "apron full", "leaf", "kitchen"),
    ("Bed 5", "kale", "2026-03-12", "6", "oz", "flower", "eaten in class"),
)
WEIGHED = (
    ("kale", "2", "bunch", "16 oz"),
    ("radish", "1", "bunch", "5.5 oz"),
    ("radish", "3", "bunch", "15 oz"),
    ("pumpkin", "3", "count", "14 lb"),
)
TASTED = (
    ("radish", "2026-05-18", "Birches", "raw, with salt", 21, 9),
    ("kale", "2026-11-18", "", "in the soup", 118, 84),
    ("strawberry", "2026-06-03", "Garden club", "raw", 12, 12),
    ("spinach", "2026-10-26", "Docks", "raw", 22, 11),
    ("lettuce", "2026-06-01", "Cedars", "in a sandwich", 24, 19),
    ("kale", "2026-10-23", "Docks", "as crisps", 23, 20),
)
PURPOSES = (("Second rain barrel", 18000, "For the beds beyond the maple."), ("Seed for the spring", None, ""))
LEDGER: tuple[tuple[str, str, str, int, str, str], ...] = (
    ("sale", "2025-10-02", "Pumpkins at the valley fair", 5850, "the stall at the fair", "Second rain barrel"),
    ("sale", "2026-09-11", "Tomatoes", 2100, "families at the gate", "Second rain barrel"),
    ("sale", "2026-05-21", "Tomato starts left over", 1400, "families at the gate", "Second rain barrel"),
    ("grant", "2026-10-06", "Grant of the parents' group", 6000, "the parents' group", "Seed for the spring"),
    ("purchase", "2027-01-19", "Seed, spring order", 3480, "a seed house", "Seed for the spring"),
)
PRICES = (
    ("kale", "bunch", 250),
    ("radish", "bunch", 200),
    ("tomato", "lb", 350),
    ("potato", "lb", 150),
    ("lettuce", "head", 275),
    ("spinach", "lb", 400),
    ("carrot", "lb", 200),
    ("garlic", "count", 100),
    ("strawberry", "pint", 450),
    ("pumpkin", "lb", 90),
)


def write(connection: Connection[Any], context: Context) -> None:
    """By the same commands that the pages use."""
    plantings = garden.plantings(connection)

    def planting(bed: str, crop: str, day: date) -> UUID:
        bid = demo_id(SCHOOL, "bed", bed)
        return max(
            (p for p in plantings if p.bed_id == bid and p.crop == crop and p.start_on <= day), key=lambda p: p.start_on
        ).id

    for (bed, crop, on), changes in DETAILS.items():
        day = _d(on)
        row = next(
            r
            for r in picking_rows.recent(connection, planting=planting(bed, crop, day), limit=50)
            if r.picked_on == day and r.part == context.crops[crop].part
        )
        more = {key: value for key, value in changes.items() if key != "group"}
        if "group" in changes:
            more["class_group_id"] = demo_id(SCHOOL, "group", changes["group"])
        wish = replace(pickings.copy_of(row), **more)
        pickings.change(connection, context, replace(wish, sure=True), Actor(None, day))
    for number, (bed, crop, on, amount, unit, part, use) in enumerate(MORE):
        day = _d(on)
        wish = pickings.PickingWish(
            demo_id(SCHOOL, "more", number), planting(bed, crop, day), amount, unit, use, day, part=part
        )
        pickings.pick(connection, context, wish, Actor(None, day))
    for bed, crop, on, hung, days, cured_on, grams in (
        ("Bed 1", "garlic", "2025-07-01", "2025-07-01", 24, "2025-07-28", "6.2 lb"),
        ("Bed 1", "garlic", "2026-07-02", "2026-07-03", 24, "2026-07-29", "6.9 lb"),
    ):
        row = next(
            r
            for r in picking_rows.recent(connection, planting=planting(bed, crop, _d(on)), limit=50)
            if r.picked_on == _d(on)
        )
        pickings.hang(
            connection,
            context,
            row.id,
            day=_d(hung),
            place="in the tool shed, under the roof",
            days=days,
            actor=Actor(None, DEMO_DAY),
        )
        pickings.cured(
            connection,
            row.id,
            day=_d(cured_on),
            grams=Decimal(grams.split()[0]) * Decimal("453.59237"),
            actor=Actor(None, DEMO_DAY),
        )
    _weigh(connection, context)
    for number, (crop, on, group, how, tried, liked) in enumerate(TASTED):
        gid = demo_id(SCHOOL, "group", group) if group else None
        tasting.save(
            connection,
            context.school.id,
            Tasting(demo_id(SCHOOL, "tasting", number), crop, _d(on), gid, how, tried, liked, ""),
            by=None,
        )
    _ballot(connection, context)
    _money(connection, context, planting("Bed 6", "tomato", _d("2026-09-10")))


def _ballot(connection: Connection[Any], context: Context) -> None:
    """What to grow after the summer: crops that fit, and the hands of three classes."""
    ballot = Ballot(demo_id(SCHOOL, "ballot"), "What we sow after the summer", _d("2027-08-30"), _d("2027-09-20"), None)
    turns.begin_ballot(connection, context, ballot, today=DEMO_DAY)
    crops = [crop for crop, _ in turn_of_year.ballot_crops(connection, ballot.id)]
    for number, (group, hands) in enumerate(
        (("Birches", (14, 12, 9)), ("Docks", (17, 11, 8)), ("Elders", (15, 9, 12)))
    ):
        counts = {crops[(2 * number + 3 * n) % len(crops)]: votes for n, votes in enumerate(hands)}
        turns.vote(connection, context, ballot.id, demo_id(SCHOOL, "group", group), counts, most_each=2)


def _weigh(connection: Connection[Any], context: Context) -> None:
    for number, (crop, amount, unit, weight) in enumerate(WEIGHED):
        count, measure = weight.split()
        grams = Decimal(count) * (Decimal("453.59237") if measure == "lb" else Decimal("28.349523125"))
        pickings.weigh_unit(
            connection,
            context,
            demo_id(SCHOOL, "weighing", number),
            crop,
            amount,
            unit,
            grams,
            day=_d("2026-10-20"),
            actor=Actor(None, DEMO_DAY),
        )


def _money(connection: Connection[Any], context: Context, tomatoes: UUID) -> None:
    for name, goal, note in PURPOSES:
        ledger_rows.save_purpose(
            connection, context.school.id, Purpose(demo_id(SCHOOL, "purpose", name), name, goal, note, None)
        )
    made = Product(
        demo_id(SCHOOL, "product", 1),
        "Dried tomatoes",
        "dried",
        "2026-09-1",
        _d("2026-09-12"),
        _d("2027-09-12"),
        Decimal(9),
        "jar",
        "",
        "Keep dark and dry.",
        _d("2026-09-12"),
        (Ingredient(tomatoes, "Tomato", Decimal(1814)), Ingredient(None, "Salt", Decimal(20))),
    )
    ledger.make(connection, context, made, today=DEMO_DAY, by=None)
    for number, (kind, on, what, minor, whom, purpose) in enumerate(LEDGER):
        known: Kind = next(k for k in ("sale", "grant", "gift", "purchase") if k == kind)
        entry = LedgerEntry(
            demo_id(SCHOOL, "ledger", number), demo_id(SCHOOL, "purpose", purpose), known, _d(on), what, minor, whom
        )
        ledger.enter(connection, context, entry, today=DEMO_DAY, by=None)
    for crop, unit, minor in PRICES:
        ledger_rows.save_price(
            connection, context.school.id, Price(crop, unit, minor, "the Saturday market", _d("2026-09-05"))
        )
