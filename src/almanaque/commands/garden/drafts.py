"""Drafts: copying a season in pencil, and choosing what of rival pencil plans is to be built."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden.held_bed import hold_all
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import cell_name
from almanaque.store.errors import NotFound
from almanaque.store.garden import drafts, garden
from almanaque.store.garden.garden import Planting

LONGEST_SHIFT_DAYS = 800


def on_table(
    connection: Connection[Any], plantings: Sequence[Planting], draft_id: UUID | None = None
) -> list[Planting]:
    """The plantings without the pencil of other drafts than this one, or than the first open one."""
    mine = drafts.draft(connection, draft_id).id
    return [p for p in plantings if p.status != "pencilled" or p.draft_id == mine]


@dataclass(frozen=True)
class Copied:
    """What a copy of a season made; `left` are those that were not copied, with the reason."""

    plantings: int
    beds: int
    left: tuple[str, ...]


def copy_season(
    connection: Connection[Any], context: Context, *, starts: date, ends: date, onto: date, draft_id: UUID, actor: Actor
) -> Copied:
    """Pencil into a draft what stood in the garden between two days, moved by as many days as lie between `starts` and `onto`.

    Left out are plants that still stand then, and squares that no longer exist or are kept. Nothing that is pencilled
    already is written over. Raises BadInput for a copy onto its own days or more than two years away.
    """
    by = onto - starts
    if not 0 < by.days <= LONGEST_SHIFT_DAYS:
        raise BadInput("garden.copy_too_far", field="onto")
    if ends < starts:
        raise BadInput("garden.season_ends_before_start", field="ends")
    draft = _open_draft(connection, context, draft_id)
    of_the_garden = garden.plantings(connection, since=starts, until=ends)
    held = hold_all(connection, context, [p.id for p in of_the_garden], actor)
    season = [
        p
        for one in held.values()
        for p in one.plantings(since=starts)
        if p.bed_from <= ends and p.status not in ("pencilled", "lost")
    ]
    made: dict[UUID, list[Planting]] = {}
    left = []
    for planting in season:
        name, bed = context.crops[planting.crop].name.en, held[planting.bed_id].bed
        start = planting.events.get("started", planting.start_on)
        if planting.bed_to(actor.today) >= planting.bed_from + by:
            left.append(f"{name} in {bed.name} still stands there")
            continue
        cells = planting.cells & set(bed.grid(planting.bed_from + by).cells)
        copy = replace(
            planting,
            id=uuid4(),
            status="pencilled",
            draft_id=draft.id,
            start_on=start + by,
            cells=cells,
            events={},
            depends_on="",
            dates=None,
            verdict=None,
            findings=(),
            class_group_id=bed.class_group_id,
        )
        twins = held[bed.id].plantings()
        if not cells or any(_same(copy, twin) for twin in twins):
            left.append(
                f"{name} in {bed.name} is pencilled already" if cells else f"{name} in {bed.name} has lost its squares"
            )
            continue
        made.setdefault(bed.id, []).append(held[bed.id].add(copy))
    for bed_id, copies in made.items():
        held[bed_id].done("copy a season in pencil", made=[copy.id for copy in copies])
    return Copied(sum(map(len, made.values())), len(made), tuple(left))


def _same(copy: Planting, twin: Planting) -> bool:
    return (
        twin.draft_id == copy.draft_id
        and twin.status == "pencilled"
        and twin.crop == copy.crop
        and twin.start_on == copy.start_on
        and bool(twin.cells & copy.cells)
    )


def choose(connection: Connection[Any], context: Context, chosen: Sequence[UUID], actor: Actor) -> int:
    """Turn pencilled plantings, of one draft or parts of several, to ink; return how many.

    Raises BadInput when two of them, or one and what is planned or stands, want a square at the same time; nothing is
    written then, so that both drafts stay as they were.
    """
    if not chosen:
        raise BadInput("garden.no_pencilled_planting_chosen", field="planting")
    held = hold_all(connection, context, chosen, actor)
    picked = [planting for one in held.values() for planting in one.plantings() if planting.id in set(chosen)]
    if len(picked) < len(set(chosen)):
        raise NotFound(
            "A planting that you chose was rubbed out meanwhile. Nothing was changed; look at the drafts again."
        )
    for planting in picked:
        name = context.crops[planting.crop].name.en
        if planting.status != "pencilled":
            raise BadInput("garden.not_in_pencil_any_more", name=name, bed=held[planting.bed_id].bed.name)
        if planting.start_on < actor.today:
            raise BadInput("garden.would_begin_in_the_past", name=name)
        present = held[planting.bed_id].plantings()
        rivals = [p for p in present if p.status in ("planned", "in the ground")] + [
            p for p in picked if p.bed_id == planting.bed_id
        ]
        for other in rivals:
            shared = planting.cells & other.cells
            if other.id == planting.id or not shared or planting.with_others or other.with_others:
                continue
            if other.overlaps(planting.bed_from, planting.bed_to(actor.today), actor.today):
                where = cell_name(min(shared, key=lambda cell: (cell[1], cell[0])))
                raise BadInput(
                    "garden.both_want_squares",
                    name=name,
                    other=context.crops[other.crop].name.en.lower(),
                    where=where,
                    bed=held[planting.bed_id].bed.name,
                )
    by_bed: dict[UUID, list[Planting]] = {}
    for planting in picked:
        held[planting.bed_id].change(planting.id, lambda now: replace(now, status="planned"))
        by_bed.setdefault(planting.bed_id, []).append(planting)
    for bed_id, plantings in by_bed.items():
        held[bed_id].done("choose from drafts", put_back=plantings)
    return len(picked)


def close(connection: Connection[Any], context: Context, draft_id: UUID, *, open_again: bool, actor: Actor) -> None:
    """Put a draft aside, or take it up again. The last open one stays open, since pencil needs a draft."""
    drafts.hold(connection)
    draft = drafts.draft(connection, draft_id)
    others = [d for d in drafts.drafts(connection) if d.closed_on is None and d.id != draft_id]
    if not open_again and not others:
        raise BadInput("garden.only_open_draft")
    drafts.save(connection, context.school.id, replace(draft, closed_on=None if open_again else actor.today))


def _open_draft(connection: Connection[Any], context: Context, draft_id: UUID) -> drafts.Draft:
    draft = drafts.draft(connection, draft_id)
    drafts.ensure(connection, context.school.id, draft)
    if draft.closed_on is not None:
        raise BadInput("garden.draft_closed", field="draft", draft=draft.name)
    return draft
