"""`calc portrait`: a crop drawn by rule."""

import argparse
from typing import Any

from almanaque.core.errors import BadInput
from almanaque.core.portrait import drawing, emblems, picture
from almanaque.core.portrait.pen import Form
from almanaque.data import catalogue, portraits

LARGEST_PX = 2000


def drawn(given: argparse.Namespace) -> dict[str, Any]:
    """A crop at a stage as SVG, with what it measures."""
    crop = catalogue()[given.crop]
    size = _size(given.size)
    traits = portraits()[crop.key]
    if given.stage == "emblem":
        made = emblems.emblem(traits, emblems.emblem_of(crop.part))
    else:
        made = drawing.portrait(
            traits,
            given.stage,
            given.view,
            height_mm=crop.height_mm,
            width_mm=crop.width_mm,
            detail=picture.detail_of(size),
        )
    form: Form = "line" if given.line else "colour"
    return {
        "svg": picture.svg(made, size_px=size, form=form, name=f"{crop.key}-{given.stage}".replace(" ", "-")),
        "height_mm": round(made.measures.height, 1),
        "width_mm": round(made.measures.width, 1),
        "below_mm": round(made.measures.below, 1),
        "mm_per_unit": round(1 / made.sheet().scale, 3),
    }


def _size(text: str) -> float:
    if not text.isdecimal() or not 8 <= int(text) <= LARGEST_PX:
        raise BadInput("calc.no_size", field="size", most=LARGEST_PX)
    return float(text)
