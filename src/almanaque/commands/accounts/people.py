"""What people do with accounts: another role, erasing somebody, one's own name and password. Who did it goes into the school's log."""

from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.core.accounts.permissions import Role
from almanaque.core.errors import BadInput
from almanaque.store import errors
from almanaque.store.accounts import accounts, audit
from almanaque.store.accounts.accounts import OwnAccount, Person


def set_role(
    connection: Connection[Any], school_id: UUID, account_id: UUID, role: Role | None, *, by: UUID | None
) -> None:
    """Another role in this school; without one the person is let go. Raises BadInput for the last coordinator, NotFound."""
    person = _person(connection, account_id)
    if not accounts.set_role(connection, account_id, role):
        raise BadInput("accounts.last_coordinator", field="role")
    if role is None:
        audit.note(connection, school_id, by, "let go", subject=account_id)
    elif role != person.role:
        audit.note(connection, school_id, by, "role changed", f"{person.role}, now {role}", subject=account_id)


def erase_person(connection: Connection[Any], school_id: UUID, account_id: UUID, *, by: UUID | None) -> None:
    """Erase a person who belongs to this school alone: the name goes, what was written stays. Raises BadInput, NotFound."""
    if account_id == by:
        raise BadInput("accounts.own_account_elsewhere")
    person = _person(connection, account_id)
    outcome = accounts.erase_here(connection, account_id)
    if outcome == "elsewhere":
        raise BadInput("accounts.belongs_to_another_school")
    if outcome == "last":
        raise BadInput("accounts.last_coordinator")
    audit.note(connection, school_id, by, "erased", person.role, subject=account_id)


def change_password(connection: Connection[Any], token_hash: bytes, own: OwnAccount, password_hash: str) -> None:
    """Another password, hashed already; every other login of the account ends."""
    accounts.change_account(connection, token_hash, name=own.name, password_hash=password_hash)
    audit.note_everywhere(connection, own.account_id, "password changed")


def erase_own(connection: Connection[Any], own: OwnAccount) -> None:
    """Erase one's own account. Raises BadInput for the only coordinator of a school."""
    audit.note_everywhere(connection, own.account_id, "erased", "their own account")
    if not accounts.erase(connection, own.account_id):
        raise BadInput("accounts.only_coordinator_erases")


def _person(connection: Connection[Any], account_id: UUID) -> Person:
    found = next((person for person in accounts.people(connection) if person.account_id == account_id), None)
    if found is None:
        raise errors.NotFound("There is no such person in this school.")
    return found
