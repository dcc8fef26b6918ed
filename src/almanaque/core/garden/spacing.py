"""Where the plants stand. One answer gives the count, the places and what is left over, so that they cannot differ."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from almanaque.core.errors import BadInput
from almanaque.core.findings import Finding, Fix
from almanaque.core.garden.bed import TOLERANCE, Cell, Grid, grid_of

SOURCE = "practice_of_spacing"
MOST_PLANTS = 20_000  # more cannot be placed in one bed: our own rule


@dataclass(frozen=True)
class SpacingReading:
    """How a spacing reads in a square: `along` plants on one side and `per_square` in it, or one per `block`² squares."""

    along: int
    per_square: int
    block: int

    @property
    def words(self) -> str:
        """Both readings, because taking one for the other is the classic mistake."""
        if self.block == 1:
            return f"{self.along} along, {self.per_square} in the square"
        return f"1 in every block of {self.block} × {self.block} squares"


@dataclass(frozen=True)
class Layout:
    """Plant positions [mm] from the bed's inside top-left corner, x along the length, y down; and what they add up to."""

    positions_mm: tuple[tuple[float, float], ...]
    reading: SpacingReading
    squares: int
    left_over: tuple[Cell, ...]
    room: int = 0
    rows_words: str = ""

    @property
    def plants(self) -> int:
        return len(self.positions_mm)

    @property
    def words(self) -> str:
        """How they stand: both readings of a square, or the rows."""
        return self.rows_words or self.reading.words

    @property
    def open_places(self) -> int:
        """Places that hold no plant because fewer were to be placed."""
        return max(0, self.room - self.plants)


def read_square(spacing_mm: float, cell_mm: float) -> SpacingReading:
    """Plants in a square of side `cell_mm` [mm] for a spacing [mm] in both directions.

    k stand along a side when k · s ≤ 1.02 · c; when not even one does, one stands in each whole block of m × m squares,
    m the least with s ≤ 1.02 · m · c. Raises BadInput unless both are above 0.
    **Source:** common practice, no source; the 2 % is our own definition.

    >>> read_square(101.6, 304.8).words
    '3 along, 9 in the square'
    """
    if not (spacing_mm > 0 and cell_mm > 0):
        raise BadInput("garden.spacing_of_nothing")
    # A hair for floats: 3 · 101.6 must not fail against 1.02 · 304.8 for want of the sixteenth digit.
    along = math.floor(TOLERANCE * cell_mm / spacing_mm + 1e-9)
    if along >= 1:
        return SpacingReading(along, along * along, 1)
    return SpacingReading(0, 0, math.ceil(spacing_mm / (TOLERANCE * cell_mm) - 1e-9))


def place_in_squares(cells: Iterable[Cell], grid: Grid, *, spacing_mm: float, per_square: int | None = None) -> Layout:
    """Place one crop in the chosen squares of a bed.

    `per_square` is a crop's own published count, or one set by hand; it wins over the spacing. Blocks larger than one
    square are laid from the corner that holds the most. Raises BadInput above 20,000 plants.
    """
    chosen = set(cells)
    if per_square is not None:
        if per_square < 1:
            raise BadInput("garden.no_plant_in_square")
        across, down = near_square(per_square)
        reading = SpacingReading(across, per_square, 1)
    else:
        reading = read_square(spacing_mm, grid.cell_mm)
        across = down = reading.along
    if reading.block > 1:
        corners = best_blocks(chosen, reading.block)
        size_x, size_y = reading.block * grid.pitch_x_mm, reading.block * grid.pitch_y_mm
        places = tuple((c * grid.pitch_x_mm + size_x / 2, r * grid.pitch_y_mm + size_y / 2) for c, r in corners)
        used = {(c + i, r + j) for c, r in corners for i in range(reading.block) for j in range(reading.block)}
        return Layout(places, reading, len(chosen), tuple(sorted(chosen - used, key=reading_order)), len(places))
    if len(chosen) * reading.per_square > MOST_PLANTS:
        raise BadInput("garden.too_many_plants", plants=len(chosen) * reading.per_square, most=MOST_PLANTS)
    places = tuple(
        ((c + (i + 0.5) / across) * grid.pitch_x_mm, (r + (j + 0.5) / down) * grid.pitch_y_mm)
        for c, r in sorted(chosen, key=reading_order)
        for j in range(down)
        for i in range(across)
    )
    return Layout(places, reading, len(chosen), (), len(places))


def left_over(subject: str, layout: Layout) -> list[Finding]:
    """Care for painted squares that hold no plant because no whole block is left; none where every square is used."""
    if not layout.left_over:
        return []
    count, block = len(layout.left_over), layout.reading.block
    return [
        Finding(
            "squares_left_over",
            "care",
            subject,
            {"count": count, "block": block},
            SOURCE,
            (Fix("whole_blocks"),),
        )
    ]


def near_square(count: int) -> tuple[int, int]:
    """Split a count into plants across and down, as near to a square as it goes: 9 → 3 × 3, 8 → 4 × 2."""
    down = max(d for d in range(1, math.isqrt(count) + 1) if count % d == 0)
    return count // down, down


def best_blocks(cells: set[Cell], block: int) -> list[Cell]:
    """Top-left corners of whole `block` × `block` blocks that fit in the squares without touching one another twice.

    Laid greedily from each of the four corners, both ways; the fullest of the eight is kept.
    """
    best: list[Cell] = []
    for flip_c in (1, -1):
        for flip_r in (1, -1):
            for by_column in (False, True):
                found = _greedy(cells, block, flip_c, flip_r, by_column)
                if len(found) > len(best):
                    best = found
    return sorted(best, key=reading_order)


def _greedy(cells: set[Cell], block: int, flip_c: int, flip_r: int, by_column: bool) -> list[Cell]:
    free = set(cells)
    found = []
    order = sorted(
        cells,
        key=lambda cell: (flip_c * cell[0], flip_r * cell[1]) if by_column else (flip_r * cell[1], flip_c * cell[0]),
    )
    for c, r in order:
        columns, rows = range(0, block * flip_c, flip_c), range(0, block * flip_r, flip_r)
        wanted = {(c + i, r + j) for i in columns for j in rows}
        if wanted <= free:
            free -= wanted
            found.append((min(x for x, _ in wanted), min(y for _, y in wanted)))
    return found


def count_in_bed(length_mm: float, width_mm: float, *, spacing_mm: float, cell_mm: float) -> Layout:
    """Fill a whole bed [mm] with one crop in squares; the answer behind `almanaque calc spacing`."""
    grid = grid_of(length_mm, width_mm, cell_mm)
    return place_in_squares(grid.cells, grid, spacing_mm=spacing_mm)


def seeds_needed(plants: int, *, germination: float, survival: float) -> int:
    """Seeds to sow so that this many plants may be expected: plants ÷ (germination × survival), rounded up.

    Raises BadInput unless both shares are above 0 and at most 1.
    """
    if not (0 < germination <= 1 and 0 < survival <= 1):
        raise BadInput("garden.share_out_of_range")
    return math.ceil(plants / (germination * survival) - 1e-9)


def reading_order(cell: Cell) -> tuple[int, int]:
    """Squares row by row, as one reads."""
    return cell[1], cell[0]
