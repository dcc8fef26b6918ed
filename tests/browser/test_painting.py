"""Painting a bed: strokes show at once and none is dropped, what stands there is asked about, and a finger paints on a phone."""

import re

import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import PHONE, Visit, middle_of, settle
from tests.browser.large_bed import draw_large_bed
from tests.browser.slow_answers import slow_answers


def middle(page: Page, square: str) -> tuple[float, float]:
    return middle_of(page, f"[data-cell={square}]")


def pencils(page: Page) -> None:
    page.get_by_text("pencils", exact=True).click()


def press(page: Page, square: str) -> None:
    page.mouse.click(*middle(page, square))


@pytest.fixture
def large_bed(working: Visit) -> str:
    return draw_large_bed(working.page, working.base)


def test_sixty_strokes_on_a_thousand_squares_are_all_drawn_at_once_and_all_kept(working: Visit, large_bed: str) -> None:
    page = working.go(f"/garden/beds/{large_bed}")
    pencils(page)
    squares = [f"{chr(65 + column)}{row}" for row in (3, 6, 9, 12, 15, 18) for column in range(0, 20, 2)]
    assert len(squares) == 60
    places = [middle(page, square) for square in squares]
    drawn = 0
    for x, y in places:
        page.mouse.click(x, y)
        shown = page.evaluate(
            "([x, y]) => document.elementsFromPoint(x, y).some(e => e.matches('.stroke, .pencil-box')) ||"
            " Array.from(document.querySelectorAll('.stroke, .pencil-box')).some(e => { const b = e.getBoundingClientRect();"
            " return x >= b.left && x <= b.right && y >= b.top && y <= b.bottom; })",
            [x, y],
        )
        drawn += bool(shown)
    assert drawn == 60
    expect(page.locator("figcaption", has_text="free")).to_contain_text("60 planted")
    expect(page.locator(".strokes")).to_have_count(0)


def test_strokes_that_could_not_be_sent_are_sent_when_the_bed_is_opened_again(working: Visit) -> None:
    page = working.bed("Bed 4")
    pencils(page)
    page.route("**/garden/beds/*", lambda route: route.abort() if route.request.method == "POST" else route.continue_())
    for square in ("A4", "B4", "C4"):
        press(page, square)
    expect(page.locator("#said")).to_contain_text("Your strokes are kept")
    page.unroute_all()
    page = working.bed("Bed 4")
    for square in ("A4", "B4", "C4"):
        expect(page.locator(f"[data-cell={square}]")).to_have_attribute("aria-label", re.compile("radish"))
    working.faults.clear()  # the browser's own word on the lost signal


def test_a_stroke_whose_answer_was_lost_is_not_painted_twice(working: Visit) -> None:
    page = working.bed("Bed 4")
    pencils(page)
    sent = []

    def lose_the_answer(route: Route) -> None:
        if route.request.method != "POST":
            route.continue_()
            return
        sent.append(route.fetch().status)
        route.abort()

    page.route("**/garden/beds/*", lose_the_answer)
    press(page, "B4")
    expect(page.locator("#said")).to_contain_text("Your strokes are kept")
    assert sent[0] == 200
    page.unroute_all(behavior="ignoreErrors")
    page = working.bed("Bed 4")
    expect(page.locator(".strokes")).to_have_count(0)
    expect(page.locator("[data-cell=B4]")).to_have_attribute("aria-label", re.compile("radish"))
    expect(page.locator("#said.is-refused")).to_have_count(0)
    page.get_by_role("button", name=re.compile("Undo: paint radish")).click()
    expect(page.locator("[data-cell=B4]")).not_to_have_attribute("aria-label", re.compile("radish"))
    working.faults.clear()  # the browser's own word on the lost signal


def test_a_part_that_became_another_meanwhile_is_fetched_and_never_left_empty(working: Visit) -> None:
    page = working.bed("Bed 4")
    page.evaluate(
        """() => {
          const answer = document.getElementById('sheet').cloneNode(true);
          for (const name of ['row-1', 'facts']) {
            const part = answer.querySelector(`[data-part=${name}]`);
            part.dataset.digest = 'ffffffffffff';
            part.toggleAttribute('data-same', true);
            part.replaceChildren();
          }
          return BedStrokes.take(answer.outerHTML);
        }"""
    )
    expect(page.locator("[data-cell=A1]")).to_have_count(1)
    expect(page.locator("figcaption", has_text="free")).to_be_visible()


