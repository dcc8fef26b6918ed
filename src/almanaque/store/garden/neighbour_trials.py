"""Plantings that were put beside each other on purpose, and what came of it."""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.core.garden.own_experience import Outcome
from almanaque.store import errors


@dataclass(frozen=True)
class TrialRow:
    """A planting with another one beside it; `against` is a trouble, or empty."""

    id: UUID
    planting_id: UUID
    crop: str
    beside_id: UUID
    beside: str
    against: str
    begun_on: date
    outcome: Outcome | None
    answered_on: date | None


_ROWS = """SELECT t.id, t.planting_id, p.crop, t.beside_id, b.crop AS beside, t.against, t.begun_on, t.outcome, t.answered_on
  FROM neighbour_trial t JOIN planting p ON p.school_id = t.school_id AND p.id = t.planting_id
  JOIN planting b ON b.school_id = t.school_id AND b.id = t.beside_id"""


def trials(connection: Connection[Any]) -> list[TrialRow]:
    """All trials, the oldest first."""
    rows = connection.cursor(row_factory=class_row(TrialRow))
    return rows.execute(f"{_ROWS} ORDER BY t.begun_on, t.id").fetchall()


def trial(connection: Connection[Any], trial_id: UUID) -> TrialRow:
    """One trial. Raises NotFound."""
    found = (
        connection.cursor(row_factory=class_row(TrialRow)).execute(f"{_ROWS} WHERE t.id = %s", [trial_id]).fetchone()
    )
    if found is None:
        raise errors.NotFound("There is no such trial in this school.")
    return found


def save(
    connection: Connection[Any],
    school_id: UUID,
    trial_id: UUID,
    planting_id: UUID,
    beside_id: UUID,
    against: str,
    *,
    day: date,
    by: UUID | None,
) -> None:
    """Keep that two plantings stand beside each other on purpose; said again it changes what it is against."""
    connection.execute(
        """INSERT INTO neighbour_trial (school_id, id, planting_id, beside_id, against, begun_on, noted_by)
           VALUES (%s, %s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, planting_id, beside_id) DO UPDATE SET against = excluded.against""",
        [school_id, trial_id, planting_id, beside_id, against, day, by],
    )


def answer(connection: Connection[Any], trial_id: UUID, outcome: Outcome | None, day: date) -> None:
    """Say what came of it, or with no outcome that nobody knows yet. Raises NotFound."""
    done = connection.execute(
        "UPDATE neighbour_trial SET outcome = %s, answered_on = %s WHERE id = %s",
        [outcome, day if outcome is not None else None, trial_id],
    )
    if done.rowcount == 0:
        raise errors.NotFound("There is no such trial in this school.")


def remove(connection: Connection[Any], trial_id: UUID) -> None:
    """Take a trial out that was none."""
    connection.execute("DELETE FROM neighbour_trial WHERE id = %s", [trial_id])


def looked_at(connection: Connection[Any], troubles: Collection[str]) -> list[tuple[UUID, str, list[str]]]:
    """Plantings that were in the ground and that somebody looked at: id, crop, and what of these kinds was seen on them,
    in small letters.
    """
    return connection.execute(
        """SELECT p.id, p.crop, coalesce(array_agg(DISTINCT lower(s.what))
                    FILTER (WHERE s.kind = ANY(%s)), '{}')
           FROM planting p JOIN sighting s ON s.school_id = p.school_id AND s.planting_id = p.id
           WHERE p.status IN ('in the ground', 'finished', 'lost')
           GROUP BY p.id, p.crop ORDER BY p.id""",
        [sorted(troubles)],
    ).fetchall()
