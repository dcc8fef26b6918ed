"""A newcomer sets up a school from a calendar file and a weather table, in the browser, in well under five minutes."""

import time
from pathlib import Path

from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import DESK, Visit

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
    expect(page.get_by_role("button", name="Find it")).to_be_hidden()
    page.get_by_role("combobox", name="Town near by").press_sequentially("north pl")
    expect(page.get_by_role("option").first).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_role("combobox", name="Town near by")).to_have_value("North Platte, Nebraska, United States")
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
    with page.expect_response("**/school/import/look"):
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


def test_a_town_found_for_less_of_a_name_is_not_taken_for_the_whole(browser, site: str) -> None:
    """The answer for the whole name is held back, as on a slow line: what was found before does not fit it any more."""
    context = browser.new_context(viewport=DESK, locale="en-GB")
    page = Visit(context, site).go("/start")
    town = page.get_by_role("combobox", name="Town near by")
    town.press_sequentially("north")
    expect(page.get_by_role("option", name="North Shore")).to_be_visible()
    held: list[Route] = []
    page.route("**/towns?name=*", lambda route: held.append(route))
    town.press_sequentially(" pl")
    expect(page.get_by_role("option", name="North Shore")).to_be_hidden()
    while not held:
        page.wait_for_timeout(20)
    held[-1].continue_()
    expect(page.get_by_role("option").first).to_have_text("North Platte, Nebraska, United States")
    page.keyboard.press("Enter")
    expect(town).to_have_value("North Platte, Nebraska, United States")
    context.close()


def test_a_town_fills_the_fields_of_the_place(browser, site: str) -> None:
    from tests.browser.conftest import visit

    for coordinator in visit(browser, site, "coordinator", DESK):
        page = coordinator.go("/school/place")
        page.get_by_label("Find a town by name").press_sequentially("Bergen, Nor")
        page.get_by_role("option", name="Bergen, Norway", exact=True).click()
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


def test_all_that_is_wrong_with_a_new_school_is_told_at_once_and_nothing_typed_is_lost(browser, site: str) -> None:
    context = browser.new_context(viewport=DESK, locale="en-GB")
    visit = Visit(context, site)
    page = visit.go("/start")
    page.get_by_label("Your name, as others see it").fill("Juno Reed")
    page.get_by_label("Login name").fill("coordinator")
    page.get_by_label("Password").fill("short")
    page.get_by_role("button", name="Set up the school").click()
    expect(page.locator(".field-error")).to_have_count(3)
    expect(page.get_by_label("Name", exact=True)).to_be_focused()
    expect(page.get_by_label("Password")).to_have_value("short")
    assert visit.axe() == []
    page.get_by_label("Name", exact=True).fill("Prairie Wren School")
    page.get_by_role("combobox", name="Town near by").press_sequentially("north pl")
    expect(page.get_by_role("option").first).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.locator(".place-light")).to_contain_text("Weeks begin on Sunday")
    page.get_by_label("Password").fill("seven quiet beds")
    page.get_by_role("button", name="Set up the school").click()
    expect(page.locator(".field-error")).to_have_count(1)  # the old ones stand until the answer is there
    expect(page.locator(".field-error")).to_have_text("That login name is taken. Choose another one.")
    expect(page.get_by_label("Password")).to_have_value("seven quiet beds")
    page.get_by_label("Login name").fill("juno")
    page.get_by_role("button", name="Set up the school").click()
    expect(page.get_by_role("heading", name="The beginning")).to_be_visible()
    assert visit.faults == []
    context.close()
