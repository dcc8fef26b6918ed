"""The jobs that follow from a planting, and who does them when.

A planting's steps have windows; a step becomes a job in a lesson that suits: the class that adopted the bed first, then
the class with the least to do. Where no lesson meets the window a carer is wanted, or nobody has it yet: it is shown,
never dropped.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date

from almanaque.core.school.school_year import Calendar, Lesson
from almanaque.core.year.steps import Step

LAPSING_SHARE = 0.5  # of a lesson, up to which tending that lapses is put into it: our own rule


@dataclass(frozen=True)
class Assignment:
    """Who does a step and when. No day means nobody yet; `why` explains the match in a line."""

    step: Step
    on_day: date | None
    group_id: str | None
    carer: bool
    why: str


@dataclass
class Load:
    """Minutes of work already given to each lesson; kept by the caller across plantings so that work spreads fairly.

    `lapsing` are those of them that are for what lapses when it is not done.
    """

    minutes: dict[tuple[date, str], int] = field(default_factory=dict)
    lapsing: dict[tuple[date, str], int] = field(default_factory=dict)

    def at(self, lesson: Lesson) -> int:
        return self.minutes.get((lesson.day, lesson.group_id), 0)

    def bound_at(self, lesson: Lesson) -> int:
        """Minutes of what must be done."""
        return self.at(lesson) - self.lapsing.get((lesson.day, lesson.group_id), 0)

    def add(self, lesson: Lesson, step: Step) -> None:
        key = (lesson.day, lesson.group_id)
        self.minutes[key] = self.minutes.get(key, 0) + step.minutes
        if step.lapses:
            self.lapsing[key] = self.lapsing.get(key, 0) + step.minutes


def assign(
    wanted: Iterable[Step],
    calendar: Calendar,
    *,
    adopted_by: str | None,
    names: Mapping[str, str],
    load: Load,
    able: Callable[[Step], frozenset[str] | None] = lambda _: None,
) -> list[Assignment]:
    """Give each step to a lesson in its window: the adopting class first, then the class with the least to do so far.

    `names` maps group ids to the names used in the explanation. `load` is added to. `able` says which
    classes can do a step, None for all.
    """
    return [_assign(step, calendar, adopted_by, names, load, able(step)) for step in wanted]


def _assign(
    step: Step,
    calendar: Calendar,
    adopted_by: str | None,
    names: Mapping[str, str],
    load: Load,
    able: frozenset[str] | None,
) -> Assignment:
    lessons = [x for x in calendar.lessons(step.from_day, step.to_day) if able is None or x.group_id in able]
    own = [lesson for lesson in lessons if lesson.group_id == adopted_by]
    chosen = _least_loaded([lesson for lesson in own if _has_room(lesson, step, load)], load)
    why = "adopted this bed"
    if chosen is None:
        chosen = _least_loaded([lesson for lesson in lessons if _has_room(lesson, step, load)], load)
        why = "has the most time free in those days" if not own else "has time; the bed's own class is full"
    if chosen is not None:
        load.add(chosen, step)
        return Assignment(
            step, chosen.day, chosen.group_id, False, f"{names.get(chosen.group_id, 'This class')} {why}."
        )
    if calendar.days_here_between(step.from_day, step.to_day) == 0:
        return Assignment(step, step.from_day, None, True, "No school in those days: a carer is wanted.")
    who = "class that can do it has a lesson" if able is not None else "lesson"
    return Assignment(step, None, None, False, f"No {who} with time left in those days: nobody has it yet.")


def _has_room(lesson: Lesson, step: Step, load: Load) -> bool:
    """What lapses when it is not done fills half a lesson at most, and gives way to what must be done."""
    if step.lapses:
        return load.at(lesson) + step.minutes <= lesson.minutes * LAPSING_SHARE
    return load.bound_at(lesson) + step.minutes <= lesson.minutes


def _least_loaded(lessons: Sequence[Lesson], load: Load) -> Lesson | None:
    return min(lessons, key=lambda lesson: (load.at(lesson), lesson.day, lesson.starts_at), default=None)
