"""A button that is pressed twice, or again after no answer came, writes once; a form that stays on the page writes anew each time."""

from urllib.parse import parse_qs

import pytest
from playwright.sync_api import Request, Route, expect

from tests.browser.conftest import DESK, Visit, settle


@pytest.mark.parametrize("working", [("coordinator", DESK)], indirect=True)
def test_a_second_press_while_the_first_is_answered_sends_nothing(working: Visit) -> None:
    page = working.go("/school/partners")
    sent: list[Request] = []
    busy: list[str | None] = []

    def slowly(route: Route) -> None:
        if route.request.method == "POST":
            sent.append(route.request)
            busy.append(form.get_attribute("aria-busy"))
            button.click(force=True)
            button.press("Enter")
        route.continue_()

    button = page.get_by_role("button", name="Add the partner")
    form = page.locator("form").filter(has=button)
    form.get_by_label("Name").fill("Mill road")
    page.route("**/school/partners", slowly)
    button.click()
    expect(page.get_by_role("link", name="Mill road")).to_have_count(1)
    settle(page)
    assert len(sent) == 1
    assert busy == ["true"]
    expect(page.locator("form[aria-busy]")).to_have_count(0)


def test_what_was_written_and_not_answered_is_not_written_again(working: Visit) -> None:
    page = working.bed("Bed 4")
    numbers: list[str] = []

    def lost_once(route: Route) -> None:
        if route.request.method != "POST":
            route.continue_()
            return
        numbers.append(parse_qs(route.request.post_data or "")["once"][0])
        if len(numbers) == 1:
            route.fetch()  # the server has it
            route.abort()  # and its answer is lost
        else:
            route.continue_()

    page.route("**/garden/beds/*", lost_once)
    page.get_by_role("textbox", name="Squares").fill("A4")
    pencil = page.get_by_role("button", name="Pencil in")
    pencil.click()
    # It is sent again by itself, under the same number, until it is answered.
    expect(page.locator("#said")).to_contain_text("The server cannot be reached")
    expect(page.get_by_role("button", name="Undo: paint radish")).to_be_enabled()
    settle(page)
    assert len(numbers) == 2
    assert numbers[0] == numbers[1], "the same form, not yet answered"
    working.faults.clear()  # the browser reports the answer that was lost


def test_a_form_that_stays_has_a_new_number_for_each_thing_it_sends(working: Visit) -> None:
    page = working.bed("Bed 4")
    numbers: list[str] = []
    page.on(
        "request",
        lambda asked: numbers.append(parse_qs(asked.post_data or "")["once"][0]) if asked.method == "POST" else None,
    )
    for squares in ("A4", "B4"):
        page.get_by_role("textbox", name="Squares").fill(squares)
        page.get_by_role("button", name="Pencil in").click()
        expect(page.locator("#sheet")).to_contain_text("pencilled in")
        settle(page)
    assert len(set(numbers)) == len(numbers) == 2


@pytest.mark.parametrize("working", [("coordinator", DESK)], indirect=True)
def test_what_was_turned_away_because_too_many_were_there_is_sent_again_by_itself(working: Visit) -> None:
    page = working.go("/school/partners")
    numbers: list[str] = []

    def busy_twice(route: Route) -> None:
        if route.request.method != "POST":
            route.continue_()
            return
        numbers.append(parse_qs(route.request.post_data or "")["once"][0])
        if len(numbers) < 3:
            headers = {"Retry-After": "1", "HX-Retarget": "#message", "HX-Reswap": "innerHTML", "HX-Reselect": "unset"}
            route.fulfill(status=503, headers=headers, body="<p class='message'>Busy</p>")
        else:
            route.continue_()

    page.route("**/school/partners", busy_twice)
    page.get_by_role("button", name="Add the partner").locator("xpath=ancestor::form").get_by_label("Name").fill(
        "Weir keepers"
    )
    page.get_by_role("button", name="Add the partner").click()
    expect(page.get_by_role("link", name="Weir keepers")).to_have_count(1)
    assert len(numbers) == 3
    assert len(set(numbers)) == 1
    working.faults.clear()  # the browser reports what was turned away
