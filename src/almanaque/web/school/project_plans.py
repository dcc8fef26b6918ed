"""School: plans of stages for a new garden or project, with dates from the calendar, progress and print."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, cast
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.school import project_plans as commands
from almanaque.core.school.project_plans import ItemKind, state
from almanaque.data import plan_templates
from almanaque.store import errors
from almanaque.store.school import project_plans
from almanaque.store.school.project_plans import PlanItem, Project, StageRow
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
KIND_WORDS: dict[ItemKind, str] = {"to do": "To do", "material": "Materials", "tool": "Tools", "person": "People"}


@router.get("/school/plans")
def plans(scope: Look) -> Response:
    with scope.open() as work:
        stages, items = project_plans.stages(work.connection), project_plans.items(work.connection)
        values = {
            "plans": [
                _summary(work, p, [s for s in stages if s.project_id == p.id], items)
                for p in project_plans.projects(work.connection)
            ],
            "templates": [
                {
                    "key": t.key,
                    "name": t.name,
                    "about": t.about,
                    "facts": words.joined(
                        [words.count(len(t.stages), "stage"), words.count(sum(s.weeks for s in t.stages), "week")]
                    ),
                }
                for t in plan_templates().values()
            ],
            "new_id": str(uuid4()),
            "starts": work.day.isoformat(),
        }
        return frame.page(work, "school", "Plans of stages", values, template="school/project_plans.html")


class ProjectPlanForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    name: str = ""
    template: str = ""
    starts: str = ""


@router.post("/school/plans")
def begin(scope: Plan, form: Annotated[ProjectPlanForm, Form()]) -> Response:
    with scope.open() as work:
        project_id = forms.row_id(form.id)
        commands.begin(
            work.connection,
            work.context,
            project_id=project_id,
            name=form.name,
            template=form.template,
            starts=parse_day(form.starts, field="starts"),
        )
        return frame.go(work, f"/school/plans/{project_id}")


@router.get("/school/plans/{project_id}")
def plan(scope: Look, project_id: UUID) -> Response:
    with scope.open() as work:
        project = project_plans.project(work.connection, project_id)
        stages, items = (
            project_plans.stages(work.connection, project_id),
            project_plans.items(work.connection, project_id),
        )
        template = plan_templates().get(project.template)
        values = {
            "plan": project,
            "about": template.about if template else "",
            "stages": [_stage(work, s, items) for s in stages],
            "summary": _summary(work, project, stages, items).facts,
            "kinds": list(KIND_WORDS.items()),
        }
        return frame.page(work, "school", project.name, values, template="school/project_plan.html")


@router.post("/school/plans/{project_id}/delete")
def delete(scope: Plan, project_id: UUID) -> Response:
    with scope.open() as work:
        project_plans.delete(work.connection, project_id)
        return frame.go(work, "/school/plans")


@router.post("/school/plans/{project_id}/stages/{stage_id}")
def move_stage(
    scope: Plan,
    project_id: UUID,
    stage_id: UUID,
    starts: Annotated[str, Form()] = "",
    ends: Annotated[str, Form()] = "",
) -> Response:
    """Give a stage other days."""
    with scope.open() as work:
        stage = _found(project_plans.stages(work.connection, project_id), stage_id)
        first, last = parse_day(starts, field="starts"), parse_day(ends or starts, field="ends")
        commands.move_stage(work.connection, work.context, stage, starts=first, ends=last)
        return frame.go(work, f"/school/plans/{project_id}")


@router.post("/school/plans/{project_id}/stages/{stage_id}/items")
def add_item(
    scope: Plan,
    project_id: UUID,
    stage_id: UUID,
    kind: Annotated[str, Form()] = "to do",
    what: Annotated[str, Form()] = "",
    who: Annotated[str, Form()] = "",
) -> Response:
    with scope.open() as work:
        stage = _found(project_plans.stages(work.connection, project_id), stage_id)
        mine = [i for i in project_plans.items(work.connection, project_id) if i.stage_id == stage.id]
        item = PlanItem(
            uuid4(),
            stage.id,
            len(mine) + 100,
            cast(ItemKind, forms.one_of(kind, [*KIND_WORDS], field="kind")),
            forms.name(what, field="what", what="step", most=200),
            who.strip(),
            None,
        )
        project_plans.save_item(work.connection, work.context.school.id, item)
        return frame.go(work, f"/school/plans/{project_id}")


@router.post("/school/plans/{project_id}/items/{item_id}")
def change_item(scope: Plan, project_id: UUID, item_id: UUID, action: Annotated[str, Form()] = "done") -> Response:
    """Tick something off, open it again, or take it out."""
    with scope.open() as work:
        item = next((i for i in project_plans.items(work.connection, project_id) if i.id == item_id), None)
        if item is None:
            raise errors.NotFound("That is not in the plan any more.")
        action = forms.one_of(action, ("done", "open", "delete"), field="action")
        if action == "delete":
            project_plans.delete_item(work.connection, item_id)
        else:
            done = work.today if action == "done" else None
            project_plans.save_item(
                work.connection,
                work.context.school.id,
                PlanItem(item.id, item.stage_id, item.ordinal, item.kind, item.what, item.who, done),
            )
        return frame.go(work, f"/school/plans/{project_id}")


def _found(stages: list[StageRow], stage_id: UUID) -> StageRow:
    found = next((s for s in stages if s.id == stage_id), None)
    if found is None:
        raise errors.NotFound("That stage is not in the plan any more.")
    return found


@dataclass(frozen=True)
class PlanSummaryView(View):
    """Filled by `_summary`, read by its template."""

    id: str
    name: str
    facts: str


def _summary(work: UnitOfWork, project: Project, stages: list[StageRow], items: list[PlanItem]) -> PlanSummaryView:
    mine = {s.id for s in stages}
    to_do = [i for i in items if i.stage_id in mine and i.kind == "to do"]
    done = sum(i.done_on is not None for i in to_do)
    now = next(
        (s for s in stages if any(i.stage_id == s.id and i.done_on is None and i.kind == "to do" for i in items)), None
    )
    end = max((s.ends for s in stages), default=project.starts)
    facts = [
        f"{words.long_day(project.starts)} to {words.long_day(end)}",
        f"{done} of {words.count(len(to_do), 'to-do')} done",
        f"now: {now.name}, {words.span(now.starts, now.ends)}" if now else "all done",
        "late" if now and state(now.starts, now.ends, done=0, to_do=1, day=work.day) == "late" else "",
    ]
    return PlanSummaryView(id=str(project.id), name=project.name, facts=words.joined(facts))


@dataclass(frozen=True)
class StageItemView(View):
    """A row of `StageView`."""

    id: str
    what: str
    who: str
    done: bool


@dataclass(frozen=True)
class StageView(View):
    """Filled by `_stage`, read by its template."""

    id: str
    name: str
    days: str
    starts: str
    ends: str
    caution: str
    state: str
    facts: str
    lists: list[tuple[str, str, list[StageItemView]]]


def _stage(work: UnitOfWork, stage: StageRow, items: list[PlanItem]) -> StageView:
    mine = [i for i in items if i.stage_id == stage.id]
    to_do = [i for i in mine if i.kind == "to do"]
    done = sum(i.done_on is not None for i in to_do)
    standing = state(stage.starts, stage.ends, done=done, to_do=len(to_do), day=work.day)
    left = work.context.calendar.school_days_between(stage.starts, stage.ends)
    return StageView(
        id=str(stage.id),
        name=stage.name,
        days=_span(stage.starts, stage.ends),
        starts=stage.starts.isoformat(),
        ends=stage.ends.isoformat(),
        caution=stage.caution,
        state=standing,
        facts=words.joined([words.count(left, "school day"), f"{done} of {len(to_do)} done" if to_do else ""]),
        lists=[
            (
                word,
                kind,
                [
                    StageItemView(id=str(i.id), what=i.what, who=i.who, done=i.done_on is not None)
                    for i in mine
                    if i.kind == kind
                ],
            )
            for kind, word in KIND_WORDS.items()
        ],
    )


def _span(starts: date, ends: date) -> str:
    return (
        f"{words.short_day(starts)} {starts.year} to {words.short_day(ends)} {ends.year}"
        if starts.year != ends.year
        else f"{words.span(starts, ends)} {ends.year}"
    )
