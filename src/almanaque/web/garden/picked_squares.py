"""Free squares of a bed, for plans that name a bed and leave the squares to us."""

from datetime import date

from almanaque.commands.garden.free_squares import free_cells
from almanaque.commands.growth import forecasts
from almanaque.core.crops.crop import Crop, Method
from almanaque.core.errors import BadInput
from almanaque.core.garden import layout
from almanaque.core.garden.bed import Cell, cell_name
from almanaque.core.garden.layout import LayoutWish
from almanaque.core.growth import school_fit
from almanaque.store.garden.garden import Bed
from almanaque.web.request_scope import UnitOfWork

USUAL = 4  # squares to take when nobody said how many: our own rule


def free(work: UnitOfWork, bed: Bed, crop: Crop, method: Method, start: date, *, wanted: int = USUAL) -> str:
    """A block of free squares for a crop, as written: as many as a whole block of it takes. Raises BadInput for a full bed."""
    setting = forecasts.setting_in(work.context, bed, start, None)
    dates = school_fit.judge(crop, method, start, setting).dates
    cells = free_cells(work.connection, bed, dates.bed_from, dates.clear_by, work.today)
    reading = layout.figures(crop, LayoutWish(), bed.grid().cell_mm)
    side = max(1, round(reading.in_row_mm / bed.grid().cell_mm + 0.4))
    block = _block(cells, max(wanted, side * side), side)
    if not block:
        raise BadInput(
            f"{bed.name} has no room for {crop.name.en.lower()} then. Choose another bed, or the squares yourself.",
            field="bed",
        )
    return ", ".join(cell_name(cell) for cell in sorted(block, key=lambda c: (c[1], c[0])))


def _block(cells: list[Cell], wanted: int, side: int) -> list[Cell]:
    """The first rectangle of free squares as nearly square as can be that holds as many as are wanted, or else the largest."""
    free_set = set(cells)
    best: list[Cell] = []
    shapes = sorted(
        ((w, h) for w in range(side, 9) for h in range(side, 9) if w * h <= max(wanted, side * side)),
        key=lambda shape: (-shape[0] * shape[1], abs(shape[0] - shape[1])),
    )
    for width, height in shapes:
        for column, row in cells:
            block = [(column + x, row + y) for y in range(height) for x in range(width)]
            if all(cell in free_set for cell in block):
                return block
    return best
