"""Harvest through its pages: three taps' worth of fields, the book in all its ways, money, tasting, the report."""

import csv
import io
import re
from datetime import date
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from almanaque.demo import load
from almanaque.web.harvest.harvest_book import WAYS
from tests.database import NORTH, bed_id
from tests.web.pages import Page, enter, open_page, post

PICKED = load.demo_id("Brindlecombe School", "more", 0)


def radish(client: TestClient) -> str:
    page = open_page(client, "/harvest")
    return next(
        a["href"].partition("planting=")[2].partition("#")[0]
        for tag, a in page.tags
        if tag == "a" and "planting=" in a.get("href", "")
    )


def sent(client: TestClient, **change: str) -> dict[str, str]:
    return {
        "id": str(uuid4()),
        "planting": radish(client),
        "amount": "1",
        "unit": "lb",
        "use": "kitchen",
        "day": "2027-04-14",
        **change,
    }


def rows_of(client: TestClient, path: str) -> list[dict[str, str]]:
    answer = client.get(path)
    assert answer.headers["content-type"].startswith("text/csv")
    return list(csv.DictReader(io.StringIO(answer.text.removeprefix("\ufeff"))))


def test_ready_plantings_say_how_to_tell_and_how_to_pick(reader: TestClient) -> None:
    text = open_page(reader, "/harvest").text
    assert "Ready when the shoulder of the root shows, as wide as a thumb. Pull by the leaves" in text
    assert re.search(r"12 – 18 Apr Radish up to [\d.]+ lb Half barrel", text)


def test_a_doubtful_amount_is_asked_about_and_kept_once_it_is_said_to_be_right(coordinator: TestClient) -> None:
    much = sent(coordinator, amount="1000", unit="kg")
    page = post(coordinator, "/harvest", **much)
    assert page.status == 422
    assert "times the most that is usual" in page.text
    assert "The amount is right: keep it" in page.text
    assert "Kept: 1000 kg of radish." in post(coordinator, "/harvest", **much, sure="1").text


def test_uses_beyond_the_picking_are_refused_and_nothing_is_kept(coordinator: TestClient) -> None:
    before = len(rows_of(coordinator, "/harvest.csv"))
    page = post(coordinator, "/harvest", **sent(coordinator, amount="1"), **{"use-4": "0.8", "use-9": "0.5"})
    assert page.status == 422
    assert "The uses come to 1.3, but 1 was picked. Lower them by 0.3." in page.text
    assert len(rows_of(coordinator, "/harvest.csv")) == before


def test_the_last_picking_offers_what_fits_the_space(coordinator: TestClient) -> None:
    page = post(coordinator, "/harvest", **sent(coordinator), last="1")
    assert "See what fits the space in Half barrel" in page.text


def test_a_unit_of_ones_own_waits_for_its_weight(coordinator: TestClient) -> None:
    page = post(coordinator, "/harvest", **sent(coordinator, unit="crate", amount="1/2"))
    assert "Kept: 0.5 crate of radish." in page.text
    assert "no weight yet" in page.text
    weighed = post(
        coordinator, "/harvest/weights", id=str(uuid4()), crop="radish", amount="1", own_unit="crate", weight="2 lb"
    )
    assert "1 picking in that unit got a new weight." in weighed.text
    assert re.search(r"about 1\.0 lb \(0\.[89] to 1\.[12] lb\)", open_page(coordinator, "/harvest").text)


@pytest.mark.parametrize("way", WAYS)
def test_the_book_adds_up_to_the_same_whatever_way_it_is_read(reader: TestClient, way: str) -> None:
    whole = sum(float(row["mass_g"] or 0) for row in rows_of(reader, "/harvest.csv"))
    rows = rows_of(reader, f"/harvest/book.csv?by={way}")
    assert sum(float(row["weighed_g"]) + float(row["estimated_g"]) for row in rows) == pytest.approx(whole, abs=0.1)
    assert sum(int(row["pickings_without_weight"]) for row in rows) == 1
    page = open_page(reader, f"/harvest/book?by={way}")
    chart = next(a for _, a in page.tags if a.get("class") == "chart")
    assert chart["aria-label"] in page.response.text.replace("&#39;", "'")
    assert f"By {WAYS[way].lower()}" in page.text


def test_the_book_of_one_crop_says_how_many_seasons_it_rests_on(reader: TestClient) -> None:
    text = open_page(reader, "/harvest/book?by=crop&crop=kale").text
    assert re.search(r"Kale, leaf, for the ground picked: .* \(n = 3 seasons\)", text)
    assert "43.50 USD" in text


def test_a_class_that_looks_for_its_team_finds_it(reader: TestClient) -> None:
    rows = {row["team"]: row for row in rows_of(reader, "/harvest/book.csv?by=team&season=2025–26")}
    assert float(rows["The Moles"]["weighed_g"]) == pytest.approx(3.4 * 453.59, abs=0.1)


