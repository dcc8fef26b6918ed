"""The web application: routes, static files, and one place where errors become answers."""

import secrets
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from urllib.parse import quote

import structlog
from fastapi import Depends, FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import RedirectResponse
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.staticfiles import StaticFiles

from almanaque.clock import Clock
from almanaque.commands.accounts.entry import TooSoon
from almanaque.core.errors import BadInput, CoreError
from almanaque.settings import Settings
from almanaque.store import errors
from almanaque.store.db import Database
from almanaque.web import admission, entitled, frame, htmx, probes, routes, security, stylesheet
from almanaque.web.journal import class_tablet
from almanaque.web.pictures import charts

log = structlog.get_logger()


class VersionedFiles(StaticFiles):
    """Our files carry a version or hash in their address, so they may be kept for a year."""

    def file_response(self, *args: object, **kwargs: object) -> Response:
        response: Response = super().file_response(*args, **kwargs)  # type: ignore[arg-type]
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response


def _stylesheet() -> Response:
    return Response(
        stylesheet.body(), media_type="text/css", headers={"Cache-Control": "public, max-age=31536000, immutable"}
    )


def create_app(settings: Settings, clock: Clock, database: Database | None = None) -> FastAPI:
    """Put the application together. It opens its database when it starts, and does not start on an unsafe or foreign one.

    `database` stands in for the one that the settings name.
    """
    # Whoever asks whether we are ready does not wait behind pages.
    probe = database or Database(settings.database_url, max_size=1, timeout_s=probes.PATIENCE_S)
    database = database or Database(settings.database_url)

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        database.open()
        database.check_ready()
        if probe is not database:
            probe.open()
        charts.warm_up()
        yield
        if probe is not database:
            probe.close()
        database.close()

    app = FastAPI(
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
        dependencies=[Depends(security.guard_writes)],
    )
    app.state.settings, app.state.clock, app.state.database, app.state.probe = settings, clock, database, probe
    app.add_api_route(stylesheet.ADDRESS, _stylesheet, methods=["GET"])
    app.mount("/static", VersionedFiles(directory=Path(__file__).parent / "static"), name="static")
    app.state.takes = security.Limits(found for page in routes.PAGES for found in security.declared(page.router))
    for page in routes.PAGES:
        app.include_router(page.router)
    app.include_router(probes.router)
    wanted = [found for page in routes.PAGES for found in security.wanted(page.router)]
    app.add_middleware(entitled.Entitled, wanted=wanted, refuse=_said)
    app.add_middleware(GZipMiddleware, minimum_size=800)
    app.add_middleware(admission.Admission, door=admission.Door(database.max_size), busy=_busy)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=settings.allowed_hosts, www_redirect=False)
    app.add_middleware(security.Shell, takes=app.state.takes, only_https=settings.secure_cookies)
    _answer_errors(app)
    return app


def _said(request: Request, error: Exception) -> Response:
    """The answer to an error we know."""
    if isinstance(error, security.NotLoggedIn) and not getattr(request.state, "typed", []):
        return _to_login(request)
    title, sentence, status = _words_for(error)
    response = _answer(request, title, sentence, status)
    if isinstance(error, BadInput) and error.field:
        response.headers["X-Field"] = error.field  # where the page puts the sentence
    return response


def _answer_errors(app: FastAPI) -> None:
    def led_to(request: Request, error: Exception) -> Response:
        """A form that was sent again shows what came of it the first time."""
        assert isinstance(error, errors.TakenBefore)
        if error.led_to:
            return frame.see(error.led_to)
        if request.headers.get("HX-Request") == "true":
            return Response(status_code=204, headers={"HX-Refresh": "true"})
        return frame.see(_came_from(request))

    def led_out(request: Request, error: Exception) -> Response:
        assert isinstance(error, class_tablet.NotIn)
        return frame.see(error.leads_to)

    def unexpected(request: Request, error: Exception) -> Response:
        number = secrets.token_hex(3).upper()
        log.error("unexpected", number=number, path=request.url.path, exc_info=error)
        response = _answer(
            request,
            "Something went wrong",
            f"This was our fault and nothing was changed. If it happens again, quote number {number}.",
            500,
        )
        response.headers.update(security.HEADERS)  # this answer is made outside the shell
        return response

    kinds: list[type[Exception]] = [
        CoreError,
        errors.StoreError,
        security.NotLoggedIn,
        security.NotAllowed,
        security.ForgedForm,
        security.TooLarge,
        admission.Full,
        HTTPException,
        RequestValidationError,
    ]
    for kind in kinds:
        app.add_exception_handler(kind, _said)
    app.add_exception_handler(errors.TakenBefore, led_to)
    app.add_exception_handler(class_tablet.NotIn, led_out)
    app.add_exception_handler(Exception, unexpected)


