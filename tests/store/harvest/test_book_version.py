"""The cached book: everything it is made of changes its version, and a transaction that writes reads for itself."""

import re
from pathlib import Path

import psycopg
import pytest

import almanaque.store.harvest
from almanaque.commands import context
from almanaque.commands.harvest import harvest_book
from almanaque.store import sql
from almanaque.store.db import Database
from almanaque.store.harvest import pickings
from tests.database import NORTH

PARTS = ("harvest", "use_of_harvest", "curing", "event", "planting", "forecast", "forecast_made", "bed")
# Read by the book's statements, but no part of what is kept in memory.
BESIDE = {"closed_time"}


def version(database: Database) -> str:
    with database.school(NORTH) as connection:
        return pickings.version(connection)


@pytest.mark.parametrize("table", PARTS)
def test_a_change_of_any_part_changes_the_version(database: Database, table: str) -> None:
    before = version(database)
    with database.school(NORTH) as connection:
        column = connection.execute(
            "SELECT column_name FROM information_schema.columns WHERE table_name = %s ORDER BY ordinal_position",
            [table],
        ).fetchall()[-1][0]
        changed = connection.execute(
            f"UPDATE {table} SET {column} = {column} WHERE ctid IN (SELECT ctid FROM {table} LIMIT 1)".encode()
        )
        if changed.rowcount == 0:
            pytest.fail(f"the demo has no row of {table} to change")
        assert pickings.version(connection) == ""
    assert version(database) not in ("", before)


def test_the_statements_of_the_book_read_nothing_else() -> None:
    read = set()
    for text in sql.load("harvest/pickings").values():
        read |= set(re.findall(r"\b(?:FROM|JOIN) ([a-z_]+)", text))
    assert read - BESIDE - {"book_version"} <= set(PARTS)
    assert (Path(almanaque.store.harvest.__file__).parent / "pickings.sql").exists()


def test_every_part_has_both_triggers(demo) -> None:
    with psycopg.connect(demo.owner) as connection:
        rows = connection.execute(
            "SELECT tgrelid::regclass::text, count(*) FROM pg_trigger WHERE tgname LIKE 'book%' GROUP BY 1"
        ).fetchall()
    assert dict(rows) == dict.fromkeys(PARTS, 2)


def test_what_a_transaction_has_not_kept_yet_is_in_nobody_elses_book(database: Database) -> None:
    with database.school(NORTH) as connection:
        school = context.load(connection)
        today = school.years[-1].starts
        kept = harvest_book.read(connection, school, today=today, until=today)
        assert harvest_book.read(connection, school, today=today, until=today) is kept
        connection.execute("UPDATE bed SET name = name WHERE ctid IN (SELECT ctid FROM bed LIMIT 1)")
        assert harvest_book.read(connection, school, today=today, until=today) is not kept
