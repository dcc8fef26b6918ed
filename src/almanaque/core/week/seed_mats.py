"""Seed mats: a paper towel folded into parts, or dots at true size on quarters of a square, with seed, paste and days.

A towel stands for one square. It is laid and left, or poked through as a template and taken off.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

Point = tuple[float, float]

SPARE = 1.1  # of the seed counted out: our own rule; small hands drop some
DOUBLE_BELOW = 0.75  # germination below which two seeds go on a dot: our own rule
PASTE_ML = (
    1.25  # for a dot: a spoon of flour and two of water, some 20 mL, for a towel of sixteen; common practice, no source
)
KEEPS = timedelta(days=56)  # a dry mat keeps so long: our own rule; it was dry seed before
DRIES = timedelta(days=2)  # and wants so long to dry: common practice, no source
MOST_SIDE_MM = 406.4  # squares larger than 16 in have quarters larger than a sheet
SAME_MM = 0.6  # dots that lie so near each other count as the same: print and cut are no better


@dataclass(frozen=True)
class Quarter:
    """A quarter of a square with its dots [mm] from the square's outer corner; used `times`, turned each time."""

    side_mm: float
    dots_mm: tuple[Point, ...]
    times: int
    where: tuple[str, ...]


@dataclass(frozen=True)
class Mat:
    """What the mats of a crop take: dots in a square, seeds on each, seeds in all with spare, paste [mL]."""

    per_square: int
    squares: int
    seeds_a_dot: int
    seeds: int
    paste_ml: float
    folds: int | None
    make_from: date
    make_by: date
    lay_on: date


def folds(parts: int) -> int | None:
    """How often a towel is folded in half to have so many parts; None for a number that is no power of two.

    >>> [folds(n) for n in (16, 8, 4, 1, 9)]
    [4, 3, 2, 0, None]
    """
    return int(math.log2(parts)) if parts > 0 and parts & (parts - 1) == 0 else None


def towel_parts(folded: int, length_mm: float, width_mm: float) -> tuple[int, int, float, float]:
    """Columns, rows and the size of a part [mm] of a towel folded so often, the longer side first each time.

    >>> towel_parts(4, 279.4, 279.4)
    (4, 4, 69.85, 69.85)
    """
    columns, rows = 1, 1
    for _ in range(folded):
        if length_mm / columns >= width_mm / rows:
            columns *= 2
        else:
            rows *= 2
    return columns, rows, length_mm / columns, width_mm / rows


def mat(per_square: int, squares: int, *, germination: float, lay_on: date) -> Mat:
    """Seed, paste and days for the mats of one crop. Raises ValueError without a dot or a square. **Source:** our own rules.

    >>> found = mat(16, 3, germination=0.9, lay_on=date(2027, 4, 20))
    >>> found.seeds, found.paste_ml, found.make_by.isoformat()
    (53, 60.0, '2027-04-18')
    """
    if per_square < 1 or squares < 1:
        raise ValueError("a seed mat has a dot and a square")
    each = 2 if germination < DOUBLE_BELOW else 1
    return Mat(
        per_square,
        squares,
        each,
        math.ceil(per_square * squares * each * SPARE - 1e-9),
        per_square * squares * PASTE_ML,
        folds(per_square),
        lay_on - KEEPS,
        lay_on - DRIES,
        lay_on,
    )


def quarters(dots_mm: Sequence[Point], side_mm: float) -> list[Quarter]:
    """The four quarters of a square with these dots [mm] from its top-left corner, those that are alike once turned only once.

    A dot on a cut belongs to both sides. Raises ValueError for a square whose quarters are larger than a sheet of paper, or a
    dot outside it.
    """
    if not 0 < side_mm <= MOST_SIDE_MM:
        raise ValueError("a quarter of this square does not fit on a sheet")
    if any(not (-SAME_MM <= x <= side_mm + SAME_MM and -SAME_MM <= y <= side_mm + SAME_MM) for x, y in dots_mm):
        raise ValueError("a dot lies outside the square")
    half = side_mm / 2
    found: list[Quarter] = []
    for turn, name in enumerate(("top left", "top right", "bottom right", "bottom left")):
        turned = [_turned(dot, side_mm, turn) for dot in dots_mm]
        inside = tuple(
            sorted((round(x, 3), round(y, 3)) for x, y in turned if x <= half + SAME_MM and y <= half + SAME_MM)
        )
        same = next((n for n, known in enumerate(found) if _alike(known.dots_mm, inside)), None)
        if same is None:
            found.append(Quarter(half, inside, 1, (name,)))
        else:
            known = found[same]
            found[same] = Quarter(half, known.dots_mm, known.times + 1, (*known.where, name))
    return found


def tiles(dots_mm: Sequence[Point], side_mm: float) -> list[Quarter]:
    """A square too large for quarters, cut into equal tiles that fit on a sheet: those with dots, alike ones once.

    `where` names each place by row and column from the top left. A dot on a cut belongs to both sides. Raises ValueError for a dot
    outside the square, or without one.
    """
    if not dots_mm or any(
        not (-SAME_MM <= x <= side_mm + SAME_MM and -SAME_MM <= y <= side_mm + SAME_MM) for x, y in dots_mm
    ):
        raise ValueError("a dot lies outside the square")
    count = math.ceil(2 * side_mm / MOST_SIDE_MM - 1e-9)
    side = side_mm / count
    found: list[Quarter] = []
    for row in range(count):
        for column in range(count):
            shifted = [(x - column * side, y - row * side) for x, y in dots_mm]
            inside = tuple(
                sorted(
                    (round(x, 3), round(y, 3))
                    for x, y in shifted
                    if -SAME_MM <= x <= side + SAME_MM and -SAME_MM <= y <= side + SAME_MM
                )
            )
            if not inside:
                continue
            where = f"row {row + 1}, column {column + 1}"
            same = next((n for n, known in enumerate(found) if _alike(known.dots_mm, inside)), None)
            if same is None:
                found.append(Quarter(side, inside, 1, (where,)))
            else:
                found[same] = Quarter(side, found[same].dots_mm, found[same].times + 1, (*found[same].where, where))
    return found


def _turned(dot: Point, side_mm: float, quarter_turns: int) -> Point:
    """A dot after so many quarter turns of the square against the clock, so that its next quarter comes to the top left."""
    x, y = dot
    for _ in range(quarter_turns):
        x, y = y, side_mm - x
    return x, y


def _alike(one: Sequence[Point], other: Sequence[Point]) -> bool:
    return len(one) == len(other) and all(any(math.dist(a, b) <= SAME_MM for b in other) for a in one)
