"""Journal: letters to classes that are away; written by an educator, read by whoever has the address."""

from dataclasses import dataclass
from typing import Annotated, Literal
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Request, Response
from pydantic import BaseModel, Field

from almanaque.commands.journal import letters as commands
from almanaque.commands.journal.letters import LetterWish
from almanaque.core.errors import BadInput
from almanaque.core.journal import letters as core
from almanaque.core.journal.letters import Letter
from almanaque.store import errors
from almanaque.store.accounts import audit
from almanaque.store.journal import letters, photos
from almanaque.web import forms, frame, links, security, seen, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View
from almanaque.web.week import pdf_pages

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
ALL = "all"
MOST_TO_CHOOSE = 40  # photos to choose from, newest first


class LetterForm(BaseModel):
    """What the form sends, as it was typed. `group` is a class, or `all`; `was` the one that the rest was suggested for."""

    group: str = ""
    was: str = ""
    since: str = ""
    greeting: str = ""
    task: str = ""
    notes: str = ""
    photos: list[str] = Field(default_factory=list)
    draft: str = ""
    seen: str = ""
    action: Literal["look", "send", "draft"] = "look"


@router.get("/journal/letters")
def page(scope: Look, group: str = "", draft: str = "") -> Response:
    """A letter that begins, or a draft as it was left."""
    with scope.open() as work:
        if draft:
            kept = letters.draft(work.connection, forms.row_id(draft))
            form = {**kept.form, "draft": str(kept.id), "seen": seen.fingerprint(kept.form)}
            return _page(work, LetterForm.model_validate(form))
        known = [key for key, _ in _groups(work)]
        return _page(work, _suggested(work, group if group in known else known[0]))


@router.post("/journal/letters")
def write(scope: Plan, sent: Annotated[LetterForm, Form()]) -> Response:
    """Look at the letter, keep it as a draft, or make it and get its address."""
    form = sent
    try:
        with scope.open() as work:
            form = _for_this_class(work, sent)
            if form.action == "draft":
                draft_id = forms.row_id(form.draft) if form.draft else uuid4()
                kept = form.model_dump(exclude={"action", "draft", "seen"})
                known = letters.hold_draft(work.connection, draft_id)
                if known is not None:
                    seen.still(form.seen, lambda: seen.fingerprint(known.form), "The draft")
                letters.keep_draft(work.connection, work.context.school.id, draft_id, kept, by=scope.visitor.account_id)
                return frame.go(work, "/journal/letters", draft=str(draft_id))
            wish = _wish(form)
            letter = commands.compose(work.connection, work.context, wish, today=work.today)
            if form.action == "look":
                return _page(work, form, letter=letter)
            token = security.new_token()
            commands.send(
                work.connection,
                work.context,
                uuid4(),
                letter,
                wish,
                today=work.today,
                token_hash=security.token_hash(token),
                now=scope.clock.now(),
                by=scope.visitor.account_id,
            )
            if form.draft:
                letters.delete_draft(work.connection, forms.row_id(form.draft))
            audit.note(work.connection, work.context.school.id, scope.visitor.account_id, "letter published")
            made = links.address(scope.request, f"/letter/{token}")
            return _page(work, form.model_copy(update={"draft": ""}), letter=letter, made=made)
    except BadInput as error:
        with scope.open() as work:
            return _page(work, form, error=error, status=422)


@router.post("/journal/letters/drafts/{draft_id}/delete")
def drop_draft(scope: Plan, draft_id: UUID) -> Response:
    with scope.open() as work:
        letters.delete_draft(work.connection, draft_id)
        return frame.go(work, "/journal/letters")


@router.post("/journal/letters/{letter_id}/delete")
def take_back(scope: Plan, letter_id: UUID) -> Response:
    with scope.open() as work:
        letters.delete(work.connection, letter_id)
        return frame.go(work, "/journal/letters")


@router.post("/journal/letters/{letter_id}/pdf")
def as_pdf(scope: Look, letter_id: UUID) -> Response:
    """Ask for a letter as a PDF."""
    with scope.open() as work:
        letter = core.read(letters.letter(work.connection, letter_id).content)
        paper = pdf_pages.usual_paper(work)
        part = frame.paper_part(
            work,
            "journal/letter_paper.html",
            f"A letter to {letter.group}",
            {"letter": letter, "photo_base": "/journal/photos"},
            paper=paper,
        )
        job_id = pdf_pages.ask(work, f"A letter to {letter.group}", [part], paper=paper)
        return frame.go(work, f"/prints/{job_id}")


@router.get("/letter/{secret}")
def read(request: Request, secret: str) -> Response:
    """The letter for whoever has its address."""
    letter, _ = _found(request, secret)
    return frame.bare_page(
        request, "journal/letter_public.html", {"letter": letter, "photo_base": f"/letter/{secret}/photos"}
    )


