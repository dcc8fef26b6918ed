"""`calc spacing`, `volume`, `grid`, `seeds`, `sun` and `crops`: what a bed holds, and the light it has."""

import argparse
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from almanaque.calc.arguments import body_of, day_of, number
from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.core.garden import rows_and_staggered, spacing
from almanaque.core.garden.bed import Rectangle, grid_of, soil_litres
from almanaque.core.garden.bed_strings import stringing
from almanaque.core.place import shade, sun
from almanaque.core.units import LITRES_PER_CUBIC_FOOT, parse_length, parse_size
from almanaque.data import catalogue
from almanaque.formats.place import obstacles_json


def in_bed(given: argparse.Namespace) -> dict[str, Any]:
    length, width = (float(side) for side in parse_size(given.bed))
    apart = float(parse_length(given.spacing))
    kept = tuple(_part(text) for text in given.keep or ())
    if given.method == "squares":
        return _in_squares(length, width, apart, float(parse_length(given.cell)), kept)
    edge = None if given.edge is None else float(parse_length(given.edge))
    if given.method == "staggered":
        layout = rows_and_staggered.place_staggered(length, width, spacing_mm=apart, edge_mm=edge, kept=kept)
    else:
        row = apart if given.row_spacing is None else float(parse_length(given.row_spacing))
        layout = rows_and_staggered.place_in_rows(length, width, in_row_mm=apart, row_mm=row, edge_mm=edge, kept=kept)
    return {
        "plants": layout.plants,
        "rows": layout.rows,
        "rows_run": layout.along,
        "positions_mm": _rounded(layout.positions_mm),
    }


def _in_squares(length: float, width: float, apart: float, cell: float, kept: tuple[Rectangle, ...]) -> dict[str, Any]:
    grid = grid_of(length, width, cell, kept)
    layout = spacing.place_in_squares(grid.cells, grid, spacing_mm=apart)
    return {
        "plants": layout.plants,
        "per_square": layout.reading.per_square,
        "along": layout.reading.along,
        "block": layout.reading.block,
        "squares": layout.squares,
        "left_over_squares": len(layout.left_over),
        "positions_mm": _rounded(layout.positions_mm),
    }


def volume(given: argparse.Namespace) -> dict[str, Any]:
    length, width = (float(side) for side in parse_size(given.bed))
    litres = soil_litres(length, width, float(parse_length(given.depth)))
    return {
        "litres": round(litres, 3),
        "cubic_feet": round(litres / LITRES_PER_CUBIC_FOOT, 3),
        "cubic_yards": round(litres / LITRES_PER_CUBIC_FOOT / 27, 4),
    }


def marks(given: argparse.Namespace) -> dict[str, Any]:
    length, width = (float(side) for side in parse_size(given.bed))
    grid = grid_of(length, width, float(parse_length(given.cell)))
    strung = stringing(length, width, grid)
    return {
        "columns": grid.columns,
        "rows": grid.rows,
        "squares": grid.columns * grid.rows,
        "marks_along_mm": [round(mark, 1) for mark in strung.along_mm],
        "marks_down_mm": [round(mark, 1) for mark in strung.down_mm],
        "strings": strung.strings,
        "string_mm": round(strung.string_mm, 1),
    }


def seeds(given: argparse.Namespace) -> dict[str, Any]:
    plants = number(given.plants, "plants")
    if plants != int(plants) or not 0 <= plants <= 1_000_000:
        raise BadInput("calc.plants_out_of_range", field="plants")
    shares = {name: number(getattr(given, name), name) for name in ("germination", "survival")}
    return {"seeds": spacing.seeds_needed(int(plants), **shares)}


def sunlight(given: argparse.Namespace) -> dict[str, Any]:
    """Hours of direct sun at one point on one day, with and without what stands around it."""
    latitude, day = sun.check_latitude(number(given.lat, "lat")), day_of(given.date, "date")
    number(given.lon, "lon")
    bodies = (
        obstacles_json.read(body_of(given.obstacles, field="obstacles"), Path(given.obstacles).name)
        if given.obstacles
        else []
    )
    hours = float(shade.hours_of_sun(np.zeros((1, 2)), [day], bodies, latitude=latitude)[0, 0])
    return {
        "hours": round(hours, 2),
        "open_hours": round(shade.open_hours(day, latitude=latitude), 2),
        "light": shade.light_words(hours),
    }


def _part(text: str) -> Rectangle:
    """A kept part, `x, y, length, width` as people write lengths; a corner may lie at 0."""
    parts = [word.strip() for word in text.split(",")]
    if len(parts) != 4:
        raise BadInput("calc.keep_form", field="keep", text=text[:30])
    x, y, length, width = (0.0 if word in ("0", "-0") else float(parse_length(word)) for word in parts)
    return Rectangle(x, y, length, width)


def _rounded(positions: Sequence[tuple[float, float]]) -> list[list[float]]:
    return [[round(x, 1), round(y, 1)] for x, y in positions]


def _told(crop: Crop) -> dict[str, Any]:
    return {**crop.model_dump(mode="json"), "picks_days": crop.picks_days, "best_days": crop.best_days}


def crops(_: argparse.Namespace) -> dict[str, Any]:
    crops = catalogue()
    return {"sources": crops.sources, "crops": [_told(crop) for crop in crops]}
