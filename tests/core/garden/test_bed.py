from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import (
    COLDEST_SILL_C,
    WARMEST_SILL_C,
    Grid,
    Rectangle,
    cell_name,
    check_kept,
    check_warmth,
    grid_of,
    parse_cells,
    soil_litres,
)
from almanaque.core.garden.outline import Shape, check_place, check_site
from tests.refuses import refuses

FT = 304.8


def test_a_bed_of_four_by_three_feet_has_twelve_squares() -> None:
    grid = grid_of(4 * FT, 3 * FT, FT)
    assert (grid.columns, grid.rows, len(grid.cells)) == (4, 3, 12)


def test_a_bed_a_hair_short_still_has_its_squares_and_they_stay_inside() -> None:
    grid = grid_of(1200, 1200, FT)
    assert (grid.columns, grid.rows) == (4, 4)
    assert grid.columns * grid.pitch_x_mm <= 1200


def test_a_kept_part_takes_every_square_it_covers() -> None:
    grid = grid_of(8 * FT, 4 * FT, FT, (Rectangle(6 * FT, 0, 2 * FT, 2 * FT, "Rosemary"),))
    assert grid.kept == {(6, 0), (7, 0), (6, 1), (7, 1)}
    assert len(grid.cells) == 28


def test_a_kept_part_that_only_touches_a_square_leaves_it() -> None:
    assert grid_of(4 * FT, 4 * FT, FT, (Rectangle(0, 0, FT + 3, FT),)).kept == {(0, 0)}


@pytest.mark.parametrize("size", [(0, 3 * FT, FT), (3 * FT, 0, FT), (3 * FT, 3 * FT, 0), (-1, 5, 5)])
def test_a_bed_of_nothing_is_refused(size: tuple[float, float, float]) -> None:
    with refuses("garden.bed_without_size"):
        grid_of(*size)


def test_more_squares_than_can_be_drawn_are_refused_with_their_number() -> None:
    with pytest.raises(BadInput, match="10,200 squares"):
        grid_of(100_000, 1_000, 100)


@given(st.integers(0, 701), st.integers(0, 98))
def test_every_square_has_a_name_that_reads_back(column: int, row: int) -> None:
    grid = Grid(10, 702, 99, 10, 10, frozenset())
    assert parse_cells(cell_name((column, row)), grid) == {(column, row)}


def test_squares_are_read_as_names_and_blocks() -> None:
    grid = grid_of(4 * FT, 3 * FT, FT)
    assert parse_cells("A1-B2", grid) == {(0, 0), (1, 0), (0, 1), (1, 1)}
    assert parse_cells("b2 – a1, d3", grid) == {(0, 0), (1, 0), (0, 1), (1, 1), (3, 2)}


@pytest.mark.parametrize(
    ("text", "as_names"),
    [
        ("A1 to B2", "A1-B2"),
        ("a1 .. b2", "A1-B2"),
        ("A1 through B2", "A1-B2"),
        ("a1 and d3", "A1 D3"),
        ("A1 & D3", "A1 D3"),
        ("row 2", "A2-D2"),
        ("Rows 1 to 2", "A1-D2"),
        ("column B", "B1-B3"),
        ("cols A-C and row 3", "A1-C3 A3-D3"),
        ("row 1, row 3", "A1-D1 A3-D3"),
        ("all", "A1-D3"),
        ("everything", "A1-D3"),
    ],
)
def test_rows_columns_and_the_whole_bed_have_names(text: str, as_names: str) -> None:
    grid = grid_of(4 * FT, 3 * FT, FT)
    assert parse_cells(text, grid) == parse_cells(as_names, grid)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("E1", "garden.square_outside_bed"),
        ("A4", "garden.square_outside_bed"),
        ("A0", "garden.square_outside_bed"),
        ("", "garden.no_square_chosen"),
        ("12", "garden.not_a_square"),
        ("A1-B2-C3", "garden.not_a_square"),
        ("A1;DROP", "garden.not_a_square"),
        ("row 4", "garden.square_outside_bed"),
        ("column E", "garden.square_outside_bed"),
        ("row", "garden.not_a_square"),
        ("A1 to", "garden.not_a_square"),
        ("all but A1", "garden.not_a_square"),
    ],
)
def test_squares_that_are_not_there_are_refused(text: str, says: str) -> None:
    with refuses(says):
        parse_cells(text, grid_of(4 * FT, 3 * FT, FT))


