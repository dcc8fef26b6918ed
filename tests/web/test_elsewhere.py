"""A page that shows another day than today says so in one bar, and a plan for August leaves the rest of the application on today."""

from fastapi.testclient import TestClient

from tests.database import bed_id
from tests.web.addresses import PAGES
from tests.web.pages import Page, open_page, post

BAR = "not today, Wednesday, 14 April 2027."
OWN_LAYOUT = {
    "/field/",
    "/garden/places/sheet",
    "/patterns",
}  # no ribbon: the phone's page, paper, and the list of patterns


def top_bar(page: Page) -> list[str]:
    return [
        a["href"] for tag, a in page.tags if tag == "a" and a.get("href", "").partition("?")[0] in ("/week", "/year")
    ]


def test_every_page_says_when_it_shows_another_day_and_how_to_come_back(reader: TestClient) -> None:
    for path in PAGES:
        address = path.partition("?")[0]
        if "day=" in path or address in OWN_LAYOUT:
            continue
        page = open_page(reader, f"{address}?day=2027-05-20")
        if 'id="ribbon"' not in page.response.text:
            continue
        assert BAR in page.text, path
        assert "This is Thursday, 20 May 2027" in page.text, path
    for path in ("/week", "/garden", "/year", "/harvest", "/seeds", "/school", f"/garden/beds/{bed_id('Bed 4')}"):
        assert BAR not in open_page(reader, path).text, path


def test_a_plan_for_august_shows_its_sheet_and_leaves_the_rest_on_today(coordinator: TestClient) -> None:
    sheet = f"/garden/beds/{bed_id('Bed 4')}"
    page = post(coordinator, "/year/finder", crop="radish", method="direct", bed=str(bed_id("Bed 4")), sow="2027-08-23")
    assert page.response.url.path == sheet
    assert "This is Monday, 23 August 2027" in page.text
    assert "Other pages stay on today." in page.text
    assert set(top_bar(page)) == {"/week", "/year"}
    # On the sheet itself one goes on working on that day.
    forms = {form.action for form in page.forms if form.action.startswith(sheet)}
    assert forms
    others = {action for action in forms if "?" in action and not ("day=2027-08-23" in action and "peek=1" in action)}
    assert others == set()
    # Who moves the ribbon takes the day along, as before.
    moved = open_page(coordinator, "/week?day=2027-08-23")
    assert "Other pages stay" not in moved.text
    assert "/year?day=2027-08-23" in top_bar(moved)
