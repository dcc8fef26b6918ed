"""Steps set by hand, covers, series, promises, themes and a school's own crops, against a real database."""

from datetime import date, timedelta
from uuid import UUID, uuid4

import psycopg
import pytest
from psycopg import Connection

from almanaque.commands import context
from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.crops import own_crops as crop_commands
from almanaque.commands.garden import bed_findings, free_squares, painting, planting_events, renewal, undo
from almanaque.commands.garden.painting import Paint
from almanaque.commands.growth import forecasts
from almanaque.commands.year import schedule, shortlist
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import parse_cells
from almanaque.core.garden.site import Feature
from almanaque.store import errors
from almanaque.store.crops import own_crops
from almanaque.store.garden import garden, site_features
from almanaque.store.garden.garden import Planting
from almanaque.store.garden.site_features import FeatureRow
from almanaque.store.school import school as school_store
from almanaque.store.week import tasks
from almanaque.store.year import promises_and_themes
from tests.database import NORTH, bed_id
from tests.refuses import refuses

TODAY = date(2027, 4, 14)
ACTOR = Actor(None, TODAY)
BED_3, BED_4, BED_6, SILL = (bed_id(name) for name in ("Bed 3", "Bed 4", "Bed 6", "Sill"))
InSchool = tuple[Connection, Context]


def paint(
    in_school: InSchool,
    squares: str,
    crop: str = "radish",
    start: date = TODAY,
    *,
    bed: UUID = BED_4,
    ink: bool = False,
    **more: object,
) -> Planting:
    wish = Paint(squares, crop, in_school[1].crops[crop].methods[0], start, ink, **more)  # type: ignore[arg-type]
    return garden.planting(in_school[0], painting.paint(in_school[0], in_school[1], bed, wish, ACTOR))


def tomato(in_school: InSchool) -> Planting:
    return next(p for p in garden.plantings(in_school[0], bed_id=BED_6) if p.crop == "tomato" and p.status == "planned")


def test_a_planting_keeps_dates_verdict_and_years(in_school: InSchool) -> None:
    made = paint(in_school, "A4")
    assert made.dates is not None
    assert made.dates.of_years >= 37
    assert 0 < made.dates.fit_years <= made.dates.of_years
    assert made.dates.first_pick_early <= made.dates.first_pick <= made.dates.first_pick_late


def test_a_setting_out_set_by_hand_moves_what_follows_and_stays_set(in_school: InSchool) -> None:
    connection, school = in_school
    before = tomato(in_school)
    assert before.dates is not None
    later = before.dates.bed_from + timedelta(days=14)
    schedule.set_step(connection, school, before.id, "transplant", later, ACTOR)
    after = tomato(in_school)
    assert after.dates is not None
    assert after.steps == {"transplant": later}
    assert after.dates.bed_from == later
    assert after.dates.first_pick > before.dates.first_pick
    forecasts.refresh(connection, school, after, garden.bed(connection, BED_6), today=TODAY, force=True)
    assert tomato(in_school).dates == after.dates
    jobs = {job.step: job for job in tasks.tasks(connection, planting_id=after.id)}
    assert jobs["transplant"].from_day == later
    assert undo.undo(connection, school, BED_6, actor=ACTOR) == "transplant of tomato"
    assert tomato(in_school).steps == {}
    undo.redo(connection, school, BED_6, actor=ACTOR)
    assert tomato(in_school).steps == {"transplant": later}
    schedule.set_step(connection, school, before.id, "transplant", None, ACTOR)
    assert tomato(in_school).dates == before.dates


def test_a_day_to_clear_set_by_hand_ends_the_stay(in_school: InSchool) -> None:
    made = paint(in_school, "A4", "chard")
    assert made.dates is not None
    day = made.dates.first_pick + timedelta(days=10)
    schedule.set_step(in_school[0], in_school[1], made.id, "clear", day, ACTOR)
    after = garden.planting(in_school[0], made.id)
    assert after.dates is not None
    assert (after.dates.clear_by, after.bed_to(TODAY)) == (day, day)
    assert after.dates.last_pick <= day


@pytest.mark.parametrize(
    ("step", "day", "says"),
    [
        ("first picking", date(2027, 6, 1), "year.step_follows"),
        ("clear", date(2027, 4, 1), "year.day_has_passed"),
        ("start", None, "year.first_day_missing"),
        ("transplant", date(2027, 5, 1), "year.not_waiting_to_be_set_out"),
        ("clear", date(2027, 4, 15), "year.cleared_before_in_bed"),
    ],
)
def test_a_step_that_cannot_be_set_is_refused(in_school: InSchool, step: str, day: date | None, says: str) -> None:
    made = paint(in_school, "A4", start=date(2027, 4, 20))
    with refuses(says):
        schedule.set_step(in_school[0], in_school[1], made.id, step, day, ACTOR)
    assert garden.planting(in_school[0], made.id).steps == {}


