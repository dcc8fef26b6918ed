"""The turn of the year by its commands: the book closed and reopened, late notes, next calendar and map, ballots."""

import threading
import time
from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from decimal import Decimal
from uuid import UUID, uuid4

import pytest
from psycopg import Connection

from almanaque.commands import context
from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import planting_events
from almanaque.commands.harvest import pickings
from almanaque.commands.harvest.pickings import PickingWish
from almanaque.commands.journal import phone
from almanaque.commands.school import turn_of_year as commands
from almanaque.core.errors import BadInput
from almanaque.demo import load
from almanaque.host.postgres import Addresses
from almanaque.store import errors
from almanaque.store.db import Database
from almanaque.store.garden import drafts, garden
from almanaque.store.harvest import pickings as picking_rows
from almanaque.store.journal import journal_entries
from almanaque.store.school import turn_of_year
from almanaque.store.school.turn_of_year import Ballot, BedYear
from tests.database import NORTH, bed_id
from tests.refuses import refuses

SUMMER = date(2027, 7, 1)
AT = datetime(2027, 7, 1, 12, tzinfo=UTC)
ACTOR = Actor(None, SUMMER)
InSchool = tuple[Connection, Context]


@pytest.fixture
def in_school(database: Database) -> Iterator[InSchool]:
    with database.school(NORTH) as connection:
        yield connection, context.load(connection)


def year(school: Context, name: str = "2026–27"):
    return next(y for y in school.years if y.name == name)


def close(in_school: InSchool) -> date:
    return commands.close(*in_school, year(in_school[1]), today=SUMMER, at=AT, by=None)


def standing(connection: Connection, bed: str, crop: str) -> UUID:
    return next(
        p.id for p in garden.plantings(connection, bed_id=bed_id(bed)) if p.crop == crop and p.status == "in the ground"
    )


def note(connection: Connection, day: date) -> UUID:
    made = uuid4()
    journal_entries.save(
        connection, NORTH, entry_id=made, bed_id=None, noted_on=day, body="Late", come_back_on=None, by=None
    )
    return made


def test_a_closed_year_is_read_only_and_days_after_it_are_not(database: Database) -> None:
    with database.school(NORTH) as connection:
        assert close((connection, context.load(connection))) == date(2027, 6, 30)
    for statement in (
        "UPDATE harvest SET note = 'changed' WHERE picked_on BETWEEN '2026-09-01' AND '2027-06-30'",
        "DELETE FROM journal_entry WHERE noted_on BETWEEN '2026-09-01' AND '2027-06-30'",
        "UPDATE event SET on_day = '2027-07-01' WHERE on_day BETWEEN '2026-09-01' AND '2027-06-30'",
        "UPDATE sighting SET note = 'x' WHERE noted_on BETWEEN '2026-09-01' AND '2027-06-30'",
        "UPDATE ledger_entry SET what = 'x' WHERE on_day BETWEEN '2026-09-01' AND '2027-06-30'",
        "UPDATE tasting SET liked = 1 WHERE on_day BETWEEN '2026-09-01' AND '2027-06-30'",
    ):
        with pytest.raises(errors.Refused) as refused, database.school(NORTH) as connection:
            connection.execute(statement)  # type: ignore[call-overload]
        assert refused.value.constraint == "closed_year"
    with pytest.raises(errors.Refused, match="book of that time is closed"), database.school(NORTH) as connection:
        note(connection, date(2027, 6, 30))
    with database.school(NORTH) as connection:
        note(connection, SUMMER)
        connection.execute("UPDATE harvest SET note = 'allowed' WHERE picked_on < '2026-08-01'")


def cleared_between(connection: Connection, first: date, last: date) -> list[UUID]:
    rows = connection.execute(
        "SELECT DISTINCT planting_id FROM event e JOIN planting p ON p.id = e.planting_id"
        " WHERE e.kind IN ('cleared', 'lost') AND e.on_day BETWEEN %s AND %s AND p.status IN ('finished', 'lost') ORDER BY 1",
        [first, last],
    )
    return [planting for (planting,) in rows]


