"""What a school is told that it has not said yet, and how much hangs on it."""

from fastapi.testclient import TestClient

from almanaque.store.place import weather
from tests.database import NORTH
from tests.web.pages import open_page, post


def test_a_school_whose_years_and_weather_are_there_is_told_nothing_of_them(coordinator: TestClient) -> None:
    assert "What is still missing" not in open_page(coordinator, "/school").text


def test_what_is_missing_says_how_many_plans_and_beds_hang_on_it(founder: TestClient) -> None:
    bare = open_page(founder, "/school").text
    for what in ("The school year", "The classes", "The garden, drawn", "The weather of your place"):
        assert what in bare
    assert "plans rest on that" not in bare
    post(founder, "/beginning/year", country="US")
    post(founder, "/beginning/garden", garden="six")
    page = open_page(founder, "/beginning?step=plan")
    form = page.form("/beginning/plan").fields
    crop = next(a["value"] for tag, a in page.tags if tag == "button" and a.get("name") == "crop")
    post(founder, "/beginning/plan", **form, crop=crop)
    told = open_page(founder, "/school").text
    assert "The school year without it" not in told
    assert "6 beds are taken for sunny all day" in told
    assert "1 plan rests on that" in told
    assert "in how many of them it holds" in told


def test_few_years_of_readings_are_told_with_what_more_would_give(coordinator: TestClient) -> None:
    with coordinator.app.state.database.school(NORTH) as connection:  # type: ignore[attr-defined]
        connection.execute("DELETE FROM weather_day WHERE day < '2024-01-01'")
        source = connection.execute("SELECT weather_source FROM school").fetchone()[0]
        weather.refresh_digest(connection, source)
    told = open_page(coordinator, "/school").text
    assert "More years of readings" in told
    assert "so nothing is called fitting before there are 5" in told
