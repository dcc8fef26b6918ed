"""The bed sheet: a bed at true scale with its strings, kept parts and plants where they stand. All values in pixels."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from uuid import UUID

from almanaque.commands.growth.forecasts import layouts
from almanaque.core.crops.catalogue import Catalogue
from almanaque.core.crops.crop import Crop
from almanaque.core.garden import layout as core_layout
from almanaque.core.garden.bed import Cell, cell_name
from almanaque.core.garden.bed_strings import stringing
from almanaque.core.garden.spacing import Layout
from almanaque.core.portrait.pen import Form
from almanaque.core.units import Units, format_length
from almanaque.formats.crops import portraits
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.garden.volunteer_plants import VolunteerPlant
from almanaque.web import words
from almanaque.web.garden.site_map_picture import tint
from almanaque.web.pictures.families import Hatch, family
from almanaque.web.pictures.plants_standing import TURN_DEG

WIDEST, HIGHEST, LARGEST_SCALE = 740.0, 400.0, 0.36
LEFT, TOP, RIGHT, BOTTOM, WALL = 58.0, 34.0, 14.0, 14.0, 9.0
CODE_FITS = 12.5  # radius from which a two-letter code can be read in a plant
MOST_CIRCLES = 1500  # more plants on a sheet are drawn as dots of one line: lighter, and counted all the same
MOST_RINGS = 24  # plants up to which the grown width is drawn around each


@dataclass(frozen=True)
class StringTick:
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
    tint: int = 0
    hours: str = ""
    taken: str = ""


@dataclass(frozen=True)
class PlantShape:
    """A plant; where it is shown as it looks, the address of its picture, the side and the corner of that, and by how much it is turned.

    `under` while nothing of it is up.
    """

    x: float
    y: float
    r: float
    href: str = ""
    side: float = 0.0
    corner: float = 0.0
    turn: int = 0
    under: bool = False


@dataclass(frozen=True)
class FoundShape:
    """A plant nobody sowed, with its code or a question mark."""

    x: float
    y: float
    r: float
    code: str


@dataclass(frozen=True)
class PlantingShape:
    """One planting's plants; `ghost` when it is not in the bed yet, `pencil` when it is only pencilled.

    `ring` is the radius of the grown plant where that reaches beyond its place; `dots` draws a great many plants as one path.
    """

    id: str
    code: str
    name: str
    fill: str
    colour: str
    ghost: bool
    pencil: bool
    plants: list[PlantShape]
    codes: bool
    tag: StringTick | None
    squares: list[Box]
    ring: float = 0.0
    dots: str = ""
    dot_width: float = 0.0


@dataclass(frozen=True)
class Marker:
    number: int
    x: float
    y: float
    severity: str


@dataclass(frozen=True)
class KeptCrown:
    """How far a plant that is kept reaches over the bed."""

    x: float
    y: float
    r: float


@dataclass(frozen=True)
class BedPicture:
    width: float
    height: float
    wall: Box
    inside: Box
    ticks_x: list[StringTick]
    ticks_y: list[StringTick]
    rows: list[list[CellShape]]
    strings: str
    kept: list[Box]
    crowns: list[KeptCrown]
    plantings: list[PlantingShape]
    hatches: list[Hatch]
    scale_words: str
    outline: str = ""
    found: tuple[FoundShape, ...] = ()
    sections: tuple[Box, ...] = ()
    north_deg: float = 0.0
    sun: bool = False
    scale: float = 0.0
    left: float = LEFT
    top: float = TOP
    small: str = ""
    small_width: float = 0.0
    small_height: float = 0.0


@dataclass(frozen=True)
class PlantingPicture:
    """A planting on the sheet of a day with the squares it really shows there and where its plants stand."""

    planting: Planting
    crop: Crop
    layout: Layout
    cells: frozenset[Cell]
    here: bool
    pitch_mm: float
    pitch_x_mm: float
    pitch_y_mm: float

    def shows(self, x_mm: float, y_mm: float) -> bool:
        """True when a plant at this place belongs to a square that is drawn."""
        if self.layout.reading.block > 1 or self.planting.with_others:
            return True
        return (int(x_mm // self.pitch_x_mm), int(y_mm // self.pitch_y_mm)) in self.cells


def shown_on(
    plantings: Sequence[Planting],
    bed: Bed,
    crops: Catalogue,
    *,
    day: date,
    today: date,
    draft_id: UUID | None = None,
    units: Units = "us",
) -> list[PlantingPicture]:
    """What the sheet of a day shows: what stands there, and what is still to come where the squares are free.

    Of pencil only that of the draft on the table. A planting that is to come gives way to one that comes sooner, but not to
    one among which it is to stand on purpose; and pencil that wants squares of ink at the same time is drawn over it, so that
    neither hides the clash.
    """
    table = [p for p in plantings if p.status != "pencilled" or draft_id is None or p.draft_id == draft_id]
    here = [p for p in table if p.stands_on(day, today) and p.status != "lost"]
    coming = sorted((p for p in table if p.bed_from > day and p.status != "lost"), key=lambda p: p.bed_from)
    laid = layouts([*here, *coming], bed, crops, units)
    grid = bed.grid()
    found: list[PlantingPicture] = []
    for planting, is_here in [(p, True) for p in here] + [(p, False) for p in coming]:
        cells = planting.cells if is_here else planting.cells - _hidden(planting, found, today)
        if cells:
            crop, layout = crops[planting.crop], laid[planting.id]
            apart = core_layout.pitch(layout, grid, core_layout.figures(crop, planting.wish, grid.cell_mm))
            found.append(
                PlantingPicture(
                    planting, crop, layout, frozenset(cells), is_here, apart, grid.pitch_x_mm, grid.pitch_y_mm
                )
            )
    return sorted(found, key=lambda item: item.planting.status == "pencilled")


def _hidden(planting: Planting, found: Sequence[PlantingPicture], today: date) -> set[Cell]:
    """Squares in which something that comes sooner is shown in its place: not what it stands among, nor ink its pencil clashes with."""
    hidden: set[Cell] = set()
    for item in found:
        other = item.planting
        pencil_and_ink = (other.status == "pencilled") != (planting.status == "pencilled")
        clash = pencil_and_ink and not item.here and other.overlaps(planting.bed_from, planting.bed_to(today), today)
        if not (planting.with_others or other.with_others or clash):
            hidden |= item.cells
    return hidden


def draw(
    bed: Bed,
    shown: Sequence[PlantingPicture],
    *,
    units: Units,
    day: date,
    sun: Mapping[Cell, float] | None = None,
    found: Sequence[VolunteerPlant] = (),
    sections: Sequence[Box] = (),
    north_deg: float = 0.0,
    widest: float = WIDEST,
    highest: float = HIGHEST,
    looks: Form | None = None,
    southern: bool = False,
) -> BedPicture:
    """Draw the sheet, with hours of sun by square in the place of plants where `sun` is given.

    `sections` are boxes in millimetres with their purpose; `north_deg` is where north lies on the sheet. With `looks`
    what stands is drawn as it looks from above on the day, in colour or in line.
    """
    grid = bed.grid(day)
    scale = _scale(bed, widest, highest)
    length, width = bed.length_mm * scale, bed.width_mm * scale
    pitch_x, pitch_y = grid.pitch_x_mm * scale, grid.pitch_y_mm * scale

    def box(cell: Cell) -> Box:
        return Box(_px(LEFT + cell[0] * pitch_x), _px(TOP + cell[1] * pitch_y), _px(pitch_x), _px(pitch_y))

    inside: dict[Cell, str] = {}
    first = min(
        ((c, r) for r in range(grid.rows) for c in range(grid.columns) if (c, r) not in grid.outside),
        key=lambda cell: (cell[1], cell[0]),
        default=(0, 0),
    )
    for item in shown:
        for cell in item.cells:
            inside[cell] = "; ".join(filter(None, (inside.get(cell), _in_words(item, day))))
    rows = [
        [
            CellShape(
                cell_name((c, r)),
                box((c, r)),
                _cell_words((c, r), grid.kept, inside, sun),
                c,
                r,
                (c, r) in grid.kept,
                (c, r) == first,
                tint((sun or {}).get((c, r), 0.0)),
                f"{sun[(c, r)]:.1f}" if sun and (c, r) in sun else "",
                inside.get((c, r), ""),
            )
            for c in range(grid.columns)
            if (c, r) not in grid.outside
        ]
        for r in range(grid.rows)
    ]
    return BedPicture(
        scale=round(scale, 5),
        width=_px(LEFT + length + RIGHT),
        height=_px(TOP + width + BOTTOM),
        wall=Box(_px(LEFT - WALL), _px(TOP - WALL), _px(length + 2 * WALL), _px(width + 2 * WALL)),
        inside=Box(LEFT, TOP, _px(length), _px(width)),
        ticks_x=[
            StringTick(_px(LEFT + n * pitch_x), TOP, _tick(n * grid.pitch_x_mm, units)) for n in range(grid.columns + 1)
        ],
        ticks_y=[
            StringTick(LEFT, _px(TOP + n * pitch_y), _tick(n * grid.pitch_y_mm, units)) for n in range(1, grid.rows + 1)
        ],
        rows=[row for row in rows if row],
        strings="".join(
            f"M{_px(LEFT + run.at_mm * scale)} {_px(TOP + run.from_mm * scale)}v{_px(run.long_mm * scale)}"
            if run.upright
            else f"M{_px(LEFT + run.from_mm * scale)} {_px(TOP + run.at_mm * scale)}h{_px(run.long_mm * scale)}"
            for run in stringing(bed.length_mm, bed.width_mm, grid).runs
        ),
        crowns=[
            KeptCrown(
                _px(LEFT + k.middle_mm[0] * scale), _px(TOP + k.middle_mm[1] * scale), _px(k.spread_mm / 2 * scale)
            )
            for k in bed.kept
            if k.spread_mm and k.overlaps(day, day)
        ],
        kept=[
            Box(
                _px(LEFT + k.x_mm * scale),
                _px(TOP + k.y_mm * scale),
                _px(k.length_mm * scale),
                _px(k.width_mm * scale),
                k.label,
            )
            for k in bed.kept
            if k.overlaps(day, day)
        ],
        plantings=[] if sun is not None else _plantings(shown, scale, box, day, looks, southern=southern),
        hatches=list({item.crop.family: family(item.crop.family) for item in shown}.values()),
        scale_words=_scale_words(bed, units),
        outline="".join(
            f"{'L' if n else 'M'}{_px(LEFT + x * scale)} {_px(TOP + y * scale)}"
            for n, (x, y) in enumerate(bed.outline_mm)
        )
        + "Z" * bool(bed.outline_mm),
        found=()
        if sun is not None
        else tuple(
            FoundShape(
                _px(LEFT + f.x_mm * scale),
                _px(TOP + f.y_mm * scale),
                _px(max(7.0, f.width_mm * scale / 2)),
                f.name[:2].title() or "?",
            )
            for f in found
        ),
        sections=tuple(
            Box(_px(LEFT + s.x * scale), _px(TOP + s.y * scale), _px(s.width * scale), _px(s.height * scale), s.label)
            for s in sections
        ),
        north_deg=north_deg,
        sun=sun is not None,
        small=f"{_px(LEFT - WALL - 1)} {_px(TOP - WALL - 1)} {_px(length + 2 * WALL + 2)} {_px(width + 2 * WALL + 2)}",
        small_width=_px(length + 2 * WALL + 2),
        small_height=_px(width + 2 * WALL + 2),
    )


def _scale(bed: Bed, widest: float = WIDEST, highest: float = HIGHEST) -> float:
    return min(widest / bed.length_mm, highest / bed.width_mm, LARGEST_SCALE)


def _scale_words(bed: Bed, units: Units) -> str:
    if bed.pockets:
        return f"{words.count(bed.pockets, 'pocket')}."
    return f"One square is {format_length(bed.cell_mm, units, feet=False)}."


def _cell_words(cell: Cell, kept: frozenset[Cell], inside: Mapping[Cell, str], sun: Mapping[Cell, float] | None) -> str:
    what = "kept" if cell in kept else inside.get(cell, "empty")
    hours = f", {sun[cell]:.1f} hours of sun" if sun and cell in sun else ""
    return f"{cell_name(cell)}: {what}{hours}"


def marker(number: int, severity: str, cells: frozenset[Cell], bed: Bed) -> Marker:
    """A numbered mark at the top-right corner of a planting's first square."""
    grid = bed.grid()
    scale = _scale(bed)
    column, row = min(cells, key=lambda cell: (cell[1], cell[0]))
    return Marker(
        number,
        _px(LEFT + (column + 1) * grid.pitch_x_mm * scale - 8),
        _px(TOP + row * grid.pitch_y_mm * scale + 8),
        severity,
    )


