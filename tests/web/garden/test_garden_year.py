"""A year that can be watched: one small answer with where plants stand and how they look, and twelve months on a sheet."""

from datetime import date, timedelta

from fastapi.testclient import TestClient

from almanaque.web.garden.garden_year import PlayedYear
from tests.database import bed_id
from tests.web.pages import open_page

MOST_BYTES = 150_000


def played(client: TestClient, day: str = "2027-04-14") -> PlayedYear:
    answer = client.get(f"/garden/year.json?day={day}")
    assert answer.status_code == 200
    assert len(answer.content) < MOST_BYTES
    return PlayedYear.model_validate(answer.json())


def test_the_year_of_the_day_comes_in_one_small_answer(reader: TestClient) -> None:
    found = played(reader)
    assert found.first == date(2026, 8, 26)
    assert found.days >= 360
    assert {gap[2] for gap in found.breaks} >= {"Summer break"}
    assert len(found.plantings) > 10
    for planting in found.plantings:
        assert planting.bed in found.beds
        assert 0 <= planting.first <= planting.last < found.days
        days = [look[0] for look in planting.looks]
        assert days == sorted(days)
        assert all(planting.first <= day <= planting.last for day in days)
        assert len(planting.points) % 2 == 0
    for href in found.pictures:
        assert reader.get(href).status_code == 200
    assert played(reader) == found


def test_peas_are_nothing_then_seedlings_then_ready(reader: TestClient) -> None:
    found = played(reader)
    sown = (date(2027, 3, 30) - found.first).days
    pea = next(
        one
        for one in found.plantings
        if one.bed == str(bed_id("Bed 2")) and any("/pea/" in found.pictures[look[1]] for look in one.looks)
    )
    assert pea.first == sown
    stages = [found.pictures[look[1]].split("/pea/")[1].split("-top")[0] for look in pea.looks]
    assert stages[0] == "seedling"
    assert "ripe" in stages
    assert stages[-1] == "dead"  # the vines stand on for the week in which they are cleared
    assert pea.looks[0][0] > sown
    sides = [look[2] for look in pea.looks]
    assert sides[0] < max(sides)


def test_another_year_has_other_plants(reader: TestClient) -> None:
    before = played(reader, "2025-10-10")
    assert before.first < date(2026, 1, 1)
    assert before.plantings != played(reader).plantings


def test_twelve_months_are_a_sheet_to_print(reader: TestClient) -> None:
    page = open_page(reader, "/garden/year")
    assert page.html.count("<figure") == 12
    june = page.html.split("June 2027")[1].split("<figure")[0]
    assert "/portraits/pea/" in june
    assert "/portraits/pea/" not in page.html.split("December 2026")[1].split("<figure")[0]


def test_a_school_without_plantings_plays_bare_beds(reader: TestClient) -> None:
    far = played(reader, (date(2027, 8, 24) + timedelta(days=900)).isoformat())
    assert far.plantings == [] or all(planting.looks for planting in far.plantings)
    assert far.beds
