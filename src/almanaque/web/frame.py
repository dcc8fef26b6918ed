"""What every page shares: top bar, ribbon, messages; and how a template becomes an answer."""

import hashlib
import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cache, partial
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

from fastapi import Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse
from jinja2 import Environment, FileSystemLoader, StrictUndefined
from markupsafe import Markup
from starlette.concurrency import run_in_threadpool
from starlette.types import Receive, Scope, Send

from almanaque.web import fix_links, known_parts, once, security, stylesheet, words
from almanaque.web.request_scope import RequestScope, UnitOfWork
from almanaque.web.ribbon import ribbon
from almanaque.web.view import Named

HERE = Path(__file__).parent
PEEK = "peek"  # in an address: its day holds for that page alone
VENDOR = {
    "bootstrap": "vendor/bootstrap-5.3.9.min.css",
    "htmx": "vendor/htmx-2.0.11.min.js",
    "alpine": "vendor/alpine-csp-3.17.4.min.js",
    "interact": "vendor/interact-1.10.28.min.js",
    "icons": "vendor/icons-1.13.2.svg",
}


@dataclass(frozen=True)
class TopBarLink:
    key: str
    name: str
    path: str
    icon: str


TOP_BAR = (
    TopBarLink("week", "Week", "/week", "calendar3-week"),
    TopBarLink("garden", "Garden", "/garden", "grid-3x3"),
    TopBarLink("year", "Year", "/year", "bar-chart-steps"),
    TopBarLink("journal", "Journal", "/journal", "journal-text"),
    TopBarLink("harvest", "Harvest", "/harvest", "basket2"),
    TopBarLink("seeds", "Seeds", "/seeds", "envelope-paper"),
    TopBarLink("school", "School", "/school", "building"),
)


