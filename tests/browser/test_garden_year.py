"""The year that is played on the map: by the slider and its keys, forward as backward, and calmly for who wants less motion."""

from typing import Any

from playwright.sync_api import Page, expect

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
