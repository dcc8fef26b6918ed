"""Garden, on paper: seed mats at true size, labels for what goes in, and a sheet of sums about the bed."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Response

from almanaque.commands.growth import forecasts
from almanaque.commands.week import planting_day as commands
from almanaque.commands.week.planting_day import Goes, RunSheet
from almanaque.core.garden.bed import cell_name
from almanaque.core.units import Units, format_length
from almanaque.core.week import seed_mats, sheet_of_sums
from almanaque.core.week.seed_mats import Quarter
from almanaque.core.week.sheet_of_sums import BedCrop, SumQuestion
from almanaque.formats.crops import portraits
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed
from almanaque.store.journal import signs
from almanaque.web import frame, links, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
TOWEL_MM = 279.4  # 11 in, as most towels measure: common practice, no source
MOST_TILES = 12  # sheets of one crop: more are too many to keep in order
LEAST_DOTS = 4  # in a square, from which a mat is worth its sheet: our own rule
MARGIN = 3.0  # millimetres around a quarter on paper


@dataclass(frozen=True)
class LabelSheet:
    """A common sheet of labels; sizes in millimetres, from memory."""

    key: str
    name: str


SHEETS = (
    LabelSheet("letter", "letter, 30 labels of 2 5/8 × 1 in"),
    LabelSheet("a4", "A4, 21 labels of 63.5 × 38.1 mm"),
)


@router.get("/garden/beds/{bed_id}/mats")
def mats(scope: Look, bed_id: UUID, on: str = "") -> Response:
    """Seed mats for what goes into a bed on a day: folded towels, and quarters of a square at true size."""
    with scope.open() as work:
        bed, values = mats_values(work, bed_id, on)
        return frame.page(work, "garden", f"Seed mats, {bed.name}", values, template="week/seed_mats.html")


@dataclass(frozen=True)
class DrawnView(View):
    """Filled by `_drawn`, read by its template."""

    side: float
    size: str
    box: float
    margin: float
    dots: list[tuple[float, float]]
    use: str
    words: str


@dataclass(frozen=True)
class MatView(View):
    """Filled by `_mat`, read by its template."""

    name: str
    seeded: bool
    squares: str
    facts: str
    days: str
    fold: str
    quarters: list[DrawnView]


def _pack(work: UnitOfWork, bed: Bed, day: date, part: str) -> str:
    """Where one part of a planting day is asked for as a PDF, and nothing else is ticked."""
    return frame.address(work, "/garden/prints", bed=str(bed.id), on=day.isoformat(), part=part)


@dataclass(frozen=True)
class MatsView(View):
    """Filled by `mats_values`, read by its template."""

    bed: Bed
    day_words: str
    mats: list[MatView]
    without: list[str]
    back: str
    pdf: str
    ruler: list[int]
    inches: list[float]


def _worth_a_mat(goes: Goes) -> bool:
    """Fewer dots in a square are found sooner by a finger than by a sheet."""
    return max(goes.to_plant.holes.values()) >= LEAST_DOTS


def mats_values(work: UnitOfWork, bed_id: UUID, on: str) -> tuple[Bed, MatsView]:
    bed, day, found = _sheet(work, bed_id, on)
    return bed, MatsView(
        bed=bed,
        day_words=words.weekday_day(day),
        mats=[_mat(work, goes, bed, day) for goes in found.goes if _worth_a_mat(goes)] if found else [],
        without=[goes.to_plant.name for goes in found.goes if not _worth_a_mat(goes)] if found else [],
        back=frame.address(work, f"/garden/beds/{bed.id}/planting-day", on=day.isoformat()),
        pdf=_pack(work, bed, day, "mats"),
        ruler=[4 + n * 10 for n in range(11)],
        inches=[round(4 + n * 25.4, 1) for n in range(5)],
    )


@router.get("/garden/beds/{bed_id}/labels")
def labels(scope: Look, bed_id: UUID, on: str = "", sheet: str = "") -> Response:
    """Labels for what goes into a bed on a day, one for each group and crop, with a code that leads to the planting."""
    with scope.open() as work:
        bed, day, found = _sheet(work, bed_id, on)
        chosen = next((s for s in SHEETS if s.key == sheet), SHEETS[0 if work.context.school.units == "us" else 1])
        values = {
            "bed": bed,
            "day_words": words.weekday_day(day),
            "labels": _labels(work, found) if found else [],
            "chosen": chosen,
            "sheets": [
                (s.key, s.name, frame.address(work, f"/garden/beds/{bed.id}/labels", on=day.isoformat(), sheet=s.key))
                for s in SHEETS
            ],
            "back": frame.address(work, f"/garden/beds/{bed.id}/planting-day", on=day.isoformat()),
            "pdf": _pack(work, bed, day, "labels"),
        }
        return frame.page(work, "garden", f"Labels, {bed.name}", values, template="week/labels.html")


@router.get("/garden/beds/{bed_id}/sums")
def sums(scope: Look, bed_id: UUID) -> Response:
    """Sums about the bed as it stands on the ribbon's day, with the answers on a sheet of their own."""
    with scope.open() as work:
        bed, values = sums_values(work, bed_id)
        return frame.page(work, "garden", f"Sums about {bed.name}", values, template="week/sheet_of_sums.html")


