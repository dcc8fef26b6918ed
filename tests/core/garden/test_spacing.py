import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import Rectangle, grid_of
from almanaque.core.garden.spacing import (
    best_blocks,
    count_in_bed,
    near_square,
    place_in_squares,
    read_square,
    seeds_needed,
)
from tests.refuses import refuses

FT, IN = 304.8, 25.4


def test_a_spacing_says_both_readings() -> None:
    assert read_square(4 * IN, FT).words == "3 along, 9 in the square"
    assert read_square(24 * IN, FT).words == "1 in every block of 2 × 2 squares"


@pytest.mark.parametrize("spacing_in", [1, 2, 3, 4, 6, 12])
def test_exact_divisors_of_a_foot_are_not_lost_to_floats(spacing_in: int) -> None:
    assert read_square(spacing_in * IN, 12 * IN).along == 12 // spacing_in


@given(st.floats(5, 3000), st.floats(50, 2000))
def test_either_plants_fit_along_the_square_or_blocks_are_the_least_that_do(spacing: float, cell: float) -> None:
    reading = read_square(spacing, cell)
    if reading.block == 1:
        assert reading.along * spacing <= 1.02 * cell + 1e-6
        assert (reading.along + 1) * spacing > 1.02 * cell - 1e-6
    else:
        assert spacing <= 1.02 * reading.block * cell + 1e-6
        assert spacing > 1.02 * (reading.block - 1) * cell - 1e-6


@given(st.integers(1, 12), st.integers(1, 8), st.floats(60, 1200))
def test_no_plant_stands_outside_the_bed(columns: int, rows: int, spacing: float) -> None:
    layout = count_in_bed(columns * FT, rows * FT, spacing_mm=spacing, cell_mm=FT)
    assert all(0 < x < columns * FT and 0 < y < rows * FT for x, y in layout.positions_mm)
    assert layout.plants == len(set(layout.positions_mm))


def test_whole_blocks_are_laid_from_the_corner_that_holds_the_most() -> None:
    # Three by three squares less the top-left one: only from the right or from below is there room for a second block.
    cells = {(c, r) for c in range(4) for r in range(3)} - {(0, 0), (0, 1)}
    assert len(best_blocks(cells, 2)) == 1
    assert len(best_blocks({(c, r) for c in range(5) for r in range(2)} - {(0, 0)}, 2)) == 2


@given(st.sets(st.tuples(st.integers(0, 5), st.integers(0, 4)), max_size=30), st.integers(2, 3))
def test_blocks_never_share_a_square_and_stay_in_what_was_painted(cells: set[tuple[int, int]], block: int) -> None:
    used: set[tuple[int, int]] = set()
    for c, r in best_blocks(cells, block):
        squares = {(c + i, r + j) for i in range(block) for j in range(block)}
        assert squares <= cells
        assert not squares & used
        used |= squares


def test_left_over_squares_are_named_not_counted() -> None:
    grid = grid_of(3 * FT, 2 * FT, FT)
    layout = place_in_squares(grid.cells, grid, spacing_mm=24 * IN)
    assert (layout.plants, layout.left_over) == (1, ((2, 0), (2, 1)))


def test_a_published_count_wins_over_the_spacing() -> None:
    grid = grid_of(FT, FT, FT)
    layout = place_in_squares(grid.cells, grid, spacing_mm=3 * IN, per_square=8)
    assert layout.plants == 8
    assert near_square(8) == (4, 2)
    assert near_square(7) == (7, 1)


def test_kept_squares_take_no_plants() -> None:
    grid = grid_of(2 * FT, FT, FT, (Rectangle(0, 0, FT, FT, "Thyme"),))
    assert place_in_squares(grid.cells, grid, spacing_mm=12 * IN).plants == 1


def test_more_plants_than_can_be_placed_are_refused() -> None:
    grid = grid_of(60 * FT, 60 * FT, FT)
    with refuses("garden.too_many_plants"):
        place_in_squares(grid.cells, grid, spacing_mm=30)
    with pytest.raises(BadInput, match="more than 0"):
        read_square(0, FT)
    with pytest.raises(BadInput, match="At least 1"):
        place_in_squares(grid.cells, grid, spacing_mm=30, per_square=0)


def test_seeds_are_rounded_up_and_shares_checked() -> None:
    assert seeds_needed(36, germination=0.85, survival=1) == 43
    assert seeds_needed(0, germination=0.5, survival=0.5) == 0
    assert seeds_needed(1, germination=1, survival=1) == 1
    # 7 / 0.7 is a hair above 10 in binary; exactly ten seeds are enough, and one more plant takes more.
    assert seeds_needed(7, germination=0.7, survival=1) == 10
    assert seeds_needed(8, germination=0.7, survival=1) == 12
    assert seeds_needed(9, germination=0.9, survival=0.5) == 20
    for share in (0, 1.1, -1):
        with refuses("garden.share_out_of_range"):
            seeds_needed(10, germination=share, survival=1)
