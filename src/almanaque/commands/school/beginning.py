"""What a school begins with besides its garden: a year as it usually is, and its classes, each with a weekly lesson."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import time
from typing import Any
from uuid import uuid4

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.school import calendar
from almanaque.core.errors import BadInput
from almanaque.core.school.school_year import SchoolYear, Slot
from almanaque.store import queue
from almanaque.store.school import school
from almanaque.store.school.school import Group

LESSON_MINUTES = 45  # of a first lesson until somebody changes it: our own rule


@dataclass(frozen=True)
class StartingClass:
    """A class by the calendar year in which it entered, with the weekday (0 is Monday) and time of its lesson."""

    name: str
    entry_year: int
    head_count: int
    weekday: int
    at: time


def keep_usual_year(connection: Connection[Any], context: Context, year: SchoolYear) -> None:
    """Write a year that nobody has looked up. Raises BadInput where one is on file for some of its time: that one is known better."""
    school.hold(connection)
    known = next((y for y in school.years(connection) if y.starts <= year.ends and y.ends >= year.starts), None)
    if known is not None:
        raise BadInput("school.year_on_file", name=known.name)
    calendar.write_years(connection, context, [year])


def keep_classes(connection: Connection[Any], context: Context, classes: Sequence[StartingClass]) -> None:
    """Add classes with a lesson each; one whose year of entry has a class already is left as it is."""
    school.hold(connection)
    there = {group.entry_year for group in school.groups(connection) if group.kind == "class"}
    for one in classes:
        if one.entry_year in there:
            continue
        group_id = uuid4()
        group = Group(group_id, one.name, "class", one.entry_year, one.head_count, "", None, [], [], [])
        school.save_group(connection, context.school.id, group)
        slot = Slot(str(group_id), one.weekday, one.at, LESSON_MINUTES)
        school.save_slot(connection, context.school.id, uuid4(), slot)
    queue.recompute_school(connection, context.school.id)