def test_what_was_cleared_in_a_closed_year_stays_as_it_stood(database: Database) -> None:
    with database.school(NORTH) as connection:
        school = context.load(connection)
        done = cleared_between(connection, date(2026, 8, 26), date(2027, 6, 30))
        before = cleared_between(connection, date(2020, 1, 1), date(2026, 8, 25))
        close((connection, school))
    assert done
    assert before
    for statement in (
        "UPDATE planting SET variety = 'another' WHERE id = %s",
        "UPDATE planting SET status = 'in the ground' WHERE id = %s",
        "DELETE FROM planting WHERE id = %s",
        "DELETE FROM patch WHERE planting_id = %s",
        "UPDATE patch SET col = col + 40 WHERE planting_id = %s",
        "INSERT INTO patch (school_id, planting_id, col, row) SELECT school_id, id, 39, 39 FROM planting WHERE id = %s",
        (
            "INSERT INTO step_day (school_id, planting_id, step, "
            "on_day) SELECT school_id, id, 'thin', '2027-07-02' FROM planting WHERE id = %s"
        ),
    ):
        with pytest.raises(errors.Refused) as refused, database.school(NORTH) as connection:
            connection.execute(statement, [done[0]])  # type: ignore[call-overload]
        assert refused.value.constraint == "closed_year"
    with database.school(NORTH) as connection:
        whole = garden.planting(connection, done[0])
        assert whole.cells
        connection.execute("UPDATE planting SET draft_id = NULL WHERE id = %s", [done[0]])
        garden.save_planting(connection, NORTH, replace(garden.planting(connection, before[0]), variety="Found out"))
        (closing,) = turn_of_year.closed_times(connection)
        commands.reopen(connection, closing.id, today=SUMMER, at=AT, by=None, why="a variety was wrong")
        garden.save_planting(connection, NORTH, replace(whole, variety="Put right"))
        assert garden.planting(connection, done[0]).variety == "Put right"


def test_what_still_stands_when_the_book_is_closed_can_be_changed_and_cleared(in_school: InSchool) -> None:
    connection, school = in_school
    close(in_school)
    planting = next(p for p in garden.plantings(connection) if p.status == "in the ground")
    garden.save_planting(connection, NORTH, replace(planting, variety="Winter"))
    planting_events.happened(connection, school, planting.id, "cleared", SUMMER, Actor(None, SUMMER))
    assert garden.planting(connection, planting.id).status == "finished"


def test_the_other_school_and_the_years_before_stay_open(database: Database) -> None:
    with database.school(NORTH) as connection:
        close((connection, context.load(connection)))
        note(connection, date(2025, 5, 1))


def test_what_may_be_closed_and_when(in_school: InSchool) -> None:
    connection, school = in_school
    with pytest.raises(BadInput, match="School is in until 2027-06-16"):
        commands.close(connection, school, year(school), today=date(2027, 4, 14), at=AT, by=None)
    assert close(in_school) == date(2027, 6, 30)
    with refuses("school.all_closed_already"):
        close(in_school)
    later = date(2027, 9, 15)
    assert commands.close(connection, school, year(school), today=later, at=AT, by=None) == date(2027, 8, 24)
    spans = sorted((c.from_day, c.to_day) for c in turn_of_year.closed_times(connection))
    assert spans == [(date(2026, 8, 26), date(2027, 6, 30)), (date(2027, 7, 1), date(2027, 8, 24))]


def test_opening_it_again_takes_a_reason_and_stays_on_record(in_school: InSchool) -> None:
    connection, _ = in_school
    close(in_school)
    (closing,) = turn_of_year.closed_times(connection)
    with refuses("school.reopening_reason"):
        commands.reopen(connection, closing.id, today=SUMMER, at=AT, by=None, why=" ")
    commands.reopen(connection, closing.id, today=SUMMER, at=AT, by=None, why="two pickings were missing")
    (closing,) = turn_of_year.closed_times(connection)
    assert (closing.why, closing.reopened_at) == ("two pickings were missing", AT)
    note(connection, date(2027, 6, 1))
    with pytest.raises(errors.NotFound):
        commands.reopen(connection, closing.id, today=SUMMER, at=AT, by=None, why="again")
    assert close(in_school) == date(2027, 6, 30)


def sent(**change: object) -> dict:
    return {
        "id": str(uuid4()),
        "kind": "note",
        "body": "From the garden",
        "noted_on": "2027-06-29",
        "noted_at": "2027-06-29T10:00:00+00:00",
        **change,
    }


def test_a_note_made_before_the_close_still_enters_and_is_marked(database: Database) -> None:
    helper = load.account_id("helper")
    with database.school(NORTH) as connection:
        school = context.load(connection)
        close((connection, school))
        before = phone.read(sent())
        phone.take(connection, school, before, by=helper, today=SUMMER, now=AT + timedelta(hours=1))
        assert connection.execute("SELECT late FROM journal_entry WHERE id = %s", [before.id]).fetchone() == (True,)
    with database.school(NORTH) as connection:
        school = context.load(connection)
        berries = standing(connection, "Bed 8", "strawberry")
        words = {key: value for key, value in sent().items() if key != "body"}
        picked = phone.read(
            {**words, "kind": "picking", "planting": str(berries), "amount": "1", "unit": "pint", "use": "kitchen"}
        )
        phone.take(connection, school, picked, by=helper, today=SUMMER, now=AT)
        assert connection.execute("SELECT late FROM harvest WHERE id = %s", [picked.id]).fetchone() == (True,)
    after = phone.read(sent(noted_at="2027-07-01T13:00:00+00:00"))
    with pytest.raises(errors.Refused, match="closed"), database.school(NORTH) as connection:
        phone.take(connection, context.load(connection), after, by=helper, today=SUMMER, now=AT + timedelta(hours=3))
    with database.school(NORTH) as connection:
        today = phone.read(sent(noted_on="2027-07-01", noted_at="2027-07-01T11:00:00+00:00"))
        phone.take(connection, context.load(connection), today, by=helper, today=SUMMER, now=AT)
        assert connection.execute("SELECT late FROM journal_entry WHERE id = %s", [today.id]).fetchone() == (False,)


