"""Every page in both sizes: nothing for axe to find, nothing that scrolls sideways, short heads and large targets on the phone."""

import pytest
from playwright.sync_api import expect

from almanaque.demo import load
from almanaque.web.frame import TOP_BAR
from tests.browser.conftest import DESK, PHONE, Visit, settle
from tests.database import bed_id

PAGES = [
    *(link.path for link in TOP_BAR),
    f"/garden/beds/{bed_id('Bed 3')}",
    f"/garden/beds/{bed_id('Fence strip')}",
    "/patterns",
    "/schools",
    "/nowhere",
    "/week?day=2027-07-20",
    "/week/water",
    "/week/lessons",
    "/week/lessons/compost",
    "/week/lessons/new",
    "/week/rounds",
    "/week/rounds/2027-07-12/1",
    "/week/stations",
    f"/week/stations/{load.demo_id('Brindlecombe School', 'station', 'Worm box')}",
    "/journal/letters",
    "/journal/heights",
    "/journal?search=aphids",
    "/garden/signs",
    "/garden/prints",
    "/school/mail",
    *(f"/garden/beds/{bed_id('Bed 7')}/{what}" for what in ("planting-day", "mats", "labels", "sums")),
    "/year?day=2025-01-10",
    "/garden?day=2026-12-10&then=thought",
    f"/garden/beds/{bed_id('Bed 5')}?day=2024-10-10",
    "/school/turn",
    "/school/ballots",
    "/school/formats",
    "/seeds/box",
    "/seeds/order",
    "/seeds/saving",
    "/seeds/stock",
    "/seeds/trays",
    f"/seeds/lots/{load.demo_id('Brindlecombe School', 'lot', 'radish', 2026)}",
    f"/seeds/lots/{load.demo_id('Brindlecombe School', 'lot', 'radish', 2026)}/packets",
    f"/seeds/trays/{load.demo_id('Brindlecombe School', 'tray', 'Tray by the window')}",
    "/harvest/book",
    "/harvest/calendar",
    "/harvest/uses",
    "/harvest/forecast",
    "/harvest/worked",
    "/harvest/money",
    "/harvest/weights",
    "/harvest/curing",
    "/harvest/report",
    f"/harvest/pickings/{load.demo_id('Brindlecombe School', 'more', 0)}",
    f"/harvest/products/{load.demo_id('Brindlecombe School', 'product', 1)}",
    f"/school/groups?open={load.demo_id('Brindlecombe School', 'group', 'Docks')}",
    "/school/people",
    "/school/place?name=utica",
    "/school/climate",
    "/school/weather",
    "/school/chart",
    "/school/partners",
    "/school/plans",
    f"/school/plans/{load.demo_id('Brindlecombe School', 'project', 'Pollinator strip by the gate')}",
    "/school/import",
    "/school/holidays?country=NO",
    "/school/feeds",
    "/garden/places",
    "/garden/places/sheet",
    f"/garden/beds/{bed_id('Bed 3')}/edit",
    "/garden?show=sun",
    "/garden/map",
    "/garden/print",
    "/garden/drafts",
    f"/garden/drafts/compare?bed={bed_id('Bed 2')}",
    "/garden/needs",
    "/garden/shed",
    f"/garden/beds/{bed_id('Herb corner')}?show=sun",
    f"/garden/beds/{bed_id('Bed 2')}/rebuild",
    f"/garden/beds/{bed_id('Bed 2')}/seedlings",
    f"/garden/beds/{bed_id('Bed 2')}?show=looks",
    "/garden?show=looks",
    "/garden/year",
    f"/garden/beds/{bed_id('Bed 5')}/soil",
    f"/garden/beds/{bed_id('Bed 1')}/seasons",
    "/account",
    "/start?town=utica",
    "/year/finder?crop=tomato&by=2027-11-17",
    "/year/sow",
    "/year/summer",
    "/year/themes",
    "/year/bloom",
    "/year/crops",
    "/year/crops/garlic",
    "/year/crops/garlic/figures",
    "/year/crops/new",
    f"/year/themes/{load.demo_id('Brindlecombe School', 'theme', 'Salad bowl')}",
    f"/garden/beds/{bed_id('Bed 4')}/fits",
    "/beginning?step=garden",
    f"/garden/map?thing={bed_id('Bed 3')}",
    f"/garden/beds/{bed_id('Bed 3')}/parts",
    "/year?term=3",
    "/year?crop=tomato",
]


