"""A strip goes with its step, and with its group of crops where it has one; each has as many words as pictures."""

import re
from pathlib import Path

import pytest

import almanaque.web
from almanaque.core.week import knacks
from almanaque.core.week.knacks import KNACKS, Knack
from almanaque.core.week.lesson_outlines import BECAUSE
from almanaque.data import catalogue

FOLDER = Path(almanaque.web.__file__).parent / "static/knacks"


@pytest.mark.parametrize("knack", KNACKS, ids=lambda knack: knack.name)
def test_a_strip_has_words_for_each_of_its_pictures_and_a_step_that_is_known(knack: Knack) -> None:
    drawn = (FOLDER / f"{knack.name}.svg").read_text(encoding="utf-8")
    assert len(re.findall("<clipPath", drawn)) == len(knack.words)
    assert knack.steps <= set(BECAUSE)
    assert knack.groups <= {crop.group for crop in catalogue()}


def test_no_strip_is_drawn_that_nothing_shows() -> None:
    assert {path.stem for path in FOLDER.iterdir()} == {knack.name for knack in KNACKS}


def test_a_strip_is_found_by_step_and_group() -> None:
    assert [one.name for one in knacks.of(["sow"])] == ["sow"]
    assert [one.name for one in knacks.of(["scout"], ["gourds"])] == ["pollinate"]
    assert knacks.of(["scout"], ["roots"]) == []
    assert len(knacks.of(["sow", "thin", "transplant"])) == knacks.MOST
