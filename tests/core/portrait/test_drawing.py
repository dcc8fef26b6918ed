"""Portraits of all crops: every stage is drawn within its paper, in its true size, the same each time, and small enough."""

import re
from statistics import quantiles
from typing import get_args
from xml.etree import ElementTree

import pytest

from almanaque.calc import answer
from almanaque.cli import main
from almanaque.core.crops.crop import Crop
from almanaque.core.portrait import traits
from almanaque.core.portrait.drawing import STAGES, bolts, portrait
from almanaque.core.portrait.emblems import emblem, emblem_of
from almanaque.core.portrait.pen import bounds
from almanaque.core.portrait.picture import BOX, Portrait, Stage, detail_of, svg
from almanaque.core.portrait.space import View
from almanaque.data import catalogue, portraits
from tests.refuses import refuses

VIEWS: tuple[View, ...] = get_args(View)
GROWN: tuple[Stage, ...] = ("grown", "flower", "unripe", "ripe", "gone to seed")
CROPS = list(catalogue())
SVG = "{http://www.w3.org/2000/svg}"


def drawn(crop: Crop, stage: Stage, view: View = "side", *, detail: int = 1, number: int = 0) -> Portrait:
    """A crop of the catalogue as it is drawn."""
    return portrait(
        portraits()[crop.key],
        stage,
        view,
        height_mm=crop.height_mm,
        width_mm=crop.width_mm,
        detail=detail,
        number=number,
    )


@pytest.mark.parametrize("crop", CROPS, ids=lambda crop: crop.key)
def test_every_stage_of_every_crop_is_drawn_on_its_paper(crop: Crop) -> None:
    for stage in STAGES:
        for view in VIEWS:
            made = drawn(crop, stage, view, detail=0)
            text = svg(made, size_px=48, name="a")
            tree = ElementTree.fromstring(text)
            assert tree.findall(f".//{SVG}path"), (stage, view)
            sheet = made.sheet()
            left, low, right, top = bounds((*made.elements, *made.front))
            corners = sheet.put(complex(left, low)), sheet.put(complex(right, top))
            assert all(-1 <= value <= BOX + 1 for point in corners for value in (point.real, point.imag)), (stage, view)


@pytest.mark.parametrize("crop", CROPS, ids=lambda crop: crop.key)
def test_a_grown_plant_is_drawn_as_high_and_as_wide_as_the_catalogue_says(crop: Crop) -> None:
    traits_of = portraits()[crop.key]
    left, _, right, _ = bounds(drawn(crop, "grown", "top").elements)
    assert right - left == pytest.approx(crop.width_mm, rel=0.02)
    for stage in GROWN:
        if not bolts(traits_of, stage):
            made = drawn(crop, stage, detail=0)
            assert bounds(made.elements)[3] == pytest.approx(crop.height_mm, rel=0.02), stage
            assert made.measures.height == crop.height_mm


def test_the_same_call_draws_the_same_and_another_number_another_plant() -> None:
    for crop in CROPS[::9]:
        first, again = drawn(crop, "grown"), drawn(crop, "grown")
        assert svg(first, size_px=48) == svg(again, size_px=48)
        assert svg(first, size_px=48) != svg(drawn(crop, "grown", number=1), size_px=48)


def test_what_is_drawn_small_is_small() -> None:
    sizes = [len(svg(drawn(crop, stage), size_px=48, name="a")) for crop in CROPS[::2] for stage in STAGES]
    assert quantiles(sizes, n=4)[2] < 5000  # three quarters of them
    assert max(sizes) < 12_000
    emblems = [len(svg(emblem(portraits()[crop.key], emblem_of(crop.part)), size_px=24)) for crop in CROPS]
    assert max(emblems) < 4000
    assert [detail_of(px) for px in (24, 48, 150)] == [0, 1, 2]


def test_a_line_drawing_is_ink_on_white() -> None:
    for crop in CROPS[::7]:
        text = svg(drawn(crop, "ripe"), size_px=150, form="line")
        assert set(re.findall(r"#[0-9a-f]{3,6}(?=\")", text)) <= {"#fff", "#1d2b26", "#plant", "#plant-front"}, crop.key


def test_stages_of_a_crop_look_different() -> None:
    for crop in CROPS[::3]:
        seen = [
            svg(drawn(crop, stage, detail=0), size_px=48) for stage in ("seed", "seedling", "young", "grown", "dead")
        ]
        assert len(set(seen)) == len(seen), crop.key


def test_no_two_crops_have_the_same_picture_but_kinds_of_one() -> None:
    shown: dict[str, list[str]] = {}
    for crop in CROPS:
        seen = svg(drawn(crop, "flower"), size_px=48) + svg(drawn(crop, "ripe"), size_px=48)
        shown.setdefault(seen, []).append(crop.key)
    assert [keys for keys in shown.values() if len(keys) > 1] == []


def test_a_new_crop_is_a_row_of_data() -> None:
    made = traits.read('[a]\nleaf = { form = "heart", tone = "blue" }\n[b]\nlike = "a"\nleaf = { margin = "toothed" }')
    assert (made["b"].leaf.form, made["b"].leaf.tone, made["b"].leaf.margin) == ("heart", "blue", "toothed")
    assert portrait(made["b"], "grown", "side", height_mm=300, width_mm=200).elements
    with refuses("portrait.like_nothing"):
        traits.read('[a]\nlike = "b"\n[b]\nlike = "a"\n')["a"]


def test_calc_prints_a_drawing(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["calc", "portrait", "--crop", "radish", "--stage", "seedling", "--size", "48", "--line"]) == 0
    assert capsys.readouterr().out.startswith("<svg ")
    found = answer(["portrait", "--crop", "sweet-corn", "--view", "side"])
    assert found["height_mm"] == pytest.approx(catalogue()["sweet-corn"].height_mm)
    for wrong, says in (
        (["--crop", "nothing"], "crops.no_such_crop"),
        (["--crop", "radish", "--size", "3"], "calc.no_size"),
    ):
        with refuses(says):
            answer(["portrait", *wrong])