@dataclass(frozen=True)
class SumsView(View):
    """Filled by `sums_values`, read by its template."""

    bed: Bed
    sums: list[SumQuestion]
    day_words: str
    whole: bool


def sums_values(work: UnitOfWork, bed_id: UUID) -> tuple[Bed, SumsView]:
    bed = garden.bed(work.connection, bed_id)
    grid, units = bed.grid(work.day), work.context.school.units
    standing = [
        p
        for p in garden.plantings(work.connection, bed_id=bed.id, since=work.day, until=work.day)
        if p.status in ("planned", "in the ground") and p.stands_on(work.day, work.today)
    ]
    laid = forecasts.layouts(standing, bed, work.context.crops, units)
    grown: dict[str, BedCrop] = {}
    for planting in standing:
        name, layout = work.context.crops[planting.crop].name.en, laid[planting.id]
        if name not in grown and planting.arrangement == "squares" and layout.plants:
            along = layout.reading.along
            grown[name] = BedCrop(
                name,
                along,
                layout.reading.per_square,
                len(planting.cells),
                layout.plants,
                commands.meant_mm(work.context, planting, bed),
            )
    found = []
    if grid.cells and not bed.pockets:
        found = sheet_of_sums.sums(
            bed.length_mm,
            bed.width_mm,
            bed.cell_mm,
            grid.columns,
            grid.rows,
            len(grid.cells),
            list(grown.values()),
            units,
        )
    return bed, SumsView(bed=bed, sums=found, day_words=words.weekday_day(work.day), whole=not bed.outline_mm)


def _sheet(work: UnitOfWork, bed_id: UUID, on: str) -> tuple[Bed, date, RunSheet | None]:
    """The bed, the day (the next on which something goes in if none is named), and its run sheet."""
    bed = garden.bed(work.connection, bed_id)
    known = commands.days(work.connection, bed.id, work.today)
    day = parse_day(on, field="on") if on.strip() else (known[0] if known else work.today)
    return bed, day, commands.run_sheet(work.connection, work.context, bed, day, today=work.today)


def _mat(work: UnitOfWork, goes: Goes, bed: Bed, day: date) -> MatView:
    """A crop's mats in words and drawn; quarters only where a quarter of the square fits on a sheet."""
    units, crop = work.context.school.units, work.context.crops[goes.planting.crop]
    cell, holes = max(goes.to_plant.holes.items(), key=lambda item: (item[1], -item[0][1], -item[0][0]))
    found = seed_mats.mat(holes, len(goes.to_plant.holes), germination=crop.germination, lay_on=day)
    seeded = goes.planting.method == "direct"
    return MatView(
        name=crop.name.en,
        seeded=seeded,
        squares=", ".join(cell_name(c) for c in sorted(goes.to_plant.holes, key=lambda c: (c[1], c[0]))),
        facts=words.joined(
            [
                f"{words.count(found.squares, 'mat')} of {words.count(holes, 'dot')}",
                f"{found.seeds} seeds with one in ten to spare"
                if seeded
                else "as a template: poked through and taken off",
                f"{found.seeds_a_dot} seeds on a dot" if seeded and found.seeds_a_dot > 1 else "",
                f"about {max(5, round(found.paste_ml / 5) * 5)} mL of paste" if seeded else "",
            ]
        ),
        days=(
            f"Make them from {words.short_day(found.make_from)} to {words.short_day(found.make_by)}, "
            f"lay them on {words.short_day(found.lay_on)}."
        )
        if seeded
        else "",
        fold=_fold(found.folds, units),
        quarters=_quarters(goes, bed, cell, units),
    )