def test_weighing_a_unit_leaves_closed_pickings_as_they_were(in_school: InSchool) -> None:
    connection, school = in_school
    before = [row for row in picking_rows.recent(connection, limit=999) if row.unit == "bunch" and row.crop == "kale"]
    connection.execute(
        (
            "INSERT INTO closed_time (school_id, id, school_year_id, from_day, to_day, closed_on, "
            "closed_at) VALUES (%s, %s, %s, '2024-08-28', '2025-08-26', '2025-09-01', now())"
        ),
        [NORTH, uuid4(), year(school, "2024–25").id],
    )
    pickings.weigh_unit(connection, school, uuid4(), "kale", "1", "bunch", Decimal(900), day=SUMMER, actor=ACTOR)
    after = {row.id: row.grams for row in picking_rows.recent(connection, limit=999)}
    assert all(after[row.id] == row.grams for row in before)


def test_beds_get_a_sentence_from_the_book_and_keep_the_one_that_was_written(in_school: InSchool) -> None:
    connection, school = in_school
    words = commands.suggested(connection, school, year(school), date(2027, 4, 14))
    assert words[bed_id("Bed 5")] == "Bed 5 gave 12.1 lb of kale. Carrot still stands."
    commands.keep_beds(connection, school, year(school), [BedYear(bed_id("Bed 5"), "cleared", "Kale did well.")])
    assert turn_of_year.bed_years(connection, year(school).id)[bed_id("Bed 5")].sentence == "Kale did well."
    with refuses("school.bed_turn_unknown"):
        commands.keep_beds(connection, school, year(school), [BedYear(bed_id("Bed 5"), "burnt", "")])
    with pytest.raises(errors.NotFound):
        commands.keep_beds(connection, school, year(school), [BedYear(uuid4(), "", "")])


def test_plantings_that_end_are_finished_together_and_perennials_stay(in_school: InSchool) -> None:
    connection, school = in_school
    open_ = commands.still_in(connection, school, year(school), SUMMER)
    assert {o.crop.key for o in open_ if o.stays} >= {"strawberry", "coneflower"}
    going = [o for o in open_ if not o.stays]
    assert commands.finish(connection, school, [o.planting.id for o in going[:2]], SUMMER, ACTOR) == 2
    assert garden.planting(connection, going[0].planting.id).status == "finished"
    assert (
        len([o for o in commands.still_in(connection, school, year(school), SUMMER) if not o.stays]) == len(going) - 2
    )


def test_next_years_calendar_is_made_once(in_school: InSchool) -> None:
    connection, school = in_school
    with refuses("school.next_year_on_file"):
        commands.make_next_year(connection, school, year(school))
    made = commands.make_next_year(connection, school, year(school, "2027–28"))
    assert made.name == "2028–29"
    again = context.load(connection)
    assert [row.span.name for row in year(again, "2028–29").terms] == [
        row.span.name for row in year(school, "2027–28").terms
    ]


def ballot(**change: object) -> Ballot:
    return replace(Ballot(uuid4(), "Autumn", date(2027, 8, 30), date(2027, 9, 20), None), **change)  # type: ignore[arg-type]


