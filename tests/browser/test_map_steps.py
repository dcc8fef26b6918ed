"""Steps on the map that are made while an answer is still on its way: each is kept, in its order, or taken back as a whole."""

import re

from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import Visit, settle
from tests.browser.slow_answers import slow_answers
from tests.browser.test_garden_drawing import thing
from tests.browser.test_map_drawing import Ground, numbers, said

PLACE = re.compile("/garden/map/place$")


def draw_bed(page: Page, name: str) -> None:
    page.get_by_role("button", name="Bed", exact=True).click()
    with page.expect_response(re.compile("/garden/map/add$")):
        page.keyboard.press("Enter")
    said(page, f"{name} drawn")
    settle(page)


def no_network(sent: Route) -> None:
    sent.abort()


def off_the_ground(sent: Route) -> None:
    sent.continue_(post_data=re.sub(r"&x=[^&]*", "&x=-9000", sent.request.post_data or ""))


def test_a_key_pressed_while_an_answer_comes_is_no_step_less(working: Visit) -> None:
    page = working.go("/garden/map")
    draw_bed(page, "Bed 9")
    with slow_answers(page, PLACE) as slow:
        page.locator("[data-handle=corner][data-n='2']").focus()
        page.keyboard.press("i")
        sent = slow.one_asked()
        page.keyboard.press("Shift+ArrowLeft")  # drawn, held, and the answer to the first comes
        slow.answer(sent)
        expect(thing(page, "Bed 9")).to_have_attribute("data-corners", re.compile(";"))
        page.keyboard.press("Shift+ArrowUp")
        slow.answer()
        # Pressed over an answer that is late: the second waits for the first, drawn where the hand has it.
        page.keyboard.press("Shift+ArrowLeft")
        sent = slow.one_asked()
        page.keyboard.press("Shift+ArrowRight")
        page.wait_for_timeout(600)
        page.keyboard.press("Shift+ArrowRight")
        page.wait_for_timeout(600)
        assert slow.asked == []
        slow.answer(sent)
        slow.answer()
        settle(page)
    expect(page.get_by_label("c pulled in along")).to_have_value("1 ft")
    expect(page.get_by_label("d pulled in down")).to_have_value("2 ft")
    drawn = thing(page, "Bed 9").get_attribute("data-corners") or ""
    page.reload()
    expect(thing(page, "Bed 9")).to_have_attribute("data-corners", drawn)


def test_beds_dragged_one_after_the_other_before_an_answer_are_both_moved(working: Visit) -> None:
    page = working.go("/garden/map")
    for name in ("Bed 9", "Bed 10"):
        draw_bed(page, name)
    was = {name: numbers(thing(page, name)) for name in ("Bed 9", "Bed 10")}
    ground, mouse = Ground(page), page.mouse
    with slow_answers(page, PLACE) as slow:
        for name in ("Bed 9", "Bed 10"):
            x, y, length, width = was[name]
            mouse.move(*ground.at(x + length / 2, y + width / 2))
            mouse.down()
            mouse.move(*ground.at(x + length / 2 + 1, y + width / 2), steps=5)
            mouse.up()
        slow.answer()
        slow.answer()
        settle(page)
    for name, (x, y, length, width) in was.items():
        assert numbers(thing(page, name)) == (x + 1, y, length, width)


def test_who_goes_by_a_link_right_after_a_key_has_moved_it_all_the_same(working: Visit) -> None:
    page = working.go("/garden/map")
    was = numbers(thing(page, "Bed 8"))
    thing(page, "Bed 8").focus()
    with slow_answers(page, PLACE) as slow:
        page.keyboard.press("ArrowRight")
        page.get_by_role("link", name="Week", exact=True).click()
        sent = slow.one_asked()
        page.wait_for_timeout(600)
        assert page.url.endswith("/garden/map")
        sent.continue_()
        page.wait_for_url("**/week**")
    working.go("/garden/map")
    assert numbers(thing(page, "Bed 8"))[0] > was[0]


def test_a_refused_step_is_drawn_as_it_was_with_what_was_built_on_it(working: Visit) -> None:
    page = working.go("/garden/map")
    bed = thing(page, "Bed 8")
    was, lies = numbers(bed), bed.get_attribute("transform") or ""
    for refuse in (no_network, off_the_ground):
        thing(page, "Bed 8").focus()
        with slow_answers(page, PLACE) as slow:
            page.keyboard.press("Shift+ArrowRight")
            sent = slow.one_asked()
            page.keyboard.press("Shift+ArrowRight")
            page.wait_for_timeout(600)
            refuse(sent)
            expect(thing(page, "Bed 8")).to_have_attribute("transform", lies)
            settle(page)
            assert slow.asked == []
    working.faults.clear()  # the browser's own word on the lost signal
    page.reload()
    assert numbers(thing(page, "Bed 8")) == was


def test_what_keys_did_a_moment_ago_is_taken_back_before_it_is_sent(working: Visit) -> None:
    page = working.go("/garden/map")
    lies = thing(page, "Bed 8").get_attribute("transform") or ""
    thing(page, "Bed 8").focus()
    with slow_answers(page, PLACE) as slow:
        page.keyboard.press("Shift+ArrowRight")
        expect(thing(page, "Bed 8")).not_to_have_attribute("transform", lies)
        page.keyboard.press("Control+z")
        expect(thing(page, "Bed 8")).to_have_attribute("transform", lies)
        page.wait_for_timeout(600)
        assert slow.asked == []
    expect(page.locator("#map-said")).not_to_contain_text("Taken back")
