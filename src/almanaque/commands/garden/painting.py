"""Commands on the bed sheet that give squares to a crop and take them away. Each is one transaction of the caller."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date
from functools import partial
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden.held_bed import HeldBed, hold
from almanaque.commands.growth.forecasts import layout_of
from almanaque.core.crops.crop import Method
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import Cell, cell_name, parse_cells
from almanaque.core.garden.layout import LayoutWish, squares_needed
from almanaque.core.growth.covers import CoverKey
from almanaque.core.growth.growth_dates import forecast
from almanaque.store.garden import drafts
from almanaque.store.garden.garden import Planting, Status

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


def paint(connection: Connection[Any], context: Context, bed_id: UUID, wish: Paint, actor: Actor) -> UUID:
    """Give squares to a crop; return the planting. Squares join a planting of the same crop, way and day.

    Ink paints over what is planned, and over the pencil of the draft on the table; pencil only over its own draft. What is in
    the ground stays, and the sheet shows the clash. What is entered `from_the_past` may begin before today. Of
    more squares than a wanted number needs, the rest stay open. Raises
    BadInput for squares outside the bed and for a day that has passed in ink.
    """
    held = hold(connection, context, bed_id, actor)
    bed = held.bed
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
    present = held.plantings()
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
        held.change(same[0].id, lambda now: replace(now, cells=now.cells | new.cells))
        new = held.planting(same[0].id)
    else:
        new = held.add(new)
    others = [
        p
        for p in present
        if p.id != new.id
        and gives_way(p, new, draft.id)
        and p.cells & cells
        and p.overlaps(new.bed_from, new.bed_to(actor.today), actor.today)
    ]
    _take(held, others, cells)
    held.done(f"paint {crop.name.en.lower()}", put_back=(*others, *same), made=() if same else (new.id,))
    return new.id


def gives_way(other: Planting, new: Planting, draft_id: UUID) -> bool:
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
    held = hold(connection, context, bed_id, actor)
    cells = parse_cells(squares, held.bed.grid())
    touched = [p for p in held.plantings(since=shown) if p.cells & cells]
    mine = [p for p in touched if p.status in OPEN and on_table(p, draft_id)]
    if not mine:
        touched = [p for p in touched if p.status not in OPEN]
        if touched:
            name = context.crops[touched[0].crop].name.en.lower()
            raise BadInput("garden.in_the_ground", name=name)
        raise BadInput("garden.nothing_to_rub_out")
    freed = {cell for planting in mine for cell in planting.cells & cells}
    _take(held, mine, cells)
    held.done(f"rub out {len(freed)} square{'' if len(freed) == 1 else 's'}", put_back=mine)
    return len(freed)


def _take(held: HeldBed, plantings: Iterable[Planting], cells: set[Cell]) -> None:
    """Take squares from plantings; one that is left with none goes, unless something hangs on it."""
    for planting in plantings:
        left = planting.cells - cells
        if left:
            held.change(planting.id, partial(replace, cells=left))
        elif held.has_history(planting.id):
            name = held.context.crops[planting.crop].name.en.lower()
            where = cell_name(min(planting.cells, key=lambda cell: (cell[1], cell[0])))
            raise BadInput("garden.begun_mark_lost", name=name, where=where)
        else:
            held.remove(planting.id)


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


def on_table(planting: Planting, draft_id: UUID | None) -> bool:
    """False for the pencil of another draft than the one on the table."""
    return draft_id is None or planting.status != "pencilled" or planting.draft_id == draft_id
