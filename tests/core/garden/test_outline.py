import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import cell_name, grid_of, parse_cells, pockets_of
from almanaque.core.garden.outline import (
    CORNERS,
    Shape,
    check_outline,
    check_place,
    convex_parts,
    distance_mm,
    inside,
    l_shape,
    overlap,
    reach_mm,
)
from tests.refuses import refuses

FT = 304.8
BOW_TIE = ((0, 0), (8 * FT, 4 * FT), (8 * FT, 0), (0, 4 * FT))


def test_a_turned_box_keeps_its_middle_its_sides_and_its_area() -> None:
    flat, turned = Shape(1000, 2000, 800, 400), Shape(1000, 2000, 800, 400, 30)
    corners = np.array(turned.on_site_mm)
    assert corners.mean(axis=0) == pytest.approx([1400, 2200])
    assert [math.dist(a, b) for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True)] == pytest.approx(
        [800, 400, 800, 400]
    )
    assert turned.polygon.area == pytest.approx(flat.area_mm2)
    assert turned.narrow_mm == pytest.approx(400)
    assert turned.around_mm == pytest.approx(2400)


def test_a_quarter_turn_is_clockwise_as_seen_on_the_map() -> None:
    """The right end of a box that lies along x points down after 90 degrees, y being down."""
    ((x, y),) = Shape(0, 0, 1000, 200, 90).to_site([(1000, 100)])
    assert (x, y) == pytest.approx((500, 600))


@given(st.floats(0, 359), st.floats(-3000, 3000), st.floats(-3000, 3000))
def test_places_go_to_the_site_without_being_stretched(turn: float, x: float, y: float) -> None:
    shape = Shape(300, 400, 2000, 1000, turn)
    a, b = shape.to_site([(0, 0), (x, y)])
    assert math.dist(a, b) == pytest.approx(math.hypot(x, y), abs=1e-6)


def test_an_l_has_the_area_of_its_box_less_the_notch_at_every_corner() -> None:
    for corner in CORNERS:
        corners = l_shape(5 * FT, 4 * FT, 2 * FT, 1 * FT, corner)
        check_outline(corners, 5 * FT, 4 * FT)
        assert Shape(0, 0, 5 * FT, 4 * FT, 0, corners).area_mm2 == pytest.approx(18 * FT * FT)
    with refuses("garden.notch_too_large"):
        l_shape(5 * FT, 4 * FT, 5 * FT, FT, "top left")


@pytest.mark.parametrize(
    ("corners", "says"),
    [
        (BOW_TIE, "garden.outline_crosses_itself"),
        (((0, 0), (8 * FT, 0)), "garden.outline_corners"),
        (((0, 0), (4 * FT, 0), (8 * FT, 0)), "garden.outline_on_a_line"),
        (((0, 0), (9 * FT, 0), (0, 4 * FT)), "garden.corner_outside_box"),
    ],
)
def test_an_outline_that_is_none_is_refused_in_a_sentence(corners: tuple[tuple[float, float], ...], says: str) -> None:
    with refuses(says) as refused:
        check_outline(corners, 8 * FT, 4 * FT)
    assert refused.value.field == "outline"


def test_an_l_leaves_out_whole_squares_and_names_them_when_they_are_asked_for() -> None:
    grid = grid_of(5 * FT, 5 * FT, FT, (), l_shape(5 * FT, 5 * FT, 3 * FT, 3 * FT, "bottom left"))
    assert len(grid.cells) == 16
    assert {cell_name(cell) for cell in grid.outside} == {f"{letter}{row}" for letter in "ABC" for row in (3, 4, 5)}
    assert parse_cells("A1-E5", grid) == set(grid.cells)
    with refuses("garden.square_outside_shape"):
        parse_cells("B4", grid)


def test_a_slanting_edge_cuts_the_squares_it_crosses() -> None:
    """A right triangle of 4 ft: of 16 squares 6 lie wholly on its side of the slant."""
    grid = grid_of(4 * FT, 4 * FT, FT, (), ((0, 0), (4 * FT, 0), (0, 4 * FT)))
    assert {cell_name(cell) for cell in grid.cells} == {"A1", "B1", "C1", "A2", "B2", "A3"}


def test_turned_beds_may_stand_corner_to_corner_but_not_in_one_another() -> None:
    one, two = Shape(0, 0, 1000, 1000, 45, (), "Bed 1"), Shape(1300, 0, 1000, 1000, 0, (), "Bed 2")
    assert distance_mm(one, two) == pytest.approx(1300 - 500 - 1000 / math.sqrt(2))
    assert not overlap(one, two)
    near = Shape(1100, 0, 1000, 1000, 0, (), "Bed 2")
    assert overlap(one, near)
    with pytest.raises(BadInput, match="Bed 1 would lie in Bed 2"):
        check_place(
            Shape(300, 300, 1000, 1000, 45, (), "Bed 1"), [Shape(1400, 300, 1000, 1000, 0, (), "Bed 2")], 9000, 9000
        )


def test_a_turned_bed_that_fitted_may_leave_the_site_by_its_corner() -> None:
    check_place(Shape(0, 0, 1000, 1000, 0, (), "Bed 1"), [], 1000, 1000)
    with refuses("garden.outside_site"):
        check_place(Shape(0, 0, 1000, 1000, 10, (), "Bed 1"), [], 1000, 1000)


def test_points_keep_away_from_the_edge_of_an_outline() -> None:
    corners = l_shape(4000, 4000, 2000, 2000, "top right")
    points = np.array([(1000.0, 1000.0), (1950.0, 1000.0), (3000.0, 1000.0), (1950.0, 2050.0), (3950.0, 3000.0)])
    assert list(inside(points, corners)) == [True, True, False, True, True]
    assert list(inside(points, corners, free_mm=100)) == [True, False, False, False, False]


def test_a_concave_outline_falls_into_convex_pieces_of_the_same_area() -> None:
    corners = l_shape(5000, 4000, 2000, 1000, "bottom left")
    parts = convex_parts(corners)
    assert len(parts) > 1
    assert sum(Shape(0, 0, 5000, 4000, 0, part).area_mm2 for part in parts) == pytest.approx(18e6)
    assert convex_parts(((0, 0), (1, 0), (1, 1), (0, 1))) == [((0, 0), (1, 0), (1, 1), (0, 1))]


def test_the_hose_must_reach_the_farthest_corner() -> None:
    assert reach_mm((0, 0), Shape(3000, 4000, 0.5, 0.5)) == pytest.approx(5000, abs=1)


def test_a_planters_pockets_are_its_squares() -> None:
    grid = pockets_of(1200, 200, 6)
    assert (grid.columns, grid.rows, grid.pitch_x_mm, grid.cell_mm) == (6, 1, 200, 200)
    assert len(grid.cells) == 6


def test_an_outline_on_a_line_is_refused_where_it_is_drawn() -> None:
    with refuses("garden.outline_on_a_line", field="outline"):
        check_outline([(0.0, 0.0), (300.0, 0.0), (600.0, 0.0)], 600.0, 600.0)
