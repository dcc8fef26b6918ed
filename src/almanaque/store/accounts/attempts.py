"""Tries at a password or a code, counted by key: a login name, an address, a browser, an account."""

from dataclasses import dataclass
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row


@dataclass(frozen=True)
class Tried:
    """How often a key was tried within the window, and how long ago the last time was [s]."""

    key: str
    failures: int
    since_s: float


def tried(connection: Connection[Any], keys: list[str], *, minutes: int) -> dict[str, Tried]:
    """What was tried under these keys, which nobody else may ask about until the transaction ends."""
    rows = connection.cursor(row_factory=class_row(Tried))
    found = rows.execute("SELECT * FROM auth_attempts(%s, %s)", [keys, minutes]).fetchall()
    return {one.key: one for one in found}


def note(connection: Connection[Any], keys: list[str]) -> None:
    connection.execute("SELECT auth_note_attempt(%s)", [keys])


def was_right(connection: Connection[Any], anew: list[str], one_less: list[str]) -> None:
    """The last attempt was right: the first keys begin anew; of the others only that one is taken back."""
    connection.execute("SELECT auth_attempt_was_right(%s, %s)", [anew, one_less])
