"""Commands on the bed sheet: paint, ink, rub out, undo, and what really happened. Each is one transaction of the caller."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date
from typing import Any, Literal
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.growth.forecasts import layout_of, refresh
from almanaque.core.crops.crop import Method
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import Cell, cell_name, parse_cells
from almanaque.core.garden.layout import LayoutWish, squares_needed
from almanaque.core.growth.covers import CoverKey
from almanaque.core.growth.growth_dates import forecast
from almanaque.store.garden import changes, drafts, garden
from almanaque.store.garden.garden import Bed, Planting, Status

OPEN: tuple[Status, ...] = ("pencilled", "planned")


@dataclass(frozen=True)
class Paint:
    """What to paint: squares as written, crop, way and day of starting, in pencil or ink, and how it is to stand.

    `with_others` paints among what is there on purpose, not over it. Pencil goes into the draft, or into the first open one.
    """

    squares: str
    crop: str
    method: Method
    start_on: date
    ink: bool
    spacing: LayoutWish = LayoutWish()  # noqa: RUF009 - frozen
    variety: str = ""
    with_others: bool = False
    draft_id: UUID | None = None
    class_group_id: UUID | None = None
    cover: CoverKey | None = None
    series_id: UUID | None = None
    theme_id: UUID | None = None
    from_the_past: bool = False


@dataclass(frozen=True)
class Actor:
    """Who does it, on which day, and the version of the bed that they saw."""

    by: UUID | None
    today: date
    version: int | None = None


def paint(connection: Connection[Any], context: Context, bed_id: UUID, wish: Paint, actor: Actor) -> UUID:
    """Give squares to a crop; return the planting. Squares join a planting of the same crop, way and day.

    Ink paints over what is planned, and over the pencil of the draft on the table; pencil only over its own draft. What is in
    the ground stays, and the sheet shows the clash. What is entered `from_the_past` may begin before today. Of
    more squares than a wanted number needs, the rest stay open. Raises
    BadInput for squares outside the bed and for a day that has passed in ink.
    """
    changes.lock_bed(connection, bed_id, version=actor.version)
    bed = garden.bed(connection, bed_id)
    crop = context.crops[wish.crop]
    if wish.method not in crop.methods:
        raise BadInput("garden.not_started_that_way", field="method", crop=crop.name.en)
    grid = bed.grid(forecast(crop, wish.method, wish.start_on).bed_from)
    cells = parse_cells(wish.squares, grid)
    if wish.ink and wish.start_on < actor.today and not wish.from_the_past:
        raise BadInput("garden.ink_begins_in_past", field="start_on")
    cells = squares_needed(cells, grid, crop, wish.spacing)
    draft = drafts.draft(connection, wish.draft_id)
    if draft.closed_on is not None and not wish.ink:
        raise BadInput("garden.draft_closed", field="draft", draft=draft.name)
    present = garden.plantings(connection, bed_id=bed_id)
    status: Status = "planned" if wish.ink else "pencilled"
    follows = wish.spacing
    new = Planting(
        id=uuid4(),
        bed_id=bed_id,
        crop=wish.crop,
        variety=wish.variety,
        status=status,
        draft_id=None if wish.ink else draft.id,
        method=wish.method,
        start_on=wish.start_on,
        per_square=follows.per_square,
        class_group_id=wish.class_group_id or bed.class_group_id,
        cells=frozenset(cells),
        events={},
        depends_on="",
        dates=None,
        verdict=None,
        findings=(),
        arrangement=follows.arrangement,
        spacing_from=follows.follows,
        in_row_mm=follows.in_row_mm,
        row_mm=follows.row_mm,
        sow_mm=follows.sow_mm,
        edge_mm=follows.edge_mm,
        wanted=follows.wanted,
        with_others=wish.with_others,
        cover=wish.cover,
        series_id=wish.series_id,
        theme_id=wish.theme_id,
    )
    if not wish.ink:
        drafts.ensure(connection, context.school.id, draft)
    layout_of(new, bed, crop)  # a spacing that cannot be laid is refused before anything is written
    # So many starts are one planting; more of the same crop with a number of its own is another.
    same = [p for p in present if new.wanted is None and p.status == status and _kind(p) == _kind(new)]
    if same:
        new = replace(same[0], cells=same[0].cells | new.cells)
    garden.save_planting(connection, context.school.id, new)
    refresh(connection, context, new, bed, today=actor.today, force=True)
    new = garden.planting(connection, new.id)
    others = [
        p
        for p in present
        if p.id != new.id
        and _gives_way(p, new, draft.id)
        and p.cells & cells
        and p.overlaps(new.bed_from, new.bed_to(actor.today), actor.today)
    ]
    _take(connection, context, bed, others, cells, actor.today)
    before = {"put_back": [changes.planting_out(p) for p in (*others, *same)], "made": [] if same else [str(new.id)]}
    _record(connection, context, bed, f"paint {crop.name.en.lower()}", before, actor)
    return new.id


def _gives_way(other: Planting, new: Planting, draft_id: UUID) -> bool:
    """True for a plan that is painted over: nobody's other draft, and nothing that stands together on purpose."""
    if new.with_others or other.with_others:
        return False
    if other.status == "pencilled":
        return other.draft_id == draft_id
    return other.status == "planned" and new.status == "planned"


