"""The bed sheet: a bed at true scale with its strings, kept parts and plants where they stand. All values in pixels."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date

from almanaque.commands.forecasts import layout_of
from almanaque.core.bed import Cell, cell_name
from almanaque.core.crops import Catalogue, Crop
from almanaque.core.spacing import Layout
from almanaque.core.units import Units, format_length
from almanaque.store.garden import Bed, Planting
from almanaque.web import words
from almanaque.web.pictures.families import Hatch, family

WIDEST, HIGHEST, LARGEST_SCALE = 740.0, 400.0, 0.36
LEFT, TOP, RIGHT, BOTTOM, WALL = 58.0, 34.0, 14.0, 14.0, 9.0
CODE_FITS = 12.5  # radius from which a two-letter code can be read in a plant


@dataclass(frozen=True)
class Tick:
    x: float
    y: float
    label: str


@dataclass(frozen=True)
class Box:
    x: float
    y: float
    width: float
    height: float
    label: str = ""


@dataclass(frozen=True)
class CellShape:
    name: str
    box: Box
    label: str
    col: int
    row: int
    kept: bool
    first: bool


@dataclass(frozen=True)
class PlantShape:
    x: float
    y: float
    r: float


@dataclass(frozen=True)
class PlantingShape:
    """One planting's plants; `ghost` when it is not in the bed yet, `pencil` when it is only pencilled."""

    id: str
    code: str
    name: str
    fill: str
    colour: str
    ghost: bool
    pencil: bool
    plants: list[PlantShape]
    codes: bool
    tag: Tick | None
    squares: list[Box]


@dataclass(frozen=True)
class Marker:
    number: int
    x: float
    y: float
    severity: str


@dataclass(frozen=True)
class BedPicture:
    width: float
    height: float
    wall: Box
    inside: Box
    ticks_x: list[Tick]
    ticks_y: list[Tick]
    rows: list[list[CellShape]]
    kept: list[Box]
    plantings: list[PlantingShape]
    hatches: list[Hatch]
    scale_words: str


