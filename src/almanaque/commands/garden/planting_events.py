"""What really happened to a planting: noted, or taken back, with status, dates and jobs after it. One transaction of the caller."""

from dataclasses import replace
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden.held_bed import HeldBed, hold_of
from almanaque.commands.growth import promised_ranges
from almanaque.commands.growth.forecasts import corrected_by, setting_of
from almanaque.core.errors import BadInput
from almanaque.store import queue
from almanaque.store.garden.garden import Planting, Status
from almanaque.store.harvest import promised_ranges as kept_ranges
from almanaque.store.week import planting_day_results


def happened(
    connection: Connection[Any], context: Context, planting_id: UUID, kind: str, day: date, actor: Actor
) -> None:
    """Note what really happened to a planting; dates and jobs follow from it. Raises BadInput for a day still to come."""
    if day > actor.today:
        raise BadInput("garden.event_in_future", field="day")
    held = hold_of(connection, context, planting_id, _unversioned(actor))
    planting = held.planting(planting_id)
    if planting.status == "pencilled":
        raise BadInput("garden.only_pencilled")
    held.note(planting_id, kind, day)
    _follow(held, planting_id, f"{context.crops[planting.crop].name.en.lower()} was {PASSIVE[kind]}")
    if kind == "started":
        started = held.planting(planting_id)  # on the day that it really was
        corrected = corrected_by(context, started, setting_of(context, started, held.bed))
        kept_ranges.keep(connection, planting_id, day=day, corrected=corrected)


def did_not_happen(connection: Connection[Any], context: Context, planting_id: UUID, kind: str, actor: Actor) -> None:
    """Take back what was noted by mistake."""
    held = hold_of(connection, context, planting_id, _unversioned(actor))
    if kind not in held.planting(planting_id).events:
        return
    held.note(planting_id, kind, None)
    if kind in ("started", "set out"):
        planting_day_results.forget(connection, planting_id)
    if kind == "started":
        kept_ranges.forget(connection, planting_id)
    _follow(held, planting_id, "a note of what happened was taken back")


def first_picked(
    connection: Connection[Any], context: Context, planting_id: UUID, day: date | None, actor: Actor
) -> None:
    """Let the first picking be on a day, or not have been; dates follow. Pickings have a history of their own."""
    held = hold_of(connection, context, planting_id, _unversioned(actor))
    planting = held.planting(planting_id)
    before = planting.events.get("first picking")
    if before == day:
        return
    if before is None:
        assert day is not None
        held.refresh(planting_id, today=day)  # what was foreseen with the weather until that day
        eve = held.planting(planting_id)
        promised_ranges.keep_last(connection, context, eve, setting_of(context, eve, held.bed), today=day)
    else:
        held.note(planting_id, "first picking", None)
    if day is not None:
        held.note(planting_id, "first picking", day)
    elif before is not None:
        kept_ranges.forget_last(connection, planting_id)
    held.refresh(planting_id)
    if context.school.learns:
        queue.learn_of_picking(connection, context.school.id)  # what it teaches moves others too


def _unversioned(actor: Actor) -> Actor:
    """What happened is noted whatever has become of the bed since somebody looked."""
    return replace(actor, version=None)


PASSIVE = {
    "started": "started",
    "emerged": "seen to be up",
    "set out": "set out",
    "in flower": "seen in flower",
    "ready": "seen to be ready",
    "first picking": "picked",
    "bolted": "seen to have bolted",
    "cleared": "cleared",
    "lost": "lost",
}


def _follow(held: HeldBed, planting_id: UUID, words: str) -> None:
    """Status, dates and jobs after an event; the bed's history gets a line that undo does not go behind."""
    held.change(planting_id, lambda now: replace(now, status=_status_after(now)))
    held.done_for_good(words)


def _status_after(planting: Planting) -> Status:
    if "lost" in planting.events:
        return "lost"
    if "cleared" in planting.events:
        return "finished"
    in_place = "set out" if planting.method == "indoors" else "started"
    return "in the ground" if in_place in planting.events else "planned"
