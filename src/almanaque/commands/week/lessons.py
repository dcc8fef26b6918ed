"""Lessons for the classes of a week: the outlines a school has, what is due for whom, and what was held."""

from collections.abc import Iterable, Mapping
from datetime import date, timedelta
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.errors import BadInput
from almanaque.core.school import classes
from almanaque.core.school.school_year import Lesson as Slot
from almanaque.core.week import lesson_outlines as core
from almanaque.core.week.lesson_outlines import Due, LessonOutline, Offer
from almanaque.data import lessons as shipped
from almanaque.store import errors
from almanaque.store.garden import garden
from almanaque.store.week import lessons
from almanaque.store.week.lessons import Held
from almanaque.store.week.tasks import Task

YEAR, WEEK = timedelta(days=366), timedelta(days=7)


def outlines(connection: Connection[Any]) -> dict[str, LessonOutline]:
    """All outlines of the school by key, its own before those that ship."""
    # A step that a later version no longer knows must not take the whole list away.
    own = [
        {**row, "steps": [step for step in row.get("steps", ()) if step in core.BECAUSE]}
        for row in lessons.own(connection)
    ]
    return core.with_own(shipped(), [core.checked(row) for row in own])


def outline(connection: Connection[Any], key: str) -> LessonOutline:
    """One outline. Raises NotFound."""
    found = outlines(connection).get(key)
    if found is None:
        raise errors.NotFound("There is no such lesson in this school.")
    return found


def offered(
    connection: Connection[Any], context: Context, slots: Iterable[Slot], week: Iterable[Task]
) -> dict[tuple[date, str], list[Offer]]:
    """For each lesson of some days the outlines that suit it: by the jobs that its class has then, and the season."""
    wanted = list(slots)
    if not wanted:
        return {}
    known, jobs = list(outlines(connection).values()), list(week)
    first, last = min(slot.day for slot in wanted), max(slot.day for slot in wanted)
    crops = {p.id: context.crops[p.crop] for p in garden.plantings(connection, since=first - WEEK)}
    had = lessons.held(connection, first - YEAR, last)
    found = {}
    for slot in wanted:
        mine = [
            t
            for t in jobs
            if str(t.class_group_id) == slot.group_id and t.on_day == slot.day and t.status != "not needed"
        ]
        group = next((g for g in context.groups if str(g.id) == slot.group_id), None)
        grade = classes.grade_on(group.cohort, slot.day, context.calendar, context.school.grades) if group else None
        found[slot.day, slot.group_id] = core.offers(
            known,
            [_due(t, crops) for t in mine],
            month=slot.day.month,
            southern=context.school.southern,
            youngest=None if grade is None else grade + classes.AGE_OF_FIRST_GRADE - 1,
            minutes=slot.minutes,
            held={
                h.lesson
                for h in had
                if str(h.class_group_id) == slot.group_id and _same_year(context, h.on_day, slot.day)
            },
        )
    return found


def _due(task: Task, crops: Mapping[UUID, Any]) -> Due:
    crop = crops.get(task.planting_id) if task.planting_id else None
    return Due(task.step, crop.key, crop.name.en, crop.group) if crop else Due(task.routine or task.step)


def _same_year(context: Context, one: date, other: date) -> bool:
    return context.calendar.year_of(one) == context.calendar.year_of(other)


def save(connection: Connection[Any], context: Context, key: str, values: Mapping[str, object]) -> str:
    """Keep an outline, new (an empty key) or changed; return its key. Raises BadInput for what an outline cannot be."""
    title = str(values.get("title", ""))
    wanted = key or core.key_of(title, outlines(connection).keys())
    if key and key not in outlines(connection):
        raise errors.NotFound("There is no such lesson in this school.")
    # What the form does not ask for, such as a table for pupils, stays as it is.
    known = outlines(connection)[key].page.model_dump(mode="json") if key else {}
    page = {**known, **dict(values.get("page") or {})}  # type: ignore[call-overload]
    lesson = core.checked({**values, "page": page, "key": wanted})
    strange = [crop for crop in lesson.crops if crop not in context.crops]
    if strange:
        raise BadInput("week.no_such_crop", field="crops", crop=strange[0])
    lessons.save(connection, context.school.id, wanted, lesson.model_dump(mode="json", exclude={"key", "own"}))
    return wanted


def note_held(
    connection: Connection[Any], context: Context, key: str, group_id: UUID, day: date, *, today: date
) -> None:
    """Note that a class had a lesson. Raises BadInput for a day still to come, NotFound for a lesson or class that is not there."""
    outline(connection, key)
    if group_id not in {group.id for group in context.groups}:
        raise errors.NotFound("There is no such class in this school.")
    if day > today:
        raise BadInput("week.lesson_to_come", field="day")
    lessons.note_held(connection, context.school.id, Held(key, group_id, day))
