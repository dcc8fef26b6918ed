"""Seasons in the browser: from picking to report, the turn of the year with groups moved up, a bundle out of one school into a new one."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from almanaque.demo import load
from tests.browser.conftest import DESK, PHONE, Visit, settle
from tests.browser.test_new_school import found_school
from tests.database import bed_id

DOCKS = f"/school/groups?open={load.demo_id('Brindlecombe School', 'group', 'Docks')}"
COORDINATOR = pytest.mark.parametrize("working", [("coordinator", DESK)], indirect=True)


def demo_day(page: Page, day: str) -> None:
    page.locator(".demo-day summary").click()
    page.fill("#demo-day", day)
    page.get_by_role("button", name="Move the day").click()
    settle(page)


@COORDINATOR
def test_a_season_from_picking_to_report(working: Visit) -> None:
    page = working.go("/harvest")
    page.get_by_role("link", name=re.compile("^log it ?: Radish, Half barrel")).click()
    page.get_by_label("Amount").fill("1 1/2")
    page.get_by_text("Some of it went elsewhere").click()
    page.get_by_label("sold", exact=True).fill("0.5")
    page.get_by_label("It was the last picking").check()
    page.get_by_role("button", name="Keep the picking").click()
    expect(page.locator(".message[role=status]")).to_contain_text("Kept: 1.5 lb of radish.")
    page.get_by_role("link", name="Change it").click()
    expect(page.get_by_role("heading", name="Radish, Half barrel")).to_be_visible()
    page.get_by_label("Quality").fill("crisp")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_label("Quality")).to_have_value("crisp")
    page.get_by_role("link", name="The book", exact=True).click()
    row = page.get_by_role("row", name=re.compile("Half barrel 2026–27 3 "))
    expect(row).to_contain_text("3.45 lb")
    page.get_by_label("By", exact=True).select_option("part")
    page.get_by_role("button", name="Show").last.click()
    expect(page.get_by_role("img", name=re.compile("^Weight, lb, by part"))).to_be_visible()
    page.get_by_role("link", name="Forecast and fact").click()
    page.get_by_role("button", name="Only when I say so").click()
    page.get_by_role("button", name=re.compile("Leave it out again.*Kale")).click()
    page.get_by_role("button", name="Forecast kale 3 days later").click()
    expect(page.locator("#main")).to_contain_text("Your own correction is in use: 3 days later, from 3 seasons.")
    page.get_by_role("link", name="Report").click()
    expect(page.get_by_role("heading", name="Brindlecombe School: what the garden gave in 2026–27")).to_be_visible()
    expect(page.locator(".report-lead")).to_contain_text("46.0 lb from 6 crops")
    expect(page.get_by_role("row", name=re.compile("^sold 9.2 lb"))).to_be_visible()
    assert working.axe() == []
    page.get_by_role("button", name="Two pages as PDF").click()
    expect(page.locator("#main")).to_contain_text("Season report 2026–27")


@COORDINATOR
def test_the_turn_of_the_year_with_groups_moved_up(working: Visit) -> None:
    page = working.go(DOCKS)
    expect(page.get_by_role("heading", name="Grade 2, Docks")).to_be_visible()
    demo_day(page, "2027-07-01")
    page = working.go("/school/turn")
    expect(page.locator("#main")).to_contain_text("Docks: Grade 2 → Grade 3")
    page.get_by_label(re.compile("Pea, Bed 2")).check()
    page.get_by_role("button", name="They are out").click()
    expect(page.get_by_label(re.compile("Pea, Bed 2"))).to_have_count(0)
    page.get_by_label("Bed 5: sentence").fill("Kale fed the soup day twice.")
    page.get_by_label("Bed 5: state").select_option("cleared and covered")
    # What was typed stands there already; that it was kept is known when the answer is in the page.
    with page.expect_response("**/school/turn/beds*"):
        page.get_by_role("button", name="Keep the sentences").click()
    settle(page)
    expect(page.get_by_label("Bed 5: sentence")).to_have_value("Kale fed the soup day twice.")
    page.get_by_role("button", name="Pencil it from rotation and wishes").click()
    expect(page.get_by_role("heading", name="Pencilled")).to_be_visible()
    assert working.axe() == []
    page.get_by_role("button", name=re.compile("Close the book of 2026–27")).click()
    expect(page.locator("#main")).to_contain_text("Closed: 26 Aug 2026 – 30 Jun 2027")
    page = working.go("/harvest")
    page.locator(".table a").first.click()
    page.get_by_role("button", name="Take it back").click()
    expect(page.locator("#message")).to_contain_text("The book of that time is closed.")
    demo_day(page, "2027-08-30")
    page = working.go(DOCKS)
    expect(page.get_by_role("heading", name="Grade 3, Docks")).to_be_visible()
    page = working.go("/school/turn")
    expect(page.locator("#main")).to_contain_text("2027–28")
    page = working.go(f"/garden/beds/{bed_id('Bed 8')}")
    expect(page.locator("#main")).to_contain_text("Strawberry")


@COORDINATOR
def test_the_bundle_out_of_one_school_into_a_new_one(working: Visit, browser, tmp_path: Path) -> None:
    page = working.go("/school/formats")
    with page.expect_download() as download:
        page.get_by_role("link", name="The school as one file").click()
    file = tmp_path / "school.json"
    download.value.save_as(file)
    context = browser.new_context(viewport=DESK, locale="en-GB")
    visit = Visit(context, working.base)
    page = visit.go("/login")
    page.get_by_role("link", name="Set up a school of your own").click()
    found_school(page)
    expect(page.get_by_role("heading", name="The beginning")).to_be_visible()
    page = visit.go("/school/formats")
    page.get_by_label("The file", exact=True).set_input_files(file)
    page.get_by_role("button", name="Bring it in").click()
    expect(page.locator(".message[role=status]")).to_contain_text("tables were brought in")
    page = visit.go("/harvest/book?by=season")
    expect(page.get_by_role("row", name=re.compile("^2024–25")).first).to_be_visible()
    with page.expect_download() as download:
        visit.go("/school/formats")
        page.get_by_role("link", name="The school as one file").click()
    again = tmp_path / "again.json"
    download.value.save_as(again)
    assert again.read_bytes() == file.read_bytes()
    assert visit.faults == []
    context.close()


@pytest.mark.parametrize("working", [("helper", PHONE)], indirect=True)
def test_far_too_much_is_asked_about_on_the_phone_and_kept_if_it_is_right(working: Visit) -> None:
    page = working.go("/field/")
    page.get_by_role("button", name=re.compile("^\\d+ ready$")).click()
    page.get_by_role("button", name="Radish, Half barrel").click()
    page.locator("#p-amount").fill("900")
    page.get_by_role("button", name="Keep the picking").click()
    expect(page.locator(".field-error:visible")).to_contain_text("far more than is usual")
    page.get_by_role("button", name="It is right: keep it").click()
    expect(page.locator(".message[role=status]")).to_have_text("The picking is kept.")
    expect(page.locator(".field-pill")).to_have_text("All sent")
    expect(working.go("/harvest").locator("#main")).to_contain_text("900 lb")
