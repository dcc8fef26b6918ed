"""Stringing a bed: the distances to mark along both sides, how many strings and sticks, and how much string.

Strings run between free squares only: what is kept, and what lies outside the outline, cuts them.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from almanaque.core.garden.bed import Grid

KNOT_MM = 300.0  # to spare at each string, for the knots: our own rule


@dataclass(frozen=True)
class StringRun:
    """One string [mm]: at so much from the inside corner along (`upright`) or down the bed, from here to there across it."""

    upright: bool
    at_mm: float
    from_mm: float
    to_mm: float

    @property
    def long_mm(self) -> float:
        return self.to_mm - self.from_mm


@dataclass(frozen=True)
class Stringing:
    """Marks [mm] from the inside corner, the outer edges left out; each string is tied to two sticks."""

    along_mm: tuple[float, ...]
    down_mm: tuple[float, ...]
    runs: tuple[StringRun, ...]

    @property
    def strings(self) -> int:
        return len(self.runs)

    @property
    def sticks(self) -> int:
        return 2 * self.strings

    @property
    def string_mm(self) -> float:
        return math.fsum(run.long_mm for run in self.runs)

    @property
    def with_knots_mm(self) -> float:
        return math.fsum([self.string_mm, KNOT_MM * self.strings])


def stringing(length_mm: float, width_mm: float, grid: Grid) -> Stringing:
    """What it takes to string a bed's free squares. A string that reaches the last squares goes on to the bed's edge.

    **Source:** common practice, no source.
    """
    free = frozenset(grid.cells)
    upright = [
        run
        for c in range(1, grid.columns)
        for run in _runs(
            [(c - 1, r) in free and (c, r) in free for r in range(grid.rows)],
            True,
            c * grid.pitch_x_mm,
            grid.pitch_y_mm,
            width_mm,
        )
    ]
    level = [
        run
        for r in range(1, grid.rows)
        for run in _runs(
            [(c, r - 1) in free and (c, r) in free for c in range(grid.columns)],
            False,
            r * grid.pitch_y_mm,
            grid.pitch_x_mm,
            length_mm,
        )
    ]
    along = tuple(dict.fromkeys(run.at_mm for run in upright))
    down = tuple(dict.fromkeys(run.at_mm for run in level))
    return Stringing(along, down, tuple(upright + level))


def _runs(between: Sequence[bool], upright: bool, at_mm: float, pitch_mm: float, edge_mm: float) -> list[StringRun]:
    """A line's pieces between free squares, each as long as these lie side by side."""
    found: list[StringRun] = []
    start: int | None = None
    for n, strung in enumerate([*between, False]):
        if strung and start is None:
            start = n
        elif not strung and start is not None:
            to = edge_mm if n == len(between) else n * pitch_mm
            found.append(StringRun(upright, at_mm, start * pitch_mm, to))
            start = None
    return found
