"""A newcomer sets up a school from a calendar file and a weather table, in the browser, in well under five minutes."""

import time
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import DESK, Visit, settle
from tests.browser.test_map_drawing import Ground, sketch

DATA = Path(__file__).parents[1] / "reference/data"
CALENDAR = """BEGIN:VCALENDAR\r
VERSION:2.0\r
PRODID:-//office//EN\r
{events}END:VCALENDAR\r
"""
EVENT = "BEGIN:VEVENT\r\nUID:{uid}\r\nSUMMARY:{name}\r\nDTSTART;VALUE=DATE:{start}\r\nDTEND;VALUE=DATE:{end}\r\nEND:VEVENT\r\n"
EVENTS = [
    ("First day of school", "20260824", "20260825"),
    ("Last day of school", "20270604", "20270605"),
    ("No school - Founders' day", "20261012", "20261013"),
    ("Winter break", "20261221", "20270104"),
    ("Spring break", "20270315", "20270322"),
    ("Early release 12:30", "20261118", "20261119"),
    ("Soup day", "20261120", "20261121"),
    ("Board meeting", "20260915", "20260916"),
]
MINUTES = 5


def write_calendar(folder: Path) -> Path:
    file = folder / "district.ics"
    events = "".join(
        EVENT.format(uid=n, name=name, start=start, end=end) for n, (name, start, end) in enumerate(EVENTS)
    )
    file.write_bytes(CALENDAR.format(events=events).encode())
    return file


def found_school(page: Page) -> None:
    page.get_by_label("Name", exact=True).fill("Prairie Wren School")
    page.get_by_label("Town near by").fill("North Platte, Nebraska")
    page.get_by_role("button", name="Find it").click()
    page.get_by_role("radio", name="North Platte, Nebraska, United States").check()
    page.get_by_label("Units").select_option("us")
    page.get_by_label("Your name, as others see it").fill("Juno Reed")
    page.get_by_label("Login name").fill("juno")
    page.get_by_label("Password").fill("seven quiet beds")
    page.get_by_role("button", name="Set up the school").click()


def test_a_newcomer_sets_up_a_school(browser, site: str, tmp_path: Path) -> None:
    context = browser.new_context(viewport=DESK, locale="en-GB")
    visit = Visit(context, site)
    began = time.monotonic()
    page = visit.go("/login")
    page.get_by_role("link", name="Set up a school of your own").click()
    found_school(page)
    expect(page.get_by_role("heading", name="The beginning")).to_be_visible()
    assert visit.axe() == []

    # The calendar: looked at, one event changed, kept.
    page.get_by_label("A file of any kind").set_input_files(write_calendar(tmp_path))
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_text("School year 2026–27: Monday, 24 August 2026")).to_be_visible()
    expect(page.get_by_text("1 event that is ignored")).to_be_visible()
    assert visit.axe() == []
    page.get_by_label("What No school - Founders' day is").select_option("training day")
    page.get_by_role("button", name="Keep the calendar").click()
    expect(page.get_by_role("heading", name="Who gardens, and when")).to_be_visible()
    expect(page.locator(".ribbon-sentence")).to_contain_text("school days left")

    # A class with its lesson, by hand.
    page = visit.go("/school/groups")
    form = page.locator("section", has=page.get_by_role("heading", name="Add a group"))
    form.get_by_label("Name it keeps").fill("Sandhill cranes")
    form.get_by_label("Grade in 2026–27").select_option("2")
    form.get_by_label("Children").fill("24")
    form.get_by_role("button", name="Add the group").click()
    expect(page.get_by_role("heading", name="Grade 2, Sandhill cranes")).to_be_visible()
    page.get_by_label("From", exact=True).fill("09:40")
    page.get_by_role("button", name="Add the lesson").click()
    expect(page.get_by_role("listitem").filter(has_text="Monday 9:40, 45 min")).to_be_visible()

    # The weather: columns and units as guessed, kept, and the freeze dates that follow.
    page = visit.go("/school/weather")
    page.get_by_label("Daily readings as CSV").set_input_files(DATA / "champion-nebraska-1982-2018.csv")
    page.get_by_label("Keep it under the name").fill("Champion station")
    page.get_by_role("button", name="Look at the file").click()
    expect(page.get_by_text("13,514 days can be kept")).to_be_visible()
    assert visit.axe() == []
    page.get_by_role("button", name="Keep these readings").click()
    expect(page.get_by_text("Kept under Champion station")).to_be_visible()
    page.get_by_role("link", name="Climate", exact=True).click()
    expect(page.get_by_text("One year in ten still froze after 26 May.")).to_be_visible()
    row = page.get_by_role("row").filter(has=page.get_by_role("rowheader", name="32 °F"))
    expect(row).to_contain_text("10 May")
    expect(row).to_contain_text("28 Sep")
    took = time.monotonic() - began
    assert took < MINUTES * 60
    assert visit.faults == []
    context.close()


