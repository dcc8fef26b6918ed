"""What came back from home by a link: held until an educator lets it in."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.core.journal.home_tasks import HomeAnswer
from almanaque.store import errors


@dataclass(frozen=True)
class HeldAnswer:
    """An answer that waits to be let in; `pictured` when a photo came with it."""

    id: UUID
    open_garden_id: UUID
    bed_id: UUID | None
    task: str
    done: bool
    counted: float | None
    vote: str
    line: str
    pictured: bool
    sent_on: date

    @property
    def said(self) -> HomeAnswer:
        return HomeAnswer(self.done, self.counted, self.vote, self.line)


_COLUMNS = """SELECT id, open_garden_id, bed_id, task, done, counted::float, vote, line, picture IS NOT NULL AS pictured, sent_on
              FROM home_answer"""


@dataclass(frozen=True)
class SentAnswer:
    """An answer as it comes in: `reader` is a hash that tells browsers apart and nobody's name."""

    id: UUID
    open_garden_id: UUID
    bed_id: UUID | None
    task: str
    reader: bytes
    said: HomeAnswer
    sent_on: date


@dataclass(frozen=True)
class HomePhoto:
    """A photo from home as JPEG, large and small, with its size in pixels."""

    picture: bytes
    small: bytes
    width: int
    height: int


def keep(connection: Connection[Any], school_id: UUID, sent: SentAnswer, photo: HomePhoto | None) -> bool:
    """Hold an answer; one of the same reader to the same task that still waits is replaced. False when that was let in already."""
    written = connection.execute(
        """INSERT INTO home_answer (school_id, id, open_garden_id, bed_id, task, reader, done, counted, vote, line, sent_on, picture, small,
             width, height)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)
           ON CONFLICT ON CONSTRAINT home_answer_once DO UPDATE
           SET done = EXCLUDED.done, counted = EXCLUDED.counted, vote = EXCLUDED.vote, line = EXCLUDED.line,
             picture = coalesce(EXCLUDED.picture, home_answer.picture), small = coalesce(EXCLUDED.small, home_answer.small),
             width = coalesce(EXCLUDED.width, home_answer.width), height = coalesce(EXCLUDED.height, home_answer.height),
             sent_on = EXCLUDED.sent_on, sent_at = now()
           WHERE home_answer.let_in_at IS NULL""",
        [
            school_id,
            sent.id,
            sent.open_garden_id,
            sent.bed_id,
            sent.task,
            sent.reader,
            sent.said.done,
            sent.said.counted,
            sent.said.vote,
            sent.said.line,
            sent.sent_on,
            *((photo.picture, photo.small, photo.width, photo.height) if photo else (None, None, None, None)),
        ],
    )
    return written.rowcount == 1


def waiting(connection: Connection[Any], open_garden_id: UUID) -> tuple[int, int]:
    """How many answers by a link wait, and how many came within the last hour. Asked under a lock of the link.

    Raises NotFound for one that was ended meanwhile.
    """
    held = connection.execute(
        "SELECT FROM open_garden WHERE id = %s AND ended_at IS NULL AND expires_at > now() FOR UPDATE", [open_garden_id]
    )
    if held.fetchone() is None:
        raise errors.NotFound("This page has ended or was taken back. Ask the school for a new link.")
    row = connection.execute(
        """SELECT count(*) FILTER (WHERE let_in_at IS NULL), count(*) FILTER (WHERE sent_at > now() - interval '1 hour')
           FROM home_answer WHERE open_garden_id = %s""",
        [open_garden_id],
    ).fetchone()
    return (0, 0) if row is None else (row[0], row[1])


def answered(connection: Connection[Any], open_garden_id: UUID, reader: bytes) -> list[tuple[UUID | None, str]]:
    """Bed and task of each answer that a reader has given by a link."""
    rows = connection.execute(
        "SELECT bed_id, task FROM home_answer WHERE open_garden_id = %s AND reader = %s", [open_garden_id, reader]
    )
    return [(row[0], row[1]) for row in rows.fetchall()]


def held(connection: Connection[Any]) -> list[HeldAnswer]:
    """Everything that waits, oldest first."""
    rows = connection.cursor(row_factory=class_row(HeldAnswer))
    return rows.execute(f"{_COLUMNS} WHERE let_in_at IS NULL ORDER BY sent_at, id LIMIT 2000").fetchall()


def hold(connection: Connection[Any], ids: Sequence[UUID]) -> list[HeldAnswer]:
    """Those of the answers that still wait, for nobody else to decide on until the transaction ends."""
    rows = connection.cursor(row_factory=class_row(HeldAnswer))
    return rows.execute(
        f"{_COLUMNS} WHERE id = ANY(%s) AND let_in_at IS NULL ORDER BY sent_at, id FOR UPDATE", [list(ids)]
    ).fetchall()


def photo(connection: Connection[Any], answer_id: UUID) -> HomePhoto:
    """The photo of an answer that waits. Raises NotFound where there is none."""
    row = (
        connection.cursor(row_factory=class_row(HomePhoto))
        .execute(
            "SELECT picture, small, width, height FROM home_answer WHERE id = %s AND picture IS NOT NULL", [answer_id]
        )
        .fetchone()
    )
    if row is None:
        raise errors.NotFound("There is no such photo in this school.")
    return row


def let_in(connection: Connection[Any], ids: Sequence[UUID], *, by: UUID | None) -> None:
    """Mark answers as let in; their photos are in the journal by then and go from here."""
    connection.execute(
        "UPDATE home_answer SET let_in_at = now(), let_in_by = %s, picture = NULL, small = NULL WHERE id = ANY(%s)",
        [by, list(ids)],
    )


def refuse(connection: Connection[Any], ids: Sequence[UUID]) -> None:
    """Delete answers that nobody wants in the journal."""
    connection.execute("DELETE FROM home_answer WHERE id = ANY(%s) AND let_in_at IS NULL", [list(ids)])