def _fold(times: int | None, units: Units) -> str:
    if times is None:
        return "No folding makes so many parts: use the quarters below."
    if times == 0:
        return "One dot in the middle: fold twice to find it."
    columns, rows, length, width = seed_mats.towel_parts(times, TOWEL_MM, TOWEL_MM)
    size = f"{format_length(length, units, feet=False)} × {format_length(width, units, feet=False)}"
    return (
        f"Fold {words.count(times, 'time')} in half: {columns} × {rows} parts, "
        f"{size} each on a towel of {format_length(TOWEL_MM, units, feet=False)}. "
        "Lay it in the middle of its square, by the strings."
    )


def _quarters(goes: Goes, bed: Bed, cell: tuple[int, int], units: Units) -> list[DrawnView]:
    grid = bed.grid()
    x, y = cell[0] * grid.pitch_x_mm, cell[1] * grid.pitch_y_mm
    dots = [
        (px - x, py - y)
        for px, py in goes.layout.positions_mm
        if x < px <= x + grid.pitch_x_mm + 1e-6 and y < py <= y + grid.pitch_y_mm + 1e-6
    ]
    try:
        return [_drawn(quarter, units) for quarter in seed_mats.quarters(dots, grid.pitch_x_mm)]
    except ValueError:
        pass  # a larger square is cut into tiles
    try:
        found = seed_mats.tiles(dots, grid.pitch_x_mm)
    except ValueError:
        return []
    return [_drawn(tile, units, tile=True) for tile in found] if len(found) <= MOST_TILES else []


def _drawn(quarter: Quarter, units: Units, *, tile: bool = False) -> DrawnView:
    """A quarter as a drawing whose unit is a millimetre on paper; dots on a cut lie on the line."""
    side = round(quarter.side_mm, 2)
    return DrawnView(
        side=side,
        size=format_length(quarter.side_mm, units, feet=False),
        box=round(side + 2 * MARGIN, 2),
        margin=MARGIN,
        dots=[(round(x + MARGIN, 2), round(y + MARGIN, 2)) for x, y in quarter.dots_mm],
        use=_use(quarter, tile),
        words=f"{'A tile' if tile else 'A quarter'} of a square at true size with {words.count(len(quarter.dots_mm), 'dot')}",
    )


def _use(quarter: Quarter, tile: bool) -> str:
    """Where in the square it is laid."""
    if tile:
        return f"Lay it, upright, at {'; '.join(quarter.where)}."
    if quarter.times == 4:
        return "Use it four times, with its marked corner in each corner of the square."
    return f"Use it with its marked corner {', then '.join(quarter.where)}."


@dataclass(frozen=True)
class LabelView(View):
    """Filled by `_labels`, read by its template."""

    crop: str
    variety: str
    when: str
    who: str
    where: str
    qr: tuple[str, int]
    drawn: str


LABEL_PX = 48.0


def _code(work: UnitOfWork, planting_id: UUID) -> str:
    """What the label's code stands for: the public page of the planting where that is open, else its own page."""
    return signs.ensure(work.connection, work.context.school.id, "planting", planting_id)


def label_rows(work: UnitOfWork, bed_id: UUID, on: str) -> list[LabelView]:
    """The labels for what goes into a bed on a day."""
    _, _, found = _sheet(work, bed_id, on)
    return _labels(work, found) if found else []


def _labels(work: UnitOfWork, found: RunSheet) -> list[LabelView]:
    names = work.context.group_names(found.day)
    who = names[str(found.group.id)] if found.group else ""
    codes = {goes.planting.id: _code(work, goes.planting.id) for goes in found.goes}
    rows = []
    for share in found.shares:
        runs: dict[str, list[str]] = {}
        for square in share.squares:
            runs.setdefault(square.key, []).append(cell_name(square.cell))
        for key, cells in runs.items():
            planting = next(g.planting for g in found.goes if g.to_plant.key == key)
            crop = work.context.crops[planting.crop]
            rows.append(
                LabelView(
                    crop=crop.name.en,
                    variety=planting.variety,
                    when=f"{words.short_day(found.day)} {found.day.year}",
                    who=words.joined([who, f"group {share.number}"]),
                    where=f"{found.bed.name}: {', '.join(cells)}",
                    qr=links.qr_path(links.address(work.scope.request, f"/s/{codes[planting.id]}")),
                    drawn=portraits.address(crop, "ripe", px=LABEL_PX),
                )
            )
    return rows
