"""Plans of stages: what to do, with what, by when, and who can be asked."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.core.school.project_plans import ItemKind
from almanaque.store import errors


@dataclass(frozen=True)
class Project:
    id: UUID
    name: str
    template: str
    starts: date


@dataclass(frozen=True)
class StageRow:
    id: UUID
    project_id: UUID
    ordinal: int
    name: str
    starts: date
    ends: date
    caution: str


@dataclass(frozen=True)
class PlanItem:
    id: UUID
    stage_id: UUID
    ordinal: int
    kind: ItemKind
    what: str
    who: str
    done_on: date | None


def projects(connection: Connection[Any]) -> list[Project]:
    rows = connection.cursor(row_factory=class_row(Project))
    return rows.execute("SELECT id, name, template, starts FROM project ORDER BY starts, name").fetchall()


def project(connection: Connection[Any], project_id: UUID) -> Project:
    row = (
        connection.cursor(row_factory=class_row(Project))
        .execute("SELECT id, name, template, starts FROM project WHERE id = %s", [project_id])
        .fetchone()
    )
    if row is None:
        raise errors.NotFound("That plan is not there any more.")
    return row


def stages(connection: Connection[Any], project_id: UUID | None = None) -> list[StageRow]:
    """Stages of one plan, or of all."""
    return (
        connection.cursor(row_factory=class_row(StageRow))
        .execute(
            """SELECT id, project_id, ordinal, name, starts, ends, caution FROM stage
               WHERE %(project)s::uuid IS NULL OR project_id = %(project)s ORDER BY project_id, ordinal""",
            {"project": project_id},
        )
        .fetchall()
    )


def items(connection: Connection[Any], project_id: UUID | None = None) -> list[PlanItem]:
    """What the stages of one plan hold, or of all."""
    return (
        connection.cursor(row_factory=class_row(PlanItem))
        .execute(
            """SELECT i.id, i.stage_id, i.ordinal, i.kind, i.what, i.who, i.done_on
               FROM stage_item i JOIN stage s ON s.school_id = i.school_id AND s.id = i.stage_id
               WHERE %(project)s::uuid IS NULL OR s.project_id = %(project)s ORDER BY i.stage_id, i.ordinal""",
            {"project": project_id},
        )
        .fetchall()
    )


def save(
    connection: Connection[Any],
    school_id: UUID,
    project: Project,
    stages: Iterable[StageRow],
    items: Iterable[PlanItem],
) -> None:
    """Write a new plan with its stages and what they hold."""
    connection.execute(
        "INSERT INTO project (school_id, id, name, template, starts) VALUES (%s, %s, %s, %s, %s)",
        [school_id, project.id, project.name, project.template, project.starts],
    )
    for stage in stages:
        save_stage(connection, school_id, stage)
    for item in items:
        save_item(connection, school_id, item)


def save_stage(connection: Connection[Any], school_id: UUID, stage: StageRow) -> None:
    connection.execute(
        """INSERT INTO stage (school_id, id, project_id, ordinal, name, starts, ends, caution)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE
           SET name = excluded.name, starts = excluded.starts, ends = excluded.ends""",
        [school_id, stage.id, stage.project_id, stage.ordinal, stage.name, stage.starts, stage.ends, stage.caution],
    )


def save_item(connection: Connection[Any], school_id: UUID, item: PlanItem) -> None:
    connection.execute(
        """INSERT INTO stage_item (school_id, id, stage_id, ordinal, kind, what, who, done_on)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE
           SET what = excluded.what, who = excluded.who, done_on = excluded.done_on""",
        [school_id, item.id, item.stage_id, item.ordinal, item.kind, item.what, item.who, item.done_on],
    )


def delete(connection: Connection[Any], project_id: UUID) -> None:
    if connection.execute("DELETE FROM project WHERE id = %s", [project_id]).rowcount == 0:
        raise errors.NotFound("That plan is not there any more.")


def delete_item(connection: Connection[Any], item_id: UUID) -> None:
    if connection.execute("DELETE FROM stage_item WHERE id = %s", [item_id]).rowcount == 0:
        raise errors.NotFound("That is not in the plan any more.")
