"""What really happened to a planting: noted, or taken back, with status, dates and jobs after it. One transaction of the caller."""

from dataclasses import replace
from datetime import date
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.garden.plantings import Actor
from almanaque.commands.growth import promised_ranges
from almanaque.commands.growth.forecasts import refresh, setting_of
from almanaque.core.errors import BadInput
from almanaque.store import queue
from almanaque.store.garden import changes, garden
from almanaque.store.garden.garden import Planting, Status
from almanaque.store.harvest import promised_ranges as kept_ranges
from almanaque.store.week import planting_day_results


def happened(
    connection: Connection[Any], context: Context, planting_id: UUID, kind: str, day: date, actor: Actor
) -> None:
    """Note what really happened to a planting; dates and jobs follow from it. Raises BadInput for a day still to come."""
    planting = garden.planting(connection, planting_id)
    if day > actor.today:
        raise BadInput("garden.event_in_future", field="day")
    if planting.status == "pencilled":
        raise BadInput("garden.only_pencilled")
    changes.lock_bed(connection, planting.bed_id, version=None)
    garden.save_event(connection, context.school.id, planting_id, event_id=uuid4(), kind=kind, day=day, by=actor.by)
    _follow(
        connection, context, planting_id, f"{context.crops[planting.crop].name.en.lower()} was {PASSIVE[kind]}", actor
    )
    if kind == "started":
        kept_ranges.keep(connection, planting_id, day=day, corrected=context.corrected_by(planting.crop))


def did_not_happen(connection: Connection[Any], context: Context, planting_id: UUID, kind: str, actor: Actor) -> None:
    """Take back what was noted by mistake."""
    planting = garden.planting(connection, planting_id)
    if kind not in planting.events:
        return
    garden.delete_event(connection, planting_id, kind)
    if kind in ("started", "set out"):
        planting_day_results.forget(connection, planting_id)
    if kind == "started":
        kept_ranges.forget(connection, planting_id)
    _follow(connection, context, planting_id, "a note of what happened was taken back", actor)


def first_picked(
    connection: Connection[Any], context: Context, planting_id: UUID, day: date | None, actor: Actor
) -> None:
    """Let the first picking be on a day, or not have been; dates follow. Pickings have a history of their own."""
    changes.lock_bed(connection, garden.planting(connection, planting_id).bed_id, version=None)
    planting = garden.planting(connection, planting_id)
    if planting.events.get("first picking") == day:
        return
    bed = garden.bed(connection, planting.bed_id)
    if "first picking" in planting.events:
        garden.delete_event(connection, planting_id, "first picking")
        if day is None:
            kept_ranges.forget_last(connection, planting_id)
    elif day is not None:
        refresh(connection, context, planting, bed, today=day)  # what was foreseen with the weather until that day
        eve = garden.planting(connection, planting_id)
        promised_ranges.keep_last(connection, context, eve, setting_of(context, eve, bed), today=day)
    if day is not None:
        garden.save_event(
            connection,
            context.school.id,
            planting_id,
            event_id=uuid4(),
            kind="first picking",
            day=day,
            by=actor.by,
        )
    refresh(connection, context, garden.planting(connection, planting_id), bed, today=actor.today)
    if context.school.learns:
        queue.learn_of_picking(connection, context.school.id)  # what it teaches moves others too


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


def _follow(connection: Connection[Any], context: Context, planting_id: UUID, words: str, actor: Actor) -> None:
    """Status, dates and jobs after an event; the bed's history gets a line that undo does not go behind."""
    planting = garden.planting(connection, planting_id)
    changed = replace(planting, status=_status_after(planting))
    garden.save_planting(connection, context.school.id, changed)
    bed = garden.bed(connection, planting.bed_id)
    refresh(connection, context, changed, bed, today=actor.today)
    changes.record_change(
        connection, context.school.id, bed.id, change_id=uuid4(), command=words, before={}, by=actor.by
    )


def _status_after(planting: Planting) -> Status:
    if "lost" in planting.events:
        return "lost"
    if "cleared" in planting.events:
        return "finished"
    in_place = "set out" if planting.method == "indoors" else "started"
    return "in the ground" if in_place in planting.events else "planned"
