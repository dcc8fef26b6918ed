"""No row of another school, whatever the statement forgets."""

from collections.abc import Iterator
from uuid import uuid4

import psycopg
import pytest

from almanaque.host.postgres import Addresses, Cluster
from almanaque.store import errors, migrate
from almanaque.store.accounts import accounts, sessions
from almanaque.store.db import Database
from almanaque.store.garden import garden
from tests.database import NORTH, SOUTH, bed_id

GLOBAL = {
    "account",
    "login_session",
    "login_attempt",
    "invitation",
    "recovery_code",
    "reset_link",
    "entered_once",
    "schema_migration",
    "upkeep",
}


@pytest.fixture
def owner(demo: Addresses) -> Iterator[psycopg.Connection]:
    with psycopg.connect(demo.owner) as connection:
        yield connection


def tables(owner: psycopg.Connection) -> set[str]:
    rows = owner.execute("SELECT relname FROM pg_class WHERE relnamespace = 'public'::regnamespace AND relkind = 'r'")
    return {name for (name,) in rows.fetchall()}


def test_every_table_of_a_school_has_row_security_and_its_policy(owner: psycopg.Connection) -> None:
    rows = owner.execute(
        """SELECT c.relname, c.relrowsecurity, count(p.polname), bool_and(pg_get_expr(p.polqual, p.polrelid) LIKE '%almanaque.school%')
           FROM pg_class c LEFT JOIN pg_policy p ON p.polrelid = c.oid
           WHERE c.relnamespace = 'public'::regnamespace AND c.relkind = 'r' GROUP BY 1, 2"""
    ).fetchall()
    lacking = [
        name for name, on, policies, right in rows if name not in GLOBAL and not (on and policies == 1 and right)
    ]
    assert lacking == []
    assert len(rows) - len(GLOBAL) >= 20


def test_every_key_of_a_schools_table_begins_with_the_school(owner: psycopg.Connection) -> None:
    rows = owner.execute(
        """SELECT c.conrelid::regclass::text, c.contype, a.attname
           FROM pg_constraint c JOIN pg_attribute a ON a.attrelid = c.conrelid AND a.attnum = c.conkey[1]
           WHERE c.connamespace = 'public'::regnamespace AND c.contype IN ('p', 'f')
             AND (c.contype = 'p' OR c.confrelid NOT IN ('account'::regclass))"""
    ).fetchall()
    wrong = [row for row in rows if row[0] not in GLOBAL | {"school"} and row[2] != "school_id"]
    assert wrong == []


def test_the_applications_role_owns_nothing_and_cannot_read_accounts(
    demo: Addresses, owner: psycopg.Connection
) -> None:
    with psycopg.connect(demo.app) as app:
        for table in (
            "account",
            "login_session",
            "login_attempt",
            "invitation",
            "recovery_code",
            "reset_link",
            "entered_once",
        ):
            with pytest.raises(psycopg.errors.InsufficientPrivilege):
                app.execute(f"SELECT * FROM {table}".encode())
            app.rollback()
        with pytest.raises(psycopg.errors.InsufficientPrivilege):
            app.execute(
                "INSERT INTO school (id, name, zone, latitude, longitude, units) VALUES (gen_random_uuid(), 'x', 'x', 0, 0, 'us')"
            )
    owned = owner.execute("SELECT count(*) FROM pg_class WHERE relowner = 'almanaque_app'::regrole").fetchone()
    assert owned == (0,)


def test_functions_that_run_with_the_owners_rights_have_a_fixed_path(owner: psycopg.Connection) -> None:
    rows = owner.execute(
        "SELECT proname, proconfig FROM pg_proc WHERE prosecdef AND pronamespace = 'public'::regnamespace"
    ).fetchall()
    assert len(rows) >= 9
    assert [name for name, config in rows if config != ["search_path=pg_catalog, public, pg_temp"]] == []


