"""Picking by its commands: parts, baskets, curing, weighing, taking back; the book that follows; forecasts and corrections."""

import threading
from collections.abc import Iterator
from dataclasses import replace
from datetime import date, timedelta
from decimal import Decimal
from uuid import UUID, uuid4

import pytest
from psycopg import Connection

from almanaque.commands import context
from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import painting, planting_events
from almanaque.commands.garden.painting import Paint
from almanaque.commands.harvest import harvest_book, learning, pickings
from almanaque.commands.harvest.pickings import PickingWish
from almanaque.host.postgres import Addresses
from almanaque.store import errors
from almanaque.store.db import Database
from almanaque.store.garden import garden
from almanaque.store.harvest import pickings as picking_rows
from tests.database import NORTH, PATIENCE_S, bed_id
from tests.refuses import refuses

TODAY = date(2027, 4, 14)
ACTOR = Actor(None, TODAY)
InSchool = tuple[Connection, Context]


@pytest.fixture
def in_school(database: Database) -> Iterator[InSchool]:
    with database.school(NORTH) as connection:
        yield connection, context.load(connection)


def standing(connection: Connection, bed: str, crop: str) -> UUID:
    return next(
        p.id for p in garden.plantings(connection, bed_id=bed_id(bed)) if p.crop == crop and p.status == "in the ground"
    )


def wish(planting: UUID, amount: str = "2", unit: str = "lb", **rest: object) -> PickingWish:
    return PickingWish(uuid4(), planting, amount, unit, **{"use": "kitchen", "day": TODAY, **rest})  # type: ignore[arg-type]


def test_uses_part_quality_and_loss_are_kept(in_school: InSchool) -> None:
    connection, school = in_school
    radish = standing(connection, "Half barrel", "radish")
    kept = pickings.pick(
        connection,
        school,
        wish(radish, "3", parts={"lost": "1", "sold": "0.5"}, lost_to="slugs", part="leaf", quality="small"),
        ACTOR,
    )
    row = picking_rows.one(connection, kept.id)
    assert (row.part, row.quality) == ("leaf", "small")
    assert {u.use: (round(u.share, 4), u.to_what) for u in row.uses} == {
        "kitchen": (Decimal("0.5"), ""),
        "lost": (Decimal("0.3333"), "slugs"),
        "sold": (Decimal("0.1667"), ""),
    }
    assert sum(u.share for u in row.uses) == 1


def test_what_became_of_it_weighs_as_much_as_what_was_picked(in_school: InSchool) -> None:
    """Mass balance of each season and crop through the database, thirds and pickings without a weight among them."""
    connection, school = in_school
    radish = standing(connection, "Half barrel", "radish")
    pickings.pick(
        connection, school, wish(radish, "1", parts={"sold": "0.333", "lost": "0.333"}, lost_to="slugs"), ACTOR
    )
    pickings.pick(connection, school, wish(radish, "7", "count", parts={"sold": "1", "compost": "3"}), ACTOR)
    back = pickings.pick(connection, school, wish(radish, "2"), ACTOR)
    pickings.take_back(connection, school, back.id, ACTOR, back=True)
    assert picking_rows.unbalanced(connection) == 0
    found = harvest_book.read(connection, school, today=TODAY, until=TODAY)
    picked: dict[tuple[str, str], Decimal] = {}
    for one in found.sums:
        key = (one.season, found.grown[one.planting].crop)
        picked[key] = picked.get(key, Decimal(0)) + one.weighed_g + one.estimated_g
    used: dict[tuple[str, str], Decimal] = {}
    for use in harvest_book.use_sums(connection, found, until=TODAY):
        used[use.season, use.crop] = used.get((use.season, use.crop), Decimal(0)) + use.grams
    assert used.keys() == picked.keys()
    for key, grams in picked.items():
        assert used[key] == pytest.approx(grams, abs=Decimal("0.01")), key


