"""The first hour, by pointer, by finger on a phone and by keys alone: from the start page to a drawn garden with a first plan."""

import time
from abc import ABC, abstractmethod
from collections.abc import Sequence

import pytest
from playwright.sync_api import Browser, Locator, Page, expect

from tests.browser.conftest import DESK, PHONE, Visit, settle
from tests.browser.test_map_drawing import Ground, said, sketch
from tests.browser.test_new_school import found_school

SKETCH_SIZE, SKETCH_BED = (
    (800, 560),
    (60, 80, 160, 80),
)  # the sketch, and its first bed in it: left, top, width, height [px]
BY_NUMBERS = [(1, 1), (12, 1), (23, 1), (1, 8), (12, 8), (23, 8)]  # corners [ft] that are typed by keys
CROPS = (("Radish", "C1", 16), ("Leaf lettuce", "D1", 4), ("Carrot", "C2", 16), ("Chives", "D2", 4))
MOST_PRESSES, MOST_SECONDS = 60, 600
OFFICE_LIST = """2026-27 calendar
Aug 24  First day of school
Sep 7  Labor Day, no school
Nov 23-27  Thanksgiving break
Dec 21 - Jan 1  Winter break
Jan 18  No school
Mar 15-19  Spring break
May 28  Last day of school
"""
Place = tuple[float, float]


class Hand(ABC):
    """One way of working; counts its presses, a drag or a drawn thing as one."""

    touch = False
    size = DESK

    def __init__(self, page: Page) -> None:
        self.page, self.presses = page, 0

    @abstractmethod
    def press(self, where: Locator) -> None: ...

    @abstractmethod
    def draw(self, tool: str, ground: Ground, corner: Place, size: Place) -> None:
        """A bed of this size [ft] with its corner there."""

    @abstractmethod
    def pull_corner(self, ground: Ground, corner: Place, by: Place) -> None:
        """The far corner of the chosen bed, by so many feet."""

    @abstractmethod
    def set_to_scale(self, picture: Locator) -> None:
        """A and B on the upper corners of the sketch's first bed, which are 8 ft apart."""

    @abstractmethod
    def keep(self, bed: Locator) -> None:
        """A kept part of two by two squares at the bed's corner."""

    @abstractmethod
    def paint(self, square: str) -> None: ...

    def take_the_pencil(self) -> None:
        self.press(self.page.get_by_text("pencils", exact=True))


class Pointer(Hand):
    def press(self, where: Locator) -> None:
        self.presses += 1
        where.click()

    def draw(self, tool: str, ground: Ground, corner: Place, size: Place) -> None:
        self.press(self.page.get_by_role("button", name=tool, exact=True))
        (x, y), (length, width) = corner, size
        self.drag(ground.at(x, y), ground.at(x + length / 2, y + width / 2), ground.at(x + length, y + width))

    def pull_corner(self, ground: Ground, corner: Place, by: Place) -> None:
        (x, y), (dx, dy) = corner, by
        self.drag(ground.at(x, y), ground.at(x + dx / 3, y + dy / 2), ground.at(x + dx, y + dy))

    def set_to_scale(self, picture: Locator) -> None:
        self.press(self.page.get_by_role("button", name="Set A and B"))
        expect(self.page.locator("body[data-tracing=points]")).to_be_visible()
        at_rest(self.page)
        box = picture.bounding_box()
        assert box is not None
        for x in (SKETCH_BED[0], SKETCH_BED[0] + SKETCH_BED[2]):
            self.at(
                box["x"] + box["width"] * x / SKETCH_SIZE[0], box["y"] + box["height"] * SKETCH_BED[1] / SKETCH_SIZE[1]
            )

    def at(self, x: float, y: float) -> None:
        self.presses += 1
        self.page.mouse.click(x, y)

    def keep(self, bed: Locator) -> None:
        box = bed.bounding_box()
        assert box is not None
        left, top, width, height = box["x"], box["y"], box["width"], box["height"]
        self.drag((left + 4, top + 4), (left + width / 8, top + height / 3), (left + width / 4, top + height / 2))

    def paint(self, square: str) -> None:
        self.press(self.page.locator(f"[data-cell={square}]"))

    def drag(self, *through: Place) -> None:
        """Press at the first place, go through the others and let go; waits for the answer."""
        self.presses += 1
        mouse = self.page.mouse
        mouse.move(*through[0])
        mouse.down()
        for place in through[1:]:
            mouse.move(*place, steps=5)
        with self.page.expect_response(lambda answer: answer.request.method == "POST"):
            mouse.up()
        settle(self.page)


