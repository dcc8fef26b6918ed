"""Drawings of different species are told apart: measured in pixels, kin against kin, since strangers differ more."""

from functools import cache
from itertools import combinations

import numpy as np
import numpy.typing as npt
import pytest
from PIL import Image, ImageDraw

from almanaque.core.crops.crop import Crop
from almanaque.core.portrait.drawing import portrait
from almanaque.core.portrait.picture import Stage
from almanaque.data import catalogue, portraits
from almanaque.formats.crops.portrait_raster import paint

PX, SEEN_PX = 128, 48  # drawn so large, looked at so small
DIFFERS = 36  # of 255, from which a pixel's colour is another one
PAPER = 235


@cache
def pixels(key: str, stage: Stage) -> npt.NDArray[np.float64]:
    crop = catalogue()[key]
    made = portrait(portraits()[key], stage, "side", height_mm=crop.height_mm, width_mm=crop.width_mm, detail=1)
    sheet = made.sheet(PX)
    image = Image.new("RGB", (PX, PX), "white")
    pen = ImageDraw.Draw(image)

    def at(point: complex) -> tuple[float, float]:
        put = sheet.put(point)
        return put.real, put.imag

    for one in (*made.elements, *made.front):
        paint(pen, one, at, sheet.scale)
    return np.asarray(image.resize((SEEN_PX, SEEN_PX), Image.Resampling.BOX), dtype=float)


def apart(one: npt.NDArray[np.float64], other: npt.NDArray[np.float64]) -> float:
    """Share of the inked pixels of either that differ in hue or are inked in one only."""
    ink = (one < PAPER).any(axis=2) | (other < PAPER).any(axis=2)
    return float(((np.abs(one - other).max(axis=2) > DIFFERS) & ink).sum() / ink.sum())


def species(crop: Crop) -> tuple[str, ...]:
    return tuple(crop.botanical.replace("×", "").split()[:2])


@pytest.mark.parametrize(("stage", "least"), [("grown", 0.1), ("flower", 0.15), ("ripe", 0.15)])
def test_kin_are_told_apart_in_hue_and_form(stage: Stage, least: float) -> None:
    kin = [
        (a, b)
        for a, b in combinations(catalogue(), 2)
        if a.family == b.family and species(a) != species(b) and {a.key, b.key} <= set(portraits().keys)
    ]
    assert len(kin) > 400
    alike = [
        f"{a.key} and {b.key}: {found:.2f}"
        for a, b in kin
        if (found := apart(pixels(a.key, stage), pixels(b.key, stage))) < least
    ]
    assert not alike


def test_the_measure_itself_tells_the_same_from_another() -> None:
    tomato, kale = pixels("tomato", "ripe"), pixels("kale", "ripe")
    assert apart(tomato, tomato) == 0
    assert apart(tomato, kale) > 0.5
