"""Commands on beds, jobs, pickings and the calendar, against a real database."""

import asyncio
from dataclasses import replace
from datetime import date, timedelta
from decimal import Decimal
from uuid import UUID, uuid4

import pytest
from psycopg import Connection

from almanaque.clock import Clock
from almanaque.commands import context
from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import painting, planting_events, plantings, undo
from almanaque.commands.garden.painting import Paint
from almanaque.commands.growth import forecasts
from almanaque.commands.harvest import harvest_book, pickings
from almanaque.commands.harvest.pickings import PickingWish
from almanaque.commands.school import calendar
from almanaque.commands.week import jobs
from almanaque.core.school.school_year import Span
from almanaque.host.postgres import Addresses
from almanaque.store import errors, queue
from almanaque.store.db import Database
from almanaque.store.garden import changes, garden
from almanaque.store.harvest import pickings as picking_rows
from almanaque.store.week import tasks
from almanaque.worker.main import with_tasks
from tests.database import NORTH, bed_id
from tests.refuses import refuses

TODAY = date(2027, 4, 14)
ACTOR = Actor(None, TODAY)
BED_4 = bed_id("Bed 4")


@pytest.fixture
def in_school(database: Database):
    with database.school(NORTH) as connection:
        yield connection, context.load(connection)


def paint(
    in_school: tuple[Connection, Context], squares: str, crop: str = "radish", *, ink: bool = False, start: date = TODAY
) -> UUID:
    connection, school = in_school
    method = school.crops[crop].methods[0]
    return painting.paint(connection, school, BED_4, Paint(squares, crop, method, start, ink), ACTOR)


def test_painting_gives_count_dates_verdict_and_no_jobs_in_pencil(in_school) -> None:
    connection, school = in_school
    made = garden.planting(connection, paint(in_school, "A4-B4"))
    assert made.status == "pencilled"
    assert made.verdict == "fits"
    assert forecasts.layout_of(made, garden.bed(connection, BED_4), school.crops["radish"]).plants == 32
    assert tasks.tasks(connection, planting_id=made.id) == []


def test_ink_gives_jobs_to_the_class_that_adopted_the_bed(in_school) -> None:
    connection, _ = in_school
    start = TODAY + timedelta(days=7)
    made = paint(in_school, "A4-B4", ink=True, start=start)
    found = {task.step: task for task in tasks.tasks(connection, planting_id=made)}
    assert {"prepare bed", "sow", "keep moist", "thin", "first picking", "clear"} <= set(found)
    assert "Kindergarten adopted this bed." in {task.why for task in found.values()}
    # Half an hour is not enough for the sowing beside what Kindergarten has to do already.
    assert found["sow"].why.endswith("has time; the bed's own class is full.")
    assert start <= found["sow"].on_day <= start + timedelta(days=6)


def test_no_job_of_a_new_plan_lies_in_the_past(in_school) -> None:
    connection, _ = in_school
    made = paint(in_school, "A4-B4", ink=True, start=TODAY + timedelta(days=1))
    found = tasks.tasks(connection, planting_id=made)
    assert {task.step for task in found} >= {"prepare bed", "sow"}
    assert all(task.from_day >= TODAY and (task.on_day is None or task.on_day >= TODAY) for task in found)


def test_the_same_crop_and_day_joins_its_planting_and_another_day_does_not(in_school) -> None:
    connection, _ = in_school
    first = paint(in_school, "A4")
    assert paint(in_school, "B4") == first
    assert garden.planting(connection, first).cells == {(0, 3), (1, 3)}
    assert paint(in_school, "C4", start=TODAY + timedelta(days=7)) != first


def test_painting_over_open_plans_takes_their_squares_and_over_the_ground_keeps_both(in_school) -> None:
    connection, _ = in_school
    first = paint(in_school, "A4-B4")
    paint(in_school, "B4", "lettuce")
    assert garden.planting(connection, first).cells == {(0, 3)}
    standing = next(p for p in garden.plantings(connection, bed_id=BED_4) if p.status == "in the ground")
    paint(in_school, "A1", "lettuce")
    assert garden.planting(connection, standing.id).cells == standing.cells


