"""Bring a database to the schema of this code: numbered plain SQL files, one transaction each.

A file that has landed is never edited: its checksum is kept and compared. Two processes that migrate at once wait for
each other on an advisory lock. A small runner of our own, because the kept ones we looked at hash a file's name and
not its content, or split a file at semicolons and so break function bodies.
"""

import hashlib
import re
from dataclasses import dataclass
from importlib.resources import files
from typing import Any, LiteralString

import psycopg
from psycopg import Connection, sql

from almanaque.store import errors

ADVISORY_LOCK = 7_302_114_509
FILE_NAME = re.compile(r"^(\d{4})_[a-z0-9_]+\.sql$")


@dataclass(frozen=True)
class Migration:
    number: int
    name: str
    text: str

    @property
    def checksum(self) -> str:
        return hashlib.sha256(self.text.encode()).hexdigest()


def known() -> list[Migration]:
    """The migrations that ship with this code, in order. Raises when numbers are missing or doubled."""
    found = []
    for entry in sorted(files("almanaque.store").joinpath("migrations").iterdir(), key=lambda e: e.name):
        match = FILE_NAME.match(entry.name)
        if match is None:
            raise errors.SchemaMismatch(f"{entry.name} is not named like 0001_what_it_does.sql.")
        found.append(Migration(int(match[1]), entry.name, entry.read_text(encoding="utf-8")))
    if [m.number for m in found] != list(range(1, len(found) + 1)):
        raise errors.SchemaMismatch("The migrations are not numbered 1, 2, 3 … without a gap.")
    return found


def latest() -> int:
    """Number of the last migration of this code: the version of its schema."""
    return known()[-1].number


def applied(connection: Connection[Any]) -> dict[int, str]:
    """Number and checksum of what has run in this database; empty for a new one. Writes nothing."""
    row = connection.execute("SELECT to_regclass('public.schema_migration')").fetchone()
    if row is None or row[0] is None:
        return {}
    return dict(connection.execute("SELECT number, checksum FROM schema_migration ORDER BY number").fetchall())


def pending(connection: Connection[Any]) -> list[Migration]:
    """What is still to run. Raises when the database holds something this code does not know or knows otherwise."""
    have, ours = applied(connection), known()
    by_number = {m.number: m for m in ours}
    for number, checksum in have.items():
        if number not in by_number:
            raise errors.SchemaMismatch(
                f"The database is newer than this version of Almanaque (it has step {number}, this code ends at "
                f"{len(ours)}). Start the newer version, or restore a backup made with this one."
            )
        if by_number[number].checksum != checksum:
            raise errors.SchemaMismatch(
                f"Step {number} of the database differs from {by_number[number].name}. "
                "Use the version of Almanaque that made this database, or restore a backup."
            )
    return [m for m in ours if m.number not in have]


def refuse_other_schema(connection: Connection[Any]) -> None:
    """Raise unless the database has exactly the schema of this code."""
    missing = pending(connection)
    if missing:
        raise errors.SchemaMismatch(
            f"The database lacks {len(missing)} step(s) of this version, the first is {missing[0].name}. "
            "Run `almanaque migrate`, then start again."
        )


def run(owner_url: str, *, app_role: str) -> list[str]:
    """Apply what is pending as the owner, then give the application's role its rights; return the names applied."""
    names = []
    with psycopg.connect(owner_url, autocommit=True) as connection:
        connection.execute("SELECT pg_advisory_lock(%s)", [ADVISORY_LOCK])
        connection.execute("SET client_min_messages = warning")
        connection.execute(
            """CREATE TABLE IF NOT EXISTS schema_migration (
                 number integer PRIMARY KEY, name text NOT NULL, checksum text NOT NULL,
                 applied_at timestamptz NOT NULL DEFAULT now())"""
        )
        for migration in pending(connection):
            with connection.transaction():
                # The text ships with the code; without parameters the server takes a whole file at once.
                connection.execute(migration.text.encode())
                connection.execute("SET LOCAL search_path = public")
                connection.execute(
                    "INSERT INTO schema_migration (number, name, checksum) VALUES (%s, %s, %s)",
                    [migration.number, migration.name, migration.checksum],
                )
            names.append(migration.name)
        with connection.transaction():
            grant(connection, app_role)
    return names


def grant(connection: Connection[Any], app_role: str) -> None:
    """Give the role of the application what it needs and no more; safe to repeat."""
    role = sql.Identifier(app_role)
    owner = connection.execute("SELECT current_user").fetchone()
    if owner is not None and owner[0] == app_role:
        raise errors.UnsafeRole("The application's role and the owner are the same. Use two roles.")
    # The text ships with the code.
    statements: LiteralString = files("almanaque.store").joinpath("grants.sql").read_text(encoding="utf-8")
    connection.execute(sql.SQL(statements).format(role=role))
