"""Seed mats: folds, seed and days, and quarters of a square at true size."""

import math
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.garden.bed import grid_of
from almanaque.core.garden.spacing import place_in_squares
from almanaque.core.week import seed_mats

FOOT = 304.8
D = date.fromisoformat


def lattice(along: int, side: float = FOOT) -> list[tuple[float, float]]:
    step = side / along
    return [(step * (x + 0.5), step * (y + 0.5)) for y in range(along) for x in range(along)]


@pytest.mark.parametrize(("n", "parts"), [(0, 1), (1, 2), (2, 4), (3, 8), (4, 16), (5, 32)])
def test_n_folds_make_two_to_the_n_parts(n: int, parts: int) -> None:
    assert seed_mats.folds(parts) == n
    columns, rows, _, _ = seed_mats.towel_parts(n, 280, 230)
    assert columns * rows == parts


@pytest.mark.parametrize("parts", [0, 3, 9, 12, -4])
def test_what_no_folding_makes_is_told(parts: int) -> None:
    assert seed_mats.folds(parts) is None


def test_a_towel_smaller_than_a_square_has_smaller_parts() -> None:
    _, _, length, width = seed_mats.towel_parts(4, 279.4, 230)
    assert (length, width) == (pytest.approx(69.85), pytest.approx(57.5))


def test_seed_that_comes_up_badly_goes_two_to_a_dot() -> None:
    good, poor = (seed_mats.mat(16, 2, germination=g, lay_on=D("2027-04-20")) for g in (0.75, 0.74))
    assert (good.seeds_a_dot, good.seeds) == (1, 36)
    assert (poor.seeds_a_dot, poor.seeds) == (2, 71)
    assert poor.make_from < poor.make_by < poor.lay_on


@pytest.mark.parametrize(("per_square", "squares"), [(0, 1), (4, 0)])
def test_a_mat_without_a_dot_or_a_square_is_refused(per_square: int, squares: int) -> None:
    with pytest.raises(ValueError, match="a dot and a square"):
        seed_mats.mat(per_square, squares, germination=0.9, lay_on=D("2027-04-20"))


@pytest.mark.parametrize(("along", "dots"), [(1, 1), (2, 1), (3, 4), (4, 4), (5, 9), (6, 9)])
def test_an_even_pattern_has_one_quarter_that_is_turned_four_times(along: int, dots: int) -> None:
    found = seed_mats.quarters(lattice(along), FOOT)
    assert len(found) == 1
    assert (found[0].times, found[0].side_mm, len(found[0].dots_mm)) == (4, FOOT / 2, dots)


def test_the_dots_lie_where_the_plants_do() -> None:
    grid = grid_of(FOOT, FOOT, FOOT)
    layout = place_in_squares([(0, 0)], grid, spacing_mm=101.6)
    quarter = seed_mats.quarters(layout.positions_mm, FOOT)[0]
    assert quarter.dots_mm == ((50.8, 50.8), (50.8, 152.4), (152.4, 50.8), (152.4, 152.4))


@given(st.lists(st.tuples(st.floats(1, 303), st.floats(1, 303)), min_size=1, max_size=12))
def test_the_quarters_put_together_again_are_the_square(dots: list[tuple[float, float]]) -> None:
    found = seed_mats.quarters(dots, FOOT)
    names = {"top left": 0, "top right": 1, "bottom right": 2, "bottom left": 3}
    back = []
    for quarter in found:
        for where in quarter.where:
            for x, y in quarter.dots_mm:
                for _ in range((4 - names[where]) % 4):
                    x, y = y, FOOT - x
                back.append((x, y))
    assert sum(q.times for q in found) == 4
    assert all(any(math.dist(dot, other) < 2 * seed_mats.SAME_MM for other in back) for dot in dots)
    assert all(any(math.dist(dot, other) < 2 * seed_mats.SAME_MM for other in dots) for dot in back)


def test_a_lopsided_pattern_has_different_quarters() -> None:
    assert len(seed_mats.quarters([(50, 50)], FOOT)) == 2
    assert {q.times for q in seed_mats.quarters([(50, 50)], FOOT)} == {1, 3}


@pytest.mark.parametrize(("dots", "side"), [([(1, 1)], 500), ([(1, 1)], 0), ([(400, 1)], FOOT)])
def test_what_does_not_fit_on_paper_or_in_the_square_is_refused(dots: list[tuple[float, float]], side: float) -> None:
    with pytest.raises(ValueError, match="does not fit|outside"):
        seed_mats.quarters(dots, side)


METRE = 1000.0


@given(st.lists(st.tuples(st.floats(1, 999), st.floats(1, 999)), min_size=1, max_size=16))
def test_the_tiles_put_together_again_are_the_square_metre(dots: list[tuple[float, float]]) -> None:
    found = seed_mats.tiles(dots, METRE)
    side = found[0].side_mm
    assert side <= seed_mats.MOST_SIDE_MM / 2
    back = [
        (x + (int(where.split()[-1]) - 1) * side, y + (int(where.split()[1].rstrip(",")) - 1) * side)
        for tile in found
        for where in tile.where
        for x, y in tile.dots_mm
    ]
    assert all(tile.times == len(tile.where) for tile in found)
    assert all(any(math.dist(dot, other) < 2 * seed_mats.SAME_MM for other in back) for dot in dots)
    assert all(any(math.dist(dot, other) < 2 * seed_mats.SAME_MM for other in dots) for dot in back)


def test_a_square_metre_with_one_plant_has_four_tiles_that_meet_in_its_middle_or_one() -> None:
    found = seed_mats.tiles([(500.0, 500.0)], METRE)
    assert sum(tile.times for tile in found) in (1, 4)
    with pytest.raises(ValueError, match="outside"):
        seed_mats.tiles([(1500.0, 1.0)], METRE)
    with pytest.raises(ValueError, match="outside"):
        seed_mats.tiles([], METRE)
