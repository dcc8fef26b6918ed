"""The jobs that follow from a planting, and who does them when.

A planting's steps have windows; a step becomes a job in a lesson that suits: the class that adopted the bed first, then
the class with the least to do. Where no lesson meets the window a carer is wanted, or nobody has it yet: it is shown,
never dropped.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, timedelta

from almanaque.core.crops import Crop, Method
from almanaque.core.growth import HARDEN_DAYS, GrowthDates
from almanaque.core.school_year import Calendar, Lesson
from almanaque.core.units import Units, format_length

WEEK = timedelta(days=7)
DAY = timedelta(days=1)
SERIES = ("keep moist", "picking")
SOIL_CAUTION = "Gloves or clean hands; wash hands after soil."


@dataclass(frozen=True)
class Step:
    """A job to be done from `from_day` to `to_day`. (step, ordinal) is its identity within its planting."""

    step: str
    ordinal: int
    title: str
    from_day: date
    to_day: date
    minutes: int
    caution: str = ""


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
    """Minutes of work already given to each lesson; kept by the caller across plantings so that work spreads fairly."""

    minutes: dict[tuple[date, str], int] = field(default_factory=dict)

    def at(self, lesson: Lesson) -> int:
        return self.minutes.get((lesson.day, lesson.group_id), 0)

    def add(self, lesson: Lesson, minutes: int) -> None:
        key = (lesson.day, lesson.group_id)
        self.minutes[key] = self.minutes.get(key, 0) + minutes


def steps(crop: Crop, method: Method, dates: GrowthDates, *, plants: int, squares: int, units: Units) -> Iterator[Step]:
    """The steps of a planting in the order of the work, in the school's units. **Source:** common practice, no source."""
    name = crop.name.en.lower()
    if method == "indoors":
        yield Step(
            "start indoors", 1, f"Sow {name} indoors: {plants} plants wanted", dates.start, dates.start + 6 * DAY, 25
        )
        harden = dates.bed_from - HARDEN_DAYS * DAY
        yield Step("harden off", 1, f"Harden off the {name}: outdoors by day", harden, dates.bed_from - DAY, 10)
    yield Step("prepare bed", 1, f"Prepare {_squares(squares)} for {name}: compost, water, string",
               dates.bed_from - WEEK, dates.bed_from - DAY, 25, SOIL_CAUTION)  # fmt: skip
    if method in ("indoors", "starts"):
        yield Step("transplant", 1, f"Set out {name}: {_places(plants)}, soil level as in the pot; water in",
                   dates.bed_from, dates.bed_from + 6 * DAY, 30, SOIL_CAUTION)  # fmt: skip
    else:
        verb = "Sow" if method == "direct" else "Set"
        yield Step("sow", 1, f"{verb} {name}: {_places(plants)}, {format_length(crop.depth_mm, units)} deep",
                   dates.bed_from, dates.bed_from + 6 * DAY, 30, SOIL_CAUTION)  # fmt: skip
    if method == "direct" and dates.emerge_to is not None:
        weeks = max(1, -(-(dates.emerge_to - dates.bed_from).days // 7))
        for week in range(weeks):
            begin = dates.bed_from + week * WEEK
            yield Step("keep moist", week + 1, f"Keep the {name} seedbed moist until it is up",
                       begin, min(begin + 6 * DAY, max(begin, dates.emerge_to)), 5)  # fmt: skip
    if method == "direct" and crop.thin_to_mm and dates.emerge_to is not None:
        yield Step(
            "thin",
            1,
            f"Thin {name} to {format_length(crop.thin_to_mm, units, feet=False)}",
            dates.emerge_to + 3 * DAY,
            dates.emerge_to + 16 * DAY,
            20,
        )
    if crop.support:
        yield Step("support", 1, f"Put up support for {name}", dates.bed_from + 10 * DAY, dates.bed_from + 24 * DAY, 25,
                   "Stakes and canes at eye height: cap the ends; an adult hammers.")  # fmt: skip
    if crop.picked == "once":
        yield Step("first picking", 1, f"Harvest {name}: {crop.ready_sign}",
                   dates.first_pick, dates.last_pick, 25, crop.caution)  # fmt: skip
    else:
        begin, ordinal = dates.first_pick, 1
        while begin <= dates.last_pick:
            yield Step("first picking" if ordinal == 1 else "picking", ordinal,
                       f"Pick {name}: {crop.ready_sign}", begin, min(begin + 6 * DAY, dates.last_pick), 15, crop.caution)  # fmt: skip
            begin, ordinal = begin + WEEK, ordinal + 1
    if crop.life != "perennial":
        yield Step(
            "clear", 1, f"Clear the {name}; roots to the compost", dates.last_pick, dates.clear_by, 20, SOIL_CAUTION
        )


def from_today(wanted: Iterable[Step], today: date) -> Iterator[Step]:
    """The steps that can still be done: no window begins before today.

    What is overdue is due today. A step of a series (keep moist, picking) that has passed is over; the next one follows.
    """
    for step in wanted:
        if step.to_day >= today:
            yield replace(step, from_day=max(step.from_day, today))
        elif step.step not in SERIES:
            yield replace(step, from_day=today, to_day=today)


def assign(
    wanted: Iterable[Step], calendar: Calendar, *, adopted_by: str | None, names: Mapping[str, str], load: Load
) -> list[Assignment]:
    """Give each step to a lesson in its window: the adopting class first, then the class with the least to do so far.

    `names` maps group ids to the names used in the explanation. `load` is added to.
    """
    return [_assign(step, calendar, adopted_by, names, load) for step in wanted]


def _assign(step: Step, calendar: Calendar, adopted_by: str | None, names: Mapping[str, str], load: Load) -> Assignment:
    lessons = calendar.lessons(step.from_day, step.to_day)
    own = [lesson for lesson in lessons if lesson.group_id == adopted_by]
    chosen = _least_loaded([lesson for lesson in own if _has_room(lesson, step, load)], load)
    why = "adopted this bed"
    if chosen is None:
        chosen = _least_loaded([lesson for lesson in lessons if _has_room(lesson, step, load)], load)
        why = "has the most time free in those days" if not own else "has time; the bed's own class is full"
    if chosen is not None:
        load.add(chosen, step.minutes)
        return Assignment(
            step, chosen.day, chosen.group_id, False, f"{names.get(chosen.group_id, 'This class')} {why}."
        )
    if calendar.days_here_between(step.from_day, step.to_day) == 0:
        return Assignment(step, step.from_day, None, True, "No school in those days: a carer is wanted.")
    return Assignment(step, None, None, False, "No lesson with time left in those days: nobody has it yet.")


def _has_room(lesson: Lesson, step: Step, load: Load) -> bool:
    return load.at(lesson) + step.minutes <= lesson.minutes


def _least_loaded(lessons: Sequence[Lesson], load: Load) -> Lesson | None:
    return min(lessons, key=lambda lesson: (load.at(lesson), lesson.day, lesson.starts_at), default=None)


def _places(count: int) -> str:
    return "1 plant" if count == 1 else f"{count} plants"


def _squares(count: int) -> str:
    return "1 square" if count == 1 else f"{count} squares"
