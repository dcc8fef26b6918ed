"""Plants in rows and staggered: positions in the usable part of a bed, less its edge and its kept parts.

Origin is the bed's inside top-left corner, x along the length, y down the width; lengths are millimetres. Rows run along x or
along y, whichever holds more.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import TOLERANCE, Rectangle
from almanaque.core.garden.spacing import MOST_PLANTS

Method = Literal["rows", "staggered"]
STAGGERED_PITCH = math.sqrt(3) / 2  # rows of equilateral triangles lie so many spacings apart


@dataclass(frozen=True)
class RowLayout:
    """Positions [mm] and how the rows run; `rows` counts those that hold at least one plant."""

    positions_mm: tuple[tuple[float, float], ...]
    rows: int
    along: Literal["length", "width"]

    @property
    def plants(self) -> int:
        return len(self.positions_mm)


def place_in_rows(
    length_mm: float,
    width_mm: float,
    *,
    in_row_mm: float,
    row_mm: float,
    edge_mm: float | None = None,
    kept: Sequence[Rectangle] = (),
) -> RowLayout:
    """Rows `row_mm` apart with plants `in_row_mm` apart in them, as many as fit.

    Plants keep `edge_mm` from every side, half the in-row spacing if left out, and half the in-row spacing from a kept part.
    A bed may be 2 % short of room, as for squares; plants then stand up to 2 % closer. Raises BadInput for
    distances that are not above 0, a bed of nothing, and
    more than 20,000 plants. **Source:** common practice, no source.
    """
    return _best(length_mm, width_mm, in_row_mm, row_mm, edge_mm, kept, staggered=False)


def place_staggered(
    length_mm: float,
    width_mm: float,
    *,
    spacing_mm: float,
    edge_mm: float | None = None,
    kept: Sequence[Rectangle] = (),
) -> RowLayout:
    """Equilateral triangles of side `spacing_mm`: every other row is moved by half a spacing, rows s·√3/2 apart.

    Raises what `place_in_rows` does. **Source:** hexagonal packing of the plane; 2/(√3 s²) plants on a large bed.
    """
    return _best(length_mm, width_mm, spacing_mm, spacing_mm * STAGGERED_PITCH, edge_mm, kept, staggered=True)


def _best(
    length_mm: float,
    width_mm: float,
    in_row_mm: float,
    row_mm: float,
    edge_mm: float | None,
    kept: Sequence[Rectangle],
    *,
    staggered: bool,
) -> RowLayout:
    """The direction that holds more; along the length where both hold the same."""
    if not (in_row_mm > 0 and row_mm > 0):
        raise BadInput("garden.distance_of_nothing", field="spacing")
    if not (length_mm > 0 and width_mm > 0):
        raise BadInput("garden.bed_without_length", field="bed")
    edge = in_row_mm / 2 if edge_mm is None else edge_mm
    if edge < 0:
        raise BadInput("garden.edge_below_nothing", field="edge")
    most = (length_mm / in_row_mm + 1) * (width_mm / row_mm + 1)
    if most > 2 * MOST_PLANTS:
        raise BadInput("garden.about_too_many_plants", field="spacing", plants=most, most=MOST_PLANTS)
    free = in_row_mm / 2
    lengthwise = list(_rows(length_mm, width_mm, in_row_mm, row_mm, edge, staggered))
    turned = [[(y, x) for x, y in row] for row in _rows(width_mm, length_mm, in_row_mm, row_mm, edge, staggered)]
    found: list[tuple[Literal["length", "width"], list[list[tuple[float, float]]]]] = [
        ("length", _clear(lengthwise, kept, free)),
        ("width", _clear(turned, kept, free)),
    ]
    along, rows = max(found, key=lambda option: sum(map(len, option[1])))
    positions = tuple(place for row in rows for place in row)
    if len(positions) > MOST_PLANTS:
        raise BadInput("garden.too_many_plants", field="spacing", plants=len(positions), most=MOST_PLANTS)
    return RowLayout(positions, sum(bool(row) for row in rows), along)


def _rows(
    length: float, width: float, in_row: float, row: float, edge: float, staggered: bool
) -> Iterator[list[tuple[float, float]]]:
    """Rows along x, the block of them in the middle of what the edge leaves; drawn a hair closer where that is short."""
    down, even = _fit(width, row, edge), _fit(length, in_row, edge)
    odd = even
    if staggered and even and (even - 0.5) * in_row > TOLERANCE * (length - 2 * edge) + 1e-6:
        odd = even - 1  # no room for half a spacing more beside the others
    steps = even - 1 + (0.5 if staggered and odd == even and down > 1 else 0.0)
    across, below = _pitch(length - 2 * edge, steps, in_row), _pitch(width - 2 * edge, down - 1, row)
    left, top = (length - steps * across) / 2, (width - (down - 1) * below) / 2
    for number in range(down):
        moved = staggered and number % 2 == 1
        start = left + (across / 2 if moved else 0.0)
        yield [(start + n * across, top + number * below) for n in range(odd if moved else even)]


def _pitch(room: float, steps: float, wanted: float) -> float:
    """The distance as drawn: what is wanted, or at most 2 % less where the bed is a hair short."""
    return min(wanted, room / steps) if steps > 0 else wanted


def _fit(room: float, pitch: float, edge: float) -> int:
    """How many stand on a line so long, `edge` free at both ends; a line may be 2 % short."""
    usable = TOLERANCE * (room - 2 * edge)
    return math.floor(usable / pitch + 1e-9) + 1 if usable >= -1e-6 else 0


def _clear(
    rows: list[list[tuple[float, float]]], kept: Sequence[Rectangle], free: float
) -> list[list[tuple[float, float]]]:
    return [[place for place, clear in zip(row, _free_of(row, kept, free), strict=True) if clear] for row in rows]


def _free_of(row: list[tuple[float, float]], kept: Sequence[Rectangle], free: float) -> list[bool]:
    """Which places of a row stand in no kept part, nor nearer to one than `free`."""
    if not kept or not row:
        return [True] * len(row)
    x, y = np.array(row).T[:, :, None]
    left, top = np.array([(k.x_mm, k.y_mm) for k in kept]).T
    right, bottom = np.array([(k.x_mm + k.length_mm, k.y_mm + k.width_mm) for k in kept]).T
    across = np.maximum(np.maximum(left - x, x - right), 0.0)
    down = np.maximum(np.maximum(top - y, y - bottom), 0.0)
    near = np.hypot(across, down) < free * (2 - TOLERANCE)
    return [bool(clear) for clear in ~near.any(axis=1)]