def test_dragging_the_first_day_knows_what_every_day_would_give(in_school: InSchool) -> None:
    made = paint(in_school, "A4", start=date(2027, 4, 20))
    choices = schedule.choices(in_school[1], made, garden.bed(in_school[0], BED_4), schedule.START, today=TODAY)
    assert [choice.day for choice in choices] == [TODAY + timedelta(days=n) for n in range(schedule.DRAG_DAYS)]
    chosen = next(c for c in choices if c.day == date(2027, 5, 25))
    schedule.set_step(in_school[0], in_school[1], made.id, schedule.START, chosen.day, ACTOR)
    moved = garden.planting(in_school[0], made.id)
    assert moved.dates is not None
    assert (moved.verdict, moved.dates.first_pick, moved.dates.fit_years) == (
        chosen.verdict,
        chosen.first_pick,
        chosen.n,
    )
    out = schedule.choices(in_school[1], tomato(in_school), garden.bed(in_school[0], BED_6), "transplant", today=TODAY)
    chosen = next(c for c in out if c.day == date(2027, 6, 1))
    schedule.set_step(in_school[0], in_school[1], tomato(in_school).id, "transplant", chosen.day, ACTOR)
    dates = tomato(in_school).dates
    assert dates is not None
    assert dates.first_pick == chosen.first_pick


def test_a_cover_over_a_planting_or_over_its_bed_warms_it(in_school: InSchool) -> None:
    connection, school = in_school
    bare = paint(in_school, "A4", "lettuce", start=date(2027, 4, 15))
    schedule.set_cover(connection, school, bare.id, "tunnel", ACTOR)
    covered = garden.planting(connection, bare.id)
    assert bare.dates is not None
    assert covered.dates is not None
    assert covered.dates.first_pick < bare.dates.first_pick
    schedule.set_cover(connection, school, bare.id, None, ACTOR)
    bed = garden.bed(connection, BED_4)
    over = FeatureRow(uuid4(), bed.site_id, Feature("tunnel", "Tunnel", bed.shape), date(2027, 3, 1), date(2027, 6, 1))
    site_features.save_feature(connection, NORTH, over)
    under = context.load(connection)
    assert forecasts.setting_in(under, bed, TODAY, None).covering is not None
    assert forecasts.setting_in(under, garden.bed(connection, BED_3), TODAY, None).covering is None
    forecasts.refresh(connection, under, garden.planting(connection, bare.id), bed, today=TODAY)
    dates = garden.planting(connection, bare.id).dates
    assert dates is not None
    assert dates.first_pick < bare.dates.first_pick


def test_plants_on_the_sill_feel_its_warmth(in_school: InSchool) -> None:
    sill = garden.bed(in_school[0], SILL)
    setting = forecasts.setting_in(in_school[1], sill, TODAY, None)
    assert setting.indoors_c == sill.warmth_c == 19.0
    made = paint(in_school, "A1", "basil", bed=SILL)
    assert not {"frost_risk", "not_up"} & {f.code for f in made.findings}


def test_what_was_seen_moves_what_follows(in_school: InSchool) -> None:
    carrot = next(
        p
        for p in garden.plantings(in_school[0], bed_id=bed_id("Bed 5"))
        if p.crop == "carrot" and p.status == "in the ground"
    )
    assert carrot.dates is not None
    assert carrot.dates.emerge_to is not None
    assert carrot.dates.emerge_to > TODAY
    seen_on = TODAY - timedelta(days=4)
    planting_events.happened(in_school[0], in_school[1], carrot.id, "emerged", seen_on, ACTOR)
    seen = garden.planting(in_school[0], carrot.id).dates
    assert seen is not None
    assert (seen.emerge_from, seen.emerge_to) == (seen_on, seen_on)
    assert seen.first_pick < carrot.dates.first_pick


def test_no_lesson_is_given_more_than_it_has_time_for_before_the_first_day_either(in_school: InSchool) -> None:
    """The bed is prepared before the plan's own first day, so what a class has to do then counts as well."""
    connection, school = in_school
    for square in ("A4", "B4", "C4", "D4"):
        paint(in_school, square, "chard", date(2027, 4, 29), ink=True)
    load: dict[tuple[date | None, str], int] = {}
    for job in tasks.tasks(connection, start=TODAY, end=date(2027, 5, 12), status="open"):
        if job.class_group_id and job.planting_id:
            key = (job.on_day, str(job.class_group_id))
            load[key] = load.get(key, 0) + job.minutes
    minutes = {
        (lesson.day, lesson.group_id): lesson.minutes for lesson in school.calendar.lessons(TODAY, date(2027, 5, 12))
    }
    assert load
    assert all(taken <= minutes[key] for key, taken in load.items() if key in minutes)  # type: ignore[index]


