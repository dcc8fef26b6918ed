"""Beds that go their own way: learned from their first pickings, forecast by them, and let go of again."""

from dataclasses import replace
from datetime import date, timedelta
from uuid import uuid4

from psycopg import Connection
from psycopg.rows import TupleRow

from almanaque.commands import context
from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import map_drawing, painting, planting_events
from almanaque.commands.garden.painting import Paint
from almanaque.commands.growth import forecasts
from almanaque.commands.harvest import harvest_book, learning
from almanaque.core.garden.outline import Shape
from almanaque.core.growth.school_fit import judge
from almanaque.store.garden import garden
from almanaque.store.harvest import bed_paces
from tests.database import bed_id

TODAY = date(2027, 4, 14)
ACTOR = Actor(None, TODAY)
FT = 304.8
InSchool = tuple[Connection[TupleRow], Context]


def slow_bed(connection: Connection[TupleRow], name: str, days: int) -> None:
    """What was forecast in a bed was as many days too early each time."""
    connection.execute(
        "UPDATE forecast_made m SET first_pick_early = first_pick_early - %(days)s, first_pick = first_pick - %(days)s,"
        " first_pick_late = first_pick_late - %(days)s FROM planting p WHERE p.id = m.planting_id AND p.bed_id = %(bed)s",
        {"days": days, "bed": bed_id(name)},
    )


def learned(connection: Connection[TupleRow], school: Context) -> Context:
    return learning.learn(connection, school, today=TODAY)


def test_a_slow_bed_is_learned_and_forecast_later_and_says_so(in_school: InSchool) -> None:
    connection, school = in_school
    assert bed_paces.paces(connection) == {}
    slow_bed(connection, "Bed 5", 14)
    taught = learned(connection, school)
    found = bed_paces.paces(connection)
    assert list(found) == [bed_id("Bed 5")]
    assert found[bed_id("Bed 5")].pace > 1
    assert found[bed_id("Bed 5")].plantings == 5
    slow, plain = garden.bed(connection, bed_id("Bed 5")), garden.bed(connection, bed_id("Bed 4"))
    assert (slow.pace, plain.pace) == (found[bed_id("Bed 5")].pace, 1.0)
    sown = date(2027, 4, 20)
    made = [
        painting.paint(
            connection, taught, bed.id, Paint("A1", "carrot", "direct", sown, ink=True, draft_id=None), ACTOR
        )
        for bed in (slow, plain)
    ]
    there, elsewhere = (garden.planting(connection, planting) for planting in made)
    assert there.dates is not None
    assert elsewhere.dates is not None
    assert there.dates.first_pick > elsewhere.dates.first_pick
    assert "bed_pace" in {finding.code for finding in there.findings}
    assert "bed_pace" not in {finding.code for finding in elsewhere.findings}
    # What is kept to be measured against says how much of it was the bed's.
    day = TODAY - timedelta(days=1)
    planting_events.happened(connection, taught, there.id, "started", day, ACTOR)
    kept = connection.execute("SELECT corrected FROM forecast_made WHERE planting_id = %s", [there.id]).fetchone()
    setting = forecasts.setting_of(taught, there, slow)
    carrot = taught.crops["carrot"]
    here, usual = (judge(carrot, "direct", day, each) for each in (setting, replace(setting, pace=1.0)))
    of_bed = (here.dates.first_pick - usual.dates.first_pick).days
    assert of_bed > 0
    assert kept == (taught.corrected_by("carrot") + of_bed,)


def test_the_same_pickings_say_the_same_and_others_move_it_or_let_it_go(in_school: InSchool) -> None:
    connection, school = in_school
    slow_bed(connection, "Bed 5", 14)
    taught = learned(connection, school)
    connection.execute("UPDATE bed_pace SET learned_on = '2027-04-01'")
    learned(connection, taught)
    assert connection.execute("SELECT learned_on FROM bed_pace").fetchall() == [(date(2027, 4, 1),)]
    before = bed_paces.paces(connection)[bed_id("Bed 5")].pace
    slow_bed(connection, "Bed 5", -28)
    again = learned(connection, taught)
    assert bed_paces.paces(connection)[bed_id("Bed 5")].pace < 1 < before
    assert connection.execute("SELECT learned_on FROM bed_pace").fetchall() == [(TODAY,)]
    slow_bed(connection, "Bed 5", 14)
    learned(connection, again)
    assert bed_paces.paces(connection) == {}


def test_a_school_that_says_when_itself_has_beds_that_go_alike(in_school: InSchool) -> None:
    connection, school = in_school
    slow_bed(connection, "Bed 5", 14)
    taught = learned(connection, school)
    assert bed_paces.paces(connection)
    learning.let_pickings_move_dates(connection, taught, learns=False)
    by_hand = context.load(connection)
    assert bed_paces.paces(connection) == {}
    learned(connection, by_hand)
    assert bed_paces.paces(connection) == {}
    assert harvest_book.bed_paces(harvest_book.read(connection, by_hand, today=TODAY, until=TODAY))


def test_a_bed_that_is_taken_out_takes_its_pace_with_it(in_school: InSchool) -> None:
    connection, school = in_school
    new = uuid4()
    map_drawing.add_bed(connection, school, new, "raised", Shape(31 * FT, FT, 8 * FT, 4 * FT, 0), ACTOR)
    connection.execute(
        "INSERT INTO bed_pace (school_id, bed_id, pace, plantings, learned_on) VALUES (%s, %s, 1.04, 1, %s)",
        [school.school.id, new, TODAY],
    )
    assert garden.bed(connection, new).pace == 1.04
    map_drawing.remove(connection, school, "bed", new, ACTOR)
    assert bed_paces.paces(connection) == {}


def test_what_the_bed_moved_is_counted_in_the_days_that_it_moves(in_school: InSchool) -> None:
    """Garlic stands for nine months and has its warmth in the last of them: a share more of it is a few days."""
    connection, school = in_school
    garlic = next(p for p in garden.plantings(connection) if p.crop == "garlic" and p.status == "in the ground")
    bed = replace(garden.bed(connection, garlic.bed_id), pace=1.1)
    plain = forecasts.corrected_by(school, garlic, forecasts.setting_of(school, garlic, garden.bed(connection, bed.id)))
    moved = forecasts.corrected_by(school, garlic, forecasts.setting_of(school, garlic, bed)) - plain
    packet = sum(school.crops["garlic"].days[garlic.method]) / 2
    assert 0 < moved < 0.1 * packet / 2
