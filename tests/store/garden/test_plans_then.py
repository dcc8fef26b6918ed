"""Plans as they were on a day that has passed."""

from datetime import UTC, date, datetime, timedelta

from almanaque.commands.garden import painting, plans_then, planting_events, plantings, undo
from almanaque.core.garden.bed import parse_cells
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Planting
from tests.store.year.test_schedule import ACTOR, BED_4, TODAY, InSchool, paint

FIRST, THEN, LATER = date(2027, 3, 1), date(2027, 3, 15), date(2027, 4, 10)


def happened_on(in_school: InSchool, day: date) -> None:
    """Date what was done in this test until now, and not dated yet, to a day; all of it has the time of the one transaction."""
    noon = datetime(day.year, day.month, day.day, 12, tzinfo=UTC)
    for table, column in (("change", "at"), ("planting", "created_at")):
        in_school[0].execute(
            f"UPDATE {table} SET {column} = %s WHERE bed_id = %s AND {column} = now()".encode(), [noon, BED_4]
        )


def thought(in_school: InSchool, day: date) -> dict[str, Planting]:
    """What was planned in the free row of Bed 4 as it was known on a day, by crop."""
    connection, school = in_school
    bed = garden.bed(connection, BED_4)
    known = plans_then.as_thought(connection, school, [bed], day=day, today=TODAY)
    row = parse_cells("A4-D4", bed.grid())
    return {p.crop: p for p in known if p.cells & row}


def test_a_plan_is_shown_where_it_was_and_as_it_was(in_school: InSchool) -> None:
    connection, school = in_school
    radish = paint(in_school, "A4", "radish", TODAY + timedelta(days=3))
    paint(in_school, "B4", "carrot", TODAY + timedelta(days=3))
    happened_on(in_school, FIRST)
    plantings.move(connection, school, radish.id, method="direct", start_on=TODAY + timedelta(days=9), actor=ACTOR)
    painting.rub_out(connection, school, BED_4, "B4", shown=TODAY + timedelta(days=5), actor=ACTOR)
    paint(in_school, "C4", "basil", TODAY + timedelta(days=40))
    happened_on(in_school, LATER)
    before, after = thought(in_school, THEN), thought(in_school, LATER)
    assert thought(in_school, FIRST - timedelta(days=1)) == {}
    assert set(before) == {"radish", "carrot"}
    assert before["radish"].start_on == TODAY + timedelta(days=3)
    assert before["carrot"].cells == parse_cells("B4", garden.bed(connection, BED_4).grid())
    assert before["carrot"].dates is not None
    assert before["carrot"].dates.first_pick > before["carrot"].start_on
    assert set(after) == {"radish", "basil"}
    assert after["radish"].start_on == TODAY + timedelta(days=9)


def test_what_was_undone_counts_as_never_done(in_school: InSchool) -> None:
    connection, school = in_school
    paint(in_school, "A4", "radish", TODAY + timedelta(days=3))
    happened_on(in_school, FIRST)
    painting.rub_out(connection, school, BED_4, "A4", shown=TODAY + timedelta(days=5), actor=ACTOR)
    happened_on(in_school, LATER)
    undo.undo(connection, school, BED_4, actor=ACTOR)
    assert set(thought(in_school, THEN)) == set(thought(in_school, LATER)) == {"radish"}


def test_what_was_noted_later_was_not_known(in_school: InSchool) -> None:
    """A radish sown in March and noted as up in April was in the ground in March, and its emergence was a forecast."""
    connection, school = in_school
    radish = paint(in_school, "A4", "radish", TODAY, ink=True)
    happened_on(in_school, FIRST)
    planting_events.happened(connection, school, radish.id, "started", THEN - timedelta(days=5), ACTOR)
    planting_events.happened(connection, school, radish.id, "emerged", LATER, ACTOR)
    then, later = thought(in_school, THEN)["radish"], thought(in_school, LATER)["radish"]
    assert (then.status, set(then.events)) == ("in the ground", {"started"})
    assert set(later.events) == {"started", "emerged"}
    assert later.dates is not None
    assert later.dates.emerge_to == LATER


def test_what_had_begun_stood_there_though_it_was_entered_later(in_school: InSchool) -> None:
    connection, school = in_school
    radish = paint(in_school, "A4", "radish", TODAY, ink=True)
    planting_events.happened(connection, school, radish.id, "started", THEN, ACTOR)
    happened_on(in_school, LATER)
    assert thought(in_school, THEN - timedelta(days=1)) == {}
    assert thought(in_school, THEN)["radish"].status == "in the ground"
