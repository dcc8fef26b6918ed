"""School: the place, daily weather by source, and what stands in for a record."""

import re
from pathlib import Path

import psycopg
import pytest
from fastapi.testclient import TestClient

from almanaque.commands import context as contexts
from almanaque.demo import load
from almanaque.host.postgres import Addresses
from tests.database import NORTH
from tests.web.pages import Page, enter, open_page, post, upload

WEATHER = Path(__file__).parents[2] / "reference/data/seattle-2012-2015.csv"


def test_weather_comes_in_with_a_preview_of_columns_units_and_what_is_left_out(coordinator: TestClient) -> None:
    body = WEATHER.read_bytes() + b"2016/01/01,0,3,9,2,rain\n2016/01/04,0,9,3,2,rain\n2016/02/30,0,9,3,2,rain\n"
    page = upload(coordinator, "/school/weather/import", "rain city.csv", body, source="Harbour")
    assert "1,462 days can be kept" in page.text
    assert "2 lines are left out" in page.text
    assert "line 1463" in page.text
    assert "3 days in all; a gap stays a gap" in page.text
    mapping = str(page.response.url)
    other = open_page(
        coordinator, mapping.split("testserver")[1] + "&column_2=ignored&column_3=ignored&column_1=ignored"
    )
    assert "no column holds temperatures or rain" in other.text
    fields = page.form("/school/weather/save").fields
    kept = Page(coordinator.post("/school/weather/save", data={**fields, "kind": "region", "use": "yes"}))
    assert "Kept under Harbour" in kept.text
    assert "answers rest on this one" in kept.text
    assert "Climate from the Harbour." in open_page(coordinator, "/school/climate").text
    again = Page(coordinator.post("/school/weather/save", data={**fields, "kind": "region", "use": "yes"}))
    assert (again.status, again.response.url) == (200, kept.response.url)
    assert open_page(coordinator, mapping.split("testserver")[1]).response.url == kept.response.url


def test_swapped_columns_are_said_and_not_kept(coordinator: TestClient) -> None:
    rows = "".join(f"2026-0{m}-1{d},{20 + d},{5 + d}\n" for m in range(1, 4) for d in range(9))
    page = upload(coordinator, "/school/weather/import", "hut.csv", f"date,tmin,tmax\n{rows}".encode())
    assert "the two columns look swapped" in page.text
    assert not [f for f in page.forms if "/save" in f.action]
    mended = open_page(coordinator, str(page.response.url).split("testserver")[1] + "&column_1=tmax&column_2=tmin")
    assert "27 days can be kept" in mended.text


def test_a_reading_by_hand_is_kept_in_the_schools_units(client: TestClient, demo: Addresses) -> None:
    enter(client, "helper")
    page = post(
        client,
        "/school/weather/by-hand",
        day="2027-04-14",
        tmin="41",
        tmax="59",
        rain="0.5",
        wind="10",
        wind_from="NW",
        soil="50",
    )
    assert "Kept under garden weather hut" in page.text
    with psycopg.connect(demo.owner) as owner:
        row = owner.execute(
            (
                "SELECT tmin_c, tmax_c, rain_mm, wind_from, soil_c FROM weather_day WHERE "
                "school_id = %s AND source = 'garden weather hut' AND day = '2027-04-14'"
            ),
            [NORTH],
        ).fetchone()
    assert row == (5, 15, pytest.approx(12.7), "NW", 10)
    for wrong, says in (
        ({"tmin": "70", "tmax": "40"}, "above the greatest"),
        ({"tmin": "x"}, "not a number"),
        ({"day": "2027-05-01", "tmin": "40"}, "still to come"),
        ({}, "no value"),
    ):
        refused = post(client, "/school/weather/by-hand", **{"day": "2027-04-14", **wrong})
        assert (refused.status, says in refused.text) == (422, True), refused.text
    assert post(client, "/school/weather/use", source="garden weather hut").status == 403


