"""Journal: the whole garden by a link, who has one and until when, and what came back from home."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel, Field

from almanaque.commands.journal import home_answers
from almanaque.commands.journal import open_gardens as commands
from almanaque.commands.journal.open_gardens import OpenGardenWish
from almanaque.core.errors import BadInput
from almanaque.core.journal import home_tasks
from almanaque.store.accounts import audit
from almanaque.store.garden import garden
from almanaque.store.journal import home_answers as home_store
from almanaque.store.journal import open_gardens as store
from almanaque.store.journal import photos
from almanaque.store.journal.open_gardens import Audience, OpenGarden
from almanaque.store.school import turn_of_year
from almanaque.web import forms, frame, links, security, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
GREETING = "This is how the garden is doing while you are away."
# What stands for the greeting, for whom the usual one does not suit, until somebody writes their own.
OTHER_GREETINGS: Mapping[str, str] = {
    "partners": "Thank you for helping our garden.",
    "kitchen": "This is what our garden can bring you.",
}
USUAL_GREETINGS = {GREETING, *OTHER_GREETINGS.values()}
LOOKS_BACK = timedelta(days=42)  # how far a page compares, unless said otherwise: our own choice
LASTS = timedelta(days=120)
FOR_ALL: tuple[tuple[Audience, str], ...] = (
    ("families", "families"),
    ("everybody", "everybody"),
    ("partners", "partners and donors: a page of thanks"),
    ("kitchen", "kitchen and stall: what comes, and what they ask for"),
)
MOST_SHOWN = 8  # photos of a bed to choose from, newest first


@router.get("/journal/open")
def page(scope: Look, group: str = "") -> Response:
    with scope.open() as work:
        return _page(work, _begun(work, group))


class OpenGardenForm(BaseModel):
    """What the form sends, as it was typed. `audience` is one of `FOR_ALL`, or a class; each of `tasks` a bed and a task's key."""

    audience: str = "families"
    greeting: str = ""
    since: str = ""
    until: str = ""
    tasks: list[str] = Field(default_factory=list)
    photos: list[str] = Field(default_factory=list)
    ballot: str = ""


@router.post("/journal/open")
def make(scope: Plan, form: Annotated[OpenGardenForm, Form()]) -> Response:
    """Make a link and show it once."""
    try:
        with scope.open() as work:
            token = security.new_token()
            commands.make(
                work.connection,
                work.context,
                uuid4(),
                _wish(form),
                token_hash=security.token_hash(token),
                now=scope.clock.now(),
                today=work.today,
                by=scope.visitor.account_id,
            )
            audit.note(work.connection, work.context.school.id, scope.visitor.account_id, "open garden published")
            return _page(work, form, made=links.address(scope.request, f"/open/{token}"))
    except BadInput as error:
        with scope.open() as work:
            return _page(work, form, error=error, status=422)


@router.post("/journal/open/{garden_id}/end")
def end(scope: Plan, garden_id: UUID) -> Response:
    """Let a link lead nowhere from now on."""
    with scope.open() as work:
        store.end(work.connection, garden_id)
        audit.note(work.connection, work.context.school.id, scope.visitor.account_id, "open garden ended")
        return frame.go(work, "/journal/open")


class FromHomeForm(BaseModel):
    """The answers of a task that were shown, and which of them are ticked."""

    shown: list[str] = Field(default_factory=list)
    ticked: list[str] = Field(default_factory=list)


@router.post("/journal/open/answers")
def decide(scope: Plan, form: Annotated[FromHomeForm, Form()]) -> Response:
    """Let the ticked answers into the journal and delete the others that were shown."""
    with scope.open() as work:
        assert scope.visitor.account_id is not None
        shown, ticked = ([forms.row_id(text) for text in each] for each in (form.shown, form.ticked))
        home_answers.let_in(
            work.connection,
            work.context,
            [one for one in ticked if one in shown],
            by=scope.visitor.account_id,
            now=scope.clock.now(),
            today=work.today,
        )
        home_store.refuse(work.connection, [one for one in shown if one not in ticked])
        return frame.go(work, "/journal/open")


@router.get("/journal/open/answers/{answer_id}/photo")
def held_photo(scope: Plan, answer_id: UUID) -> Response:
    """The photo of an answer that waits."""
    with scope.open() as work:
        body = home_store.photo(work.connection, answer_id).picture
    return Response(body, media_type="image/jpeg", headers={"Cache-Control": "private, max-age=600"})


def _begun(work: UnitOfWork, group: str) -> OpenGardenForm:
    """The form as it opens: a task that suits each bed, no photo chosen."""
    suggested = commands.suggested_tasks(work.connection, work.context, today=work.today)
    known = {str(g.id) for g in work.context.groups_on(work.today)}
    return OpenGardenForm(
        audience=group if group in known or group == "kitchen" else "families",
        greeting=OTHER_GREETINGS.get(group, GREETING),
        since=(work.today - LOOKS_BACK).isoformat(),
        until=(work.today + LASTS).isoformat(),
        tasks=[f"{bed_id} {task.key}" for bed_id, task in suggested.items()],
    )


