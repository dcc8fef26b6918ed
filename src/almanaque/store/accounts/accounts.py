"""Logging in. Accounts and sessions are global and reached only through the database's own functions."""

from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, LiteralString
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row, scalar_row


@dataclass(frozen=True)
class Account:
    """`totp_secret` is empty without a second step."""

    account_id: UUID
    password_hash: str
    totp_secret: str


@dataclass(frozen=True)
class Visitor:
    """Who looks at the page: the account or the pass, the school of this session and the role there.

    A pass has no account; `pass_group` is its class, None for a carer's. `noticed` counts other logins of the account by
    browsers that had never logged in to it before, until somebody says that they are known.
    """

    account_id: UUID | None
    account_name: str
    school_id: UUID
    role: str
    demo_day: date | None
    schools: int
    pass_id: UUID | None
    pass_group: UUID | None
    noticed: int


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


def account_by_id(connection: Connection[Any], account_id: UUID) -> Account | None:
    rows = connection.cursor(row_factory=class_row(Account))
    return rows.execute("SELECT * FROM auth_account_by_id(%s)", [account_id]).fetchone()


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
    return _yes(connection, "SELECT auth_choose_school(%s, %s)", [token_hash, school_id])


def set_demo_day(connection: Connection[Any], token_hash: bytes, day: date) -> None:
    connection.execute("SELECT auth_set_demo_day(%s, %s)", [token_hash, day])


def people(connection: Connection[Any]) -> list[Person]:
    """Names and roles of the people of the transaction's school."""
    return connection.cursor(row_factory=class_row(Person)).execute("SELECT * FROM auth_people()").fetchall()


@dataclass(frozen=True)
class Invitation:
    """An invitation that can still be used."""

    id: UUID
    role: str
    label: str
    made_at: datetime
    expires_at: datetime


@dataclass(frozen=True)
class Invited:
    """What an invitation offers; without a school's name it lets its holder found one."""

    school_name: str
    role: str
    label: str


@dataclass(frozen=True)
class OwnAccount:
    """`totp_secret` is empty without a second step; `codes_left` counts the recovery codes that are not used yet."""

    account_id: UUID
    login: str
    name: str
    password_hash: str
    totp_secret: str
    codes_left: int


@dataclass(frozen=True)
class NewSchool:
    """What a school needs to begin: a name, a place on earth, its zone and units."""

    id: UUID
    name: str
    zone: str
    latitude: float
    longitude: float
    units: str
    place_name: str


def invitations(connection: Connection[Any]) -> list[Invitation]:
    """The open invitations of the transaction's school."""
    return connection.cursor(row_factory=class_row(Invitation)).execute("SELECT * FROM auth_invitations()").fetchall()


def invite(
    connection: Connection[Any],
    invitation_id: UUID,
    *,
    token_hash: bytes,
    role: str,
    label: str,
    by: UUID,
    expires_at: datetime,
) -> None:
    connection.execute(
        "SELECT auth_invite(%s, %s, %s, %s, %s, %s)", [invitation_id, token_hash, role, label, by, expires_at]
    )


def revoke_invitation(connection: Connection[Any], invitation_id: UUID) -> bool:
    return _yes(connection, "SELECT auth_revoke_invitation(%s)", [invitation_id])


def invited(connection: Connection[Any], token_hash: bytes) -> Invited | None:
    """What an invitation offers; None for one that is unknown, used, over or taken back."""
    rows = connection.cursor(row_factory=class_row(Invited))
    return rows.execute("SELECT * FROM auth_invitation(%s)", [token_hash]).fetchone()


def make_account(connection: Connection[Any], account_id: UUID, *, login: str, name: str, password_hash: str) -> None:
    connection.execute("SELECT auth_make_account(%s, %s, %s, %s)", [account_id, login, name, password_hash])


def accept(connection: Connection[Any], token_hash: bytes, account_id: UUID) -> UUID | None:
    """Use an invitation; return the school joined, or None for an invitation that is no longer good."""
    row = connection.cursor(row_factory=scalar_row).execute("SELECT auth_accept(%s, %s)", [token_hash, account_id])
    found = row.fetchone()
    return found if isinstance(found, UUID) else None


def found_school(
    connection: Connection[Any],
    account_id: UUID,
    school: NewSchool,
    *,
    invitation_hash: bytes | None,
    open_to_all: bool,
) -> bool:
    """Make a school with this account as its coordinator; False when the account may not."""
    return _yes(
        connection,
        "SELECT auth_found_school(%s, %s, %s, %s, %s, %s, %s, %s, %s, %s)",
        [
            account_id,
            school.id,
            school.name,
            school.zone,
            school.latitude,
            school.longitude,
            school.units,
            school.place_name,
            invitation_hash,
            open_to_all,
        ],
    )


def set_role(connection: Connection[Any], account_id: UUID, role: str | None) -> bool:
    """Another role in the transaction's school, or None to let the person go; False if no coordinator would be left."""
    return _yes(connection, "SELECT auth_set_role(%s, %s)", [account_id, role])


def erase(connection: Connection[Any], account_id: UUID) -> bool:
    """Take an account's name, login and password away; False while it is a school's only coordinator."""
    return _yes(connection, "SELECT auth_erase(%s)", [account_id])


def erase_here(connection: Connection[Any], account_id: UUID) -> str:
    """Erase a person who belongs to the transaction's school alone: `erased`, `elsewhere`, or `last` coordinator."""
    row = connection.cursor(row_factory=scalar_row).execute("SELECT auth_erase_here(%s)", [account_id]).fetchone()
    return str(row)


def own_account(connection: Connection[Any], token_hash: bytes) -> OwnAccount | None:
    rows = connection.cursor(row_factory=class_row(OwnAccount))
    return rows.execute("SELECT * FROM auth_own_account(%s)", [token_hash]).fetchone()


def change_account(connection: Connection[Any], token_hash: bytes, *, name: str, password_hash: str | None) -> None:
    """Change the session's own account; with a new password every other session of it ends."""
    connection.execute("SELECT auth_change_account(%s, %s, %s)", [token_hash, name, password_hash])


def _yes(connection: Connection[Any], statement: LiteralString, values: list[Any]) -> bool:
    return bool(connection.cursor(row_factory=scalar_row).execute(statement, values).fetchone())