def _plantings(
    shown: Sequence[PlantingPicture],
    scale: float,
    box: Callable[[Cell], Box],
    day: date,
    looks: Form | None,
    *,
    southern: bool,
) -> list[PlantingShape]:
    light = sum(item.layout.plants for item in shown) > MOST_CIRCLES
    drawn = [_planting(item, scale, box, light=light) for item in shown]
    if looks is None or light:
        return drawn
    return [
        _as_it_looks(item, one, scale, day, looks, southern=southern) for item, one in zip(shown, drawn, strict=True)
    ]


SOWN_PX = 2.2  # radius of a place where something is in the ground and nothing up: our own choice


def _as_it_looks(
    item: PlantingPicture, drawn: PlantingShape, scale: float, day: date, form: Form, *, southern: bool
) -> PlantingShape:
    """A planting with the pictures of its plants; what is still to come stays as it is, what is not up yet is a sown place."""
    if not item.here:
        return drawn
    plants = []
    for number, plant in enumerate(drawn.plants):
        look = portraits.look_on(
            item.crop, day, item.planting.dates, scale, southern=southern, number=number, line=form == "line"
        )
        if look is None:
            plants.append(replace(plant, r=SOWN_PX, under=True))
            continue
        turn = number * TURN_DEG % 360
        side = _px(look.side_mm * scale)
        plants.append(replace(plant, href=look.href, side=side, corner=_px(-side / 2), turn=turn))
    first = drawn.squares[0]
    tag = drawn.tag or StringTick(_px(first.x + 1), _px(first.y + 1), drawn.code)
    return replace(drawn, plants=plants, codes=False, ring=0.0, tag=tag)


