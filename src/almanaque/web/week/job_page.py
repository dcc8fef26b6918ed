"""Week: one job, with who does it and why, another lesson for it, and what became of it; and sharing all of them out anew."""

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.garden import tending
from almanaque.commands.week import bed_care, jobs
from almanaque.commands.week.jobs import JobReport
from almanaque.core.errors import BadInput
from almanaque.core.week import bed_care as bed_care_rules
from almanaque.store.garden import garden
from almanaque.store.week import tasks
from almanaque.store.week.tasks import Task
from almanaque.web import forms, frame, words
from almanaque.web.pictures.knack_strips import KnackStrip, strips
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Tick = Annotated[RequestScope, Depends(may("tick"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
AROUND = timedelta(days=14)  # lessons so long before and after a job's days are offered
BY_ITS_CARE = ("cut back", "divide", "support", "mulch", "scape")  # steps that a crop's own care says how to do
WHAT = ("done", "partly", "not needed", "no more", "open")


@router.get("/tasks/{task_id}")
def page(scope: Look, task_id: UUID) -> Response:
    with scope.open() as work:
        task = tasks.task(work.connection, task_id)
        return frame.page(work, "week", task.title, _values(work, task), template="week/job.html")


class JobReportForm(BaseModel):
    """What the form sends, as it was typed."""

    what: str = "done"
    day: str = ""
    minutes: str = ""
    amount: str = ""
    note: str = ""
    result: str = ""


@router.post("/tasks/{task_id}/told")
def told(scope: Tick, task_id: UUID, form: Annotated[JobReportForm, Form()]) -> Response:
    """What became of a job, how long it took, and how much it was."""
    with scope.open() as work:
        said = forms.one_of(form.what, WHAT, field="what")
        day = parse_day(form.day) if form.day.strip() else work.today
        if said == "no more":
            jobs.no_more(work.connection, work.context, task_id, day, work.actor())
            return frame.go(work, f"/tasks/{task_id}")
        if form.result and said == "done":
            bed_care.drip_found(
                work.connection,
                work.context,
                task_id,
                form.result,
                form.note,
                sighting_id=uuid4(),
                at=scope.clock.now(),
                day=day,
                actor=work.actor(),
            )
            return frame.go(work, f"/tasks/{task_id}")
        status: tasks.TaskStatus = "done" if said == "done" else "not needed" if said == "not needed" else "open"
        took = (
            forms.whole(form.minutes, field="minutes", least=0, most=1000, what="minutes_taken")
            if form.minutes.strip()
            else None
        )
        told = JobReport(
            status,
            said == "partly",
            took,
            forms.optional_name(form.amount, field="amount", most=80),
            forms.optional_name(form.note, field="note", most=400),
        )
        jobs.tell(
            work.connection,
            work.context,
            task_id,
            told,
            day,
            work.actor(),
        )
        return frame.go(work, f"/tasks/{task_id}")


@router.post("/tasks/{task_id}/lesson")
def lesson(
    scope: Plan, task_id: UUID, lesson: Annotated[str, Form()] = "", back: Annotated[str, Form()] = ""
) -> Response:
    """Another lesson for a job: a day and a class, the carers, nobody yet, or what the rules find."""
    with scope.open() as work:
        if lesson == "rules":
            jobs.leave_to_rules(work.connection, work.context, task_id, today=work.today)
        elif lesson in ("carers", "nobody"):
            jobs.set_by_hand(
                work.connection, work.context, task_id, None, None, carer=lesson == "carers", actor=work.actor()
            )
        else:
            day, _, group = lesson.partition("|")
            if not group:
                raise BadInput("week.lesson_missing", field="lesson")
            jobs.set_by_hand(
                work.connection,
                work.context,
                task_id,
                parse_day(day, field="lesson"),
                _group(work, group),
                carer=False,
                actor=work.actor(),
            )
        return frame.go(work, "/week" if back == "week" else f"/tasks/{task_id}")


@router.post("/week/share")
def share(scope: Plan) -> Response:
    """Share all open jobs out anew; those set by hand stay."""
    with scope.open() as work:
        changed = jobs.share_out(work.connection, work.context, today=work.today)
        return frame.go(work, f"/week?shared={changed}")


def _group(work: UnitOfWork, text: str) -> UUID:
    group_id = forms.row_id(text)
    if group_id not in {group.id for group in work.context.groups}:
        raise BadInput("week.no_class_for_lesson", field="lesson")
    return group_id


@dataclass(frozen=True)
class JobPageView(View):
    """Filled by `_values`, read by its template."""

    job: Task
    crop: str
    who: str
    window: str
    facts: str
    lessons: list[tuple[str, str]]
    chosen: str
    what: str
    whats: tuple[tuple[str, str], ...]
    on_day: str
    latest: str
    begun: bool
    knacks: list[KnackStrip]
    how: str
    able: str
    results: tuple[str, ...]


def _values(work: UnitOfWork, task: Task) -> JobPageView:
    names = work.context.group_names(task.on_day or task.from_day)
    crop, groups, practice, care = "", [], None, ""
    if task.planting_id:
        planting = garden.planting(work.connection, task.planting_id)
        care = work.context.crops[planting.crop].care if task.step in BY_ITS_CARE else ""
        practice = tending.practice_of(work.context, planting.crop, planting.cover, task.step)
        crop, groups = work.context.crops[planting.crop].name.en, [work.context.crops[planting.crop].group]
    what = "partly" if task.part_done_on and task.status == "open" else task.status
    return JobPageView(
        job=task,
        crop=crop,
        who=_who(task, names),
        window=words.span(task.from_day, task.to_day),
        facts=words.joined(
            [task.bed_name or "", f"{task.minutes} min", f"due {words.span(task.from_day, task.to_day)}", _state(task)]
        ),
        lessons=_lessons(work, task, names),
        chosen=f"{task.on_day}|{task.class_group_id}" if task.class_group_id else "carers" if task.carer else "nobody",
        what=what,
        whats=(
            ("done", "done"),
            ("partly", "done in part; the rest comes again"),
            ("not needed", "not needed"),
            *((("no more", f"no more: {practice.no_more.lower()}"),) if practice and practice.no_more else ()),
            ("open", "still to do"),
        ),
        on_day=min(task.done_on or task.part_done_on or task.on_day or work.today, work.today).isoformat(),
        latest=work.today.isoformat(),
        begun=task.from_day <= work.today,
        knacks=strips([task.routine or task.step], groups),
        how=practice.how if practice else care,
        able=words.joined([f"from age {practice.ages_from}", *practice.tools]) if practice else "",
        results=bed_care_rules.RESULTS if task.routine == "drip" else (),
    )


def _state(task: Task) -> str:
    if task.status == "done" and task.done_on:
        return f"done {words.short_day(task.done_on)}"
    if task.status == "open" and task.part_done_on:
        return f"done in part {words.short_day(task.part_done_on)}"
    return task.status if task.status != "open" else ""


def _who(task: Task, names: dict[str, str]) -> str:
    if task.class_group_id and task.on_day:
        return f"{names.get(str(task.class_group_id), 'A class')}, {words.weekday_day(task.on_day)}"
    return "Carers" if task.carer else "Nobody yet"


def _lessons(work: UnitOfWork, task: Task, names: dict[str, str]) -> list[tuple[str, str]]:
    """Lessons from today on around the job's days; those in its days are marked by what stands behind them."""
    start = max(work.today, task.from_day - AROUND)
    found = work.context.calendar.lessons(start, max(start, task.to_day + AROUND))
    given: dict[tuple[date, str], int] = {}
    for other in tasks.tasks(work.connection, start=start, status="open"):
        if other.on_day and other.class_group_id and other.id != task.id:
            key = (other.on_day, str(other.class_group_id))
            given[key] = given.get(key, 0) + other.minutes
    return [
        (
            f"{x.day.isoformat()}|{x.group_id}",
            (
                f"{words.weekday_day(x.day)} {words.clock(x.starts_at)}, "
                f"{names[x.group_id]}: {_free(x.minutes - given.get((x.day, x.group_id), 0))}"
            )
            + ("" if task.from_day <= x.day <= task.to_day else ", outside its days"),
        )
        for x in found
    ]


def _free(minutes: int) -> str:
    return f"{minutes} min free" if minutes > 0 else "full" if minutes == 0 else f"{-minutes} min too full"
