"""The page of a garden pass: jobs to tick, a note, a picking. No account, one class or carer, some days."""

from datetime import timedelta
from typing import Annotated
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Request, Response
from fastapi.responses import RedirectResponse
from pydantic import BaseModel

from almanaque.commands.accounts import passes
from almanaque.commands.harvest import pickings
from almanaque.commands.harvest.pickings import PickingWish
from almanaque.commands.week import carer_rounds as commands
from almanaque.commands.week import jobs
from almanaque.core.errors import BadInput
from almanaque.core.harvest.picking import USES, unit_choices
from almanaque.core.school import classes
from almanaque.store import errors
from almanaque.store.accounts import garden_passes
from almanaque.store.garden import garden
from almanaque.store.journal import journal_entries
from almanaque.store.week import carer_rounds, tasks
from almanaque.store.week.tasks import Task, TaskStatus
from almanaque.web import forms, frame, security, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.week import carer_rounds as rounds_room

router = APIRouter()
Pass = Annotated[RequestScope, Depends(may("pass"))]
DAYS_AHEAD, DAYS_BACK = 7, 14
HELD = timedelta(days=passes.MOST_DAYS)


@router.get("/p/{secret}")
def open_pass(request: Request, secret: str) -> Response:
    """Follow the link of a pass: from then on this browser holds it until it ends or is taken back. Nothing is written."""
    with request.app.state.database.transaction() as connection:
        opens = garden_passes.opens_at(connection, security.token_hash(secret))
    if opens is None:
        raise errors.NotFound("This garden pass has ended or was taken back. Ask the school for a new one.")
    if opens > request.app.state.clock.now():
        raise errors.NotFound("This garden pass does not open yet. Follow its link again on its first day.")
    response = RedirectResponse("/pass", status_code=303)
    security.set_cookie(response, request, security.PASS_COOKIE, secret, lasts=HELD)
    return response


@router.get("/pass")
def pass_page(scope: Pass, done: str = "") -> Response:
    with scope.open() as work:
        mine = _jobs(work)
        group = next((g for g in work.context.groups if g.id == scope.visitor.pass_group), None)
        names = work.context.group_names(work.today)
        beds = [(str(b.id), b.name) for b in garden.beds(work.connection)]
        values = {
            "form_token": security.form_token(scope.request),
            "label": scope.visitor.account_name,
            "school_name": work.context.school.name,
            "who": names[str(group.id)] if group else "carer",
            "day": words.long_day(work.today),
            "jobs": [
                {
                    "task": t,
                    "id": str(t.id),
                    "when": words.weekday_day(t.on_day or t.from_day),
                    "bed": t.bed_name or "",
                    "done": t.status == "done",
                }
                for t in mine
            ],
            "flags": classes.flag_words([(f.kind, f.what) for f in group.flags]) if group else [],
            "cautions": list(dict.fromkeys(t.caution for t in mine if t.caution and t.status == "open")),
            "beds": beds,
            "note_id": str(uuid4()),
            "picking_id": str(uuid4()),
            "ready": _ready(work),
            "units": unit_choices(work.context.crops, work.context.school.units),
            "uses": USES,
            "breaks": _rounds(work),
            "done": {
                "note": "The note is kept.",
                "picking": "The picking is in the book.",
                "round": "The round is yours. Thank you.",
                "walked": "Thank you: the round is ticked off.",
            }.get(done, ""),
            "demo": scope.clock.demo_day is not None,
        }
        return frame.bare_page(scope.request, "accounts/garden_pass.html", values)


@router.post("/pass/leave")
def leave(request: Request) -> Response:
    """Let this browser hold the pass no longer; its link opens it again as long as it lasts."""
    response = RedirectResponse("/login", status_code=303)
    security.drop_cookie(response, request, security.PASS_COOKIE)
    return response


@router.post("/pass/tasks/{task_id}")
def tick(scope: Pass, task_id: UUID, status: Annotated[TaskStatus, Form()] = "done") -> Response:
    """Tick one of this pass's own jobs off, or open it again."""
    with scope.open() as work:
        if task_id not in {t.id for t in _jobs(work)}:
            raise errors.NotFound("That job does not belong to this pass.")
        jobs.tick(work.connection, work.context, task_id, status, work.today, work.actor())
        garden_passes.sign(work.connection, "task", task_id, scope.visitor.pass_id if status == "done" else None)
    return RedirectResponse("/pass", status_code=303)


