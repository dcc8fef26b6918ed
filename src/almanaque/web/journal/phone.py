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
from almanaque.commands.journal.tour import Stop
from almanaque.core.errors import CoreError
from almanaque.core.harvest.picking import USES, unit_choices
from almanaque.core.journal import sightings
from almanaque.core.units import format_length
from almanaque.store import errors
from almanaque.store.week import tasks
from almanaque.store.week.tasks import Task
from almanaque.web import forms, frame, security, words
from almanaque.web.desk import Desk, Room, may

router = APIRouter()
Note = Annotated[Desk, Depends(may("note"))]
SCRIPTS = Path(__file__).parents[1] / "static/js"
MOST_AT_ONCE = 50
OUR_FAULT = "The server could not take this one; that was our fault. It stays on the phone: write it down on paper too, and tell whoever runs the server."
log = structlog.get_logger()
# What the page needs without a signal, besides itself.
SHELL = (
    "bootstrap",
    "alpine",
    "icons",
    "css/tokens.css",
    "css/frame.css",
    "css/field.css",
    "icon.svg",
    "js/field_queue.js",
    "js/field.js",
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
def snapshot(desk: Note) -> Response:
    """The garden as a phone needs it for a tour, pickings and jobs."""
    with desk.open() as room:
        return JSONResponse(_snapshot(room))


@router.post("/field/sync")
def sync(desk: Note, sent: Parcel) -> Response:
    """Take entries, each in a transaction of its own, and say of each what became of it."""
    assert desk.visitor.account_id is not None
    if (sent.account, sent.school) != (desk.visitor.account_id, desk.visitor.school_id):
        return JSONResponse(
            {
                "results": [
                    {"id": _id(e), "is": "waiting", "words": "It waits for the login and school it belongs to."}
                    for e in sent.entries
                ]
            }
        )
    return JSONResponse(
        {"results": [_take(desk, desk.visitor.account_id, entry) for entry in sorted(sent.entries, key=_noted)]}
    )


@router.post("/field/photos")
def photo(
    desk: Note,
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
    assert desk.visitor.account_id is not None
    if (account, school) != (str(desk.visitor.account_id), str(desk.visitor.school_id)):
        return JSONResponse({"id": id, "is": "waiting", "words": "It waits for the login and school it belongs to."})
    name, body = forms.file(request.state.form.get("file"))
    try:
        with desk.open() as room:
            sent = Sent(
                forms.row_id(id),
                body,
                name,
                forms.optional_id(bed),
                forms.optional_id(planting),
                caption,
                forms.optional_day(noted_on, field="noted_on") or room.today,
                _instant(noted_at, desk),
            )
            photos.keep(room.connection, room.context, sent, by=desk.visitor.account_id, today=room.today)
    except (CoreError, errors.Refused, errors.NotFound, errors.IdTaken) as error:
        return JSONResponse({"id": id, "is": "refused", "words": str(error)})
    return JSONResponse({"id": id, "is": "kept", "words": ""})


def _take(desk: Desk, by: UUID, given: Any) -> dict[str, str]:
    try:
        entry = phone.read(given)
        with desk.open() as room:
            phone.take(room.connection, room.context, entry, by=by, today=room.today, now=desk.clock.now())
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


def _instant(text: str, desk: Desk) -> datetime:
    """When something was noted, by the phone; now for what is no instant or lies ahead."""
    now = desk.clock.now()
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
    return head + (SCRIPTS / "field_worker.js").read_text(encoding="utf-8")


def _snapshot(room: Room) -> dict[str, Any]:
    school, visitor = room.context.school, room.desk.visitor
    stops = tour.tour(room.connection, room.context, today=room.today)
    return {
        "today": room.today.isoformat(),
        "day": words.weekday_day(room.today),
        "token": security.form_token(room.desk.request),
        "school": {"id": str(school.id), "name": school.name},
        "account": {"id": str(visitor.account_id), "name": visitor.account_name},
        "stops": [_stop(room, stop) for stop in stops],
        "jobs": [_job(room, task) for task in _jobs_of_today(room)],
        "ready": [_ready(h) for h in pickings.at_hand(room.connection, room.context, room.today)],
        "groups": [{"id": key, "label": name} for key, name in room.context.group_names(room.today).items()],
        "units": list(unit_choices(room.context.crops, school.units)),
        "uses": list(USES),
        "lengths": "in" if school.units == "us" else "cm",
        "troubles": {kind: list(names) for kind, names in sightings.TROUBLES.items()},
        "parts": list(sightings.PARTS),
        "severity": [{"key": key, "label": label} for key, label in sightings.SEVERITY.items()],
        "visitors": list(sightings.VISITORS),
        "stages": list(sightings.STAGES),
        "teams": sorted({t.name for g in room.context.groups_on(room.today) for t in g.teams}),
    }


def _stop(room: Room, stop: Stop) -> dict[str, Any]:
    units = room.context.school.units
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
        "jobs": [_job(room, task) for task in stop.jobs],
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


def _job(room: Room, task: Task) -> dict[str, Any]:
    names = room.context.group_names(room.today)
    who = names.get(str(task.class_group_id), "") if task.class_group_id else "carers" if task.carer else "nobody yet"
    return {
        "id": str(task.id),
        "title": task.title,
        "who": who,
        "when": words.weekday_day(task.on_day or task.from_day),
        "bed": task.bed_name or "",
        "minutes": task.minutes,
        "caution": task.caution,
        "status": "partly" if task.part_done_on == room.today else task.status,
    }


def _jobs_of_today(room: Room) -> list[Task]:
    """Jobs due today, and those of the last week that were left."""
    found = tasks.tasks(room.connection, start=date.fromordinal(room.today.toordinal() - 7), end=room.today)
    return [t for t in found if t.status == "open" or t.done_on == room.today]
