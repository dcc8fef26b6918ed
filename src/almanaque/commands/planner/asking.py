"""What is asked of the planner, gathered from what is on file: beds with what stands in them, classes, seed, wishes, decisions."""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from datetime import date, timedelta
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.growth import forecasts
from almanaque.commands.seeds import seed_box as seeds
from almanaque.commands.seeds import what_to_buy
from almanaque.commands.year import shortlist
from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import Cell, Grid, parse_cells
from almanaque.core.garden.site_suitability import LEAD_CAUTION_PPM, POTS, Closed
from almanaque.core.planner import wishes as grains
from almanaque.core.planner.problem import (
    AIMS,
    Decided,
    PlanBed,
    PlanClass,
    PlanLimits,
    PlanProblem,
    PlanSpan,
    Taken,
    Way,
    Wish,
)
from almanaque.core.year.bed_promises import Promised
from almanaque.store.garden import bed_closures, garden, soil
from almanaque.store.garden.garden import Bed, Planting, Site
from almanaque.store.planner import season_plans
from almanaque.store.planner.season_plans import DecisionRow, SeasonPlanRow, WishRow
from almanaque.store.seeds import seed_box
from almanaque.store.seeds.seed_box import LotRow
from almanaque.store.year import promises_and_themes

KEPT_STATUS = ("planned", "in the ground", "finished")  # of a planting by which its wish is granted
OVERDUE = timedelta(days=7)  # after which what was not begun is planned again: our own rule


def problem_of(
    connection: Connection[Any], context: Context, plan_id: UUID, *, which: str = "surest", today: date
) -> PlanProblem:
    """The whole problem of a plan. Raises BadInput for what cannot be asked, NotFound for a plan that is not there."""
    row = season_plans.plan(connection, plan_id)
    beds = used_beds(connection, row)
    done = _granted_already(connection, plan_id, today)
    sizes = [(str(bed.id), len(squares_to_use(bed, row)) * bed.cell_mm**2) for bed in beds]
    asked = [wish for line in season_plans.wishes(connection, plan_id) for wish in single_wishes(context, line, sizes)]
    wishes = tuple(wish for wish in asked if wish.key not in done)
    if asked and not wishes:
        raise BadInput("planner.all_granted")
    decided = season_plans.decisions(connection, plan_id)
    kept = next((p for p in season_plans.proposals(connection, plan_id) if p.which == which), None)
    lots = seed_box.lots(connection)
    at_hand, old = seed_there(lots, context, today)
    return PlanProblem(
        crops=context.crops,
        calendar=context.setting.calendar,
        today=today,
        span=PlanSpan(row.starts, row.ends, row.free_from),
        beds=tuple(_plan_beds(connection, context, beds, row, today)),
        classes=tuple(classes_of(context, row.starts)),
        wishes=wishes,
        limits=limits_of(row.limits),
        aims=tuple(row.aims) or AIMS,
        rest_years=context.school.rest_years,
        units=context.school.units,
        at_hand=at_hand,
        old_seed=old,
        prices=what_to_buy.prices_of(lots),
        barred=_barred(context),
        decided=_decided(decided, beds),
        before=ways_of(kept.found if kept else None),
    )


def limits_of(kept: Mapping[str, int | None]) -> PlanLimits:
    """Limits as they are kept; what is not named is not limited."""
    limits = PlanLimits()
    return replace(
        limits, **{name: value for name, value in kept.items() if value is not None and hasattr(limits, name)}
    )


def used_beds(connection: Connection[Any], row: SeasonPlanRow) -> list[Bed]:
    """The beds that a plan may use: those named, else all outdoors."""
    return [
        bed
        for bed in garden.beds(connection)
        if not bed.indoors and bed.stood_on(row.starts) and (not row.bed_ids or bed.id in row.bed_ids)
    ]