@router.post("/pass/notes")
def note(
    scope: Pass, id: Annotated[str, Form()] = "", bed: Annotated[str, Form()] = "", body: Annotated[str, Form()] = ""
) -> Response:
    with scope.open() as work:
        entry_id = forms.row_id(id)
        if not body.strip():
            raise BadInput("accounts.sighting_empty", field="body")
        journal_entries.save(
            work.connection,
            work.context.school.id,
            entry_id=entry_id,
            bed_id=forms.optional_id(bed),
            noted_on=work.today,
            body=body.strip(),
            come_back_on=None,
            by=None,
        )
        garden_passes.sign(work.connection, "journal_entry", entry_id, scope.visitor.pass_id)
    return RedirectResponse("/pass?done=note", status_code=303)


class PassPickingForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    planting: str = ""
    amount: str = ""
    unit: str = ""
    use: str = ""
    sure: str = ""


@router.post("/pass/pickings")
def pick(scope: Pass, form: Annotated[PassPickingForm, Form()]) -> Response:
    with scope.open() as work:
        wish = PickingWish(
            forms.row_id(form.id),
            forms.row_id(form.planting),
            form.amount,
            form.unit,
            forms.one_of(form.use, USES, field="use"),
            work.today,
            class_group_id=scope.visitor.pass_group,
            sure=form.sure == "1",
        )
        pickings.pick(work.connection, work.context, wish, work.actor())
        garden_passes.sign(work.connection, "harvest", wish.id, scope.visitor.pass_id)
    return RedirectResponse("/pass?done=picking", status_code=303)


@router.get("/pass/rounds/{week}/{ordinal}")
def round_sheet(scope: Pass, week: str, ordinal: int) -> Response:
    """The sheet of a round for the holder of a carer's pass."""
    with scope.open() as work:
        _for_carers(work)
        values = {
            **rounds_room.sheet_values(work, parse_day(week, field="week"), ordinal),
            "school_name": work.context.school.name,
        }
        return frame.bare_page(scope.request, "accounts/garden_pass_round.html", values)


@router.post("/pass/rounds/{week}/{ordinal}")
def take_round(scope: Pass, week: str, ordinal: int, action: Annotated[str, Form()] = "take") -> Response:
    """Take a round, tick it off or give it back; others' rounds are left alone."""
    with scope.open() as work:
        _for_carers(work)
        walk = commands.round_at(work.connection, work.context, parse_day(week, field="week"), ordinal)
        mine = scope.visitor.pass_id
        if action == "take":
            commands.take(
                work.connection, work.context, walk, work.today, by=scope.visitor.account_name[:80], pass_id=mine
            )
        elif action == "walked":
            said = rounds_room.read_walked(scope.request.state.form)
            commands.walked(work.connection, work.context, walk, said, work.actor(), pass_id=mine)
        elif action in ("offer", "keep"):
            carer_rounds.offer(work.connection, walk.week, ordinal, action == "offer", pass_id=mine)
        else:
            carer_rounds.give_back(work.connection, walk.week, ordinal, pass_id=mine)
    return RedirectResponse(
        {"take": "/pass?done=round", "walked": "/pass?done=walked"}.get(action, "/pass"), status_code=303
    )


def _for_carers(work: UnitOfWork) -> None:
    if work.scope.visitor.pass_group is not None:
        raise errors.NotFound("A class's pass has no rounds; those are for carers.")


def _rounds(work: UnitOfWork) -> list[tuple[str, list[rounds_room.RoundView]]]:
    """The rounds of the weeks to come, for a carer's pass."""
    if work.scope.visitor.pass_group is not None:
        return []
    found = commands.ahead(work.connection, work.context, work.today)
    return rounds_room.breaks(found, work.today, of=work.scope.visitor.pass_id)


def _jobs(work: UnitOfWork) -> list[Task]:
    """The jobs of the pass's class, or those that want a carer, from what is overdue to a week ahead."""
    group = work.scope.visitor.pass_group
    start, end = work.today - timedelta(days=DAYS_BACK), work.today + timedelta(days=DAYS_AHEAD)
    found = tasks.tasks(work.connection, start=start, end=end)
    mine = [t for t in found if (t.class_group_id == group if group else t.carer) and t.status != "not needed"]
    return [t for t in mine if t.status == "open" or t.done_on == work.today]


def _ready(work: UnitOfWork) -> list[tuple[str, str]]:
    """Plantings that can be picked today."""
    found = pickings.ready(work.connection, work.context, work.today)
    return [(str(p.id), f"{crop.name.en}, {bed.name}: {crop.ready_sign}") for p, crop, bed in found]
