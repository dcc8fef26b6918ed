"""A real server and a real browser. A console error or a breach of the content policy fails any test."""

import json
import re
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
import uvicorn
from playwright.sync_api import Browser, BrowserContext, Page

from almanaque.clock import Clock
from almanaque.demo import DEMO_DAY, load
from almanaque.host import postgres
from almanaque.host.postgres import Cluster
from almanaque.settings import Settings
from almanaque.web.app import create_app
from tests.database import DEMO, bed_id, fresh_copy

FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
AXE = next((Path(__file__).parent / "vendor").glob("axe-*.min.js"))
DESK, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}
# 422 and 409 are how the server says no to a form; the browser reports them as errors.
EXPECTED = re.compile(r"(status of|Status Error Code) (422|409)")


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict:
    return {"executable_path": "/usr/bin/chromium", "args": FLAGS}


def serve(database_url: str) -> Iterator[str]:
    port = postgres.free_port()
    settings = Settings(database_url=database_url, secret="b" * 40, demo_day=DEMO_DAY)
    server = uvicorn.Server(
        uvicorn.Config(create_app(settings, Clock(DEMO_DAY)), host="127.0.0.1", port=port, log_level="warning")
    )
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        assert thread.is_alive()
        time.sleep(0.02)
    yield f"http://127.0.0.1:{port}"
    server.should_exit = True
    thread.join(10)


@pytest.fixture(scope="session")
def read_site(cluster: Cluster) -> Iterator[str]:
    """A demo that tests only look at."""
    for addresses in fresh_copy(cluster, DEMO):
        yield from serve(addresses.app)


@pytest.fixture
def site(demo: postgres.Addresses) -> Iterator[str]:
    """A demo of one's own, to write in."""
    yield from serve(demo.app)


class Visit:
    """A logged-in page. `faults` collects what must not happen."""

    def __init__(self, context: BrowserContext, base: str) -> None:
        self.context, self.base, self.faults = context, base, []
        self.page: Page = context.new_page()
        self.page.on(
            "console",
            lambda m: self.faults.append(m.text) if m.type == "error" and not EXPECTED.search(m.text) else None,
        )
        self.page.on("pageerror", lambda error: self.faults.append(str(error)))

    def go(self, path: str) -> Page:
        self.page.goto(self.base + path)
        self.page.wait_for_load_state("networkidle")
        return self.page

    def bed(self, name: str, query: str = "") -> Page:
        return self.go(f"/garden/beds/{bed_id(name)}{query}")

    def axe(self) -> list[str]:
        """Accessibility faults by WCAG 2.2 A and AA and best practice, a line each."""
        # The policy forbids scripts of others, so axe is handed to the page by the driver and not by a tag.
        self.page.evaluate(AXE.read_text(encoding="utf-8") + "; 0")
        found = self.page.evaluate("axe.run(document, {resultTypes: ['violations']})")
        return [
            f"{v['id']}: {v['help']}: {json.dumps([n['html'][:160] for n in v['nodes'][:3]])}"
            for v in found["violations"]
        ]


_STATES: dict[tuple[str, str], dict] = {}


def visit(browser: Browser, base: str, login: str, viewport: dict) -> Iterator[Visit]:
    """A visit in one role; logging in happens once for each server and role."""
    state = _STATES.get((base, login))
    context = browser.new_context(viewport=viewport, storage_state=state, locale="en-GB")
    made = Visit(context, base)
    if state is None and login:
        made.go("/login")
        made.page.fill("#login", login)
        made.page.fill("#password", load.PASSWORD)
        made.page.click("button:has-text('Log in')")
        made.page.wait_for_url("**/week")
        _STATES[base, login] = context.storage_state()
    yield made
    context.close()
    assert made.faults == []


@pytest.fixture
def looking(browser: Browser, read_site: str, request: pytest.FixtureRequest) -> Iterator[Visit]:
    """Looking around the demo as the role of the test's parameter, or as its coordinator."""
    login, viewport = getattr(request, "param", ("coordinator", DESK))
    yield from visit(browser, read_site, login, viewport)


@pytest.fixture
def working(browser: Browser, site: str, request: pytest.FixtureRequest) -> Iterator[Visit]:
    """Working in a demo of one's own as its educator."""
    login, viewport = getattr(request, "param", ("educator", DESK))
    yield from visit(browser, site, login, viewport)