def test_far_more_than_is_usual_is_asked_about_and_kept_if_it_is_right(in_school: InSchool) -> None:
    connection, school = in_school
    radish = standing(connection, "Half barrel", "radish")
    much = wish(radish, "1000", "kg")
    with refuses("harvest.far_above_usual") as caught:
        pickings.pick(connection, school, much, ACTOR)
    assert caught.value.field == "sure"
    kept = pickings.pick(connection, school, replace(much, sure=True), ACTOR)
    assert picking_rows.one(connection, kept.id).grams == 1_000_000
    pickings.pick(connection, school, much, ACTOR)  # sent again without the tick: it is there already
    assert len(picking_rows.recent(connection, planting=radish, limit=9)) == 2


def test_one_basket_from_two_beds_is_shared_and_estimated(in_school: InSchool) -> None:
    connection, school = in_school
    trough, bed2 = standing(connection, "Trough", "lettuce"), standing(connection, "Bed 2", "lettuce")
    both = wish(trough, "6", "oz", others=(bed2,))
    pickings.pick(connection, school, both, ACTOR)
    pickings.pick(connection, school, both, ACTOR)
    rows = [*picking_rows.recent(connection, planting=trough), *picking_rows.recent(connection, planting=bed2)]
    assert len(rows) == 2
    assert sum(row.amount for row in rows) == 6
    assert sum(row.grams for row in rows) == pytest.approx(Decimal("170.10"), abs=Decimal("0.02"))
    assert all(row.estimated and row.low_g < row.grams < row.high_g and row.basket_id == both.id for row in rows)
    assert {row.amount for row in rows} == {Decimal("1.2"), Decimal("4.8")} or rows[0].amount != rows[1].amount


def test_the_last_picking_clears_the_squares(in_school: InSchool) -> None:
    connection, school = in_school
    radish = standing(connection, "Half barrel", "radish")
    pickings.pick(connection, school, wish(radish, "4", "oz", last=True), ACTOR)
    planting = garden.planting(connection, radish)
    assert planting.status == "finished"
    assert planting.events["cleared"] == TODAY
    with refuses("harvest.out_of_bed_by_then"):
        pickings.pick(
            connection, school, wish(radish, day=TODAY + timedelta(days=1)), Actor(None, TODAY + timedelta(days=2))
        )


def test_the_last_picking_of_what_comes_again_leaves_it_standing(in_school: InSchool) -> None:
    connection, school = in_school
    berries = standing(connection, "Bed 8", "strawberry")
    pickings.pick(connection, school, wish(berries, "4", "oz", last=True), ACTOR)
    assert garden.planting(connection, berries).status == "in the ground"


def test_a_picking_taken_back_counts_nowhere_and_can_come_in_again(in_school: InSchool) -> None:
    connection, school = in_school
    radish = standing(connection, "Half barrel", "radish")
    first = picking_rows.recent(connection, planting=radish)[0]
    later = pickings.pick(connection, school, wish(radish, "8", "oz"), ACTOR)
    pickings.take_back(connection, school, first.id, ACTOR, back=True)
    assert [row.id for row in picking_rows.recent(connection, planting=radish)] == [later.id]
    assert garden.planting(connection, radish).events["first picking"] == TODAY
    assert picking_rows.given(connection, [radish])[radish] == later.weight.grams
    pickings.take_back(connection, school, first.id, ACTOR, back=False)
    assert garden.planting(connection, radish).events["first picking"] == first.picked_on
    assert len(picking_rows.recent(connection, planting=radish)) == 2


def test_what_is_picked_is_neither_thinned_nor_kept_moist_any_more(in_school: InSchool) -> None:
    connection, _ = in_school
    radish = standing(connection, "Half barrel", "radish")
    rows = connection.execute("SELECT step FROM task WHERE planting_id = %s AND status = 'open'", [radish]).fetchall()
    assert {step for (step,) in rows} == {"first picking", "net off", "clear"}


def test_dates_go_back_with_a_first_picking_that_was_a_mistake(in_school: InSchool) -> None:
    connection, school = in_school
    radish = standing(connection, "Half barrel", "radish")
    for row in picking_rows.recent(connection, planting=radish):
        pickings.take_back(connection, school, row.id, ACTOR, back=True)
    before = garden.planting(connection, radish).dates
    mistake = pickings.pick(connection, school, wish(radish, "1", "oz", day=TODAY - timedelta(days=2)), ACTOR)
    moved = garden.planting(connection, radish).dates
    assert moved.first_pick == TODAY - timedelta(days=2) != before.first_pick
    pickings.take_back(connection, school, mistake.id, ACTOR, back=True)
    assert garden.planting(connection, radish).dates == before


