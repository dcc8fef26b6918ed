"""A candidate in a bed: how many squares it takes there, and the first rule that bars it."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

import numpy as np
import numpy.typing as npt

from almanaque.core.crops.crop import Crop
from almanaque.core.garden import layout, spacing
from almanaque.core.garden.bed import Cell
from almanaque.core.garden.layout import LayoutWish
from almanaque.core.garden.site_suitability import DEPTH_ENOUGH, MANURE_DAYS
from almanaque.core.planner.candidates import SowingCandidate
from almanaque.core.planner.problem import PlanBed, PlanClass, Wish
from almanaque.core.school import class_flags
from almanaque.core.units import MM_PER_FOOT
from almanaque.core.year import bed_promises
from almanaque.core.year.shortlist import SUN_SLACK_H

Ints = npt.NDArray[np.int64]
Floats = npt.NDArray[np.float64]
Bar = Literal[
    "flagged",
    "lead",
    "shallow",
    "narrow",
    "spreads",
    "little_sun",
    "closed",
    "promised",
    "wanted_back",
    "manure",
    "no_room",
    "forbidden",
]
# The order in which bars are told: the one that a wish came furthest by is the most worth knowing.
ORDER: tuple[Bar, ...] = (
    "flagged",
    "lead",
    "shallow",
    "narrow",
    "spreads",
    "little_sun",
    "forbidden",
    "wanted_back",
    "manure",
    "closed",
    "promised",
    "no_room",
)


def squares_of(wish: Wish, crop: Crop, bed: PlanBed) -> int:
    """Squares of a bed that a wish takes, whole blocks of them for a plant that wants more than one.

    Squares of a wish are those of a foot. Grams go by the middle of the usual yield of the area, so that half of the years give more.
    **Source:** common practice, no source.
    """
    cell = bed.grid.cell_mm
    figures = layout.figures(crop, LayoutWish(), cell)
    reading = spacing.read_square(figures.in_row_mm, cell)
    block = 1 if figures.per_square else reading.block
    per_square = figures.per_square or reading.per_square
    if wish.plants is not None:
        return block * block * wish.plants if block > 1 else math.ceil(wish.plants / per_square)
    if wish.grams is not None:
        area = wish.grams / (sum(crop.yield_g_m2) / 2) * 1_000_000
        squares = math.ceil(area / (cell * cell) - 1e-6)
    else:
        squares = round((wish.squares or 1) * float(MM_PER_FOOT) ** 2 / cell**2)
    return max(1, math.ceil(squares / block**2)) * block**2 if block > 1 else max(1, squares)


def plants_in(squares: int, crop: Crop, bed: PlanBed) -> int:
    """How many plants stand in so many squares of a bed."""
    figures = layout.figures(crop, LayoutWish(), bed.grid.cell_mm)
    reading = spacing.read_square(figures.in_row_mm, bed.grid.cell_mm)
    if figures.per_square:
        return squares * figures.per_square
    return squares * reading.per_square if reading.block == 1 else squares // reading.block**2


def bar_of_crop(crop: Crop, bed: PlanBed, group: PlanClass | None) -> Bar | None:
    """What bars a crop from a bed whatever the day."""
    if bed.lead:
        return "lead"
    if group is not None and class_flags.flagged(crop, group.flags, group.name):
        return "flagged"
    if bed.depth_mm < crop.soil_least_mm * DEPTH_ENOUGH:
        return "shallow"
    if bed.narrow_mm is not None and crop.in_row_mm > 2 * bed.narrow_mm:
        return "narrow"
    if crop.spreads and not bed.pot:
        return "spreads"
    return None


@dataclass(frozen=True)
class Columns:
    """Candidates as arrays (candidates,), days as ordinals: what the rules of a bed ask of them."""

    first: Ints
    last: Ints
    pick_early: Ints
    last_pick: Ints
    month: Ints
    sun_least: Floats
    manure_days: Ints

    @staticmethod
    def of(candidates: Sequence[SowingCandidate]) -> "Columns":
        def days(each: Iterable[date]) -> Ints:
            return np.array([day.toordinal() for day in each], dtype=np.int64)

        dates = [one.dates for one in candidates]
        middles = [d.bed_from + (max(d.first_pick, d.bed_from) - d.bed_from) / 2 for d in dates]
        return Columns(
            first=days(d.bed_from for d in dates),
            last=days(d.clear_by for d in dates),
            pick_early=days(d.first_pick_early for d in dates),
            last_pick=days(d.last_pick for d in dates),
            month=np.array([middle.month - 1 for middle in middles], dtype=np.int64),
            sun_least=np.array([one.crop.sun_least_h for one in candidates], dtype=np.float64),
            manure_days=np.array([MANURE_DAYS[one.crop.touches_soil] for one in candidates], dtype=np.int64),
        )


def bars_of_days(bed: PlanBed, columns: Columns, squares: Ints, *, free_from: date | None, today: date) -> Ints:
    """Which bar each candidate meets in a bed in its days, whatever else is planned; 0 for none, else 1 + its place in `ORDER`."""
    bars = np.zeros(len(columns.first), dtype=np.int64)

    def bar(name: Bar, where: npt.NDArray[np.bool_]) -> None:
        bars[(bars == 0) & where] = 1 + ORDER.index(name)

    sun = np.array([np.inf if hours is None else hours for hours in bed.sun_h])[columns.month]
    bar("little_sun", sun < columns.sun_least - SUN_SLACK_H)
    if free_from is not None:
        bar("wanted_back", columns.last >= free_from.toordinal())
    for day in bed.manured_on:
        spread = day.toordinal()
        bar("manure", (spread <= columns.last_pick) & (columns.pick_early - spread < columns.manure_days))
    for shut in bed.closed:
        bar("closed", (columns.first <= shut.ends.toordinal()) & (shut.starts.toordinal() <= columns.last))
    for promise in bed.promised:
        if promise.from_day >= today:  # from then on the bed is for what it was promised for; older ones have been kept
            bar("promised", columns.last > bed_promises.last_day_to_clear(promise).toordinal())
    bar("no_room", free_squares(bed, columns) < squares)
    return bars


def free_squares(bed: PlanBed, columns: Columns) -> Ints:
    """How many squares of a bed nothing holds on any day of each candidate."""
    if not bed.taken:
        return np.full(len(columns.first), len(bed.cells), dtype=np.int64)
    starts = np.array([taken.starts.toordinal() for taken in bed.taken])
    ends = np.array([taken.ends.toordinal() for taken in bed.taken])
    meets = (starts[None, :] <= columns.last[:, None]) & (columns.first[:, None] <= ends[None, :])
    kinds, which = np.unique(meets, axis=0, return_inverse=True)
    counts = [len(bed.cells.difference(*(bed.taken[n].cells for n in np.flatnonzero(kind).tolist()))) for kind in kinds]
    return np.array(counts, dtype=np.int64)[which.reshape(-1)]


def free_all_the_while(bed: PlanBed, first: date, last: date) -> frozenset[Cell]:
    """The squares of a bed that nothing holds on any day between two, both included."""
    gone = [taken.cells for taken in bed.taken if taken.starts <= last and first <= taken.ends]
    return bed.cells.difference(*gone) if gone else bed.cells
