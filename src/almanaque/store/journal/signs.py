"""Signs: a short code for a bed, a planting, a station or the whole garden, shown to everybody or to the garden's own people only."""

import secrets
from dataclasses import dataclass
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store import errors

Kind = Literal["garden", "bed", "planting", "station"]
ALPHABET = "23456789abcdefghjkmnpqrstuvwxyz"  # nothing that is mistaken for another on a muddy sign
CODE_LENGTH = 8


@dataclass(frozen=True)
class Sign:
    code: str
    kind: Kind
    subject_id: UUID
    shown: bool


@dataclass(frozen=True)
class Where:
    """What a code stands for, and in which school."""

    school_id: UUID
    kind: Kind
    subject_id: UUID
    shown: bool


def signs(connection: Connection[Any]) -> list[Sign]:
    rows = connection.cursor(row_factory=class_row(Sign))
    return rows.execute("SELECT code, kind, subject_id, shown FROM sign ORDER BY kind, made_at").fetchall()


def ensure(connection: Connection[Any], school_id: UUID, kind: Kind, subject_id: UUID) -> str:
    """The code of a sign, made when it has none yet."""
    code = "".join(secrets.choice(ALPHABET) for _ in range(CODE_LENGTH))
    connection.execute(
        "INSERT INTO sign (school_id, code, kind, subject_id) VALUES (%s, %s, %s, %s) ON CONFLICT ON CONSTRAINT sign_of_subject DO NOTHING",
        [school_id, code, kind, subject_id],
    )
    row = connection.execute("SELECT code FROM sign WHERE kind = %s AND subject_id = %s", [kind, subject_id]).fetchone()
    if row is None:
        raise errors.NotFound("There is no such sign in this school.")
    return str(row[0])


def show(connection: Connection[Any], code: str, shown: bool) -> None:
    """Let everybody see what a sign leads to, or nobody but the garden's own people."""
    if connection.execute("UPDATE sign SET shown = %s WHERE code = %s", [shown, code]).rowcount == 0:
        raise errors.NotFound("There is no such sign in this school.")


def find(connection: Connection[Any], code: str) -> Where | None:
    """What a code stands for, in a transaction of no school."""
    return (
        connection.cursor(row_factory=class_row(Where))
        .execute("SELECT * FROM open_sign(%s)", [code.lower()])
        .fetchone()
    )