def test_a_picking_is_put_right_and_weighed_anew(in_school: InSchool) -> None:
    connection, school = in_school
    radish = standing(connection, "Half barrel", "radish")
    kept = pickings.pick(connection, school, wish(radish, "8", "oz"), ACTOR)
    shown = pickings.copy_of(picking_rows.one(connection, kept.id))
    pickings.change(connection, school, replace(shown, amount="9", parts={"compost": "3"}), ACTOR)
    row = picking_rows.one(connection, kept.id)
    assert row.grams == Decimal("255.15")
    assert {u.use for u in row.uses} == {"kitchen", "compost"}
    same = pickings.copy_of(row)
    pickings.change(connection, school, same, ACTOR)
    assert picking_rows.one(connection, kept.id) == row


def test_curing_says_when_it_is_ready_and_what_it_lost(in_school: InSchool) -> None:
    connection, school = in_school
    radish = standing(connection, "Half barrel", "radish")
    kept = pickings.pick(connection, school, wish(radish, "1", "lb"), ACTOR)
    with refuses("harvest.not_hung_up"):
        pickings.cured(connection, kept.id, day=TODAY, grams=None, actor=ACTOR)
    ready = pickings.hang(connection, school, kept.id, day=TODAY, place="in the shed", days=10, actor=ACTOR)
    assert ready == date(2027, 4, 24)
    later = Actor(None, date(2027, 4, 25))
    with refuses("harvest.cured_heavier"):
        pickings.cured(connection, kept.id, day=date(2027, 4, 25), grams=Decimal(500), actor=later)
    loss = pickings.cured(connection, kept.id, day=date(2027, 4, 25), grams=Decimal("226.80"), actor=later)
    assert loss == pytest.approx(0.5, abs=0.001)
    (row,) = [r for r in picking_rows.recent(connection, curing=True, limit=99) if r.id == kept.id]
    assert (row.place, row.cured_g) == ("in the shed", Decimal("226.80"))
    with refuses("harvest.hung_up_on_wrong_day"):
        pickings.hang(connection, school, kept.id, day=TODAY - timedelta(days=1), place="", days=None, actor=ACTOR)


def test_weighing_once_gives_earlier_pickings_their_weight(in_school: InSchool) -> None:
    connection, school = in_school
    radish = standing(connection, "Half barrel", "radish")
    kept = pickings.pick(connection, school, wish(radish, "2", "crate"), ACTOR)
    assert picking_rows.one(connection, kept.id).grams is None
    changed = pickings.weigh_unit(
        connection, school, uuid4(), "radish", "1", "crate", Decimal(400), day=TODAY, actor=ACTOR
    )
    assert changed == 1
    row = picking_rows.one(connection, kept.id)
    assert (row.grams, row.low_g, row.high_g) == (800, 680, 920)
    for bad, says in (
        ({"unit": "lb"}, "harvest.weights_need_no_weighing"),
        ({"grams": Decimal(0)}, "harvest.weight_out_of_range"),
    ):
        values = {"unit": "crate", "grams": Decimal(400), **bad}
        with refuses(says):
            pickings.weigh_unit(
                connection, school, uuid4(), "radish", "1", values["unit"], values["grams"], day=TODAY, actor=ACTOR
            )


def test_another_schools_planting_and_picking_are_not_there(in_school: InSchool) -> None:
    connection, school = in_school
    with pytest.raises(errors.NotFound):
        pickings.pick(connection, school, wish(uuid4()), ACTOR)
    with pytest.raises(errors.NotFound):
        picking_rows.one(connection, uuid4())


def read(in_school: InSchool) -> harvest_book.Book:
    return harvest_book.read(in_school[0], in_school[1], today=TODAY, until=TODAY)


