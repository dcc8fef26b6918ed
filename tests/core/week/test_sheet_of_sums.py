"""Sums about a bed: right, in whole words, and only such as have an answer."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.week import sheet_of_sums
from almanaque.core.week.sheet_of_sums import BedCrop

FOOT = 304.8
BEET = BedCrop("Beet", 3, 9, 6, 54, 101.6)
KALE = BedCrop("Kale", 0, 0, 8, 2, 609.6)


def answers(*grown: BedCrop, usable: int = 30) -> dict[str, str]:
    return {s.question: s.answer for s in sheet_of_sums.sums(8 * FOOT, 4 * FOOT, FOOT, 8, 4, usable, grown, "us")}


def of(found: dict[str, str], words: str) -> str:
    return next(answer for question, answer in found.items() if words in question)


def test_a_bed_of_four_by_eight_feet() -> None:
    found = answers(BEET)
    assert of(found, "once around") == "24 ft"
    assert of(found, "area") == "32 square feet"
    assert of(found, "How many squares lie along") == "8 along, 4 across, 32 in all"
    assert of(found, "2 squares are kept") == "30"
    assert of(found, "Beet stands 4 in apart") == "3 along, 9 in the square"
    assert of(found, "9 plants of beet stand in a square") == "54"
    assert of(found, "is beet?") == "1/5"
    assert of(found, "How many seeds") == "60"
    assert of(found, "gallons fell") == "19.84 gallons"


def test_one_plant_over_several_squares_is_asked_the_other_way_round() -> None:
    found = answers(KALE)
    assert of(found, "8 squares hold 2 plants of kale") == "4"
    assert not any("in a square" in question for question in found)


def test_what_is_left_is_asked_when_there_are_several_crops() -> None:
    assert of(answers(BEET, KALE), "left for other things") == "8/15"
    assert not any("other things" in question for question in answers(BEET))


def test_in_metres_and_litres() -> None:
    found = {
        s.question: s.answer
        for s in sheet_of_sums.sums(2400, 1200, 300, 8, 4, 32, [BedCrop("Beet", 3, 9, 6, 54, 100)], "metric")
    }
    assert of(found, "area") == "2.88 square metres"
    assert of(found, "litres are 25 mm") == "72 litres"
    assert not any("kept or cut off" in question for question in found)


def test_at_most_three_crops_are_asked_about_and_an_empty_bed_has_sums_too() -> None:
    many = [BedCrop(f"Crop {n}", 1, 1, 2, 2, 300) for n in range(6)]
    assert not any("crop 4" in question.lower() for question in answers(*many))
    assert len(answers()) == 5


def test_a_bed_without_squares_has_none() -> None:
    with pytest.raises(ValueError, match="without squares"):
        sheet_of_sums.sums(100, 100, 300, 0, 0, 0, [], "us")


@given(st.integers(1, 12), st.integers(1, 6), st.integers(1, 5), st.data())
def test_every_answer_is_right(columns: int, rows: int, along: int, data: st.DataObject) -> None:
    squares = data.draw(st.integers(1, columns * rows))
    crop = BedCrop("Beet", along, along * along, squares, squares * along * along, FOOT / along)
    found = {
        s.question: s.answer
        for s in sheet_of_sums.sums(columns * FOOT, rows * FOOT, FOOT, columns, rows, columns * rows, [crop], "us")
    }
    assert of(found, "is beet?") == str(Fraction(squares, columns * rows))
    assert of(found, "How many in") == str(squares * along**2)
    seeds = int(of(found, "How many seeds"))
    assert (seeds - 1) * 9 < crop.plants * 10 <= seeds * 9