def rub_out(
    connection: Connection[Any],
    context: Context,
    bed_id: UUID,
    squares: str,
    *,
    shown: date,
    actor: Actor,
    draft_id: UUID | None = None,
) -> int:
    """Take squares from the planned plantings and the draft's pencil shown on a day; return how many squares became free.

    Raises BadInput when the squares hold only what is in the ground, or nothing.
    """
    changes.lock_bed(connection, bed_id, version=actor.version)
    bed = garden.bed(connection, bed_id)
    cells = parse_cells(squares, bed.grid())
    touched = [p for p in garden.plantings(connection, bed_id=bed_id, since=shown) if p.cells & cells]
    mine = [p for p in touched if p.status in OPEN and _on_table(p, draft_id)]
    if not mine:
        touched = [p for p in touched if p.status not in OPEN]
        if touched:
            name = context.crops[touched[0].crop].name.en.lower()
            raise BadInput("garden.in_the_ground", name=name)
        raise BadInput("garden.nothing_to_rub_out")
    freed = {cell for planting in mine for cell in planting.cells & cells}
    _take(connection, context, bed, mine, cells, actor.today)
    before = {"put_back": [changes.planting_out(p) for p in mine], "made": []}
    _record(connection, context, bed, f"rub out {len(freed)} square{'' if len(freed) == 1 else 's'}", before, actor)
    return len(freed)


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
    changes.lock_bed(connection, bed_id, version=actor.version)
    bed = garden.bed(connection, bed_id)
    cells = parse_cells(squares, bed.grid())
    have: Status = "pencilled" if ink else "planned"
    want: Status = "planned" if ink else "pencilled"
    chosen = [
        p
        for p in garden.plantings(connection, bed_id=bed_id, since=shown)
        if p.cells & cells and p.status == have and _on_table(p, draft_id)
    ]
    if not chosen:
        raise BadInput("garden.nothing_in_pencil_there" if ink else "garden.nothing_in_ink_there")
    if ink and any(p.start_on < actor.today for p in chosen):
        raise BadInput("garden.ink_needs_day_to_come")
    if not ink and any(garden.has_history(connection, p.id) for p in chosen):
        raise BadInput("garden.begun_stays_ink")
    for planting in chosen:
        draft = planting.draft_id
        if not ink:
            table = drafts.draft(connection, draft_id)
            drafts.ensure(connection, context.school.id, table)
            draft = table.id
        changed = replace(planting, status=want, draft_id=draft)
        garden.save_planting(connection, context.school.id, changed)
        refresh(connection, context, changed, bed, today=actor.today)
    before = {"put_back": [changes.planting_out(p) for p in chosen], "made": []}
    _record(connection, context, bed, "ink" if ink else "pencil", before, actor)
    return len(chosen)