def test_the_school_of_packet_days_gives_other_dates(in_school: InSchool) -> None:
    connection, school = in_school
    made = paint(in_school, "A4", "spinach", start=date(2027, 4, 15), bed=BED_4)
    found = school.school
    school_store.save_practice(
        connection,
        rest_years=found.rest_years,
        neighbours=found.neighbours,
        feeding=found.feeding,
        hand_span_mm=None,
        invasive_here="",
        currency="USD",
        ready_by="packet",
        leads="chart",
        moon=True,
    )
    by_packet = context.load(connection)
    assert (by_packet.school.ready_by, by_packet.school.leads, by_packet.school.moon) == ("packet", "chart", True)
    assert renewal.renew(connection, by_packet, today=TODAY) > 10
    dates = garden.planting(connection, made.id).dates
    assert dates is not None
    least, most = school.crops["spinach"].days["direct"]
    assert (dates.first_pick_late - dates.first_pick_early).days >= most - least
    assert abs((dates.first_pick - dates.start).days - (least + most) / 2) <= 1


def test_sowings_that_follow_take_their_own_squares_when_they_are_free_again(in_school: InSchool) -> None:
    connection, school = in_school
    made = paint(in_school, "A4", start=date(2027, 4, 15))
    bed = garden.bed(connection, BED_4)
    wanted = schedule.sowings(school, made, bed, "every", 14, until=None, today=TODAY)
    assert len(wanted) >= 2
    count = schedule.make_series(connection, school, made.id, "every", 14, ACTOR)
    assert count >= 2
    series = garden.planting(connection, made.id).series_id
    mine = [p for p in garden.plantings(connection, bed_id=BED_4) if p.series_id == series]
    assert len(mine) == count + 1
    for first in mine:
        for second in mine:
            apart = first.bed_to(TODAY) < second.bed_from or second.bed_to(TODAY) < first.bed_from
            assert first.id == second.id or apart or not first.cells & second.cells


def test_a_full_bed_refuses_a_series_and_nothing_is_written(in_school: InSchool) -> None:
    connection, school = in_school
    made = paint(in_school, "A4", start=date(2027, 4, 15))
    paint(in_school, "B1-F4", "chard", start=date(2027, 4, 15), with_others=True)
    paint(in_school, "A1-A3", "chard", start=date(2027, 4, 16), with_others=True)
    before = len(garden.plantings(connection, bed_id=BED_4))
    with refuses("year.no_free_squares"):
        schedule.make_series(connection, school, made.id, "every", 10, ACTOR, until=date(2027, 5, 20))
    assert len(garden.plantings(connection, bed_id=BED_4)) == before


def test_a_promise_speaks_on_the_sheet_of_its_bed(in_school: InSchool) -> None:
    connection, school = in_school
    made = paint(in_school, "A4", "chard")
    present = [made]
    laid = forecasts.layouts(present, garden.bed(connection, BED_4), school.crops)
    _, found = bed_findings.of_sheet(connection, school, garden.bed(connection, BED_4), present, laid, today=TODAY)
    assert "bed_promised" in {f.code for f in found[made.id]}
    with pytest.raises(errors.NotFound):
        promises_and_themes.delete_promise(connection, uuid4())


def test_a_bed_is_promised_once_from_a_day(in_school: InSchool) -> None:
    twice = [promises_and_themes.Promise(uuid4(), BED_3, date(2027, 6, 1), "melons") for _ in range(2)]
    promises_and_themes.save_promise(in_school[0], NORTH, twice[0])
    with pytest.raises((errors.Refused, psycopg.errors.UniqueViolation)):
        promises_and_themes.save_promise(in_school[0], NORTH, twice[1])


def test_a_space_ends_where_something_is_planned_promised_or_closed(in_school: InSchool) -> None:
    connection, school = in_school
    space = shortlist.space_of(
        connection, school, garden.bed(connection, BED_4), [(0, 3)], TODAY, until=None, today=TODAY
    )
    assert space.free_to == date(2027, 6, 7)  # promised from the 8th
    closed = shortlist.space_of(
        connection, school, garden.bed(connection, bed_id("Bed 2")), [(0, 0)], TODAY, until=None, today=TODAY
    )
    assert closed.free_to == date(2027, 6, 6)
    assert space.youngest == 5
    assert all(hours is None or 0 <= hours <= 24 for hours in space.sun_h)
    assert len(shortlist.for_space(school, garden.bed(connection, BED_4), space, TODAY)) == len(school.crops)