def test_the_ribbons_day_shuts_the_book_there(reader: TestClient) -> None:
    assert (
        "2025–26" not in open_page(reader, "/harvest/book?by=season&day=2025-07-01").text.partition("By school year")[2]
    )


def test_the_picking_calendar_uses_forecast_and_what_worked_have_charts_tables_and_sentences(
    reader: TestClient,
) -> None:
    calendar = open_page(reader, "/harvest/calendar?season=2025–26")
    assert "12 crops in 7 months, most in June with 9 pickings" in calendar.text
    assert "went to “kitchen”" in open_page(reader, "/harvest/uses").text
    forecast = open_page(reader, "/harvest/forecast").text
    assert "Kale : 8 days later than forecast, in the middle of 3 plantings in 3 seasons" in forecast
    assert "range that was forecast at the start: 20 of 22 fell into it" in forecast
    assert "Your own pickings move these dates by themselves" in forecast
    assert "Your own correction is in use: 3 days later, from 3 seasons." in forecast
    assert re.search(
        r"Kale, Bed 5, 22 Oct 2024 2024–25 29 Aug 8 – 27 Oct .+ 22 Oct 8 days later 6 Mar \d+ days (later|earlier)",
        forecast,
    )
    worked = open_page(reader, "/harvest/worked?crop=kale").text
    assert "Soap spray against aphids: cannot say 1 of 2, did not 1 of 2" in worked


def test_a_bed_that_goes_its_own_way_is_told_until_pickings_move_no_dates_by_themselves(
    coordinator: TestClient,
) -> None:
    assert "Bed by bed" not in open_page(coordinator, "/harvest/forecast").text
    with coordinator.app.state.database.school(NORTH) as connection:
        connection.execute(
            "INSERT INTO bed_pace (school_id, bed_id, pace, plantings, learned_on) VALUES (%s, %s, 1.06, 5, %s)",
            [NORTH, bed_id("Bed 4"), date(2027, 4, 1)],
        )
    page = open_page(coordinator, "/harvest/forecast")
    assert "Bed 4 : what takes 60 days elsewhere takes 64 here, by 5 first pickings." in page.text
    assert "Bed by bed" not in post(coordinator, "/harvest/forecast", learns="0").text


def test_the_coordinator_agrees_to_learn_with_schools_near_by(viewer: TestClient) -> None:
    page = open_page(viewer, "/harvest/forecast")
    assert "Schools within 37 miles that agree tell each other" in page.text
    assert "The school's coordinator can agree to it." in page.text
    assert Page(viewer.post("/harvest/forecast/nearby", data={"agreed": "1"})).status == 403
    enter(viewer, "coordinator")
    page = post(viewer, "/harvest/forecast/nearby", agreed="1")
    assert "You learn with the schools within 37 miles that agreed too." in page.text
    assert "Schools within 37 miles that agree" in post(viewer, "/harvest/forecast/nearby", agreed="0").text


def test_a_correction_is_put_to_use_and_left_again(coordinator: TestClient) -> None:
    post(coordinator, "/harvest/forecast", learns="0")
    assert "your own pickings say 3 days later" in post(coordinator, "/harvest/forecast/kale", use="0").text
    page = post(coordinator, "/harvest/forecast/kale", use="1")
    assert "Your own correction is in use: 3 days later, from 3 seasons." in page.text
    assert (
        "in use"
        not in post(coordinator, "/harvest/forecast/kale", use="0").text.partition("Kale :")[2].partition("Leaf")[0]
    )
    refused = post(coordinator, "/harvest/forecast/spinach", use="1")
    assert refused.status == 422
    assert "differ by less than two days" in refused.text


def test_a_picking_is_put_right_taken_back_and_brought_in(coordinator: TestClient) -> None:
    path = f"/harvest/pickings/{PICKED}"
    page = post(
        coordinator,
        path,
        amount="15",
        unit="oz",
        use="kitchen",
        day="2026-05-12",
        part="scape",
        note="weighed again",
        action="change",
    )
    assert "weighed again" in page.response.text
    assert "Taken back on" in post(coordinator, path, action="take back").text
    assert "15 oz" not in open_page(coordinator, "/harvest?day=2026-05-20").text
    assert "Taken back on" not in post(coordinator, path, action="bring in").text
    refused = post(coordinator, path, amount="lots", unit="oz", use="kitchen", action="change")
    assert refused.status == 422
    assert "lots" in refused.response.text


def test_curing_on_the_page_says_where_it_hangs_and_what_it_lost(coordinator: TestClient) -> None:
    text = open_page(coordinator, "/harvest/curing").text
    assert "in the tool shed, under the roof" in text
    assert re.search(r"6\.9 lb cured, 29% less than the 9\.7 lb picked", text)
    path = f"/harvest/pickings/{PICKED}"
    page = post(coordinator, f"{path}/curing", day="2026-06-12", days="5", place="on the sill")
    assert "Hangs on the sill since 12 Jun, should be ready since 17 Jun." in page.text
    week = open_page(coordinator, "/week")
    assert "on the sill: see whether it has cured, and weigh it due 17 Jun" in week.text
    assert f'href="{path}"' in week.response.text
    page = post(coordinator, f"{path}/curing", cured_on="2026-06-20", weight="2 lb")
    assert page.status == 422
    assert "cannot weigh more cured" in page.text
    post(coordinator, f"{path}/curing", cured_on="2026-06-20", weight="1 oz")
    assert "see whether it has cured" not in open_page(coordinator, "/week").text


