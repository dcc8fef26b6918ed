"""What is painted first holds still: nothing moves when our type comes late, on a first visit."""

import pytest
from playwright.sync_api import Browser, Page, Route, ViewportSize

from tests.browser.conftest import DESK, PHONE, session_cookie
from tests.database import bed_id

MOST = 0.05  # layout shift, as browsers count it
WATCH = """
window.moved = 0;
new PerformanceObserver((list) => {
  for (const one of list.getEntries()) { if (!one.hadRecentInput) { window.moved += one.value; } }
}).observe({ type: 'layout-shift', buffered: true });
"""


def until(page: Page, is_so: str) -> None:
    """Wait for something on a page whose policy lets no text be run as a script."""
    while not page.evaluate(is_so):
        page.wait_for_timeout(20)


@pytest.mark.parametrize("size", [DESK, PHONE], ids=["desk", "phone"])
@pytest.mark.parametrize("path", ["/login", "/week", "/garden", "BED", "/year", "/journal", "/harvest"])
def test_nothing_moves_when_the_type_comes_late(browser: Browser, site: str, path: str, size: ViewportSize) -> None:
    context = browser.new_context(viewport=size, locale="en-GB")
    if path != "/login":
        context.add_cookies([session_cookie(site, "coordinator")])
    page = context.new_page()
    held: list[Route] = []
    page.route("**/*.woff2", lambda route: held.append(route))
    page.add_init_script(WATCH)
    page.goto(site + path.replace("BED", f"/garden/beds/{bed_id('Bed 4')}"), wait_until="domcontentloaded")
    until(page, "performance.getEntriesByName('first-contentful-paint').length > 0")
    page.wait_for_timeout(300)
    assert len(held) >= 3, "the type is asked for at once"
    for one in held:
        one.continue_()
    until(page, "[...document.fonts].filter((one) => one.status === 'loaded').length >= 3")
    page.evaluate("() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
    page.wait_for_timeout(200)
    assert page.evaluate("window.moved") <= MOST
    context.close()
