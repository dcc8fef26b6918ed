"""The phone in the garden: one page over a snapshot, with or without a signal, and what it sends when it can."""

import json
from datetime import date, datetime
from functools import cache
from pathlib import Path
from typing import Annotated, Any
from uuid import UUID

import structlog
from fastapi import APIRouter, Depends, Form, Request, Response
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse
from pydantic import BaseModel, Field

from almanaque import __version__
from almanaque.commands.harvest import pickings
from almanaque.commands.harvest.pickings import AtHand
from almanaque.commands.journal import phone, photos, tour
from almanaque.commands.journal.photos import Sent
from almanaque.commands.journal.tour import TourStop
from almanaque.core.errors import CoreError
from almanaque.core.harvest.picking import USES, unit_choices
from almanaque.core.journal import sightings
from almanaque.core.units import format_length
from almanaque.formats.journal import photo as photo_format
from almanaque.store import errors
from almanaque.store.week import tasks
from almanaque.store.week.tasks import Task
from almanaque.web import forms, frame, security, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may

router = APIRouter()
Note = Annotated[RequestScope, Depends(may("note"))]
SCRIPTS = Path(__file__).parents[1] / "static/js"
MOST_AT_ONCE = 50
OUR_FAULT = (
    "The server could not take this one; that was our fault. It stays on the phone: "
    "write it down on paper too, and tell whoever runs the server."
)
log = structlog.get_logger()
# What the page needs without a signal, besides itself.
SHELL = (
    "bootstrap",
    "alpine",
    "icons",
    "css/tokens.css",
    "css/frame.css",
    "css/phone.css",
    "icon.svg",
    "js/phone_queue.js",
    "js/phone.js",
)


class Parcel(BaseModel):
    """Entries from a phone, with the account and school that they belong to."""

    account: UUID
    school: UUID
    entries: list[Any] = Field(max_length=MOST_AT_ONCE)


@router.get("/field")
def to_field() -> Response:
    return RedirectResponse("/field/", status_code=308)


@router.get("/field/")
def page() -> Response:
    """The page itself: the same for everybody, so that a phone may keep it. What is in it comes with the snapshot."""
    return HTMLResponse(frame.templates().get_template("journal/phone.html").render())


@router.get("/field/worker.js")
def service_worker() -> Response:
    """The script that keeps the page on the phone; it changes with any file that it keeps."""
    return Response(_worker(), media_type="text/javascript", headers={"Cache-Control": "no-cache"})


@router.get("/field/manifest.webmanifest")
def manifest() -> Response:
    """What a phone needs to know to put the page on its home screen."""
    icon = {"src": frame.static("icon.svg"), "sizes": "any", "type": "image/svg+xml"}
    told = {
        "name": "Almanaque in the garden",
        "short_name": "Garden",
        "start_url": "/field/",
        "scope": "/field/",
        "display": "standalone",
        "background_color": "#f4f6f1",
        "theme_color": "#f4f6f1",
        "icons": [icon],
    }
    return JSONResponse(told, media_type="application/manifest+json")


@router.get("/field/snapshot")
def snapshot(scope: Note) -> Response:
    """The garden as a phone needs it for a tour, pickings and jobs."""
    with scope.open() as work:
        return JSONResponse(_snapshot(work))


@router.post("/field/sync")
def sync(scope: Note, sent: Parcel) -> Response:
    """Take entries, each in a transaction of its own, and say of each what became of it."""
    assert scope.visitor.account_id is not None
    if (sent.account, sent.school) != (scope.visitor.account_id, scope.visitor.school_id):
        return JSONResponse(
            {
                "results": [
                    {"id": _id(e), "is": "waiting", "words": "It waits for the login and school it belongs to."}
                    for e in sent.entries
                ]
            }
        )
    return JSONResponse(
        {"results": [_take(scope, scope.visitor.account_id, entry) for entry in sorted(sent.entries, key=_noted)]}
    )


@router.post("/field/photos")
@security.takes(size=photo_format.MOST_BYTES + security.FORM_BYTES)
def photo(
    scope: Note,
    request: Request,
    id: Annotated[str, Form()] = "",
    account: Annotated[str, Form()] = "",
    school: Annotated[str, Form()] = "",
    noted_at: Annotated[str, Form()] = "",
    noted_on: Annotated[str, Form()] = "",
    bed: Annotated[str, Form()] = "",
    planting: Annotated[str, Form()] = "",
    caption: Annotated[str, Form()] = "",
) -> Response:
    """Take one photo."""
    assert scope.visitor.account_id is not None
    if (account, school) != (str(scope.visitor.account_id), str(scope.visitor.school_id)):
        return JSONResponse({"id": id, "is": "waiting", "words": "It waits for the login and school it belongs to."})
    name, body = forms.file(request.state.form.get("file"))
    try:
        with scope.open() as work:
            sent = Sent(
                forms.row_id(id),
                body,
                name,
                forms.optional_id(bed),
                forms.optional_id(planting),
                caption,
                forms.optional_day(noted_on, field="noted_on") or work.today,
                _instant(noted_at, scope),
            )
            photos.keep(work.connection, work.context, sent, by=scope.visitor.account_id, today=work.today)
    except (CoreError, errors.Refused, errors.NotFound, errors.IdTaken) as error:
        return JSONResponse({"id": id, "is": "refused", "words": str(error)})
    return JSONResponse({"id": id, "is": "kept", "words": ""})