def test_plans_that_do_not_meet_in_time_share_squares(in_school) -> None:
    connection, _ = in_school
    first = paint(in_school, "A4", "radish")
    second = paint(in_school, "A4", "radish", start=date(2027, 9, 1))
    assert garden.planting(connection, first).cells == garden.planting(connection, second).cells


def test_undo_puts_everything_back_command_by_command(in_school) -> None:
    connection, school = in_school
    before = {p.id: changes.planting_out(p) for p in garden.plantings(connection, bed_id=BED_4)}
    first = paint(in_school, "A4-C4")
    after_first = {p.id: changes.planting_out(p) for p in garden.plantings(connection, bed_id=BED_4)}
    paint(in_school, "B4", "lettuce", ink=True)
    painting.rub_out(connection, school, BED_4, "A4-C4", shown=TODAY, actor=ACTOR)
    for said in ("rub out 3 squares", "paint leaf lettuce"):
        assert undo.undo(connection, school, BED_4, actor=ACTOR) == said
    assert {p.id: changes.planting_out(p) for p in garden.plantings(connection, bed_id=BED_4)} == after_first
    assert undo.undo(connection, school, BED_4, actor=ACTOR) == "paint radish"
    assert {p.id: changes.planting_out(p) for p in garden.plantings(connection, bed_id=BED_4)} == before
    assert first not in before


def test_undo_stops_at_what_really_happened(in_school) -> None:
    connection, school = in_school
    made = paint(in_school, "A4", ink=True)
    planting_events.happened(connection, school, made, "started", TODAY, ACTOR)
    with refuses("garden.noted_since"):
        undo.undo(connection, school, BED_4, actor=ACTOR)


def test_what_is_in_the_ground_is_not_rubbed_out(in_school) -> None:
    connection, school = in_school
    with refuses("garden.in_the_ground"):
        painting.rub_out(connection, school, BED_4, "A1", shown=TODAY, actor=ACTOR)
    with refuses("garden.nothing_to_rub_out"):
        painting.rub_out(connection, school, BED_4, "A4", shown=TODAY, actor=ACTOR)


def test_work_that_has_begun_is_not_rubbed_out(in_school) -> None:
    connection, school = in_school
    tomato = next(p for p in garden.plantings(connection, bed_id=bed_id("Bed 6")) if p.status == "planned")
    with refuses("garden.begun_mark_lost"):
        painting.rub_out(connection, school, tomato.bed_id, "A1-H2", shown=TODAY, actor=ACTOR)


def test_pencil_turns_to_ink_and_back(in_school) -> None:
    connection, school = in_school
    made = paint(in_school, "A4")
    assert plantings.set_ink(connection, school, BED_4, "A4", ink=True, shown=TODAY, actor=ACTOR) == 1
    assert garden.planting(connection, made).status == "planned"
    assert tasks.tasks(connection, planting_id=made)
    plantings.set_ink(connection, school, BED_4, "A4", ink=False, shown=TODAY, actor=ACTOR)
    assert tasks.tasks(connection, planting_id=made) == []
    with refuses("garden.nothing_in_ink_there"):
        plantings.set_ink(connection, school, BED_4, "A4", ink=False, shown=TODAY, actor=ACTOR)


def test_a_move_changes_the_dates_and_can_be_undone(in_school) -> None:
    connection, school = in_school
    made = paint(in_school, "A4", "bush-bean")
    assert garden.planting(connection, made).verdict != "fits"
    plantings.move(connection, school, made, method="direct", start_on=date(2027, 6, 15), actor=ACTOR)
    moved = garden.planting(connection, made)
    assert (moved.start_on, moved.dates.start) == (date(2027, 6, 15), date(2027, 6, 15))
    assert undo.undo(connection, school, BED_4, actor=ACTOR) == "move bush bean"
    assert garden.planting(connection, made).start_on == TODAY
    with refuses("garden.day_has_passed"):
        plantings.move(connection, school, made, method="direct", start_on=date(2027, 4, 1), actor=ACTOR)


