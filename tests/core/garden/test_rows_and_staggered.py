"""Rows and staggered planting: by hand, by property, and against the limits of packing the plane."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.distance import pdist

from almanaque.core.garden.bed import Rectangle
from almanaque.core.garden.rows_and_staggered import place_in_rows, place_staggered
from tests.refuses import refuses

FT, IN = 304.8, 25.4


@pytest.mark.parametrize(
    ("in_row_in", "row_in", "plants", "rows", "along"),
    [
        (12, 12, 32, 4, "length"),
        (4, 12, 96, 4, "length"),
        (3, 6, 256, 8, "length"),
        (24, 24, 8, 2, "length"),
        (18, 36, 6, 3, "width"),
    ],
)
def test_a_bed_of_eight_by_four_feet_by_hand(
    in_row_in: float, row_in: float, plants: int, rows: int, along: str
) -> None:
    """96 in and 48 in less half the in-row distance at both ends, divided; the last one needs 2 % to be counted once more."""
    found = place_in_rows(8 * FT, 4 * FT, in_row_mm=in_row_in * IN, row_mm=row_in * IN)
    assert (found.plants, found.rows, found.along) == (plants, rows, along)


def test_the_direction_that_holds_more_is_taken() -> None:
    found = place_in_rows(4 * FT, 2 * FT, in_row_mm=6 * IN, row_mm=50 * IN)
    assert (found.plants, found.along) == (8, "length")
    tall = place_in_rows(2 * FT, 4 * FT, in_row_mm=6 * IN, row_mm=50 * IN)
    assert (tall.plants, tall.along) == (8, "width")


def test_a_kept_part_and_an_edge_are_left_free() -> None:
    bush = Rectangle(0, 0, 2 * FT, 2 * FT, "old currant")
    found = place_in_rows(5 * FT, 3 * FT, in_row_mm=12 * IN, row_mm=12 * IN, kept=[bush])
    assert found.plants == 11
    assert all(not (x < 2 * FT and y < 2 * FT) for x, y in found.positions_mm)
    wide = place_in_rows(5 * FT, 3 * FT, in_row_mm=12 * IN, row_mm=12 * IN, edge_mm=12 * IN)
    assert wide.plants == 4 * 2
    assert min(min(x, 5 * FT - x, y, 3 * FT - y) for x, y in wide.positions_mm) == pytest.approx(12 * IN)


def test_plants_in_rows_keep_half_their_distance_from_a_kept_part() -> None:
    path = Rectangle(2 * FT, 0, 6 * IN, 2 * FT, "path")
    found = place_in_rows(5 * FT, 2 * FT, in_row_mm=8 * IN, row_mm=12 * IN, kept=[path])
    assert found.plants
    assert all(max(path.x_mm - x, x - path.x_mm - path.length_mm) >= 4 * IN - 1e-6 for x, _ in found.positions_mm)
    # One that stands exactly so far away stays.
    at_the_edge = place_in_rows(3 * FT, FT, in_row_mm=12 * IN, row_mm=50 * IN, kept=[Rectangle(FT, 0, FT, FT, "stump")])
    assert [x / IN for x, _ in at_the_edge.positions_mm] == pytest.approx([6, 30])


def test_a_bed_narrower_than_its_edges_holds_nothing() -> None:
    assert place_in_rows(FT, FT, in_row_mm=FT, row_mm=FT, edge_mm=FT).plants == 0


beds = st.tuples(st.floats(200, 6000), st.floats(200, 3000))
parts = st.lists(
    st.builds(Rectangle, st.floats(0, 3000), st.floats(0, 2000), st.floats(50, 1500), st.floats(50, 1500)), max_size=2
)


@given(beds, st.floats(60, 900), st.floats(1, 3), parts)
def test_no_two_plants_are_too_near_none_is_outside_and_none_in_a_kept_part(
    size: tuple[float, float], spacing: float, wider: float, kept: list[Rectangle]
) -> None:
    for found in (
        place_in_rows(*size, in_row_mm=spacing, row_mm=spacing * wider, kept=kept),
        place_staggered(*size, spacing_mm=spacing, kept=kept),
    ):
        places = np.array(found.positions_mm)
        if len(places) > 1:
            assert pdist(places).min() >= spacing / 1.02 * (1 - 1e-6)
        for x, y in found.positions_mm:
            assert 0 < x < size[0]
            assert 0 < y < size[1]
            assert not any(p.x_mm < x < p.x_mm + p.length_mm and p.y_mm < y < p.y_mm + p.width_mm for p in kept)


@given(st.floats(80, 400))
def test_on_a_large_bed_the_numbers_near_those_of_the_plane(spacing: float) -> None:
    """Square density 1/s², staggered 2/(√3 s²): 15.5 % more."""
    side = 40 * spacing
    square = place_in_rows(side, side, in_row_mm=spacing, row_mm=spacing).plants
    staggered = place_staggered(side, side, spacing_mm=spacing).plants
    assert square * spacing**2 / side**2 == pytest.approx(1, abs=0.06)
    assert staggered * spacing**2 / side**2 == pytest.approx(2 / math.sqrt(3), abs=0.07)
    assert staggered > square


@pytest.mark.parametrize(
    ("options", "says"),
    [
        ({"in_row_mm": 0, "row_mm": 10}, "garden.distance_of_nothing"),
        ({"in_row_mm": 10, "row_mm": -1}, "garden.distance_of_nothing"),
        ({"in_row_mm": 100, "row_mm": 100, "edge_mm": -1}, "garden.edge_below_nothing"),
        ({"in_row_mm": 1, "row_mm": 1}, "garden.about_too_many_plants"),
    ],
)
def test_what_cannot_be_is_refused(options: dict, says: str) -> None:
    with refuses(says):
        place_in_rows(3000, 1000, **options)
    with refuses("garden.bed_without_length"):
        place_staggered(0, 1000, spacing_mm=100)
