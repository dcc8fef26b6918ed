"""Plants that stand in beds on a day, one by one, as a map draws them: where, how they look, the highest over the others."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from almanaque.commands.context import Context
from almanaque.commands.growth.forecasts import layout_of
from almanaque.formats.crops import portraits
from almanaque.store.garden.garden import Bed, Planting

MOST_LOOKS = 1500  # plants on a map that are drawn one by one; of more, each second or third: our own choice
TURN_DEG = 137  # from plant to plant: our own choice
MAP_PX_PER_MM = 0.045  # about what a map of a school garden has: by it the detail of pictures is chosen


@dataclass(frozen=True)
class StandingPlant:
    """A plant that stands in a bed [mm from its inside corner], with the picture of how it looks from above and the side of that [mm]."""

    x_mm: float
    y_mm: float
    side_mm: float
    href: str
    turn: int


def looks(
    context: Context,
    beds: Sequence[Bed],
    present: Sequence[Planting],
    day: date,
    today: date,
    *,
    most: int = MOST_LOOKS,
    line: bool = False,
) -> dict[str, list[StandingPlant]]:
    """What stands in each bed on a day, by the bed's id; in `line` for crayons."""
    known = {bed.id: bed for bed in beds}
    laid = []
    for planting in present:
        there = planting.status in ("planned", "in the ground", "finished") and planting.stands_on(day, today)
        if planting.bed_id in known and there:
            crop, bed = context.crops[planting.crop], known[planting.bed_id]
            laid.append((crop, planting, layout_of(planting, bed, crop).positions_mm))
    every = 1 + sum(len(places) for _, _, places in laid) // most
    southern = context.school.southern
    found: dict[str, list[StandingPlant]] = {}
    for crop, planting, places in sorted(laid, key=lambda one: one[0].height_mm):
        for number, (x, y) in enumerate(places[::every]):
            look = portraits.look_on(
                crop, day, planting.dates, MAP_PX_PER_MM, southern=southern, number=number, line=line
            )
            if look is not None:
                turn = number * TURN_DEG % 360
                plant = StandingPlant(x, y, look.side_mm, look.href, turn)
                found.setdefault(str(planting.bed_id), []).append(plant)
    return found
