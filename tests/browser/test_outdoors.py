"""Outdoors in a real browser: a planting day from its sheet into the ground, a closure turned into rounds, a job moved by keys."""

import re

import pytest
from playwright.sync_api import Browser, expect

from tests.browser.conftest import DESK, PHONE, Visit, visit
from tests.database import bed_id

COORDINATOR = pytest.mark.parametrize("working", [("coordinator", DESK)], indirect=True)


@COORDINATOR
def test_a_planting_day_from_the_bed_sheet_into_the_ground(working: Visit) -> None:
    page = working.bed("Bed 4")
    page.fill("#squares", "F3-F4")
    page.select_option("#crop", "carrot")
    page.get_by_role("button", name="Plan in ink").click()
    expect(page.locator(".standing")).to_contain_text("Carrot")
    page.get_by_role("link", name="Planting day").click()
    page.goto(page.url.split("?")[0] + "?on=2027-04-14")
    expect(page.get_by_role("heading", name="Squares and groups")).to_be_visible()
    # The gauge is as deep on paper as the hole: 1/4 in at 96 pixels to the inch.
    bar = page.locator(".gauge-bar").first.bounding_box()
    assert bar is not None
    assert bar["height"] == pytest.approx(24, abs=0.5)
    ruler = page.locator(".gauge").evaluate("e => e.getScreenCTM().a * 101.6")
    assert ruler == pytest.approx(4 * 96, abs=0.5)
    page.locator("input[id^=left-]").first.fill("3")
    page.locator("input[id^=apart-]").first.fill("3 in, 3 in, 2 in, 3 in, 4 in")
    page.get_by_role("button", name="They are in the ground").click()
    page.wait_for_url(re.compile(r"/garden/beds/[0-9a-f-]+(\?.*)?$"))
    page.get_by_role("link", name=re.compile("Carrot")).first.click()
    expect(page.locator(".page-head")).to_contain_text("in the ground")
    expect(page.locator("#main")).to_contain_text("3 left over. 5 distances measured")


@COORDINATOR
def test_a_closure_of_eight_weeks_becomes_a_rota_with_a_round_that_is_walked(working: Visit, browser: Browser) -> None:
    page = working.go("/school")
    form = page.locator("form[action*='/school/closures']").first
    form.evaluate("f => f.closest('details') && (f.closest('details').open = true)")
    form.locator("[name=name]").fill("Water damage")
    form.locator("[name=starts]").fill("2027-04-19")
    form.locator("[name=ends]").fill("2027-06-13")
    form.locator("button").last.click()
    page.wait_for_url("**/school/closures/**")
    page = working.go("/week/rounds")
    expect(page.locator("h2", has_text="Water damage")).to_be_visible()
    rounds = page.locator("section", has=page.locator("h2", has_text="Water damage")).locator("li.is-gap")
    expect(rounds).to_have_count(16)
    first = rounds.first
    first.get_by_label(re.compile("Who walks")).fill("Garden committee")
    first.get_by_role("button", name=re.compile("^Take")).click()
    expect(page.locator(".rota li").first).to_contain_text("Garden committee")
    expect(page.locator("li.is-gap", has_text="Apr")).to_have_count(3)
    page.get_by_role("link", name="19 – 21 Apr").click()
    expect(page.locator(".stop h2 a").first).to_have_text("Bed 1")
    expect(page.locator(".stops")).to_contain_text("Pick Radish")
    expect(page.locator(".page-head")).to_contain_text("taken by Garden committee")


@COORDINATOR
def test_a_job_is_moved_and_told_about_with_keys_only(working: Visit) -> None:
    page = working.go("/week")
    page.get_by_role("link", name=re.compile("Prepare 6 squares for beet")).focus()
    page.keyboard.press("Enter")
    page.wait_for_url("**/tasks/**")
    choice = page.get_by_label("Another lesson")
    choice.focus()
    before = choice.input_value()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    expect(page.locator("#main")).to_contain_text("Set by hand.")
    assert page.get_by_label("Another lesson").input_value() != before
    page.get_by_label("Done in part").focus()
    page.keyboard.press("Space")
    page.get_by_label("How much").fill("two barrows")
    page.keyboard.press("Enter")
    expect(page.locator(".page-head")).to_contain_text("done in part 14 Apr")