def test_own_figures_change_every_plan_and_back_again(in_school: InSchool) -> None:
    connection, school = in_school
    made = paint(in_school, "A4")
    assert made.dates is not None
    crop_commands.save(
        connection,
        school,
        "radish",
        {"days": "45 to 50", "note": "Our beds are slow."},
        new=False,
        row_id=uuid4(),
        today=TODAY,
    )
    changed = context.load(connection)
    assert changed.crops["radish"].own == {"days"}
    slow = garden.planting(connection, made.id).dates
    assert slow is not None
    assert slow.first_pick > made.dates.first_pick
    crop_commands.forget(connection, changed, "radish", today=TODAY)
    assert garden.planting(connection, made.id).dates == made.dates


def test_a_variety_can_be_planted_and_then_stays(in_school: InSchool) -> None:
    connection, school = in_school
    key = crop_commands.save(
        connection, school, "radish", {"name": "Snow ball", "days": "21 to 24"}, new=True, row_id=uuid4(), today=TODAY
    )
    assert key == "snow-ball"
    with_it = context.load(connection)
    assert with_it.crops[key].kind == "radish"
    paint((connection, with_it), "A4", key)
    with pytest.raises(errors.Refused, match="stays with its history"):
        crop_commands.forget(connection, with_it, key, today=TODAY)
    with refuses("crops.own_name_missing"):
        crop_commands.save(connection, school, "radish", {"days": "21 to 24"}, new=True, row_id=uuid4(), today=TODAY)
    with refuses("crops.figure_not_a_range_each"):
        crop_commands.save(connection, school, "beet", {"days": "50 to 60"}, new=False, row_id=uuid4(), today=TODAY)


@pytest.mark.parametrize(
    ("field", "text"),
    [
        ("name", "n" * 61),
        ("days", "soon"),
        ("germination", "many"),
        ("in_row_mm", "4 parsecs"),
        ("bears_c", "cold"),
        ("yield_g_m2", "9"),
    ],
)
def test_a_figure_that_cannot_be_read_is_refused_at_its_field(in_school: InSchool, field: str, text: str) -> None:
    if field == "yield_g_m2":
        text = "x to y"
    with pytest.raises(BadInput) as refused:
        crop_commands.save(in_school[0], in_school[1], "radish", {field: text}, new=False, row_id=uuid4(), today=TODAY)
    assert refused.value.field == field
    assert own_crops.rows(in_school[0]) == []


def test_a_theme_goes_and_its_plantings_stay(in_school: InSchool) -> None:
    theme = promises_and_themes.Theme(uuid4(), "Bread", date(2027, 6, 10), "")
    promises_and_themes.save_theme(in_school[0], NORTH, theme)
    made = paint(in_school, "A4", theme_id=theme.id)
    assert made.theme_id == theme.id
    promises_and_themes.delete_theme(in_school[0], theme.id)
    assert garden.planting(in_school[0], made.id).theme_id is None
    with pytest.raises(errors.NotFound):
        promises_and_themes.theme(in_school[0], theme.id)


def test_squares_nobody_chose_are_free_and_the_family_has_rested_there(in_school: InSchool) -> None:
    connection, school = in_school
    bed = garden.bed(connection, BED_4)
    start = date(2027, 8, 20)
    radish, lettuce = school.crops["radish"], school.crops["lettuce"]
    first = free_squares.picked(connection, school, bed, radish, "direct", start, today=TODAY)
    paint(in_school, first, "radish", start)
    assert first != free_squares.picked(connection, school, bed, lettuce, "direct", start, today=TODAY)
    stood = {
        cell
        for row in garden.stood(connection, [BED_4], date(2024, 1, 1))
        if school.crops[row.crop].family == radish.family
        for cell in row.cells
    }
    assert stood
    assert not parse_cells(first, bed.grid(start)) & stood


def test_ink_leaves_what_stands_among_others_on_purpose(in_school: InSchool) -> None:
    connection, school = in_school
    start = date(2027, 8, 20)
    among = painting.paint(
        connection, school, BED_4, Paint("A4", "basil", "starts", start, ink=True, with_others=True), ACTOR
    )
    paint(in_school, "A4", "lettuce", start, ink=True)
    assert garden.planting(connection, among).cells == {(0, 3)}
