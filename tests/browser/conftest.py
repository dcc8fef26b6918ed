"""A real server and a real browser. A console error or a breach of the content policy fails any test."""

import json
import re
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest
import uvicorn
from fastapi import Request
from fastapi.responses import PlainTextResponse
from playwright.sync_api import Browser, BrowserContext, Error, Page, ViewportSize, expect
from psycopg import Connection

from almanaque.clock import Clock
from almanaque.commands.harvest import harvest_book
from almanaque.demo import DEMO_DAY, load
from almanaque.host import postgres
from almanaque.host.postgres import Addresses, Cluster
from almanaque.settings import Settings
from almanaque.store.accounts import sessions
from almanaque.store.db import Database
from almanaque.store.errors import Unreachable
from almanaque.web import security
from almanaque.web.app import create_app
from tests.database import DEMO, PATIENCE_S, bed_id, fresh_copy

FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--use-fake-device-for-media-stream",
    "--use-fake-ui-for-media-stream",
]
CHROMIUM = "/usr/bin/chromium-headless-shell"  # Chromium without its own window: about half the CPU time
AXE = next((Path(__file__).parent / "vendor").glob("axe-*.min.js"))
DESK: ViewportSize = {"width": 1280, "height": 800}
PHONE: ViewportSize = {"width": 390, "height": 844}
# 422 and 409 are how the server says no to a form; the browser reports them as errors.
EXPECTED = re.compile(r"(status of|Status Error Code) (422|409)")


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict:
    return {"executable_path": CHROMIUM, "args": FLAGS}


class Site:
    """A server of ours for as long as the tests run; each test sets the database that it answers from."""

    def __init__(self) -> None:
        self.port = postgres.free_port()
        self.base = f"http://127.0.0.1:{self.port}"
        self.app = create_app(Settings(secret="b" * 40, demo_day=DEMO_DAY), Clock(DEMO_DAY), Unset())
        self.server = uvicorn.Server(uvicorn.Config(self.app, host="127.0.0.1", port=self.port, log_level="warning"))
        self.thread = threading.Thread(target=self.server.run, daemon=True)
        self.thread.start()
        while not self.server.started:
            assert self.thread.is_alive()
            time.sleep(0.01)

    def stop(self) -> None:
        self.server.should_exit = True
        self.thread.join()

    @contextmanager
    def over(self, addresses: Addresses) -> Iterator[str]:
        """Answer from this database; the address of the site."""
        database = Database(addresses.app, timeout_s=PATIENCE_S)
        database.open()
        harvest_book._books = harvest_book._Books()
        self.app.state.database = database
        yield self.base
        self.app.state.database = Unset()
        database.close()


class Unset(Database):
    """No database: what asks between two tests is refused."""

    def __init__(self) -> None:
        self.max_size = 8

    def open(self) -> None: ...

    def check_ready(self) -> None: ...

    def close(self) -> None: ...

    def transaction(self) -> AbstractContextManager[Connection[Any]]:
        raise Unreachable("between two tests")


@pytest.fixture(scope="session")
def written_site() -> Iterator[Site]:
    site = Site()
    yield site
    site.stop()


@pytest.fixture(scope="session")
def read_site(cluster: Cluster) -> Iterator[str]:
    """A demo that tests only look at; it has a server of its own."""
    looked_at = Site()
    for addresses in fresh_copy(cluster, DEMO):
        with looked_at.over(addresses) as base:
            _SITES[base] = looked_at
            yield base
    looked_at.stop()


@pytest.fixture
def site(written_site: Site, demo: Addresses) -> Iterator[str]:
    """A demo of one's own, to write in."""
    with written_site.over(demo) as base:
        _SITES[base] = written_site
        yield base


def empty(request: Request) -> PlainTextResponse:
    with request.app.state.database.transaction() as connection:
        connection.execute("SELECT 1")
    return PlainTextResponse("empty")


def serve(addresses: Addresses) -> Iterator[str]:
    """A server of its own over a database, for measurements and pictures; `/empty` is a page with one trivial query."""
    site = Site()
    site.app.add_api_route("/empty", empty)
    with site.over(addresses) as base:
        _SITES[base] = site
        yield base
    site.stop()


_SITES: dict[str, Site] = {}
# A busy machine is no fault: what is waited for may take long as long as browser and server live.
PATIENCE_MS = 300_000
expect.set_options(timeout=PATIENCE_MS)
SETTLED = """() => document.readyState === 'complete' && document.fonts.status === 'loaded'
    && !document.querySelector('.htmx-request, .htmx-swapping, .htmx-settling')"""