class Finger(Pointer):
    touch, size = True, PHONE

    def press(self, where: Locator) -> None:
        self.presses += 1
        settle(self.page)  # the part it stands in may just be drawn anew
        # As a thumb pushes a row of tools along first, and lets it stand still.
        where.evaluate("it => it.scrollIntoView({ block: 'nearest', inline: 'nearest', behavior: 'instant' })")
        settle(self.page)
        where.tap()

    def at(self, x: float, y: float) -> None:
        self.presses += 1
        self.page.touchscreen.tap(x, y)

    def take_the_pencil(self) -> None:
        self.press(self.page.locator(".paint-tray").get_by_text("paint", exact=True))

    def drag(self, *through: Place) -> None:
        self.presses += 1
        touch = self.page.context.new_cdp_session(self.page)

        def finger(kind: str, points: Sequence[Place]) -> None:
            touch.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": [{"x": x, "y": y} for x, y in points]})

        finger("touchStart", through[:1])
        at = through[0]
        for place in through[1:]:
            for n in range(1, 6):
                finger("touchMove", [(at[0] + (place[0] - at[0]) * n / 5, at[1] + (place[1] - at[1]) * n / 5)])
            at = place
        with self.page.expect_response(lambda answer: answer.request.method == "POST"):
            finger("touchEnd", [])
        settle(self.page)


class Keys(Hand):
    def press(self, where: Locator) -> None:
        self.presses += 1
        where.focus()
        self.page.keyboard.press("Enter")

    def draw(self, tool: str, ground: Ground, corner: Place, size: Place) -> None:
        """Set down at the first free place, then moved by its numbers."""
        self.press(self.page.get_by_role("button", name=tool, exact=True))
        with self.page.expect_response(lambda answer: answer.request.method == "POST"):
            self.page.keyboard.press("Enter")
        settle(self.page)
        panel = self.page.locator(".map-panel")
        for label, value in (("from the left", corner[0]), ("from the top", corner[1])):
            panel.get_by_label(label).fill(f"{value} ft")
        with self.page.expect_response(lambda answer: answer.request.method == "POST"):
            panel.get_by_label("from the top").press("Enter")
        settle(self.page)

    def pull_corner(self, ground: Ground, corner: Place, by: Place) -> None:
        self.page.locator("[data-handle=corner][data-n='2']").focus()
        self.page.keyboard.press("i")
        for steps, key in ((-by[0] - 1, "ArrowLeft"), (-by[1] - 1, "ArrowUp")):
            for _ in range(round(steps)):
                self.page.keyboard.press(f"Shift+{key}")
        self.presses += 1

    def set_to_scale(self, picture: Locator) -> None:
        """Both points are there and have the keyboard: B is moved until it lies 8 ft from A, the sketch's own scale left as it is."""
        self.press(self.page.get_by_role("button", name="Set A and B"))
        expect(self.page.get_by_role("button", name="Point A: arrows move it")).to_be_focused()
        self.page.get_by_role("button", name="Point B: arrows move it").focus()
        self.page.keyboard.press("Shift+ArrowLeft")
        self.presses += 1

    def keep(self, bed: Locator) -> None:
        self.page.keyboard.press("Enter")
        self.presses += 1

    def take_the_pencil(self) -> None:
        self.presses += 1
        self.page.get_by_role("radio", name="pencils").focus()
        self.page.keyboard.press("Space")

    def paint(self, square: str) -> None:
        self.presses += 1
        self.page.locator(".cell[tabindex='0']").focus()
        column, row = ord(square[0]) - ord("A"), int(square[1:]) - 1
        for key, times in (("ArrowLeft", 8), ("ArrowUp", 4), ("ArrowRight", column), ("ArrowDown", row)):
            for _ in range(times):
                self.page.keyboard.press(key)
        self.page.keyboard.press("p")


@pytest.mark.parametrize("way", [Pointer, Finger, Keys])
def test_a_newcomer_gets_from_nothing_to_a_traced_garden_with_a_first_plan(
    browser: Browser, site: str, way: type[Hand]
) -> None:
    """Six beds traced over a scanned sketch, one an L with an old fig, four crops in pencil with the right counts."""
    context = browser.new_context(viewport=way.size, locale="en-GB", has_touch=way.touch, is_mobile=way.touch)
    visit = Visit(context, site)
    began = time.monotonic()
    hand = way(visit.go("/login"))
    found_with(hand)
    school_year(hand)
    traced_garden(hand)
    old_fig(hand)
    first_plan(hand)
    assert visit.axe() == []
    assert hand.presses < MOST_PRESSES
    assert time.monotonic() - began < MOST_SECONDS
    assert visit.faults == []
    context.close()


def found_with(hand: Hand) -> None:
    hand.press(hand.page.get_by_role("link", name="Set up a school of your own"))
    found_school(hand.page)
    hand.presses += 4


