"""A bed's planting day: what goes in, with whom and what for, put together from plans, jobs and the shed; and how it came out."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import needs, planting_events
from almanaque.commands.garden.held_bed import hold_all
from almanaque.commands.growth import forecasts
from almanaque.core.errors import BadInput
from almanaque.core.findings import Finding
from almanaque.core.garden import bed_strings
from almanaque.core.garden.bed import Cell
from almanaque.core.garden.bed_strings import Stringing
from almanaque.core.garden.needs import MaterialNeed
from almanaque.core.garden.spacing import Layout
from almanaque.core.school.classes import FlagKind
from almanaque.core.week import planting_day as core
from almanaque.core.week import water
from almanaque.core.week.planting_day import Crew, GroupShare, PlantingPart, Square, ToPlant
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.school.school import Group
from almanaque.store.week import planting_day_results, tasks
from almanaque.store.week.planting_day_results import Planted

GOES_IN = ("sow", "transplant")  # steps that put something into the bed
AHEAD = timedelta(days=300)
USUAL_LESSON = 45  # minutes, where no class has a lesson that day: our own rule
USUAL_CLASS = 24  # children, where no class is named: our own rule
SOAK_MM = 10.0  # water before planting, over what is planted: common practice, no source
GENTLE_MM = 5.0  # and after it: common practice, no source
USUAL_FLOW = 10.0  # litres a minute of a hose that nobody has timed: our own rule


@dataclass(frozen=True)
class Goes:
    """A planting that goes in that day, with its places in the bed."""

    planting: Planting
    layout: Layout
    to_plant: ToPlant


@dataclass(frozen=True)
class RunSheet:
    """Everything for one bed's planting day. `minutes` is the lesson's length, `finding` whether the day fits it."""

    bed: Bed
    day: date
    group: Group | None
    children: int
    minutes: int
    goes: list[Goes]
    order: list[Square]
    crew: Crew
    shares: list[GroupShare]
    parts: list[PlantingPart]
    finding: Finding | None
    strung: Stringing | None
    soak_l: float
    water_l: float
    needs: list[MaterialNeed]
    flags: Sequence[tuple[FlagKind, str]]


MOST_GAPS = 5  # distances that are measured of a crop: our own rule


def gaps(goes: "Goes") -> int:
    """How many distances between neighbours there are to measure of a crop that goes in, five at the most."""
    return min(MOST_GAPS, max(0, goes.layout.plants - 1))


def days(connection: Connection[Any], bed_id: UUID, today: date) -> list[date]:
    """Days to come on which something is to go into a bed."""
    found = tasks.tasks(connection, start=today, end=today + AHEAD, status="open")
    return sorted({t.on_day or t.from_day for t in found if t.bed_id == bed_id and t.step in GOES_IN and t.planting_id})


def run_sheet(connection: Connection[Any], context: Context, bed: Bed, day: date, *, today: date) -> RunSheet | None:
    """The run sheet of a bed for a day; None when nothing goes in then.

    What is given to that day goes in; where nothing is, all that may go in then by its window.
    """
    open_jobs = [
        t for t in tasks.tasks(connection, status="open") if t.bed_id == bed.id and t.step in GOES_IN and t.planting_id
    ]
    given = [t for t in open_jobs if (t.on_day or t.from_day) == day]
    jobs = given or [t for t in open_jobs if t.from_day <= day <= t.to_day]
    wanted = {t.planting_id for t in jobs}
    plans = [p for p in garden.plantings(connection, bed_id=bed.id) if p.id in wanted]
    if not plans:
        return None
    goes = [g for g in _goes(context, bed, plans) if g.to_plant.holes]
    order = core.laying_order(g.to_plant for g in goes)
    if not order:
        return None
    doing = [t.class_group_id for t in jobs if t.class_group_id]
    group_id = (
        doing[0] if doing and bed.class_group_id not in doing else bed.class_group_id
    )  # the bed's own class first
    group = next((g for g in context.groups if g.id == group_id), None)
    lessons = context.calendar.lessons(day, day, group_id=str(group_id)) if group_id else []
    children = group.head_count if group else USUAL_CLASS
    squares = len({square.cell for square in order})
    who, found = core.share_out(order, children, edge_mm=bed.shape.around_mm)
    area = squares * bed.grid().pitch_x_mm * bed.grid().pitch_y_mm / 1_000_000
    strung = (
        bed_strings.stringing(bed.length_mm, bed.width_mm, bed.grid())
        if any(p.arrangement == "squares" for p in plans) and not bed.pockets
        else None
    )
    gentle = water.litres(GENTLE_MM, area)
    parts = core.parts(
        found,
        who,
        squares=squares,
        strings=strung.strings if strung else 0,
        labels=len(goes),
        water_minutes=water.hose_minutes(gentle, context.school.hose_l_min or USUAL_FLOW),
    )
    minutes = lessons[0].minutes if lessons else USUAL_LESSON
    starts = [p.bed_from if p.events else p.start_on for p in plans]
    return RunSheet(
        bed,
        day,
        group,
        children,
        minutes,
        goes,
        order,
        who,
        found,
        parts,
        core.against_the_lesson(parts, minutes),
        strung,
        water.litres(SOAK_MM, area),
        gentle,
        needs.gather(connection, context, starts=min(starts), ends=max(starts), today=today, bed_id=bed.id),
        context.flags_of(group_id),
    )


def _goes(context: Context, bed: Bed, plans: Sequence[Planting]) -> list[Goes]:
    laid = forecasts.layouts(plans, bed, context.crops, context.school.units)
    found = []
    for plan in plans:
        crop = context.crops[plan.crop]
        holes = _holes(bed, laid[plan.id])
        found.append(
            Goes(
                plan,
                laid[plan.id],
                ToPlant(str(plan.id), crop.name.en, plan.method, holes, crop.depth_for(plan.method) or crop.depth_mm),
            )
        )
    return found


def _holes(bed: Bed, layout: Layout) -> Mapping[Cell, int]:
    """How many plants stand in each square; one that stands on a string belongs to the square before it."""
    grid = bed.grid()
    return Counter(
        (
            min(grid.columns - 1, max(0, int((x - 1e-6) // grid.pitch_x_mm))),
            min(grid.rows - 1, max(0, int((y - 1e-6) // grid.pitch_y_mm))),
        )
        for x, y in layout.positions_mm
    )


def came_out(
    connection: Connection[Any], context: Context, rows: Sequence[Planted], day: date, actor: Actor
) -> list[Finding]:
    """Note what was planted: each planting is in the ground from that day on. Returns what is to be said of the distances.

    Raises BadInput for a planting of which nothing went in: that one is left as it was planned.
    """
    if not rows:
        raise BadInput("week.planted_nothing", field="plants")
    hold_all(connection, context, [row.planting_id for row in rows], actor)
    found = []
    for row in rows:
        planting = garden.planting(connection, row.planting_id)
        crop = context.crops[planting.crop]
        if row.plants == 0:
            raise BadInput("week.none_of_crop_went_in", field="plants", crop=crop.name.en.lower())
        kind = "set out" if planting.method == "indoors" else "started"
        if kind not in planting.events:
            planting_events.happened(connection, context, planting.id, kind, day, actor)
        planting_day_results.save(connection, context.school.id, row)
        off = core.apart(row.apart_mm, meant_mm(context, planting, garden.bed(connection, planting.bed_id)))
        if off:
            found.append(off)
    return found


def meant_mm(context: Context, planting: Planting, bed: Bed) -> float:
    """The distance between neighbours that the plan meant [mm]."""
    crop, grid = context.crops[planting.crop], bed.grid()
    layout = forecasts.layout_of(planting, bed, crop, context.school.units)
    if planting.arrangement != "squares" or layout.reading.along == 0:
        return planting.in_row_mm or crop.in_row_mm
    return grid.pitch_x_mm / layout.reading.along
