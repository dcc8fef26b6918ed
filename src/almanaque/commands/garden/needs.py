"""What a bed, a class or a season needs, gathered from its plans into one list to buy from."""

from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.garden import bed_findings, drafts
from almanaque.commands.growth import forecasts
from almanaque.core.findings import said_by
from almanaque.core.garden import bed_rebuild, bed_strings, crowding
from almanaque.core.garden import needs as core
from almanaque.core.garden.bed import layer_litres
from almanaque.core.garden.bed_planting import BedPlanting
from almanaque.core.garden.needs import MaterialNeed
from almanaque.core.units import format_length
from almanaque.store.garden import garden, shed
from almanaque.store.garden.garden import Bed, Planting

OPEN = ("pencilled", "planned")


def gather(
    connection: Connection[Any],
    context: Context,
    *,
    starts: date,
    ends: date,
    today: date,
    bed_id: UUID | None = None,
    group_id: UUID | None = None,
    draft_id: UUID | None = None,
) -> list[MaterialNeed]:
    """Everything the plans that begin in these days need, with what is in the shed and what it costs.

    What was started indoors and comes out in these days still needs its place made ready, and its support.

    Of pencil only that of one draft, the first open one if none is given. A class's own list is of the plans that are for it.
    """
    beds = {b.id: b for b in garden.beds(connection) if bed_id in (None, b.id)}
    plans = [
        p
        for p in drafts.on_table(connection, garden.plantings(connection, bed_id=bed_id, since=starts), draft_id)
        if p.status in OPEN
        and p.bed_id in beds
        and (group_id is None or p.class_group_id == group_id)
        and starts <= (p.bed_from if p.events else p.start_on) <= ends
    ]
    wanted: list[MaterialNeed] = []
    for bed in beds.values():
        mine = [p for p in plans if p.bed_id == bed.id]
        if mine:
            wanted += _of_bed(context, bed, mine, today)
    groups = [
        g
        for g in context.groups
        if g.id == group_id or (group_id is None and any(p.class_group_id == g.id for p in plans))
    ]
    if groups:
        wanted += core.tools(max(group.head_count for group in groups))
    stock = {s.name: (s.have, s.price_minor) for s in shed.supplies(connection)}
    return core.gathered(wanted, stock)


def _of_bed(context: Context, bed: Bed, plans: Sequence[Planting], today: date) -> list[MaterialNeed]:
    """A bed's compost, string, seed, starts, trays and supports."""
    units, grid = context.school.units, bed.grid()
    laid = forecasts.layouts(plans, bed, context.crops)
    squares = len({cell for plan in plans for cell in plan.cells})
    area = squares * grid.pitch_x_mm * grid.pitch_y_mm
    found = [
        *core.layer(
            "compost",
            layer_litres(area, core.COMPOST_MM),
            units,
            bed.name,
        )
    ]
    mulched = len({cell for plan in plans if plan.method in ("starts", "indoors") for cell in plan.cells})
    found += core.layer(
        "mulch", layer_litres(mulched * grid.pitch_x_mm * grid.pitch_y_mm, core.MULCH_MM), units, bed.name
    )
    strung_for = [plan for plan in plans if plan.arrangement == "squares"]
    if strung_for:
        strung = bed_strings.stringing(bed.length_mm, bed.width_mm, grid)
        stands = min(p.bed_from for p in strung_for), max(p.bed_to(today) for p in strung_for)
        found += core.string(strung.with_knots_mm, strung.sticks, units, bed.name, stands)
    seen = {plan.id: bed_findings.grown(plan, laid[plan.id], bed, context, today) for plan in plans}
    for plan in plans:
        held = _support(context, bed, plan, seen, today)
        if held:
            found.append(held)
        if plan.events:
            continue  # seed and trays of what was started are used
        crop, layout = context.crops[plan.crop], laid[plan.id]
        found += core.planting(
            crop, plan.method, layout.plants, germination=None, sow_factor=sow_factor(plan), units=units, why=bed.name
        )
    return found


def sow_factor(plan: Planting) -> float:
    """How many seeds are sown where one plant is to stand: more than one where it is sown closer and thinned."""
    closer = plan.sow_mm and plan.in_row_mm and plan.sow_mm < plan.in_row_mm
    return plan.in_row_mm / plan.sow_mm if closer and plan.in_row_mm and plan.sow_mm else 1.0


def _support(
    context: Context, bed: Bed, plan: Planting, seen: Mapping[UUID, BedPlanting], today: date
) -> MaterialNeed | None:
    """What holds a plan up, for as long as it stands."""
    units = context.school.units
    others = [grown for key, grown in seen.items() if key != plan.id]
    held = crowding.supports(seen[plan.id], others, cell_mm=bed.grid().cell_mm, units=units)
    if held is None:
        return None
    what = held.kind
    if held.kind == "trellis":
        what = f"trellis, {format_length(held.length_mm / held.count, units)}"
    elif held.kind == "poles":
        what = "pole, 8 ft" if units == "us" else "pole, 2.4 m"
    why = f"{context.crops[plan.crop].name.en} in {bed.name}"
    return MaterialNeed("support", what, held.count, "", why, stands=(plan.bed_from, plan.bed_to(today)))


def rebuild_needs(bed: Bed, context: Context, *, bricks: bool) -> list[MaterialNeed]:
    """Boards or bricks for a bed's wall, and its soil, with room to settle left out."""
    units = context.school.units
    sides = bed_rebuild.sides(bed.shape.own_corners_mm)
    found: list[MaterialNeed] = []
    if bricks:
        brick, count = bed_rebuild.bricks(sum(sides), bed.depth_mm, units)
        found.append(
            MaterialNeed(
                "wall",
                brick.name,
                count,
                "",
                f"{format_length(sum(sides), units)} of wall, 5 % to spare; {said_by(brick.source)}",
            )
        )
    else:
        cut = bed_rebuild.boards(sides, bed.depth_mm, bed_rebuild.best_board(bed.depth_mm, units))
        for stock, number in cut.bought:
            found.append(
                MaterialNeed(
                    "wall",
                    f"{cut.board.name}, {format_length(stock, units)}",
                    number,
                    "",
                    f"{cut.courses} high, {format_length(sum(sides), units)} of wall; {said_by(cut.board.source)}",
                )
            )
    return [*found, *core.layer("soil mix", bed.litres, units, "fills it:")]
