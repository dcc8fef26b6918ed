"""The cadence of a cage tomato and a pumpkin from the ground to clearing, asked on the tour; a closure from a Thursday; new pages."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import DESK, Visit
from tests.browser.test_whole_job import move_day
from tests.database import bed_id

SMALL_TABLET = {"width": 360, "height": 740}
COORDINATOR = pytest.mark.parametrize("working", [("coordinator", DESK)], indirect=True)


def tour_at(visit: Visit, bed: str) -> Page:
    """The tour, open at a bed."""
    page = visit.go("/field/")
    expect(page.get_by_role("heading", name="Tour")).to_be_visible()
    page.get_by_role("button", name=re.compile(rf"^{bed}\b")).click()
    expect(page.locator("h1")).to_have_text(bed)
    return page


def answer(page: Page, question: str, said: str) -> None:
    with page.expect_response("**/field/sync"):
        page.get_by_role("group", name=question).get_by_role("button", name=said, exact=True).click()
    expect(page.locator(".field-pill")).to_have_text("All sent")


def tick(visit: Visit, day: str, job: str) -> None:
    page = visit.go(f"/week?day={day}")
    found = page.locator(".job", has_text=job).first
    found.get_by_role("button").first.click()
    expect(page.locator(".job.is-done", has_text=job).first).to_be_visible()


@COORDINATOR
def test_a_tomato_is_threaded_every_few_days_until_it_is_at_the_top(working: Visit) -> None:
    page = working.go("/week")
    move_day(page, "2027-05-19", "19 May")
    tick(working, "2027-05-19", "Set out tomato")
    question = "Shoots of tomato to thread in?"
    move_day(working.go("/week"), "2027-06-07", "7 Jun")
    page = tour_at(working, "Bed 6")
    expect(page.get_by_text("16 squares, every 3 to 4 days. Lift each young shoot")).to_be_visible()
    answer(page, question, "Done")
    move_day(working.go("/week"), "2027-06-08", "8 Jun")
    expect(tour_at(working, "Bed 6").get_by_role("group", name=question)).to_have_count(0)
    move_day(working.go("/week"), "2027-06-11", "11 Jun")
    page = tour_at(working, "Bed 6")
    answer(page, question, "At the top")
    move_day(working.go("/week"), "2027-06-21", "21 Jun")
    expect(tour_at(working, "Bed 6").get_by_role("group", name=question)).to_have_count(0)
    page = working.go(f"/garden/beds/{bed_id('Bed 6')}")
    page.locator('a[href*="/garden/plantings/"]').first.click()
    row = page.locator("tr", has_text="thread in")
    expect(row).to_contain_text("no more since 11 Jun")
    row.get_by_role("button", name="ask for it again").click()
    expect(page.locator("tr", has_text="thread in")).to_contain_text("every 3 to 4 days")
    assert working.axe() == []


@COORDINATOR
def test_a_pumpkin_is_pollinated_where_nobody_flies_and_asks_no_more_once_it_is_cleared(working: Visit) -> None:
    move_day(working.go("/week"), "2027-06-08", "8 Jun")
    tick(working, "2027-06-08", "Sow pumpkin")
    move_day(working.go("/week"), "2027-08-02", "2 Aug")
    page = tour_at(working, "Bed 4")
    counted = page.locator(".field-card", has_text="Pumpkin: flowers open?")
    counted.get_by_label("Male", exact=True).fill("3")
    counted.get_by_label("Female", exact=True).fill("2")
    with page.expect_response("**/field/sync"):
        counted.get_by_role("button", name="Keep").click()
    expect(page.locator(".field-pill")).to_have_text("All sent")
    move_day(working.go("/week"), "2027-08-03", "3 Aug")
    page = tour_at(working, "Bed 4")
    expect(page.get_by_text("Both must be open the same morning")).to_be_visible()
    answer(page, "Pollen carried on pumpkin?", "Done")
    move_day(working.go("/week"), "2027-08-04", "4 Aug")
    expect(tour_at(working, "Bed 4").get_by_role("group", name="Pollen carried on pumpkin?")).to_have_count(0)
    page = working.go(f"/garden/beds/{bed_id('Bed 4')}")
    page.locator('a[href*="/garden/plantings/"]', has_text="Pumpkin").first.click()
    path = page.url.removeprefix(working.base)
    expect(page.locator("tr", has_text="pinch the tips")).to_be_visible()
    move_day(page, "2027-10-12", "12 Oct")
    tick(working, "2027-10-12", "Clear the pumpkin")
    page = working.go(path)
    expect(page.get_by_text("finished").first).to_be_visible()
    expect(tour_at(working, "Bed 4").get_by_role("group", name=re.compile("pumpkin"))).to_have_count(0)


@COORDINATOR
def test_a_closure_from_a_thursday_has_rounds_until_monday(working: Visit) -> None:
    page = working.go("/school")
    page.locator("#close-name").fill("Storm")
    page.locator("#close-why").select_option("weather")
    page.locator("#close-starts").fill("2027-05-06")
    page.locator("#close-ends").fill("2027-05-07")
    page.get_by_role("button", name="Close the school and see what it does").click()
    expect(page.get_by_text("Storm").first).to_be_visible()
    page = working.go("/week/rounds")
    expect(page.get_by_text("6 – 9 May").first).to_be_visible()


@pytest.mark.parametrize("path", ["/harvest/kitchen", "/year/natives", "/harvest/book?by=class"])
@pytest.mark.parametrize("working", [("coordinator", SMALL_TABLET), ("coordinator", DESK)], indirect=True)
def test_new_pages_hold_on_a_small_tablet_and_for_everybody(working: Visit, path: str) -> None:
    page = working.go(path)
    assert page.evaluate("document.documentElement.scrollWidth") <= page.viewport_size["width"]  # type: ignore[index]
    assert working.axe() == []


@COORDINATOR
def test_a_link_asks_only_what_its_readers_are_shown(working: Visit) -> None:
    page = working.go("/journal/open?group=kitchen")
    tasks, hint = page.get_by_role("heading", name="A task for home"), page.get_by_text("Partners read what")
    expect(page.get_by_label("Can be read until")).to_be_visible()
    expect(tasks).to_be_hidden()
    page.locator("#audience").select_option("families", force=True)
    expect(tasks).to_be_visible()
    expect(hint).to_be_hidden()
    page.locator("#audience").select_option("partners", force=True)
    expect(hint).to_be_visible()