def test_a_source_is_changed_and_deleted_but_not_the_one_in_use(coordinator: TestClient) -> None:
    assert (
        "Choose another one first"
        in post(coordinator, "/school/weather/delete", source="simulated station", sure="yes").text
    )
    assert "Tick the box" in post(coordinator, "/school/weather/delete", source="garden weather hut").text
    post(coordinator, "/school/weather/use", source="garden weather hut")
    assert "frost is not judged" in open_page(coordinator, "/school/climate").text  # half a winter is no season
    post(coordinator, "/school/weather/use", source="simulated station")
    assert (
        "garden weather hut"
        not in post(coordinator, "/school/weather/delete", source="garden weather hut", sure="yes").text
    )


def test_the_place_is_found_by_name_and_bad_numbers_are_refused(coordinator: TestClient) -> None:
    page = open_page(coordinator, "/towns?name=utica, new")
    assert "Utica, New York, United States" in page.text
    light = open_page(coordinator, "/towns/light?latitude=42.9&zone=America/New_York").text
    assert "Longest days 15.3 h in June, shortest 9.0 h in December. Weeks begin on Sunday." in light
    assert open_page(coordinator, "/towns/light?latitude=95").status == 422
    form = open_page(coordinator, "/school/place").form("/school/place")
    for wrong, says in (
        ({"latitude": "91"}, "latitude of 91 is not on earth"),
        ({"longitude": "181"}, "longitude of 181"),
        ({"zone": "Moon/Base"}, "no time zone"),
        ({"zone": "../etc/passwd"}, "no time zone"),
        ({"latitude": ""}, "Give latitude"),
        ({"theme": "x" * 81}, "longer than 80"),
        ({"setting": "x" * 121}, "longer than 120"),
        ({"place_name": "x" * 121}, "longer than 120"),
    ):
        refused = Page(coordinator.post("/school/place", data={**form.fields, "units": "us", **wrong}))
        assert (refused.status, says in refused.text) == (422, True), refused.text
    kept = Page(
        coordinator.post(
            "/school/place", data={**form.fields, "units": "metric", "latitude": "43.1", "place_name": "Utica"}
        )
    )
    assert 'value="43.1"' in kept.response.text
    assert "Warmth above 10 °C" in open_page(coordinator, "/school/climate").text


def test_typed_freezes_and_a_chart_stand_in_for_a_record(coordinator: TestClient) -> None:
    page = post(
        coordinator,
        "/school/freezes",
        last_usual="12 May",
        last_late="26 May",
        first_early="9-17",
        first_usual="",
        from_whom="the mill",
    )
    assert 'value="17 Sep"' in page.response.text
    assert "not a day of the year" in post(coordinator, "/school/freezes", last_usual="31 Feb").text
    looked_at = upload(coordinator, "/school/chart/import", "office.csv", b"crop,jan,mar,apr\nSkirret,,s,s\n")
    assert "Put 1 crop in the place of this chart" in looked_at.text
    assert "skirret" not in coordinator.get("/school/chart.csv").text
    keep = looked_at.form("/school/chart/keep").fields
    chart = Page(coordinator.post("/school/chart/keep", data={**keep, "action": "keep"}))
    assert "skirret" in chart.text
    again = Page(coordinator.post("/school/chart/keep", data={**keep, "action": "keep"}))
    assert (again.status, again.response.url.path) == (200, "/school/chart")
    assert "skirret,3,sow" in coordinator.get("/school/chart.csv").text
    post(coordinator, "/school/chart", crop="Kale", month_8="s", month_10="P")
    assert "kale,8,sow" in coordinator.get("/school/chart.csv").text
    assert "is not known" in post(coordinator, "/school/chart", crop="Kale", month_8="z").text
    post(coordinator, "/school/chart", crop="Kale")
    assert "kale" not in coordinator.get("/school/chart.csv").text


