"""Which squares of a bed are free for a time, and which of them a plan gets that leaves its squares to us."""

from collections.abc import Iterable
from datetime import date
from typing import Any

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.growth import forecasts
from almanaque.core.crops.crop import Crop, Method
from almanaque.core.errors import BadInput
from almanaque.core.garden import layout, rotation
from almanaque.core.garden.bed import Cell, cell_name
from almanaque.core.garden.layout import LayoutWish
from almanaque.core.garden.squares_for_a_plan import pick_squares
from almanaque.core.growth import school_fit
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting


def free_cells(connection: Connection[Any], bed: Bed, starts: date, ends: date, today: date) -> list[Cell]:
    """Squares in which nothing stands or is planned in ink or pencil from a day to a day, row by row."""
    return among(garden.plantings(connection, bed_id=bed.id, since=starts, until=ends), bed, starts, ends, today)


def among(present: Iterable[Planting], bed: Bed, starts: date, ends: date, today: date) -> list[Cell]:
    """The same, of plantings that were read before; those of other beds do not count."""
    taken = {
        cell
        for planting in present
        if planting.bed_id == bed.id
        and planting.status not in ("finished", "lost")
        and planting.overlaps(starts, ends, today)
        for cell in planting.cells
    }
    return [cell for cell in bed.grid(starts).cells if cell not in taken]


USUAL = 4  # squares to take when nobody said how many: our own rule


def picked(
    connection: Connection[Any],
    context: Context,
    bed: Bed,
    crop: Crop,
    method: Method,
    start: date,
    *,
    today: date,
    wanted: int = USUAL,
) -> str:
    """Free squares for a crop, as written: as many as a whole block of it takes. Raises BadInput for a full bed."""
    setting = forecasts.setting_in(context, bed, start, None)
    dates = school_fit.judge(crop, method, start, setting).dates
    free = free_cells(connection, bed, dates.bed_from, dates.clear_by, today)
    cell_mm = bed.grid().cell_mm
    side = max(1, round(layout.figures(crop, LayoutWish(), cell_mm).in_row_mm / cell_mm + 0.4))
    squares = pick_squares(
        free, wanted=wanted, side=side, unrested=_unrested(connection, context, bed, crop, dates.bed_from, today)
    )
    if not squares:
        raise BadInput("garden.no_room_in_bed", field="bed", bed=bed.name, crop=crop.name.en.lower())
    return ", ".join(cell_name(cell) for cell in squares)


def _unrested(
    connection: Connection[Any], context: Context, bed: Bed, crop: Crop, start: date, today: date
) -> set[Cell]:
    """Squares in which the crop's family stood fewer years ago than the school lets it rest."""
    since = date(start.year - rotation.MOST_YEARS - 1, 1, 1)
    return {
        cell
        for row in garden.stood(connection, [bed.id], since)
        if row.bed_id == bed.id
        and context.crops[row.crop].family == crop.family
        and start.year - (row.bed_to or today).year < context.school.rest_years
        for cell in row.cells
    }