@cache
def templates() -> Environment:
    environment = Environment(
        loader=FileSystemLoader(HERE / "templates"),
        autoescape=True,
        auto_reload=False,  # templates ship with the code; looking for changes costs more than drawing some parts
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    environment.globals["static"] = static
    environment.globals["stylesheet"] = stylesheet.address
    environment.globals["fix_link"] = fix_links.link
    environment.globals["new_number"] = once.new_number
    environment.filters.update(
        short_day=words.short_day, weekday_day=words.weekday_day, long_day=words.long_day, clock=words.clock
    )
    return environment


@cache
def static(name: str) -> str:
    """Address of a file we ship: vendored ones carry their version in the name, ours a hash."""
    path = VENDOR.get(name, name)
    if path.startswith("vendor/"):
        return f"/static/{path}"
    digest = hashlib.sha256((HERE / "static" / path).read_bytes()).hexdigest()[:12]
    return f"/static/{path}?v={digest}"


@cache
def fonts() -> list[str]:
    """Addresses of the fonts we ship."""
    return [f"/static/vendor/fonts/{path.name}" for path in sorted((HERE / "static/vendor/fonts").iterdir())]


def digest_of(*names: str) -> str:
    """A short hash that changes when a page's template or one of these addresses does."""
    template = (HERE / "templates/journal/phone.html").read_bytes()
    return hashlib.sha256(template + json.dumps(names).encode()).hexdigest()[:12]


def part(work: UnitOfWork, template: str, values: Named, *, status: int = 200) -> HTMLResponse:
    """Draw a part of a page."""
    drawn = partial(templates().get_template(template).render, **_shared(work), **values)
    return DrawnLater(drawn, status) if work.scope.request.method == "GET" else HTMLResponse(drawn(), status)


def page(
    work: UnitOfWork,
    key: str,
    title: str,
    values: Named,
    *,
    template: str = "",
    status: int = 200,
    message: str = "",
) -> HTMLResponse:
    """Draw a whole page in its section of the top bar. `message` is a sentence to show on top, such as why a form was not taken."""
    shown = dict(
        _shared(work),
        section=key,
        title=title,
        top_bar=TOP_BAR,
        ribbon=ribbon(work.context, work.day),
        layout="base.html",
        message=message or work.day_problem,
        path=_here(work, key),
        elsewhere=_elsewhere(work),
        school_name=work.context.school.name,
        school_setting=work.context.school.setting,
    )
    drawn = partial(templates().get_template(template or f"{key}/page.html").render, **shown, **values)
    return DrawnLater(drawn, status) if work.scope.request.method == "GET" else HTMLResponse(drawn(), status)


class DrawnLater(HTMLResponse):
    """A page that is drawn when its transaction is over, so that no connection waits for it. One that answers a write is drawn
    within, so that a fault in it undoes the write."""

    def __init__(self, draw: Callable[[], str], status: int) -> None:
        super().__init__(status_code=status)
        self._draw = draw

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        self.body = (await run_in_threadpool(self._draw)).encode()
        self.headers["Content-Length"] = str(len(self.body))
        await super().__call__(scope, receive, send)


def paper_part(
    work: UnitOfWork, template: str, title: str, values: Named, *, paper: str, paper_class: str = ""
) -> Markup:
    """Draw a page as a part of a document on paper, without bars and buttons."""
    shown = dict(_shared(work), title=title, layout="paper/part.html", paper=paper, paper_class=paper_class)
    return Markup(templates().get_template(template).render(**shown, **values))  # noqa: S704 - our own template, escaped


def paper_document(title: str, parts: Sequence[Markup], *, paper: str) -> str:
    """Parts as one document, each on a sheet of its own, for the worker to make a PDF of."""
    return templates().get_template("paper/document.html").render(title=title, parts=parts, paper=paper)


def bare_page(request: Request, template: str, values: Named, *, status: int = 200) -> HTMLResponse:
    """Draw a page without a school: login and errors."""
    shown = {"form_token": security.form_token(request), **values}
    return HTMLResponse(templates().get_template(template).render(**shown), status)


def bound_page(request: Request, template: str, values: Named, *, status: int = 200) -> HTMLResponse:
    """A page with a form for somebody who is not logged in; a visitor without any cookie of ours gets one,
    so that its form can be bound to it."""
    token, bound = security.form_token(request), ""
    if not token:
        bound = security.new_token()
        token = security.sign(request.app.state.settings.secret, bound)
    response = bare_page(request, template, {**values, "form_token": token}, status=status)
    if bound:
        security.set_cookie(response, request, security.FORM_COOKIE, bound, lasts=None)
    return response


def go(work: UnitOfWork, path: str, **query: str) -> RedirectResponse:
    """Send the visitor to a page after a write, the ribbon staying where it is."""
    return arrive(work, address(work, path, **query))


def arrive(work: UnitOfWork, shown: str) -> RedirectResponse:
    """Send the visitor to an address after a write, and whoever sends the same form again."""
    once.lead_to(work.scope.request, shown)
    return see(shown)


def see(shown: str) -> RedirectResponse:
    """Send the visitor to an address after a write."""
    return RedirectResponse(shown, status_code=303)


def leave(work: UnitOfWork, path: str, **query: str) -> Response:
    """Send the visitor to a page with scripts of its own: htmx loads it whole instead of into the page that is open."""
    if work.scope.request.headers.get("HX-Request") == "true":
        once.lead_to(work.scope.request, address(work, path, **query))
        return Response(status_code=204, headers={"HX-Redirect": address(work, path, **query)})
    return go(work, path, **query)


def address(work: UnitOfWork, path: str, **query: str) -> str:
    """A page's address with the ribbon's day in it when that is not today.

    Who was led to another day by a plan, and did not move the ribbon, only peeks at it: other pages stay on today.
    """
    request = work.scope.request
    peeks = PEEK in request.query_params
    if work.moved and "day" not in query and (not peeks or path == request.url.path):
        query["day"] = work.day.isoformat()
        if peeks:
            query[PEEK] = "1"
    return f"{path}?{urlencode(query)}" if query else path


def _here(work: UnitOfWork, key: str) -> str:
    """Where the ribbon's form leads: this page, or its section when the page answers a form."""
    request = work.scope.request
    return request.url.path if request.method == "GET" else next((r.path for r in TOP_BAR if r.key == key), "/week")


def _shared(work: UnitOfWork) -> dict[str, Any]:
    scope: RequestScope = work.scope

    def url(path: str, **query: Any) -> str:
        return address(work, path, **{key: str(value) for key, value in query.items() if value is not None})

    return {
        "url": url,
        "may": scope.may,
        "visitor": scope.visitor,
        "today": work.today,
        "day": work.day,
        "moved": work.moved,
        "demo": scope.clock.demo_day is not None,
        "form_token": security.form_token(scope.request),
        "units": work.context.school.units,
        "part": known_parts.parts(known_parts.known_to(scope.request)),
    }


def _elsewhere(work: UnitOfWork) -> str:
    """That a page shows another day than today, in a sentence; empty while it shows today."""
    if not work.moved:
        return ""
    rest = " Other pages stay on today." if PEEK in work.scope.request.query_params else ""
    return f"This is {words.long_day(work.day)}, not today, {words.long_day(work.today)}.{rest}"


def later_than_today(work: UnitOfWork) -> str:
    """A sentence for forms while the ribbon stands elsewhere."""
    if not work.moved:
        return ""
    return f"The ribbon stands on {words.long_day(work.day)}; what you enter here is dated today, {words.short_day(work.today)}."
