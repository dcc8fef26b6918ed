"""A bed as a plan sees it: the usable part in squares, and what it takes to fill it.

Origin is the inside top-left corner, x along the length, y down the width. Lengths are millimetres.
"""

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

import numpy as np

from almanaque.core.errors import BadInput
from almanaque.core.garden.outline import TOUCH_MM, Point, covered_shares

TOLERANCE = 1.02  # a square or a plant may be 2 % short of room: 12 in counts as one in 30 cm
MOST_SQUARES = 4000  # more cannot be drawn on a sheet: our own rule
MOST_PARTS = {"kept": 8, "sections": 12}  # of a bed: our own rule
LEAST_INSIDE = 0.95  # of a part within the bed's outline: our own rule
COLDEST_SILL_C, WARMEST_SILL_C = -20.0, 50.0  # of a place indoors [°C]: our own rule
MOVABLE_POTS = frozenset(
    {"container", "fabric pot", "planter"}
)  # kinds of bed with soil of their own, which can be carried
Cell = tuple[int, int]  # column, row; both from 0


@dataclass(frozen=True)
class Rectangle:
    """Part of a bed, such as what an old rosemary holds, for good or from a day and until a day (both included).

    Where a plant stands in it, `crop` is its key in the catalogue, `height_mm` and `spread_mm` how high and wide its crown is.
    """

    x_mm: float
    y_mm: float
    length_mm: float
    width_mm: float
    label: str = ""
    from_day: date | None = None
    to_day: date | None = None
    crop: str | None = None
    height_mm: float | None = None
    spread_mm: float | None = None

    @property
    def plant(self) -> bool:
        """True for a plant: one of the catalogue, or one whose crown somebody measured."""
        return self.crop is not None or self.height_mm is not None

    @property
    def middle_mm(self) -> Point:
        return self.x_mm + self.length_mm / 2, self.y_mm + self.width_mm / 2

    def overlaps(self, start: date, end: date) -> bool:
        """True when it holds its place on some day between two, both included."""
        return (self.from_day is None or self.from_day <= end) and (self.to_day is None or self.to_day >= start)


@dataclass(frozen=True)
class Grid:
    """The squares of a bed. `pitch_*` is the side as drawn, a hair smaller than `cell_mm` where the bed is a hair short.

    `outside` are squares that the bed's outline leaves out, or cuts.
    """

    cell_mm: float
    columns: int
    rows: int
    pitch_x_mm: float
    pitch_y_mm: float
    kept: frozenset[Cell]
    outside: frozenset[Cell] = frozenset()

    @property
    def cells(self) -> list[Cell]:
        """Squares that can be planted, in reading order."""
        taken = self.kept | self.outside
        return [(c, r) for r in range(self.rows) for c in range(self.columns) if (c, r) not in taken]


def pockets_of(length_mm: float, width_mm: float, pockets: int) -> Grid:
    """The pockets of a planter as one row of squares; one is as wide as its narrower side."""
    pitch = length_mm / pockets
    return Grid(min(pitch, width_mm), pockets, 1, pitch, width_mm, frozenset())


