"""Commands on plans: ink, another day or place, another spacing. Each is one transaction of the caller."""

from dataclasses import replace
from datetime import date
from functools import partial
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden.held_bed import hold, hold_of
from almanaque.commands.garden.painting import OPEN, gives_way, on_table
from almanaque.commands.growth.forecasts import layout_of
from almanaque.core.crops.crop import Method
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import parse_cells
from almanaque.core.garden.layout import LayoutWish
from almanaque.core.growth.covers import CoverKey
from almanaque.store.garden import drafts
from almanaque.store.garden.garden import Planting, Status


def set_ink(
    connection: Connection[Any],
    context: Context,
    bed_id: UUID,
    squares: str,
    *,
    ink: bool,
    shown: date,
    actor: Actor,
    draft_id: UUID | None = None,
) -> int:
    """Turn the pencilled plantings under these squares to ink, or planned ones back to pencil; return how many."""
    held = hold(connection, context, bed_id, actor)
    cells = parse_cells(squares, held.bed.grid())
    have: Status = "pencilled" if ink else "planned"
    want: Status = "planned" if ink else "pencilled"
    chosen = [p for p in held.plantings(since=shown) if p.cells & cells and p.status == have and on_table(p, draft_id)]
    if not chosen:
        raise BadInput("garden.nothing_in_pencil_there" if ink else "garden.nothing_in_ink_there")
    if ink and any(p.start_on < actor.today for p in chosen):
        raise BadInput("garden.ink_needs_day_to_come")
    if not ink and any(held.has_history(p.id) for p in chosen):
        raise BadInput("garden.begun_stays_ink")
    for planting in chosen:
        draft = planting.draft_id
        if not ink:
            table = drafts.draft(connection, draft_id)
            drafts.ensure(connection, context.school.id, table)
            draft = table.id
        held.change(planting.id, partial(replace, status=want, draft_id=draft))
    held.done("ink" if ink else "pencil", put_back=chosen)
    return len(chosen)


def move(
    connection: Connection[Any],
    context: Context,
    planting_id: UUID,
    *,
    method: Method,
    start_on: date,
    actor: Actor,
    cover: CoverKey | Literal["", "as it is"] = "as it is",
) -> UUID:
    """Give a plan that has not begun another first day, way of starting or cover; return its bed."""
    held = hold_of(connection, context, planting_id, actor)
    planting = held.planting(planting_id)
    name = context.crops[planting.crop].name.en.lower()
    if planting.status not in OPEN or planting.events:
        raise BadInput("garden.begun_keeps_first_day", name=name)
    if start_on < actor.today:
        raise BadInput("garden.day_has_passed", field="start_on")
    if method not in context.crops[planting.crop].methods:
        raise BadInput("garden.not_started_that_way", field="method", crop=name.capitalize())
    over = planting.cover if cover == "as it is" else cover or None
    held.change(planting_id, lambda now: replace(now, method=method, start_on=start_on, cover=over))
    held.done(f"move {name}", put_back=[planting])
    return held.id


def give_to(
    connection: Connection[Any], context: Context, planting_id: UUID, group_id: UUID | None, actor: Actor
) -> UUID:
    """Let a group grow a planting, or nobody in particular; return its bed."""
    held = hold_of(connection, context, planting_id, actor)
    planting = held.planting(planting_id)
    if planting.status in ("finished", "lost"):
        raise BadInput("garden.class_too_late", field="group")
    held.change(planting_id, lambda now: replace(now, class_group_id=group_id))
    held.done(f"class of {context.crops[planting.crop].name.en.lower()}", put_back=[planting])
    return held.id


def shift(
    connection: Connection[Any],
    context: Context,
    bed_id: UUID,
    squares: str,
    *,
    columns: int,
    rows: int,
    shown: date,
    actor: Actor,
    draft_id: UUID | None = None,
) -> int:
    """Move the open plans under these squares by whole squares, with all their plants; return how many.

    Raises BadInput when one would leave the bed or stand where another plan is; nothing moves then.
    """
    held = hold(connection, context, bed_id, actor)
    cells = parse_cells(squares, held.bed.grid())
    present = held.plantings(since=shown)
    chosen = [p for p in present if p.cells & cells and p.status in OPEN and not p.events and on_table(p, draft_id)]
    if not chosen:
        raise BadInput("garden.no_plan_to_move")
    mine = {p.id for p in chosen}
    for planting in chosen:
        name = context.crops[planting.crop].name.en
        moved = frozenset((c + columns, r + rows) for c, r in planting.cells)
        if moved - set(held.bed.grid(planting.bed_from).cells):
            raise BadInput("garden.move_leaves_squares", name=name)
        changed = replace(planting, cells=moved)
        in_the_way = [
            p
            for p in present
            if p.id not in mine
            and p.cells & moved
            and not planting.with_others
            and not p.with_others
            and p.status in OPEN
            and gives_way(p, changed, planting.draft_id or drafts.draft(connection, draft_id).id)
            and p.overlaps(planting.bed_from, planting.bed_to(actor.today), actor.today)
        ]
        if in_the_way:
            other = context.crops[in_the_way[0].crop].name.en.lower()
            raise BadInput("garden.would_stand_on_other", name=name, other=other)
        held.change(planting.id, partial(replace, cells=moved))
    names = ", ".join(sorted({context.crops[p.crop].name.en.lower() for p in chosen}))
    held.done(f"move {names}", put_back=chosen)
    return len(chosen)


def change_spacing(
    connection: Connection[Any],
    context: Context,
    bed_id: UUID,
    squares: str,
    spacing: LayoutWish,
    *,
    with_others: bool,
    shown: date,
    actor: Actor,
    draft_id: UUID | None = None,
) -> int:
    """Lay the open plans under these squares out in another way; return how many."""
    held = hold(connection, context, bed_id, actor)
    cells = parse_cells(squares, held.bed.grid())
    chosen = [p for p in held.plantings(since=shown) if p.cells & cells and p.status in OPEN and on_table(p, draft_id)]
    if not chosen:
        raise BadInput("garden.no_plan_to_lay_out")

    def laid_out(planting: Planting) -> Planting:
        return replace(
            planting,
            arrangement=spacing.arrangement,
            spacing_from=spacing.follows,
            per_square=spacing.per_square,
            in_row_mm=spacing.in_row_mm,
            row_mm=spacing.row_mm,
            sow_mm=spacing.sow_mm,
            edge_mm=spacing.edge_mm,
            wanted=spacing.wanted,
            with_others=with_others,
        )

    for planting in chosen:
        layout_of(laid_out(planting), held.bed, context.crops[planting.crop])
        held.change(planting.id, laid_out)
    held.done("lay out anew", put_back=chosen)
    return len(chosen)
