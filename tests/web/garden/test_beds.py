"""Adding beds and changing them, so that what is planted keeps its place."""

import re
from uuid import uuid4

import psycopg
import pytest
from fastapi.testclient import TestClient

from almanaque.host.postgres import Addresses
from tests.database import bed_id
from tests.web.conftest import client_for
from tests.web.pages import Page, enter, open_page, post

BED_1, BED_3, BED_4 = bed_id("Bed 1"), bed_id("Bed 3"), bed_id("Bed 4")
NEW = {
    "name": "Bed 9",
    "purpose": "Herbs",
    "kind": "raised",
    "size": "6 ft x 2 ft",
    "depth": "11 in",
    "cell": "12 in",
    "at": "24 ft x 2 ft",
    "material": "larch",
}


def change(client: TestClient, bed: object, **fields: str) -> Page:
    """Send the bed's own form with some fields changed."""
    form = open_page(client, f"/garden/beds/{bed}/edit").form("/garden/beds")
    usual = {"kind": "raised", **{k: v for k, v in form.fields.items() if k != "action"}}
    return post(client, "/garden/beds", **{**usual, **fields})


def test_a_bed_is_added_planted_and_listed(coordinator: TestClient) -> None:
    made = str(uuid4())
    page = post(coordinator, "/garden/beds", id=made, **NEW)
    assert page.response.url.path == f"/garden/beds/{made}"
    assert "6 ft × 2 ft inside" in page.text
    post(
        coordinator,
        f"/garden/beds/{made}",
        command="pencil",
        squares="A1-C2",
        crop="radish",
        method="direct",
        start_on="2027-04-20",
    )
    assert "Bed 9" in open_page(coordinator, "/garden").text
    assert "stays with its history" in post(coordinator, "/garden/beds", id=made, action="delete").text


def test_a_bed_without_a_history_can_go(coordinator: TestClient) -> None:
    made = str(uuid4())
    post(coordinator, "/garden/beds", id=made, **NEW)
    assert "Bed 9" not in post(coordinator, "/garden/beds", id=made, action="delete").text


def test_saving_a_bed_unchanged_changes_nothing(coordinator: TestClient, demo: Addresses) -> None:
    def bed() -> tuple:
        with psycopg.connect(demo.owner) as owner:
            kept = owner.execute(
                "SELECT label, x_mm, y_mm, length_mm, width_mm FROM kept_part WHERE bed_id = %s", [BED_3]
            ).fetchall()
            return owner.execute(
                "SELECT x_mm, y_mm, length_mm, width_mm, depth_mm, cell_mm FROM bed WHERE id = %s", [BED_3]
            ).fetchone(), kept

    with psycopg.connect(demo.owner) as owner:
        owner.execute("UPDATE bed SET length_mm = 2438.4125 WHERE id = %s", [BED_3])  # no round number of sixteenths
    before = bed()
    assert change(coordinator, BED_3).status == 200
    assert bed() == before


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"size": "0 ft x 4 ft"}, "longer and wider than 0"),
        ({"size": "400 ft x 4 ft"}, "outside the site"),
        ({"size": "8 ft"}, "two lengths with an x"),
        ({"size": "eight x 4 ft"}, "eight"),
        ({"at": "3 ft x 9 ft"}, "would lie in Bed 1"),
        ({"at": "-1 ft x 2 ft"}, "below zero"),
        ({"name": " "}, "Give it a name"),
        ({"cell": "9 ft"}, "smaller than one of its squares"),
        ({"kept": "Sage 2 ft"}, "not a kept part"),
        ({"kept": "Sage: 9 ft x 1 ft at 0 ft x 0 ft"}, "lies outside the bed"),
        ({"kind": "cloud"}, "none of the choices"),
        ({"group": str(uuid4())}, "no such group"),
        ({"built_year": "12"}, "from 1800 to 2150"),
        ({"depth": "20 ft"}, "3 m deep"),
        ({"purpose": "x" * 81}, "longer than 80"),
        ({"material": "x" * 81}, "longer than 80"),
        ({"kept": f"{'x' * 81}: 1 ft x 1 ft at 0 ft x 0 ft"}, "longer than 80"),
        ({"kept": "Sage: one ft x 1 ft at 0 ft x 0 ft"}, "one ft"),
    ],
    ids=[
        "nothing",
        "too long",
        "one length",
        "words",
        "in another",
        "outside",
        "no name",
        "cell",
        "kept words",
        "kept outside",
        "kind",
        "group",
        "year",
        "deep",
        "long purpose",
        "long material",
        "long kept",
        "kept size",
    ],
)
def test_a_bed_that_cannot_be_is_refused_in_words(anvil: TestClient, fields: dict[str, str], says: str) -> None:
    page = post(anvil, "/garden/beds", **{"id": str(uuid4()), **NEW, **fields})
    assert page.status in (409, 422)
    assert says in page.text


