"""A class at work on its page: eight tablets at once on one bed, ballots of children, cards dragged, small tablets, a code that ends."""

import re

import pytest
from playwright.sync_api import Browser, Page, ViewportSize, expect

from tests.browser.conftest import DESK, PATIENCE_MS, Visit

EDUCATOR = pytest.mark.parametrize("working", [("educator", DESK)], indirect=True)
WIDE: ViewportSize = {"width": 1180, "height": 820}
SMALL: ViewportSize = {"width": 360, "height": 640}
A_MINUTE_MS = 60_000
TEAMS = ("The Wrens", "The Newts", "The Badgers", "The Swifts")


def opened(visit: Visit, *does: str) -> str:
    """An educator opens a class page on a bed; its three words."""
    page = visit.go("/journal/classes")
    page.locator("summary", has_text="For voting").click()
    for name in ("draw", "vote", "count", "measure", "sort"):
        page.set_checked(f"input[name=does][value={name}]", name in does)
    page.locator("#teams").fill("\n".join(TEAMS))
    page.get_by_role("button", name="Open it").click()
    page.wait_for_url(re.compile(r"/journal/classes/[0-9a-f-]{36}"))
    return " ".join(page.locator(".class-words span").all_inner_texts())


def path_of(visit: Visit) -> str:
    """The address of the page that an educator has open."""
    return visit.page.url.removeprefix(visit.base)


def tablet(browser: Browser, base: str, words: str, team: str, viewport: ViewportSize = WIDE) -> Visit:
    """A tablet that comes in by the words and chooses a team."""
    visit = Visit(browser.new_context(viewport=viewport, has_touch=True), base)
    page = visit.go("/class")
    page.locator("#code").fill(words)
    page.get_by_role("button", name="Come in").click()
    page.get_by_role("button", name=team).click()
    page.wait_for_url(re.compile("/class/(draw|vote|count|sort)"))
    return visit


def choose(page: Page, what: str) -> None:
    page.locator(f".class-pick[data-what='{what}']").click()


# Draws by hand events on squares of this tablet's own for as long as it is told, and keeps what each was given last.
AT_WORK = """([mine, crops, ms]) => {
  const plan = document.getElementById('plan'), ends = Date.now() + ms;
  window.gave = {};
  window.strokes = 0;
  function hand(name, box) {
    plan.dispatchEvent(new PointerEvent(name, { clientX: box.x + box.width / 2, clientY: box.y + box.height / 2, pointerId: 1, bubbles: true }));
  }
  plan.setPointerCapture = () => {};
  function turn() {
    if (Date.now() > ends) { window.finished = true; return; }
    const at = mine[window.strokes % mine.length], what = crops[(window.strokes * 7 + mine.length) % crops.length];
    document.querySelector('.class-pick[data-what="' + what + '"]').click();
    const box = document.querySelector('.class-square[data-at="' + at + '"]').getBoundingClientRect();
    hand('pointerdown', box);
    hand('pointerup', box);
    window.gave[at] = what;
    window.strokes += 1;
    setTimeout(turn, 150 + Math.random() * 200);
  }
  turn();
}"""


