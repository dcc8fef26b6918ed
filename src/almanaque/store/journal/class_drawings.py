"""What teams drew: marks in the order in which they came, and dots for each other's plans."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.core.journal.class_drawings import DrawnMark


@dataclass(frozen=True)
class SentMark:
    """A mark as a tablet sends it, under a number of its own."""

    id: UUID
    mark: DrawnMark


def hold(connection: Connection[Any], team_id: UUID) -> int:
    """The version that a team's plan has after this write; nobody else writes to the plan until the transaction ends."""
    row = connection.execute(
        "UPDATE class_plan SET version = version + 1 WHERE class_team_id = %s RETURNING version", [team_id]
    ).fetchone()
    assert row is not None
    return int(row[0])


def version(connection: Connection[Any], team_id: UUID) -> int:
    row = connection.execute("SELECT version FROM class_plan WHERE class_team_id = %s", [team_id]).fetchone()
    return int(row[0]) if row else 0


def marks(connection: Connection[Any], team_ids: Sequence[UUID]) -> dict[UUID, list[DrawnMark]]:
    """The marks of some teams, in the order in which they came; strokes that were taken back are left out."""
    found: dict[UUID, list[DrawnMark]] = {team: [] for team in team_ids}
    rows = connection.execute(
        """SELECT class_team_id, square_column, square_row, what, stroke::text FROM class_mark
           WHERE class_team_id = ANY(%s) AND NOT taken_back ORDER BY came""",
        [list(team_ids)],
    )
    for team, column, row, what, stroke in rows:
        found[team].append(DrawnMark((column, row), what, stroke))
    return found


def how_many(connection: Connection[Any], team_id: UUID) -> int:
    row = connection.execute("SELECT count(*) FROM class_mark WHERE class_team_id = %s", [team_id]).fetchone()
    return int(row[0]) if row else 0


def add(connection: Connection[Any], school_id: UUID, team_id: UUID, tablet: UUID, sent: Sequence[SentMark]) -> None:
    """Keep marks; one that is kept already stays as it is."""
    connection.cursor().executemany(
        """INSERT INTO class_mark (school_id, id, class_team_id, square_column, square_row, what, stroke, tablet)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s) ON CONFLICT (school_id, id) DO NOTHING""",
        [(school_id, s.id, team_id, *s.mark.cell, s.mark.what, UUID(s.mark.stroke), tablet) for s in sent],
    )


def take_back(connection: Connection[Any], team_id: UUID, tablet: UUID, stroke: UUID, back: bool) -> None:
    """Set a stroke of a tablet aside, or take it in again."""
    connection.execute(
        "UPDATE class_mark SET taken_back = %s WHERE class_team_id = %s AND tablet = %s AND stroke = %s",
        [back, team_id, tablet, stroke],
    )


def vote(connection: Connection[Any], school_id: UUID, page_id: UUID, tablet: UUID, team_id: UUID) -> None:
    """Give a tablet's dot to a plan, in place of the one it had."""
    connection.execute(
        """INSERT INTO class_plan_vote (school_id, class_page_id, tablet, class_team_id) VALUES (%s, %s, %s, %s)
           ON CONFLICT (school_id, class_page_id, tablet) DO UPDATE SET class_team_id = excluded.class_team_id""",
        [school_id, page_id, tablet, team_id],
    )


def votes(connection: Connection[Any], page_id: UUID) -> dict[UUID, int]:
    """Dots by plan."""
    return dict(
        connection.execute(
            "SELECT class_team_id, count(*) FROM class_plan_vote WHERE class_page_id = %s GROUP BY 1", [page_id]
        ).fetchall()
    )


def voted_for(connection: Connection[Any], page_id: UUID, tablet: UUID) -> UUID | None:
    row = connection.execute(
        "SELECT class_team_id FROM class_plan_vote WHERE class_page_id = %s AND tablet = %s", [page_id, tablet]
    ).fetchone()
    return row[0] if row else None
