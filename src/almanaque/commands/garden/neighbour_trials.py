"""Neighbours on purpose: a planting put beside another, a row of something that keeps pests away, and what came of it."""

from collections.abc import Iterable, Sequence
from datetime import date
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import free_squares
from almanaque.commands.garden.held_bed import hold_of
from almanaque.commands.garden.painting import Paint, paint
from almanaque.core.errors import BadInput
from almanaque.core.garden import own_experience as rules
from almanaque.core.garden.bed import Cell, cell_name
from almanaque.core.garden.companions import REPELLENTS, Pair, of_crops
from almanaque.core.garden.own_experience import OUTCOMES, Experience, LookedAt, NeighbourTrial
from almanaque.core.growth.growth_dates import forecast
from almanaque.core.journal.sightings import TROUBLE
from almanaque.data import neighbour_pairs
from almanaque.store.garden import garden, neighbour_trials
from almanaque.store.garden.garden import Planting

LONGEST_AGAINST = 60  # letters
ROW_SQUARES = 6  # of a row beside a planting, at most: our own rule


def put_beside(
    connection: Connection[Any], context: Context, planting_id: UUID, beside_id: UUID, against: str, actor: Actor
) -> None:
    """Two plantings of one bed stand beside each other on purpose.

    Raises BadInput for the same one twice, for another bed, for two that never stand there together, and for too long a word.
    """
    held = hold_of(connection, context, planting_id, actor)
    planting, beside = held.planting(planting_id), garden.planting(connection, beside_id)
    against = " ".join(against.split())
    if len(against) > LONGEST_AGAINST:
        raise BadInput("garden.against_too_long", field="against", most=LONGEST_AGAINST)
    if planting.id == beside.id or planting.bed_id != beside.bed_id or planting.crop == beside.crop:
        raise BadInput("garden.not_neighbours", field="beside")
    if not _meet(planting, beside, actor.today):
        raise BadInput("garden.neighbours_never_meet", field="beside")
    held.touched()
    neighbour_trials.save(
        connection, context.school.id, uuid4(), planting_id, beside_id, against, day=actor.today, by=actor.by
    )


def _meet(one: Planting, two: Planting, today: date) -> bool:
    return one.overlaps(two.bed_from, two.bed_to(today), today)


def row_beside(
    connection: Connection[Any], context: Context, planting_id: UUID, crop: str, against: str, actor: Actor
) -> UUID:
    """Pencil a row of a crop on the free squares beside a planting, as a trial; return the row.

    It stands there when the planting does, or as soon as it can. Raises BadInput for a crop that is not there, and where no square
    beside it is free.
    """
    planting = hold_of(connection, context, planting_id, Actor(actor.by, actor.today)).planting(planting_id)
    if crop not in context.crops or crop == planting.crop:
        raise BadInput("garden.not_neighbours", field="beside")
    grown = context.crops[crop]
    method = "starts" if "starts" in grown.methods else grown.methods[0]
    start = max(planting.bed_from, actor.today)
    free = squares_beside(connection, planting, start, forecast(grown, method, start).clear_by, actor.today)
    if not free:
        raise BadInput("garden.no_square_beside", field="beside", crop=context.crops[planting.crop].name.en.lower())
    squares = " ".join(cell_name(cell) for cell in free[:ROW_SQUARES])
    made = paint(
        connection,
        context,
        planting.bed_id,
        Paint(squares, crop, method, start, False, draft_id=planting.draft_id),
        Actor(actor.by, actor.today),
    )
    put_beside(connection, context, planting_id, made, against, Actor(actor.by, actor.today))
    return made


def squares_beside(
    connection: Connection[Any], planting: Planting, starts: date, ends: date, today: date
) -> list[Cell]:
    """Free squares that touch a planting's, along its longer side first, so that they make a row."""
    bed = garden.bed(connection, planting.bed_id)
    free = free_squares.free_cells(connection, bed, starts, ends, today)
    near = [cell for cell in free if any(_touch(cell, own) for own in planting.cells)]
    lines: dict[tuple[str, int], list[Cell]] = {}
    for column, row in near:
        lines.setdefault(("row", row), []).append((column, row))
        lines.setdefault(("column", column), []).append((column, row))
    longest = max(lines.values(), key=len, default=[])
    return sorted(longest, key=lambda cell: (cell[1], cell[0]))


def _touch(one: Cell, other: Cell) -> bool:
    return max(abs(one[0] - other[0]), abs(one[1] - other[1])) == 1


def answer(connection: Connection[Any], trial_id: UUID, said: str, actor: Actor) -> None:
    """What came of a trial. Raises BadInput for an answer that it does not have, NotFound for one of another school."""
    outcome = next((one for one in OUTCOMES if one == said), None)
    if outcome is None:
        raise BadInput("journal.answer_unknown", field="answer")
    neighbour_trials.answer(connection, trial_id, outcome, actor.today)


def own(connection: Connection[Any], context: Context) -> list[Experience]:
    """What came of this school's trials, pair by pair, with what was seen on plantings of the same crop without."""
    kinds = {key: context.crops[key].kind for key in context.crops.crops}
    tried = [
        NeighbourTrial(
            str(row.planting_id),
            kinds.get(row.crop, row.crop),
            kinds.get(row.beside, row.beside),
            row.against,
            row.outcome,
        )
        for row in neighbour_trials.trials(connection)
    ]
    if not tried:
        return []
    seen = [
        LookedAt(str(planting), kinds.get(crop, crop), frozenset(troubles))
        for planting, crop, troubles in neighbour_trials.looked_at(connection, TROUBLE)
    ]
    return rules.experiences(tried, seen)


def pairs(connection: Connection[Any], context: Context) -> list[Pair]:
    """What is said of neighbours, with what this school has seen itself."""
    families = {crop.key: crop.family for crop in context.crops}
    return rules.with_experience(neighbour_pairs(), own(connection, context), families)


def rows_to_offer(context: Context, planting: Planting, known: Iterable[Pair]) -> list[str]:
    """Crops of which a row beside a planting is said to do good, here, with evidence or by tradition, and those said to keep pests away.

    Only such as are gone in a year.
    """
    mine = context.crops[planting.crop]
    good: Sequence[Pair] = [pair for pair in known if pair.effect == "good"]
    others = [crop for crop in context.crops if crop.kind != mine.kind and crop.life != "perennial"]
    return [
        crop.key
        for crop in others
        if crop.kind in REPELLENTS or (not crop.spreads and of_crops(mine, crop, good, "traditional"))
    ]
