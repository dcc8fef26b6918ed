"""The turn of the year and ballots through their pages."""

from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from almanaque.demo import load
from tests.database import bed_id
from tests.web.pages import Page, enter, open_page, post

SCHOOL = "Brindlecombe School"


@pytest.fixture
def summer(coordinator: TestClient) -> TestClient:
    """The coordinator on the first of July, after the last school day."""
    post(coordinator, "/demo-day", day="2027-07-01")
    return coordinator


def test_the_guide_shows_what_is_open_and_what_stays(reader: TestClient) -> None:
    text = open_page(reader, "/school/turn").text
    assert "Birches: Grade 4 → Grade 5" in text
    assert "Alders leave" in text
    assert "Gentians arrive" in text
    assert "The book can be closed after the last school day, Wednesday, 16 June 2027." in text
    assert "Strawberry, Bed 8 stays for years" in text


def test_a_step_is_ticked_off_and_opened_again(summer: TestClient) -> None:
    page = post(summer, "/school/turn/step", name="seed", done="1")
    assert "done 1 Jul" in page.text
    assert "done 1 Jul" not in post(summer, "/school/turn/step", name="seed", done="0").text
    assert post(summer, "/school/turn/step", name="dance", done="1").status == 422


def test_plantings_are_finished_and_beds_get_their_sentence(summer: TestClient) -> None:
    page = open_page(summer, "/school/turn")
    chosen = [a["value"] for tag, a in page.tags if tag == "input" and a.get("name") == "planting"]
    assert chosen
    page = post(summer, "/school/turn/plantings", planting=chosen[0], day="2027-06-30")
    assert chosen[0] not in [a.get("value") for _, a in page.tags if a.get("name") == "planting"]
    assert post(summer, "/school/turn/plantings", day="2027-06-30").status == 422
    bed = bed_id("Bed 5")
    page = post(
        summer,
        "/school/turn/beds",
        **{f"state-{bed}": "cleared and covered", f"sentence-{bed}": "Kale for the soup, twice."},
    )
    assert "Kale for the soup, twice." in page.response.text
    assert post(summer, "/school/turn/beds", **{f"state-{bed}": "burnt", f"sentence-{bed}": "x"}).status == 422


def test_the_book_is_closed_refuses_changes_and_is_opened_again_with_a_reason(summer: TestClient) -> None:
    page = post(summer, "/school/turn/close")
    assert "Closed: 26 Aug 2026 – 30 Jun 2027" in page.text
    picked = open_page(summer, "/harvest").links
    path = next(link for link in picked if link.startswith("/harvest/pickings/"))
    refused = post(summer, path, action="take back")
    assert refused.status == 409
    assert "The book of that time is closed." in refused.text
    note = post(summer, "/journal", id=str(uuid4()), body="On a day that is open")
    assert note.status == 200
    closing = next(a["value"] for tag, a in page.tags if tag == "input" and a.get("name") == "closing")
    assert post(summer, "/school/turn/reopen", closing=closing, why="").status == 422
    opened = post(summer, "/school/turn/reopen", closing=closing, why="one picking was missing")
    assert "opened again Thursday, 1 July 2027: one picking was missing" in opened.text
    assert post(summer, path, action="take back").status == 200


def test_only_the_coordinator_closes_and_reopens(client: TestClient) -> None:
    enter(client, "educator")
    for path in ("/school/turn/close", "/school/turn/reopen", "/school/turn/calendar"):
        assert post(client, path).status == 403
    assert not any(f.action == "/school/turn/close" for f in Page(client.get("/school/turn")).forms)


def test_a_class_votes_and_the_map_is_pencilled(summer: TestClient) -> None:
    page = post(
        summer, "/school/ballots", id=str(uuid4()), name="Autumn beds", from_day="2027-08-30", to_day="2027-09-20"
    )
    path = page.response.url.path
    assert "Autumn beds" in page.text
    crops = [
        a["name"].removeprefix("votes-")
        for tag, a in page.tags
        if tag == "input" and a.get("name", "").startswith("votes-")
    ]
    docks = str(load.demo_id(SCHOOL, "group", "Docks"))
    page = post(summer, path, group=docks, **{f"votes-{crops[0]}": "20"})
    assert "Grade 2 20" in page.text
    refused = post(summer, path, group=docks, **{f"votes-{crops[0]}": "99"})
    assert refused.status == 422
    assert 'value="99"' in refused.response.text
    made = post(summer, "/school/turn/map", ballot=path.rsplit("/", 1)[1], name="Autumn map")
    assert "Pencilled" in made.text
    assert "Autumn map" in open_page(summer, "/garden/drafts").text
    assert "ended 1 Jul" in post(summer, path, action="end").text
    assert post(summer, path, group=docks, **{f"votes-{crops[0]}": "1"}).status == 422


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"name": ""}, "Give it a name"),
        ({"to_day": "2027-08-01"}, "Swap the two dates"),
        ({"from_day": "2027-02-30"}, "not a day"),
        ({"from_day": "2027-12-20", "to_day": "2027-12-24"}, "Nothing can be started"),
    ],
)
def test_a_ballot_that_cannot_be_stays_in_the_form(summer: TestClient, change: dict[str, str], says: str) -> None:
    form = {"id": str(uuid4()), "name": "Autumn beds", "from_day": "2027-08-30", "to_day": "2027-09-20", **change}
    page = post(summer, "/school/ballots", **form)
    assert page.status == 422
    assert says in page.text


def test_next_years_calendar_begins_from_this_years(summer: TestClient) -> None:
    assert "on file already" in post(summer, "/school/turn/calendar").text
    post(summer, "/demo-day", day="2028-07-01")
    page = post(summer, "/school/turn/calendar")
    assert "2028–29 begins on Wednesday, 23 August 2028" in page.text
