"""A pupil page with its answers apart, as it comes out of the printer; and what to buy, by crop and by supplier."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import DESK, Visit
from tests.database import bed_id

LESSON = f"/week/lessons/measuring-growth/pupil?bed={bed_id('Bed 2')}"
COORDINATOR = pytest.mark.parametrize("working", [("coordinator", DESK)], indirect=True)


@COORDINATOR
def test_a_pupil_page_prints_with_its_map_and_without_the_answers(working: Visit) -> None:
    page = working.go(LESSON)
    page.emulate_media(media="print")
    expect(page.locator(".pupil-map svg")).to_be_visible()
    expect(page.locator(".pupil-tasks li").first).to_be_visible()
    expect(page.locator(".page-head")).to_be_hidden()
    expect(page.locator("nav").first).to_be_hidden()
    pages = re.findall(rb"/Type\s*/Page\b", page.pdf(format="Letter"))
    assert 1 <= len(pages) <= 2
    on_paper = page.locator(".pupil-page").inner_text()
    page.emulate_media(media="screen")
    page.get_by_role("link", name="Answers").click()
    expect(page.get_by_text("Answers, for the one who teaches")).to_be_visible()
    page.emulate_media(media="print")
    answers = page.locator(".pupil-page li").all_inner_texts()
    assert answers
    assert not any(answer in on_paper for answer in answers)


@COORDINATOR
def test_the_order_is_read_by_crop_by_supplier_and_as_a_table(working: Visit) -> None:
    page = working.go("/seeds/order")
    rows = page.locator("tbody tr")
    assert rows.count() > 0
    expect(page.get_by_text(re.compile(r"\bsets\b|\bstarts\b|\btubers\b|\bcloves\b")).first).to_be_visible()
    page.get_by_role("link", name=re.compile("supplier", re.IGNORECASE)).first.click()
    expect(page.locator("tbody tr").first).to_be_visible()
    with page.expect_download() as saved:
        page.get_by_role("link", name=re.compile("CSV")).first.click()
    assert saved.value.suggested_filename.endswith(".csv")
    page.emulate_media(media="print")
    expect(page.locator("nav").first).to_be_hidden()
