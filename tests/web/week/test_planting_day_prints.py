"""Seed mats, labels and sums of a bed."""

import re

import pytest
from fastapi.testclient import TestClient

from tests.database import bed_id
from tests.web.pages import Page, open_page, post

BED_3, BED_4, BED_7, SILL = (bed_id(name) for name in ("Bed 3", "Bed 4", "Bed 7", "Sill"))


def sown(client: TestClient, crop: str = "carrot") -> Page:
    """The seed mats of a crop planned for today."""
    post(
        client,
        f"/garden/beds/{BED_4}",
        command="ink",
        squares="F3-F4",
        crop=crop,
        method="direct",
        start_on="2027-04-14",
    )
    return open_page(client, f"/garden/beds/{BED_4}/mats?on=2027-04-14")


def test_sixteen_to_a_square_is_four_folds_and_the_seed_is_counted(coordinator: TestClient) -> None:
    page = sown(coordinator)
    assert "Carrot F3, F4 2 mats of 16 dots" in page.text
    assert re.search(r"\d+ seeds with one in ten to spare", page.text)
    assert "Fold 4 times in half: 4 × 4 parts, 2 3/4 in × 2 3/4 in each on a towel of 11 in." in page.text
    assert "Make them from 17 Feb to 12 Apr, lay them on 14 Apr." in page.text
    assert "Write crop, square and maker on it" in page.text


def test_nine_to_a_square_cannot_be_folded(coordinator: TestClient) -> None:
    assert "No folding makes so many parts: use the quarters below." in sown(coordinator, "beet").text


def test_the_quarter_is_drawn_a_millimetre_to_a_unit_with_its_dots(coordinator: TestClient) -> None:
    page = sown(coordinator)
    box = re.search(
        r'class="quarter" width="([\d.]+)mm" height="([\d.]+)mm" viewBox="0 0 ([\d.]+) ([\d.]+)"', page.response.text
    )
    assert box
    assert {float(n) for n in box.groups()} == {158.4}
    dots = [
        (float(x) - 3, float(y) - 3) for x, y in re.findall(r'<circle cx="([\d.]+)" cy="([\d.]+)"', page.response.text)
    ]
    assert dots == [(38.1, 38.1), (38.1, 114.3), (114.3, 38.1), (114.3, 114.3)]  # 3 in apart, 1 1/2 in from the edge
    assert "Use it four times" in page.text
    assert "Print at 100 %." in page.text


def test_starts_have_a_template_and_no_paste(reader: TestClient) -> None:
    page = open_page(reader, f"/garden/beds/{BED_7}/mats")
    assert "as a template: poked through and taken off" in page.text
    assert "Paste" not in page.text


def test_labels_carry_crop_place_class_group_day_and_a_code(reader: TestClient) -> None:
    page = open_page(reader, f"/garden/beds/{BED_7}/labels")
    assert "Leaf lettuce Bed 7: A3, B3 Grade 5 · group 1 22 Apr 2027" in page.text
    assert page.response.text.count('class="label"') == page.response.text.count('class="qr"') == 5
    assert 'class="labels is-letter"' in page.response.text
    assert 'class="labels is-a4"' in open_page(reader, f"/garden/beds/{BED_7}/labels?sheet=a4").response.text


def test_sums_are_those_of_the_bed_on_the_ribbons_day(reader: TestClient) -> None:
    page = open_page(reader, f"/garden/beds/{BED_3}/sums?day=2027-05-20")
    questions, answers = re.findall(r'<ol class="sums">(.*?)</ol>', page.response.text, re.DOTALL)
    assert questions.count("<li>") == answers.count("<li>") >= 10
    assert "Beet stands 4 in apart each way." in page.text
    assert "3 along, 9 in the square" in answers
    assert "3 along, 9 in the square" not in questions
    assert "4 squares are kept or cut off." in page.text


@pytest.mark.parametrize("what", ["mats", "labels"])
def test_without_anything_to_plant_the_page_says_so(reader: TestClient, what: str) -> None:
    assert (
        "Nothing is to go into this bed on Fri 24 Dec."
        in open_page(reader, f"/garden/beds/{BED_3}/{what}?on=2027-12-24").text
    )
    assert open_page(reader, f"/garden/beds/{BED_3}/{what}?on=x").status == 422
    assert open_page(reader, f"/garden/beds/{bed_id('Bed A', 'Tallowbank School')}/{what}").status == 404


def test_a_sill_has_sums_of_its_own_and_another_schools_bed_none(reader: TestClient) -> None:
    assert open_page(reader, f"/garden/beds/{SILL}/sums").status == 200
    assert open_page(reader, f"/garden/beds/{bed_id('Bed A', 'Tallowbank School')}/sums").status == 404
