"""Everything the rules say of the plans in a bed, gathered from the database once and judged by the core."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Any
from uuid import UUID

import shapely
from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.garden import neighbour_trials, sunlight
from almanaque.commands.garden.sunlight import Light
from almanaque.commands.growth import forecasts
from almanaque.core.findings import Finding
from almanaque.core.garden import companions, crowding, rotation, site_suitability, spacing
from almanaque.core.garden import layout as core_layout
from almanaque.core.garden.bed import Cell, Rectangle, grid_of
from almanaque.core.garden.bed_planting import BedPlanting
from almanaque.core.garden.companions import Pair
from almanaque.core.garden.occupancy import Occupancy, bed_taken
from almanaque.core.garden.rotation import Stood
from almanaque.core.garden.site import TALL_MM
from almanaque.core.garden.site_suitability import Closed
from almanaque.core.garden.spacing import Layout
from almanaque.core.growth.growth_dates import picking_window
from almanaque.core.school import class_flags
from almanaque.core.year import bed_promises
from almanaque.core.year.bed_promises import Promised
from almanaque.data import native_range
from almanaque.store.garden import bed_closures, garden, soil
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.year import promises_and_themes as promise_store

FAMILY_NAMES = {
    "Amaranthaceae": "Spinach kin",
    "Amaryllidaceae": "Onion kin",
    "Apiaceae": "Carrot kin",
    "Asteraceae": "Daisy kin",
    "Brassicaceae": "Cabbage kin",
    "Cucurbitaceae": "Gourds",
    "Fabaceae": "Peas and beans",
    "Grossulariaceae": "Currants",
    "Lamiaceae": "Mint kin",
    "Apocynaceae": "Milkweed kin",
    "Asparagaceae": "Asparagus kin",
    "Boraginaceae": "Borage kin",
    "Caprifoliaceae": "Corn salad kin",
    "Convolvulaceae": "Bindweed kin",
    "Ericaceae": "Heath kin",
    "Linaceae": "Flax kin",
    "Malvaceae": "Mallow kin",
    "Tropaeolaceae": "Nasturtium kin",
    "Violaceae": "Violet kin",
    "Poaceae": "Grasses and grains",
    "Polygonaceae": "Rhubarb kin",
    "Rosaceae": "Rose kin",
    "Solanaceae": "Nightshades",
    "Rutaceae": "Citrus kin",
    "Moraceae": "Figs",
    "Oleaceae": "Olive kin",
    "Rubiaceae": "Madder kin",
    "Passifloraceae": "Passion flowers",
    "Aristolochiaceae": "Pipevines",
    "Lauraceae": "Laurel kin",
    "Rhamnaceae": "Buckthorn kin",
    "Ranunculaceae": "Buttercup kin",
    "Papaveraceae": "Poppies",
    "Montiaceae": "Purslane kin",
    "Liliaceae": "Lilies",
    "Iridaceae": "Iris kin",
    "Primulaceae": "Primroses",
    "Araliaceae": "Ivy kin",
    "Salicaceae": "Willows",
    "Campanulaceae": "Bellflowers",
    "Plumbaginaceae": "Leadwort kin",
    "Asphodelaceae": "Asphodel kin",
    "Verbenaceae": "Vervain kin",
    "Alstroemeriaceae": "Inca lilies",
    "Onagraceae": "Willowherb kin",
    "Myrtaceae": "Myrtle kin",
    "Haemodoraceae": "Kangaroo paws",
    "Proteaceae": "Protea kin",
    "Plantaginaceae": "Plantain kin",
}


@dataclass(frozen=True)
class Facts:
    """What the rules need to know of a bed besides its plans."""

    bed: Bed
    history: Sequence[Stood]
    other_beds: Mapping[tuple[str, str], Sequence[Stood]]
    closures: Sequence[Closed]
    test: site_suitability.Soil | None
    raw_manure_on: Sequence[date]
    light: Light
    paths: Any
    tall_around: Sequence[BedPlanting] = ()
    around: Light | None = None
    promised: Sequence[Promised] = ()
    depths: Sequence[tuple[str, str, float]] = ()
    pairs: Sequence[Pair] = ()


def facts(
    connection: Connection[Any], context: Context, bed: Bed, present: Sequence[Planting], *, today: date
) -> Facts:
    """Read them. `present` are the plantings on the sheet, of which the tall ones throw shade."""
    place = sunlight.site_of(connection, bed)
    light = sunlight.light(connection, context, place, [bed], [p for p in present if p.status != "lost"])
    stood: dict[str, list[Stood]] = {}
    for row in garden.stood(connection, [bed.id], date(today.year - rotation.MOST_YEARS - 1, 1, 1)):
        crop = context.crops[row.crop]
        stood.setdefault(row.bed_name, []).append(Stood(crop.family, crop.name.en, row.cells, row.bed_to or today))
    paths = [row.feature.shape.polygon for row in light.rows if row.feature.kind == "path" and row.stands_on(today)]
    tall, around = _tall_around(connection, context, bed, light, today)
    beds = [b for b in garden.beds(connection) if b.id != bed.id]
    return Facts(
        tall_around=tall,
        around=around,
        bed=bed,
        pairs=neighbour_trials.pairs(connection, context),
        history=stood.pop(bed.name, []),
        other_beds={(b.name, str(b.id)): stood.get(b.name, []) for b in beds if b.kind == bed.kind},
        depths=[(b.name, str(b.id), b.depth_mm) for b in beds if not b.indoors],
        promised=[Promised(p.from_day, p.what_for) for p in promise_store.promises(connection, bed.id)],
        closures=[Closed(c.starts, c.ends, c.reason) for c in bed_closures.closures(connection, bed.id)],
        test=soil.newest_test(connection, bed.id),
        raw_manure_on=soil.raw_manure(connection, bed.id),
        light=light,
        paths=shapely.union_all(paths) if paths else None,
    )


def _tall_around(
    connection: Connection[Any], context: Context, bed: Bed, light: Light, today: date
) -> tuple[list[BedPlanting], Light | None]:
    """What grows or is planned tall in the other beds of the site, and the light with its shade."""
    tall_crops = [crop.key for crop in context.crops if crop.height_mm >= TALL_MM]
    beds = {b.id: b for b in garden.beds(connection) if b.site_id == bed.site_id and b.id != bed.id and not b.indoors}
    there = [
        p
        for p in garden.plantings(connection, since=today, crops=tall_crops)
        if p.bed_id in beds and p.status in ("planned", "in the ground")
    ]
    if not there or bed.indoors:
        return [], None
    plants = tuple(sunlight.tall(p, beds[p.bed_id], context, context.crops[p.crop].height_mm) for p in there)
    seen = [
        grown(p, forecasts.layout_of(p, beds[p.bed_id], context.crops[p.crop]), beds[p.bed_id], context, today)
        for p in there
    ]
    return seen, replace(light, plants=plants)


def grown(planting: Planting, layout: Layout, bed: Bed, context: Context, today: date) -> BedPlanting:
    """A planting as the rules see it."""
    crop, grid = context.crops[planting.crop], bed.grid()
    apart = core_layout.pitch(layout, grid, core_layout.figures(crop, planting.wish, grid.cell_mm))
    dates, picked = planting.dates, planting.events.get("first picking")
    first = picking_window(crop, dates, dates.bed_from, first_picked=picked).opens if dates else planting.start_on
    last = planting.dates.last_pick if planting.dates else planting.start_on
    return BedPlanting(
        str(planting.id),
        crop,
        planting.cells,
        layout.positions_mm,
        apart,
        planting.bed_from,
        planting.bed_to(today),
        first,
        last,
        planting.status in ("pencilled", "planned") and not planting.events,
        planting.with_others,
    )


def judge(
    context: Context, facts: Facts, plantings: Sequence[Planting], laid: Mapping[UUID, Layout], *, today: date
) -> dict[UUID, list[Finding]]:
    """By planting, what speaks against the open plans, and what concerns those that are in the ground."""
    seen = {
        p.id: grown(p, laid[p.id], facts.bed, context, today) for p in plantings if p.status not in ("finished", "lost")
    }
    found: dict[UUID, list[Finding]] = {}
    for planting in plantings:
        if planting.id not in seen:
            continue
        me, others = seen[planting.id], [g for key, g in seen.items() if key != planting.id]
        found[planting.id] = _always(context, facts, planting, me, others, today)
        if me.open:
            found[planting.id] += _plan(context, facts, planting, me, others, laid[planting.id], plantings, today)
    return found


def of_sheet(
    connection: Connection[Any],
    context: Context,
    bed: Bed,
    plantings: Sequence[Planting],
    laid: Mapping[UUID, Layout],
    *,
    today: date,
) -> tuple[Facts, dict[UUID, list[Finding]]]:
    """The facts of a bed, and what they say of the plantings on its sheet."""
    found = facts(connection, context, bed, plantings, today=today)
    return found, judge(context, found, plantings, laid, today=today)


def judge_wish(
    connection: Connection[Any], context: Context, bed: Bed, wish: Planting, present: Sequence[Planting], *, today: date
) -> list[Finding]:
    """What would speak against a plan that is not painted yet, among what is `present` on the sheet.

    Plans that painting would take squares from are left out: they give way.
    """
    there = [p for p in present if p.status == "in the ground" or not p.cells & wish.cells or wish.with_others]
    crowd = [*there, wish]
    laid = forecasts.layouts(crowd, bed, context.crops)
    _, found = of_sheet(connection, context, bed, crowd, laid, today=today)
    return found.get(wish.id, [])


def _always(
    context: Context, facts: Facts, planting: Planting, me: BedPlanting, others: Sequence[BedPlanting], today: date
) -> list[Finding]:
    units = context.school.units
    return [
        *site_suitability.closed(me, facts.closures),
        *bed_promises.in_the_way(me, facts.promised),
        *_flags(context, facts.bed, planting, today),
        *site_suitability.manure(me, facts.raw_manure_on),
        *site_suitability.by_the_path(me, _path_mm(facts, me)),
        *crowding.support_findings(me, others, cell_mm=facts.bed.grid().cell_mm, units=units),
        *crowding.runs_out(me, length_mm=facts.bed.length_mm, width_mm=facts.bed.width_mm, units=units),
    ]


def _flags(context: Context, bed: Bed, planting: Planting, today: date) -> list[Finding]:
    """What the class that grows it, or looks after the bed, must not touch or eat."""
    group = planting.class_group_id or bed.class_group_id
    flags = context.flags_of(group)
    return (
        class_flags.flagged(context.crops[planting.crop], flags, context.group_names(today)[str(group)])
        if flags
        else []
    )


def _plan(
    context: Context,
    facts: Facts,
    planting: Planting,
    me: BedPlanting,
    others: Sequence[BedPlanting],
    layout: Layout,
    plantings: Sequence[Planting],
    today: date,
) -> list[Finding]:
    bed, units, crop = facts.bed, context.school.units, me.crop
    in_ground = [
        Occupancy(context.crops[p.crop].name.en, p.cells, p.bed_from, p.bed_to(today))
        for p in plantings
        if p.status == "in the ground" and not planting.with_others and not p.with_others
    ]
    mine = Occupancy(me.name, me.cells, me.bed_from, me.bed_to)
    free = [
        named
        for named, stood in facts.other_beds.items()
        if (rested := rotation.years_rested(crop.family, None, me.bed_from, stood)) is None
        or rested[0] >= context.school.rest_years
    ]
    by_spacing = spacing.read_square(crop.spacing_mm, bed.grid().cell_mm)
    return [
        *bed_taken(mine, planting.method, planting.start_on, in_ground),
        *crowding.overlaps(me, others),
        *site_suitability.kept_later(me, _kept_meeting(bed, me.cells)),
        *spacing.left_over(me.name, layout),
        *rotation.back_soon(
            me.name,
            crop.family,
            me.cells,
            me.bed_from,
            facts.history,
            rest_years=context.school.rest_years,
            free_beds=free,
            family_names=FAMILY_NAMES,
        ),
        *crowding.crowded(me, others, units=units),
        *crowding.own_count_close(me, per_square=planting.per_square, by_spacing=by_spacing.per_square, units=units),
        *crowding.too_wide(me, narrow_mm=bed.shape.narrow_mm, units=units),
        *site_suitability.depth(me, bed.depth_mm, units=units, beds=facts.depths),
        *site_suitability.soil(me, facts.test, context.school.feeding),
        *site_suitability.out_of_hand(
            me,
            bed.kind,
            context.school.invasive_here.split(","),
            fought=native_range().fought(me.crop, context.region),
            region=context.region,
        ),
        *_light(facts, me, others),
        *companions.neighbours(me, others, facts.pairs, context.school.neighbours),
        *core_layout.too_few_places(me.name, layout, planting.wanted),
    ]


def _light(facts: Facts, me: BedPlanting, others: Sequence[BedPlanting]) -> list[Finding]:
    """Too little sun by what stands around, and what a taller plant in the bed takes besides."""
    day = me.middle.replace(day=21)
    around = _mean(facts.light.on(facts.bed, day, plants=False), me.cells)
    found = site_suitability.light(me, around)
    tall = [
        g for g in others if g.crop.height_mm >= TALL_MM and g.crop.height_mm > 1.3 * me.crop.height_mm and g.meets(me)
    ]
    found += _shaded_from_other_beds(facts, me, around)
    if around is None or not tall:
        return found
    for other in tall:
        only = facts.light.only(other.key)
        left = _mean(only.on(facts.bed, day), me.cells - other.cells or me.cells)
        before = _mean(facts.light.on(facts.bed, day, plants=False), me.cells - other.cells or me.cells)
        if left is not None and before is not None:
            found += site_suitability.shaded(me, other, without=before, hours=left)
    return found


def _shaded_from_other_beds(facts: Facts, me: BedPlanting, open_hours: float | None) -> list[Finding]:
    """What tall plants in other beds take, one after another, on the day in the middle of its growth."""
    day, found = me.middle.replace(day=21), []
    for other in facts.tall_around:
        if facts.around is None or open_hours is None or not other.bed_from <= day <= other.bed_to:
            continue
        if other.crop.height_mm <= 1.3 * me.crop.height_mm:
            continue
        left = _mean(facts.around.only(other.key).on(facts.bed, day), me.cells)
        if left is not None:
            found += site_suitability.shaded(me, other, without=open_hours, hours=left)
    return found


def _mean(hours: Mapping[Cell, float], cells: frozenset[Cell]) -> float | None:
    mine = [hours[cell] for cell in cells if cell in hours]
    return sum(mine) / len(mine) if mine else None


def _kept_meeting(bed: Bed, cells: frozenset[Cell]) -> list[tuple[str, date | None, date | None]]:
    """Kept parts that have dates and take some of these squares."""
    return [
        (part.label, part.from_day, part.to_day)
        for part in bed.kept
        if (part.from_day or part.to_day) and _squares(bed, part) & cells
    ]


def _squares(bed: Bed, part: Rectangle) -> frozenset[Cell]:
    return grid_of(bed.length_mm, bed.width_mm, bed.cell_mm, (part,), bed.outline_mm).kept


def _path_mm(facts: Facts, me: BedPlanting) -> float | None:
    if facts.paths is None or not me.positions_mm:
        return None
    places = facts.bed.shape.to_site(list(me.positions_mm))
    return float(shapely.distance(shapely.MultiPoint(places), facts.paths))
