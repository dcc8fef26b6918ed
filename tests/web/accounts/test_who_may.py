"""What each role is offered is what it may do, and what it may not do is refused."""

from datetime import timedelta
from uuid import uuid4

import psycopg
import pytest
from fastapi.testclient import TestClient

from almanaque.demo import DEMO_DAY, load
from almanaque.host.postgres import Addresses
from tests.database import NORTH
from tests.web.addresses import PAGES
from tests.web.conftest import client_for
from tests.web.pages import Page, enter, open_page, post, token

ROUND = "/week/rounds/2027-07-12/1"


@pytest.mark.parametrize("role", ["educator", "helper", "viewer"])
def test_no_page_offers_a_form_that_the_role_may_not_send(client: TestClient, role: str) -> None:
    enter(client, role)
    right = token(client)
    offered = {form.action for page in PAGES for form in open_page(client, page).forms if form.method == "post"}
    writes = {action.partition("?")[0] for action in offered}
    assert len(writes) > 5
    for action in sorted(writes - {"/logout", "/account/erase"}):
        client.cookies.clear()
        enter(client, role)
        right = token(client)
        answer = client.post(action, data={"form_token": right}, follow_redirects=False)
        assert answer.status_code != 403, action


def test_a_helper_gives_back_own_rounds_only_and_an_educator_all(client: TestClient) -> None:
    day = "?day=2027-07-12"
    enter(client, "helper")
    post(client, ROUND, action="take", by="Runa")
    back = "give back: 12"
    mine = open_page(client, f"/week/rounds{day}").text
    assert "give back" in mine
    post(client, "/week/rounds/2027-07-12/2", action="take", by="Runa too")
    client.cookies.clear()
    enter(client, "educator")
    assert "give back" in open_page(client, f"/week/rounds{day}").text, "who plans gives all back"
    post(client, ROUND, action="back")
    post(client, ROUND, action="take", by="Ivo")
    client.cookies.clear()
    enter(client, "helper")
    page = open_page(client, f"/week/rounds{day}")
    assert ROUND not in {form.action.partition("?")[0] for form in page.forms}
    assert post(client, ROUND, action="back").status == 404
    assert post(client, ROUND, action="walked").status in (404, 422)
    assert post(client, "/week/rounds/2027-07-12/2", action="back").status == 200
    assert back not in page.text


def test_a_helper_changes_no_weights_and_a_viewer_takes_no_ledger_away(client: TestClient) -> None:
    enter(client, "helper")
    assert post(client, "/garden/places/criteria", id=str(uuid4()), name="Sun", weight="9").status == 403
    assert "Criteria and weights" not in open_page(client, "/garden/places").text
    client.cookies.clear()
    enter(client, "viewer")
    assert client.get("/harvest/money.csv").status_code == 403
    assert "money.csv" not in open_page(client, "/harvest/money").response.text
    assert "money.csv" not in open_page(client, "/school/formats").response.text
    client.cookies.clear()
    enter(client, "educator")
    assert client.get("/harvest/money.csv").status_code == 200


def made_link(page: Page) -> str:
    return next(a["value"] for tag, a in page.tags if tag == "input" and a.get("id") == "made").split("testserver")[1]


def test_a_pass_says_taken_and_never_by_whom(coordinator: TestClient, demo: Addresses) -> None:
    post(coordinator, ROUND, action="take", by="Mirelda Quist")
    link = made_link(post(coordinator, "/school/people/passes", label="Carer", when="break"))
    with client_for(demo) as holder:
        page = open_page(holder, link)
        assert "taken" in page.text
        sheet = open_page(holder, f"/pass{ROUND.removeprefix('/week')}")
        assert (sheet.status, "taken" in sheet.text) == (200, True)
        assert "Mirelda" not in page.response.text + sheet.response.text
        mine = "/pass/rounds/2027-07-12/2"
        holder.post(mine, data={**page.form("/pass/notes").fields, "action": "take"})
        assert "yours" in open_page(holder, mine).text
    assert "Mirelda" in open_page(coordinator, ROUND).text


def test_a_pass_opens_for_the_term_or_break_at_hand_or_the_days_that_are_given(
    coordinator: TestClient, demo: Addresses
) -> None:
    options = [
        a.get("value") for tag, a in open_page(coordinator, "/school/people").tags if tag == "option" and a.get("value")
    ]
    assert {"term", "break", "days"} <= set(options)
    for when, days in (
        ("term", {}),
        ("break", {}),
        ("days", {"starts": "2027-04-20", "ends": "2027-04-22"}),
        ("days", {"starts": "2027-04-14", "ends": "2027-04-14"}),
    ):
        made = post(coordinator, "/school/people/passes", label="P", when=when, **days)
        assert made.status == 200, made.text
    with psycopg.connect(demo.owner) as owner:
        rows = owner.execute(
            "SELECT opens_at <= now(), opens_at - now(), expires_at - now() FROM garden_pass WHERE school_id = %s"
            " AND label = 'P' ORDER BY made_at",
            [NORTH],
        ).fetchall()
    term, summer, given, today = rows
    a_day = timedelta(days=1)
    assert (term[0], today[0], summer[0], given[0]) == (True, True, True, False), "carers take rounds before the break"
    assert abs(given[1] - 5.5 * a_day) < a_day
    assert abs(given[2] - 8.5 * a_day) < a_day
    assert today[2] <= a_day
    assert summer[2] > term[2] + 40 * a_day, "a whole summer"
    text = open_page(coordinator, "/school/people").text
    assert "20 – 22 Apr" in text
    assert "until 14 Apr" in text
    for starts, ends, sentence in (
        ("2027-04-20", "2027-04-19", "ends on or after the day it begins"),
        ("2027-04-01", "2027-04-13", "not before today"),
        ("2027-04-20", "2028-04-20", "lasts 200 days at most"),
        ("2027-13-01", "2027-04-20", ""),
    ):
        page = post(coordinator, "/school/people/passes", label="P", when="days", starts=starts, ends=ends)
        assert (page.status, sentence in page.text) == (422, True), starts
    assert DEMO_DAY.isoformat() == "2027-04-14"


def test_a_pass_that_does_not_open_yet_says_so(coordinator: TestClient, demo: Addresses) -> None:
    link = made_link(
        post(coordinator, "/school/people/passes", label="P", when="days", starts="2027-04-20", ends="2027-04-22")
    )
    with client_for(demo) as holder:
        page = open_page(holder, link)
        assert (page.status, "does not open yet" in page.text) == (404, True)
        assert holder.get("/pass", follow_redirects=False).status_code == 303


def test_what_leaves_the_house_is_in_the_log(coordinator: TestClient) -> None:
    coordinator.get("/school/formats/school.json?photos=no")
    coordinator.get("/school/formats/tables.zip")
    coordinator.get("/school/formats/tables/bed.csv")
    post(coordinator, "/school/feeds", label="Kitchen", what="plan")
    post(coordinator, f"/school/people/{load.account_id('viewer')}/role", role="helper")
    log = open_page(coordinator, "/school/log").text
    for line in (
        "took out the whole school, as one file",
        "took out all tables",
        "took out the table bed",
        "made a calendar address for Kitchen",
        "changed the role of Pell Marsh viewer, now helper",
    ):
        assert line in log, line
    post(coordinator, f"/school/people/{load.account_id('viewer')}/erase")
    log = open_page(coordinator, "/school/log").text
    assert "Pell Marsh" not in log, "an erased person's name goes from the log too"
    assert "changed the role of somebody who has left" in log
