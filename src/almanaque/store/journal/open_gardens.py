"""The whole garden on a page for those who are away, by a link of which only the hash is kept."""

from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Jsonb

from almanaque.store import errors

Audience = Literal["class", "families", "everybody", "partners", "kitchen"]


@dataclass(frozen=True)
class OpenGarden:
    """A link: for whom, since when it compares, the key of a task by bed, and the photos that were chosen for it.

    `ballot_id` is what children of the class who are away vote in. `until` is its last day as the school counts days, `expires_at`
    the moment at which it ends.
    """

    id: UUID
    audience: Audience
    class_group_id: UUID | None
    greeting: str
    from_day: date
    tasks: dict[str, str]
    photos: list[UUID]
    until: date
    expires_at: datetime
    ended_at: datetime | None
    ballot_id: UUID | None = None


_COLUMNS = """SELECT id, audience, class_group_id, greeting, from_day, tasks, photos, until, expires_at, ended_at, ballot_id
  FROM open_garden"""


def open_gardens(connection: Connection[Any]) -> list[OpenGarden]:
    """Links that lead somewhere, newest first."""
    rows = connection.cursor(row_factory=class_row(OpenGarden))
    return rows.execute(
        f"{_COLUMNS} WHERE expires_at > now() AND ended_at IS NULL ORDER BY made_at DESC LIMIT 60"
    ).fetchall()


def hold(connection: Connection[Any], garden_id: UUID) -> None:
    """Let nobody else write by a link until the transaction ends."""
    connection.execute("SELECT FROM open_garden WHERE id = %s FOR NO KEY UPDATE", [garden_id])


def open_garden(connection: Connection[Any], garden_id: UUID) -> OpenGarden:
    """One link, ended or not. Raises NotFound for one of another school."""
    rows = connection.cursor(row_factory=class_row(OpenGarden))
    found = rows.execute(f"{_COLUMNS} WHERE id = %s", [garden_id]).fetchone()
    if found is None:
        raise errors.NotFound("There is no such link in this school.")
    return found


def save(connection: Connection[Any], school_id: UUID, made: OpenGarden, *, token_hash: bytes, by: UUID | None) -> None:
    connection.execute(
        """INSERT INTO open_garden (school_id, id, audience, class_group_id, greeting, from_day, tasks, photos, token_hash,
             until, expires_at, made_by, ballot_id)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)""",
        [
            school_id,
            made.id,
            made.audience,
            made.class_group_id,
            made.greeting,
            made.from_day,
            Jsonb(made.tasks),
            made.photos,
            token_hash,
            made.until,
            made.expires_at,
            by,
            made.ballot_id,
        ],
    )


def end(connection: Connection[Any], garden_id: UUID) -> None:
    """Let a link lead nowhere from now on; what came in by it stays."""
    ended = connection.execute("UPDATE open_garden SET ended_at = coalesce(ended_at, now()) WHERE id = %s", [garden_id])
    if ended.rowcount == 0:
        raise errors.NotFound("There is no such link in this school.")


def find(connection: Connection[Any], token_hash: bytes) -> tuple[UUID, UUID] | None:
    """School and link behind a secret, in a transaction of no school; None when it leads nowhere."""
    row = connection.execute("SELECT school_id, open_garden_id FROM open_garden_by(%s)", [token_hash]).fetchone()
    return None if row is None else (row[0], row[1])
