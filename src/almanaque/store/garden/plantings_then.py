"""What stood on a day that has passed, by what happened; status and events as they are now tell of today only."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import date, datetime
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.store.garden.garden import Planting


def as_it_stood(planting: Planting, day: date, today: date) -> Planting:
    """The planting with its status on a past day; as it is from today on."""
    if day >= today:
        return planting
    begun = planting.events.get("set out" if planting.method == "indoors" else "started")
    gone = [on for kind, on in planting.events.items() if kind in ("cleared", "lost")]
    if begun is None or begun > day:
        return replace(planting, status="pencilled" if planting.status == "pencilled" else "planned")
    if gone and max(gone) < day:
        return replace(planting, status="lost" if "lost" in planting.events else "finished")
    return replace(planting, status="in the ground")


def as_they_stood(plantings: Sequence[Planting], day: date, today: date) -> list[Planting]:
    """Plantings on a past day, without plans that nobody had begun by then; as they are from today on."""
    stood = [as_it_stood(planting, day, today) for planting in plantings]
    return stood if day >= today else [p for p in stood if p.status not in ("planned", "pencilled")]


def made_since(connection: Connection[Any], at: datetime) -> set[UUID]:
    """Plantings that were entered from an instant on."""
    rows = connection.execute("SELECT id FROM planting WHERE created_at >= %s", [at]).fetchall()
    return {planting_id for (planting_id,) in rows}
