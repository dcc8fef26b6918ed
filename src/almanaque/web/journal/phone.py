"""The phone in the garden: one page over a snapshot, with or without a signal, and what it sends when it can."""

import json
from datetime import UTC, datetime
from functools import cache
from pathlib import Path
from typing import Annotated, Any
from uuid import UUID

import structlog
from fastapi import APIRouter, Depends, Form, Request, Response
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse
from pydantic import BaseModel, Field

from almanaque import __version__
from almanaque.commands.journal import phone, photos
from almanaque.commands.journal.photos import Sent
from almanaque.core.errors import CoreError
from almanaque.formats.journal import photo as photo_format
from almanaque.store import errors
from almanaque.web import forms, frame, security
from almanaque.web.journal import phone_snapshot
from almanaque.web.request_scope import RequestScope, may

router = APIRouter()
Note = Annotated[RequestScope, Depends(may("note"))]
SCRIPTS = Path(__file__).parents[1] / "static/js"
MOST_AT_ONCE = 50
OUR_FAULT = (
    "The server could not take this one; that was our fault. It stays on the phone: "
    "write it down on paper too, and tell whoever runs the server."
)
log = structlog.get_logger()
_BEFORE = datetime.min.replace(tzinfo=UTC)
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
    "js/phone_forms.js",
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
    body = frame.templates().get_template("journal/phone.html").render()
    return HTMLResponse(body, headers={"Permissions-Policy": "camera=(self), geolocation=(), microphone=()"})


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
        return JSONResponse(phone_snapshot.read(work).model_dump(mode="json"))


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


class PhotoForm(BaseModel):
    """What the phone says beside a photo."""

    id: str = ""
    account: str = ""
    school: str = ""
    noted_at: str = ""
    noted_on: str = ""
    bed: str = ""
    planting: str = ""
    caption: str = ""
    viewpoint: str = ""
    viewpoint_name: str = ""
    people: str = ""


@router.post("/field/photos")
@security.takes(size=photo_format.MOST_BYTES + security.FORM_BYTES)
def photo(scope: Note, request: Request, form: Annotated[PhotoForm, Form()]) -> Response:
    """Take one photo."""
    assert scope.visitor.account_id is not None
    id = form.id
    if (form.account, form.school) != (str(scope.visitor.account_id), str(scope.visitor.school_id)):
        return JSONResponse({"id": id, "is": "waiting", "words": "It waits for the login and school it belongs to."})
    name, body = forms.file(request.state.form.get("file"))
    try:
        made = photos.read(body, name)
        with scope.open() as work:
            sent = Sent(
                forms.row_id(id),
                body,
                name,
                forms.optional_id(form.bed),
                forms.optional_id(form.planting),
                form.caption,
                forms.optional_day(form.noted_on, field="noted_on") or work.today,
                _instant(form.noted_at, scope),
                forms.optional_id(form.viewpoint),
                form.viewpoint_name,
                people=form.people == "yes",
            )
            photos.keep(work.connection, work.context, sent, made, by=scope.visitor.account_id, today=work.today)
    except (CoreError, errors.Refused, errors.NotFound, errors.IdTaken) as error:
        return JSONResponse({"id": id, "is": "refused", "words": str(error)})
    return JSONResponse({"id": id, "is": "kept", "words": ""})


def _take(scope: RequestScope, by: UUID, given: Any) -> dict[str, str]:
    try:
        entry = phone.read(given)
        with scope.open() as work:
            phone.take(work.connection, work.context, entry, by=by, today=work.today, now=scope.clock.now())
    except phone.Waits:
        return {"id": _id(given), "is": "waiting", "words": "It waits for what it was done against."}
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


def _noted(given: Any) -> datetime:
    """When an entry was noted, to take the oldest first; what is no instant comes first and is refused."""
    text = str(given.get("noted_at", ""))[:40] if isinstance(given, dict) else ""
    try:
        found = datetime.fromisoformat(text)
        return found.astimezone(UTC) if found.tzinfo else _BEFORE
    except (ValueError, OverflowError):
        return _BEFORE


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
