"""The sheet for kitchen and stall: screen, CSV and PDF, a link without an account, and what is asked for as a wish of a plan."""

import csv
import io
import re
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from tests.web.journal.test_class_pages import browser
from tests.web.pages import Page, enter, open_page, post

DAYS = {"from_day": "2027-09-13", "to_day": "2027-09-24"}


def link_of(client: TestClient) -> str:
    page = post(client, "/journal/open", audience="kitchen", greeting="x", since="2027-03-20", until="2027-12-01")
    return next(given["value"] for tag, given in page.tags if given.get("id") == "made").rsplit("/", 1)[1]


def test_the_sheet_says_amount_day_and_who_and_how_to_eat_it(reader: TestClient) -> None:
    page = open_page(reader, "/harvest/kitchen")
    assert re.search(r"Radish up to [\d.]+ lb 14 Apr Grade 1, Thu 15 Apr Half barrel", page.text)
    assert "raw in thin slices on bread" in page.text
    assert "never a promise" in page.text
    assert "ask about allergies" in page.text
    answer = reader.get("/harvest/kitchen.csv")
    rows = list(csv.DictReader(io.StringIO(answer.text.removeprefix("\ufeff"))))
    radish = next(row for row in rows if row["crop"] == "Radish")
    assert float(radish["least_lb"]) <= float(radish["most_lb"])
    assert (radish["brought_by"], radish["brought_on"]) == ("Grade 1", "2027-04-15")


def test_a_pdf_is_asked_for(coordinator: TestClient) -> None:
    asked = post(coordinator, "/harvest/kitchen/pdf")
    assert asked.response.url.path.startswith("/prints/")
    assert "For kitchen and stall" in asked.text


def test_what_was_asked_for_is_kept_settled_and_taken_into_a_plan(coordinator: TestClient) -> None:
    number = str(uuid4())
    for _ in range(2):
        kept = post(coordinator, "/harvest/kitchen/requests", id=number, crop="carrot", amount="2 kg", **DAYS)
    assert kept.html.count("<b>2 kg · Carrot</b>") == 1
    post(coordinator, "/harvest/kitchen/requests", id=str(uuid4()), what="something green", **DAYS)
    plan = post(coordinator, "/year/plans", id=str(uuid4()), name="Autumn", starts="2027-08-30", ends="2027-12-17")
    path = plan.response.url.path
    assert "what kitchen and stall asked for" in plan.text
    taken = post(coordinator, f"{path}/from", source="kitchen")
    assert "1 wish taken in." in taken.text
    assert "4.4 lb" in taken.text or "2 kg" in taken.text
    settled = post(coordinator, f"/harvest/kitchen/requests/{number}", action="close")
    assert "2 kg · Carrot" not in settled.text


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"crop": "", "what": ""}, "Choose a crop, or say what is wanted."),
        ({"amount": "x" * 41}, "at most 40 characters"),
        ({"what": "x" * 81}, "at most 80 characters"),
        ({"from_day": "2027-09-20", "to_day": "2027-09-10"}, "The last day is not before the first."),
        ({"from_day": "2026-09-20", "to_day": "2026-09-20"}, "Choose days from today on"),
    ],
)
def test_a_request_that_cannot_be_stays_in_the_form(coordinator: TestClient, change: dict[str, str], says: str) -> None:
    form = {"id": str(uuid4()), "crop": "carrot", "what": "", "amount": "2 kg", **DAYS, **change}
    page = post(coordinator, "/harvest/kitchen/requests", **form)
    assert page.status == 422
    assert says in page.text


def test_the_kitchen_asks_by_its_link_without_an_account_and_sees_no_more(client: TestClient) -> None:
    enter(client, "coordinator")
    secret = link_of(client)
    cook = browser(client)
    page = open_page(cook, f"/open/{secret}")
    assert "For kitchen and stall" in page.text
    assert page.response.headers["x-robots-tag"] == "noindex, nofollow"
    assert "/year/crops" not in page.response.text
    fields = page.form(f"/open/{secret}/requests").fields
    for _ in range(2):
        sent = Page(
            cook.post(f"/open/{secret}/requests", data={**fields, "crop": "carrot", "amount": "3 bunches", **DAYS})
        )
    assert sent.text.count("3 bunches · Carrot") == 1
    refused = Page(cook.post(f"/open/{secret}/requests", data={**fields, "id": str(uuid4()), "crop": "", "what": ""}))
    assert refused.status == 422
    assert "asked 14 Apr by the link" in open_page(client, "/harvest/kitchen").text
    assert cook.get("/harvest/kitchen", follow_redirects=False).status_code in (303, 307, 401, 403)


def test_the_link_s_form_greets_a_kitchen_as_a_kitchen_and_leaves_what_somebody_wrote(client: TestClient) -> None:
    enter(client, "coordinator")
    opened = open_page(client, "/journal/open?group=kitchen")
    assert re.search(r'value="kitchen"\s+selected', opened.html)
    assert opened.form("/journal/open").fields["greeting"] == "This is what our garden can bring you."
    away = "This is how the garden is doing while you are away."
    for typed, read in ((away, "This is what our garden can bring you."), ("Dear cooks", "Dear cooks")):
        form = {"audience": "kitchen", "since": "2027-03-20", "until": "2027-12-01", "greeting": typed}
        page = post(client, "/journal/open", **form)
        secret = next(given["value"] for tag, given in page.tags if given.get("id") == "made").rsplit("/", 1)[1]
        assert read in open_page(browser(client), f"/open/{secret}").text


def test_another_page_s_link_takes_no_requests_and_one_that_ended_leads_nowhere(client: TestClient) -> None:
    enter(client, "coordinator")
    page = post(client, "/journal/open", audience="families", greeting="x", since="2027-03-20", until="2027-12-01")
    secret = next(given["value"] for tag, given in page.tags if given.get("id") == "made").rsplit("/", 1)[1]
    home = browser(client)
    kitchen = link_of(client)
    token = open_page(home, f"/open/{kitchen}").form(f"/open/{kitchen}/requests").fields["form_token"]
    data = {"form_token": token, "id": str(uuid4()), "crop": "carrot", **DAYS}
    assert home.post(f"/open/{secret}/requests", data=data).status_code == 404
    assert home.post("/open/guessed/requests", data=data).status_code in (403, 404)
