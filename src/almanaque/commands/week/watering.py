"""What the beds, pots and young trees are to be given in a week, gathered from the database and reckoned by the core."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

import numpy as np
from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.growth import forecasts
from almanaque.core.garden.bed import MOVABLE_POTS, Cell, Rectangle
from almanaque.core.growth.covers import CoverKey
from almanaque.core.week import water
from almanaque.core.week.water import Pot, WaterNeed, WaterPractice, Week
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting

DAY = timedelta(days=1)


@dataclass(frozen=True)
class BedWater:
    """A week's water for what stands in a bed: litres in all, the same in minutes and bottles where those are known.

    `give_mm` is the mean over the planted ground. A `pot` has its water by the day.
    """

    bed: Bed
    planted_m2: float
    need: WaterNeed
    litres: float
    hose_minutes: int | None
    drip_minutes: int | None
    bottles: int | None
    pot: Pot | None


@dataclass(frozen=True)
class TreeWater:
    """A young tree and its litres for the week."""

    bed: Bed
    name: str
    litres: float


@dataclass(frozen=True)
class Watering:
    """A week's water. `days` are those whose weather counts; `ahead` is true for a week that is still to come.

    `practice` is the one that spoke: by the inch where there is no weather to reckon use from, whatever was asked.
    """

    practice: WaterPractice
    days: Sequence[date]
    week: Week | None
    ahead: bool
    beds: list[BedWater]
    trees: list[TreeWater]

    @property
    def litres(self) -> float:
        return sum(bed.litres for bed in self.beds) + sum(tree.litres for tree in self.trees)


def watering(connection: Connection[Any], context: Context, day: date, *, today: date) -> Watering:
    """What the week from a day on is to be given.

    Up to today that is what the seven days before took and rain did not bring; for a day to come, what a usual week takes.
    """
    ahead = day > today
    days = [day + n * DAY for n in range(water.WEEK)] if ahead else [day - n * DAY for n in range(water.WEEK, 0, -1)]
    week = water.week_of(context.climate, days, known_to=today) if context.climate else None
    practice: WaterPractice = context.school.water_by if week else "inch"
    beds = {bed.id: bed for bed in garden.beds(connection)}
    standing: dict[Any, list[Planting]] = {}
    for planting in garden.plantings(connection, since=day, until=day):
        if planting.status == "in the ground" or (ahead and planting.status == "planned"):
            standing.setdefault(planting.bed_id, []).append(planting)
    found, trees = [], []
    for bed in beds.values():
        mine = standing.get(bed.id, [])
        trees += list(_trees(context, bed, mine, day, week))
        mine = [p for p in mine if not _is_tree(context, p)]
        kept = [part for part in bed.kept if part.plant and part.overlaps(day, day)]
        if (any(p.cells for p in mine) or kept) and not bed.indoors:
            found.append(_bed(context, bed, mine, kept, days, week, practice))
    return Watering(practice, days, week, ahead, found, trees)


def _bed(
    context: Context,
    bed: Bed,
    standing: Sequence[Planting],
    kept: Sequence[Rectangle],
    days: Sequence[date],
    week: Week | None,
    practice: WaterPractice,
) -> BedWater:
    square = bed.area_m2 / bed.pockets if bed.pockets else bed.cell_mm**2 / 1_000_000
    # A square with two crops in it is watered once, for the thirstier one.
    by_square: dict[Cell, WaterNeed] = {}
    for planting in standing:
        need = _need(context, bed, planting, days, week, practice)
        for cell in planting.cells:
            if cell not in by_square or need.give_mm > by_square[cell].give_mm:
                by_square[cell] = need
    parts = [(need, square) for need in by_square.values()]
    # A plant that is kept drinks from its own part of the bed.
    parts += [
        (_kept_need(context, bed, part, days, week, practice), part.length_mm * part.width_mm / 1e6) for part in kept
    ]
    needs = [need for need, _ in parts]
    planted = sum(area for _, area in parts)
    amount = sum(water.litres(need.give_mm, area) for need, area in parts)
    mean = WaterNeed(sum(n.takes_mm for n in needs) / len(needs), sum(n.rain_mm for n in needs) / len(needs), practice)
    pot = None
    if bed.kind in MOVABLE_POTS and week is not None:
        kc = float(
            np.mean(
                [*(_kc(context, planting, days).mean() for planting in standing), *(_kept_kc(context, k) for k in kept)]
            )
        )
        pot = water.pot(bed.litres, min(planted, bed.area_m2), float(week.weather.et0_mm.mean()), kc)
    hose, bottle = context.school.hose_l_min, context.school.bottle_l
    return BedWater(
        bed,
        planted,
        mean,
        amount,
        water.hose_minutes(amount, hose) if hose else None,
        water.drip_minutes(amount, bed.drip_l_h) if bed.drip_l_h else None,
        water.bottles(amount, bottle) if bottle else None,
        pot,
    )


def _need(
    context: Context, bed: Bed, planting: Planting, days: Sequence[date], week: Week | None, practice: WaterPractice
) -> WaterNeed:
    if week is None:
        return WaterNeed(water.INCH_MM, 0.0, "inch")
    covering = forecasts.setting_in(context, bed, planting.start_on, planting.cover).covering
    over: CoverKey | None = covering.key if covering else None
    rained_on = over not in water.KEEPS_RAIN_OFF
    if practice == "inch":
        return water.by_the_inch(week.weather, depth_mm=bed.depth_mm, rained_on=rained_on)
    return water.by_use(week.weather, _kc(context, planting, days), depth_mm=bed.depth_mm, rained_on=rained_on)


def _kept_need(
    context: Context, bed: Bed, part: Rectangle, days: Sequence[date], week: Week | None, practice: WaterPractice
) -> WaterNeed:
    if week is None:
        return WaterNeed(water.INCH_MM, 0.0, "inch")
    if practice == "inch":
        return water.by_the_inch(week.weather, depth_mm=bed.depth_mm)
    return water.by_use(week.weather, np.full(len(days), _kept_kc(context, part)), depth_mm=bed.depth_mm)


def _kept_kc(context: Context, part: Rectangle) -> float:
    """A plant that stays is full-grown: its middle coefficient, or a middling one for a plant that the catalogue lacks."""
    known = context.crops[part.crop].water if part.crop and part.crop in context.crops else None
    return float((known or water.MIDDLING).kc[1])


def _kc(context: Context, planting: Planting, days: Sequence[date]) -> water.Floats:
    crop = context.crops[planting.crop]
    southern = context.school.southern
    if planting.dates is None:
        return np.full(len(days), (crop.water or water.MIDDLING).kc[1])
    return water.coefficients(crop, planting.dates, days, southern=southern)


def _is_tree(context: Context, planting: Planting) -> bool:
    return context.crops[planting.crop].group == "trees"


def _trees(
    context: Context, bed: Bed, standing: Iterable[Planting], day: date, week: Week | None
) -> Iterable[TreeWater]:
    """Trees in their first two years; older ones find their own water."""
    rain = float(week.weather.rain_mm.sum()) if week else 0.0
    for planting in standing:
        if _is_tree(context, planting):
            amount = water.young_tree(planting.bed_from, day, rain_mm=rain)
            if amount > 0:
                yield TreeWater(bed, context.crops[planting.crop].name.en, amount)
