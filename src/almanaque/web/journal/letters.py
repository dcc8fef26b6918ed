"""Journal: letters to classes that are away; written by an educator, read by whoever has the address."""

from datetime import date
from typing import Annotated, Any
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Request, Response
from pydantic import BaseModel

from almanaque.commands.journal import letters as commands
from almanaque.core.errors import BadInput
from almanaque.core.journal import letters as core
from almanaque.core.journal.letters import Letter
from almanaque.store import errors
from almanaque.store.accounts import audit
from almanaque.store.journal import letters, photos
from almanaque.web import forms, frame, links, security, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.week import pdf_pages

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]


@router.get("/journal/letters")
def page(scope: Look, group: str = "") -> Response:
    with scope.open() as work:
        groups = _groups(work)
        chosen = group if group in dict(groups) else (groups[0][0] if groups else "")
        form = {"group": chosen, "since": "", "greeting": "", "task": "", "notes": ""}
        if chosen:
            form["since"] = commands.since_when(work.connection, UUID(chosen), work.today).isoformat()
            form["task"] = commands.suggested_task(work.connection, work.context, UUID(chosen), work.today)
            form["greeting"] = f"Dear {dict(groups)[chosen]}, this is how your garden is doing while you are away."
        return _page(work, form)


class LetterForm(BaseModel):
    """What the form sends, as it was typed."""

    group: str = ""
    since: str = ""
    greeting: str = ""
    task: str = ""
    notes: str = ""
    action: str = "look"


@router.post("/journal/letters")
def write(scope: Plan, sent: Annotated[LetterForm, Form()]) -> Response:
    """Look at the letter, or keep it and get its address."""
    form = {"group": sent.group, "since": sent.since, "greeting": sent.greeting, "task": sent.task, "notes": sent.notes}
    try:
        with scope.open() as work:
            letter, day = _compose(work, form)
            if sent.action != "send":
                return _page(work, form, letter=letter)
            token = security.new_token()
            commands.send(
                work.connection,
                work.context,
                uuid4(),
                forms.row_id(sent.group),
                letter,
                since=day,
                today=work.today,
                token_hash=security.token_hash(token),
                now=scope.clock.now(),
                by=scope.visitor.account_id,
            )
            audit.note(work.connection, work.context.school.id, scope.visitor.account_id, "letter published")
            return _page(work, form, letter=letter, made=links.address(scope.request, f"/letter/{token}"))
    except BadInput as error:
        with scope.open() as work:
            return _page(work, form, error=error, status=422)


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


def _compose(work: UnitOfWork, form: dict[str, str]) -> tuple[Letter, date]:
    group_id, since = forms.row_id(form["group"]), parse_day(form["since"], field="since")
    letter = commands.compose(
        work.connection,
        work.context,
        group_id,
        since=since,
        today=work.today,
        greeting=form["greeting"],
        task=form["task"],
        with_notes=bool(form["notes"]),
    )
    return letter, since


def _groups(work: UnitOfWork) -> list[tuple[str, str]]:
    names = work.context.group_names(work.today)
    return [(str(g.id), names[str(g.id)]) for g in work.context.groups_on(work.today)]


def _page(
    work: UnitOfWork,
    form: dict[str, str],
    *,
    letter: Letter | None = None,
    made: str = "",
    error: BadInput | None = None,
    status: int = 200,
) -> Response:
    values: dict[str, Any] = {
        "groups": _groups(work),
        "form": form,
        "letter": letter,
        "made": made,
        "error": error.message if error else "",
        "photo_base": "/journal/photos",
        "letters": [
            {
                "id": str(k.id),
                "group": k.content["group"],
                "days": words.span(k.from_day, k.to_day),
                "until": words.short_day(k.expires_at.date()),
            }
            for k in letters.letters(work.connection)
        ],
    }
    return frame.page(work, "journal", "Letters to classes", values, template="journal/letters.html", status=status)
