"""The seed box by its commands: lots, what is taken, tests, trays, where a lot came from, what to buy."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import date
from uuid import UUID, uuid4

import pytest
from psycopg import Connection

from almanaque.commands import context
from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import painting
from almanaque.commands.garden.painting import Paint
from almanaque.commands.seeds import seed_box as commands
from almanaque.commands.seeds import what_to_buy
from almanaque.core.errors import BadInput
from almanaque.demo import load
from almanaque.store import errors
from almanaque.store.db import Database
from almanaque.store.garden import garden
from almanaque.store.seeds import seed_box
from almanaque.store.seeds.seed_box import Count, GerminationTest, LotRow, TakenSeed, TraySowing
from tests.database import NORTH, SOUTH, bed_id
from tests.refuses import refuses

TODAY = date(2027, 4, 14)
SCHOOL = "Brindlecombe School"
RADISH = load.demo_id(SCHOOL, "lot", "radish", 2026)
TRAY = load.demo_id(SCHOOL, "tray", "Tray by the window")
InSchool = tuple[Connection, Context]


@pytest.fixture
def in_school(database: Database) -> Iterator[InSchool]:
    with database.school(NORTH) as connection:
        yield connection, context.load(connection)


def lot(**change: object) -> LotRow:
    values: dict[str, object] = {
        "id": uuid4(),
        "crop": "kale",
        "variety": "",
        "origin": "bought",
        "whom": "",
        "from_planting": None,
        "year": 2027,
        "grams": None,
        "seeds": 200,
        "pelleted": False,
        "hybrid": False,
        "place": "cool and dry",
        "where_kept": "",
        "packets": None,
        "price_minor": None,
        "note": "",
        "got_on": TODAY,
        "closed_on": None,
        "closed_why": "",
        **change,
    }
    return LotRow(**values)  # type: ignore[arg-type]


def standing(connection: Connection, bed: str, crop: str) -> UUID:
    return next(
        p.id for p in garden.plantings(connection, bed_id=bed_id(bed)) if p.crop == crop and p.status == "in the ground"
    )


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"year": 2028}, "seeds.seed_in_future"),
        ({"seeds": None}, "seeds.amount_missing"),
        ({"origin": "saved"}, "seeds.saved_from_missing"),
        ({"crop": "cabbage-tree"}, "crops.no_such_crop"),
    ],
)
def test_a_lot_that_cannot_be_is_refused(in_school: InSchool, change: dict, says: str) -> None:
    with refuses(says):
        commands.keep_lot(*in_school, lot(**change), today=TODAY)


def test_saved_seed_comes_from_a_planting_of_its_own_crop(in_school: InSchool) -> None:
    connection, school = in_school
    pea = standing(connection, "Bed 2", "pea")
    with refuses("seeds.saved_from_other_crop"):
        commands.keep_lot(connection, school, lot(origin="saved", from_planting=pea), today=TODAY)
    with refuses("seeds.only_saved_has_parent"):
        commands.keep_lot(connection, school, lot(crop="pea", from_planting=pea), today=TODAY)
    with pytest.raises(errors.NotFound):
        commands.keep_lot(connection, school, lot(crop="pea", origin="saved", from_planting=uuid4()), today=TODAY)
    commands.keep_lot(connection, school, lot(crop="pea", origin="saved", from_planting=pea), today=TODAY)


def test_no_more_is_taken_than_is_left_and_the_same_only_once(in_school: InSchool) -> None:
    connection, school = in_school
    left = commands.left_of(school.crops["radish"], seed_box.lot(connection, RADISH))
    taken = TakenSeed(uuid4(), RADISH, None, TODAY, 54, "gift packets")
    for _ in range(2):
        commands.take(connection, school, taken, today=TODAY)
    assert commands.left_of(school.crops["radish"], seed_box.lot(connection, RADISH)) == left - 54
    with pytest.raises(BadInput, match="400 seeds are left"):
        commands.take(connection, school, TakenSeed(uuid4(), RADISH, None, TODAY, 401, ""), today=TODAY)
    with refuses("seeds.lot_of_other_crop"):
        commands.take(
            connection,
            school,
            TakenSeed(uuid4(), RADISH, standing(connection, "Bed 2", "pea"), TODAY, 1, ""),
            today=TODAY,
        )
    with refuses("seeds.more_was_taken"):
        commands.keep_lot(connection, school, replace(seed_box.lot(connection, RADISH), seeds=100), today=TODAY)


def test_a_test_is_counted_out_and_only_then_says_how_thick_to_sow(in_school: InSchool) -> None:
    connection, school = in_school
    kale = lot()
    commands.keep_lot(connection, school, kale, today=TODAY)
    test = GerminationTest(uuid4(), kale.id, date(2027, 4, 5), 20, "", None)
    with refuses("seeds.taken_on_wrong_day"):
        commands.start_test(connection, school, test, use_id=uuid4(), today=TODAY)
    commands.keep_lot(connection, school, replace(kale, got_on=date(2027, 4, 1)), today=TODAY)
    commands.start_test(connection, school, test, use_id=test.id, today=TODAY)
    commands.start_test(connection, school, test, use_id=test.id, today=TODAY)
    assert seed_box.lot(connection, kale.id).taken == 20

    def count(day: int, up: int, end: bool = False) -> None:
        commands.count(connection, school, kale.id, test.id, Count(date(2027, 4, day), up), today=TODAY, end=end)

    count(10, 8)
    assert commands.rate_of(seed_box.lot(connection, kale.id)) is None
    assert test.id in [running.id for _, running, _ in commands.due(school, seed_box.lots(connection))]
    for day, up, says in (
        (12, 7, "seeds.fewer_up_than_before"),
        (12, 21, "seeds.more_up_than_sown"),
        (4, 3, "seeds.test_counted_on_wrong_day"),
        (15, 9, "seeds.test_counted_on_wrong_day"),
    ):
        with refuses(says):
            count(day, up)
    count(13, 12, end=True)
    rate = commands.rate_of(seed_box.lot(connection, kale.id))
    assert (rate.up, rate.sown) == (12, 20)
    with pytest.raises(errors.NotFound):
        commands.count(connection, school, RADISH, test.id, Count(TODAY, 13), today=TODAY, end=True)


def test_the_order_takes_the_box_off_what_the_plans_ask_for(in_school: InSchool) -> None:
    connection, school = in_school
    lines = {line.crop.key: line for line in what_to_buy.order(connection, school, since=TODAY, today=TODAY)}
    assert (lines["radish"].need, lines["radish"].have, lines["radish"].buy) == (168, 454, 0)
    assert lines["bush-bean"].have == 70
    seed_box.save_lot(
        connection,
        school.school.id,
        replace(seed_box.lot(connection, RADISH), closed_on=TODAY, closed_why="thrown away"),
    )
    lines = {line.crop.key: line for line in what_to_buy.order(connection, school, since=TODAY, today=TODAY)}
    assert (lines["radish"].buy, lines["radish"].packets, lines["radish"].price_minor) == (168, 1, 295)


def test_wheat_is_followed_back_over_the_years(in_school: InSchool) -> None:
    connection, _ = in_school
    saved = seed_box.lot(connection, load.demo_id(SCHOOL, "lot", "wheat saved"))
    steps = commands.descent(connection, saved)
    assert [(step.lot.year, step.bed) for step in steps] == [(2026, "Bed 3"), (2024, "")]


def test_a_lot_that_came_from_itself_is_not_followed_for_ever(in_school: InSchool) -> None:
    connection, school = in_school
    pea = standing(connection, "Bed 2", "pea")
    ring = lot(crop="pea", origin="saved", from_planting=pea, year=2026, got_on=date(2026, 9, 1))
    commands.keep_lot(connection, school, ring, today=TODAY)
    connection.execute("DELETE FROM lot_use WHERE planting_id = %s", [pea])
    commands.take(connection, school, TakenSeed(uuid4(), ring.id, pea, TODAY, 5, ""), today=TODAY)
    assert len(commands.descent(connection, seed_box.lot(connection, ring.id))) == 1


def test_seed_of_hybrids_is_warned_of_and_two_of_one_species_cross(in_school: InSchool) -> None:
    connection, school = in_school
    bed = bed_id("Bed 4")
    for squares, crop in (("A4", "sweet-corn"), ("B4", "popcorn")):
        made = painting.paint(
            connection, school, bed, Paint(squares, crop, "direct", TODAY, ink=True, draft_id=None), Actor(None, TODAY)
        )
        connection.execute("UPDATE planting SET status = 'in the ground' WHERE id = %s", [made])
    corn = next(p for p in garden.plantings(connection, bed_id=bed) if p.crop == "sweet-corn")
    commands.take(
        connection,
        school,
        TakenSeed(uuid4(), load.demo_id(SCHOOL, "lot", "sweet-corn", 2026), corn.id, TODAY, 4, ""),
        today=TODAY,
    )
    found = {s.crop.key: [f.code for f in s.findings] for s in commands.savable(connection, school, TODAY)}
    assert found["sweet-corn"][:2] == ["seed_hybrid", "seed_crosses"]
    assert found["popcorn"][0] == "seed_crosses"
    assert found["pea"] == ["seed_selfs"]


def sowing(**change: object) -> TraySowing:
    values: dict[str, object] = {
        "id": uuid4(),
        "tray_id": TRAY,
        "first_cell": 45,
        "last_cell": 48,
        "crop": "kale",
        "planting_id": None,
        "lot_id": None,
        "sown_on": TODAY,
        "per_cell": 1,
        "goes_home": 0,
        "up": None,
        "gone_on": None,
        **change,
    }
    return TraySowing(**values)  # type: ignore[arg-type]


def test_a_plan_that_seed_was_taken_for_is_not_rubbed_out_unawares(in_school: InSchool) -> None:
    connection, school = in_school
    made = painting.paint(
        connection,
        school,
        bed_id("Bed 4"),
        Paint("A4", "radish", "direct", TODAY, ink=True, draft_id=None),
        Actor(None, TODAY),
    )
    assert not garden.has_history(connection, made)
    commands.take(connection, school, TakenSeed(uuid4(), RADISH, made, TODAY, 16, ""), today=TODAY)
    assert garden.has_history(connection, made)
    with refuses("garden.begun_mark_lost"):
        painting.rub_out(connection, school, bed_id("Bed 4"), "A4", shown=TODAY, actor=Actor(None, TODAY))


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"first_cell": 24}, "seeds.cells_taken"),
        ({"last_cell": 49}, "seeds.no_such_cells"),
        ({"first_cell": 48, "last_cell": 46}, "seeds.no_such_cells"),
        ({"sown_on": date(2027, 5, 1)}, "seeds.sown_in_future"),
        ({"lot_id": RADISH, "per_cell": 20, "first_cell": 25, "last_cell": 30, "crop": "radish"}, None),
    ],
)
def test_cells_hold_one_thing_at_a_time(in_school: InSchool, change: dict, says: str | None) -> None:
    connection, school = in_school
    if says is None:
        commands.sow(connection, school, sowing(**change), use_id=uuid4(), today=TODAY)
        assert seed_box.lot(connection, RADISH).taken == 126 + 20 + 120
        return
    with refuses(says):
        commands.sow(connection, school, sowing(**change), use_id=uuid4(), today=TODAY)


def test_a_tray_says_what_comes_next_and_frees_its_cells(in_school: InSchool) -> None:
    connection, school = in_school
    tray = seed_box.tray(connection, TRAY)
    assert (commands.free_cells(tray), commands.next_free(tray)) == (12, 25)
    tomato = next(row for row in commands.indoors(connection, school, tray, TODAY) if row.sowing.crop == "tomato")
    assert tomato.pot_up < tomato.harden_from < tomato.out
    with refuses("seeds.more_home_than_up"):
        commands.tend(connection, school, TRAY, tomato.sowing.id, up=3, goes_home=4, gone_on=None, today=TODAY)
    commands.tend(connection, school, TRAY, tomato.sowing.id, up=22, goes_home=4, gone_on=TODAY, today=TODAY)
    assert commands.next_free(seed_box.tray(connection, TRAY)) == 1
    commands.sow(connection, school, sowing(first_cell=1, last_cell=24), use_id=uuid4(), today=TODAY)


def test_another_schools_box_is_closed(database: Database) -> None:
    with database.school(SOUTH) as connection:
        assert seed_box.lots(connection) == []
        with pytest.raises(errors.NotFound):
            seed_box.lot(connection, RADISH)
        with pytest.raises(errors.NotFound):
            seed_box.tray(connection, TRAY)
