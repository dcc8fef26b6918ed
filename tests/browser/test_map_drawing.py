"""The garden drawn by hand: beds by pointer and keys, an L by a pulled corner, copies and rows, undo, a sketch to trace over."""

import io
import re

from PIL import Image, ImageDraw
from playwright.sync_api import Locator, Page, Route, expect

from tests.browser.conftest import PHONE, Visit, settle
from tests.browser.test_garden_drawing import thing

FT = 304.8


class Ground:
    """Places on the map's ground in feet, as places on the screen."""

    def __init__(self, page: Page) -> None:
        self.page = page
        box = page.locator(".map-picture").bounding_box()
        assert box is not None
        self.left, self.top = box["x"], box["y"]
        wide = page.locator("#map-edit").get_attribute("data-site-width")
        self.per_foot = box["width"] / (float(wide or 0) / FT)

    def at(self, x_ft: float, y_ft: float) -> tuple[float, float]:
        return self.left + x_ft * self.per_foot, self.top + y_ft * self.per_foot

    def drag(self, *through: tuple[float, float]) -> None:
        """Press at the first place, go through the others and let go; waits for the answer."""
        mouse = self.page.mouse
        mouse.move(*self.at(*through[0]))
        mouse.down()
        for place in through[1:]:
            mouse.move(*self.at(*place), steps=5)
        with self.page.expect_response(lambda answer: answer.request.method == "POST"):
            mouse.up()
        settle(self.page)


def numbers(one: Locator) -> tuple[float, ...]:
    return tuple(round(float(one.get_attribute(f"data-{key}") or 0) / FT, 3) for key in ("x", "y", "length", "width"))


def said(page: Page, words: str) -> None:
    expect(page.locator("#map-said")).to_contain_text(words)


def test_a_bed_is_drawn_its_corner_pulled_in_and_taken_back_step_by_step(working: Visit) -> None:
    page = working.go("/garden/map")
    ground = Ground(page)
    page.get_by_role("button", name="Bed", exact=True).click()
    expect(page.locator(".map-ghost")).to_contain_text("fits here")
    ground.drag((31, 1), (36, 3), (41, 5))
    said(page, "Bed 9 drawn, 10 ft × 4 ft.")
    bed = thing(page, "Bed 9")
    assert numbers(bed) == (31, 1, 10, 4)
    # Its upper right corner inward: an L. While it is held, the sizes stand at the hand and in the boxes.
    mouse = page.mouse
    mouse.move(*ground.at(41, 1))
    mouse.down()
    mouse.move(*ground.at(38, 2), steps=4)
    mouse.move(*ground.at(37, 3), steps=4)
    expect(page.locator(".map-size")).to_contain_text(["6 ft"])
    expect(page.get_by_label("a along")).to_have_value("10 ft")
    with page.expect_response(re.compile("/garden/map/place")):
        mouse.up()
    settle(page)
    said(page, "Bed 9 has another outline.")
    expect(page.get_by_label("c pulled in along")).to_have_value("4 ft")
    expect(page.get_by_label("d pulled in down")).to_have_value("2 ft")
    expect(page.locator(".map-panel")).to_contain_text("32 whole squares")
    # The exact way changes the same shape.
    page.get_by_label("d pulled in down").fill("1 ft 6 in")
    page.get_by_label("d pulled in down").press("Enter")
    said(page, "Saved: Bed 9, 10 ft × 4 ft.")
    assert "457.2" in (thing(page, "Bed 9").get_attribute("data-corners") or "")
    for step in ("change Bed 9", "change Bed 9", "draw Bed 9"):
        page.get_by_role("button", name=f"Undo: {step}").click()
        said(page, f"Taken back: {step}.")
    expect(thing(page, "Bed 9")).to_have_count(0)
    page.keyboard.press("Control+Shift+z")
    said(page, "Done again: draw Bed 9.")
    assert numbers(thing(page, "Bed 9")) == (31, 1, 10, 4)


def test_a_wrong_length_is_told_at_its_box_and_the_drawing_stays(working: Visit) -> None:
    page = working.go("/garden/map")
    thing(page, "Bed 7").click()
    box = page.get_by_label("a along")
    expect(box).to_have_value("4 ft")
    box.fill("four")
    box.press("Enter")
    expect(page.locator("#b-length + .field-error")).to_contain_text("four")
    expect(box).to_have_value("four")
    assert numbers(thing(page, "Bed 7"))[2:] == (4, 4)


def test_a_bed_is_set_and_shaped_with_the_keyboard_alone(working: Visit) -> None:
    page = working.go("/garden/map")
    page.get_by_role("button", name="Bed", exact=True).focus()
    page.keyboard.press("Space")
    page.keyboard.press("Enter")
    said(page, "Bed 9 drawn, 8 ft × 4 ft.")
    bed = thing(page, "Bed 9")
    was = numbers(bed)
    bed.focus()
    page.keyboard.press("Shift+ArrowRight")
    said(page, "Bed 9 moved to")
    assert numbers(thing(page, "Bed 9"))[0] == was[0] + 1
    page.locator("[data-handle=side][data-n='0']").focus()
    page.keyboard.press("Shift+ArrowRight")
    said(page, "Bed 9 is now 9 ft × 4 ft.")
    page.locator("[data-handle=corner][data-n='2']").focus()
    page.keyboard.press("Delete")
    said(page, "Bed 9 has another outline.")
    assert (thing(page, "Bed 9").get_attribute("data-corners") or "").count(";") == 2


