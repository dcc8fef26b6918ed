"""Drawing beds on the ground: the first free place, a row of several with paths between, the round top of a pot. All in mm."""

import math
from collections.abc import Collection, Sequence
from dataclasses import replace
from typing import Literal

import shapely

from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import Grid
from almanaque.core.garden.outline import TOUCH_MM, Point, Shape

Way = Literal["right", "down"]
ROUND_CORNERS = 24  # of a round top; its area is 1.1 % short of the circle's: our own rule
MOST_IN_A_ROW = 24  # beds that are set at once: our own rule
PATH_MM = 3 * 304.8  # between beds, where one passes: common practice, no source
MOST_STEPS = 120  # in which a free place is looked for along each side of the ground: our own rule


def free_place(
    length_mm: float,
    width_mm: float,
    others: Sequence[Shape],
    site_width_mm: float,
    site_depth_mm: float,
    *,
    step_mm: float,
    path_mm: float = PATH_MM,
) -> Point | None:
    """Top-left corner of the first place, row by row, where a box lies on the ground with a path around it; None where it fits nowhere.

    Where a path leaves no room, a place without one is taken.
    """
    step = max(step_mm, max(site_width_mm, site_depth_mm) / MOST_STEPS // step_mm * step_mm)
    taken = shapely.STRtree([other.polygon for other in others])
    for gap in (path_mm, 0.0):
        y = step_mm
        while y + width_mm <= site_depth_mm + TOUCH_MM:
            x = step_mm
            while x + length_mm <= site_width_mm + TOUCH_MM:
                box = shapely.box(x - gap, y - gap, x + length_mm + gap, y + width_mm + gap)
                near = taken.query(box)
                if not any(taken.geometries[at].intersection(box).area > 1.0 for at in near):
                    return x, y
                x += step
            y += step
    return None


def free_part(grid: Grid, *, side: int = 2) -> tuple[float, float, float, float] | None:
    """Place and size [mm] from the inside corner of the first block of free squares for a new part, smaller where there is none."""
    free = set(grid.cells)
    for squares in range(side, 0, -1):
        for column, row in grid.cells:
            if all((column + c, row + r) in free for c in range(squares) for r in range(squares)):
                across, down = grid.pitch_x_mm, grid.pitch_y_mm
                return column * across, row * down, squares * across, squares * down
    return None


def in_a_row(shape: Shape, count: int, gap_mm: float, way: Way) -> list[Shape]:
    """The same shape again to the right or down, `count` in all with the first, turned and shaped alike.

    Raises BadInput for fewer than two or more than 24, and for a gap below nothing.
    """
    if not 2 <= count <= MOST_IN_A_ROW:
        raise BadInput("garden.row_of_how_many", field="count", most=MOST_IN_A_ROW)
    if gap_mm < 0:
        raise BadInput("garden.row_gap_below_nothing", field="gap")
    angle = math.radians(shape.turn_deg)
    along = shape.length_mm + gap_mm if way == "right" else shape.width_mm + gap_mm
    step = (
        (along * math.cos(angle), along * math.sin(angle))
        if way == "right"
        else (-along * math.sin(angle), along * math.cos(angle))
    )
    return [replace(shape, x_mm=shape.x_mm + n * step[0], y_mm=shape.y_mm + n * step[1]) for n in range(count)]


def stretched(shape: Shape, length_mm: float, width_mm: float) -> tuple[Point, ...]:
    """The corners of its outline in a box of another size; none for a whole box."""
    across, down = length_mm / shape.length_mm, width_mm / shape.width_mm
    return tuple((x * across, y * down) for x, y in shape.corners_mm)


def free_name(word: str, taken: Collection[str]) -> str:
    """The word, or the word with the first number from 2 on, that is not taken."""
    name, number = word, 2
    while name in taken:
        name, number = f"{word} {number}", number + 1
    return name


def round_top(across_mm: float) -> tuple[Point, ...]:
    """Corners of a round top that fits a square box of this side."""
    half = across_mm / 2
    turns = (2 * math.pi * n / ROUND_CORNERS for n in range(ROUND_CORNERS))
    return tuple((half + half * math.sin(turn), half - half * math.cos(turn)) for turn in turns)


def is_round(shape: Shape) -> bool:
    """True for an outline that `round_top` made, of any size."""
    if len(shape.corners_mm) != ROUND_CORNERS or abs(shape.length_mm - shape.width_mm) > TOUCH_MM:
        return False
    half = shape.length_mm / 2
    return all(abs(math.dist((half, half), corner) - half) < 0.5 for corner in shape.corners_mm)


def notch_of(shape: Shape) -> tuple[float, float, str] | None:
    """Length and width of the corner that an L leaves out, and which corner; None for any other shape."""
    corners = shape.corners_mm
    if len(corners) != 6:
        return None
    box = shapely.box(0, 0, shape.length_mm, shape.width_mm)
    rest = box.difference(shapely.Polygon(corners))
    if rest.is_empty or rest.geom_type != "Polygon":
        return None
    left, top, right, bottom = rest.bounds
    if abs(rest.area - (right - left) * (bottom - top)) > 1.0:
        return None
    at_left, at_top = left < TOUCH_MM, top < TOUCH_MM
    at_right, at_bottom = right > shape.length_mm - TOUCH_MM, bottom > shape.width_mm - TOUCH_MM
    if (at_left == at_right) or (at_top == at_bottom):
        return None
    return right - left, bottom - top, f"{'top' if at_top else 'bottom'} {'left' if at_left else 'right'}"