def squares_to_use(bed: Bed, row: SeasonPlanRow) -> frozenset[Cell]:
    """The squares of a bed that a plan may use. Raises BadInput for a part that the bed has not any more."""
    part = row.parts.get(str(bed.id), "")
    grid = bed.grid()
    if not part:
        return frozenset(grid.cells)
    try:
        return frozenset(parse_cells(part, grid))
    except BadInput as error:
        raise BadInput("planner.part_wrong", field="squares", bed=bed.name, why=error.message) from None


def single_wishes(context: Context, line: WishRow, beds: Sequence[tuple[str, float]]) -> list[Wish]:
    """The single wishes of one line of the list, with keys that stay the same; `beds` are keys and areas [mm²] that may be used."""
    crops = tuple(key for key in line.crops if key in context.crops)
    if line.kind == "crop" and not crops:
        return []  # the crop was one of the school's own and is gone
    wish = Wish(
        key=str(line.id),
        text=line.label or said_of(context, line),
        crops=crops,
        kind=line.kind,
        squares=line.squares,
        plants=line.plants,
        grams=line.grams,
        group=str(line.group_id) if line.group_id else None,
        ready_by=line.ready_by,
        ready_to=line.ready_to,
        weight=line.weight,
        votes=line.votes,
        origin=line.origin,
        beds=frozenset([str(line.bed_id)]) if line.bed_id else frozenset(),
    )
    if line.fill:
        return grains.filling(wish, beds)
    if line.kinds is not None:
        return grains.of_kinds(wish, line.kinds)
    if line.a_week and line.grams and line.ready_by and line.ready_to and crops:
        return grains.of_weeks(wish, context.crops[crops[0]], line.grams)
    return [wish]


KIND_WORDS = {"quick": "something quick", "any food": "any food", "flowers": "flowers", "green manure": "green manure"}


def said_of(context: Context, line: WishRow) -> str:
    """A wish in a few words, where nobody gave it any."""
    names = [context.crops[key].name.en.lower() for key in line.crops if key in context.crops]
    words = " or ".join(names[:4]) if line.kind == "crop" else KIND_WORDS[line.kind]
    return words[:1].upper() + words[1:]


def classes_of(context: Context, day: date) -> list[PlanClass]:
    """The classes that are here on a day."""
    names = context.group_names(day)
    return [
        PlanClass(
            key=str(group.id),
            name=names[str(group.id)],
            children=group.head_count,
            youngest=shortlist.youngest_in(context, group.id, day),
            flags=context.flags_of(group.id),
        )
        for group in context.groups_on(day)
        if group.kind != "guests"
    ]


def _plan_beds(
    connection: Connection[Any], context: Context, beds: Sequence[Bed], row: SeasonPlanRow, today: date
) -> list[PlanBed]:
    wanted = [(bed, sorted(squares_to_use(bed, row))) for bed in beds]
    spaces = shortlist.spaces(connection, context, wanted, row.starts, until=None, today=today)
    sites = {site.id: site for site in garden.sites(connection)}
    since = min(row.starts, today)
    standing: dict[UUID, list[Planting]] = {}
    for planting in garden.plantings(connection, since=since):
        if planting.status in ("planned", "in the ground") and not overdue(planting, today):
            standing.setdefault(planting.bed_id, []).append(planting)
    closures, promises = bed_closures.closures(connection), promises_and_themes.promises(connection)
    return [
        PlanBed(
            key=str(bed.id),
            name=bed.name,
            grid=bed.grid(),
            cells=frozenset(cells),
            setting=forecasts.setting_in(context, bed, row.starts, None),
            depth_mm=bed.depth_mm,
            sun_h=space.sun_h,
            group=str(bed.class_group_id) if bed.class_group_id else None,
            pot=bed.kind in POTS,
            taken=[
                Taken(p.cells, p.bed_from, p.bed_to(today), context.crops[p.crop].name.en.lower())
                for p in standing.get(bed.id, [])
            ],
            closed=[Closed(c.starts, c.ends, c.reason) for c in closures if c.bed_id == bed.id],
            promised=[Promised(p.from_day, p.what_for) for p in promises if p.bed_id == bed.id],
            history=space.history,
            narrow_mm=space.narrow_mm,
            lead=_lead(connection, bed),
            manured_on=soil.raw_manure(connection, bed.id),
            shade=shade_of(bed, sites[bed.site_id], context.school.latitude),
        )
        for (bed, cells), space in zip(wanted, spaces, strict=True)
    ]


