"""Drawing on the ground: free places, rows, round tops, what an L leaves out; pictures to scale and to north."""

import itertools
import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.garden import drawing, tracing
from almanaque.core.garden.bed import Rectangle, grid_of
from almanaque.core.garden.outline import CORNERS, Shape, l_shape, overlap
from almanaque.core.garden.tracing import Underlay
from tests.refuses import refuses

FT = 304.8
GROUND = (40 * FT, 30 * FT)


def test_the_first_free_place_keeps_a_path_and_never_lies_on_anything() -> None:
    others: list[Shape] = []
    for _ in range(9):
        found = drawing.free_place(8 * FT, 4 * FT, others, *GROUND, step_mm=FT)
        if found is None:
            break
        new = Shape(*found, 8 * FT, 4 * FT)
        assert not any(overlap(new, other) for other in others)
        others.append(new)
    assert [(round(o.x_mm / FT), round(o.y_mm / FT)) for o in others[:4]] == [(1, 1), (12, 1), (23, 1), (1, 8)]
    assert len(others) == 9


def test_where_a_path_leaves_no_room_a_place_without_one_is_taken_and_where_none_is_left_none() -> None:
    middle = Shape(4 * FT, 4 * FT, 2 * FT, 2 * FT)
    assert drawing.free_place(2 * FT, 2 * FT, [middle], 9 * FT, 9 * FT, step_mm=FT) == (FT, FT)
    assert drawing.free_place(5 * FT, 5 * FT, [middle], 9 * FT, 9 * FT, step_mm=FT) is None


@given(st.floats(0, 359), st.integers(2, 6), st.floats(0, 2000), st.sampled_from(("right", "down")))
def test_a_row_lies_side_by_side_with_its_gap_however_it_is_turned(
    turn: float, count: int, gap: float, way: drawing.Way
) -> None:
    row = drawing.in_a_row(Shape(50_000, 50_000, 2400, 1200, turn), count, gap, way)
    assert len(row) == count
    for one, after in itertools.pairwise(row):
        assert one.polygon.distance(after.polygon) == pytest.approx(gap, abs=0.01)


def test_a_row_has_two_to_twenty_four_beds() -> None:
    for count in (1, 25):
        with refuses("garden.row_of_how_many", field="count", most=24):
            drawing.in_a_row(Shape(0, 0, 1, 1), count, 0, "right")
    with refuses("garden.row_gap_below_nothing", field="gap"):
        drawing.in_a_row(Shape(0, 0, 1, 1), 2, -1, "right")


def test_a_round_top_is_nearly_the_circle_and_known_again() -> None:
    top = Shape(0, 0, 500, 500, 0, drawing.round_top(500))
    assert top.area_mm2 == pytest.approx(math.pi * 250**2, rel=0.012)
    assert drawing.is_round(top)
    assert not drawing.is_round(replace(top, length_mm=600))
    assert not drawing.is_round(Shape(0, 0, 500, 500))


@pytest.mark.parametrize("at", CORNERS)
def test_what_an_l_leaves_out_is_found_again(at: str) -> None:
    shape = Shape(0, 0, 10 * FT, 6 * FT, 0, l_shape(10 * FT, 6 * FT, 4.5 * FT, 3 * FT, at))  # type: ignore[arg-type]
    found = drawing.notch_of(shape)
    assert found is not None
    assert (round(found[0] / FT, 6), round(found[1] / FT, 6), found[2]) == (4.5, 3, at)


def test_another_outline_leaves_out_no_corner() -> None:
    for corners in ((), ((0, 0), (100, 0), (100, 100)), ((0, 0), (50, 10), (100, 0), (100, 100), (50, 90), (0, 100))):
        assert drawing.notch_of(Shape(0, 0, 100, 100, 0, corners)) is None


PICTURE = Underlay(100, 200, 10, 0, 400, 200)


def test_a_picture_first_fills_the_ground() -> None:
    assert tracing.fitted(400, 200, 8000, 8000) == Underlay(0, 2000, 20, 0, 400, 200)


def test_two_points_and_their_distance_set_the_scale_and_the_first_stays() -> None:
    found = tracing.set_to_scale(PICTURE, (100, 200), (1100, 200), 2000)
    assert (found.mm_per_px, found.x_mm, found.y_mm) == (20, 100, 200)
    moved = tracing.set_to_scale(PICTURE, (600, 200), (600, 700), 250)
    assert (moved.mm_per_px, moved.x_mm, moved.y_mm) == (5, 350, 200)


def test_points_too_near_and_lengths_of_nothing_are_refused() -> None:
    with refuses("garden.points_too_near", field="true"):
        tracing.set_to_scale(PICTURE, (0, 0), (49, 0), 100)
    for true in (0, 1_000_001):
        with refuses("garden.true_length_out_of_range", field="true"):
            tracing.set_to_scale(PICTURE, (0, 0), (100, 0), true)


@given(st.floats(0, 359), st.floats(0, 359))
def test_a_picture_turned_to_north_keeps_its_middle(arrow: float, north: float) -> None:
    found = tracing.set_to_north(PICTURE, arrow, north)
    assert found.middle_mm == pytest.approx(PICTURE.middle_mm)
    assert (found.turn_deg - (north - arrow)) % 360 == pytest.approx(0, abs=1e-6) or (
        found.turn_deg - (north - arrow)
    ) % 360 > 359.99


def test_a_new_part_is_offered_where_squares_are_free() -> None:
    kept = (Rectangle(0, 0, 2 * FT, 2 * FT, "fig"),)
    assert drawing.free_part(grid_of(4 * FT, 2 * FT, FT, kept)) == pytest.approx((2 * FT, 0, 2 * FT, 2 * FT))
    assert drawing.free_part(grid_of(3 * FT, 2 * FT, FT, kept)) == pytest.approx((2 * FT, 0, FT, FT))
    assert drawing.free_part(grid_of(2 * FT, 2 * FT, FT, kept)) is None
