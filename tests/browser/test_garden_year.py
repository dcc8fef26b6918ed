"""The year that is played on the map: by the slider and its keys, forward as backward, and calmly for who wants less motion."""

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import PHONE
from tests.database import bed_id

FRAME = "() => document.querySelector('.map-played canvas').toDataURL()"
LOADED = "() => document.querySelector('#garden-play[data-ready][data-pictures]') !== null"


def at(page: Page, day: str) -> str:
    """The frame of a day."""
    page.get_by_role("slider", name="Day of the year").fill(day)
    return str(page.evaluate(FRAME))


def test_the_year_plays_the_same_forward_and_back(working: Any) -> None:
    page = working.go("/garden")
    page.get_by_role("link", name="plants as they look").click()
    page.wait_for_function(LOADED)
    assert working.axe() == []
    june = at(page, "285")
    assert at(page, "120") != june
    assert at(page, "285") == june
    expect(page.locator(".garden-play-day")).to_have_text("June 7, 2027")
    slider = page.get_by_role("slider", name="Day of the year")
    slider.focus()
    page.keyboard.press("ArrowRight")
    expect(page.locator(".garden-play-day")).to_have_text("June 8, 2027")
    page.get_by_role("button", name="two weeks back").click()
    expect(page.locator(".garden-play-day")).to_have_text("May 25, 2027")
    expect(page.get_by_role("link", name="Open this day")).to_have_attribute(
        "href", "/garden?show=looks&day=2027-05-25"
    )
    page.get_by_role("button", name="Play the year").click()
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    expect(page.locator(".garden-play-day")).not_to_have_text("May 25, 2027")
    page.get_by_role("button", name="Stop").click()
    expect(page.get_by_role("button", name="Play the year")).to_be_visible()


def test_who_wants_less_motion_steps(working: Any) -> None:
    working.page.emulate_media(reduced_motion="reduce")
    page = working.go("/garden?show=looks")
    page.wait_for_function(LOADED)
    page.get_by_role("button", name="Two weeks on").click()
    expect(page.locator(".garden-play-day")).to_have_text("April 28, 2027")


def test_shade_moves_with_the_hour(working: Any) -> None:
    page = working.go("/garden?show=sun&day=2027-06-08")
    page.wait_for_function("() => document.querySelector('#shade-hours[data-ready]') !== null")
    assert working.axe() == []
    expect(page.locator("#shade-hours output")).to_contain_text("10:00, sun")
    path = "() => document.querySelector('.hour-shade').getAttribute('d')"
    before = page.evaluate(path)
    slider = page.get_by_role("slider", name="Hour of the day")
    slider.focus()
    for _ in range(4):
        page.keyboard.press("ArrowRight")
    expect(page.locator("#shade-hours output")).to_contain_text("12:00, sun")
    assert page.evaluate(path) != before
    for _ in range(4):
        page.keyboard.press("ArrowLeft")
    assert page.evaluate(path) == before
    expect(page.locator("#shade-list li").first).to_contain_text("squares")


def test_a_bed_plays_its_year_and_leads_to_the_day(working: Any) -> None:
    page = working.go(f"/garden/beds/{bed_id('Bed 2')}")
    page.wait_for_function(LOADED)
    assert working.axe() == []
    june = at(page, "285")
    assert at(page, "120") != june
    assert at(page, "285") == june
    expect(page.locator(".bed-picture [data-parts=plantings]")).to_be_hidden()
    expect(page.get_by_role("link", name="Open this day")).to_have_attribute(
        "href", re.compile(r"/garden/beds/[0-9a-f-]+\?show=looks&day=2027-06-07$")
    )
    size = page.locator(".map-played canvas").bounding_box()
    drawing = page.locator(".bed-picture").bounding_box()
    assert size == drawing


def test_the_year_chart_plays_and_says_what_grows(working: Any) -> None:
    page = working.go("/year")
    page.wait_for_function("() => document.querySelector('#year-play[data-ready]') !== null")
    assert working.axe() == []
    slider = page.get_by_role("slider", name="Day of the year")
    slider.fill("290")
    expect(page.locator("#year-now")).to_contain_text("being picked: Pea")
    told = page.locator("#year-now").inner_text()
    slider.fill("100")
    expect(page.locator("#year-now")).not_to_have_text(told)
    slider.fill("290")
    expect(page.locator("#year-now")).to_have_text(told)
    assert page.locator(".bar.is-now").count() > 5


def test_shade_goes_to_the_hour_of_a_lesson(working: Any) -> None:
    page = working.go("/garden?show=sun")
    page.wait_for_function("() => document.querySelector('#shade-hours[data-ready]') !== null")
    page.get_by_role("button", name="Garden club, 13:30").click()
    expect(page.locator("#shade-hours output")).to_contain_text("13:30, sun")
    expect(page.locator("#shade-hours output")).to_contain_text("lesson of Garden club")


@pytest.mark.parametrize("working", [("educator", PHONE)], indirect=True)
def test_on_a_phone_the_bars_fit(working: Any) -> None:
    for path, ready in (
        ("/garden", "#garden-play"),
        ("/year", "#year-play"),
        (f"/garden/beds/{bed_id('Bed 2')}", "#garden-play"),
    ):
        page = working.go(path)
        page.wait_for_function(f"() => document.querySelector('{ready}[data-ready]') !== null")
        assert page.evaluate("document.documentElement.scrollWidth") <= 390


def test_a_photo_is_held_beside_the_seedlings_and_is_sent_nowhere(working: Any) -> None:
    page = working.go(f"/garden/beds/{bed_id('Bed 2')}/seedlings")
    sent: list[str] = []
    page.on("request", lambda asked: sent.append(asked.method))
    picture = {"name": "leaf.png", "mimeType": "image/png", "buffer": page.screenshot()}
    page.get_by_label("Hold a photo of yours beside them").set_input_files(picture)
    held = page.get_by_role("img", name="Your photo, to hold beside the drawings")
    expect(held).to_be_visible()
    page.wait_for_function("() => document.getElementById('held-shown').naturalWidth > 0")
    assert "POST" not in sent
    assert working.axe() == []
    page.mouse.wheel(0, 900)
    expect(held).to_be_in_viewport()