def _wish(form: OpenGardenForm) -> OpenGardenWish:
    audience: Audience = next((key for key, _ in FOR_ALL if key == form.audience), "class")
    tasks = dict(text.split(" ", 1) for text in form.tasks if " " in text)
    return OpenGardenWish(
        audience,
        forms.row_id(form.audience) if audience == "class" else None,
        OTHER_GREETINGS.get(audience, GREETING) if form.greeting.strip() in USUAL_GREETINGS else form.greeting,
        parse_day(form.since, field="since"),
        parse_day(form.until, field="until"),
        {forms.row_id(bed): key for bed, key in tasks.items() if key},
        [forms.row_id(photo) for photo in form.photos],
        forms.optional_id(form.ballot),
    )


@dataclass(frozen=True)
class OpenLinkView(View):
    """A link that leads somewhere."""

    id: str
    whose: str
    until: str


@dataclass(frozen=True)
class OpenChoicesView(View):
    """What can be chosen for a bed: a task, and photos one by one."""

    id: str
    name: str
    tasks: list[tuple[str, str, bool]]
    photos: list[tuple[str, str, bool]]


@dataclass(frozen=True)
class HeldAnswerView(View):
    """An answer that waits."""

    id: str
    words: str
    pictured: bool


@dataclass(frozen=True)
class HeldTaskView(View):
    """Answers to a task that wait, and what they come to."""

    title: str
    told: str
    answers: list[HeldAnswerView]


@dataclass(frozen=True)
class OpenGardensView(View):
    """What `journal/open_gardens.html` is given."""

    audiences: list[tuple[str, str]]
    form: OpenGardenForm
    beds: list[OpenChoicesView]
    links: list[OpenLinkView]
    held: list[HeldTaskView]
    ballots: list[tuple[str, str]]
    made: str
    qr: tuple[str, int] | None
    error: str
    error_field: str


def _page(
    work: UnitOfWork, form: OpenGardenForm, *, made: str = "", error: BadInput | None = None, status: int = 200
) -> Response:
    names = work.context.group_names(work.today)
    groups = [(str(g.id), names[str(g.id)]) for g in work.context.groups_on(work.today)]
    view = OpenGardensView(
        audiences=[*FOR_ALL, *groups],
        form=form,
        beds=_choices(work, form),
        links=[
            OpenLinkView(
                id=str(link.id),
                whose=_whose(link, names),
                until=f"{words.short_day(link.until)} {link.until.year}",
            )
            for link in store.open_gardens(work.connection)
        ],
        held=[
            HeldTaskView(
                title=words.joined([one.task.title, one.bed]),
                told=" ".join(one.told),
                answers=[
                    HeldAnswerView(id=str(a.id), words=_answer_words(a), pictured=a.pictured) for a in one.answers
                ],
            )
            for one in home_answers.waiting(work.connection)
        ],
        ballots=[(str(b.id), b.name) for b in turn_of_year.ballots(work.connection) if b.closed_on is None],
        made=made,
        qr=links.qr_path(made) if made else None,
        error=error.message if error else "",
        error_field=error.field if error else "",
    )
    title = "The garden for those who are away"
    return frame.page(work, "journal", title, view, template="journal/open_gardens.html", status=status)


def _whose(link: OpenGarden, names: dict[str, str]) -> str:
    return names.get(str(link.class_group_id), "a class") if link.audience == "class" else link.audience


def _answer_words(answer: home_store.HeldAnswer) -> str:
    said = answer.said
    counted = f"{said.counted:g}" if said.counted is not None else ""
    parts = [words.short_day(answer.sent_on), "done" if said.done else "", counted, said.vote, said.line]
    return words.joined([part for part in parts if part])


def _choices(work: UnitOfWork, form: OpenGardenForm) -> list[OpenChoicesView]:
    chosen, ticked = set(form.tasks), set(form.photos)
    pictures = photos.photos(work.connection, until=work.today, limit=1000)
    found = []
    for bed in garden.beds(work.connection):
        mine = [p for p in pictures if p.bed_id == bed.id][:MOST_SHOWN]
        found.append(
            OpenChoicesView(
                id=str(bed.id),
                name=bed.name,
                tasks=[
                    (f"{bed.id} {task.key}", task.title, f"{bed.id} {task.key}" in chosen) for task in home_tasks.TASKS
                ],
                photos=[(str(p.id), _photo_words(p.caption, p.noted_on), str(p.id) in ticked) for p in mine],
            )
        )
    return found


def _photo_words(caption: str, day: date) -> str:
    return words.joined([part for part in (words.short_day(day), caption) if part])