@router.get("/letter/{secret}/photos/{photo_id}")
def letter_photo(request: Request, secret: str, photo_id: UUID) -> Response:
    """A photo of the letter; no other one."""
    _, (school_id, allowed) = _found(request, secret)
    if photo_id not in allowed:
        raise errors.NotFound("That photo does not belong to this letter.")
    with request.app.state.database.school(school_id) as connection:
        body = photos.picture(connection, photo_id, "picture")
    return Response(body, media_type="image/jpeg", headers={"Cache-Control": "private, max-age=86400"})


def _found(request: Request, secret: str) -> tuple[Letter, tuple[UUID, list[UUID]]]:
    database = request.app.state.database
    with database.transaction() as connection:
        where = letters.find(connection, security.token_hash(secret))
    if where is None:
        raise errors.NotFound("This letter has ended or was taken back. Ask the school for a new one.")
    with database.school(where[0]) as connection:
        kept = letters.letter(connection, where[1])
    return core.read(kept.content), (where[0], kept.photos)


def _wish(form: LetterForm) -> LetterWish:
    return LetterWish(
        None if form.group == ALL else forms.row_id(form.group),
        parse_day(form.since, field="since"),
        form.greeting,
        form.task,
        bool(form.notes),
        frozenset(forms.row_id(photo) for photo in form.photos),
    )


def _suggested(work: UnitOfWork, group: str) -> LetterForm:
    """The form as it opens for a class, or for all."""
    group_id = None if group == ALL else forms.row_id(group)
    name = dict(_groups(work)).get(group, "")
    return LetterForm(
        group=group,
        was=group,
        since=commands.since_when(work.connection, group_id, work.today).isoformat(),
        greeting=f"Dear {name if group_id else 'families and friends'}, this is how the garden is doing while you are away.",
        task=commands.suggested_task(work.connection, work.context, group_id, work.today),
    )


def _for_this_class(work: UnitOfWork, sent: LetterForm) -> LetterForm:
    """The form for the class that is chosen in it now: what was only suggested for another one is suggested anew."""
    known = [key for key, _ in _groups(work)]
    if sent.group == sent.was or sent.was not in known or sent.group not in known:
        return sent
    before, now = _suggested(work, sent.was), _suggested(work, sent.group)
    anew = {
        name: getattr(now, name)
        for name in ("since", "greeting", "task")
        if _plain(getattr(sent, name)) == _plain(getattr(before, name))
    }
    return sent.model_copy(update={**anew, "was": sent.group})


def _plain(text: str) -> str:
    return " ".join(text.split())


def _groups(work: UnitOfWork) -> list[tuple[str, str]]:
    names = work.context.group_names(work.today)
    return [*((str(g.id), names[str(g.id)]) for g in work.context.groups_on(work.today)), (ALL, "everybody")]


@dataclass(frozen=True)
class SentLetterView(View):
    """A letter that can be read."""

    id: str
    group: str
    days: str
    until: str


@dataclass(frozen=True)
class LettersView(View):
    """What `journal/letters.html` is given."""

    groups: list[tuple[str, str]]
    form: LetterForm
    choices: list[tuple[str, str, bool]]
    letter: Letter | None
    made: str
    error: str
    error_field: str
    photo_base: str
    letters: list[SentLetterView]
    drafts: list[tuple[str, str]]


def _page(
    work: UnitOfWork,
    form: LetterForm,
    *,
    letter: Letter | None = None,
    made: str = "",
    error: BadInput | None = None,
    status: int = 200,
) -> Response:
    names = dict(_groups(work))
    view = LettersView(
        groups=_groups(work),
        form=form,
        choices=_photos(work, form),
        letter=letter,
        made=made,
        error=error.message if error else "",
        error_field=error.field if error else "",
        photo_base="/journal/photos",
        letters=[
            SentLetterView(
                id=str(k.id),
                group=k.content["group"],
                days=words.span(k.from_day, k.to_day),
                until=f"{words.short_day(last)} {last.year}",
            )
            for k in letters.letters(work.connection)
            for last in [k.to_day + commands.LASTS]
        ],
        drafts=[(str(d.id), names.get(d.form.get("group", ""), "a class")) for d in letters.drafts(work.connection)],
    )
    return frame.page(work, "journal", "Letters to classes", view, template="journal/letters.html", status=status)


def _photos(work: UnitOfWork, form: LetterForm) -> list[tuple[str, str, bool]]:
    """Photos to choose from, one by one: none is in a letter unless it was ticked."""
    try:
        found = commands.photos_to_choose(work.connection, _wish(form), today=work.today)
    except BadInput:
        return []
    ticked = set(form.photos)
    return [
        (str(p.id), words.joined([words.short_day(p.noted_on), p.bed_name, p.caption]), str(p.id) in ticked)
        for p in found[:MOST_TO_CHOOSE]
    ]