def test_a_chart_speaks_of_crops_by_the_offices_own_names(coordinator: TestClient) -> None:
    body = b'crop,apr,may,jun\n"Beans, snap",,s,s\nSwiss chard,s,s,\nBeans,,s,\nSkirret,s,,\nPea,s,,\n'
    looked_at = upload(coordinator, "/school/chart/import", "office.csv", body)
    said = (
        "for Bush bean",
        "for Chard",
        "for none of ours; write Bush bean or Pole bean or Broad bean",
        "for none of ours",
    )
    assert all(words in looked_at.text for words in said)
    keep = looked_at.form("/school/chart/keep").fields
    chart = Page(coordinator.post("/school/chart/keep", data={**keep, "action": "keep"}))
    assert all(words in chart.text for words in said)
    assert "for Pea" not in chart.text
    with coordinator.app.state.database.school(NORTH) as connection:
        chart_of = contexts.load(connection).setting.chart
    assert chart_of["bush bean", "sow"] == {5, 6}
    assert chart_of["chard", "sow"] == {4, 5}
    assert chart_of["skirret", "sow"] == {4}


def test_a_chart_with_names_of_its_own_is_read_as_its_columns_are_said_to_be(coordinator: TestClient) -> None:
    body = b"gewas;wanneer;wat\nPea;3;s\nSkirret;August;o\nSalsify;3;boil\n"
    page = upload(coordinator, "/school/chart/import", "office.csv", body)
    assert "has a column for the crop" in page.text
    form = page.form("/school/chart/keep").fields
    twice = {"column_0": "crop", "column_1": "crop", "column_2": "what"}
    said = Page(coordinator.post("/school/chart/keep", data={**form, **twice, "action": "keep"}))
    assert "Two columns are taken for “crop”" in said.text
    right = {"column_0": "crop", "column_1": "month", "column_2": "what"}
    page = Page(coordinator.post("/school/chart/keep", data={**form, **right, "action": "look"}))
    assert "1 line cannot be read" in page.text
    assert "office.csv, line 4: “boil” is not known" in page.text
    assert "skirret" not in coordinator.get("/school/chart.csv").text
    Page(coordinator.post("/school/chart/keep", data={**form, **right, "action": "keep"}))
    assert "skirret,8,set out" in coordinator.get("/school/chart.csv").text
    assert "salsify" not in coordinator.get("/school/chart.csv").text


def test_the_southern_school_has_its_year_from_february_and_freezes_in_winter(client: TestClient) -> None:
    enter(client, "educator")
    southern = str(load.school_id(load.SCHOOLS[1]))
    post(client, "/schools", school=southern)
    page = open_page(client, "/school")
    assert "School year 2027" in page.text
    assert 'value="2027-02-02"' in page.response.text
    assert 'value="2027-12-15"' in page.response.text
    climate = open_page(client, "/school/climate")
    row = re.search(r"<th scope=\"row\">0 °C</th>((?:<td>.*?</td>)+)", climate.html)[1]
    cells = re.findall(r"<td>(.*?)</td>", row)
    last, first = cells[1], cells[4]
    assert last.split()[1] == "Aug"
    assert first.split()[1] == "Jun"
    assert "Year 4 Terns" in open_page(client, "/school/groups").text


def test_a_station_fills_a_source_of_the_gardens_own_and_mail_goes_where_it_should(coordinator: TestClient) -> None:
    page = post(coordinator, "/school/weather/device", source="Roof station", device="roof-7")
    assert "Roof station has not answered yet." in page.text
    assert (
        "letters, digits and hyphens"
        in post(coordinator, "/school/weather/device", source="Roof station", device="http://10.0.0.1/").text
    )
    assert (
        "Choose another name"
        in post(coordinator, "/school/weather/device", source="simulated station", device="x").text
    )
    assert (
        "Roof station"
        not in post(coordinator, "/school/weather/device", source="Roof station", device="")
        .text.split("Which device")[0]
        .split("Weather station")[1]
    )
    assert (
        post(coordinator, "/school/weather/mail", mail_to="office@school.example, garden@school.example").status == 200
    )
    assert "office@school.example, garden@school.example" in coordinator.get("/school/weather").text
    for wrong in ("nobody", "a@b@c", "x@y\nBcc: z@y", ", ".join(f"a{n}@school.example" for n in range(9))):
        assert post(coordinator, "/school/weather/mail", mail_to=wrong).status == 422, wrong
    assert "Nothing was sent yet" in open_page(coordinator, "/school/mail").text