@pytest.mark.parametrize(
    ("wish", "says"),
    [
        (Paint("Z9", "radish", "direct", TODAY, False), "garden.square_outside_bed"),
        (Paint("A1", "radish", "indoors", TODAY, False), "garden.not_started_that_way"),
        (Paint("A1", "moonflower", "direct", TODAY, False), "crops.no_such_crop"),
        (Paint("A1", "radish", "direct", TODAY - timedelta(days=1), True), "garden.ink_begins_in_past"),
    ],
)
def test_what_cannot_be_painted_is_refused_in_words(in_school, wish: Paint, says: str) -> None:
    connection, school = in_school
    with refuses(says):
        painting.paint(connection, school, BED_4, wish, ACTOR)


def test_a_stale_version_writes_nothing(in_school) -> None:
    connection, school = in_school
    with pytest.raises(errors.Stale):
        painting.paint(
            connection, school, BED_4, Paint("A4", "radish", "direct", TODAY, False), replace(ACTOR, version=0)
        )


def test_ticking_the_sowing_puts_it_into_the_ground_and_unticking_takes_it_back(in_school) -> None:
    connection, school = in_school
    made = paint(in_school, "A4", ink=True)
    sow = next(task for task in tasks.tasks(connection, planting_id=made) if task.step == "sow")
    jobs.tick(connection, school, sow.id, "done", TODAY, ACTOR)
    assert garden.planting(connection, made).status == "in the ground"
    left = {(task.step, task.status) for task in tasks.tasks(connection, planting_id=made)}
    assert ("sow", "done") in left
    assert "prepare bed" not in {step for step, _ in left}
    jobs.tick(connection, school, sow.id, "open", TODAY, ACTOR)
    assert garden.planting(connection, made).status == "planned"
    with refuses("week.job_ticked_too_early"):
        jobs.tick(connection, school, sow.id, "done", TODAY + timedelta(days=1), ACTOR)


def test_clearing_finishes_a_planting_and_drops_the_open_jobs(in_school) -> None:
    connection, school = in_school
    standing = next(p for p in garden.plantings(connection, bed_id=BED_4) if p.status == "in the ground")
    planting_events.happened(connection, school, standing.id, "cleared", TODAY, ACTOR)
    assert garden.planting(connection, standing.id).status == "finished"
    assert all(task.status != "open" for task in tasks.tasks(connection, planting_id=standing.id))
    with refuses("garden.event_in_future"):
        planting_events.happened(connection, school, standing.id, "lost", TODAY + timedelta(days=1), ACTOR)


def test_recomputing_never_loses_a_finished_job(in_school) -> None:
    connection, school = in_school
    made = paint(in_school, "A4", ink=True)
    prepare = next(task for task in tasks.tasks(connection, planting_id=made) if task.step == "prepare bed")
    jobs.tick(connection, school, prepare.id, "done", TODAY, ACTOR)
    plantings.move(connection, school, made, method="direct", start_on=TODAY + timedelta(days=6), actor=ACTOR)
    assert tasks.task(connection, prepare.id).status == "done"


def picking(planting: UUID, amount: str = "2", unit: str = "lb", **rest: object) -> PickingWish:
    values = {"use": "kitchen", "day": TODAY, **rest}
    return PickingWish(uuid4(), planting, amount, unit, **values)


def standing_radish(connection: Connection) -> UUID:
    return next(p.id for p in garden.plantings(connection, bed_id=bed_id("Half barrel")) if p.status == "in the ground")


def test_a_picking_is_in_the_book_once_however_often_it_is_sent(in_school) -> None:
    connection, school = in_school
    wish = picking(standing_radish(connection))
    for _ in range(2):
        pickings.pick(connection, school, wish, ACTOR)
    rows = picking_rows.recent(connection, until=TODAY, planting=wish.planting_id)
    assert len(rows) == 2  # with the one the demo holds
    assert rows[0].uses == (picking_rows.Use("kitchen", Decimal(1)),)
    with pytest.raises(errors.IdTaken):
        pickings.pick(connection, school, replace(wish, amount="3"), ACTOR)


