"""The guided beginning, step by step, as forms without script."""

import re

import pytest
from fastapi.testclient import TestClient

from almanaque.host.postgres import Addresses
from tests.web.conftest import client_for
from tests.web.pages import Page, open_page, post
from tests.web.school.conftest import FOUND


def classes(page: Page, **change: str) -> dict[str, str]:
    weekdays = {f"weekday_{grade}": "1" for grade in range(6)}
    return {**page.form("/beginning/classes").fields, **weekdays, **change}


def test_all_that_is_wrong_with_the_classes_is_told_at_once_and_nothing_typed_is_lost(founder: TestClient) -> None:
    post(founder, "/beginning/year", country="US")
    page = open_page(founder, "/beginning?step=classes")
    wish = classes(page, heads_1="many", at_2="noon", heads_3="19", weekday_3="4")
    refused = post(founder, "/beginning/classes", **wish)
    assert refused.status == 422
    assert len(re.findall('class="field-error"', refused.html)) == 2
    shown = refused.form("/beginning/classes").fields
    assert (shown["heads_1"], shown["at_2"], shown["heads_3"]) == ("many", "noon", "19")
    chosen = [a["value"] for tag, a in refused.tags if tag == "option" and "selected" in a]
    assert chosen.count("4") == 1
    assert chosen.count("1") == 5
    assert "No groups yet" in open_page(founder, "/school/groups").text


def test_what_is_wrong_with_a_class_that_is_not_ticked_stops_nobody(founder: TestClient) -> None:
    page = open_page(founder, "/beginning?step=classes")
    wish = classes(page, heads_1="many")
    del wish["grade_1"]
    made = post(founder, "/beginning/classes", **wish)
    assert made.response.url.path == "/beginning"
    left = open_page(founder, "/beginning?step=classes").form("/beginning/classes").fields
    assert [name for name in left if name.startswith("heads_")] == ["heads_1"]


def test_a_class_that_is_there_is_not_offered_nor_kept_again(founder: TestClient) -> None:
    page = open_page(founder, "/beginning?step=classes")
    wish = classes(page)
    post(founder, "/beginning/classes", **wish)
    again = open_page(founder, "/beginning?step=classes")
    assert "Every grade has its class" in again.text
    post(founder, "/beginning/classes", **{key: value for key, value in wish.items() if key != "once"})
    assert open_page(founder, "/school/groups").html.count(">Grade 3<") == open_page(
        founder, "/school/groups"
    ).html.count(">Grade 4<")


@pytest.mark.parametrize(
    ("latitude", "longitude", "zone", "size"),
    [("42.9", "-75.4", "America/New_York", "8 ft × 4 ft"), ("60.4", "5.3", "Europe/Oslo", "2.4 m × 1.2 m")],
)
def test_units_are_as_usual_in_the_country_until_somebody_chooses(
    demo: Addresses, latitude: str, longitude: str, zone: str, size: str
) -> None:
    place = {"latitude": latitude, "longitude": longitude, "zone": zone, "units": ""}
    with client_for(demo) as client:
        form = open_page(client, "/start").form("/start").fields
        client.post("/start", data={**form, **FOUND, **place})
        assert f"a raised bed of {size}" in open_page(client, "/beginning?step=garden").text


def test_no_class_ticked_is_said(founder: TestClient) -> None:
    page = open_page(founder, "/beginning?step=classes")
    wish = {key: value for key, value in classes(page).items() if not key.startswith("grade_")}
    assert "Tick at least one class" in post(founder, "/beginning/classes", **wish).text


def test_a_garden_and_a_first_plan_in_pencil(founder: TestClient) -> None:
    post(founder, "/beginning/year", country="US")
    cards = open_page(founder, "/beginning?step=garden").text
    assert "a raised bed of 8 ft × 4 ft" in cards
    post(founder, "/beginning/garden", garden="one")
    page = open_page(founder, "/beginning?step=plan")
    form = page.form("/beginning/plan").fields
    crop = next(a["value"] for tag, a in page.tags if tag == "button" and a.get("name") == "crop")
    sheet = post(founder, "/beginning/plan", **form, crop=crop)
    assert sheet.response.url.path.startswith("/garden/beds/")
    assert "pencilled" in sheet.text
    unknown = post(founder, "/beginning/plan", **form, crop="moonflower")
    assert (unknown.status, "no crop “moonflower”" in unknown.text) == (422, True)


def test_the_usual_year_never_takes_the_place_of_one_on_file(founder: TestClient) -> None:
    post(founder, "/beginning/year", country="US")
    page = open_page(founder, "/beginning?step=year")
    assert "The year on file" in page.text
    assert "Begin with the usual year" not in page.text
    refused = post(founder, "/beginning/year", country="US")
    assert (refused.status, "is on file" in refused.text) == (422, True)


def test_the_week_follows_the_lines_and_the_bed_shows_its_free_squares(founder: TestClient) -> None:
    post(founder, "/beginning/year", country="US")
    page = open_page(founder, "/beginning?step=classes")
    wish = classes(page, weekday_2="4", at_2="08:15")
    del wish["grade_3"]
    looked = post(founder, "/beginning/classes/look", **wish).html
    assert re.search(r"<b>Friday</b><span>08:15 Grade 2</span>", looked)
    assert "10:00 Grade 3</span>" not in looked
    assert "No groups yet" in open_page(founder, "/school/groups").text
    post(founder, "/beginning/garden", garden="one")
    assert "32 free squares of 32" in open_page(founder, "/beginning?step=plan").text


def test_a_refused_form_sent_again_is_refused_again(founder: TestClient) -> None:
    wish = classes(open_page(founder, "/beginning?step=classes"), heads_1="many")
    assert [post(founder, "/beginning/classes", **wish).status for _ in range(2)] == [422, 422]
