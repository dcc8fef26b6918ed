"""Brindlecombe's seed box: lots bought, saved, swapped and found, tests, and two trays on the sill. Invented."""

from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.seeds import seed_box as commands
from almanaque.core.seeds.seed_lots import Origin, Place
from almanaque.demo import DEMO_DAY
from almanaque.demo.shapes import demo_id
from almanaque.store.garden import garden
from almanaque.store.seeds import seed_box
from almanaque.store.seeds.seed_box import Count, GerminationTest, LotRow, TakenSeed, Tray, TraySowing

SCHOOL = "Brindlecombe School"


def _d(text: str) -> date:
    return date.fromisoformat(text)


# (crop, variety, origin, whom, year, seeds, place, packets, price, pelleted, note)
LOTS: tuple[tuple[str, str, Origin, str, int, int, Place, int | None, int | None, bool, str], ...] = (
    ("radish", "Red globe", "bought", "a seed house", 2026, 600, "cool and dry", 2, 590, False, ""),
    (
        "carrot",
        "Short stump",
        "bought",
        "a seed house",
        2025,
        1200,
        "cool and dry",
        1,
        480,
        True,
        "pelleted for Kindergarten",
    ),
    (
        "carrot",
        "Long orange",
        "bought",
        "a seed house",
        2023,
        900,
        "in a room",
        1,
        310,
        False,
        "found behind the shelf",
    ),
    ("pea", "Tall shelling", "bought", "a seed house", 2026, 240, "cool and dry", 2, 640, False, ""),
    ("winter-wheat", "", "bought", "a mill", 2024, 2000, "cool and dry", None, None, False, ""),
    ("bush-bean", "Speckled", "swapped", "the seed swap in March", 2026, 80, "in a room", None, None, False, ""),
    ("spinach", "", "bought", "a seed house", 2024, 400, "in a room", 2, 520, False, ""),
    ("tomato", "Early red", "bought", "a seed house", 2026, 40, "cool and dry", 1, 395, False, ""),
    ("calendula", "", "gathered elsewhere", "along the lane", 2026, 150, "cool and dry", None, None, False, ""),
    ("sweet-corn", "Sugar cross", "bought", "a seed house", 2026, 80, "cool and dry", 1, 450, False, "hybrid"),
)
TESTS = (
    ("radish", 2026, 20, "2027-02-10", ((2, 0), (4, 11), (7, 17)), True),
    ("spinach", 2024, 20, "2027-02-10", ((9, 6), (16, 9)), True),
    ("carrot", 2023, 20, "2027-02-10", ((14, 1), (21, 3)), True),
    ("bush-bean", 2026, 10, "2027-04-08", ((5, 4),), False),
)


def write(connection: Connection[Any], context: Context) -> None:
    """By the same commands that the pages use."""
    lots = {}
    for crop, variety, origin, whom, year, count, place, packets, price, pelleted, note in LOTS:
        lot = LotRow(
            demo_id(SCHOOL, "lot", crop, year),
            crop,
            variety,
            origin,
            whom,
            None,
            year,
            None,
            count,
            pelleted,
            note == "hybrid",
            place,
            "the tin in the tool shed" if place == "cool and dry" else "a drawer in room 4",
            packets,
            price,
            "" if note == "hybrid" else note,
            date(year, 9, 1) if year < 2027 else _d("2027-01-19"),
            None,
            "",
        )
        commands.keep_lot(connection, context, lot, today=DEMO_DAY)
        lots[crop, year] = lot.id
    plantings = garden.plantings(connection)

    def planting(bed: str, crop: str, year: int) -> UUID:
        bid = demo_id(SCHOOL, "bed", bed)
        return next(p.id for p in plantings if p.bed_id == bid and p.crop == crop and p.start_on.year == year)

    def take(number: int, lot: UUID, of: UUID, day: str, count: int) -> None:
        commands.take(
            connection,
            context,
            TakenSeed(demo_id(SCHOOL, "taken", number), lot, of, _d(day), count, ""),
            today=DEMO_DAY,
        )

    # Wheat of 2024 gave the seed of 2026, which was sown again.
    take(1, lots["winter-wheat", 2024], planting("Bed 3", "winter-wheat", 2025), "2025-10-02", 420)
    saved = LotRow(
        demo_id(SCHOOL, "lot", "wheat saved"),
        "winter-wheat",
        "",
        "saved",
        "Cedars",
        planting("Bed 3", "winter-wheat", 2025),
        2026,
        None,
        1800,
        False,
        False,
        "cool and dry",
        "the tin in the tool shed",
        None,
        None,
        "threshed in the hall",
        _d("2026-06-20"),
        None,
        "",
    )
    commands.keep_lot(connection, context, saved, today=DEMO_DAY)
    take(2, saved.id, planting("Bed 3", "winter-wheat", 2026), "2026-10-01", 420)
    take(3, lots["radish", 2026], planting("Bed 4", "radish", 2027), "2027-04-07", 126)
    take(4, lots["pea", 2026], planting("Bed 2", "pea", 2027), "2027-03-30", 160)
    for crop, year, sown, day, counts, ended in TESTS:
        tid = demo_id(SCHOOL, "germination", crop, year)
        lot_id = lots[crop, year]
        commands.start_test(
            connection,
            context,
            GerminationTest(tid, lot_id, _d(day), sown, "damp paper towel", None),
            use_id=tid,
            today=DEMO_DAY,
        )
        for after, up in counts:
            counted = Count(date.fromordinal(_d(day).toordinal() + after), up)
            commands.count(
                connection, context, lot_id, tid, counted, today=DEMO_DAY, end=ended and (after, up) == counts[-1]
            )
    _trays(connection, context, lots["tomato", 2026], planting("Bed 6", "tomato", 2027))


def _trays(connection: Connection[Any], context: Context, tomato: UUID, plan: UUID) -> None:
    for name, columns, rows in (("Tray by the window", 8, 6), ("Small tray", 6, 4)):
        seed_box.save_tray(
            connection,
            context.school.id,
            Tray(demo_id(SCHOOL, "tray", name), name, columns, rows, "sill of room 4", None),
        )
    first = demo_id(SCHOOL, "tray", "Tray by the window")
    for number, sowing in enumerate(
        (
            TraySowing(
                demo_id(SCHOOL, "sowing", 1), first, 1, 24, "tomato", plan, tomato, _d("2027-03-30"), 1, 0, None, None
            ),
            TraySowing(
                demo_id(SCHOOL, "sowing", 2), first, 33, 44, "basil", None, None, _d("2027-04-06"), 2, 0, None, None
            ),
        )
    ):
        commands.sow(connection, context, sowing, use_id=demo_id(SCHOOL, "sowing use", number), today=DEMO_DAY)
    commands.tend(
        connection, context, first, demo_id(SCHOOL, "sowing", 1), up=21, goes_home=5, gone_on=None, today=DEMO_DAY
    )