@EDUCATOR
def test_eight_tablets_draw_at_once_for_a_minute_and_no_mark_is_lost(working: Visit, browser: Browser) -> None:
    words = opened(working, "draw")
    tablets = [tablet(browser, working.base, words, TEAMS[n // 4]).page for n in range(8)]
    everywhere = [s.get_attribute("data-at") for s in tablets[0].locator(".class-square").all()]
    crops = [p.get_attribute("data-what") for p in tablets[0].locator(".class-pick").all()][1:]
    assert len(everywhere) >= 16
    for n, page in enumerate(tablets):
        # Each of a team's four tablets has squares of its own, so that what is to stand there can be told.
        page.evaluate(AT_WORK, [everywhere[n % 4 :: 4], crops, A_MINUTE_MS])
    drawn: list[dict[str, str]] = [{}, {}]
    strokes = 0
    for n, page in enumerate(tablets):
        page.wait_for_function("() => window.finished === true", timeout=A_MINUTE_MS + PATIENCE_MS)
        expect(page.locator("#plan-waiting image")).to_have_count(0)
        drawn[n // 4].update(page.evaluate("() => window.gave"))
        strokes += page.evaluate("() => window.strokes")
    assert strokes >= 8 * len(everywhere) // 4
    for n, page in enumerate(tablets):
        found = page.evaluate("fetch('/class/plan').then((answer) => answer.json()).then((plan) => plan.squares)")
        assert found == drawn[n // 4], n
        expect(page.locator("#class-counts li")).to_have_count(len(set(drawn[n // 4].values())))  # the others' as well
        page.context.close()
    page = working.go(path_of(working))
    expect(page.locator(".class-gallery article").first).to_contain_text(f"{len(drawn[0])} of {len(everywhere)}")
    assert working.axe() == []


@EDUCATOR
def test_a_drawing_waits_on_the_tablet_while_the_server_cannot_be_reached(working: Visit, browser: Browser) -> None:
    words = opened(working, "draw")
    small = tablet(browser, working.base, words, TEAMS[0])
    page = small.page
    choose(page, page.locator(".class-pick").nth(2).get_attribute("data-what") or "")
    page.context.set_offline(True)
    page.locator(".class-square").nth(3).click()
    expect(page.locator("#class-said")).to_contain_text("kept on this tablet")
    page.context.set_offline(False)
    page.reload()
    expect(page.locator("#class-counts li")).to_have_count(1)
    page.context.close()


@EDUCATOR
def test_a_stroke_is_drawn_by_hand_taken_back_and_drawn_by_keys(working: Visit, browser: Browser) -> None:
    words = opened(working, "draw")
    small = tablet(browser, working.base, words, TEAMS[0])
    page = small.page
    what = page.locator(".class-pick").nth(2).get_attribute("data-what") or ""
    choose(page, what)
    first, last = (page.locator(".class-square").nth(n).bounding_box() for n in (0, 3))
    assert first is not None
    assert last is not None
    page.mouse.move(first["x"] + 9, first["y"] + 9)
    page.mouse.down()
    page.mouse.move(last["x"] + 9, last["y"] + 9)  # in one leap, as a quick finger does
    page.mouse.up()
    expect(page.locator("#class-counts")).to_contain_text("in 4 squares")
    page.get_by_role("button", name="Undo").click()
    expect(page.locator("#class-counts li")).to_have_count(0)
    page.get_by_role("button", name="Redo").click()
    expect(page.locator("#class-counts")).to_contain_text("in 4 squares")
    page.locator(".class-square").nth(0).focus()
    page.keyboard.press("Delete")
    expect(page.locator("#class-counts")).to_contain_text("in 3 squares")
    page.keyboard.press("Enter")
    expect(page.locator("#class-counts")).to_contain_text("in 4 squares")
    page.keyboard.press("Control+z")
    expect(page.locator("#class-counts")).to_contain_text("in 3 squares")
    assert small.axe() == []
    page.context.close()


@EDUCATOR
def test_children_vote_one_after_another_with_two_dots_each(working: Visit, browser: Browser) -> None:
    words = opened(working, "vote")
    small = tablet(browser, working.base, words, TEAMS[0])
    page = small.page
    for child in range(3):
        boxes = page.locator("[name=dots]")
        boxes.nth(child).check()
        boxes.nth(child + 1).check()
        expect(boxes.nth(child + 2)).to_be_disabled()  # there is no third dot
        page.get_by_role("button", name="Put my ballot in").click()
        expect(page.get_by_text("Hand the tablet on")).to_be_visible()
        expect(page.locator("[name=dots]:checked")).to_have_count(0)
    expect(page.get_by_text(re.compile("3 ballots are in"))).to_be_visible()
    assert small.axe() == []
    page.context.close()
    working.page.reload()
    expect(working.page.locator("#box-title + p")).to_contain_text("3 ballots of")


@EDUCATOR
def test_a_card_is_dragged_to_its_heap_and_a_count_is_written_down_offline(working: Visit, browser: Browser) -> None:
    words = opened(working, "sort", "measure")
    small = tablet(browser, working.base, words, TEAMS[0])
    page = small.page
    page.goto(f"{working.base}/class/sort")
    card = page.locator(".class-table .class-card").first
    name = card.inner_text()
    card.drag_to(page.locator(".class-heap").nth(2))
    expect(page.locator(".class-heap").nth(2)).to_contain_text(name)
    # By keys: choose a card, press its heap.
    other = page.locator(".class-table .class-card input").first
    other.focus()
    page.keyboard.press("Space")
    page.locator(".class-heap button").first.press("Enter")
    expect(page.locator(".class-heap").first.locator(".class-card")).to_have_count(1)
    assert small.axe() == []
    page.goto(f"{working.base}/class/count")
    page.locator(".class-count input[name=amount]").first.fill("12")
    page.context.set_offline(True)
    page.locator(".class-count").first.get_by_role("button", name="Write it down").click()
    expect(page.locator("#class-kept")).to_contain_text("kept on this tablet")
    page.context.set_offline(False)
    expect(page.get_by_text("Height: 12 in").first).to_be_visible()
    page.goto(f"{working.base}/class/board")
    expect(page.locator(".class-board").first).to_contain_text("12 in")
    assert small.axe() == []
    page.context.close()


@EDUCATOR
def test_a_small_tablet_holds_everything(working: Visit, browser: Browser) -> None:
    words = opened(working, "draw", "vote", "count", "sort")
    small = tablet(browser, working.base, words, TEAMS[0], SMALL)
    page = small.page
    for part in ("draw", "vote", "count", "sort", "gallery", "board", "team"):
        page.goto(f"{working.base}/class/{part}")
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), part
        assert small.axe() == []
    page.context.close()


@EDUCATOR
def test_when_the_page_is_closed_a_tablet_says_that_the_lesson_is_over(working: Visit, browser: Browser) -> None:
    words = opened(working, "draw")
    small = tablet(browser, working.base, words, TEAMS[0])
    page = small.page
    working.page.get_by_role("button", name="Close it now").click()
    expect(working.page.get_by_text("Closed.").first).to_be_visible()
    page.wait_for_url(re.compile("/class\\?over=1"))
    expect(page.get_by_text("What you did is kept")).to_be_visible()
    page.context.close()


@EDUCATOR
def test_what_waits_when_the_lesson_ends_is_sent_when_it_is_let_last_longer(working: Visit, browser: Browser) -> None:
    words = opened(working, "measure")
    page = tablet(browser, working.base, words, TEAMS[0]).page
    page.goto(f"{working.base}/class/count")
    page.locator(".class-count input[name=amount]").first.fill("12")
    page.context.set_offline(True)
    page.locator(".class-count").first.get_by_role("button", name="Write it down").click()
    expect(page.locator("#class-kept")).to_contain_text("kept on this tablet")
    working.page.get_by_role("button", name="Close it now").click()
    expect(working.page.get_by_text("Closed.").first).to_be_visible()
    page.context.set_offline(False)
    page.wait_for_url(re.compile("/class\\?over=1"))
    working.page.get_by_role("button", name="10 minutes").click()
    expect(working.page.get_by_text("Open until").first).to_be_visible()
    page.goto(f"{working.base}/class")
    expect(page.locator(".class-page")).to_be_visible()
    page.wait_for_function("() => !Object.keys(localStorage).some((key) => localStorage[key].includes('amount'))")
    page.goto(f"{working.base}/class/board")
    expect(page.locator(".class-board").first).to_contain_text("12 in")
    page.context.close()


@EDUCATOR
def test_one_mark_that_is_refused_takes_no_other_with_it(working: Visit, browser: Browser) -> None:
    words = opened(working, "draw")
    page = tablet(browser, working.base, words, TEAMS[0]).page
    choose(page, page.locator(".class-pick").nth(2).get_attribute("data-what") or "")
    page.route("**/class/marks", lambda route: route.abort())
    page.locator(".class-square").nth(3).click()
    page.goto(f"{working.base}/class/gallery")
    page.evaluate("""() => {
      const key = Object.keys(localStorage).find((one) => one.startsWith('class marks')), kept = JSON.parse(localStorage[key]);
      kept.marks.unshift([crypto.randomUUID(), kept.marks[0][1], 99, 99, 'nothing of this page']);
      localStorage[key] = JSON.stringify(kept);
    }""")
    page.unroute("**/class/marks")
    page.goto(f"{working.base}/class/draw")
    expect(page.locator("#class-counts li")).to_have_count(1)
    page.context.close()