def test_the_book_knows_what_the_bed_gave_per_square_foot(in_school) -> None:
    connection, school = in_school
    pickings.pick(connection, school, picking(standing_radish(connection), "4", "lb"), ACTOR)
    rows = harvest_book.read(connection, school, today=TODAY, until=TODAY)
    found = rows.totals(rows.sums, lambda s: (rows.grown[s.planting].bed, rows.grown[s.planting].crop, s.season))[
        "Half barrel", "radish", "2026–27"
    ]
    four_pounds, thirty_one_counted = Decimal("1814.37"), 31 * 15
    assert (found.weighed_g, found.estimated_g, found.plants) == (four_pounds, thirty_one_counted, 64)
    assert found.area_m2 == pytest.approx(4 * 0.09290304)
    assert found.per_square_metre == pytest.approx(float(found.grams) / found.area_m2)


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"amount": "-2"}, "harvest.amount_not_a_number"),
        ({"amount": "two"}, "harvest.amount_not_a_number"),
        ({"unit": "=cart()"}, "harvest.unit_too_long"),
        ({"use": "juggled"}, "harvest.use_unknown"),
        ({"day": TODAY + timedelta(days=1)}, "harvest.picking_in_future"),
        ({"day": date(2027, 1, 1)}, "harvest.went_in_later"),
    ],
)
def test_a_picking_that_cannot_be_is_refused(in_school, change: dict, says: str) -> None:
    connection, school = in_school
    with refuses(says):
        pickings.pick(connection, school, replace(picking(standing_radish(connection)), **change), ACTOR)


def test_nothing_is_picked_from_a_plan(in_school) -> None:
    connection, school = in_school
    with refuses("harvest.planting_not_in_ground"):
        pickings.pick(connection, school, picking(paint(in_school, "A4", ink=True)), ACTOR)


def year_of(school: Context):
    return next(year for year in school.years if year.name == "2026–27")


def test_a_changed_calendar_changes_verdicts_in_the_background_all_or_nothing(
    demo: Addresses, database: Database
) -> None:
    async def work() -> None:
        app = with_tasks(queue.app_for(demo.app), database, Clock(TODAY))
        async with app.open_async():
            await app.run_worker_async(wait=False, install_signal_handlers=False, listen_notify=False)

    with database.school(NORTH) as connection:
        school = context.load(connection)
        lettuce = next(
            p
            for p in garden.plantings(connection, bed_id=bed_id("Bed 2"))
            if p.crop == "lettuce" and p.status == "in the ground"
        )
        assert lettuce.verdict == "fits"
        spring = next(row for row in year_of(school).terms if row.span.name == "Spring term")
        shorter = Span("Spring term", spring.span.starts, date(2027, 5, 28))
        for _ in range(2):
            calendar.save_span(connection, school, "term", year_of(school).id, spring.id, shorter)
        waiting = connection.execute("SELECT count(*) FROM queue.procrastinate_jobs WHERE status = 'todo'").fetchone()
    assert waiting == (1,)
    asyncio.run(work())
    with database.school(NORTH) as connection:
        assert garden.planting(connection, lettuce.id).verdict == "misses"
        assert connection.execute("SELECT status::text FROM queue.procrastinate_jobs").fetchall() == [("succeeded",)]


def test_a_write_that_is_undone_asks_for_nothing_in_the_background(database: Database) -> None:
    def delete_and_fail() -> None:
        with database.school(NORTH) as connection:
            school = context.load(connection)
            calendar.delete_row(connection, school, "closure", year_of(school).closures[0].id)
            raise RuntimeError

    with pytest.raises(RuntimeError):
        delete_and_fail()
    with database.school(NORTH) as connection:
        assert connection.execute("SELECT count(*) FROM queue.procrastinate_jobs").fetchone() == (0,)
        assert len(year_of(context.load(connection)).closures) == 5


def test_terms_that_leave_their_year_are_refused(in_school) -> None:
    connection, school = in_school
    with refuses("school.span_outside_year"):
        calendar.save_span(
            connection, school, "term", year_of(school).id, uuid4(), Span("Late", date(2027, 8, 1), date(2027, 9, 30))
        )
    with refuses("school.name_missing"):
        calendar.save_span(
            connection, school, "term", year_of(school).id, uuid4(), Span(" ", date(2027, 7, 1), date(2027, 7, 2))
        )
    with pytest.raises(errors.NotFound):
        calendar.delete_row(connection, school, "term", uuid4())