def test_the_books_sums_are_all_pickings_once(in_school: InSchool) -> None:
    connection, _ = in_school
    found = read(in_school)
    rows = picking_rows.recent(connection, until=TODAY, limit=9999)
    assert sum(s.pickings for s in found.sums) == len(rows)
    assert sum(s.weighed_g + s.estimated_g for s in found.sums) == sum(row.grams for row in rows if row.grams)
    assert sum(s.without_weight for s in found.sums) == sum(row.grams is None for row in rows) == 1
    assert found.known_seasons == ["2024–25", "2025–26", "2026–27"]


def test_uses_in_the_book_add_up_to_its_weight(in_school: InSchool) -> None:
    found = read(in_school)
    uses = picking_rows.use_sums(in_school[0], found.seasons, until=TODAY)
    assert sum(u.grams for u in uses) == pytest.approx(
        sum(s.weighed_g + s.estimated_g for s in found.sums), abs=Decimal("0.1")
    )


def test_every_planting_knows_its_ground_and_plants(in_school: InSchool) -> None:
    connection, school = in_school
    found = read(in_school)
    beds = {bed.id: bed for bed in garden.beds(connection)}
    for planting in garden.plantings(connection):
        grown = found.grown.get(str(planting.id))
        if grown is not None:
            assert (grown.area_m2, grown.plants) == pytest.approx(
                pickings.size_of(school, planting, beds[planting.bed_id])
            )
    connection.execute("UPDATE forecast SET plants = NULL, area_m2 = NULL")
    assert read(in_school).grown == found.grown


def test_the_forecast_made_at_the_start_is_kept_whatever_comes_after(in_school: InSchool) -> None:
    connection, school = in_school
    painted = painting.paint(
        connection,
        school,
        bed_id("Bed 4"),
        Paint("A4", "radish", "direct", date(2027, 4, 1), ink=True, draft_id=None),
        Actor(None, date(2027, 4, 1)),
    )
    planting_events.happened(connection, school, painted, "started", date(2027, 4, 1), Actor(None, date(2027, 4, 1)))
    made = connection.execute("SELECT first_pick FROM forecast_made WHERE planting_id = %s", [painted]).fetchone()
    planting_events.happened(connection, school, painted, "ready", date(2027, 4, 13), ACTOR)
    after = connection.execute(
        "SELECT m.first_pick, f.first_pick FROM forecast_made m JOIN forecast f USING (planting_id) WHERE planting_id = %s",
        [painted],
    ).fetchone()
    assert after[0] == made[0] != after[1]
    planting_events.did_not_happen(connection, school, painted, "started", ACTOR)
    assert connection.execute("SELECT 1 FROM forecast_made WHERE planting_id = %s", [painted]).fetchone() is None


def test_a_correction_moves_the_dates_of_its_crop_and_says_so(in_school: InSchool) -> None:
    connection, school = in_school
    error = next(e for e in harvest_book.errors(read(in_school)) if e.crop == "kale")
    assert error.seasons == 3
    assert error.usable >= 2
    for crop, _, _ in school.corrections:  # the demo's dates follow its pickings by themselves
        picking_rows.set_correction(connection, school.school.id, crop, days=0, seasons=1, day=TODAY)
    without = context.load(connection)
    assert without.corrections == ()
    picking_rows.set_correction(connection, school.school.id, "kale", days=error.usable, seasons=3, day=TODAY)
    changed = context.load(connection)
    assert changed.crops["kale"].days["starts"][0] == without.crops["kale"].days["starts"][0] + error.usable
    assert changed.crops["radish"] is without.crops["radish"]
    made = painting.paint(
        connection,
        changed,
        bed_id("Bed 4"),
        Paint("A4", "kale", "starts", date(2027, 5, 3), ink=True, draft_id=None),
        ACTOR,
    )
    assert "own_correction" in {f.code for f in garden.planting(connection, made).findings}
    again = next(
        e
        for e in harvest_book.errors(harvest_book.read(connection, changed, today=TODAY, until=TODAY))
        if e.crop == "kale"
    )
    assert again.usable == error.usable


