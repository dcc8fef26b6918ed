"""All schools of a person side by side: what this week has in each, and the way into one."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Depends, Response

from almanaque.commands import context as contexts
from almanaque.commands.week.carer_rounds import ahead
from almanaque.core.school.school_year import week_of
from almanaque.store.accounts import accounts
from almanaque.store.accounts.accounts import SchoolChoice
from almanaque.web import frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.week.carer_rounds import gaps
from almanaque.web.week.week_page import ready, week_view

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
MOST_READY = 4


@dataclass(frozen=True)
class SchoolWeek:
    """A school's week in short; `lessons` are (day, words), each with the jobs of that lesson."""

    choice: SchoolChoice
    here: bool
    summary: str
    lessons: list[tuple[str, str, str]]
    facts: list[str]


@router.get("/schools")
def schools(scope: Look) -> Response:
    """The schools of the account behind this session, and of no other, each read in a transaction of its own."""
    with scope.database.transaction() as connection:
        choices = accounts.schools(connection, scope.token_hash)
    # One after the other: whoever waits for a second connection while holding one can wait for ever.
    shown = [_week(scope, choice) for choice in choices]
    with scope.open() as work:
        return frame.page(work, "schools", "Your schools", {"schools": shown}, template="week/all_schools.html")


def _week(scope: RequestScope, choice: SchoolChoice) -> SchoolWeek:
    with scope.database.school(choice.school_id) as connection:
        context = contexts.load(connection)
        today = scope.clock.today(context.school.zone)
        return _short(
            UnitOfWork(scope, connection, context, today, today, ""),
            choice,
            here=choice.school_id == scope.visitor.school_id,
        )


def _short(work: UnitOfWork, choice: SchoolChoice, *, here: bool) -> SchoolWeek:
    monday = week_of(work.today)[0]
    found = week_view(work, monday)
    lessons = [
        (
            day.title,
            f"{lesson.at} {lesson.name}",
            _jobs(len(lesson.jobs), sum(job.status == "done" for job in lesson.jobs)),
        )
        for day in found.days
        for lesson in day.lessons
    ]
    picked = [f"{item.crop}, {item.bed}" for item in ready(work)]
    more = f" and {len(picked) - MOST_READY} more" if len(picked) > MOST_READY else ""
    open_rounds = gaps(work, ahead(work.connection, work.context, work.today))
    facts = [
        f"Ready to pick: {'; '.join(picked[:MOST_READY])}{more}." if picked else "",
        f"{words.count(len(found.nobody), 'job')} nobody has yet." if found.nobody else "",
        f"{words.count(len(found.left_over), 'job')} left from earlier weeks." if found.left_over else "",
        f"Carers' rounds: {open_rounds}." if open_rounds else "",
    ]
    return SchoolWeek(choice, here, found.summary, lessons, [fact for fact in facts if fact])


def _jobs(number: int, done: int) -> str:
    if not number:
        return "free"
    return words.joined([words.count(number, "job"), f"{done} done" if done else ""])