# From the name of a page to the first thing it is for: title, tools, tabs and messages are its head.
OWN_HEAD = """() => {
  const title = document.querySelector("#main h1");
  const head = /page-head|subnav|tabs|elsewhere|message|menu|visually-hidden/;
  const first = [...document.querySelectorAll("#main > *")].find(part => part.getBoundingClientRect().height > 0 &&
    part.tagName !== "NAV" && part.id !== "message" && !head.test(part.className));
  return title && first ? first.getBoundingClientRect().top - title.getBoundingClientRect().top : 0;
}"""


@pytest.mark.parametrize("path", PAGES)
def test_axe_finds_nothing_and_nothing_scrolls_sideways(looking: Visit, path: str) -> None:
    page = looking.go(path)
    if path == "/year?crop=tomato":  # on to the last planting of the list, whose id is made anew for each demo
        page = looking.go(page.locator(".as-table a").last.get_attribute("href") or "")
    if path == "/nowhere":
        looking.faults.clear()  # the browser's own word on the 404
    for size in (DESK, PHONE):
        page.set_viewport_size(size)
        settle(page)
        assert looking.axe() == [], size
        assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth"), size
    assert page.evaluate(OWN_HEAD) <= PHONE["height"] / 3


@pytest.mark.parametrize("looking", [("viewer", DESK), ("", PHONE)], indirect=True, ids=["viewer", "stranger"])
def test_axe_finds_nothing_for_those_who_only_look_or_are_not_in(looking: Visit) -> None:
    for path in ("/week", f"/garden/beds/{bed_id('Bed 3')}", "/school"):
        looking.go(path)
        assert looking.axe() == []


@pytest.mark.parametrize("looking", [("helper", PHONE)], indirect=True)
def test_on_the_phone_what_is_pressed_is_large(looking: Visit) -> None:
    page = looking.go("/week")
    for control in (
        *page.locator(".tick:not(.is-still)").all(),
        *page.locator(".top-bar a").all(),
        *page.locator(".button").all(),
    ):
        if control.is_visible():
            box = control.bounding_box()
            assert min(box["width"], box["height"]) >= 44, control.inner_text()
    page = looking.go("/harvest")
    page.evaluate("document.querySelectorAll('#pick details').forEach(part => part.open = true)")
    for control in page.locator("#pick .form-control, #pick .form-select, #pick .button").all():
        assert control.bounding_box()["height"] >= 44


def test_a_thumb_that_scrolls_over_the_bed_does_not_paint(browser, read_site: str) -> None:
    context = browser.new_context(viewport=PHONE, has_touch=True, is_mobile=True)
    page = context.new_page()
    page.goto(f"{read_site}/login")
    page.fill("#login", "educator")
    page.fill("#password", load.PASSWORD)
    page.click("button:has-text('Log in')")
    page.wait_for_url("**/week")
    page.goto(f"{read_site}/garden/beds/{bed_id('Bed 4')}")
    page.locator("[data-cell=A4]").tap()
    expect(page.locator("#squares")).to_have_value("A4")
    expect(page.locator("#said")).to_have_text("")
    context.close()


def test_without_colour_every_verdict_still_differs(looking: Visit) -> None:
    page = looking.go("/patterns")
    marks = page.evaluate(
        "[...document.querySelectorAll('.verdict')].map(v => getComputedStyle(v, '::before').content)"
    )
    assert len(set(marks)) == len(marks) == 3


@pytest.mark.parametrize(
    "path", ["/week", "/year", f"/garden/beds/{bed_id('Bed 3')}", "/school/climate", "/garden/places/sheet"]
)
def test_it_prints_without_controls_on_one_page(looking: Visit, path: str) -> None:
    page = looking.go(path)
    page.emulate_media(media="print")
    for selector in (".topbar", ".ribbon", ".page-tools", "#paint", ".subnav"):
        for control in page.locator(selector).all():
            expect(control).to_be_hidden()
    pdf = page.pdf(format="Letter", landscape=True, print_background=True)
    pages = pdf.count(b"/Type /Page\n") + pdf.count(b"/Type /Page ")
    # A bed with its notes may take a second page, and so may the tables under the year of a place.
    assert pages in ((1, 2) if path.startswith(("/garden/beds", "/school", "/garden/places")) else (1,))


def test_fonts_styles_and_scripts_come_from_here(looking: Visit) -> None:
    hosts = set()
    looking.page.on("request", lambda request: hosts.add(request.url.split("/")[2]))
    page = looking.go("/week")
    assert hosts == {looking.base.split("//")[1]}
    assert page.evaluate(
        "document.fonts.check('16px \"Atkinson Hyperlegible\"') && document.fonts.check('700 16px Literata')"
    )


def test_axe_would_find_a_fault(looking: Visit) -> None:
    page = looking.go("/journal")
    page.evaluate("document.querySelector('label[for=note-body]').remove()")
    assert any(fault.startswith("label") for fault in looking.axe())