def school_year(hand: Hand) -> None:
    """The year from the office's list, the classes with their lessons."""
    page = hand.page
    page.get_by_label("Or paste the list").fill(OFFICE_LIST)
    hand.press(page.get_by_role("button", name="Look at it"))
    expect(page.get_by_role("heading", name="2026–27: 178 school days")).to_be_visible()
    hand.press(page.get_by_role("button", name="Keep the calendar"))
    hand.press(page.get_by_role("button", name="Keep the classes"))


def traced_garden(hand: Hand) -> None:
    """The sketch, to scale; six beds over it, the last one an L."""
    page = hand.page
    hand.press(page.get_by_role("link", name="An empty ground draw everything"))
    hand.press(page.locator("#under-the-map summary"))
    page.locator("#under-file").set_input_files({"name": "plan.png", "mimeType": "image/png", "buffer": sketch()})
    hand.presses += 1
    hand.press(page.get_by_role("button", name="Lay it under the map"))
    picture = page.locator(".underlays image")
    expect(picture).to_have_count(1)
    in_sight(page)
    hand.set_to_scale(picture)
    page.get_by_label("A to B is really").fill("8 ft")
    hand.press(page.get_by_role("button", name="Set to scale"))
    expect(page.locator("#map-said")).to_contain_text("to scale")
    settle(page)
    ground = in_sight(page)
    beds = sketched(ground, picture) if isinstance(hand, Pointer) else BY_NUMBERS
    for n, corner in enumerate(beds, start=1):
        hand.draw("Bed", in_sight(page), corner, (8, 4))
        expect(page.locator(".map-panel h2")).to_contain_text(f"Bed {n}")
        expect(page.locator(".map-panel")).to_contain_text("32 whole squares")
    hand.pull_corner(in_sight(page), (beds[-1][0] + 8, beds[-1][1] + 4), (-3, -2))
    said(page, "Bed 6 has another outline.")
    expect(page.locator(".map-panel")).to_contain_text("26 whole squares")


def old_fig(hand: Hand) -> None:
    page = hand.page
    hand.press(page.get_by_role("link", name="Draw what stays in it, and sections"))
    hand.press(page.get_by_role("button", name="What stays"))
    hand.keep(page.locator(".parts-bed"))
    said(page, "Kept part drawn, 2 ft × 2 ft.")
    page.get_by_label("Name").fill("Old fig")
    page.get_by_label("crown high").fill("8 ft")
    page.get_by_label("crown high").press("Enter")
    said(page, "Saved: Old fig.")
    expect(page.get_by_label("crown high")).to_have_value("8 ft")
    expect(page.locator(".page-head")).to_contain_text("22 free squares")


def first_plan(hand: Hand) -> None:
    page = hand.page
    hand.press(page.get_by_role("link", name="Its sheet"))
    expect(page.get_by_role("grid", name="Squares of Bed 6")).to_be_visible()
    settle(page)
    hand.take_the_pencil()
    for crop, square, plants in CROPS:
        box = page.get_by_role("combobox", name="Crop")
        box.fill(crop)
        box.press("Enter")
        hand.presses += 1
        settle(page)
        hand.paint(square)
        expect(page.locator("#said")).to_contain_text(f"{crop} pencilled in: {plants} plants in 1 square")
    expect(page.locator("figcaption", has_text="free")).to_contain_text("18 free")


def sketched(ground: Ground, picture: Locator) -> list[Place]:
    """Corners [ft] of the six beds of the sketch where it lies, to the foot; drawn 8 × 4 ft, 12 and 11 ft from one to the next."""
    box = picture.bounding_box()
    assert box is not None
    per_px = box["width"] / SKETCH_SIZE[0] / ground.per_foot
    left, top = (box["x"] - ground.left) / ground.per_foot, (box["y"] - ground.top) / ground.per_foot
    assert abs(per_px * SKETCH_BED[2] - 8) < 0.3
    return [
        (round(left + per_px * (SKETCH_BED[0] + 240 * column)), round(top + per_px * (SKETCH_BED[1] + 220 * row)))
        for row in range(2)
        for column in range(3)
    ]


def in_sight(page: Page) -> Ground:
    """The map, all of it in the window."""
    page.locator(".map-picture").scroll_into_view_if_needed()
    at_rest(page)
    return Ground(page)


def at_rest(page: Page) -> None:
    """Pages scroll smoothly: wait until this one lies still."""
    page.evaluate(
        """new Promise(done => { let last = -1, still = 0; (function look() {
        still = scrollY === last ? still + 1 : 0; last = scrollY; if (still > 8) { done(); } else { requestAnimationFrame(look); } }()); })"""
    )
