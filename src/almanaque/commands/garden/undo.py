"""Taking back the last command on a bed, and doing it again. One transaction of the caller."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden.held_bed import HeldBed, hold
from almanaque.core.errors import BadInput
from almanaque.store.garden import changes, drafts
from almanaque.store.garden.garden import Planting


def undo(connection: Connection[Any], context: Context, bed_id: UUID, *, actor: Actor) -> str:
    """Apply the inverse of the last command on the bed; return its name. Raises BadInput when there is none to undo."""
    held = hold(connection, context, bed_id, actor)
    change = changes.last_change(connection, bed_id)
    if change is None:
        raise BadInput("garden.nothing_to_undo")
    if "put_back" not in change.before:
        raise BadInput("garden.noted_since", what=change.command)
    held.undone(change, _put(held, change.before, "undo"))
    return change.command


def redo(connection: Connection[Any], context: Context, bed_id: UUID, *, actor: Actor) -> str:
    """Do again what was undone last; return its name. Raises BadInput when nothing was, or something was done since."""
    held = hold(connection, context, bed_id, actor)
    change = changes.next_change(connection, bed_id)
    if change is None or change.after is None:
        raise BadInput("garden.nothing_to_redo")
    _put(held, change.after, "redo")
    held.redone(change)
    return change.command


def _put(held: HeldBed, state: Mapping[str, Any], way: Literal["undo", "redo"]) -> dict[str, Any]:
    """Put plantings back as they were kept; return what brings back how they are now."""
    made = [UUID(made) for made in state["made"]]
    old = [changes.planting_in(kept) for kept in state["put_back"]]
    touched = {*made, *(p.id for p in old)}
    now = {p.id: p for p in held.plantings() if p.id in touched}
    # A step's day or a cover can be put back at any time; what has begun stays where and what it is.
    begun = touched - {p.id for p in old if p.id in now and _only_schedule(p, now[p.id])}
    if any(held.has_history(planting_id) for planting_id in begun):
        raise BadInput(f"garden.begun_before_{way}")
    known = {draft.id for draft in drafts.drafts(held.connection)}
    if any(p.draft_id not in known for p in old if p.draft_id):
        raise BadInput(f"garden.draft_gone_before_{way}")
    for planting_id in made:
        held.remove(planting_id)
    for planting in old:
        held.put_back(planting)
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
