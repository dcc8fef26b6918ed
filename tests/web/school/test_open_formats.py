"""Open formats through their pages: the bundle out and in, tables, and a spreadsheet of earlier years with its preview."""

import csv
import io
import json
import zipfile

import psycopg
import pytest
from fastapi.testclient import TestClient

from almanaque.host.postgres import Addresses
from almanaque.passwords import hash_password
from tests.web.conftest import client_for
from tests.web.pages import Page, enter, log_in, open_page, post, token


def send(client: TestClient, path: str, name: str, body: bytes, **data: str) -> Page:
    return Page(client.post(path, data={"form_token": token(client), **data}, files={"file": (name, body)}))


@pytest.fixture
def newcomer(empty: Addresses):
    """The coordinator of a school that holds nothing, on another database."""
    with psycopg.connect(empty.owner) as owner:
        owner.execute(
            "INSERT INTO school (id, name, zone, latitude, longitude, units) VALUES "
            "('00000000-0000-0000-0000-00000000000a', 'New School', 'Europe/Oslo', 60, 10, 'metric')"
        )
        owner.execute(
            (
                "INSERT INTO account (id, login, name, password_hash) VALUES "
                "('00000000-0000-0000-0000-00000000000b', 'first', 'First Person', %s)"
            ),
            [hash_password("long enough")],
        )
        owner.execute(
            "INSERT INTO membership VALUES ('00000000-0000-0000-0000-00000000000a', '00000000-0000-0000-0000-00000000000b', 'coordinator')"
        )
    with client_for(empty) as client:
        log_in(client, "first", "long enough")
        yield client


def test_the_bundle_out_of_one_school_goes_into_a_new_one(reader: TestClient, newcomer: TestClient) -> None:
    answer = reader.get("/school/formats/school.json")
    assert answer.headers["content-disposition"] == "attachment; filename=brindlecombe-school-2027-04-14.json"
    page = send(newcomer, "/school/formats/school", "school.json", answer.content)
    assert page.status == 200
    assert "tables were brought in" in page.text
    assert open_page(newcomer, "/harvest/book?by=season").text.count("2025–26") == open_page(
        reader, "/harvest/book?by=season"
    ).text.count("2025–26")
    assert newcomer.get("/school/formats/school.json").content == answer.content
    refused = send(newcomer, "/school/formats/school", "school.json", answer.content)
    assert refused.status == 422
    assert "into a new school only" in refused.text


def test_other_files_are_refused_and_nothing_changes(newcomer: TestClient) -> None:
    before = newcomer.get("/school/formats/school.json").content
    for body, says in (
        (b"no json", "not JSON"),
        (b"{}", "no bundle"),
        (json.dumps({**json.loads(before), "version": 9}).encode(), "newer version"),
        (b"", "not JSON"),
    ):
        page = send(newcomer, "/school/formats/school", "x.json", body)
        assert page.status == 422
        assert says in page.text
    assert newcomer.get("/school/formats/school.json").content == before


def test_tables_come_out_one_by_one_and_all_together(reader: TestClient) -> None:
    text = reader.get("/school/formats/tables/bed.csv").text
    rows = list(csv.DictReader(io.StringIO(text.removeprefix("\ufeff"))))
    assert {"length_mm", "width_mm", "depth_mm"} <= set(rows[0])
    packed = zipfile.ZipFile(io.BytesIO(reader.get("/school/formats/tables.zip").content))
    assert {"bed.csv", "harvest.csv", "seed_lot.csv"} <= set(packed.namelist())
    assert not {"account.csv", "membership.csv", "garden_pass.csv"} & set(packed.namelist())
    for name in ("account", "membership", "nothing", "bed;"):
        assert reader.get(f"/school/formats/tables/{name}.csv").status_code in (404, 422)


def test_a_spreadsheet_is_looked_at_put_right_and_brought_in(coordinator: TestClient) -> None:
    plantings = b"bed,crop,sown,cleared,squares\nBed 4,turnip,2025-04-02,2025-07-01,A3-B4\nBed 4,cale,2025-04-02,2025-07-01,A3\n"
    page = send(coordinator, "/school/formats/past", "old.csv", plantings, what="plantings")
    assert "1 line can come in, 1 cannot." in page.text
    assert "“cale” is no crop of the catalogue. Is it Kale?" in page.text
    form = page.form("/school/formats/past/save")
    columns = {f"column_{n}": meaning for n, meaning in enumerate(("bed", "crop", "started", "cleared", "squares"))}
    done = Page(coordinator.post("/school/formats/past/save", data={**form.fields, **columns, "action": "bring in"}))
    assert done.status == 200
    named = b"date,bed,crop,amount\n2025-06-10,Bed 4,Turnips,2 lb 3 oz\n2025-06-11,4,White turnip,1/2 dozen\n2025-06-11,4,Beans,3#\n"
    page = send(coordinator, "/school/formats/past", "old.csv", named, what="pickings")
    assert "2 lines can come in, 1 cannot." in page.text
    assert "“Beans” is no crop of the catalogue. Is it Bush bean, Pole bean or Broad bean?" in page.text
    pounds = b"Harvest date,Garden bed,Veggie,Weight (lbs)\n2025-06-10,4,Turnips,3.5\n"
    page = send(coordinator, "/school/formats/past", "old.csv", pounds, what="plantings")
    assert "Its columns speak of pickings, so it is read as such." in page.text
    assert "1 line can come in" in page.text
    assert "3.5 lb" in page.text
    pickings = b"a,b,c,d\n2025-06-10,Bed 4,turnip,2 lb\n"
    page = send(coordinator, "/school/formats/past", "old.csv", pickings, what="pickings")
    assert "No column is taken for day and bed and crop and amount yet." in page.text
    form = page.form("/school/formats/past/save")
    swapped = {"column_0": "crop", "column_1": "bed", "column_2": "day", "column_3": "amount"}
    page = Page(coordinator.post("/school/formats/past/save", data={**form.fields, **swapped, "action": "look"}))
    assert "Nearly no line can be read" in page.text
    refused = Page(coordinator.post("/school/formats/past/save", data={**form.fields, **swapped, "action": "bring in"}))
    assert refused.status == 422
    assert "No line can come in" in refused.text
    right = {"column_0": "day", "column_1": "bed", "column_2": "crop", "column_3": "amount"}
    page = Page(coordinator.post("/school/formats/past/save", data={**form.fields, **right, "action": "bring in"}))
    assert "Turnip" in open_page(coordinator, "/harvest/book?by=crop&season=2024–25").text
    twice = Page(coordinator.post("/school/formats/past/save", data={**form.fields, **right, "action": "bring in"}))
    assert (twice.status, twice.response.url) == (200, page.response.url)
    ledger = list(csv.DictReader(io.StringIO(coordinator.get("/school/formats/tables/harvest.csv").text)))
    assert len([line for line in ledger if line["picked_on"] == "2025-06-10"]) == 1


def test_only_the_coordinator_takes_the_school_out_or_brings_one_in(client: TestClient) -> None:
    enter(client, "educator")
    for path in ("/school/formats/school.json", "/school/formats/tables.zip", "/school/formats/tables/bed.csv"):
        assert client.get(path).status_code == 403
    for path in ("/school/formats/school", "/school/formats/past", "/school/formats/past/save"):
        assert post(client, path).status == 403