SKETCHED = ((1, 1), (12, 1), (23, 1), (1, 8), (12, 8), (23, 8))  # feet from the corner, each 8 × 4


class Counted:
    """Counts what is pressed, as a newcomer would count."""

    def __init__(self, page: Page) -> None:
        self.page, self.clicks = page, 0

    def press(self, where: Locator) -> None:
        self.clicks += 1
        where.click()

    def pressed(self, times: int = 1) -> None:
        self.clicks += times


def test_a_newcomer_gets_from_nothing_to_a_traced_garden_with_a_first_plan(browser, site: str) -> None:
    """From the start page to six beds in two rows traced over a scanned sketch, an L with an old fig, four crops, counts right, in pencil."""
    context = browser.new_context(viewport=DESK, locale="en-GB")
    visit = Visit(context, site)
    began = time.monotonic()
    page = visit.go("/login")
    by = Counted(page)
    by.press(page.get_by_role("link", name="Set up a school of your own"))
    found_school(page)
    by.pressed(4)
    # The year from the office's list, the classes with their lessons.
    page.get_by_label("Or paste the list").fill(OFFICE_LIST)
    by.press(page.get_by_role("button", name="Look at it"))
    expect(page.get_by_role("heading", name="2026–27: 178 school days")).to_be_visible()
    by.press(page.get_by_role("button", name="Keep the calendar"))
    by.press(page.get_by_role("button", name="Keep the classes"))
    by.press(page.get_by_role("link", name="An empty ground draw everything"))
    # The sketch below, to scale; then six beds over it.
    by.press(page.locator("#under-the-map summary"))
    page.locator("#under-file").set_input_files({"name": "plan.png", "mimeType": "image/png", "buffer": sketch()})
    by.pressed()
    by.press(page.get_by_role("button", name="Lay it under the map"))
    expect(page.locator(".underlays image")).to_have_count(1)
    for n, (x, y) in enumerate(SKETCHED, start=1):
        ground = Ground(page)
        by.press(page.get_by_role("button", name="Bed", exact=True))
        ground.drag((x, y), (x + 4, y + 2), (x + 8, y + 4))
        by.pressed()
        expect(page.locator("#map-said")).to_contain_text(f"Bed {n} drawn, 8 ft × 4 ft.")
    # Bed 6 is an L.
    ground.drag((31, 8), (30, 9), (28, 10))
    by.pressed()
    expect(page.locator("#map-said")).to_contain_text("Bed 6 has another outline.")
    expect(page.locator(".map-panel")).to_contain_text("26 whole squares")
    # The old fig in it.
    by.press(page.get_by_role("link", name="Draw what stays in it, and sections"))
    by.press(page.get_by_role("button", name="What stays"))
    bed = page.locator(".parts-bed").bounding_box()
    assert bed is not None
    page.mouse.move(bed["x"] + 4, bed["y"] + 4)
    page.mouse.down()
    page.mouse.move(bed["x"] + bed["width"] / 8, bed["y"] + bed["height"] / 3, steps=4)
    page.mouse.move(bed["x"] + bed["width"] / 4, bed["y"] + bed["height"] / 2, steps=4)
    page.mouse.up()
    by.pressed()
    expect(page.locator("#map-said")).to_contain_text("Kept part drawn, 2 ft × 2 ft.")
    page.get_by_label("Name").fill("Old fig")
    page.get_by_label("crown high").fill("8 ft")
    page.get_by_label("crown high").press("Enter")
    expect(page.locator("#map-said")).to_contain_text("Saved: Old fig.")
    expect(page.locator(".page-head")).to_contain_text("22 free squares")
    # Four crops in it, in pencil, with the right counts.
    by.press(page.get_by_role("link", name="Its sheet"))
    settle(page)
    by.press(page.get_by_text("pencils", exact=True))
    for crop, square, plants in (
        ("Radish", "C1", 16),
        ("Leaf lettuce", "D1", 4),
        ("Carrot", "C2", 16),
        ("Chives", "D2", 4),
    ):
        box = page.get_by_role("combobox", name="Crop")
        box.fill(crop)
        box.press("Enter")
        by.pressed()
        settle(page)
        by.press(page.locator(f"[data-cell={square}]"))
        expect(page.locator("#said")).to_contain_text(f"{crop} pencilled in: {plants} plants in 1 square")
    expect(page.locator("figcaption", has_text="free")).to_contain_text("18 free")
    assert visit.axe() == []
    assert by.clicks < 60
    assert time.monotonic() - began < 600
    assert visit.faults == []
    context.close()