def test_a_carer_takes_a_round_on_the_phone(browser: Browser, site: str) -> None:
    for office in visit(browser, site, "coordinator", DESK):
        page = office.go("/school/people")
        page.fill("#pass-label", "Carer of the first weeks")
        page.select_option("#pass-when", "break")
        page.get_by_role("button", name="Make a garden pass").click()
        link = page.locator("#made").input_value()
    context = browser.new_context(viewport=PHONE)
    page = context.new_page()
    page.goto(link)
    expect(page.get_by_role("heading", name="Rounds while school is closed")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    taking = page.get_by_role("button", name=re.compile("I take it.*1 – 4 Jul"))
    box = taking.bounding_box()
    assert box is not None
    assert box["height"] >= 32
    taking.click()
    expect(page.locator(".message.is-good")).to_have_text("The round is yours. Thank you.")
    page.get_by_role("link", name="1 – 4 Jul").click()
    expect(page.locator(".stops")).to_contain_text("Fence strip")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    context.close()


def test_seed_mats_and_labels_print_at_true_size(looking: Visit) -> None:
    page = looking.go(f"/garden/beds/{bed_id('Bed 7')}/mats")
    page.emulate_media(media="print")
    millimetre = 96 / 25.4
    edge = page.locator(".quarter-edge").first.bounding_box()
    assert edge is not None
    assert edge["width"] / millimetre == pytest.approx(152.4 + 0.3, abs=0.5)  # half a foot, and the line's own width
    dots = [page.locator(".quarter").last.locator("circle").nth(n).bounding_box() for n in range(4)]
    across = sorted({round(dot["x"] / millimetre, 1) for dot in dots if dot})
    assert across[1] - across[0] == pytest.approx(76.2, abs=0.5)
    ruler = page.locator(".true-ruler").first.evaluate("e => e.getScreenCTM().a") / millimetre
    assert ruler == pytest.approx(1, abs=0.005)
    page = looking.go(f"/garden/beds/{bed_id('Bed 7')}/labels?sheet=a4")
    page.emulate_media(media="print")
    label = page.locator(".label").first.bounding_box()
    assert label is not None
    assert (label["width"] / millimetre, label["height"] / millimetre) == (
        pytest.approx(63.5, abs=0.5),
        pytest.approx(38.1, abs=0.5),
    )
    assert label["x"] / millimetre == pytest.approx(7.2, abs=0.5)


@COORDINATOR
def test_a_job_is_dragged_into_another_lesson_of_the_week(working: Visit) -> None:
    page = working.go("/week")
    job = page.locator(".job", has_text="Worm box: feed the worms")
    target = page.locator(".lesson", has=page.locator("h3", has_text="Grade 5"))
    assert "Grade 1" in job.locator("xpath=ancestor::div[contains(@class,'lesson')]").inner_text()
    start, end = job.locator(".job-facts").bounding_box(), target.locator("h3").bounding_box()
    assert start is not None
    assert end is not None
    page.mouse.move(start["x"] + 5, start["y"] + 5)
    page.mouse.down()
    page.mouse.move(start["x"] + 5, start["y"] + 30, steps=3)
    expect(job).to_have_class(re.compile("is-lifted"))
    page.mouse.move(end["x"] + 10, end["y"] + 8, steps=5)
    expect(target).to_have_class(re.compile("is-target"))
    page.mouse.up()
    page.wait_for_url("**/week")
    moved = page.locator(".lesson", has=page.locator("h3", has_text="Grade 5")).locator(
        ".job", has_text="Worm box: feed the worms"
    )
    expect(moved).to_contain_text("set by hand")
    # A short press on its name is a click and no drag.
    moved.get_by_role("link", name=re.compile("Worm box")).click()
    page.wait_for_url("**/tasks/**")


@COORDINATOR
def test_a_letter_to_a_class_from_the_choice_to_the_page_that_is_sent(working: Visit, browser: Browser) -> None:
    page = working.go("/journal")
    page.get_by_role("link", name="Letters to classes").click()
    page.get_by_label("For", exact=True).select_option(label="Grade 2")
    page.get_by_label("Since").fill("2027-03-20")
    page.get_by_label("A task").fill("Draw a pea that has just come up.")
    page.get_by_role("button", name="Look at it").click()
    expect(page.locator(".letter")).to_contain_text("Growing now: Pea, Leaf lettuce")
    expect(page.locator(".letter")).to_contain_text("What comes next")
    assert working.axe() == []
    page.get_by_role("button", name="Make the letter").click()
    link = page.locator("#made").input_value()
    stranger = browser.new_context(viewport=PHONE)
    read = stranger.new_page()
    read.goto(link)
    expect(read.get_by_role("heading", name="A letter to Grade 2")).to_be_visible()
    expect(read.locator("article")).to_contain_text("Draw a pea that has just come up.")
    assert read.evaluate("document.documentElement.scrollWidth") <= 390
    stranger.close()
