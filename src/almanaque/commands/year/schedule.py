"""Commands on a planting's schedule: a step set by hand, a cover, sowings that follow one another. One transaction of the caller."""

from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Any, Literal
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden.free_squares import free_cells
from almanaque.commands.garden.held_bed import hold_of
from almanaque.commands.garden.painting import OPEN, Paint, paint
from almanaque.commands.garden.plantings import move
from almanaque.commands.growth import forecasts
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import Cell, cell_name
from almanaque.core.growth import school_fit
from almanaque.core.growth.covers import CoverKey
from almanaque.core.growth.sowing_days import Verdict, weigh
from almanaque.core.year import succession
from almanaque.core.year.steps import SETTABLE
from almanaque.core.year.succession import Sowing
from almanaque.store.garden.garden import Bed, Planting

START = "start"  # the first day of all: sowing, setting, setting out bought plants
DRAG_DAYS = 200  # days to come for which a step that is dragged knows its verdict
Rhythm = Literal["every", "twice a term"]


def set_step(
    connection: Connection[Any], context: Context, planting_id: UUID, step: str, day: date | None, actor: Actor
) -> UUID:
    """Give a step a day of its own, or with no day leave it to the rules again; return the bed.

    The first day moves the whole plan. Raises BadInput for a step that cannot be set, one that lies in the past, before the
    plants are there, or after they are gone.
    """
    held = hold_of(connection, context, planting_id, actor)
    planting = held.planting(planting_id)
    if step == START:
        if day is None:
            raise BadInput("year.first_day_missing", field="day")
        return move(connection, context, planting_id, method=planting.method, start_on=day, actor=actor)
    name = context.crops[planting.crop].name.en.lower()
    if step not in SETTABLE:
        raise BadInput("year.step_follows", field="step", steps=", ".join(SETTABLE))
    if planting.status in ("finished", "lost"):
        raise BadInput("year.planting_over", name=name)
    if day is not None:
        if day < actor.today:
            raise BadInput("year.day_has_passed", field="day")
        if step == "transplant" and (planting.method != "indoors" or "set out" in planting.events):
            raise BadInput("year.not_waiting_to_be_set_out", field="step", name=name)
        if step == "transplant" and day <= planting.start_on:
            raise BadInput("year.set_out_before_sown", field="day")
        if step == "clear" and day < planting.bed_from:
            raise BadInput("year.cleared_before_in_bed", field="day")
    days = {k: d for k, d in planting.steps.items() if k != step}
    held.change(planting_id, lambda now: replace(now, steps=days if day is None else {**days, step: day}))
    held.done(f"{step} of {name}", put_back=[planting])
    return held.id


def set_cover(
    connection: Connection[Any], context: Context, planting_id: UUID, cover: CoverKey | None, actor: Actor
) -> UUID:
    """Lay a cover over a planting, or take it off; return the bed."""
    held = hold_of(connection, context, planting_id, actor)
    planting = held.planting(planting_id)
    if planting.status in ("finished", "lost"):
        raise BadInput("year.cover_too_late")
    held.change(planting_id, lambda now: replace(now, cover=cover))
    held.done(f"cover of {context.crops[planting.crop].name.en.lower()}", put_back=[planting])
    return held.id


@dataclass(frozen=True)
class Choice:
    """A day a step could be moved to, with what would become of the planting."""

    day: date
    verdict: Verdict
    first_pick: date
    last_pick: date
    n: int
    of: int