def test_a_ballot_holds_crops_that_fit_and_counts_each_class(in_school: InSchool) -> None:
    connection, school = in_school
    made = ballot()
    count = commands.begin_ballot(connection, school, made, today=SUMMER)
    crops = [crop for crop, _ in turn_of_year.ballot_crops(connection, made.id)]
    assert len(crops) == count > 3
    assert "tomato" not in crops
    docks = load.demo_id("Brindlecombe School", "group", "Docks")
    commands.vote(connection, school, made.id, docks, {crops[0]: 20, crops[1]: 4}, most_each=2)
    commands.vote(connection, school, made.id, docks, {crops[0]: 10}, most_each=2)
    assert turn_of_year.votes(connection, made.id) == [(str(docks), crops[0], 10)]
    with pytest.raises(BadInput, match="There are 24 in that class"):
        commands.vote(connection, school, made.id, docks, {crops[0]: 25}, most_each=2)
    with pytest.raises(BadInput, match="2 votes each"):
        commands.vote(connection, school, made.id, docks, dict.fromkeys(crops[:3], 20), most_each=2)
    with refuses("school.not_on_ballot"):
        commands.vote(connection, school, made.id, docks, {"tomato": 1}, most_each=2)
    turn_of_year.end_ballot(connection, made.id, SUMMER)
    with refuses("school.ballot_ended"):
        commands.vote(connection, school, made.id, docks, {crops[0]: 1}, most_each=2)


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"from_day": date(2027, 6, 1)}, "school.ballot_in_past"),
        ({"to_day": date(2028, 8, 1)}, "school.ballot_too_long"),
        ({"from_day": date(2027, 12, 20), "to_day": date(2027, 12, 24)}, "school.ballot_nothing_fits"),
    ],
)
def test_a_ballot_that_cannot_be_is_refused(in_school: InSchool, change: dict, says: str) -> None:
    with refuses(says):
        commands.begin_ballot(*in_school, ballot(**change), today=SUMMER)


def test_next_seasons_map_moves_families_on_and_brings_in_what_was_voted_for(in_school: InSchool) -> None:
    connection, school = in_school
    made = ballot()
    commands.begin_ballot(connection, school, made, today=SUMMER)
    crops = [crop for crop, _ in turn_of_year.ballot_crops(connection, made.id)]
    grown = {p.crop for p in garden.plantings(connection)}
    new = next(crop for crop in crops if crop not in grown)
    commands.vote(
        connection, school, made.id, load.demo_id("Brindlecombe School", "group", "Docks"), {new: 20}, most_each=2
    )
    result = commands.pencil_next(connection, school, year(school), ballot_id=made.id, name="Autumn map", actor=ACTOR)
    pencilled = [p for p in garden.plantings(connection) if p.draft_id == result.draft_id]
    assert len(pencilled) == len(result.placed) > 3
    assert all(p.status == "pencilled" for p in pencilled)
    assert drafts.draft(connection, result.draft_id).name == "Autumn map"
    for place in result.placed:
        assert place.rested is None or place.rested >= school.school.rest_years
        assert place.name != place.wish.origin or place.rested is None
    assert new in {p.wish.crop for p in result.placed} | {w.wish.crop for w in result.left}
    assert {p.wish.crop for p in result.placed} | {w.wish.crop for w in result.left} >= {"garlic", "kale", "spinach"}


def test_without_a_next_year_no_map_is_pencilled(in_school: InSchool) -> None:
    connection, school = in_school
    with refuses("school.next_year_missing"):
        commands.pencil_next(
            connection, school, year(school, "2027–28"), ballot_id=None, name="x", actor=Actor(None, date(2028, 7, 1))
        )


def test_taking_back_a_closed_event_is_refused_in_words(database: Database) -> None:
    with database.school(NORTH) as connection:
        close((connection, context.load(connection)))
        radish = standing(connection, "Half barrel", "radish")
    with pytest.raises(errors.Refused, match="book of that time is closed"), database.school(NORTH) as connection:
        planting_events.did_not_happen(connection, context.load(connection), radish, "started", ACTOR)
    with pytest.raises(errors.Refused), database.school(NORTH) as connection:
        pickings.pick(
            connection,
            context.load(connection),
            PickingWish(uuid4(), radish, "1", "lb", "kitchen", date(2027, 6, 1)),
            ACTOR,
        )


def test_the_same_days_are_closed_once_also_by_two_at_once(demo: Addresses, database: Database) -> None:
    refused: list[str] = []
    began = threading.Event()

    def close(connection: Connection, days: int = 0) -> None:
        school = context.load(connection)
        began.set()
        commands.close(connection, school, year(school), today=SUMMER + timedelta(days=days), at=AT, by=None)

    def second() -> None:
        try:
            with database.school(NORTH) as connection:
                close(connection)
        except (errors.Refused, BadInput) as error:
            refused.append(str(error))

    with database.school(NORTH) as first:
        close(first)
        began.clear()
        thread = threading.Thread(target=second)
        thread.start()
        assert began.wait(60)
        time.sleep(0.2)  # so that it has come to write, and waits; if it has not, the test is only weaker
    thread.join(60)
    assert len(refused) == 1
    with database.school(NORTH) as connection:
        close(connection, 3)  # what has passed since is closed beside it
        first_closing, last = sorted(turn_of_year.closed_times(connection), key=lambda closing: closing.from_day)
        assert last.from_day == first_closing.to_day + timedelta(days=1)
        turn_of_year.reopen(connection, last.id, day=SUMMER, at=AT, by=None, why="a picking was missing")
    with database.school(NORTH) as connection:
        close(connection, 5)
        assert sum(closing.reopened_at is None for closing in turn_of_year.closed_times(connection)) == 2
