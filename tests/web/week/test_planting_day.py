"""The run sheet of a bed's planting day, and how the day came out."""

import re

import pytest
from fastapi.testclient import TestClient

from tests.database import bed_id
from tests.web.pages import Page, enter, open_page, post

BED_1, BED_3, BED_4, BED_7, SILL = (bed_id(name) for name in ("Bed 1", "Bed 3", "Bed 4", "Bed 7", "Sill"))


def day_of(client: TestClient, bed: object, on: str = "") -> Page:
    return open_page(client, f"/garden/beds/{bed}/planting-day{'?on=' + on if on else ''}")


def test_the_sheet_has_the_hour_the_groups_and_what_to_take_along(reader: TestClient) -> None:
    page = day_of(reader, BED_7)
    assert "Planting day, Bed 7" in page.text
    assert "Thu 22 Apr · Grade 5 · 25 children · 45 min · 6 squares · 48 holes" in page.text
    titles = re.findall(r"<b>([A-Z][a-z ]+)</b><span class=\"second\">\d+ min", page.html)
    assert titles == [
        "Gather at the bed",
        "Clear and prepare",
        "Soak the ground",
        "String the grid",
        "Lay the plan out",
        "Plant",
        "Measure",
        "Label",
        "Water in",
        "Clean up",
    ]
    assert "Mark the long sides at 1 ft, 2 ft, 3 ft" in page.text
    assert re.search(r"Group 1 : Leaf lettuce in A3, B3", page.text)
    assert "as deep as in the pot" in page.text
    assert "watering can 4" in page.text
    assert "wash hands after soil" in page.text
    assert "No hammers with this group." in day_of(reader, BED_4).text


def test_the_minutes_add_up_and_are_held_against_the_lesson(reader: TestClient) -> None:
    page = day_of(reader, BED_7)
    each = [int(n) for n in re.findall(r'<span class="second">(\d+) min[,<]', page.html)]
    whole = re.search(r"step by step (\d+) min in all", page.text)
    assert whole
    assert sum(each) == int(whole[1]) > 45
    assert f"All of it takes {whole[1]} minutes; the lesson has 45." in page.text
    assert "Prepare, soak and string the bed before the class comes." in page.text
    starts = [int(h) * 60 + int(m) for h, m in re.findall(r'part-at">(\d):(\d\d)<', page.html)]
    assert starts == [sum(each[:n]) for n in range(len(each))]


def test_every_square_that_is_planted_belongs_to_one_group(reader: TestClient) -> None:
    page = day_of(reader, BED_7)
    drawn = re.findall(r"<title>(\w+): (\d+) [\w -]+, group (\d+)</title>", page.html)
    carried = re.findall(r"<b>Group (\d+)</b>[^:]*: ([^<]+)<span", page.html)
    told = {(cell, group) for group, said in carried for cell in re.findall(r"\b[A-Z]\d\b", said)}
    assert {(cell, group) for cell, _, group in drawn} == told
    assert sum(int(holes) for _, holes, _ in drawn) == 48


def test_seed_has_a_gauge_as_deep_as_it_goes_and_two_rulers(coordinator: TestClient) -> None:
    planned(coordinator, "carrot")
    page = day_of(coordinator, BED_4, "2027-04-14")
    assert "1/4 in deep" in page.text
    assert "thin to 3 in when they are up" in page.text
    assert 'class="gauge-bar"' in page.response.text
    depth = re.search(r'height="([\d.]+)" class="gauge-bar"', page.html)
    assert depth
    assert float(depth[1]) == pytest.approx(6.35)
    width = re.search(r'class="gauge" width="([\d.]+)mm" height="[\d.]+mm" viewBox="0 0 ([\d.]+) ', page.html)
    assert width
    assert width[1] == width[2]  # a unit of the drawing is a millimetre on paper
    assert "M0 0H100" in page.response.text
    assert "M0 14H101.6" in page.response.text
    assert "Print at 100 %" in page.text
    assert "keep it moist every day until the seed is up" in page.text


def planned(client: TestClient, crop: str, squares: str = "F3-F4") -> str:
    """A crop planned in ink for today; its id."""
    post(
        client,
        f"/garden/beds/{BED_4}",
        command="ink",
        squares=squares,
        crop=crop,
        method="direct",
        start_on="2027-04-14",
    )
    found = re.search(r'name="plants-([0-9a-f-]{36})"', day_of(client, BED_4, "2027-04-14").response.text)
    assert found
    return found[1]


