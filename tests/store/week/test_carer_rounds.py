"""Carers' rounds in the database: taken once, given back by whoever has it, walked once."""

import threading
from datetime import UTC, date, datetime, timedelta
from uuid import UUID, uuid4

import psycopg
import pytest

from almanaque.commands import context as contexts
from almanaque.commands.week import carer_rounds as commands
from almanaque.demo.load import account_id
from almanaque.store import errors
from almanaque.store.accounts import garden_passes
from almanaque.store.db import Database
from almanaque.store.school import outgoing_mail
from almanaque.store.week import carer_rounds
from tests.database import NORTH, SOUTH

D = date.fromisoformat
WEEK = D("2027-07-19")


def make_pass(database: Database) -> UUID:
    made = uuid4()
    with database.school(NORTH) as connection:
        garden_passes.save(
            connection,
            NORTH,
            made,
            label="Carer",
            group_id=None,
            token_hash=made.bytes,
            opens_at=datetime.now(UTC),
            expires_at=datetime.now(UTC) + timedelta(days=3),
            by=account_id("coordinator"),
        )
    return made


def takers(database: Database, school: UUID = NORTH) -> list[tuple[int, str]]:
    with database.school(school) as connection:
        return [(row.ordinal, row.taken_by) for row in carer_rounds.taken(connection, WEEK, WEEK)]


def test_a_round_is_taken_once_however_many_want_it_at_the_same_moment(database: Database) -> None:
    refused: list[str] = []
    gate = threading.Barrier(3)

    def want(name: str) -> None:
        gate.wait()
        try:
            with database.school(NORTH) as connection:
                carer_rounds.take(connection, NORTH, WEEK, 1, by=name, pass_id=None)
        except errors.Refused as error:
            refused.append(str(error))

    people = [threading.Thread(target=want, args=(name,)) for name in ("one", "two", "three")]
    for person in people:
        person.start()
    for person in people:
        person.join()
    assert len(takers(database)) == 1
    assert len(refused) == 2
    assert "Choose another one" in refused[0]


def test_a_pass_gives_back_and_ticks_off_its_own_round_only(database: Database) -> None:
    mine, other = make_pass(database), make_pass(database)
    with database.school(NORTH) as connection:
        carer_rounds.take(connection, NORTH, WEEK, 1, by="Carer", pass_id=mine)
    for act in (carer_rounds.give_back, lambda c, w, n, pass_id: carer_rounds.walked(c, w, n, WEEK, pass_id=pass_id)):
        with pytest.raises(errors.NotFound), database.school(NORTH) as connection:
            act(connection, WEEK, 1, pass_id=other)
    with database.school(NORTH) as connection:
        carer_rounds.walked(connection, WEEK, 1, WEEK, pass_id=mine)
    with pytest.raises(errors.NotFound, match="walked already"), database.school(NORTH) as connection:
        carer_rounds.give_back(connection, WEEK, 1, pass_id=mine)
    assert takers(database) == [(1, "Carer")]


def test_another_school_neither_sees_nor_changes_a_round(database: Database) -> None:
    with database.school(NORTH) as connection:
        carer_rounds.take(connection, NORTH, WEEK, 2, by="Ours", pass_id=None)
    assert takers(database, SOUTH) == []
    with pytest.raises(errors.NotFound), database.school(SOUTH) as connection:
        carer_rounds.give_back(connection, WEEK, 2)
    with database.school(SOUTH) as connection:
        carer_rounds.take(connection, SOUTH, WEEK, 2, by="Theirs", pass_id=None)
    assert takers(database) == [(2, "Ours")]


def test_a_pass_of_another_school_cannot_be_named(database: Database) -> None:
    with pytest.raises((errors.StoreError, psycopg.Error)), database.school(SOUTH) as connection:
        carer_rounds.take(connection, SOUTH, WEEK, 1, by="x", pass_id=make_pass(database))


@pytest.mark.parametrize(
    ("week", "ordinal", "by"), [(D("2027-07-20"), 1, "x"), (WEEK, 28, "x"), (WEEK, 0, "x"), (WEEK, 1, " ")]
)
def test_a_round_on_no_monday_an_eighth_one_and_one_of_nobody_are_refused(
    database: Database, week: date, ordinal: int, by: str
) -> None:
    with pytest.raises(errors.StoreError) as refused, database.school(NORTH) as connection:
        carer_rounds.take(connection, NORTH, week, ordinal, by=by, pass_id=None)
    assert str(refused.value).endswith(".")
    assert takers(database) == []


def test_the_school_is_told_once_of_a_round_that_nobody_has_two_days_ahead(database: Database) -> None:
    def told(today: str) -> int:
        with database.school(NORTH) as connection:
            connection.execute("UPDATE school SET mail_to = 'garden@school.example'")
            return commands.remind(connection, contexts.load(connection), D(today))

    def subjects() -> list[str]:
        with database.school(NORTH) as connection:
            return [mail.subject for mail in outgoing_mail.mails(connection) if mail.key.startswith("round/")]

    assert told("2027-07-09") == 0  # the next one begins on the 12th
    assert told("2027-07-10") == 1
    assert told("2027-07-10") == 0
    assert told("2027-07-11") == 0
    assert subjects() == ["Brindlecombe School: Nobody has the round of 12 – 14 Jul yet"]
    with database.school(NORTH) as connection:
        carer_rounds.take(connection, NORTH, D("2027-07-12"), 2, by="Carer")
    assert told("2027-07-14") == 0  # somebody has that one
    with database.school(NORTH) as connection:
        connection.execute("UPDATE school SET mail_to = ''")
        assert commands.remind(connection, contexts.load(connection), D("2027-07-17")) == 0


def test_an_offered_round_is_taken_by_one_of_those_who_want_it(database: Database) -> None:
    mine, other = make_pass(database), make_pass(database)
    with database.school(NORTH) as connection:
        carer_rounds.take(connection, NORTH, WEEK, 1, by="Carer", pass_id=mine)
    with pytest.raises(errors.NotFound), database.school(NORTH) as connection:
        carer_rounds.offer(connection, WEEK, 1, True, pass_id=other)
    with pytest.raises(errors.Refused), database.school(NORTH) as connection:
        carer_rounds.take(connection, NORTH, WEEK, 1, by="Other", pass_id=other)
    with database.school(NORTH) as connection:
        carer_rounds.offer(connection, WEEK, 1, True, pass_id=mine)
        carer_rounds.take(connection, NORTH, WEEK, 1, by="Other", pass_id=other)
    with pytest.raises(errors.Refused), database.school(NORTH) as connection:
        carer_rounds.take(connection, NORTH, WEEK, 1, by="Carer", pass_id=mine)
    assert takers(database) == [(1, "Other")]
