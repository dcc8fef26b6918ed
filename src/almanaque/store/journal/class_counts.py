"""What teams counted, measured and sorted."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import dict_row

from almanaque.core.journal.class_counts import ClassCount
from almanaque.store import errors


@dataclass(frozen=True)
class CountedRow:
    """A count as it is on file, with where it was made and in which class; `taken_over` once an educator made an entry of it."""

    id: UUID
    count: ClassCount
    class_team_id: UUID
    class_group_id: UUID | None
    bed_id: UUID | None
    planting_id: UUID | None
    bed_name: str
    crop: str
    taken_over: bool


_COLUMNS = """SELECT c.id, c.kind, t.name AS team, c.counted_on, c.amount::float, c.of_amount::float, c.what, c.class_team_id,
  p.class_group_id, c.bed_id, c.planting_id, coalesce(b.name, '') AS bed_name, coalesce(g.crop, '') AS crop,
  c.taken_over IS NOT NULL AS taken_over
FROM class_count c
JOIN class_team t ON t.school_id = c.school_id AND t.id = c.class_team_id
JOIN class_page p ON p.school_id = t.school_id AND p.id = t.class_page_id
LEFT JOIN planting g ON g.school_id = c.school_id AND g.id = c.planting_id
LEFT JOIN bed b ON b.school_id = c.school_id AND b.id = coalesce(c.bed_id, g.bed_id)
WHERE c.taken_back_at IS NULL AND """


def _row(row: dict[str, Any]) -> CountedRow:
    count = ClassCount(row["kind"], row["team"], row["counted_on"], row["amount"], row["of_amount"], row["what"])
    return CountedRow(
        row["id"],
        count,
        row["class_team_id"],
        row["class_group_id"],
        row["bed_id"],
        row["planting_id"],
        row["bed_name"],
        row["crop"],
        row["taken_over"],
    )


def of_page(connection: Connection[Any], page_id: UUID) -> list[CountedRow]:
    """What was counted on a page, in the order in which it came."""
    rows = connection.cursor(row_factory=dict_row)
    return [_row(row) for row in rows.execute(f"{_COLUMNS} t.class_page_id = %s ORDER BY c.came", [page_id])]


def between(
    connection: Connection[Any], kinds: Sequence[str], starts: date | None = None, ends: date | None = None
) -> list[CountedRow]:
    """Counts of some kinds between two days, both included, oldest first."""
    rows = connection.cursor(row_factory=dict_row)
    return [
        _row(row)
        for row in rows.execute(
            f"""{_COLUMNS} c.kind = ANY(%s) AND (%s::date IS NULL OR c.counted_on >= %s) AND (%s::date IS NULL OR c.counted_on <= %s)
                ORDER BY c.counted_on, c.came LIMIT 5000""",
            [list(kinds), starts, starts, ends, ends],
        )
    ]


def how_many(connection: Connection[Any], page_id: UUID) -> int:
    row = connection.execute(
        """SELECT count(*) FROM class_count c JOIN class_team t ON t.school_id = c.school_id AND t.id = c.class_team_id
           WHERE t.class_page_id = %s""",
        [page_id],
    ).fetchone()
    return int(row[0]) if row else 0


def save(
    connection: Connection[Any],
    school_id: UUID,
    count_id: UUID,
    team_id: UUID,
    count: ClassCount,
    *,
    bed_id: UUID | None,
    planting_id: UUID | None,
) -> None:
    """Keep a count under its number; sent again it is kept once."""
    connection.execute(
        """INSERT INTO class_count (school_id, id, class_team_id, kind, bed_id, planting_id, what, amount, of_amount, counted_on)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s) ON CONFLICT (school_id, id) DO NOTHING""",
        [school_id, count_id, team_id, count.kind, bed_id, planting_id, count.what, count.amount, count.of, count.day],
    )


def take_back(connection: Connection[Any], count_id: UUID, *, team_id: UUID | None = None) -> None:
    """Take a count back: by its own team, or by an educator. One that was made an entry of the journal stays."""
    done = connection.execute(
        """UPDATE class_count SET taken_back_at = now()
           WHERE id = %s AND (%s::uuid IS NULL OR class_team_id = %s) AND taken_back_at IS NULL AND taken_over IS NULL""",
        [count_id, team_id, team_id],
    )
    if done.rowcount == 0:
        raise errors.NotFound("That count was taken back or taken over already. Load the page again.")


def take_over(connection: Connection[Any], count_id: UUID, entry_id: UUID) -> bool:
    """Note that an entry was made of a count. False when one was made before."""
    done = connection.execute(
        "UPDATE class_count SET taken_over = %s WHERE id = %s AND taken_over IS NULL AND taken_back_at IS NULL",
        [entry_id, count_id],
    )
    return done.rowcount == 1


def cards(connection: Connection[Any], team_ids: Sequence[UUID]) -> dict[UUID, dict[str, str]]:
    """Heaps by crop, by team."""
    found: dict[UUID, dict[str, str]] = {team: {} for team in team_ids}
    rows = connection.execute(
        "SELECT class_team_id, crop, heap FROM class_card WHERE class_team_id = ANY(%s)", [list(team_ids)]
    )
    for team, crop, heap in rows:
        found[team][crop] = heap
    return found


def lay(connection: Connection[Any], school_id: UUID, team_id: UUID, crop: str, heap: str) -> None:
    """Lay a card on a heap, or take it off all of them."""
    if not heap:
        connection.execute("DELETE FROM class_card WHERE class_team_id = %s AND crop = %s", [team_id, crop])
        return
    connection.execute(
        """INSERT INTO class_card (school_id, class_team_id, crop, heap) VALUES (%s, %s, %s, %s)
           ON CONFLICT (school_id, class_team_id, crop) DO UPDATE SET heap = excluded.heap""",
        [school_id, team_id, crop, heap],
    )
