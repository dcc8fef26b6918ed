"""Logging in. Accounts and sessions are global and reached only through the database's own functions."""

from dataclasses import dataclass
from datetime import date, datetime
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row, scalar_row


@dataclass(frozen=True)
class Account:
    account_id: UUID
    password_hash: str


@dataclass(frozen=True)
class Visitor:
    """Who looks at the page: the account, the school chosen in this session and the role there."""

    account_id: UUID
    account_name: str
    school_id: UUID
    role: str
    demo_day: date | None
    schools: int


@dataclass(frozen=True)
class SchoolChoice:
    school_id: UUID
    school_name: str
    role: str


@dataclass(frozen=True)
class Person:
    account_id: UUID
    name: str
    login: str
    role: str


def account(connection: Connection[Any], login: str) -> Account | None:
    return (
        connection.cursor(row_factory=class_row(Account)).execute("SELECT * FROM auth_account(%s)", [login]).fetchone()
    )


def failures(connection: Connection[Any], key: str, *, minutes: int) -> int:
    """How often this key (a login name or an address) failed within the last minutes."""
    found = connection.cursor(row_factory=scalar_row).execute("SELECT auth_failures(%s, %s)", [key, minutes]).fetchone()
    return int(found or 0)


def note_failure(connection: Connection[Any], key: str) -> None:
    connection.execute("SELECT auth_note_failure(%s)", [key])


def open_session(connection: Connection[Any], token_hash: bytes, account_id: UUID, expires_at: datetime) -> bool:
    """Open a session in the account's first school; False when the account belongs to none."""
    found = (
        connection.cursor(row_factory=scalar_row)
        .execute("SELECT auth_open_session(%s, %s, %s)", [token_hash, account_id, expires_at])
        .fetchone()
    )
    return bool(found)


def visitor(connection: Connection[Any], token_hash: bytes) -> Visitor | None:
    return (
        connection.cursor(row_factory=class_row(Visitor))
        .execute("SELECT * FROM auth_session(%s)", [token_hash])
        .fetchone()
    )


def schools(connection: Connection[Any], token_hash: bytes) -> list[SchoolChoice]:
    rows = connection.cursor(row_factory=class_row(SchoolChoice))
    return rows.execute("SELECT * FROM auth_schools(%s)", [token_hash]).fetchall()


def choose_school(connection: Connection[Any], token_hash: bytes, school_id: UUID) -> bool:
    """True when the account belongs to that school; otherwise nothing changes."""
    found = (
        connection.cursor(row_factory=scalar_row)
        .execute("SELECT auth_choose_school(%s, %s)", [token_hash, school_id])
        .fetchone()
    )
    return bool(found)


def set_demo_day(connection: Connection[Any], token_hash: bytes, day: date) -> None:
    connection.execute("SELECT auth_set_demo_day(%s, %s)", [token_hash, day])


def close_session(connection: Connection[Any], token_hash: bytes) -> None:
    connection.execute("SELECT auth_close_session(%s)", [token_hash])


def people(connection: Connection[Any]) -> list[Person]:
    """Names and roles of the people of the transaction's school."""
    return connection.cursor(row_factory=class_row(Person)).execute("SELECT * FROM auth_people()").fetchall()
