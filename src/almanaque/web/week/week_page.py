"""Week: lessons by day with their jobs, the weather, what to sow before the next break, and what to come back to."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Form, Response

from almanaque.commands.context import Context
from almanaque.commands.week import jobs
from almanaque.commands.week import lessons as lesson_commands
from almanaque.commands.week.carer_rounds import ahead
from almanaque.commands.week.reminders import come_back
from almanaque.commands.week.watering import watering
from almanaque.core.growth.growth_dates import ready_until
from almanaque.core.school import classes
from almanaque.core.school.school_year import Lesson, week_of
from almanaque.core.year.steps import SERIES
from almanaque.store.garden import garden
from almanaque.store.place import weather
from almanaque.store.week import tasks
from almanaque.store.week.tasks import Task, TaskStatus
from almanaque.web import frame, words
from almanaque.web.htmx import HtmxRequest
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.still_missing import still_missing
from almanaque.web.week import weather_picture as weather_picture
from almanaque.web.week.before_break import before_break
from almanaque.web.week.carer_rounds import gaps
from almanaque.web.week.lessons import Suggested, suggested
from almanaque.web.week.rain_plan import rainy
from almanaque.web.week.stations import station_notes
from almanaque.web.week.water import summary
from almanaque.web.week.weather_notes import weather_notes

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
MOST_LEFT_OVER = 12


@dataclass(frozen=True)
class LessonView:
    key: str
    at: str
    name: str
    words: str
    jobs: list[Task]
    cautions: list[str]
    offer: Suggested | None
    passed: bool
    class_page_for: str
    on: str


@dataclass(frozen=True)
class DayView:
    title: str
    today: bool
    note: str
    lessons: list[LessonView]
    others: list[Task]


@dataclass(frozen=True)
class WeekView:
    """A week as the page shows it: days with lessons and jobs, what nobody has, what is left from before."""

    title: str
    summary: str
    days: list[DayView]
    nobody: list[Task]
    left_over: list[Task]
    previous: date
    following: date
    names: dict[str, str]


@dataclass(frozen=True)
class Ready:
    bed_id: str
    bed: str
    crop: str
    words: str


@router.get("/")
@router.get("/week")
def week(scope: Look, shared: str = "", only: str = "") -> Response:
    """The week; with a class's id its own lessons only."""
    with scope.open() as work:
        monday = week_of(work.day)[0]
        shown = week_view(work, monday, only)
        over = week_of(work.day)[-1] < work.today  # of a week that is over, nothing is asked for any more
        readings = weather.days(
            work.connection, work.context.school.weather_source, work.day - timedelta(days=6), min(work.day, work.today)
        )
        values = {
            "week": shown,
            "only": only if only in shown.names else "",
            "rainy": rainy(work, [job for day in shown.days for lesson in day.lessons for job in lesson.jobs]),
            "weather": weather_picture.draw(readings, units=work.context.school.units),
            "weather_source": work.context.school.weather_source,
            "before_break": before_break(work),
            "shared": _shared(shared),
            "missing": still_missing(work) if scope.may("calendar") and not over else [],
            "come_back": come_back(work.connection, work.context, work.day),
            "ready": ready(work),
            "weather_notes": weather_notes(work, readings),
            "station_notes": [] if over else station_notes(work),
            "water": "" if over else _water(work),
            "rounds": "" if over else gaps(work, ahead(work.connection, work.context, work.day)),
        }
        return frame.page(work, "week", "This week in the garden", values)


def _shared(text: str) -> str:
    """What sharing the jobs out anew has changed, in a sentence; empty when it was not asked for."""
    if not text.isdigit() or len(text) > 6:
        return ""
    changed = int(text)
    return (
        f"{words.count(changed, 'job')} found another lesson." if changed else "Every job is where it belongs already."
    )


def _water(work: UnitOfWork) -> str:
    found = watering(work.connection, work.context, work.day, today=work.today)
    return summary(work, found) if found.beds else ""


@router.post("/tasks/{task_id}")
def tick(
    scope: Annotated[RequestScope, Depends(may("tick"))],
    htmx: HtmxRequest,
    task_id: UUID,
    status: Annotated[TaskStatus, Form()] = "done",
    day: Annotated[str, Form()] = "",
) -> Response:
    """Tick a job off or open it again; the answer is that job alone, or the week."""
    with scope.open() as work:
        jobs.tick(work.connection, work.context, task_id, status, parse_day(day) if day else work.today, work.actor())
        if htmx.part:
            return frame.part(work, "week/_job.html", {"job": tasks.task(work.connection, task_id)})
        return frame.go(work, "/week")