def test_a_kept_square_named_alone_is_refused_and_in_a_block_left_out() -> None:
    grid = grid_of(2 * FT, FT, FT, (Rectangle(0, 0, FT, FT, "Thyme"),))
    assert parse_cells("A1-B1", grid) == {(1, 0)}
    with refuses("garden.square_kept"):
        parse_cells("A1", grid)


def test_soil_volume() -> None:
    assert soil_litres(1000, 1000, 100) == 100


whole = st.integers(0, 6)
sides = st.integers(1, 5)


@given(st.tuples(whole, whole, sides, sides), st.tuples(whole, whole, sides, sides))
def test_two_beds_may_touch_but_not_share_a_foot_of_ground(one: tuple[int, ...], two: tuple[int, ...]) -> None:
    def ground(bed: tuple[int, ...]) -> set[tuple[int, int]]:
        x, y, length, width = bed
        return {(column, row) for column in range(x, x + length) for row in range(y, y + width)}

    def refused() -> bool:
        try:
            check_place(Shape(*one, label="Bed 1"), [Shape(*two, label="Bed 2")], 11, 11)
        except BadInput as error:
            return "in Bed 2" in str(error)
        return False

    assert refused() == bool(ground(one) & ground(two))


@pytest.mark.parametrize("place", [(-1, 0), (0, -1), (41, 0), (0, 21)], ids=["left", "top", "right", "bottom"])
def test_a_bed_lies_on_its_site(place: tuple[float, float]) -> None:
    check_place(Shape(40, 20, 10, 10, label="Bed 1"), [], 50, 30)
    with pytest.raises(BadInput, match="Bed 1 would lie outside the site"):
        check_place(Shape(*place, 10, 10, label="Bed 1"), [], 50, 30)


@pytest.mark.parametrize("place", [(-1, 0), (0, -1), (3, 0), (0, 3)], ids=["left", "top", "right", "bottom"])
def test_a_kept_part_lies_in_its_bed(place: tuple[float, float]) -> None:
    check_kept(4, 4, [Rectangle(2, 2, 2, 2, "Sage")])
    with refuses("garden.kept_outside_bed"):
        check_kept(4, 4, [Rectangle(*place, 2, 2, "Sage")])


@given(st.integers(0, 60), st.integers(1, 30))
def test_whole_feet_touch_their_edges_and_one_another(start: int, length: int) -> None:
    """Sums of feet in millimetres are not exact in binary."""
    bed = Shape(start * FT, 0, length * FT, FT, label="Bed 1")
    check_place(bed, [Shape((start + length) * FT, 0, FT, FT, label="Bed 2")], (start + length) * FT, FT)
    check_kept((start + length) * FT, FT, [Rectangle(start * FT, 0, length * FT, FT, "Sage")])
    with pytest.raises(BadInput, match="would lie in Bed 2"):
        check_place(bed, [Shape((start + length) * FT - 1, 0, FT, FT, label="Bed 2")], 100 * FT, FT)


@pytest.mark.parametrize(
    ("width", "says"),
    [(0, "garden.site_without_size"), (-1, "garden.site_without_size"), (1_000_001, "garden.site_too_large")],
)
def test_a_site_has_a_size_that_can_be(width: float, says: str) -> None:
    check_site(1_000_000, 1)
    for size in ((width, 1000), (1000, width)):
        with refuses(says):
            check_site(*size)


@pytest.mark.parametrize(
    ("first", "last", "overlaps"),
    [(None, None, True), ("06-01", None, True), ("06-02", None, False), (None, "05-01", True), (None, "04-30", False)],
)
def test_a_kept_part_holds_its_place_on_its_first_and_its_last_day(
    first: str | None, last: str | None, overlaps: bool
) -> None:
    days = [date.fromisoformat(f"2027-{day}") if day else None for day in (first, last)]
    part = Rectangle(0, 0, 300, 300, "fig", *days)
    assert part.overlaps(date(2027, 5, 1), date(2027, 6, 1)) == overlaps


def test_a_sill_is_neither_a_larder_nor_an_oven() -> None:
    for warmth in (None, COLDEST_SILL_C, WARMEST_SILL_C):
        check_warmth(warmth)
    for warmth in (COLDEST_SILL_C - 0.1, WARMEST_SILL_C + 0.1):
        with refuses("garden.sill_out_of_range", field="warmth"):
            check_warmth(warmth)