def test_the_applications_role_can_put_nothing_in_the_place_of_the_owners_tables(
    demo: Addresses, owner: psycopg.Connection
) -> None:
    """With a temporary table and a trigger on it, what a function of the owner's does there would run with the owner's rights."""
    attempts = (
        "CREATE TEMP TABLE login_attempt (key text, at timestamptz)",
        "CREATE TABLE public.login_attempt_2 (key text)",
        "CREATE TABLE queue.login_attempt (key text)",
        "CREATE SCHEMA mine",
        "CREATE FUNCTION public.mine() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN RETURN NEW; END'",
        "SELECT lo_from_bytea(0, 'x')",
        "SELECT lo_create(0)",
        "SET ROLE almanaque_owner",
        "ALTER FUNCTION auth_note_attempt(text[]) OWNER TO almanaque_app",
    )
    migrate.grant(owner, "almanaque_app")  # what is granted on a database is not copied with it
    owner.commit()
    with psycopg.connect(demo.app) as app:
        for attempt in attempts:
            with pytest.raises(psycopg.errors.InsufficientPrivilege):
                app.execute(attempt.encode())
            app.rollback()
    granted = owner.execute(
        """SELECT r.rolname FROM pg_auth_members m JOIN pg_roles r ON r.oid = m.roleid
           WHERE m.member = 'almanaque_app'::regrole"""
    ).fetchall()
    assert granted == []


def test_without_a_school_every_read_raises(demo: Addresses, owner: psycopg.Connection) -> None:
    for table in tables(owner) - GLOBAL:
        with (
            psycopg.connect(demo.app) as app,
            pytest.raises((psycopg.errors.UndefinedObject, psycopg.errors.InvalidTextRepresentation)),
        ):
            app.execute(f"SELECT * FROM {table}".encode())


def test_a_forgotten_school_raises_after_another_transaction_set_one(database: Database) -> None:
    with database.school(NORTH) as connection:
        assert connection.execute("SELECT count(*) FROM bed").fetchone() == (13,)
    unset = (psycopg.errors.InvalidTextRepresentation, psycopg.errors.UndefinedObject)
    with pytest.raises(unset), database.transaction() as connection:
        connection.execute("SELECT count(*) FROM bed")


def test_a_school_sees_and_changes_only_its_own_rows(database: Database) -> None:
    with database.school(SOUTH) as connection:
        assert [bed.name for bed in garden.beds(connection)] == ["Bed A", "Bed B"]
        with pytest.raises(errors.NotFound):
            garden.bed(connection, bed_id("Bed 1"))
        assert connection.execute("UPDATE bed SET name = 'mine' WHERE id = %s", [bed_id("Bed 1")]).rowcount == 0
        assert connection.execute("DELETE FROM harvest").rowcount == 2


def test_a_row_cannot_be_written_into_another_school(database: Database) -> None:
    with pytest.raises(psycopg.errors.InsufficientPrivilege), database.school(SOUTH) as connection:
        connection.execute("INSERT INTO draft (school_id, id, name) VALUES (%s, %s, 'x')", [NORTH, uuid4()])


def test_a_row_cannot_point_into_another_school(database: Database) -> None:
    with pytest.raises(errors.Refused), database.school(SOUTH) as connection:
        connection.execute(
            (
                "INSERT INTO planting (school_id, id, bed_id, crop, status, method, "
                "start_on) VALUES (%s, %s, %s, 'kale', 'planned', 'direct', '2027-04-14')"
            ),
            [SOUTH, uuid4(), bed_id("Bed 1")],
        )


@pytest.mark.parametrize("role", ["owner", "postgres"])
def test_the_application_does_not_start_with_a_role_that_row_security_does_not_bind(
    cluster: Cluster, demo: Addresses, role: str
) -> None:
    url = demo.owner if role == "owner" else cluster.url("postgres", demo.app.rsplit("/", 1)[1])
    database = Database(url, max_size=1)
    database.open()
    with pytest.raises(errors.UnsafeRole, match="plain role"):
        database.check_ready()
    database.close()


def test_the_plain_role_is_accepted(database: Database) -> None:
    database.check_ready()


def test_a_session_reaches_only_schools_of_its_account(database: Database) -> None:
    from datetime import UTC, datetime, timedelta

    later = datetime.now(UTC) + timedelta(days=1)
    with database.transaction() as connection:
        helper = accounts.account(connection, "helper")
        assert helper is not None
        assert sessions.open_session(connection, b"h", helper.account_id, later)
        assert not accounts.choose_school(connection, b"h", SOUTH)
        assert [s.school_id for s in accounts.schools(connection, b"h")] == [NORTH]
        assert accounts.visitor(connection, b"other") is None
        sessions.open_session(connection, b"old", helper.account_id, datetime.now(UTC) - timedelta(seconds=1))
        assert accounts.visitor(connection, b"old") is None