def week_view(work: UnitOfWork, monday: date, only: str = "") -> WeekView:
    """The week from a Monday on, in the room's school; of one class only, when `only` is its id."""
    context = work.context
    days = week_of(monday)
    found = tasks.tasks(work.connection, start=days[0], end=days[-1])
    lessons = context.calendar.lessons(days[0], days[-1])
    all_names = context.group_names(monday)
    if only in all_names:
        lessons = [lesson for lesson in lessons if lesson.group_id == only]
        found = [t for t in found if str(t.class_group_id) == only]
    given = [t for t in found if t.on_day is not None and days[0] <= t.on_day <= days[-1] and t.status != "not needed"]
    nobody = [t for t in found if t.on_day is None and t.status == "open"]
    heads = {str(group.id): group.head_count for group in context.groups}
    flags = {str(g.id): classes.flag_words([(f.kind, f.what) for f in g.flags]) for g in context.groups}
    names = all_names
    to_come = [lesson for lesson in lessons if lesson.day >= work.today]
    offered = lesson_commands.offered(work.connection, context, to_come, found)
    offers = {key: suggested(work, *key, offer) for key, offer in offered.items()}
    views = []
    for day in days:
        that_day = [t for t in given if t.on_day == day]
        in_lessons = [lesson for lesson in lessons if lesson.day == day]
        groups = {lesson.group_id for lesson in in_lessons}
        if day.weekday() >= 5 and not that_day:
            continue
        views.append(
            DayView(
                title=words.weekday(day),
                today=day == work.today,
                note=_day_note(context, day, bool(in_lessons)),
                lessons=[
                    _lesson_view(
                        lesson,
                        that_day,
                        names,
                        heads,
                        flags[lesson.group_id],
                        offers.get((day, lesson.group_id), []),
                        passed=day < work.today,
                    )
                    for lesson in in_lessons
                ],
                others=[t for t in that_day if str(t.class_group_id) not in groups],
            )
        )
    done = sum(t.status == "done" for t in given)
    summary = words.joined(
        [
            words.span(days[0], days[4]),
            f"week {number} of school" if (number := context.calendar.week_number(monday)) else "",
            words.count(len(lessons), "lesson"),
            f"{words.count(len(given), 'job')}, {done} done",
        ]
    )
    title = "This week in the garden" if work.today in days else f"The week of {words.short_day(monday)}"
    return WeekView(
        title,
        summary,
        views,
        nobody,
        [] if only in all_names else _left_over(work, monday),
        monday - timedelta(days=7),
        monday + timedelta(days=7),
        {str(g.id): all_names[str(g.id)] for g in context.groups_on(monday)},
    )


def _left_over(work: UnitOfWork, monday: date) -> list[Task]:
    """Open jobs of earlier weeks, the latest first; what comes again by itself is not held against anyone."""
    earlier = tasks.tasks(work.connection, end=monday - timedelta(days=1), status="open")
    passed = [
        t
        for t in earlier
        if (t.on_day or t.to_day) < monday and t.routine is None and t.step not in SERIES and not t.lapses
    ]
    return sorted(passed, key=lambda t: t.on_day or t.to_day, reverse=True)[:MOST_LEFT_OVER]


def _lesson_view(
    lesson: Lesson,
    that_day: Iterable[Task],
    names: dict[str, str],
    heads: dict[str, int],
    flags: list[str],
    offers: list[Suggested],
    *,
    passed: bool,
) -> LessonView:
    own = [t for t in that_day if str(t.class_group_id) == lesson.group_id]
    beds = sorted({t.bed_name for t in own if t.bed_name})
    free = lesson.minutes - sum(t.minutes for t in own)
    facts = [", ".join(beds), f"{heads[lesson.group_id]} children", f"{lesson.minutes} min"]
    if own and free < 0:
        facts.append(f"{-free} min too full")
    return LessonView(
        f"{lesson.day.isoformat()}|{lesson.group_id}",
        words.clock(lesson.starts_at),
        names[lesson.group_id],
        words.joined(facts),
        own,
        [*_cautions(own), *flags],
        offers[0] if offers else None,
        passed,
        "" if passed else lesson.group_id,
        lesson.day.isoformat(),
    )


def _cautions(jobs: Iterable[Task]) -> list[str]:
    """What can hurt someone in these jobs, each said once."""
    return list(dict.fromkeys(job.caution for job in jobs if job.caution and job.status == "open"))


def _day_note(context: Context, day: date, lessons: bool) -> str:
    half = context.calendar.half_day(day)
    if context.calendar.in_session(day) and half is not None:
        return f"Half day, until {words.clock(half)}"
    if not context.calendar.children_here(day):
        year = context.calendar.year_of(day)
        closed = next((c.name for c in year.closures if day in c), "") if year else ""
        return f"No school{': ' + closed if closed else ''}"
    return "" if lessons else "No garden lessons"


def ready(work: UnitOfWork) -> list[Ready]:
    """What can be picked on the day shown, or within the week."""
    beds = {bed.id: bed.name for bed in garden.beds(work.connection)}
    present = garden.plantings(work.connection, since=work.day, until=work.day)
    found = []
    for planting in present:
        crop = work.context.crops[planting.crop]
        if planting.dates is None or planting.status != "in the ground":
            continue
        picked = planting.events.get("first picking")
        until = ready_until(crop, planting.dates, first_picked=picked, day=work.day)
        if until is not None:
            found.append(
                Ready(
                    str(planting.bed_id),
                    beds[planting.bed_id],
                    crop.name.en,
                    f"{crop.ready_sign}; until about {words.short_day(until)}",
                )
            )
    return found
