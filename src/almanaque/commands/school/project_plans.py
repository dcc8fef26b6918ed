"""Plans of stages: begun from a template, dated by the calendar, ticked off, moved."""

from dataclasses import replace
from datetime import date
from typing import Any
from uuid import UUID, uuid5

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.errors import BadInput
from almanaque.core.school import project_plans as project_plan_rules
from almanaque.core.school.project_plans import DatedStage, ItemKind, Stage
from almanaque.data import plan_templates
from almanaque.store.school import project_plans as project_plan_rows
from almanaque.store.school.project_plans import PlanItem, Project, StageRow


def begin(
    connection: Connection[Any], context: Context, *, project_id: UUID, name: str, template: str, starts: date
) -> UUID:
    """Make a plan from a template with the dates of this school. Raises BadInput for an unknown template."""
    found = plan_templates().get(template)
    if found is None:
        raise BadInput("school.no_such_template", field="template")
    project = Project(project_id, name.strip() or found.name, template, starts)
    rows, items = [], []
    for ordinal, (stage, dated) in enumerate(zip(found.stages, dates(context, found.stages, starts), strict=True)):
        row = StageRow(
            uuid5(project_id, str(ordinal)), project_id, ordinal, stage.name, dated.starts, dated.ends, stage.caution
        )
        rows.append(row)
        items += [
            PlanItem(uuid5(row.id, str(n)), row.id, n, kind, what, "", None)
            for n, (kind, what) in enumerate(_things(stage))
        ]
    project_plan_rows.save(connection, context.school.id, project, rows, items)
    return project_id


def dates(context: Context, wanted: tuple[Stage, ...], starts: date) -> list[DatedStage]:
    """When each stage can be done from a day on."""
    last = first = None
    climate = context.climate
    if climate is not None and climate.seasons:
        season = climate.season_start(starts)
        ahead = [season, season.replace(year=season.year + 1)]
        lasts = [day for s in ahead if (day := climate.date_of(climate.last_freeze(0.5), s)) and day >= starts]
        firsts = [day for s in ahead if (day := climate.date_of(climate.first_freeze(0.5), s)) and day >= starts]
        last, first = (min(found, default=None) for found in (lasts, firsts))
    return project_plan_rules.schedule(wanted, starts, context.calendar, last_freeze=last, first_freeze=first)


def _things(stage: Stage) -> list[tuple[ItemKind, str]]:
    return [
        *(("to do", what) for what in stage.to_do),
        *(("material", what) for what in stage.materials),
        *(("tool", what) for what in stage.tools),
        *(("person", what) for what in stage.people),
    ]


def move_stage(connection: Connection[Any], context: Context, stage: StageRow, *, starts: date, ends: date) -> None:
    """Give a stage other days. Raises BadInput when it would end before it starts."""
    if ends < starts:
        raise BadInput("school.stage_ends_before_start", field="ends", stage=stage.name)
    project_plan_rows.save_stage(connection, context.school.id, replace(stage, starts=starts, ends=ends))
