"""Which classes can do which step, remembered while jobs are shared out."""

from collections.abc import Callable
from datetime import date

from almanaque.commands.context import Context
from almanaque.core.crops.crop import Crop
from almanaque.core.school import classes
from almanaque.core.week import class_skills
from almanaque.core.year import tending
from almanaque.data import tending as table
from almanaque.store.school.school import Group

CanDo = Callable[[str, Crop | None, date], frozenset[str] | None]


def asker(context: Context) -> CanDo:
    """A function from step, crop and day to the ids of the groups that can do it; None when all of them can."""
    known: dict[tuple[str, str, object], frozenset[str] | None] = {}

    def ask(step: str, crop: Crop | None, day: date) -> frozenset[str] | None:
        year = context.calendar.year_of(day)
        key = (step, crop.key if crop else "", year.name if year else day.year)
        if key not in known:
            here = context.groups_on(day)
            can = frozenset(str(g.id) for g in here if _can(context, g, step, crop, day))
            known[key] = None if len(can) == len(here) else can
        return known[key]

    return ask


def _can(context: Context, group: Group, step: str, crop: Crop | None, day: date) -> bool:
    grade = classes.grade_on(group.cohort, day, context.calendar, context.school.grades)
    return class_skills.able(
        step,
        crop,
        age=None if grade is None else grade + classes.AGE_OF_FIRST_GRADE - 1,
        children=group.head_count,
        practice=tending.known(step, crop, table()) if crop is not None else None,
        not_handled=[f.what for f in group.flags if f.kind == "may not handle"],
    )
