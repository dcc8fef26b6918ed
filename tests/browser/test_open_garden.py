"""The garden by a link, as a family reads it on a phone: bed by bed, a task at home, an answer that an educator lets in."""

import re

import pytest
from playwright.sync_api import Browser, expect

from tests.browser.conftest import DESK, PHONE, Visit

COORDINATOR = pytest.mark.parametrize("working", [("coordinator", DESK)], indirect=True)


@COORDINATOR
def test_a_family_reads_the_garden_and_an_answer_comes_into_the_journal(working: Visit, browser: Browser) -> None:
    page = working.go("/journal")
    page.get_by_role("link", name="For those who are away").click()
    page.get_by_label("For", exact=True).select_option(label="Grade 2")
    page.get_by_role("button", name="Make the link").click()
    link = page.locator("#made").input_value()
    assert working.axe() == []

    stranger = browser.new_context(viewport=PHONE, locale="en-GB")
    family = Visit(stranger, working.base)
    read = family.go(link.removeprefix(working.base))
    read.get_by_role("link", name="Bed 2, yours").click()
    bed = read.get_by_role("region", name=re.compile("^Bed 2"))
    expect(bed).to_contain_text("Planted by you on 30 Mar 2027, when you were Grade 2.")
    assert family.axe() == []
    assert read.evaluate("document.documentElement.scrollWidth") <= 390
    task = bed.locator(".open-task")
    task.get_by_text("Tell the garden what came of it").click()
    task.get_by_role("button", name="Send to the garden").click()
    expect(bed.locator(".field-error")).to_contain_text("Tick that it is done")
    bed.get_by_label("We did it").check()
    bed.get_by_label("A line about it, without names").fill("It came up crooked")
    bed.get_by_role("button", name="Send to the garden").click()
    expect(bed.get_by_role("status")).to_contain_text("Thank you")
    assert family.axe() == []
    read.emulate_media(media="print")
    assert read.locator(".open-task form").first.is_hidden()
    stranger.close()

    page = working.go("/journal")
    expect(page.get_by_role("link", name="(1 from home)")).to_be_visible()
    page.get_by_role("link", name="(1 from home)").click()
    expect(page.locator(".open-held")).to_contain_text("It came up crooked")
    page.get_by_role("button", name="Let in what is ticked, delete the rest").click()
    expect(page.get_by_text("Nothing waits.")).to_be_visible()
    page = working.go("/journal")
    expect(page.locator(".entry-body", has_text="It came up crooked")).to_have_count(1)
    page = working.go("/journal/open")
    page.get_by_role("button", name=re.compile("^end it")).click()
    gone = browser.new_page()
    answer = gone.goto(link)
    assert answer is not None
    assert answer.status == 404
    expect(gone.get_by_text("has ended or was taken back")).to_be_visible()
    gone.close()