def test_what_is_planted_keeps_its_squares(coordinator: TestClient) -> None:
    made = str(uuid4())
    post(coordinator, "/garden/beds", id=made, **NEW)
    painted = {"command": "pencil", "squares": "F1-F2", "crop": "radish", "method": "direct", "start_on": "2027-04-20"}
    post(coordinator, f"/garden/beds/{made}", **painted)
    refused = {
        "The radish at F1 would lose its place": {"size": "5 ft x 2 ft"},
        "squares of the old size": {"cell": "6 in"},
        "The radish at F2 would": {"kept": "Sage: 1 ft x 1 ft at 5 ft x 1 ft"},
    }
    for says, fields in refused.items():
        page = change(coordinator, made, **fields)
        assert (page.status, says in page.text) == (422, True)
    longer = change(coordinator, made, size="7 ft x 2 ft")
    assert longer.status == 200
    assert "7 ft × 2 ft inside" in longer.text


def test_what_grew_here_is_still_counted_by_its_squares(coordinator: TestClient, demo: Addresses) -> None:
    with psycopg.connect(demo.owner) as owner:
        owner.execute("UPDATE planting SET status = 'finished' WHERE bed_id = %s", [BED_1])
    for fields in ({"cell": "6 in"}, {"size": "3 ft x 4 ft"}):
        refused = change(coordinator, BED_1, **fields)
        assert (refused.status, "Add the rebuilt bed as a new one" in refused.text) == (422, True)
    assert change(coordinator, BED_1, kept="Rosemary: 2 ft x 2 ft at 0 ft x 0 ft").status == 200


def test_two_people_do_not_overwrite_one_another(coordinator: TestClient) -> None:
    first = open_page(coordinator, f"/garden/beds/{BED_4}/edit").form("/garden/beds")
    change(coordinator, BED_4, purpose="Pumpkins")
    stale = post(coordinator, "/garden/beds", **{"kind": "raised", **first.fields, "purpose": "Maize"})
    assert (stale.status, "Someone else changed this bed" in stale.text) == (409, True)
    assert "Pumpkins" in open_page(coordinator, f"/garden/beds/{BED_4}").text


def test_the_ground_holds_its_beds(coordinator: TestClient) -> None:
    assert "would lie outside the site" in post(coordinator, "/garden/site", name="Yard", size="20 ft x 20 ft").text
    assert "larger than a kilometre" in post(coordinator, "/garden/site", name="Yard", size="2000 m x 20 ft").text
    assert post(coordinator, "/garden/site", name="Yard", size="60 ft x 40 ft").status == 200


def test_a_new_school_gets_its_ground_with_its_first_bed(demo: Addresses) -> None:
    with client_for(demo) as client:
        form = open_page(client, "/start").form("/start")
        client.post(
            "/start",
            data={
                **form.fields,
                "school_name": "Heron School",
                "latitude": "60",
                "longitude": "10",
                "zone": "Europe/Oslo",
                "units": "metric",
                "name": "Ola",
                "login": "ola",
                "password": "long enough words",
            },
        )
        assert "Add the first one" in open_page(client, "/garden").text
        page = post(
            client,
            "/garden/beds",
            id=str(uuid4()),
            name="Bed 1",
            kind="raised",
            size="2.4 m x 1.2 m",
            depth="30 cm",
            cell="30 cm",
            at="1 m x 1 m",
        )
        assert "2.4 m × 1.2 m inside" in page.text


def test_a_helper_does_not_change_beds(client: TestClient) -> None:
    enter(client, "helper")
    assert open_page(client, "/garden/beds/new").status == 403
    assert post(client, "/garden/beds", id=str(uuid4()), **NEW).status == 403


def test_a_planting_says_what_became_of_the_range_that_was_promised(coordinator: TestClient) -> None:
    bed = f"/garden/beds/{bed_id('Bed 4')}"
    radish = next(link for link in open_page(coordinator, bed).links if "/garden/plantings/" in link)
    before = open_page(coordinator, radish).text
    assert re.search(r"Promised 12 – 28 May on 7 Apr; since then .*: what your own pickings teach has changed", before)
    on_the_way = open_page(coordinator, "/harvest/forecast").text
    assert re.search(r"Spinach, Bed 7 : Promised .* since then .* this season has been (warmer|cooler)", on_the_way)
    past = open_page(coordinator, f"/garden/beds/{bed_id('Bed 5')}?day=2024-10-22")
    kale = next(link for link in past.links if "/garden/plantings/" in link)
    said = open_page(coordinator, kale.split("?")[0]).text
    assert "Promised 8 – 27 Oct on 29 Aug; first picked 22 Oct, within that range." in said