def _take(scope: RequestScope, by: UUID, given: Any) -> dict[str, str]:
    try:
        entry = phone.read(given)
        with scope.open() as work:
            phone.take(work.connection, work.context, entry, by=by, today=work.today, now=scope.clock.now())
    except (CoreError, errors.Refused, errors.NotFound, errors.IdTaken, errors.Stale) as error:
        return {"id": _id(given), "is": "refused", "words": str(error)}
    except errors.StoreError:
        raise  # the database does not answer: all of it is sent again later
    except Exception as error:  # one that we cannot take must not hold up those behind it
        log.error("entry not taken", entry=_id(given), exc_info=error)
        return {"id": _id(given), "is": "refused", "words": OUR_FAULT}
    return {"id": _id(given), "is": "kept", "words": ""}


def _id(given: Any) -> str:
    return str(given.get("id", ""))[:40] if isinstance(given, dict) else ""


def _noted(given: Any) -> str:
    return str(given.get("noted_at", ""))[:40] if isinstance(given, dict) else ""


def _instant(text: str, scope: RequestScope) -> datetime:
    """When something was noted, by the phone; now for what is no instant or lies ahead."""
    now = scope.clock.now()
    try:
        found = datetime.fromisoformat(text)
    except ValueError:
        return now
    return min(found, now) if found.tzinfo else now


@cache
def _worker() -> str:
    """The worker's script with the list of what it keeps; its name changes whenever one of them does."""
    kept = ["/field/", *(frame.static(name) for name in SHELL), *frame.fonts()]
    head = f"const KEPT = {json.dumps(kept)};\nconst NAME = 'field-{__version__}-{frame.digest_of('/field/page', *kept)}';\n"
    return head + (SCRIPTS / "phone_worker.js").read_text(encoding="utf-8")


def _snapshot(work: UnitOfWork) -> dict[str, Any]:
    school, visitor = work.context.school, work.scope.visitor
    stops = tour.tour(work.connection, work.context, today=work.today)
    return {
        "today": work.today.isoformat(),
        "day": words.weekday_day(work.today),
        "token": security.form_token(work.scope.request),
        "school": {"id": str(school.id), "name": school.name},
        "account": {"id": str(visitor.account_id), "name": visitor.account_name},
        "stops": [_stop(work, stop) for stop in stops],
        "jobs": [_job(work, task) for task in _jobs_of_today(work)],
        "ready": [_ready(h) for h in pickings.at_hand(work.connection, work.context, work.today)],
        "groups": [{"id": key, "label": name} for key, name in work.context.group_names(work.today).items()],
        "units": list(unit_choices(work.context.crops, school.units)),
        "uses": list(USES),
        "lengths": "in" if school.units == "us" else "cm",
        "troubles": {kind: list(names) for kind, names in sightings.TROUBLES.items()},
        "parts": list(sightings.PARTS),
        "severity": [{"key": key, "label": label} for key, label in sightings.SEVERITY.items()],
        "visitors": list(sightings.VISITORS),
        "stages": list(sightings.STAGES),
        "teams": sorted({t.name for g in work.context.groups_on(work.today) for t in g.teams}),
    }


def _stop(work: UnitOfWork, stop: TourStop) -> dict[str, Any]:
    units = work.context.school.units
    last = stop.last
    return {
        "id": str(stop.bed.id),
        "name": stop.bed.name,
        "purpose": stop.bed.purpose,
        "last": f"Last seen {words.short_day(last.day)}: {sightings.say(last, units)}" if last else "",
        "questions": [
            {
                "key": tour.key(q),
                "code": q.code,
                "subject": q.subject,
                "planting": q.planting,
                "title": q.title,
                "detail": q.detail,
                "ask": q.ask,
                "answers": [{"key": a.key, "label": a.label} for a in q.answers],
                "given": given,
            }
            for q, given in stop.asked
        ],
        "plantings": [
            {
                "id": str(here.planting.id),
                "name": here.name,
                "where": here.where,
                "expect": format_length(here.height_mm, units, feet=False) if here.height_mm else "",
            }
            for here in stop.here
        ],
        "jobs": [_job(work, task) for task in stop.jobs],
    }


def _ready(h: AtHand) -> dict[str, Any]:
    signs = {
        h.crop.part: (h.crop.ready_sign, h.crop.how_to_pick),
        **{part: (p.sign, p.how) for part, p in h.crop.parts.items()},
    }
    return {
        "id": str(h.planting.id),
        "label": f"{h.crop.name.en}, {h.bed.name}",
        "sign": h.crop.ready_sign,
        "how": h.crop.how_to_pick,
        "units": h.units,
        "parts": h.parts,
        "signs": {part: f"Ready: {sign}. {how}" for part, (sign, how) in signs.items()},
        "taps": [{"key": f"{amount} {unit}", "amount": amount, "unit": unit} for amount, unit in h.taps],
        "ask": h.ask_above,
        "stays": h.crop.life == "perennial",
    }


def _job(work: UnitOfWork, task: Task) -> dict[str, Any]:
    names = work.context.group_names(work.today)
    who = names.get(str(task.class_group_id), "") if task.class_group_id else "carers" if task.carer else "nobody yet"
    return {
        "id": str(task.id),
        "title": task.title,
        "who": who,
        "when": words.weekday_day(task.on_day or task.from_day),
        "bed": task.bed_name or "",
        "minutes": task.minutes,
        "caution": task.caution,
        "status": "partly" if task.part_done_on == work.today else task.status,
    }


def _jobs_of_today(work: UnitOfWork) -> list[Task]:
    """Jobs due today, and those of the last week that were left."""
    found = tasks.tasks(work.connection, start=date.fromordinal(work.today.toordinal() - 7), end=work.today)
    return [t for t in found if t.status == "open" or t.done_on == work.today]
