"""What people do with accounts: another role, erasing somebody, one's own name and password."""

from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.core.accounts.permissions import Role
from almanaque.core.errors import BadInput
from almanaque.passwords import hash_password, matches
from almanaque.store import errors
from almanaque.store.accounts import accounts
from almanaque.store.accounts.accounts import OwnAccount

SHORTEST_PASSWORD = 10
LONGEST_PASSWORD = 200
LEAST_LETTERS = 4  # different ones


def set_role(connection: Connection[Any], account_id: UUID, role: Role | None) -> None:
    """Another role in this school; without one the person is let go. Raises BadInput for the last coordinator, NotFound."""
    _person(connection, account_id)
    if not accounts.set_role(connection, account_id, role):
        raise BadInput("accounts.last_coordinator", field="role")


def erase_person(connection: Connection[Any], account_id: UUID, *, by: UUID | None) -> None:
    """Erase a person who belongs to this school alone: the name goes, what was written stays. Raises BadInput, NotFound."""
    if account_id == by:
        raise BadInput("accounts.own_account_elsewhere")
    _person(connection, account_id)
    outcome = accounts.erase_here(connection, account_id)
    if outcome == "elsewhere":
        raise BadInput("accounts.belongs_to_another_school")
    if outcome == "last":
        raise BadInput("accounts.last_coordinator")


def change_own(
    connection: Connection[Any], token_hash: bytes, own: OwnAccount, *, name: str, password: str, new_password: str
) -> None:
    """Another name, and another password for those who know the old one. Raises BadInput; nothing is changed then."""
    hashed = None
    if new_password:
        if not matches(own.password_hash, password[:LONGEST_PASSWORD]):
            raise BadInput("accounts.old_password_wrong", field="password")
        check_password(new_password)
        hashed = hash_password(new_password)
    accounts.change_account(connection, token_hash, name=name, password_hash=hashed)


def erase_own(connection: Connection[Any], own: OwnAccount, *, password: str) -> None:
    """Erase one's own account. Raises BadInput for a wrong password and for the only coordinator of a school."""
    if not matches(own.password_hash, password[:LONGEST_PASSWORD]):
        raise BadInput("accounts.erase_password_wrong", field="password")
    if not accounts.erase(connection, own.account_id):
        raise BadInput("accounts.only_coordinator_erases")


def check_password(text: str) -> None:
    """Raise BadInput for a password that is too short, too long, or one letter again and again."""
    if not SHORTEST_PASSWORD <= len(text) <= LONGEST_PASSWORD or len(set(text)) < LEAST_LETTERS:
        raise BadInput("accounts.password_too_short", field="new_password", least=SHORTEST_PASSWORD)


def _person(connection: Connection[Any], account_id: UUID) -> None:
    if not any(person.account_id == account_id for person in accounts.people(connection)):
        raise errors.NotFound("There is no such person in this school.")