def choices(context: Context, planting: Planting, bed: Bed, step: str, *, today: date) -> list[Choice]:
    """What every day to come would make of a planting if its first day, or its setting out, were moved there."""
    crop, setting = context.crops[planting.crop], forecasts.setting_of(context, planting, bed)
    days = [today + timedelta(days=n) for n in range(DRAG_DAYS)]
    if step == START:
        weighed = weigh(crop, planting.method, days, setting)
        rows = [school_fit.dates_at(weighed, row, crop, planting.method) for row in range(len(days))]
        return [
            Choice(day, weighed.verdict_of(n), dates.first_pick, dates.last_pick, dates.fit_years, dates.of_years)
            for n, (day, dates) in enumerate(zip(days, rows, strict=True))
        ]
    found = []
    start = planting.events.get("started", planting.start_on)
    for day in days if step == "transplant" and planting.method == "indoors" else []:
        if day > start:
            weighed = weigh(crop, planting.method, [start], setting, set_out_after=(day - start).days)
            dates = school_fit.dates_at(weighed, 0, crop, planting.method)
            found.append(
                Choice(day, weighed.verdict_of(0), dates.first_pick, dates.last_pick, dates.fit_years, dates.of_years)
            )
    return found


def sowings(
    context: Context, planting: Planting, bed: Bed, rhythm: Rhythm, days: int, *, until: date | None, today: date
) -> list[Sowing]:
    """What would follow a planting: every so many days after it, or twice in each term to come of its school year."""
    crop, setting = context.crops[planting.crop], forecasts.setting_of(context, planting, bed)
    first = max(planting.start_on, today)
    year = context.calendar.year_of(planting.start_on)
    end = until or (year.ends if year else first + timedelta(days=365))
    if rhythm == "every":
        wanted = succession.every(crop, planting.method, first + timedelta(days=days), days, setting, until=end)
        return [sowing for sowing in wanted if sowing.day > planting.start_on]
    found: list[Sowing] = []
    for term in sorted(year.terms, key=lambda t: t.starts) if year else []:
        if term.ends >= first:
            found += succession.twice_a_term(
                crop, planting.method, setting, max(term.starts, first + timedelta(days=1)), term.ends
            )
    return found


def make_series(
    connection: Connection[Any],
    context: Context,
    planting_id: UUID,
    rhythm: Rhythm,
    days: int,
    actor: Actor,
    *,
    until: date | None = None,
) -> int:
    """Pencil sowings that follow a planting, each in squares of the bed that are free by then; return how many.

    Where the planting's own squares are free again they are taken. Raises BadInput when no day fits, and when none has room:
    then nothing is written.
    """
    held = hold_of(connection, context, planting_id, actor)
    planting, bed = held.planting(planting_id), held.bed
    wanted = sowings(context, planting, bed, rhythm, days, until=until, today=actor.today)
    if not wanted:
        raise BadInput("year.no_sowing_fits", field="rhythm")
    series = planting.series_id or uuid4()
    made = 0
    for sowing in wanted:
        cells = _free_for(connection, bed, planting, sowing, actor.today)
        if not cells:
            continue
        squares = ", ".join(cell_name(cell) for cell in sorted(cells, key=lambda c: (c[1], c[0])))
        wish = Paint(
            squares,
            planting.crop,
            planting.method,
            sowing.day,
            False,
            replace(planting.wish, wanted=None),
            draft_id=planting.draft_id,
            class_group_id=planting.class_group_id,
            cover=planting.cover,
            series_id=series,
        )
        paint(connection, context, bed.id, wish, Actor(actor.by, actor.today))
        made += 1
    if not made:
        raise BadInput("year.no_free_squares", bed=bed.name)
    if planting.series_id is None:
        hold_of(connection, context, planting_id, replace(actor, version=None)).change(
            planting_id, lambda now: replace(now, series_id=series)
        )
    return made


def _free_for(connection: Connection[Any], bed: Bed, planting: Planting, sowing: Sowing, today: date) -> set[Cell]:
    """The planting's own squares when they are free then, else as many free ones."""
    dates = sowing.fit.dates
    free = free_cells(connection, bed, dates.bed_from, dates.clear_by, today)
    if planting.cells <= set(free):
        return set(planting.cells)
    return set(free[: len(planting.cells)]) if len(free) >= len(planting.cells) else set()


def is_open(planting: Planting) -> bool:
    """True for a plan that has not begun, whose first day can still be moved."""
    return planting.status in OPEN and not planting.events
