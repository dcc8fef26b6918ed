"""Week: lesson outlines, what suits which class this week, a lesson on one page, and lessons of the school's own."""

import re
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Form, Response

from almanaque.commands.week import lessons as commands
from almanaque.core.school.school_year import week_of
from almanaque.core.week.lesson_outlines import BECAUSE, LessonOutline
from almanaque.core.words.days import MONTH_NAMES
from almanaque.store.week import lessons, standards, tasks
from almanaque.store.week.lessons import Held
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Tick = Annotated[RequestScope, Depends(may("tick"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
BLANK = LessonOutline(key="new", title="New lesson", aim="--", doing=("--",))
LISTS = ("words", "materials", "crops", "groups")
FOR_PUPILS = ("tasks", "answers", "home")


@dataclass(frozen=True)
class Suggested:
    """An outline that suits a class's lesson of the week, with the reason."""

    href: str
    title: str
    why: str


@router.get("/week/lessons")
def page(scope: Look) -> Response:
    """The outlines that suit each class this week, and all of them."""
    with scope.open() as work:
        days = week_of(work.day)
        slots = work.context.calendar.lessons(days[0], days[-1])
        found = commands.offered(
            work.connection, work.context, slots, tasks.tasks(work.connection, start=days[0], end=days[-1])
        )
        names = work.context.group_names(work.day)
        values = {
            "week": [
                {
                    "when": f"{words.weekday(slot.day)} {words.clock(slot.starts_at)}",
                    "who": names[slot.group_id],
                    "offers": suggested(work, slot.day, slot.group_id, found[slot.day, slot.group_id]),
                }
                for slot in slots
            ],
            "all": [
                _row(lesson)
                for lesson in sorted(
                    commands.outlines(work.connection).values(), key=lambda lesson: (not lesson.own, lesson.title)
                )
            ],
            "facts": words.span(days[0], days[4]),
        }
        return frame.page(work, "week", "Lessons", values, template="week/lessons.html")


@router.get("/week/lessons/new")
def new(scope: Plan) -> Response:
    with scope.open() as work:
        return _form(work, BLANK, "")


@router.get("/week/lessons/{key}")
def one(scope: Look, key: str, group: str = "", on: str = "") -> Response:
    """A lesson on one page, for a class on a day if they are named."""
    with scope.open() as work:
        lesson = commands.outline(work.connection, key)
        day = parse_day(on, field="on") if on.strip() else work.today
        names = work.context.group_names(day)
        year = work.context.calendar.year_of(day)
        had = [
            h
            for h in lessons.held(work.connection, year.starts if year else day - timedelta(days=365), work.today)
            if h.lesson == key
        ]
        values = {
            "lesson": lesson,
            "about": _row(lesson),
            "group": group if group in names else "",
            "on": on.strip(),
            "who": names.get(group, ""),
            "day_words": words.weekday_day(day) if on.strip() else "",
            "held_on": min(day, work.today).isoformat(),
            "groups": [(str(g.id), names[str(g.id)]) for g in work.context.groups_on(day)],
            "codes": ", ".join(standards.of_lessons(work.connection).get(key, [])),
            "standards": standards.standards(work.connection),
            "had": [
                {
                    "who": names.get(str(h.class_group_id), "a class"),
                    "when": words.short_day(h.on_day),
                    "group": str(h.class_group_id),
                    "day": h.on_day.isoformat(),
                }
                for h in had
            ],
        }
        return frame.page(work, "week", lesson.title, values, template="week/lesson.html")


@router.get("/week/lessons/{key}/edit")
def edit(scope: Plan, key: str) -> Response:
    with scope.open() as work:
        return _form(work, commands.outline(work.connection, key), key)


@router.post("/week/lessons")
def save(scope: Plan) -> Response:
    """Keep a lesson of the school's own: a new one, or its version of one that ships."""
    form = scope.request.state.form
    typed = {name: str(value).strip() for name, value in form.items()}
    values: dict[str, object] = {
        name: typed.get(name, "")
        for name in ("title", "aim", "question", "notebook", "subject", "curriculum", "caution")
    }
    values |= {name: _listed(typed.get(name, "")) for name in LISTS}
    values["doing"] = _lines(typed.get("doing", ""))
    values["page"] = {name: _lines(typed.get(name, "")) for name in FOR_PUPILS}
    values["steps"] = [str(value) for value in form.getlist("steps")]
    values["months"] = [
        forms.whole(month, field="months", least=1, most=12, what="month") for month in _listed(typed.get("months", ""))
    ]
    values["minutes"] = forms.whole(
        typed.get("minutes", ""), field="minutes", least=5, most=180, what="minutes_of_outline"
    )
    values["ages_from"] = forms.whole(typed.get("ages_from", ""), field="ages_from", least=3, most=18, what="age")
    with scope.open() as work:
        key = commands.save(work.connection, work.context, typed.get("key", ""), values)
        return frame.go(work, f"/week/lessons/{key}")


@router.post("/week/lessons/{key}/delete")
def delete(scope: Plan, key: str) -> Response:
    with scope.open() as work:
        lessons.delete(work.connection, key)
        return frame.go(work, "/week/lessons")


@router.post("/week/lessons/{key}/held")
def held(
    scope: Tick,
    key: str,
    group: Annotated[str, Form()] = "",
    day: Annotated[str, Form()] = "",
    action: Annotated[str, Form()] = "note",
) -> Response:
    """Note that a class had this lesson, or take that back."""
    with scope.open() as work:
        group_id, on_day = forms.row_id(group), parse_day(day)
        if action == "forget":
            lessons.forget_held(work.connection, Held(key, group_id, on_day))
        else:
            commands.note_held(work.connection, work.context, key, group_id, on_day, today=work.today)
        return frame.go(work, f"/week/lessons/{key}")


def suggested(work: UnitOfWork, day: date, group_id: str, found: list[Any]) -> list[Suggested]:
    """Offers as links that carry the class and the day."""
    return [
        Suggested(
            frame.address(work, f"/week/lessons/{offer.lesson.key}", group=group_id, on=day.isoformat()),
            offer.lesson.title,
            offer.why,
        )
        for offer in found
    ]


@dataclass(frozen=True)
class LessonRowView(View):
    """Filled by `_row`, read by its template."""

    key: str
    title: str
    aim: str
    own: bool
    due: str
    facts: str


def _row(lesson: LessonOutline) -> LessonRowView:
    due = [BECAUSE[step] for step in lesson.steps] + (
        [", ".join(MONTH_NAMES[month - 1][:3] for month in lesson.months)] if lesson.months else []
    )
    return LessonRowView(
        key=lesson.key,
        title=lesson.title,
        aim=lesson.aim,
        own=lesson.own,
        due="; ".join(dict.fromkeys(due)),
        facts=words.joined(
            [f"{lesson.minutes} min", f"from age {lesson.ages_from}", lesson.subject, "your own" if lesson.own else ""]
        ),
    )


def _form(work: UnitOfWork, lesson: LessonOutline, key: str) -> Response:
    blank = not key
    values = {
        "lesson": lesson,
        "key": key,
        "blank": blank,
        "doing": "" if blank else "\n".join(lesson.doing),
        "for_pupils": {name: "\n".join(getattr(lesson.page, name)) for name in FOR_PUPILS},
        "lists": {name: ", ".join(getattr(lesson, name)) for name in LISTS},
        "months": ", ".join(str(month) for month in lesson.months),
        "steps": [(step, because, step in lesson.steps) for step, because in BECAUSE.items()],
    }
    return frame.page(
        work,
        "week",
        "A lesson of your own" if blank else f"Change “{lesson.title}”",
        values,
        template="week/lesson_form.html",
    )


def _lines(text: str) -> list[str]:
    """What was typed, a line each, without the marks that people put before lines."""
    return [line for line in (part.strip(" -•\t\r") for part in text.split("\n")) if line]


def _listed(text: str) -> list[str]:
    return [part.strip() for part in re.split(r"[,;\n]", text) if part.strip()]