OFFICE_LIST = """2026-27 calendar
Aug 24  First day of school
Sep 7  Labor Day, no school
Nov 23-27  Thanksgiving break
Dec 21 - Jan 1  Winter break
Jan 18  No school
Mar 15-19  Spring break
May 28  Last day of school
"""


def test_what_a_form_refuses_stays_as_it_was_typed(working: Visit) -> None:
    page = working.go("/school/partners")
    page.get_by_label("Name").fill("Mill")
    page.get_by_label("What exactly").fill("x" * 401)
    page.get_by_role("button", name="Add the partner").click()
    expect(page.get_by_role("status").filter(has_text="at most 400 characters")).to_be_visible()
    expect(page.get_by_label("Name")).to_have_value("Mill")
    page.get_by_label("What exactly").fill("Chips")
    page.get_by_role("button", name="Add the partner").click()
    expect(page.get_by_role("link", name="Mill", exact=True)).to_be_visible()


def test_a_town_fills_the_fields_of_the_place(browser, site: str) -> None:
    from tests.browser.conftest import visit

    for coordinator in visit(browser, site, "coordinator", DESK):
        page = coordinator.go("/school/place")
        page.get_by_label("Find a town by name").press_sequentially("Bergen, Nor")
        page.get_by_role("button", name="Bergen, Norway").click()
        expect(page.get_by_label("Time zone")).to_have_value("Europe/Oslo")
        page.get_by_role("button", name="Save the place").click()
        expect(page.get_by_label("Place", exact=True)).to_have_value("Bergen, Norway")


def test_a_closure_is_one_step_and_the_ribbon_shows_it(browser, site: str) -> None:
    from tests.browser.conftest import visit

    for coordinator in visit(browser, site, "coordinator", DESK):
        page = coordinator.go("/school")
        page.get_by_label("Why").fill("Storm")
        page.get_by_role("button", name="Close the school and see what it does").click()
        expect(page.get_by_role("heading", name="Jobs without people")).to_be_visible()
        expect(page.get_by_text("The seedbed of Carrot in Bed 5 may dry out.")).to_be_visible()
        expect(page.locator(".ribbon-sentence")).to_contain_text("Storm")
        assert coordinator.axe() == []