def test_a_tasting_counts_who_liked_it_without_names(coordinator: TestClient) -> None:
    page = post(coordinator, "/harvest/tastings", id=str(uuid4()), crop="kale", tried="20", liked="5", how="raw")
    assert "Kale : 5 of 20 liked it" in page.text
    assert "Kale 109 of 161 liked it in 3 tastings" in page.text
    refused = post(coordinator, "/harvest/tastings", id=str(uuid4()), crop="kale", tried="5", liked="6")
    assert refused.status == 422
    assert "6 liked it, but 5 tried it" in refused.text


def test_money_goes_to_a_purpose_and_another_currency_is_refused(coordinator: TestClient) -> None:
    assert "93.50 USD came in" in open_page(coordinator, "/harvest/money").text
    line = {
        "id": str(uuid4()),
        "kind": "sale",
        "what": "Kale at the gate",
        "amount": "12.50",
        "purpose": str(load.demo_id("Brindlecombe School", "purpose", "Second rain barrel")),
    }
    assert "106.00 USD came in" in post(coordinator, "/harvest/money", **line).text
    assert "106.00 USD came in" in post(coordinator, "/harvest/money", **line).text
    refused = post(coordinator, "/harvest/money", **{**line, "id": str(uuid4()), "amount": "12 EUR"})
    assert refused.status == 422
    assert "The ledger is kept in USD" in refused.text
    assert 'value="12 EUR"' in refused.response.text
    back = post(coordinator, "/harvest/money", back=line["id"])
    assert "taken back on 14 Apr" in back.text
    assert "93.50 USD came in" in back.text


def batch(**change: str) -> dict[str, str]:
    return {
        "id": str(uuid4()),
        "name": "Pickled radish",
        "kind": "pickle",
        "batch": "P1",
        "amount": "6",
        "unit": "jar",
        "recipe": "tested, kitchen folder 3",
        "read": "1",
        "what-1": "Radish",
        "weight-1": "2 lb",
        "what-2": "Vinegar",
        **change,
    }


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"read": ""}, "Read the cautions"),
        ({"recipe": ""}, "tested recipe"),
        ({"kind": "in oil", "best_before": "2027-06-01"}, "a week at most"),
        ({"what-1": "", "what-2": ""}, "Say what is in it"),
        ({"made_on": "2027-05-01"}, "in the future"),
        ({"amount": "0"}, "more than nothing"),
    ],
)
def test_a_batch_that_should_not_be_made_so_is_refused(
    coordinator: TestClient, change: dict[str, str], says: str
) -> None:
    page = post(coordinator, "/harvest/products", **batch(**change))
    assert page.status == 422
    assert says in page.text
    assert "Pickled radish" in page.response.text


def test_a_batch_has_a_label_with_what_is_in_it_and_its_cautions(coordinator: TestClient) -> None:
    page = post(coordinator, "/harvest/products", **batch())
    assert "Contains: Radish, Vinegar" in page.text
    assert "Batch P1, made 2027-04-14" in page.text
    assert "Selling is licensed locally" in page.text
    assert "already" in post(coordinator, "/harvest/products", **batch()).text


def test_the_report_is_two_pages_of_figures_that_are_in_the_book(reader: TestClient) -> None:
    page = open_page(reader, "/harvest/report?season=2025–26")
    assert "At least 108.8 lb from 12 crops and 138.0 sq ft of ground, in 22 pickings." in page.text
    assert "1 picking has no weight and is not in the sum." in page.text
    assert len([a for _, a in page.tags if a.get("class") == "chart"]) == 4
    rows = rows_of(reader, "/harvest/report.csv?season=2025–26")
    assert {row["by"] for row in rows} == {"season", "bed", "crop", "class", "team"}
    for way in ("bed", "crop", "class", "team"):
        assert sum(float(r["mass_g"]) for r in rows if r["by"] == way) == pytest.approx(
            sum(float(r["mass_g"]) for r in rows if r["by"] == "season"), abs=0.1
        )


def test_who_only_looks_logs_and_changes_nothing(viewer: TestClient) -> None:
    for path in (
        "/harvest",
        f"/harvest/pickings/{PICKED}",
        "/harvest/tastings",
        "/harvest/weights",
        "/harvest/money",
        "/harvest/products",
        "/harvest/forecast/kale",
    ):
        assert post(viewer, path, amount="1").status == 403
    assert not any(
        f.method == "post" and "/harvest/" in f.action and "report" not in f.action
        for f in Page(viewer.get("/harvest/money")).forms
    )
