"""Answers that come late: held until a test lets them through, one by one."""

import re
from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import Page, Route

from tests.browser.conftest import PATIENCE_MS

EVERY_MS = 20


class SlowAnswers:
    """Requests that wait to be let through."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.asked: list[Route] = []

    def hold(self, route: Route) -> None:
        self.asked.append(route)

    def one_asked(self) -> Route:
        """The request that waits; waits for it."""
        for _ in range(PATIENCE_MS // EVERY_MS):
            if self.asked:
                return self.asked.pop(0)
            self.page.wait_for_timeout(EVERY_MS)
        raise AssertionError("nothing was sent")

    def answer(self, route: Route | None = None) -> None:
        """Let one through, and wait for its answer."""
        held = route or self.one_asked()
        with self.page.expect_response(lambda answer: answer.url == held.request.url):
            held.continue_()


@contextmanager
def slow_answers(page: Page, address: re.Pattern[str]) -> Iterator[SlowAnswers]:
    """While it lasts, what is asked of an address waits."""
    slow = SlowAnswers(page)
    page.route(address, slow.hold)
    yield slow
    page.unroute(address)