def test_six_beds_stand_in_a_row_with_paths_between(working: Visit) -> None:
    page = working.go("/garden/map")
    ground = Ground(page)
    page.get_by_role("button", name="Bed", exact=True).click()
    ground.drag((31, 6), (33, 8))
    said(page, "Bed 9 drawn")
    page.get_by_label("A row of").fill("4")
    page.get_by_label("paths between").fill("1 ft")
    page.get_by_role("button", name="Make the row").click()
    said(page, "4 beds in a row: Bed 9 to Bed 12.")
    assert [numbers(thing(page, f"Bed {n}"))[0] for n in (9, 10, 11, 12)] == [31, 34, 37, 40]
    page.get_by_role("button", name="Undo: draw Bed 10 and 2 more").click()
    expect(thing(page, "Bed 12")).to_have_count(0)


def test_a_scanned_sketch_is_laid_under_the_map_to_scale(working: Visit) -> None:
    page = working.go("/garden/map")
    page.locator("#under-the-map summary").click()
    page.locator("#under-file").set_input_files({"name": "plan.png", "mimeType": "image/png", "buffer": sketch()})
    page.get_by_role("button", name="Lay it under the map").click()
    expect(page.locator(".underlays image")).to_have_count(1)
    ground = Ground(page)
    page.get_by_role("button", name="Set A and B").click()
    for place in ((10, 10), (20, 10)):
        page.mouse.click(*ground.at(*place))
    page.get_by_label("A to B is really").fill("20 ft")
    before = width_of(page.locator(".underlays image"))
    page.get_by_role("button", name="Set to scale").click()
    settle(page)
    expect(page.locator(".underlays image")).to_have_count(1)
    assert abs(width_of(page.locator(".underlays image")) / before - 2) < 0.1


def test_a_finger_chooses_by_a_tap_and_moves_what_is_chosen(browser, site: str, working: Visit) -> None:
    context = browser.new_context(
        viewport=PHONE, has_touch=True, is_mobile=True, storage_state=working.context.storage_state()
    )
    page = context.new_page()
    page.goto(f"{site}/garden/map")
    settle(page)
    thing(page, "Rain barrel").tap()
    expect(page.get_by_role("heading", name="Change Rain barrel")).to_be_visible()
    box = thing(page, "Rain barrel").bounding_box()
    assert box is not None
    touch = page.context.new_cdp_session(page)
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    was = numbers(thing(page, "Rain barrel"))
    touch.send("Input.dispatchTouchEvent", {"type": "touchStart", "touchPoints": [{"x": x, "y": y}]})
    for n in range(1, 9):
        touch.send("Input.dispatchTouchEvent", {"type": "touchMove", "touchPoints": [{"x": x + 2 * n, "y": y}]})
    with page.expect_response(re.compile("/garden/map/place")):
        touch.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})
    settle(page)
    assert numbers(thing(page, "Rain barrel"))[0] > was[0]
    context.close()


def sketch() -> bytes:
    """A pencil map, drawn here: six beds in two rows beside a path."""
    image = Image.new("RGB", (800, 560), "#f4f1ea")
    pen = ImageDraw.Draw(image)
    for row in range(2):
        for column in range(3):
            left, top = 60 + 240 * column, 80 + 220 * row
            pen.rectangle((left, top, left + 160, top + 80), outline="#777777", width=3)
    pen.line((0, 270, 800, 274), fill="#999999", width=4)
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()


def width_of(one: Locator) -> float:
    box = one.bounding_box()
    assert box is not None
    return float(box["width"])


def test_what_was_looked_at_before_does_not_take_the_map_from_what_was_written_since(working: Visit) -> None:
    page = working.go("/garden/map")
    held: dict[str, Route] = {}

    def hold(route: Route) -> None:
        if route.request.headers.get("hx-request") and route.request.method not in held:
            held[route.request.method] = route
        else:
            route.continue_()

    page.route("**/garden/**", hold)
    shed = thing(page, "Tool shed")
    shed.click()
    box = shed.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 90, y + 30, steps=6)
    page.mouse.up()
    while "POST" not in held:
        page.wait_for_timeout(20)
    with page.expect_response(lambda answer: answer.request.method == "GET" and "thing=" in answer.url):
        held["GET"].continue_()
    page.evaluate(
        "new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))"
    )  # it would be swapped in by now
    held["POST"].continue_()
    expect(page.locator("#map-said")).to_contain_text("Tool shed moved to")


def test_who_goes_by_a_link_while_a_box_is_kept_goes_when_it_is_though_an_answer_of_before_came_with_the_press(
    working: Visit,
) -> None:
    page = working.go("/garden/map")
    thing(page, "Bed 5").click()
    name = page.locator("#bed-numbers [name=name]")
    expect(name).to_have_value("Bed 5")
    settle(page)
    held: list[Route] = []
    page.route(
        "**/garden/map/**", lambda route: held.append(route) if route.request.method == "POST" else route.continue_()
    )
    name.fill("Soup bed")
    name.press("Enter")
    while not held:
        page.wait_for_timeout(20)
    page.evaluate("""() => {
      const before = { elt: document.body, requestConfig: { verb: 'get', elt: document.body } };
      document.dispatchEvent(new CustomEvent('htmx:afterRequest', { detail: before }));
      document.querySelector('.top-bar a[href="/year"]').click();
    }""")
    page.evaluate("new Promise(done => setTimeout(done))")
    assert "/garden/map" in page.url
    held[0].continue_()
    expect(page).to_have_url(re.compile("/year"))
    expect(thing(working.go("/garden/map"), "Soup bed")).to_be_visible()
