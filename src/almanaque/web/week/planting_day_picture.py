"""The pictures of a run sheet: the bed with each group's squares, and a gauge of depths at true size."""

from collections.abc import Mapping
from dataclasses import dataclass

from almanaque.commands.week.planting_day import RunSheet
from almanaque.core.crops.crop import Crop
from almanaque.core.garden.bed import cell_name
from almanaque.core.units import Units, format_length

UNIT = 48  # pixels of a square
LEFT, TOP = 26, 22
GAUGE_TOP, COLUMN = 12.0, 27.0  # millimetres on paper
COLUMNS = 6


@dataclass(frozen=True)
class PlanSquare:
    """A square of the bed with the code and holes of each crop in it and the group that plants it."""

    x: int
    y: int
    code: str
    holes: str
    group: str
    other: bool
    words: str


@dataclass(frozen=True)
class Plan:
    """The bed from above, in pixels; marks are the letters and numbers at its edges."""

    width: int
    height: int
    squares: list[PlanSquare]
    across: list[tuple[int, str]]
    down: list[tuple[int, str]]
    words: str


@dataclass(frozen=True)
class GaugeBar:
    """A depth on the gauge, in millimetres on the paper."""

    x: float
    depth: float
    middle: float
    name: str
    words: str


@dataclass(frozen=True)
class Gauge:
    """Depths and two rulers at true size; every length is in millimetres on paper."""

    width: float
    height: float
    bars: list[GaugeBar]
    ruler_mm: list[tuple[float, float]]
    ruler_in: list[tuple[float, float]]
    ruler_top: float


def plan(found: RunSheet, codes: Mapping[str, str]) -> Plan:
    """The squares that are planted that day, with the number of the group and the code of the crop; others are drawn empty."""
    grid = found.bed.grid()
    group = {(s.key, s.cell): share.number for share in found.shares for s in share.squares}
    here: dict[tuple[int, int], list[tuple[str, int, int]]] = {}
    for square in found.order:
        here.setdefault(square.cell, []).append((square.name, square.holes, group[(square.key, square.cell)]))
    squares = []
    for cell in grid.cells:
        inside = here.get(cell, [])
        squares.append(
            PlanSquare(
                LEFT + cell[0] * UNIT,
                TOP + cell[1] * UNIT,
                "/".join(codes[name] for name, _, _ in inside),
                "+".join(str(holes) for _, holes, _ in inside),
                "/".join(str(number) for _, _, number in inside),
                not inside,
                f"{cell_name(cell)}: "
                + (
                    ", ".join(f"{holes} {crop.lower()}, group {number}" for crop, holes, number in inside)
                    or "not today"
                ),
            )
        )
    return Plan(
        LEFT + grid.columns * UNIT + 2,
        TOP + grid.rows * UNIT + 2,
        squares,
        [(LEFT + n * UNIT + UNIT // 2, cell_name((n, 0))[:-1]) for n in range(grid.columns)],
        [(TOP + n * UNIT + UNIT // 2, str(n + 1)) for n in range(grid.rows)],
        f"{found.bed.name} from above: {len(here)} squares to plant in {len(found.shares)} groups",
    )


def gauge(crops: list[Crop], units: Units) -> Gauge | None:
    """How deep each crop goes, drawn as deep as it is, and a ruler of 100 mm and one of 4 in to check the print by.

    None where nothing is sown or set at a depth of its own: plants in pots go as deep as their pot.
    """
    if not crops:
        return None
    shown = crops[:COLUMNS]
    deepest = max(crop.depth_mm for crop in shown)
    bars = [
        GaugeBar(
            4 + n * COLUMN,
            crop.depth_mm,
            4 + n * COLUMN + 9,
            crop.name.en,
            format_length(crop.depth_mm, units, feet=False),
        )
        for n, crop in enumerate(shown)
    ]
    top = GAUGE_TOP + deepest + 20
    return Gauge(
        max(114.0, 8 + len(shown) * COLUMN),
        top + 26,
        bars,
        [(n * 10.0, 5.0 if n % 5 == 0 else 3.0) for n in range(11)],
        [(n * 25.4 / 4, 5.0 if n % 4 == 0 else 2.5) for n in range(17)],
        top,
    )
