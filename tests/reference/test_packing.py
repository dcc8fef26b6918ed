"""Plants in the plane against packing theory, brute force and an independent distance search.

Square packing holds 1/s² plants on a large bed, hexagonal packing 2/(√3 s²), the densest there is (Thue 1910, Fejes Tóth 1942).
"""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial import KDTree

from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import Rectangle, grid_of
from almanaque.core.garden.bed_rebuild import BOARDS
from almanaque.core.garden.layout import LayoutWish, lay_out
from almanaque.core.garden.outline import inside, l_shape
from almanaque.core.garden.rows_and_staggered import place_in_rows, place_staggered
from almanaque.data import catalogue

CROPS = catalogue()
FT = 304.8


def test_a_large_bed_comes_near_to_the_density_of_the_plane() -> None:
    side, s = 20_000.0, 200.0
    squares = place_in_rows(side, side, in_row_mm=s, row_mm=s).plants / side**2
    hexagons = place_staggered(side, side, spacing_mm=s).plants / side**2
    assert squares * s**2 == pytest.approx(1.0, rel=0.05)
    assert hexagons * s**2 == pytest.approx(2 / math.sqrt(3), rel=0.05)
    assert hexagons / squares == pytest.approx(1.155, abs=0.02)  # 15.5 % more


@settings(max_examples=60)
@given(st.integers(300, 1500), st.integers(300, 1500), st.integers(90, 400))
def test_no_shift_of_the_whole_lattice_holds_more_on_a_small_bed(length: int, width: int, s: int) -> None:
    """Brute force: the infinite triangular lattice, both ways round, laid at 12 × 12 offsets and counted."""
    edge = s / 2
    best = 0
    for a, b in ((length, width), (width, length)):
        rows, columns = int(b / (s * math.sqrt(3) / 2)) + 3, int(a / s) + 3
        j, i = np.mgrid[-1:rows, -1:columns]
        x, y = (i + 0.5 * (j % 2)) * s, j * s * math.sqrt(3) / 2
        for shift_x in np.linspace(0, s, 12, endpoint=False):
            for shift_y in np.linspace(0, s * math.sqrt(3), 12, endpoint=False):
                fits = (
                    (x + shift_x >= edge)
                    & (x + shift_x <= a - edge)
                    & (y + shift_y >= edge)
                    & (y + shift_y <= b - edge)
                )
                best = max(best, int(fits.sum()))
    assert place_staggered(length, width, spacing_mm=s).plants >= best


CROP_KEYS = sorted(crop.key for crop in CROPS)


@settings(max_examples=120)
@given(
    st.sampled_from(CROP_KEYS),
    st.sampled_from(["squares", "rows", "staggered"]),
    st.integers(2, 10),
    st.integers(2, 8),
    st.integers(0, 6),
    st.booleans(),
    st.data(),
)
def test_never_two_plants_too_near_and_none_outside(
    crop_key: str, arrangement: str, columns: int, rows: int, kept_at: int, l_shaped: bool, data: st.DataObject
) -> None:
    crop = CROPS[crop_key]
    length, width = columns * FT, rows * FT
    outline = l_shape(length, width, FT, FT, "bottom right") if l_shaped else ()
    kept = (Rectangle(min(kept_at, columns - 1) * FT, 0, FT, FT, "old bush"),)
    grid = grid_of(length, width, FT, kept, outline)
    cells = data.draw(st.sets(st.sampled_from(grid.cells), min_size=1)) if grid.cells else set()
    wish = LayoutWish(arrangement, "figures")  # type: ignore[arg-type]
    try:
        laid = lay_out(cells, grid, crop, wish, kept=kept, outline_mm=outline)
    except BadInput:
        span = (
            max(
                max(c for c, _ in cells) - min(c for c, _ in cells), max(r for _, r in cells) - min(r for _, r in cells)
            )
            + 1
        )
        assert crop.in_row_mm > span * FT  # wider than the part, and said so
        return
    if not laid.plants:
        return
    places = np.array(laid.positions_mm)
    assert (places >= 0).all()
    assert (places <= np.array([length, width])).all()
    if outline:
        assert inside(places, outline).all()
    x, y = places.T
    assert not ((x > kept[0].x_mm + 1) & (x < kept[0].x_mm + FT - 1) & (y < FT - 1)).any()
    if laid.reading.block == 1:
        assert {(int(a // FT), int(b // FT)) for a, b in laid.positions_mm} <= cells
    if len(places) > 1:
        near = KDTree(places).query(places, k=2)[0][:, 1].min()
        assert near >= min(crop.in_row_mm, crop.row_mm) * 0.98 - 1e-6


def test_dressed_boards_have_the_sizes_of_the_lumber_standard() -> None:
    """American Softwood Lumber Standard PS 20-20, table 3, dry dressed widths in inches; from memory."""
    printed = {"2 × 6 board": 5.5, "2 × 8 board": 7.25, "2 × 10 board": 9.25, "2 × 12 board": 11.25}
    assert {board.name: board.high_mm / 25.4 for board in BOARDS["us"]} == pytest.approx(printed)
    assert {round(board.thick_mm / 25.4, 6) for board in BOARDS["us"]} == {1.5}