def test_pickings_move_dates_by_themselves_from_the_first_season_on_where_the_school_lets_them(
    in_school: InSchool,
) -> None:
    connection, school = in_school
    worth = {e.crop: e.worth for e in harvest_book.errors(read(in_school)) if e.worth}
    taught = learning.learn(connection, school, today=TODAY)
    assert {crop: days for crop, days, _ in taught.corrections} == worth
    assert min(seasons for _, _, seasons in taught.corrections) == 1
    assert learning.learn(connection, taught, today=TODAY) is taught
    learning.let_pickings_move_dates(connection, taught, learns=False)
    still = context.load(connection)
    picking_rows.set_correction(connection, school.school.id, "kale", days=0, seasons=1, day=TODAY)
    assert learning.learn(connection, still, today=TODAY) is still
    assert "kale" not in [crop for crop, _, _ in context.load(connection).corrections]
    learning.let_pickings_move_dates(connection, still, learns=True)
    again = learning.learn(connection, context.load(connection), today=TODAY)
    assert {crop: days for crop, days, _ in again.corrections} == worth


def test_the_range_on_the_eve_of_the_first_picking_is_kept_with_what_moved_it(in_school: InSchool) -> None:
    facts = [f for f in read(in_school).facts if f.last_range]
    assert len(facts) >= 20
    early, middle, late = facts[0].last_range or (TODAY, TODAY, TODAY)
    assert early <= middle <= late
    assert {f.moved_by for f in facts} <= {None, "season", "other", "seen", "correction"}
    assert "season" in {f.moved_by for f in facts}
    widths = [((f.last_range[2] - f.last_range[0]).days, (f.late - f.early).days) for f in facts if f.last_range]
    assert sum(eve <= start + 1 for eve, start in widths) > 0.9 * len(widths), (
        "with its weather known a range is no wider"
    )


def test_a_picking_that_is_entered_weeks_later_keeps_the_range_of_its_own_eve(in_school: InSchool) -> None:
    connection, school = in_school
    garlic = next(
        p
        for p in garden.plantings(connection, bed_id=bed_id("Bed 1"))
        if p.crop == "garlic" and p.status == "in the ground"
    )
    day = date(2027, 3, 1)
    kept = []
    for entered in (day, TODAY):
        planting_events.first_picked(connection, school, garlic.id, day, Actor(None, entered))
        fact = connection.execute(
            "SELECT last_early, last_first, last_late FROM forecast_made WHERE planting_id = %s", [garlic.id]
        ).fetchone()
        assert fact is not None
        assert None not in fact
        kept.append(fact)
        planting_events.first_picked(connection, school, garlic.id, None, Actor(None, TODAY))
        gone = connection.execute("SELECT last_first FROM forecast_made WHERE planting_id = %s", [garlic.id]).fetchone()
        assert gone == (None,)
    assert kept[0] == kept[1]


def test_what_is_to_come_names_beds_that_will_be_picked(in_school: InSchool) -> None:
    connection, school = in_school
    shares = harvest_book.coming(connection, school, read(in_school), today=TODAY, until=TODAY + timedelta(weeks=8))
    assert {"Radish", "Strawberry"} <= {s.crop.name.en for s in shares}
    assert all(s.low_g <= s.high_g and s.monday >= date(2027, 4, 12) for s in shares)
    pea = next(s for s in shares if s.crop.key == "pea")
    assert pea.bed == "Bed 2"


def test_two_baskets_over_the_same_beds_in_other_order_are_both_kept(demo: Addresses) -> None:
    opened = Database(demo.app, max_size=2, timeout_s=PATIENCE_S)
    opened.open()
    with opened.school(NORTH) as connection:
        one, two = (
            standing(connection, bed, crop) for bed, crop in (("Half barrel", "radish"), ("Bed 8", "strawberry"))
        )
    ready, done = threading.Barrier(2), []

    def basket(first: UUID, other: UUID) -> None:
        ready.wait()
        with opened.school(NORTH) as connection:
            together = replace(wish(first, "2", "oz"), others=(other,))
            done.append(pickings.pick(connection, context.load(connection), together, ACTOR).id)

    threads = [threading.Thread(target=basket, args=pair) for pair in ((one, two), (two, one))]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    opened.close()
    assert len(done) == 2