def _planting(item: PlantingPicture, scale: float, box: Callable[[Cell], Box], *, light: bool) -> PlantingShape:
    hatch = family(item.crop.family)
    radius = _px(max(2.2, min(item.crop.width_mm, item.pitch_mm) * scale / 2 * 0.92))
    squares = [_inset(box(cell), 2) for cell in sorted(item.cells, key=lambda cell: (cell[1], cell[0]))]
    plants = [
        PlantShape(_px(LEFT + x * scale), _px(TOP + y * scale), radius)
        for x, y in item.layout.positions_mm
        if item.shows(x, y)
    ]
    codes = radius >= CODE_FITS and not light
    first = squares[0]
    tag = None if codes and plants else StringTick(_px(first.x + 1), _px(first.y + 1), item.crop.code)
    if item.planting.with_others and tag is not None:
        tag = StringTick(_px(first.x + first.width - 21), tag.y, tag.label)
    grown = item.crop.width_mm * scale / 2
    ring = _px(grown) if grown > 1.2 * radius / 0.92 and len(plants) <= MOST_RINGS else 0.0
    return PlantingShape(
        id=str(item.planting.id),
        code=item.crop.code,
        name=item.crop.name.en,
        fill=hatch.fill,
        colour=hatch.colour,
        ghost=not item.here,
        pencil=item.planting.status == "pencilled",
        plants=[] if light else plants,
        codes=codes,
        tag=tag,
        squares=squares,
        ring=0.0 if light else ring,
        dots="".join(f"M{p.x} {p.y}h.01" for p in plants) if light else "",
        dot_width=_px(2 * radius),
    )


def _inset(box: Box, by: float) -> Box:
    return Box(_px(box.x + by), _px(box.y + by), _px(box.width - 2 * by), _px(box.height - 2 * by))


def _in_words(item: PlantingPicture, day: date) -> str:
    name = item.crop.name.en.lower()
    if item.here:
        return f"{name}, {item.planting.status}"
    return f"{name}, {item.planting.status} from {words.short_day(item.planting.bed_from)}"


def _tick(mm: float, units: Units) -> str:
    return "0" if mm == 0 else format_length(round(mm, 1), units)


def _px(value: float) -> float:
    return round(value, 1)
