"""Jobs: ticked off, with what follows for their planting; told about; set by hand; shared out over the lessons."""

from dataclasses import dataclass, replace
from datetime import date, datetime
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands import class_skills
from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import planting_events, tending
from almanaque.commands.garden.held_bed import hold_garden, hold_of
from almanaque.core.errors import BadInput
from almanaque.core.week import job_matching
from almanaque.core.week.job_matching import Job
from almanaque.store.garden import garden
from almanaque.store.week import tasks
from almanaque.store.week.tasks import Task, TaskStatus

# A job that is done tells what happened to its planting.
TELLS = {"sow": "started", "start indoors": "started", "transplant": "set out", "clear": "cleared"}


def tick(
    connection: Connection[Any],
    context: Context,
    task_id: UUID,
    status: TaskStatus,
    day: date,
    actor: Actor,
    *,
    at: datetime | None = None,
) -> bool:
    """Mark a job done, not needed, or open again; sowing, setting out and clearing move the planting with it.

    What was said `at` an instant before the last word on the job changes nothing: False then. Raises BadInput for a day
    still to come.
    """
    if day > actor.today:
        raise BadInput("week.job_ticked_too_early", field="day")
    before = _held(connection, context, task_id, actor.today)
    if not tasks.told(connection, task_id, at=at):
        return False
    if before.status == status:
        return True
    done_on = day if status == "done" else None
    planting_id, step = tasks.set_status(
        connection, task_id, status, day=done_on, by=actor.by if status == "done" else None
    )
    if planting_id is None or step not in TELLS:
        return True
    planting = garden.planting(connection, planting_id)
    kind = "started" if step == "transplant" and planting.method == "starts" else TELLS[step]
    if status == "done" and kind not in planting.events:
        planting_events.happened(connection, context, planting_id, kind, day, actor)
    elif before.status == "done" and kind in planting.events:
        planting_events.did_not_happen(connection, context, planting_id, kind, actor)
    return True


def _held(connection: Connection[Any], context: Context, task_id: UUID, today: date) -> tasks.Task:
    """A job as it is while nobody else can mark it: the bed it belongs to is held first, as by all who change its jobs."""
    planting_id = tasks.task(connection, task_id).planting_id
    if planting_id is not None:
        hold_of(connection, context, planting_id, Actor(None, today))
    tasks.hold(connection, task_id)
    return tasks.task(connection, task_id)


@dataclass(frozen=True)
class JobReport:
    """What became of a job: done, done in part, not needed, or open again; with what there is to say."""

    status: TaskStatus
    partly: bool
    minutes: int | None
    amount: str
    note: str


def tell(
    connection: Connection[Any],
    context: Context,
    task_id: UUID,
    told: JobReport,
    day: date,
    actor: Actor,
    *,
    at: datetime | None = None,
) -> None:
    """Note what became of a job. Done in part it stays open, and what is left of it comes again.

    What was said `at` an instant before the last word on the job changes nothing. Raises BadInput for a day still to come.
    """
    if told.partly and day > actor.today:
        raise BadInput("week.job_part_too_early", field="day")
    if not tick(connection, context, task_id, "open" if told.partly else told.status, day, actor, at=at):
        return
    tasks.tell(
        connection,
        task_id,
        part_done_on=day if told.partly else None,
        minutes=told.minutes,
        amount=told.amount,
        note=told.note,
    )


def no_more(connection: Connection[Any], context: Context, task_id: UUID, day: date, actor: Actor) -> None:
    """This time and all that would follow are not needed, as when shoots are at the top.

    Raises BadInput for a job that does not come again, or has no end of its own.
    """
    task = tasks.task(connection, task_id)
    if task.planting_id is None:
        raise BadInput("garden.tending_has_no_end", field="answer")
    if task.status == "open":
        tick(connection, context, task_id, "not needed", day, actor)
    tending.no_more(connection, context, task.planting_id, task.step, day, actor)