def test_afterwards_it_is_in_the_ground_with_what_really_happened(coordinator: TestClient) -> None:
    carrot = planned(coordinator, "carrot")
    page = post(
        coordinator,
        f"/garden/beds/{BED_4}/planting-day",
        **{
            f"plants-{carrot}": "30",
            f"left-{carrot}": "6",
            f"apart-{carrot}": "1.5 in, 1 in; 2 in, 1 1/2 in, 1.5",
            "on_day": "2027-04-14",
        },
    )
    assert page.status == 200
    about = open_page(coordinator, f"/garden/plantings/{carrot}").text
    assert "in the ground" in about
    assert "30 plants went in, 6 left over. 5 distances measured, 1 1/2 in on average where 3 in was meant." in about
    assert "They came out 50% too close. Thin to the distance when they are up." in about
    assert carrot not in day_of(coordinator, BED_4, "2027-04-14").response.text


def test_what_did_not_go_in_stays_planned(coordinator: TestClient) -> None:
    carrot = planned(coordinator, "carrot")
    page = post(coordinator, f"/garden/beds/{BED_4}/planting-day", **{f"plants-{carrot}": "", "on_day": "2027-04-14"})
    assert page.status == 422
    assert "Say of at least one crop how many went in." in page.text
    zero = post(coordinator, f"/garden/beds/{BED_4}/planting-day", **{f"plants-{carrot}": "0", "on_day": "2027-04-14"})
    assert "Leave its number empty, and it stays planned." in zero.text
    assert " planned" in open_page(coordinator, f"/garden/plantings/{carrot}").text


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"plants": "-1"}, "whole number from 0"),
        ({"plants": "many"}, "whole number"),
        ({"left": "x"}, "whole number"),
        ({"apart": "near"}, "not a length"),
        ({"apart": ", ".join(["1 in"] * 21)}, "Five distances are enough"),
        ({"on_day": "2027-04-15"}, "cannot lie in the future"),
        ({"on_day": "someday"}, "not a day"),
    ],
)
def test_what_cannot_be_is_refused_and_nothing_is_noted(
    coordinator: TestClient, change: dict[str, str], said: str
) -> None:
    carrot = planned(coordinator, "carrot")
    usual = {"plants": "30", "left": "1", "apart": "3 in, 3 in, 3 in", "on_day": "2027-04-14", **change}
    form = {f"{name}-{carrot}" if name != "on_day" else name: value for name, value in usual.items()}
    page = post(coordinator, f"/garden/beds/{BED_4}/planting-day", **form)
    assert page.status == 422
    assert said in page.text
    about = open_page(coordinator, f"/garden/plantings/{carrot}").text
    assert "went in" not in about
    assert "in the ground" not in about.split("Steps")[0]


def test_a_planting_of_another_bed_is_not_noted_here(coordinator: TestClient) -> None:
    other = re.search(r"Group", day_of(coordinator, BED_7, "2027-04-22").text)
    assert other
    theirs = re.search(r"/garden/plantings/([0-9a-f-]{36})", day_of(coordinator, BED_7).response.text)
    assert theirs
    page = post(
        coordinator, f"/garden/beds/{BED_4}/planting-day", **{f"plants-{theirs[1]}": "3", "on_day": "2027-04-14"}
    )
    assert page.status == 422


def test_a_bed_without_anything_to_plant_says_so(reader: TestClient) -> None:
    page = day_of(reader, BED_1, "2027-12-24")
    assert page.status == 200
    assert "Nothing is to go into this bed on Fri 24 Dec." in page.text
    assert day_of(reader, SILL).status == 200
    assert day_of(reader, BED_1, "tomorrow").status == 422


def test_a_viewer_reads_the_sheet_and_writes_nothing(client: TestClient) -> None:
    enter(client, "viewer")
    page = day_of(client, BED_7)
    assert "Squares and groups" in page.text
    assert "Afterwards" not in page.text
    assert post(client, f"/garden/beds/{BED_7}/planting-day", on_day="2027-04-14").status == 403