def middle_of(page: Page, selector: str) -> tuple[float, float]:
    """The middle of an element on the page [px]; one that is being drawn anew is waited for."""
    for _ in range(PATIENCE_MS // 20):
        box = page.locator(selector).bounding_box()
        if box is not None:
            return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.wait_for_timeout(20)
    raise AssertionError(f"{selector} has no place on the page")


def settle(page: Page) -> Page:
    """Wait until everything that the page loads by itself is there, and also the next page if it leads on to one."""
    while True:
        try:
            page.wait_for_function(SETTLED)
            page.evaluate("new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))")
            page.wait_for_function(SETTLED)
            return page
        except Error as gone:
            if "context was destroyed" not in gone.message:
                raise


class Visit:
    """A logged-in page. `faults` collects what must not happen."""

    def __init__(self, context: BrowserContext, base: str) -> None:
        self.context, self.base, self.faults = context, base, []
        context.set_default_timeout(PATIENCE_MS)
        self.page: Page = context.new_page()
        self.page.on(
            "console",
            lambda m: self.faults.append(m.text) if m.type == "error" and not EXPECTED.search(m.text) else None,
        )
        self.page.on("pageerror", lambda error: self.faults.append(str(error)))

    def go(self, path: str) -> Page:
        self.page.goto(self.base + path)
        return settle(self.page)

    def bed(self, name: str, query: str = "") -> Page:
        return self.go(f"/garden/beds/{bed_id(name)}{query}")

    def axe(self) -> list[str]:
        """Accessibility faults by WCAG 2.2 A and AA and best practice, a line each."""
        # The policy forbids scripts of others, so axe is handed to the page by the driver and not by a tag.
        if not self.page.evaluate("'axe' in window"):
            self.page.evaluate(AXE.read_text(encoding="utf-8") + "; 0")
        # Only what was found crosses over to Python: the list of what is right is long.
        # Stylesheets are fetched anew for one rule only, which no size of the window changes.
        options = {
            "resultTypes": ["violations"],
            "selectors": False,
            "elementRef": False,
            "preload": self.page.viewport_size == DESK,
        }
        found = self.page.evaluate("options => axe.run(document, options).then(found => found.violations)", options)
        return [f"{v['id']}: {v['help']}: {json.dumps([n['html'][:160] for n in v['nodes'][:3]])}" for v in found]


def session_cookie(base: str, login: str) -> dict[str, Any]:
    """A session written into the database; how one logs in by hand is tested on its own."""
    token = security.new_token()
    with _SITES[base].app.state.database.transaction() as connection:
        sessions.open_session(
            connection, security.token_hash(token), load.account_id(login), datetime.now(UTC) + security.SESSION_LASTS
        )
    return {"name": security.SESSION_COOKIE, "value": token, "url": base, "httpOnly": True, "sameSite": "Lax"}


def visit(browser: Browser, base: str, login: str, viewport: ViewportSize) -> Iterator[Visit]:
    """A visit in one role, or a stranger's, with a browser's memory of its own."""
    context = enter(browser, base, login, viewport)
    made = Visit(context, base)
    yield made
    context.close()
    assert made.faults == []


def enter(browser: Browser, base: str, login: str, viewport: ViewportSize) -> BrowserContext:
    context = browser.new_context(viewport=viewport, locale="en-GB")
    if login:
        context.add_cookies([session_cookie(base, login)])
    return context


@pytest.fixture(scope="session")
def lookers(browser: Browser, read_site: str) -> Iterator[Callable[[str, ViewportSize], BrowserContext]]:
    """One browser's memory for each role and size that only looks."""
    known: dict[tuple[str, int], BrowserContext] = {}

    def looker(login: str, viewport: ViewportSize) -> BrowserContext:
        key = (login, viewport["width"])
        if key not in known:
            known[key] = enter(browser, read_site, login, viewport)
        return known[key]

    yield looker
    for context in known.values():
        context.close()


@pytest.fixture
def looking(
    lookers: Callable[[str, ViewportSize], BrowserContext], read_site: str, request: pytest.FixtureRequest
) -> Iterator[Visit]:
    """Looking around the demo as the role of the test's parameter, or as its coordinator."""
    login, viewport = getattr(request, "param", ("coordinator", DESK))
    made = Visit(lookers(login, viewport), read_site)
    yield made
    made.page.close()
    assert made.faults == []


@pytest.fixture
def working(browser: Browser, site: str, request: pytest.FixtureRequest) -> Iterator[Visit]:
    """Working in a demo of one's own as its educator."""
    login, viewport = getattr(request, "param", ("educator", DESK))
    yield from visit(browser, site, login, viewport)