def set_by_hand(
    connection: Connection[Any],
    context: Context,
    task_id: UUID,
    day: date | None,
    group_id: UUID | None,
    *,
    carer: bool,
    actor: Actor,
) -> None:
    """Put a job into a lesson, to the carers, or to nobody yet; it stays there until somebody changes it.

    Raises BadInput for a job that is over, a day that has passed, and a class that has no lesson then.
    """
    task = _held(connection, context, task_id, actor.today)
    if task.status != "open":
        raise BadInput("week.job_over")
    if day is not None and day < actor.today:
        raise BadInput("week.day_has_passed", field="lesson")
    if group_id is not None and (day is None or not context.calendar.lessons(day, day, group_id=str(group_id))):
        raise BadInput("week.no_lesson_on_day", field="lesson")
    if carer and day is None:
        day = max(task.from_day, actor.today)
    tasks.give(
        connection, task_id, day=day, group_id=group_id, carer=carer, why="Set by hand.", by_hand=True, anew=True
    )


def leave_to_rules(connection: Connection[Any], context: Context, task_id: UUID, *, today: date) -> None:
    """Let the rules find a place for a job that somebody had set; all the others stay where they are."""
    task = _held(connection, context, task_id, today)
    if task.status != "open":
        raise BadInput("week.job_over")
    _share(connection, context, [task], today)


def share_out(connection: Connection[Any], context: Context, *, today: date) -> int:
    """Share all open jobs of plantings out anew, from today on; what somebody set stays. Return how many changed.

    Routines keep their lessons, and take their time there.
    """
    hold_garden(connection, context, Actor(None, today))
    return _share(connection, context, None, today)


def _share(connection: Connection[Any], context: Context, only: list[Task] | None, today: date) -> int:
    """Match jobs to lessons: all that may move, or some of them only."""
    chosen = {task.id for task in only or ()}
    present = [
        t for t in tasks.tasks(connection, start=today, status="open") if max(t.to_day, t.on_day or t.to_day) >= today
    ]
    beds = {bed.id: bed.class_group_id for bed in garden.beds(connection)}
    planted = garden.plantings(connection)
    plantings = {p.id: p.class_group_id for p in planted}
    crops, can = {p.id: context.crops[p.crop] for p in planted}, class_skills.asker(context)
    found = job_matching.match(
        [
            replace(
                _job(
                    t,
                    beds,
                    plantings,
                    today,
                    moves=t.id in chosen if only is not None else t.planting_id is not None and not t.hand_set,
                ),
                able=can(t.step, crops.get(t.planting_id) if t.planting_id else None, t.from_day),
            )
            for t in present
        ],
        context.calendar,
        names=context.group_names(today),
    )
    changed = 0
    for task, match in zip(present, found, strict=True):
        if match.job.fixed or (not chosen and task.hand_set):
            continue
        day = match.lesson.day if match.lesson else match.job.from_day if match.carer else None
        group = UUID(match.lesson.group_id) if match.lesson else None
        if (task.on_day, task.class_group_id, task.carer) == (day, group, match.carer) and not chosen:
            continue
        tasks.give(connection, task.id, day=day, group_id=group, carer=match.carer, why=match.why, anew=bool(chosen))
        changed += 1
    return changed


def _job(
    task: Task, beds: dict[UUID, UUID | None], plantings: dict[UUID, UUID | None], today: date, *, moves: bool
) -> Job:
    """A job as the matching sees it: with its window from today on, or in the lesson where it stays."""
    adopted = (plantings.get(task.planting_id) if task.planting_id else None) or (
        beds.get(task.bed_id) if task.bed_id else None
    )
    fixed = None if moves else (task.on_day or task.from_day, str(task.class_group_id))
    start = max(task.from_day, today)
    last = max(start, task.to_day)
    return Job(str(task.id), start, last, task.minutes, str(adopted) if adopted else None, fixed, lapses=task.lapses)