def test_a_drawing_that_fails_loads_the_page_anew_and_loses_no_stroke(working: Visit) -> None:
    page = working.bed("Bed 4")
    pencils(page)
    page.evaluate("document.querySelector('[data-parts=lines]').remove()")
    with page.expect_event("load"):
        press(page, "A4")
    settle(page)
    expect(page.locator("figcaption")).to_contain_text("Undo: paint radish")
    pencils(page)
    press(page, "B4")
    expect(page.locator("#said")).to_contain_text("pencilled in")
    expect(page.locator(".strokes")).to_have_count(0)


def test_what_stands_there_is_asked_about_at_the_hand(working: Visit) -> None:
    page = working.bed("Bed 4")
    pencils(page)
    page.locator("select[name=crop]").select_option("carrot")
    settle(page)
    press(page, "A4")
    expect(page.locator("#said")).to_contain_text("Carrot pencilled in")
    page.locator("select[name=crop]").select_option("radish")
    settle(page)
    press(page, "A4")
    ask = page.get_by_role("dialog", name="Something stands there")
    expect(ask).to_contain_text("A4 holds carrot, pencilled")
    ask.get_by_role("button", name="Leave it").click()
    expect(page.locator("[data-cell=A4]")).to_have_attribute("aria-label", re.compile("carrot"))
    press(page, "A4")
    ask.get_by_role("button", name="Paint over").click()
    expect(page.locator("#said")).to_contain_text("Radish pencilled in")
    expect(page.locator("[data-cell=A4]")).to_have_attribute("aria-label", re.compile("radish"))


def test_the_bed_stays_where_it_is_while_it_is_painted_and_refused(working: Visit) -> None:
    page = working.bed("Bed 4")
    pencils(page)
    at = page.locator(".bed-picture").bounding_box()
    press(page, "A4")
    expect(page.locator("#said")).to_contain_text("Radish pencilled in")
    assert page.locator(".bed-picture").bounding_box() == at
    page.get_by_text("rubs out", exact=True).click()
    press(page, "B4")
    expect(page.locator("#said.is-refused")).to_be_visible()
    assert page.locator(".bed-picture").bounding_box() == at
    working.faults.clear()  # the browser's own word on the refusal


def test_a_double_press_fills_what_is_alike_around(working: Visit) -> None:
    page = working.bed("Bed 4")
    pencils(page)
    page.mouse.dblclick(*middle(page, "A4"))
    expect(page.locator("#said")).to_contain_text(re.compile(r"Radish pencilled in: \d{2,} plants"))


def test_news_that_was_asked_for_before_a_stroke_does_not_tell_it_as_anothers(working: Visit) -> None:
    page = working.bed("Bed 4")
    pencils(page)
    with slow_answers(page, re.compile(r"/garden/beds/[0-9a-f-]+/news\?")) as news:
        before = news.one_asked()
        press(page, "A4")
        expect(page.locator("#said")).to_contain_text("Radish pencilled in")
        news.asked.clear()
        news.answer(before)
        news.one_asked()  # the page has read the late one
        expect(page.locator("#said")).to_contain_text("Radish pencilled in")


def test_a_finger_paints_forty_squares_and_two_scroll(browser, site: str, working: Visit, large_bed: str) -> None:
    context = browser.new_context(
        viewport=PHONE, has_touch=True, is_mobile=True, storage_state=working.context.storage_state()
    )
    page = context.new_page()
    page.goto(f"{site}/garden/beds/{large_bed}")
    settle(page)
    tray = page.locator(".paint-tray")
    expect(tray).to_be_visible()
    tray.get_by_text("paint", exact=True).click()
    page.locator(".bed-picture").scroll_into_view_if_needed()
    touch = context.new_cdp_session(page)

    def finger(kind: str, *points: tuple[float, float]) -> None:
        touch.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": [{"x": x, "y": y} for x, y in points]})

    strokes = [[middle(page, f"{chr(65 + column)}{row}") for column in range(20)] for row in (3, 6)]
    for places in strokes:
        finger("touchStart", places[0])
        for place in places[1:]:
            finger("touchMove", place)
        finger("touchEnd")
    expect(page.locator("figcaption", has_text="free")).to_contain_text("40 planted")
    expect(tray.get_by_role("button", name="Radish")).to_be_visible()
    before = page.evaluate("window.scrollY")
    x, y = middle(page, "H9")
    finger("touchStart", (x, y))
    finger("touchStart", (x, y), (x + 40, y))
    for n in range(1, 9):
        finger("touchMove", (x, y - 12 * n), (x + 40, y - 12 * n))
    finger("touchEnd")
    assert page.evaluate("window.scrollY") > before
    expect(page.locator("figcaption", has_text="free")).to_contain_text("40 planted")
    context.close()
