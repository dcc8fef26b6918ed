"""What schools near by tell each other: only by agreement of both, only within reach, and never who said it."""

import threading
from datetime import date
from uuid import uuid4

import pytest

from almanaque.clock import Clock
from almanaque.commands import context
from almanaque.commands.harvest import learning
from almanaque.core.harvest.learned_shift import Shift, together
from almanaque.host.postgres import Addresses
from almanaque.settings import Settings
from almanaque.store import queue
from almanaque.store.crops import own_crops
from almanaque.store.crops.own_crops import OwnCropRow
from almanaque.store.db import Database
from almanaque.store.harvest import lessons, pickings
from almanaque.worker.polling import Rounds
from almanaque.worker.recompute import recompute
from tests.database import NORTH, SOUTH

TODAY = date(2027, 4, 14)


@pytest.fixture
def two_schools(demo: Addresses) -> Database:
    """The demo's two schools with the second moved to the next village."""
    found = Database(demo.app, max_size=2)
    found.open()
    with found.school(NORTH) as here:
        place = here.execute("SELECT latitude, longitude FROM school").fetchone()
    with found.school(SOUTH) as there:
        there.execute("UPDATE school SET latitude = %s + 0.2, longitude = %s", place)
    yield found  # type: ignore[misc]
    found.close()


def agree(database: Database, school_id: object, *, agreed: bool = True) -> None:
    with database.school(school_id) as connection:  # type: ignore[arg-type]
        learning.learn_with_others(connection, context.load(connection), agreed=agreed)


def heard(database: Database, school_id: object) -> list[str]:
    with database.school(school_id) as connection:  # type: ignore[arg-type]
        return [one.crop for one in lessons.near_by(connection)]


def test_nothing_is_heard_before_both_agree_and_nothing_after_one_leaves(two_schools: Database) -> None:
    agree(two_schools, SOUTH)
    with two_schools.school(SOUTH) as there:
        lessons.tell(there, SOUTH, {"okra": Shift(0.1, 0.05), "kale": Shift(0.2, 0.05)})
    assert heard(two_schools, NORTH) == []
    agree(two_schools, NORTH)
    assert heard(two_schools, NORTH) == ["kale", "okra"]
    assert heard(two_schools, SOUTH) == [], "the other has told nothing yet"
    with two_schools.school(NORTH) as here:
        assert here.execute("SELECT count(*) FROM shared_lesson").fetchone() == (0,), "theirs are not seen one by one"
    agree(two_schools, SOUTH, agreed=False)
    assert heard(two_schools, NORTH) == []
    with two_schools.school(SOUTH) as there:
        assert there.execute("SELECT count(*) FROM shared_lesson").fetchone() == (0,)


def test_the_database_puts_lessons_together_as_the_rules_do(two_schools: Database) -> None:
    for school_id in (NORTH, SOUTH):
        agree(two_schools, school_id)
    with two_schools.school(SOUTH) as there:
        lessons.tell(there, SOUTH, {"okra": Shift(0.1, 0.05)})
    with two_schools.school(NORTH) as here:
        (found,) = lessons.near_by(here)
    expected = together([Shift(0.1, 0.05)], "okra")
    assert (found.share, found.unsure, found.schools) == pytest.approx((expected.share, expected.unsure, 1))


def test_schools_farther_off_are_not_heard(two_schools: Database) -> None:
    for school_id in (NORTH, SOUTH):
        agree(two_schools, school_id)
    with two_schools.school(SOUTH) as there:
        lessons.tell(there, SOUTH, {"okra": Shift(0.1, 0.05)})
        there.execute("UPDATE school SET latitude = latitude + 0.3")
    assert heard(two_schools, NORTH) == ["okra"]
    with two_schools.school(SOUTH) as there:
        there.execute("UPDATE school SET latitude = latitude + 0.2")
    assert heard(two_schools, NORTH) == []


def test_a_crop_never_grown_here_begins_with_what_they_found_and_ones_own_are_told(two_schools: Database) -> None:
    for school_id in (NORTH, SOUTH):
        agree(two_schools, school_id)
    with two_schools.school(SOUTH) as there:
        lessons.tell(there, SOUTH, {"okra": Shift(0.2, 0.02)})
    with two_schools.school(NORTH) as here:
        school = learning.learn(here, context.load(here), today=TODAY)
        okra = next((days, seasons) for crop, days, seasons in school.corrections if crop == "okra")
        assert okra[0] >= 4
        assert okra[1] == 0
        told = [crop for (crop,) in here.execute("SELECT crop FROM shared_lesson").fetchall()]
        assert {"kale", "radish"} <= set(told)
        assert "okra" not in told
        again = learning.learn(here, school, today=TODAY)
        assert again is school, "what was corrected does not teach itself"