def _lead(connection: Connection[Any], bed: Bed) -> bool:
    test = soil.newest_test(connection, bed.id)
    return test is not None and test.lead_ppm is not None and test.lead_ppm >= LEAD_CAUTION_PPM


def shade_of(bed: Bed, site: Site, latitude: float | None) -> tuple[float, float]:
    """The direction, along a bed's columns and rows, to which shadows fall at noon: north, or south of the equator south."""
    north = math.radians(site.north_deg - bed.turn_deg)
    way = -1.0 if (latitude or 0.0) < 0 else 1.0
    return way * math.sin(north), -way * math.cos(north)


def seed_there(lots: Iterable[LotRow], context: Context, today: date) -> tuple[frozenset[str], frozenset[str]]:
    """Crops of which there is seed, and those whose seed is near its end."""
    lots = [lot for lot in lots if lot.crop in context.crops]
    there = [lot for lot in lots if (seeds.left_of(context.crops[lot.crop], lot) or 0) > 0]
    old = [lot for lot in there if seeds.life_of(context, lot, today).state == "near its end"]
    return frozenset(lot.crop for lot in there), frozenset(lot.crop for lot in old)


def _barred(context: Context) -> frozenset[str]:
    """Crops that the school's own list calls invasive here."""
    listed = {word.strip().lower() for word in context.school.invasive_here.split(",") if word.strip()}
    return frozenset(crop.key for crop in context.crops if listed & _names_of(crop))


def _names_of(crop: Crop) -> set[str]:
    return {crop.key, crop.name.en.lower(), crop.botanical.lower()}


def _granted_already(connection: Connection[Any], plan_id: UUID, today: date) -> set[str]:
    """Single wishes of which something is planned in ink, stands or stood; what is overdue grants none."""
    granting = {p.id for p in garden.plantings(connection) if p.status in KEPT_STATUS and not overdue(p, today)}
    return {wish for wish, planting in season_plans.planted(connection, plan_id) if planting in granting}


def overdue(planting: Planting, today: date) -> bool:
    """Planned in ink for a day that passed a week ago, and not begun: a week was lost, or nobody came to it."""
    return planting.status == "planned" and "started" not in planting.events and planting.start_on < today - OVERDUE


def _decided(rows: Sequence[DecisionRow], beds: Sequence[Bed]) -> Decided:
    grids = {str(bed.id): bed.grid() for bed in beds}
    kept, there = {}, {}
    for row in rows:
        if row.what == "there" and row.way in grids:
            there[row.wish] = row.way, _squares(row.told["squares"], grids[row.way])
        if row.what == "kept" and row.told["bed"] in grids:
            way = way_of(row.told)
            kept[row.wish] = way, _squares(row.told["squares"], grids[way.bed])
    return Decided(
        kept=kept,
        there=there,
        not_so=frozenset((row.wish, way_of(row.told)) for row in rows if row.what == "not so"),
        not_there=frozenset((row.wish, row.told["bed"]) for row in rows if row.what == "not there"),
        rubbed_out=frozenset(row.wish for row in rows if row.what == "rubbed out"),
    )


def _squares(names: Sequence[str], grid: Grid) -> frozenset[Cell]:
    """Squares by their names; none where the bed has become another."""
    try:
        return frozenset(parse_cells(" ".join(names), grid)) if names else frozenset()
    except BadInput:
        return frozenset()


def way_of(told: Mapping[str, Any]) -> Way:
    """A way as it is kept with proposals and decisions."""
    return Way(told["crop"], told["method"], date.fromisoformat(told["start"]), told["bed"], told.get("cover"))


def ways_of(found: Mapping[str, Any] | None) -> dict[str, Way]:
    """How each wish was granted in a kept proposal, by its key."""
    return {line["key"]: way_of(line) for line in (found or {}).get("placed", ())}