def grid_of(
    length_mm: float,
    width_mm: float,
    cell_mm: float,
    kept: tuple[Rectangle, ...] = (),
    outline_mm: Sequence[Point] = (),
) -> Grid:
    """Divide a bed's inside [mm] into squares of side `cell_mm`, less the kept parts and what its outline leaves out.

    A kept part takes every square of which it covers more than 2 % of a side; a square counts as inside an outline that
    covers it but for 2 % of each side. Raises BadInput for a size or a square of nothing, and for more than 4,000
    squares. **Source:** common practice, no source; the 2 % is our own definition.
    """
    if not (length_mm > 0 and width_mm > 0 and cell_mm > 0):
        raise BadInput("garden.bed_without_size")
    columns = math.floor(TOLERANCE * length_mm / cell_mm)
    rows = math.floor(TOLERANCE * width_mm / cell_mm)
    if columns * rows > MOST_SQUARES:
        raise BadInput("garden.too_many_squares", squares=columns * rows, most=MOST_SQUARES)
    pitch_x = min(cell_mm, length_mm / columns) if columns else cell_mm
    pitch_y = min(cell_mm, width_mm / rows) if rows else cell_mm
    slack = (TOLERANCE - 1) * cell_mm
    taken = frozenset(
        (c, r)
        for c in range(columns)
        for r in range(rows)
        for part in kept
        if part.x_mm < (c + 1) * pitch_x - slack
        and part.x_mm + part.length_mm > c * pitch_x + slack
        and part.y_mm < (r + 1) * pitch_y - slack
        and part.y_mm + part.width_mm > r * pitch_y + slack
    )
    outside = _outside(columns, rows, pitch_x, pitch_y, outline_mm) if outline_mm and columns and rows else frozenset()
    return Grid(cell_mm, columns, rows, pitch_x, pitch_y, taken - outside, outside)


def _outside(columns: int, rows: int, pitch_x: float, pitch_y: float, outline_mm: Sequence[Point]) -> frozenset[Cell]:
    cells = [(c, r) for r in range(rows) for c in range(columns)]
    boxes = np.array([(c * pitch_x, r * pitch_y, (c + 1) * pitch_x, (r + 1) * pitch_y) for c, r in cells])
    shares = covered_shares(boxes, outline_mm)
    return frozenset(cell for cell, share in zip(cells, shares, strict=True) if share < (2 - TOLERANCE) ** 2)


def check_warmth(celsius: float | None) -> None:
    """Raise BadInput for a warmth of an indoor place [°C] that no sill has."""
    if celsius is not None and not COLDEST_SILL_C <= celsius <= WARMEST_SILL_C:
        raise BadInput("garden.sill_out_of_range", field="warmth")


def check_kept(
    length_mm: float,
    width_mm: float,
    kept: Sequence[Rectangle],
    *,
    what: Literal["kept", "sections"] = "kept",
    outline_mm: Sequence[Point] = (),
) -> None:
    """Raise BadInput when a kept part or a section [mm] lies outside its bed, ends before it begins, or is one too many.

    With an outline it lies outside when more than a twentieth of it does.
    """
    if len(kept) > MOST_PARTS[what]:
        raise BadInput(f"garden.too_many_{what}", field=what, most=MOST_PARTS[what])
    for part in kept:
        if not _inside(part, length_mm, width_mm) or (outline_mm and _share_inside(part, outline_mm) < LEAST_INSIDE):
            raise BadInput(f"garden.{what}_outside_bed", field=what, part=part.label)
        if part.from_day and part.to_day and part.to_day < part.from_day:
            raise BadInput("garden.kept_until_before_from", field=what)


def _share_inside(part: Rectangle, outline_mm: Sequence[Point]) -> float:
    box = np.array([(part.x_mm, part.y_mm, part.x_mm + part.length_mm, part.y_mm + part.width_mm)])
    return float(covered_shares(box, outline_mm)[0])


def _inside(part: Rectangle, length_mm: float, width_mm: float) -> bool:
    return (
        part.x_mm >= -TOUCH_MM
        and part.y_mm >= -TOUCH_MM
        and part.x_mm + part.length_mm <= length_mm + TOUCH_MM
        and part.y_mm + part.width_mm <= width_mm + TOUCH_MM
    )


def soil_litres(length_mm: float, width_mm: float, depth_mm: float) -> float:
    """Volume [L] of a bed or of a layer in it, lengths [mm]."""
    return layer_litres(length_mm * width_mm, depth_mm)


def layer_litres(area_mm2: float, depth_mm: float) -> float:
    """Volume [L] of a layer over an area [mm²]."""
    return area_mm2 * depth_mm / 1_000_000