def jobs(database: Database) -> int:
    with database.school(NORTH) as connection:
        row = connection.execute("SELECT count(*) FROM queue.procrastinate_jobs WHERE status = 'todo'").fetchone()
    assert row is not None
    return int(row[0])


def test_two_first_pickings_at_once_ask_once_and_neither_waits_for_the_other(two_schools: Database) -> None:
    with two_schools.school(NORTH) as one, two_schools.school(NORTH) as other:
        for connection in (one, other):
            connection.execute("SET LOCAL lock_timeout = '5s'")
            queue.learn_of_picking(connection, NORTH)
    assert jobs(two_schools) == 1
    with two_schools.school(NORTH) as again:
        queue.learn_of_picking(again, NORTH)
        queue.recompute_school(again, NORTH)
    assert jobs(two_schools) == 1


def test_who_asks_while_another_has_asked_and_not_ended_goes_on_after_it(two_schools: Database) -> None:
    """As when a calendar is changed by two at once: the second waits, finds it asked for, and keeps what it wrote."""
    began = threading.Event()

    def second() -> None:
        with two_schools.school(NORTH) as connection:
            began.set()
            queue.recompute_school(connection, NORTH)
            connection.execute("UPDATE school SET setting = 'kept'")

    with two_schools.school(NORTH) as first:
        queue.recompute_school(first, NORTH)
        thread = threading.Thread(target=second)
        thread.start()
        assert began.wait(60)
    thread.join(60)
    with two_schools.school(NORTH) as connection:
        assert connection.execute("SELECT setting FROM school").fetchone() == ("kept",)
    assert jobs(two_schools) == 1


def test_every_night_what_was_picked_here_and_near_by_is_heard_of(two_schools: Database) -> None:
    for school_id in (NORTH, SOUTH):
        agree(two_schools, school_id)
    with two_schools.school(SOUTH) as there:
        lessons.tell(there, SOUTH, {"okra": Shift(0.2, 0.02)})
    Rounds(two_schools, Clock(TODAY), Settings()).nightly()
    assert jobs(two_schools) == 2, "one for each school"
    recompute(two_schools, Clock(TODAY), NORTH)
    with two_schools.school(NORTH) as here:
        assert "okra" in [crop for crop, _, _ in context.load(here).corrections]


def test_what_was_told_while_it_was_taken_back_goes_with_the_next_look(two_schools: Database) -> None:
    agree(two_schools, NORTH)
    with two_schools.school(NORTH) as here:
        school = context.load(here)  # as a job has it that began before
    agree(two_schools, NORTH, agreed=False)
    with two_schools.school(NORTH) as here:
        learning.learn(here, school, today=TODAY)
        assert here.execute("SELECT count(*) > 0 FROM shared_lesson").fetchone() == (True,)
    with two_schools.school(NORTH) as here:
        learning.learn(here, context.load(here), today=TODAY)
        assert here.execute("SELECT count(*) FROM shared_lesson").fetchone() == (0,)


def test_a_crop_with_a_time_of_its_own_is_neither_told_nor_moved_by_others(two_schools: Database) -> None:
    for school_id in (NORTH, SOUTH):
        agree(two_schools, school_id)
    with two_schools.school(SOUTH) as there:
        lessons.tell(there, SOUTH, {"okra": Shift(0.2, 0.02)})
    with two_schools.school(NORTH) as here:
        for crop, days in (("kale", [70, 80]), ("okra", [60, 70])):
            method = context.load(here).crops[crop].methods[0]
            own_crops.save(here, NORTH, OwnCropRow(uuid4(), crop, None, {"days": {method: days}}, ""))
        school = learning.learn(here, context.load(here), today=TODAY)
        assert "okra" not in [crop for crop, _, _ in school.corrections]
        told = [crop for (crop,) in here.execute("SELECT crop FROM shared_lesson").fetchall()]
        assert "radish" in told
        assert "kale" not in told


def test_two_who_put_one_correction_to_use_at_once_both_succeed(two_schools: Database) -> None:
    with two_schools.school(NORTH) as connection:
        pickings.set_correction(connection, NORTH, "okra", days=0, seasons=1, day=TODAY)
    began = threading.Event()

    def second() -> None:
        with two_schools.school(NORTH) as connection:
            began.set()
            pickings.set_correction(connection, NORTH, "okra", days=5, seasons=2, day=TODAY)

    with two_schools.school(NORTH) as first:
        pickings.set_correction(first, NORTH, "okra", days=4, seasons=1, day=TODAY)
        thread = threading.Thread(target=second)
        thread.start()
        assert began.wait(60)
    thread.join(60)
    with two_schools.school(NORTH) as connection:
        assert ("okra", 5, 2) in pickings.corrections(connection)
