"""Week: the school's own list of curriculum codes, what was covered of it by class, subject and term, and what this week could cover."""

from dataclasses import dataclass
from datetime import timedelta
from typing import Annotated

from fastapi import APIRouter, Depends, Form, Response, UploadFile

from almanaque.commands.week import lessons as lesson_commands
from almanaque.core.errors import BadInput
from almanaque.core.school import classes
from almanaque.core.school.school_year import week_of
from almanaque.core.week import standards as rules
from almanaque.formats.confined import confined
from almanaque.formats.school import standards_csv
from almanaque.store.week import lessons, tasks
from almanaque.store.week import standards as store
from almanaque.web import forms, frame, security, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
MOST_MISSING = 30  # codes that are named in a line: our own choice


@dataclass(frozen=True)
class CoveredRow:
    """A class and a subject: covered in each term, in the year, and what is missing."""

    who: str
    subject: str
    terms: list[str]
    year: str
    share: float
    missing: str


@dataclass(frozen=True)
class CouldCover:
    """A lesson of this week for a class, and the codes that it would cover."""

    when: str
    who: str
    key: str
    title: str
    codes: str


@dataclass(frozen=True)
class StandardLine:
    """A code of the list with the lessons that cover it."""

    code: str
    words: str
    subject: str
    grades: str
    lessons: list[tuple[str, str]]


@dataclass(frozen=True)
class StandardsView(View):
    """What `week/standards.html` is given."""

    year: str
    terms: list[str]
    covered: list[CoveredRow]
    could: list[CouldCover]
    lines: list[StandardLine]
    said: str
    error: str


@router.get("/week/standards")
def page(scope: Look, said: str = "") -> Response:
    with scope.open() as work:
        return _page(work, said=said[:300])


@router.get("/week/standards.csv")
def as_csv(scope: Look) -> Response:
    """The list as it can be brought in again."""
    with scope.open() as work:
        text = standards_csv.write(store.standards(work.connection))
    headers = {"Content-Disposition": 'attachment; filename="standards.csv"'}
    return Response(text.encode(), media_type="text/csv; charset=utf-8", headers=headers)


@router.post("/week/standards")
@security.takes(size=standards_csv.MOST_BYTES + security.FORM_BYTES)
def bring_in(scope: Plan, file: UploadFile | None = None, only: Annotated[str, Form()] = "") -> Response:
    """Take a list of codes in; lessons keep those that stay."""
    try:
        name, body = forms.file(file)
        rows = confined(standards_csv.read)(body, name)
        with scope.open() as work:
            store.put(work.connection, work.context.school.id, rows, only=only == "1")
            return frame.go(work, "/week/standards", said=f"{words.count(len(rows), 'code')} taken in.")
    except BadInput as error:
        with scope.open() as work:
            return _page(work, error=error)


@router.post("/week/lessons/{key}/standards")
def attach(scope: Plan, key: str, codes: Annotated[str, Form()] = "") -> Response:
    """Say which codes a lesson covers."""
    with scope.open() as work:
        lesson_commands.outline(work.connection, key)
        known = [row.code for row in store.standards(work.connection)]
        store.attach(work.connection, work.context.school.id, key, rules.read_codes(codes, known))
        return frame.go(work, f"/week/lessons/{key}")


def _page(work: UnitOfWork, *, said: str = "", error: BadInput | None = None) -> Response:
    rows, attached = store.standards(work.connection), store.of_lessons(work.connection)
    year = work.context.calendar.year_of(work.day)
    terms = list(year.terms) if year else []
    titles = {key: lesson.title for key, lesson in lesson_commands.outlines(work.connection).items()}
    by_code: dict[str, list[tuple[str, str]]] = {}
    for key, codes in attached.items():
        for code in codes:
            by_code.setdefault(code, []).append((key, titles.get(key, key)))
    view = StandardsView(
        year=year.name if year else "",
        terms=[term.name for term in terms],
        covered=_covered(work, rows, attached) if year else [],
        could=_could(work, attached),
        lines=[StandardLine(r.code, r.words, r.subject, r.grades, by_code.get(r.code, [])) for r in rows],
        said=said,
        error=error.message if error else "",
    )
    status = 422 if error else 200
    return frame.page(work, "week", "Standards", view, template="week/standards.html", status=status)


def _covered(work: UnitOfWork, rows: list[rules.Standard], attached: dict[str, list[str]]) -> list[CoveredRow]:
    context, day = work.context, work.day
    year = context.calendar.year_of(day)
    assert year is not None
    terms = [(term.starts, term.ends) for term in year.terms]
    # What was held between two terms counts to the one before.
    spans = [
        (starts, terms[n + 1][0] - timedelta(days=1) if n + 1 < len(terms) else year.ends)
        for n, (starts, _) in enumerate(terms)
    ]
    held = [(h.lesson, str(h.class_group_id), h.on_day) for h in lessons.held(work.connection, year.starts, year.ends)]
    grades = {
        str(g.id): classes.grade_on(g.cohort, day, context.calendar, context.school.grades)
        for g in context.groups_on(day)
    }
    numbered = {
        key: None if grade is None else grade + context.school.grades.first_number for key, grade in grades.items()
    }
    names = context.group_names(day)
    return [
        CoveredRow(
            names.get(one.group, "a class"),
            one.subject or "without a subject",
            [str(len(codes)) for codes in one.by_term],
            f"{one.covered} of {one.of}",
            round(100 * one.covered / one.of) if one.of else 0,
            ", ".join(one.missing[:MOST_MISSING]) + (" …" if len(one.missing) > MOST_MISSING else ""),
        )
        for one in rules.coverage(rows, attached, held, numbered, spans)
    ]


def _could(work: UnitOfWork, attached: dict[str, list[str]]) -> list[CouldCover]:
    """What this week's jobs could cover: the outlines that are offered for them, with their codes."""
    days = week_of(work.day)
    slots = work.context.calendar.lessons(days[0], days[-1])
    found = lesson_commands.offered(
        work.connection, work.context, slots, tasks.tasks(work.connection, start=days[0], end=days[-1])
    )
    names = work.context.group_names(work.day)
    return [
        CouldCover(
            f"{words.weekday(slot.day)} {words.clock(slot.starts_at)}",
            names[slot.group_id],
            offer.lesson.key,
            offer.lesson.title,
            ", ".join(attached[offer.lesson.key]),
        )
        for slot in slots
        for offer in found[slot.day, slot.group_id]
        if attached.get(offer.lesson.key)
    ]