@dataclass(frozen=True)
class Shown:
    """A planting on the sheet of a day with the squares it really shows there and where its plants stand."""

    planting: Planting
    crop: Crop
    layout: Layout
    cells: frozenset[Cell]
    here: bool
    cell_mm: float

    @property
    def pitch_mm(self) -> float:
        """Distance between neighbours as they are placed [mm]; a count set by hand may stand closer than the spacing."""
        reading = self.layout.reading
        return self.cell_mm / math.sqrt(reading.per_square) if reading.block == 1 else self.crop.spacing_mm

    def shows(self, x_mm: float, y_mm: float) -> bool:
        """True when a plant at this place belongs to a square that is drawn."""
        if self.layout.reading.block > 1:
            return True
        return (int(x_mm // self.cell_mm), int(y_mm // self.cell_mm)) in self.cells


def shown_on(plantings: Sequence[Planting], bed: Bed, crops: Catalogue, *, day: date, today: date) -> list[Shown]:
    """What the sheet of a day shows: what stands there, and what is still to come where the squares are free.

    A planting that is to come gives way to one that comes sooner.
    """
    here = [p for p in plantings if p.stands_on(day, today) and p.status != "lost"]
    coming = sorted((p for p in plantings if p.bed_from > day and p.status != "lost"), key=lambda p: p.bed_from)
    taken: set[Cell] = set()
    found = []
    for planting, is_here in [(p, True) for p in here] + [(p, False) for p in coming]:
        cells = planting.cells if is_here else planting.cells - taken
        if cells:
            taken |= cells
            crop = crops[planting.crop]
            found.append(
                Shown(planting, crop, layout_of(planting, bed, crop), frozenset(cells), is_here, bed.grid().pitch_x_mm)
            )
    return found


def draw(bed: Bed, shown: Sequence[Shown], *, units: Units, day: date) -> BedPicture:
    """Draw the sheet."""
    grid = bed.grid()
    scale = min(WIDEST / bed.length_mm, HIGHEST / bed.width_mm, LARGEST_SCALE)
    length, width = bed.length_mm * scale, bed.width_mm * scale
    pitch_x, pitch_y = grid.pitch_x_mm * scale, grid.pitch_y_mm * scale

    def box(cell: Cell) -> Box:
        return Box(_px(LEFT + cell[0] * pitch_x), _px(TOP + cell[1] * pitch_y), _px(pitch_x), _px(pitch_y))

    inside: dict[Cell, str] = {}
    for item in shown:
        for cell in item.cells:
            inside[cell] = "; ".join(filter(None, (inside.get(cell), _in_words(item, day))))
    rows = [
        [
            CellShape(
                cell_name((c, r)), box((c, r)),
                f"{cell_name((c, r))}: {'kept' if (c, r) in grid.kept else inside.get((c, r), 'empty')}",
                c, r, (c, r) in grid.kept, (c, r) == (0, 0),
            )
            for c in range(grid.columns)
        ]
        for r in range(grid.rows)
    ]  # fmt: skip
    return BedPicture(
        width=_px(LEFT + length + RIGHT),
        height=_px(TOP + width + BOTTOM),
        wall=Box(_px(LEFT - WALL), _px(TOP - WALL), _px(length + 2 * WALL), _px(width + 2 * WALL)),
        inside=Box(LEFT, TOP, _px(length), _px(width)),
        ticks_x=[
            Tick(_px(LEFT + n * pitch_x), TOP, _tick(n * grid.pitch_x_mm, units)) for n in range(grid.columns + 1)
        ],
        ticks_y=[
            Tick(LEFT, _px(TOP + n * pitch_y), _tick(n * grid.pitch_y_mm, units)) for n in range(1, grid.rows + 1)
        ],
        rows=rows,
        kept=[
            Box(
                _px(LEFT + k.x_mm * scale),
                _px(TOP + k.y_mm * scale),
                _px(k.length_mm * scale),
                _px(k.width_mm * scale),
                k.label,
            )
            for k in bed.kept
        ],
        plantings=[_planting(item, scale, box) for item in shown],
        hatches=list({item.crop.family: family(item.crop.family) for item in shown}.values()),
        scale_words=f"One square is {format_length(bed.cell_mm, units, feet=False)}.",
    )


def marker(number: int, severity: str, cells: frozenset[Cell], bed: Bed) -> Marker:
    """A numbered mark at the top-right corner of a planting's first square."""
    grid = bed.grid()
    scale = min(WIDEST / bed.length_mm, HIGHEST / bed.width_mm, LARGEST_SCALE)
    column, row = min(cells, key=lambda cell: (cell[1], cell[0]))
    return Marker(
        number,
        _px(LEFT + (column + 1) * grid.pitch_x_mm * scale - 8),
        _px(TOP + row * grid.pitch_y_mm * scale + 8),
        severity,
    )


def _planting(item: Shown, scale: float, box: Callable[[Cell], Box]) -> PlantingShape:
    hatch = family(item.crop.family)
    radius = _px(max(2.2, min(item.crop.width_mm, item.pitch_mm) * scale / 2 * 0.92))
    squares = [_inset(box(cell), 2) for cell in sorted(item.cells, key=lambda cell: (cell[1], cell[0]))]
    plants = [
        PlantShape(_px(LEFT + x * scale), _px(TOP + y * scale), radius)
        for x, y in item.layout.positions_mm
        if item.shows(x, y)
    ]
    codes = radius >= CODE_FITS
    first = squares[0]
    tag = None if codes and plants else Tick(_px(first.x + 1), _px(first.y + 1), item.crop.code)
    return PlantingShape(
        id=str(item.planting.id), code=item.crop.code, name=item.crop.name.en, fill=hatch.fill, colour=hatch.colour,
        ghost=not item.here, pencil=item.planting.status == "pencilled", plants=plants, codes=codes, tag=tag, squares=squares,
    )  # fmt: skip


def _inset(box: Box, by: float) -> Box:
    return Box(_px(box.x + by), _px(box.y + by), _px(box.width - 2 * by), _px(box.height - 2 * by))


def _in_words(item: Shown, day: date) -> str:
    name = item.crop.name.en.lower()
    if item.here:
        return f"{name}, {item.planting.status}"
    return f"{name}, {item.planting.status} from {words.short_day(item.planting.bed_from)}"


def _tick(mm: float, units: Units) -> str:
    return "0" if mm == 0 else format_length(round(mm, 1), units)


def _px(value: float) -> float:
    return round(value, 1)