def move(
    connection: Connection[Any], context: Context, planting_id: UUID, *, method: Method, start_on: date, actor: Actor
) -> UUID:
    """Give a plan that has not begun another first day or way of starting; return its bed."""
    planting = garden.planting(connection, planting_id)
    changes.lock_bed(connection, planting.bed_id, version=actor.version)
    name = context.crops[planting.crop].name.en.lower()
    if planting.status not in OPEN or planting.events:
        raise BadInput("garden.begun_keeps_first_day", name=name)
    if start_on < actor.today:
        raise BadInput("garden.day_has_passed", field="start_on")
    if method not in context.crops[planting.crop].methods:
        raise BadInput("garden.not_started_that_way", field="method", crop=name.capitalize())
    bed = garden.bed(connection, planting.bed_id)
    changed = replace(planting, method=method, start_on=start_on)
    garden.save_planting(connection, context.school.id, changed)
    refresh(connection, context, changed, bed, today=actor.today)
    before = {"put_back": [changes.planting_out(planting)], "made": []}
    _record(connection, context, bed, f"move {name}", before, actor)
    return bed.id


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
    changes.lock_bed(connection, bed_id, version=actor.version)
    bed = garden.bed(connection, bed_id)
    cells = parse_cells(squares, bed.grid())
    present = garden.plantings(connection, bed_id=bed_id, since=shown)
    chosen = [p for p in present if p.cells & cells and p.status in OPEN and not p.events and _on_table(p, draft_id)]
    if not chosen:
        raise BadInput("garden.no_plan_to_move")
    mine = {p.id for p in chosen}
    for planting in chosen:
        name = context.crops[planting.crop].name.en
        moved = frozenset((c + columns, r + rows) for c, r in planting.cells)
        if moved - set(bed.grid(planting.bed_from).cells):
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
            and _gives_way(p, changed, planting.draft_id or drafts.draft(connection, draft_id).id)
            and p.overlaps(planting.bed_from, planting.bed_to(actor.today), actor.today)
        ]
        if in_the_way:
            other = context.crops[in_the_way[0].crop].name.en.lower()
            raise BadInput("garden.would_stand_on_other", name=name, other=other)
        garden.save_planting(connection, context.school.id, changed)
        refresh(connection, context, changed, bed, today=actor.today)
    before = {"put_back": [changes.planting_out(p) for p in chosen], "made": []}
    names = ", ".join(sorted({context.crops[p.crop].name.en.lower() for p in chosen}))
    _record(connection, context, bed, f"move {names}", before, actor)
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
    changes.lock_bed(connection, bed_id, version=actor.version)
    bed = garden.bed(connection, bed_id)
    cells = parse_cells(squares, bed.grid())
    chosen = [
        p
        for p in garden.plantings(connection, bed_id=bed_id, since=shown)
        if p.cells & cells and p.status in OPEN and _on_table(p, draft_id)
    ]
    if not chosen:
        raise BadInput("garden.no_plan_to_lay_out")
    for planting in chosen:
        changed = replace(
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
        layout_of(changed, bed, context.crops[planting.crop])
        garden.save_planting(connection, context.school.id, changed)
        refresh(connection, context, changed, bed, today=actor.today)
    before = {"put_back": [changes.planting_out(p) for p in chosen], "made": []}
    _record(connection, context, bed, "lay out anew", before, actor)
    return len(chosen)


def undo(connection: Connection[Any], context: Context, bed_id: UUID, *, actor: Actor) -> str:
    """Apply the inverse of the last command on the bed; return its name. Raises BadInput when there is none to undo."""
    changes.lock_bed(connection, bed_id, version=actor.version)
    change = changes.last_change(connection, bed_id)
    if change is None:
        raise BadInput("garden.nothing_to_undo")
    if "put_back" not in change.before:
        raise BadInput("garden.noted_since", what=change.command)
    after = _put(connection, context, bed_id, change.before, actor, "undo")
    changes.mark_undone(connection, bed_id, change.id, after)
    return change.command


def redo(connection: Connection[Any], context: Context, bed_id: UUID, *, actor: Actor) -> str:
    """Do again what was undone last; return its name. Raises BadInput when nothing was, or something was done since."""
    changes.lock_bed(connection, bed_id, version=actor.version)
    change = changes.next_change(connection, bed_id)
    if change is None or change.after is None:
        raise BadInput("garden.nothing_to_redo")
    _put(connection, context, bed_id, change.after, actor, "redo")
    changes.mark_redone(connection, bed_id, change.id)
    return change.command


def _put(
    connection: Connection[Any],
    context: Context,
    bed_id: UUID,
    state: dict[str, Any],
    actor: Actor,
    way: Literal["undo", "redo"],
) -> dict[str, Any]:
    """Put plantings back as they were kept; return what brings back how they are now."""
    bed = garden.bed(connection, bed_id)
    made = [UUID(made) for made in state["made"]]
    old = [changes.planting_in(kept) for kept in state["put_back"]]
    touched = {*made, *(p.id for p in old)}
    now = {p.id: p for p in garden.plantings(connection, bed_id=bed_id) if p.id in touched}
    # A step's day or a cover can be put back at any time; what has begun stays where and what it is.
    begun = touched - {p.id for p in old if p.id in now and _only_schedule(p, now[p.id])}
    if any(garden.has_history(connection, planting_id) for planting_id in begun):
        raise BadInput(f"garden.begun_before_{way}")
    known = {draft.id for draft in drafts.drafts(connection)}
    if any(p.draft_id not in known for p in old if p.draft_id):
        raise BadInput(f"garden.draft_gone_before_{way}")
    for planting_id in made:
        garden.delete_planting(connection, planting_id)
    for planting in old:
        garden.save_planting(connection, context.school.id, planting)
        refresh(connection, context, garden.planting(connection, planting.id), bed, today=actor.today, force=True)
    return {
        "put_back": [changes.planting_out(p) for p in now.values()],
        "made": [str(p.id) for p in old if p.id not in now],
    }


def _only_schedule(one: Planting, other: Planting) -> bool:
    """True when two states of a planting differ in days set by hand, cover or series alone."""
    alike: dict[str, Any] = {"steps": {}, "cover": None, "series_id": None, "theme_id": None}
    return all(
        changes.planting_out(replace(one, **alike))[name] == kept
        for name, kept in changes.planting_out(replace(other, **alike)).items()
    )


def _take(
    connection: Connection[Any],
    context: Context,
    bed: Bed,
    plantings: Iterable[Planting],
    cells: set[Cell],
    today: date,
) -> None:
    """Take squares from plantings; one that is left with none goes, unless something hangs on it."""
    for planting in plantings:
        left = planting.cells - cells
        if left:
            smaller = replace(planting, cells=left)
            garden.save_planting(connection, context.school.id, smaller)
            refresh(connection, context, smaller, bed, today=today)
        elif garden.has_history(connection, planting.id):
            name = context.crops[planting.crop].name.en.lower()
            where = cell_name(min(planting.cells, key=lambda cell: (cell[1], cell[0])))
            raise BadInput("garden.begun_mark_lost", name=name, where=where)
        else:
            garden.delete_planting(connection, planting.id)


def _record(
    connection: Connection[Any], context: Context, bed: Bed, command: str, before: dict[str, Any], actor: Actor
) -> None:
    changes.record_change(
        connection, context.school.id, bed.id, change_id=uuid4(), command=command, before=before, by=actor.by
    )


def _kind(planting: Planting) -> tuple[object, ...]:
    """Squares painted with the same of all these belong to one planting."""
    return (
        planting.crop,
        planting.variety,
        planting.method,
        planting.start_on,
        planting.wish,
        planting.with_others,
        planting.draft_id,
        planting.class_group_id,
        planting.cover,
        planting.series_id,
        planting.theme_id,
    )


def _on_table(planting: Planting, draft_id: UUID | None) -> bool:
    """False for the pencil of another draft than the one on the table."""
    return draft_id is None or planting.status != "pencilled" or planting.draft_id == draft_id