_NOT_FOUND = "There is no such page or row in this school. It may have been rubbed out, or belong to another school."


def _words_for(error: Exception) -> tuple[str, str, int]:
    """Title, sentence and status for an error we know."""
    match error:
        case security.NotLoggedIn():
            return (
                "Your login has ended",
                "Nothing was written. Log in again, then send it once more; what you wrote stands below.",
                401,
            )
        case security.NotAllowed():
            return "Not for this role", str(error), 403
        case security.ForgedForm():
            return (
                "The form was too old",
                "It did not come from a page of this login. Go back, load the page again, and send it once more.",
                403,
            )
        case admission.Full():
            return "Busy", BUSY, 503
        case security.TooLarge():
            most = f"{error.limit / 1_000_000:.0f} MB"
            return (
                "Too much at once",
                f"More than {most} was sent. Shorten it, or send it in parts. Nothing was changed.",
                413,
            )
        case errors.NotFound():
            return "Not here", f"{error} It may have been rubbed out, or belong to another school.", 404
        case errors.Busy():
            return "Busy", str(error), 503
        case errors.Unreachable():
            return "The database does not answer", str(error), 503
        case errors.Stale() | errors.IdTaken() | errors.Refused():
            return "Not changed", str(error), 409
        case errors.StoreError():
            return "Almanaque cannot run", str(error), 503
        case TooSoon():
            return "Not yet", str(error), 429
        case CoreError():
            return "That cannot be", str(error), 422
        case RequestValidationError():
            first = error.errors()[0]
            if first["loc"][0] == "path":
                return "Not here", _NOT_FOUND, 404
            return (
                "The form was incomplete",
                f"“{first['loc'][-1]}” is missing or not as expected. Load the page again.",
                422,
            )
        case HTTPException(status_code=404):
            return "Not here", _NOT_FOUND, 404
        case HTTPException(status_code=405):
            return "Not that way", "This address does not take that kind of request.", 405
        case HTTPException():
            return "That did not work", "The request could not be read. Load the page again.", error.status_code
    return "That did not work", "Load the page again.", 500


BUSY = "Many people are here at this moment. Nothing was lost; this page tries again by itself."


def _busy(request: Request) -> Response:
    """For a request that was not begun because too many are being answered."""
    return _answer(request, "Busy", BUSY, 503)


def _answer(request: Request, title: str, sentence: str, status: int) -> Response:
    """What went wrong; where it passes by itself, with when to come again."""
    response = _drawn(request, title, sentence, status)
    if status == 503:
        response.headers["Retry-After"] = str(admission.RETRY_AFTER_S)
    return response


def _drawn(request: Request, title: str, sentence: str, status: int) -> Response:
    """A part for htmx, put where messages stand; otherwise a page that needs no database."""
    if request.headers.get("HX-Request") == "true":
        response = frame.bare_page(request, "parts/message.html", {"sentence": sentence}, status=status)
        return htmx.retarget(response, "#message")
    values = {
        "title": title,
        "sentence": sentence,
        "status": status,
        "typed": getattr(request.state, "typed", []),
        "back": _came_from(request),
        "again": admission.RETRY_AFTER_S if status == 503 and request.method == "GET" else None,
    }
    return frame.bare_page(request, "error.html", values, status=status)


def _came_from(request: Request) -> str:
    """The page of ours that sent this request, or the first one."""
    back, host = request.headers.get("Referer", ""), request.headers.get("Host", "")
    return back if host and back.partition("://")[2].startswith(f"{host}/") else "/week"


def _to_login(request: Request) -> Response:
    if request.headers.get("HX-Request") == "true":
        return Response(status_code=204, headers={"HX-Redirect": "/login"})
    to = request.url.path + (f"?{request.url.query}" if request.url.query else "") if request.method == "GET" else ""
    return RedirectResponse(f"/login?to={quote(to)}" if to not in ("", "/") else "/login", status_code=303)
