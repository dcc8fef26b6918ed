"""Stringing a bed: the distances to mark along both sides, how many strings and sticks, and how much string."""

import math
from dataclasses import dataclass

from almanaque.core.garden.bed import Grid

KNOT_MM = 300.0  # to spare at each string, for the knots: our own rule


@dataclass(frozen=True)
class Stringing:
    """Marks [mm] from the inside corner, the outer edges left out; each string is tied to two sticks."""

    along_mm: tuple[float, ...]
    down_mm: tuple[float, ...]
    string_mm: float
    with_knots_mm: float

    @property
    def strings(self) -> int:
        return len(self.along_mm) + len(self.down_mm)

    @property
    def sticks(self) -> int:
        return 2 * self.strings


def stringing(length_mm: float, width_mm: float, grid: Grid) -> Stringing:
    """What it takes to string a bed's squares. **Source:** common practice, no source."""
    along = tuple(n * grid.pitch_x_mm for n in range(1, grid.columns))
    down = tuple(n * grid.pitch_y_mm for n in range(1, grid.rows))
    string = len(along) * width_mm + len(down) * length_mm
    return Stringing(along, down, string, math.fsum([string, KNOT_MM * (len(along) + len(down))]))