def cell_name(cell: Cell) -> str:
    """A square's name: a letter along the length, a number down the width.

    >>> cell_name((2, 0)), cell_name((27, 3))
    ('C1', 'AB4')
    """
    column, letters = cell[0], ""
    while True:
        letters = chr(ord("A") + column % 26) + letters
        column = column // 26 - 1
        if column < 0:
            return f"{letters}{cell[1] + 1}"


def squares_within(grid: Grid, part: Rectangle) -> str:
    """The squares whose middles lie in a part [mm], as a range that `parse_cells` reads; empty where there are none."""
    inside = [
        (c, r)
        for c, r in grid.cells
        if part.x_mm <= (c + 0.5) * grid.pitch_x_mm <= part.x_mm + part.length_mm
        and part.y_mm <= (r + 0.5) * grid.pitch_y_mm <= part.y_mm + part.width_mm
    ]
    if not inside:
        return ""
    columns, rows = [c for c, _ in inside], [r for _, r in inside]
    return f"{cell_name((min(columns), min(rows)))}-{cell_name((max(columns), max(rows)))}"


_NAME = re.compile(r"([A-Z]{1,2})(\d{1,3})")


def parse_cells(text: str, grid: Grid) -> set[Cell]:
    """Squares from `B2`, `A1-C2`, `A1 to C2`, `row 2`, `columns A-C`, `all`, or several with commas or spaces between.

    Raises BadInput for one outside the bed.
    Squares that a kept part takes are left out of a range, and refused when named alone.
    """
    cells: set[Cell] = set()
    words = _in_names(re.sub(r" ?(?:[-–:]|\.{2,3}|\b(?:TO|THROUGH)\b) ?", "-", " ".join(text.upper().split())), grid)
    for word in re.split(r"[,;\s]+", words):
        if not word:
            continue
        ends = [_NAME.fullmatch(end) for end in word.split("-")]
        if not all(ends) or len(ends) > 2:
            raise BadInput("garden.not_a_square", word=word[:20])
        corners = [_cell(end) for end in ends if end]
        columns, rows = [c for c, _ in corners], [r for _, r in corners]
        if max(columns) >= grid.columns or max(rows) >= grid.rows or min(rows) < 0:
            last = cell_name((grid.columns - 1, grid.rows - 1)) if grid.columns and grid.rows else "none"
            raise BadInput("garden.square_outside_bed", word=word, last=last)
        block = {(c, r) for c in range(min(columns), max(columns) + 1) for r in range(min(rows), max(rows) + 1)}
        inside = block - grid.outside
        if not inside:
            raise BadInput("garden.square_outside_shape", word=word)
        block = inside - grid.kept
        if not block:
            raise BadInput("garden.square_kept", word=word)
        cells |= block
    if not cells:
        raise BadInput("garden.no_square_chosen")
    return cells


def _in_names(text: str, grid: Grid) -> str:
    """Rows, columns and the whole bed as blocks of squares."""

    def row(found: re.Match[str]) -> str:
        return f"A{found[1]}-{cell_name((max(grid.columns, 1) - 1, 0))[:-1]}{found[2] or found[1]}"

    def column(found: re.Match[str]) -> str:
        return f"{found[1]}1-{found[2] or found[1]}{max(grid.rows, 1)}"

    text = re.sub(r"\bROWS? (\d{1,3})(?:-(\d{1,3}))?\b", row, text)
    text = re.sub(r"\bCOL(?:UMN)?S? ([A-Z]{1,2})(?:-([A-Z]{1,2}))?\b", column, text)
    text = re.sub(r"\b(?:ALL|EVERYTHING)\b", f"A1-{cell_name((max(grid.columns, 1) - 1, max(grid.rows, 1) - 1))}", text)
    return re.sub(r"\bAND\b|&", " ", text)


def _cell(match: re.Match[str]) -> Cell:
    column = 0
    for letter in match[1]:
        column = column * 26 + ord(letter) - ord("A") + 1
    return column - 1, int(match[2]) - 1
