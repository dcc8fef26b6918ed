"""Jobs: what the rules ask for, who has it, and what became of it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, Literal
from uuid import UUID, uuid5

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.core.week.jobs import Assignment, Load
from almanaque.store import errors
from almanaque.store.sql import load

SQL = load("week/tasks")

TaskStatus = Literal["open", "done", "not needed"]


@dataclass(frozen=True)
class Task:
    id: UUID
    planting_id: UUID | None
    routine: str | None
    step: str
    ordinal: int
    bed_id: UUID | None
    title: str
    caution: str
    from_day: date
    to_day: date
    on_day: date | None
    class_group_id: UUID | None
    carer: bool
    why: str
    minutes: int
    status: TaskStatus
    done_on: date | None
    hand_set: bool
    part_done_on: date | None
    minutes_taken: int | None
    amount: str
    note: str
    lapses: bool
    bed_name: str | None


def tasks(
    connection: Connection[Any],
    *,
    start: date | None = None,
    end: date | None = None,
    planting_id: UUID | None = None,
    status: TaskStatus | None = None,
) -> list[Task]:
    """Jobs that fall between two days by the day they were done, are given to, or may be done."""
    parameters = {"task": None, "planting": planting_id, "start": start, "end": end, "status": status}
    return connection.cursor(row_factory=class_row(Task)).execute(SQL["tasks"], parameters).fetchall()


def task(connection: Connection[Any], task_id: UUID) -> Task:
    parameters = {"task": task_id, "planting": None, "start": None, "end": None, "status": None}
    found = connection.cursor(row_factory=class_row(Task)).execute(SQL["tasks"], parameters).fetchone()
    if found is None:
        raise errors.NotFound("There is no such job in this school.")
    return found


def hold(connection: Connection[Any], task_id: UUID) -> None:
    """Let nobody else change a job until the transaction ends."""
    connection.execute("SELECT FROM task WHERE id = %s FOR UPDATE", [task_id])


def told(connection: Connection[Any], task_id: UUID, *, at: datetime | None) -> bool:
    """Note when somebody said what became of a job, now if not given; False when a later word is known already."""
    return connection.execute(SQL["told"], {"task": task_id, "at": at}).fetchone() is not None


def save_assignments(
    connection: Connection[Any], school_id: UUID, assignments: Sequence[Assignment], *, planting_id: UUID, bed_id: UUID
) -> None:
    """Bring a planting's jobs to what the rules ask for; finished and hand-set ones stay as they are."""
    # The identity makes the id, so that whoever computes it first or again means the same job.
    by_id = {uuid5(planting_id, f"{given.step.step}/{given.step.ordinal}"): given for given in assignments}
    for task_id in sorted(
        by_id
    ):  # in one order, so that two who write the same jobs wait for each other and never both
        _save(
            connection, school_id, by_id[task_id], task_id=task_id, planting_id=planting_id, routine=None, bed_id=bed_id
        )
    keep = [f"{given.step.step}/{given.step.ordinal}" for given in assignments]
    connection.execute(SQL["drop_open_tasks"], {"planting": planting_id, "keep": keep})


def save_routine(
    connection: Connection[Any], school_id: UUID, given: Assignment, *, routine: str, bed_id: UUID | None
) -> None:
    """Write one job of a routine, such as feeding the worms."""
    task_id = uuid5(school_id, f"{routine}/{given.step.step}/{given.step.ordinal}")
    _save(connection, school_id, given, task_id=task_id, planting_id=None, routine=routine, bed_id=bed_id)


def _save(
    connection: Connection[Any],
    school_id: UUID,
    given: Assignment,
    *,
    task_id: UUID,
    planting_id: UUID | None,
    routine: str | None,
    bed_id: UUID | None,
) -> None:
    step = given.step
    connection.execute(
        SQL["save_task"],
        {
            **vars(step),
            "school_id": school_id,
            "id": task_id,
            "planting_id": planting_id,
            "routine": routine,
            "bed_id": bed_id,
            "on_day": given.on_day,
            "carer": given.carer,
            "why": given.why,
            "class_group_id": UUID(given.group_id) if given.group_id else None,
        },
    )


def of_beds(connection: Connection[Any], kinds: Sequence[str]) -> list[Task]:
    """Jobs of beds as a whole that are over, done or not needed, of some kinds, the oldest first."""
    return connection.cursor(row_factory=class_row(Task)).execute(SQL["of_beds"], {"kinds": list(kinds)}).fetchall()


def drop_of_beds(connection: Connection[Any], kinds: Sequence[str], keep: Sequence[UUID]) -> None:
    """Take out open jobs of beds as a whole that nobody has touched and that are wanted no more."""
    connection.execute(SQL["drop_of_beds"], {"kinds": list(kinds), "keep": list(keep)})


def work_load(connection: Connection[Any], *, start: date, without: UUID) -> Load:
    """Minutes already given to the lessons from a day on, so that new work goes where there is time."""
    rows = connection.execute(SQL["load"], {"start": start, "planting": without}).fetchall()
    return Load(
        {(day, str(group)): minutes for day, group, minutes, _ in rows},
        {(day, str(group)): lapsing for day, group, _, lapsing in rows if lapsing},
    )


def give(
    connection: Connection[Any],
    task_id: UUID,
    *,
    day: date | None,
    group_id: UUID | None,
    carer: bool,
    why: str,
    by_hand: bool = False,
    anew: bool = False,
) -> None:
    """Let an open job be done on a day, by a class, by carers or by nobody yet. One set by hand stays unless it is set `anew`."""
    connection.execute(
        SQL["give"],
        {"task": task_id, "day": day, "group": group_id, "carer": carer, "why": why, "by_hand": by_hand, "anew": anew},
    )


def tell(
    connection: Connection[Any],
    task_id: UUID,
    *,
    part_done_on: date | None,
    minutes: int | None,
    amount: str,
    note: str,
) -> None:
    """Note how long a job took, how much it was, what there was to say, and that it was done in part."""
    connection.execute(
        SQL["tell"], {"task": task_id, "part": part_done_on, "minutes": minutes, "amount": amount, "note": note}
    )


def set_status(
    connection: Connection[Any], task_id: UUID, status: TaskStatus, *, day: date | None, by: UUID | None
) -> tuple[UUID | None, str]:
    """Mark a job; return the planting and the step it belongs to."""
    row = connection.execute(SQL["set_status"], {"task": task_id, "status": status, "day": day, "by": by}).fetchone()
    if row is None:
        raise errors.NotFound("There is no such job in this school.")
    return row[1], row[2]
