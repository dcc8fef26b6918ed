"""Seasons that are planned at once, with their wishes, decisions and proposals."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Jsonb

from almanaque.core.planner.problem import Aim, Kind, Origin, Weight, Which
from almanaque.store import errors

State = Literal["waits", "works", "done", "failed"]
What = Literal["kept", "not so", "there", "not there", "rubbed out"]


@dataclass(frozen=True)
class SeasonPlanRow:
    """What is asked: days on which plants may take their place, beds that may be used (none named: all outdoors), limits, order of aims.

    `parts` are the squares, as text, of beds that may be used in part only, by the bed's id.
    """

    id: UUID
    name: str
    starts: date
    ends: date
    free_from: date | None
    bed_ids: list[UUID]
    parts: Mapping[str, str]
    limits: Mapping[str, int | None]
    aims: list[Aim]


@dataclass(frozen=True)
class WishRow:
    """One line of a wish list, as `core.planner.problem.Wish` has it; `kinds`, `fill` and `a_week` make several wishes of it."""

    id: UUID
    plan_id: UUID
    number: int
    label: str
    crops: list[str]
    kind: Kind
    squares: int | None
    plants: int | None
    grams: int | None
    a_week: bool
    kinds: int | None
    fill: bool
    group_id: UUID | None
    bed_id: UUID | None
    ready_by: date | None
    ready_to: date | None
    weight: Weight
    votes: int
    origin: Origin


@dataclass(frozen=True)
class DecisionRow:
    """What somebody decided of a single wish: `way` says of which proposal, as text that is the same for the same way."""

    wish: str
    what: What
    way: str
    told: Mapping[str, Any]


@dataclass(frozen=True)
class ProposalRow:
    """One of the plans of a season, as far as it is. `asked` changes each time it is asked for anew."""

    which: Which
    state: State
    stop: bool
    asked: UUID
    gap: float | None
    proved: bool
    found: Mapping[str, Any] | None


def plans(connection: Connection[Any]) -> list[SeasonPlanRow]:
    """All plans, the newest first."""
    rows = connection.cursor(row_factory=class_row(SeasonPlanRow))
    return rows.execute(
        "SELECT id, name, starts, ends, free_from, bed_ids, parts, limits, aims FROM season_plan ORDER BY created_at DESC, name"
    ).fetchall()


def plan(connection: Connection[Any], plan_id: UUID) -> SeasonPlanRow:
    """One of them. Raises NotFound."""
    rows = connection.cursor(row_factory=class_row(SeasonPlanRow))
    found = rows.execute(
        "SELECT id, name, starts, ends, free_from, bed_ids, parts, limits, aims FROM season_plan WHERE id = %s",
        [plan_id],
    ).fetchone()
    if found is None:
        raise errors.NotFound("There is no such plan in this school.")
    return found


def hold(connection: Connection[Any], plan_id: UUID) -> SeasonPlanRow:
    """The plan, held until the transaction ends, so that nobody else changes what is asked. Raises NotFound."""
    connection.execute("SELECT FROM season_plan WHERE id = %s FOR UPDATE", [plan_id])
    return plan(connection, plan_id)


def save(connection: Connection[Any], school_id: UUID, row: SeasonPlanRow) -> None:
    connection.execute(
        """INSERT INTO season_plan (school_id, id, name, starts, ends, free_from, bed_ids, parts, limits, aims)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET name = excluded.name, starts = excluded.starts, ends = excluded.ends,
             free_from = excluded.free_from, bed_ids = excluded.bed_ids, parts = excluded.parts,
             limits = excluded.limits, aims = excluded.aims""",
        [
            school_id,
            row.id,
            row.name,
            row.starts,
            row.ends,
            row.free_from,
            row.bed_ids,
            Jsonb(dict(row.parts)),
            Jsonb(dict(row.limits)),
            list(row.aims),
        ],
    )


def delete(connection: Connection[Any], plan_id: UUID) -> None:
    """Take a plan out with its wishes and proposals; what was pencilled stays. Raises NotFound."""
    if connection.execute("DELETE FROM season_plan WHERE id = %s", [plan_id]).rowcount == 0:
        raise errors.NotFound("There is no such plan in this school.")


def wishes(connection: Connection[Any], plan_id: UUID) -> list[WishRow]:
    """The lines of a wish list in their order."""
    rows = connection.cursor(row_factory=class_row(WishRow))
    return rows.execute(
        """SELECT id, plan_id, number, label, crops, kind, squares, plants, grams, a_week, kinds, fill, group_id, bed_id,
             ready_by, ready_to, weight, votes, origin
           FROM season_wish WHERE plan_id = %s ORDER BY number, id""",
        [plan_id],
    ).fetchall()


def add_wishes(connection: Connection[Any], school_id: UUID, rows: Sequence[WishRow]) -> None:
    """Write new lines."""
    with connection.cursor() as cursor:
        cursor.executemany(
            """INSERT INTO season_wish (school_id, id, plan_id, number, label, crops, kind, squares, plants, grams, a_week, kinds,
                 fill, group_id, bed_id, ready_by, ready_to, weight, votes, origin)
               VALUES (%(school)s, %(id)s, %(plan_id)s, %(number)s, %(label)s, %(crops)s, %(kind)s, %(squares)s, %(plants)s,
                 %(grams)s, %(a_week)s, %(kinds)s, %(fill)s, %(group_id)s, %(bed_id)s, %(ready_by)s, %(ready_to)s, %(weight)s,
                 %(votes)s, %(origin)s)""",
            [{**vars(row), "school": school_id} for row in rows],
        )


def change_wish(connection: Connection[Any], plan_id: UUID, wish_id: UUID, weight: Weight) -> None:
    """Give a wish another weight. Raises NotFound."""
    done = connection.execute(
        "UPDATE season_wish SET weight = %s WHERE plan_id = %s AND id = %s", [weight, plan_id, wish_id]
    )
    if done.rowcount == 0:
        raise errors.NotFound("There is no such wish in this plan.")


def delete_wish(connection: Connection[Any], plan_id: UUID, wish_id: UUID) -> None:
    """Take a line out. Raises NotFound."""
    if connection.execute("DELETE FROM season_wish WHERE plan_id = %s AND id = %s", [plan_id, wish_id]).rowcount == 0:
        raise errors.NotFound("There is no such wish in this plan.")


def decisions(connection: Connection[Any], plan_id: UUID) -> list[DecisionRow]:
    """All that was decided of single proposals."""
    rows = connection.cursor(row_factory=class_row(DecisionRow))
    return rows.execute(
        "SELECT wish, what, way, told FROM season_decision WHERE plan_id = %s ORDER BY wish, what, way", [plan_id]
    ).fetchall()


def decide(connection: Connection[Any], school_id: UUID, plan_id: UUID, row: DecisionRow) -> None:
    """Write a decision; the same one again changes what is told of it."""
    connection.execute(
        """INSERT INTO season_decision (school_id, plan_id, wish, what, way, told) VALUES (%s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, plan_id, wish, what, way) DO UPDATE SET told = excluded.told""",
        [school_id, plan_id, row.wish, row.what, row.way, Jsonb(dict(row.told))],
    )


def take_back(
    connection: Connection[Any], plan_id: UUID, wish: str, what: What | None = None, way: str | None = None
) -> None:
    """Take decisions on a wish back, all, those of one sort, or the one of a sort that says this way."""
    connection.execute(
        """DELETE FROM season_decision WHERE plan_id = %(plan)s AND wish = %(wish)s
             AND (%(what)s::text IS NULL OR what = %(what)s) AND (%(way)s::text IS NULL OR way = %(way)s)""",
        {"plan": plan_id, "wish": wish, "what": what, "way": way},
    )


def proposals(connection: Connection[Any], plan_id: UUID) -> list[ProposalRow]:
    """The plans that are made of a season."""
    rows = connection.cursor(row_factory=class_row(ProposalRow))
    return rows.execute(
        """SELECT which, state, stop, asked, gap, proved, found FROM season_proposal WHERE plan_id = %s
           ORDER BY array_position(ARRAY['surest', 'most kinds', 'least summer'], which)""",
        [plan_id],
    ).fetchall()


def proposal(connection: Connection[Any], plan_id: UUID, which: str) -> ProposalRow:
    """One of them. Raises NotFound."""
    found = next((row for row in proposals(connection, plan_id) if row.which == which), None)
    if found is None:
        raise errors.NotFound("This plan has not been asked for. Press “Plan it”.")
    return found


def ask(connection: Connection[Any], school_id: UUID, plan_id: UUID, asked: UUID, which: Which) -> None:
    """Ask for one of the plans, anew where there is one; what was found for it stays until something better is."""
    connection.execute(
        """INSERT INTO season_proposal (school_id, plan_id, which, state, asked) VALUES (%s, %s, %s, 'waits', %s)
           ON CONFLICT (school_id, plan_id, which) DO UPDATE SET state = 'waits', stop = false, asked = excluded.asked,
             asked_at = now(), gap = NULL, proved = false""",
        [school_id, plan_id, which, asked],
    )


def begin(connection: Connection[Any], plan_id: UUID, which: str, asked: UUID) -> bool:
    """Say that it is being worked at; False where it was asked for anew, stopped or done meanwhile."""
    done = connection.execute(
        """UPDATE season_proposal SET state = 'works'
           WHERE plan_id = %s AND which = %s AND asked = %s AND state IN ('waits', 'works')""",
        [plan_id, which, asked],
    )
    return done.rowcount > 0


def found_so_far(
    connection: Connection[Any],
    plan_id: UUID,
    which: str,
    asked: UUID,
    *,
    state: State,
    gap: float | None,
    proved: bool,
    found: Mapping[str, Any] | None,
) -> bool:
    """Keep what was found, and say whether to go on: not when somebody stopped it or asked for it anew."""
    row = connection.execute(
        """UPDATE season_proposal SET state = CASE WHEN stop THEN 'done' ELSE %(state)s END,
             gap = %(gap)s, proved = %(proved)s, found = coalesce(%(found)s, found)
           WHERE plan_id = %(plan)s AND which = %(which)s AND asked = %(asked)s RETURNING NOT stop""",
        {
            "state": state,
            "gap": gap,
            "proved": proved,
            "found": None if found is None else Jsonb(dict(found)),
            "plan": plan_id,
            "which": which,
            "asked": asked,
        },
    ).fetchone()
    return bool(row and row[0])


def failed(connection: Connection[Any], plan_id: UUID, which: str, asked: UUID) -> None:
    """Say that a plan could not be made; what was found before stays, and one that is done or asked for anew is left alone."""
    connection.execute(
        """UPDATE season_proposal SET state = 'failed', gap = NULL, proved = false
           WHERE plan_id = %s AND which = %s AND asked = %s AND state IN ('waits', 'works')""",
        [plan_id, which, asked],
    )


def stop(connection: Connection[Any], plan_id: UUID) -> None:
    """Take what was found for its plans as done: whoever works at one ends with the best, and those that wait do not begin."""
    connection.execute(
        """UPDATE season_proposal SET stop = true, state = 'done'
           WHERE plan_id = %s AND state IN ('waits', 'works')""",
        [plan_id],
    )


def planted(connection: Connection[Any], plan_id: UUID) -> list[tuple[str, UUID]]:
    """The plantings that came of single wishes."""
    return [
        (wish, planting_id)
        for wish, planting_id in connection.execute(
            "SELECT wish, planting_id FROM season_planting WHERE plan_id = %s ORDER BY wish, planting_id", [plan_id]
        ).fetchall()
    ]


def came_of(connection: Connection[Any], school_id: UUID, plan_id: UUID, wish: str, planting_id: UUID) -> None:
    """Note that a planting came of a wish."""
    connection.execute(
        """INSERT INTO season_planting (school_id, plan_id, wish, planting_id) VALUES (%s, %s, %s, %s)
           ON CONFLICT DO NOTHING""",
        [school_id, plan_id, wish, planting_id],
    )
