"""Year in the browser: a step dragged or moved by keys with its verdict told before, the finder, and the shelf beside the sheet."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import PHONE, Visit, settle
from tests.browser.slow_answers import slow_answers
from tests.database import bed_id

BED_4 = bed_id("Bed 4")


def handle(page: Page, what: str):
    return page.locator(f".drag[aria-label='{what}']")


def test_a_plan_is_dragged_and_its_verdict_changes_before_it_is_let_go(working: Visit) -> None:
    page = working.go("/year?term=3")
    dot = handle(page, "First day of Beet, Bed 3")
    before = dot.get_attribute("data-day")
    box = dot.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    expect(page.locator("#moving")).to_contain_text("20 Apr: fits")
    page.mouse.move(box["x"] + 250, box["y"] + 5, steps=8)
    expect(page.locator("#moving")).to_contain_text(re.compile(r"\d+ May: (misses|with care), picking"))
    assert handle(page, "First day of Beet, Bed 3").get_attribute("data-day") == before  # nothing is written yet
    with page.expect_response(lambda answer: answer.request.method == "POST"):
        page.mouse.up()
    expect(handle(page, "First day of Beet, Bed 3")).not_to_have_attribute("data-day", before)
    assert "/year" in page.url


def test_a_plan_is_moved_by_keys_and_left_with_escape(working: Visit) -> None:
    page = working.go("/year")
    name = "Setting out of Tomato, Bed 6"
    day = handle(page, name).get_attribute("data-day")
    handle(page, name).focus()
    page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("#moving")).to_contain_text("25 May")
    page.keyboard.press("Escape")
    expect(page.locator("#moving")).to_be_hidden()
    assert handle(page, name).get_attribute("data-day") == day
    page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("#moving")).to_contain_text("25 May: with care")
    with page.expect_response(lambda answer: answer.request.method == "POST"):
        page.keyboard.press("Enter")
    expect(handle(page, name)).to_have_attribute("data-day", "2027-05-25")
    page.reload()
    expect(handle(page, name)).to_have_attribute("data-day", "2027-05-25")


def test_a_second_step_moved_before_the_answer_to_the_first_is_moved_too(working: Visit) -> None:
    page = working.go("/year")
    first, second = "Setting out of Tomato, Bed 6", "First day of Beet, Bed 3"
    days = [handle(page, name).get_attribute("data-day") for name in (first, second)]
    with slow_answers(page, re.compile("/garden/plantings/[^/]*/steps")) as slow:
        handle(page, first).focus()
        page.keyboard.press("Shift+ArrowRight")
        expect(page.locator("#moving")).to_contain_text("25 May: with care")
        page.keyboard.press("Enter")
        handle(page, second).focus()
        page.keyboard.press("ArrowRight")
        expect(page.locator("#moving")).to_contain_text("21 Apr: ")
        page.keyboard.press("Enter")
        handle(page, second).focus()
        page.keyboard.press("ArrowLeft")  # a third, in the hand while the answer to the first comes
        slow.answer()
        sent = slow.one_asked()
        expect(page.locator("#moving")).to_be_visible()
        slow.answer(sent)
        settle(page)
    page.keyboard.press("Escape")
    page.reload()
    for name, before in zip((first, second), days, strict=True):
        expect(handle(page, name)).not_to_have_attribute("data-day", before or "")


def test_the_soup_day_is_planned_backward_and_pencilled_in(working: Visit) -> None:
    page = working.go("/year/finder?crop=kale&method=starts")
    page.get_by_role("link", name=re.compile("^Soup day, 17 Nov 2027")).click()
    expect(page.locator(".deadline")).to_contain_text("at the latest to have it ready for 17 Nov")
    expect(page.locator(".finder-mark", has_text="best")).to_have_count(1)  # the latest may lie in the same week
    best = page.locator("tr", has=page.locator(".finder-mark", has_text="best")).get_by_role("radio")
    best.check()
    expect(page.locator("#chosen")).to_contain_text(re.compile("fits (the school year|with care)"))
    settle(page)
    page.locator("#c-bed").select_option(label="Bed 5")
    page.get_by_role("button", name=re.compile("Pencil in")).click()
    expect(page.locator("h1")).to_contain_text("Bed 5")
    expect(page.locator(".standing")).to_contain_text("Kale pencilled")


def test_the_finder_tells_another_week_when_it_is_chosen_for_five_crops(looking: Visit) -> None:
    for crop in ("radish", "garlic", "pumpkin", "spinach", "tomato"):
        page = looking.go(f"/year/finder?crop={crop}")
        first = page.locator("#chosen h2").inner_text()
        page.locator(".finder-row input:not(:checked)").nth(1).check()
        expect(page.locator("#chosen h2")).not_to_have_text(first)
        page.locator("#f-cover").select_option("tunnel")
        expect(page.locator(".page-head")).to_contain_text("under a tunnel")


def test_the_shelf_puts_a_crop_that_fits_into_the_form(looking: Visit) -> None:
    page = looking.go(f"/garden/beds/{BED_4}")
    page.locator(".shelf summary").click()
    expect(page.locator("#shelf-list li").first).to_be_visible()
    crop = page.locator("#shelf-list button").first
    key = crop.get_attribute("data-crop")
    crop.click()
    expect(page.locator("#crop")).to_have_value(key)
    expect(page.locator("#preview")).to_contain_text("first picking")


def test_the_year_prints_on_one_landscape_page(looking: Visit) -> None:
    page = looking.go("/year")
    page.emulate_media(media="print")
    pdf = page.pdf(format="A4", landscape=True)
    assert len(re.findall(rb"/Type\s*/Page[^s]", pdf)) == 1


def test_a_crops_sheet_prints_on_one_page(looking: Visit) -> None:
    page = looking.go("/year/crops/tomato")
    page.emulate_media(media="print")
    pdf = page.pdf(format="A4")
    assert len(re.findall(rb"/Type\s*/Page[^s]", pdf)) == 1


@pytest.mark.parametrize("looking", [("educator", PHONE)], indirect=True)
def test_on_the_phone_the_finder_scrolls_in_itself(looking: Visit) -> None:
    page = looking.go("/year/finder?crop=radish")
    assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth")
    scroll = page.locator(".finder-scroll")
    assert scroll.evaluate("e => e.scrollWidth > e.clientWidth")
    assert page.locator(".finder-row").first.bounding_box()["height"] >= 44
