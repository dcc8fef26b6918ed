"""Letters to classes as they were sent. Only the hash of a letter's secret is kept."""

from dataclasses import dataclass
from datetime import date, datetime
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Jsonb

from almanaque.store import errors


@dataclass(frozen=True)
class Kept:
    id: UUID
    class_group_id: UUID | None
    from_day: date
    to_day: date
    content: dict[str, Any]
    photos: list[UUID]
    expires_at: datetime


_COLUMNS = "SELECT id, class_group_id, from_day, to_day, content, photos, expires_at FROM letter"


def letters(connection: Connection[Any]) -> list[Kept]:
    """Letters that can still be read, newest first."""
    rows = connection.cursor(row_factory=class_row(Kept))
    return rows.execute(f"{_COLUMNS} WHERE expires_at > now() ORDER BY to_day DESC, made_at DESC LIMIT 60").fetchall()


def letter(connection: Connection[Any], letter_id: UUID) -> Kept:
    found = connection.cursor(row_factory=class_row(Kept)).execute(f"{_COLUMNS} WHERE id = %s", [letter_id]).fetchone()
    if found is None:
        raise errors.NotFound("There is no such letter in this school.")
    return found


def save(connection: Connection[Any], school_id: UUID, kept: Kept, *, token_hash: bytes, by: UUID | None) -> None:
    connection.execute(
        """INSERT INTO letter (school_id, id, class_group_id, from_day, to_day, content, photos, token_hash, expires_at, made_by)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s)""",
        [
            school_id,
            kept.id,
            kept.class_group_id,
            kept.from_day,
            kept.to_day,
            Jsonb(kept.content),
            kept.photos,
            token_hash,
            kept.expires_at,
            by,
        ],
    )


def delete(connection: Connection[Any], letter_id: UUID) -> None:
    """Take a letter back; its address leads nowhere from then on."""
    if connection.execute("DELETE FROM letter WHERE id = %s", [letter_id]).rowcount == 0:
        raise errors.NotFound("There is no such letter in this school.")


def find(connection: Connection[Any], token_hash: bytes) -> tuple[UUID, UUID] | None:
    """School and letter behind a secret, in a transaction of no school; None when it leads nowhere."""
    row = connection.execute("SELECT school_id, letter_id FROM open_letter(%s)", [token_hash]).fetchone()
    return None if row is None else (row[0], row[1])


@dataclass(frozen=True)
class LetterDraft:
    """A letter that is not finished: the form as it stands."""

    id: UUID
    form: dict[str, Any]
    changed_at: datetime


def drafts(connection: Connection[Any]) -> list[LetterDraft]:
    """Letters that are not finished, the one changed last first."""
    rows = connection.cursor(row_factory=class_row(LetterDraft))
    return rows.execute("SELECT id, form, changed_at FROM letter_draft ORDER BY changed_at DESC LIMIT 60").fetchall()


def draft(connection: Connection[Any], draft_id: UUID) -> LetterDraft:
    rows = connection.cursor(row_factory=class_row(LetterDraft))
    found = rows.execute("SELECT id, form, changed_at FROM letter_draft WHERE id = %s", [draft_id]).fetchone()
    if found is None:
        raise errors.NotFound("There is no such draft in this school.")
    return found


def hold_draft(connection: Connection[Any], draft_id: UUID) -> LetterDraft | None:
    """A draft that nobody else changes until the transaction ends; None for a new one."""
    rows = connection.cursor(row_factory=class_row(LetterDraft))
    return rows.execute("SELECT id, form, changed_at FROM letter_draft WHERE id = %s FOR UPDATE", [draft_id]).fetchone()


def keep_draft(
    connection: Connection[Any], school_id: UUID, draft_id: UUID, form: dict[str, Any], *, by: UUID | None
) -> None:
    """Keep a form as it stands; the same draft is kept once."""
    connection.execute(
        """INSERT INTO letter_draft (school_id, id, form, made_by) VALUES (%s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET form = EXCLUDED.form, changed_at = now()""",
        [school_id, draft_id, Jsonb(form), by],
    )


def delete_draft(connection: Connection[Any], draft_id: UUID) -> None:
    """Delete a draft; nothing where there is none any more."""
    connection.execute("DELETE FROM letter_draft WHERE id = %s", [draft_id])
