"""Everything that was written down of a bed, a planting or the garden, in one line of time."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, Literal, get_args
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store.sql import load

SQL = load("journal/timeline")
What = Literal["note", "seen", "photo", "happened", "picked"]
WHATS: tuple[What, ...] = get_args(What)


@dataclass(frozen=True)
class TimelineRow:
    """One thing of the past. `seen` holds a sighting's own columns; `words` what is said, or of a sighting what is searched."""

    what: What
    id: UUID
    day: date
    at: datetime
    bed_id: UUID | None
    bed_name: str | None
    planting_id: UUID | None
    crop: str | None
    variety: str | None
    method: str | None
    words: str
    seen: dict[str, Any] | None
    come_back_on: date | None
    closed_on: date | None
    late: bool


def timeline(
    connection: Connection[Any],
    *,
    until: date,
    since: date | None = None,
    bed_id: UUID | None = None,
    planting_id: UUID | None = None,
    whats: Sequence[What] | None = None,
    search: str = "",
    crops: Sequence[str] = (),
    limit: int = 80,
) -> list[TimelineRow]:
    """What was written down up to a day, newest first. `search` is looked for as it stands; `crops` are those whose name it is."""
    plain = search.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
    return (
        connection.cursor(row_factory=class_row(TimelineRow))
        .execute(
            SQL["timeline"],
            {
                "until": until,
                "since": since,
                "bed": bed_id,
                "planting": planting_id,
                "whats": list(whats) if whats else None,
                "search": f"%{plain}%" if plain else None,
                "crops": list(crops),
                "limit": limit,
            },
        )
        .fetchall()
    )
