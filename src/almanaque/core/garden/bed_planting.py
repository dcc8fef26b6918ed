"""A planting as the rules of a bed see it: where its plants stand and when, whatever stage the plan is in."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np
import numpy.typing as npt

from almanaque.core.crops.crop import Crop
from almanaque.core.garden.bed import Cell

Floats = npt.NDArray[np.float64]
TALL_SUPPORT_MM = 1500.0  # a plant from this height on can carry a climber: our own rule


@dataclass(frozen=True)
class BedPlanting:
    """One planting in a bed: squares, places [mm] and the distance at which it is laid, from its first day to its last.

    `open` is a plan that can still be changed; `on_purpose` stands among others because somebody wants it so.
    """

    key: str
    crop: Crop
    cells: frozenset[Cell]
    positions_mm: tuple[tuple[float, float], ...]
    pitch_mm: float
    bed_from: date
    bed_to: date
    first_pick: date
    last_pick: date
    open: bool = True
    on_purpose: bool = False

    @property
    def name(self) -> str:
        return self.crop.name.en

    def meets(self, other: "BedPlanting") -> bool:
        """True when both stand in the bed on some day."""
        return self.bed_from <= other.bed_to and other.bed_from <= self.bed_to

    @property
    def middle(self) -> date:
        """The day in the middle of its growth, by which its light is judged."""
        return self.bed_from + (max(self.last_pick, self.bed_from) - self.bed_from) / 2


def nearest_mm(one: Sequence[tuple[float, float]], two: Sequence[tuple[float, float]], *, within_mm: float) -> float:
    """Least distance between two sets of plants, or infinity when it is more than `within_mm`.

    Only plants near the other set's box are compared, a thousand at a time.
    """
    if not one or not two:
        return float("inf")
    a, b = np.array(one), np.array(two)
    a = a[_near(a, b, within_mm)]
    b = b[_near(b, a, within_mm)] if len(a) else b
    if not len(a) or not len(b):
        return float("inf")
    least = float("inf")
    for start in range(0, len(a), 1000):
        part = a[start : start + 1000]
        squares = (part[:, None, 0] - b[None, :, 0]) ** 2 + (part[:, None, 1] - b[None, :, 1]) ** 2
        least = min(least, float(np.sqrt(squares.min())))
    return least if least <= within_mm else float("inf")


def _near(points: Floats, others: Floats, within_mm: float) -> npt.NDArray[np.bool_]:
    low, high = others.min(axis=0) - within_mm, others.max(axis=0) + within_mm
    return np.asarray(((points >= low) & (points <= high)).all(axis=1))
