"""What was done to a bed: its version, its last commands for undo and redo, and what others did meanwhile."""

import json
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Jsonb

from almanaque.store import errors
from almanaque.store.garden.garden import SPACING, Planting, cells, columns
from almanaque.store.sql import load

SQL = load("garden/changes")
CHANGED_MEANWHILE = (
    "Someone else changed this bed in the meantime. Nothing of yours was written; here is the bed as it is now."
)


@dataclass(frozen=True)
class Change:
    id: UUID
    command: str
    before: dict[str, Any]
    after: dict[str, Any] | None
    version: int


@dataclass(frozen=True)
class Done:
    """One command as others are told of it."""

    command: str
    by: str
    at: datetime
    undone: bool


def version(connection: Connection[Any], bed_id: UUID) -> int:
    """The bed's version as it is now. Raises NotFound."""
    row = connection.execute("SELECT version FROM bed WHERE id = %s", [bed_id]).fetchone()
    if row is None:
        raise errors.NotFound("There is no such bed in this school.")
    return int(row[0])


def lock_bed(connection: Connection[Any], bed_id: UUID, *, version: int | None) -> int:
    """Hold the bed until the transaction ends; its version. Raises Stale when it is not the one the person saw."""
    row = connection.execute("SELECT version FROM bed WHERE id = %s FOR UPDATE", [bed_id]).fetchone()
    if row is None:
        raise errors.NotFound("There is no such bed in this school.")
    if version is not None and row[0] != version:
        raise errors.Stale(CHANGED_MEANWHILE)
    return int(row[0])


def raise_version(connection: Connection[Any], bed_id: UUID, held: int) -> int:
    """Count a bed's version up from what it was when it was held. Raises Stale when it is another, and so was not held."""
    row = connection.execute(
        "UPDATE bed SET version = version + 1 WHERE id = %s AND version = %s RETURNING version", [bed_id, held]
    ).fetchone()
    if row is None:
        raise errors.Stale(CHANGED_MEANWHILE)
    return int(row[0])


def record_change(
    connection: Connection[Any],
    school_id: UUID,
    bed_id: UUID,
    *,
    change_id: UUID,
    command: str,
    before: dict[str, Any],
    by: UUID | None,
    held: int,
) -> int:
    """Raise the version of a bed that is held and keep the command that did it; return the new version."""
    version = raise_version(connection, bed_id, held)
    connection.execute("UPDATE change SET void = true WHERE bed_id = %s AND undone AND NOT void", [bed_id])
    connection.execute(
        "INSERT INTO change (school_id, id, bed_id, command, before, version, account_id) VALUES (%s, %s, %s, %s, %s, %s, %s)",
        [school_id, change_id, bed_id, command, Jsonb(before), version, by],
    )
    return version


def last_change(connection: Connection[Any], bed_id: UUID) -> Change | None:
    return connection.cursor(row_factory=class_row(Change)).execute(SQL["last_change"], {"bed": bed_id}).fetchone()


def next_change(connection: Connection[Any], bed_id: UUID) -> Change | None:
    return connection.cursor(row_factory=class_row(Change)).execute(SQL["next_change"], {"bed": bed_id}).fetchone()


def done_since(connection: Connection[Any], bed_id: UUID, at: datetime) -> list[Change]:
    """Commands on a bed from an instant on, the newest first, without those that were undone."""
    rows = connection.cursor(row_factory=class_row(Change))
    return rows.execute(SQL["done_since"], {"bed": bed_id, "at": at}).fetchall()


def changes_since(connection: Connection[Any], bed_id: UUID, version: int) -> list[Done]:
    rows = connection.cursor(row_factory=class_row(Done))
    return rows.execute(SQL["changes_since"], {"bed": bed_id, "version": version}).fetchall()


def mark_undone(connection: Connection[Any], bed_id: UUID, change_id: UUID, after: dict[str, Any], *, held: int) -> int:
    """A command was taken back; `after` is what it had made, for doing it again. The bed's new version."""
    connection.execute("UPDATE change SET undone = true, after = %s WHERE id = %s", [Jsonb(after), change_id])
    return raise_version(connection, bed_id, held)


def mark_redone(connection: Connection[Any], bed_id: UUID, change_id: UUID, *, held: int) -> int:
    """A command that was taken back was done again. The bed's new version."""
    connection.execute("UPDATE change SET undone = false, after = NULL WHERE id = %s", [change_id])
    return raise_version(connection, bed_id, held)


def planting_out(planting: Planting) -> dict[str, Any]:
    """A planting as JSON, enough to put it back as it was."""
    out: dict[str, Any] = json.loads(
        json.dumps({**columns(planting), "cells": sorted(planting.cells), "steps": dict(planting.steps)}, default=str)
    )
    return out


def planting_in(kept: dict[str, Any]) -> Planting:
    """The inverse of `planting_out`; forecast and events are not part of it."""
    return Planting(
        id=UUID(kept["id"]),
        bed_id=UUID(kept["bed_id"]),
        crop=kept["crop"],
        variety=kept["variety"],
        status=kept["status"],
        draft_id=UUID(kept["draft_id"]) if kept["draft_id"] else None,
        method=kept["method"],
        start_on=date.fromisoformat(kept["start_on"]),
        per_square=kept["per_square"],
        class_group_id=UUID(kept["class_group_id"]) if kept["class_group_id"] else None,
        cells=cells(kept["cells"]),
        events={},
        depends_on="",
        dates=None,
        verdict=None,
        findings=(),
        **{name: kept[name] for name in SPACING if name in kept},
        cover=kept.get("cover"),
        series_id=UUID(kept["series_id"]) if kept.get("series_id") else None,
        theme_id=UUID(kept["theme_id"]) if kept.get("theme_id") else None,
        steps={step: date.fromisoformat(day) for step, day in kept.get("steps", {}).items()},
    )
