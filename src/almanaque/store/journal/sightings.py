"""What was seen, and remedies with what became of them."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import dict_row

from almanaque.core.journal.sightings import Outcome, Remedy, Sighting
from almanaque.store import errors
from almanaque.store.sql import load

SQL = load("journal/sightings")


@dataclass(frozen=True)
class NotedBy:
    """Who saw it, when they did and in which square; `square` is empty for a whole planting or bed."""

    by: UUID | None
    at: datetime
    square: str = ""


@dataclass(frozen=True)
class SightingRow:
    """A sighting as the journal lists it, with the names of its bed and crop."""

    seen: Sighting
    square: str
    bed_name: str
    crop: str
    noted_at: datetime


def sightings(
    connection: Connection[Any],
    *,
    since: date | None = None,
    until: date | None = None,
    bed_id: UUID | None = None,
    planting_id: UUID | None = None,
    limit: int = 2000,
) -> list[SightingRow]:
    """What was seen between two days, in a bed or on a planting, newest first."""
    rows = connection.cursor(row_factory=dict_row).execute(
        SQL["sightings"],
        {"since": since, "until": until, "bed": bed_id, "planting": planting_id, "id": None, "limit": limit},
    )
    return [_found(row) for row in rows]


def known(connection: Connection[Any], sighting_id: UUID) -> bool:
    """Whether something that was seen is on file."""
    return connection.execute("SELECT 1 FROM sighting WHERE id = %s", [sighting_id]).fetchone() is not None


def sighting(connection: Connection[Any], sighting_id: UUID) -> SightingRow:
    parameters = {"since": None, "until": None, "bed": None, "planting": None, "id": sighting_id, "limit": 1}
    row = connection.cursor(row_factory=dict_row).execute(SQL["sightings"], parameters).fetchone()
    if row is None:
        raise errors.NotFound("There is no such sighting in this school.")
    return _found(row)


def open_ones(connection: Connection[Any], *, until: date) -> list[SightingRow]:
    """Troubles noted up to a day that somebody is to come back to, oldest first, each with all that was said of it."""
    rows = connection.cursor(row_factory=dict_row).execute(SQL["open_ones"], {"until": until}).fetchall()
    return [_found(row) for row in rows]


def of_plantings(connection: Connection[Any], plantings: Sequence[UUID]) -> dict[str, list[Sighting]]:
    """What was seen on some plantings, oldest first."""
    rows = connection.cursor(row_factory=dict_row).execute(SQL["of_plantings"], {"plantings": list(plantings)})
    found: dict[str, list[Sighting]] = {}
    for row in rows:
        seen = _found(row).seen
        found.setdefault(seen.planting, []).append(seen)
    return found


def save(connection: Connection[Any], school_id: UUID, seen: Sighting, noted: NotedBy) -> None:
    """Keep what was seen. Raises IdTaken when the id is that of something else."""
    done = connection.execute(
        SQL["save"],
        {
            "school": school_id,
            "id": seen.id,
            "kind": seen.kind,
            "bed": seen.bed or None,
            "planting": seen.planting or None,
            "square": noted.square,
            "day": seen.day,
            "what": seen.what,
            "part": seen.part,
            "severity": seen.severity,
            "amount": seen.amount,
            "second": seen.second,
            "of": seen.of_amount,
            "team": seen.team,
            "note": seen.note,
            "follows": seen.follows or None,
            "back": seen.come_back_on,
            "closed": seen.closed_on,
            "by": noted.by,
            "at": noted.at,
        },
    )
    if done.rowcount == 0:
        raise errors.IdTaken("Something else is kept under this number already. Enter it anew.")


def close(connection: Connection[Any], root: str, day: date) -> None:
    """Settle a trouble with all that was seen of it, so that nobody is asked about it any more."""
    connection.execute(SQL["close"], {"root": root, "day": day})


def remedies(connection: Connection[Any]) -> list[tuple[Remedy, str, str]]:
    """All remedies with the planting and the crop they were for, oldest first."""
    rows = connection.cursor(row_factory=dict_row).execute(SQL["remedies"]).fetchall()
    return [
        (
            Remedy(str(r["id"]), r["what"], r["against"], r["applied_on"], r["ask_on"], r["outcome"]),
            str(r["planting_id"] or ""),
            r["crop"] or "",
        )
        for r in rows
    ]


def save_remedy(
    connection: Connection[Any], school_id: UUID, remedy: Remedy, *, sighting_id: UUID, by: UUID | None
) -> None:
    connection.execute(
        """INSERT INTO remedy (school_id, id, sighting_id, what, applied_on, ask_on, noted_by)
           VALUES (%s, %s, %s, %s, %s, %s, %s)""",
        [school_id, remedy.id, sighting_id, remedy.what, remedy.applied_on, remedy.ask_on, by],
    )


def answer_remedy(connection: Connection[Any], remedy_id: UUID, outcome: Outcome, day: date) -> None:
    """Note whether a remedy helped. Raises NotFound for one of another school."""
    done = connection.execute(
        "UPDATE remedy SET outcome = %s, answered_on = %s WHERE id = %s", [outcome, day, remedy_id]
    )
    if done.rowcount == 0:
        raise errors.NotFound("There is no such remedy in this school.")


def endings(connection: Connection[Any], plantings: Sequence[UUID]) -> dict[str, str]:
    """What is to become of fading flowers, by planting: `deadhead` or `seed`; those not decided on are left out."""
    rows = connection.execute("SELECT id, ending FROM planting WHERE id = ANY(%s) AND ending <> ''", [list(plantings)])
    return {str(planting): ending for planting, ending in rows}


def set_ending(connection: Connection[Any], planting_id: UUID, ending: str) -> None:
    """Decide between deadheading and seed. Raises NotFound for a planting of another school."""
    if connection.execute("UPDATE planting SET ending = %s WHERE id = %s", [ending, planting_id]).rowcount == 0:
        raise errors.NotFound("There is no such planting in this school.")


def _found(row: dict[str, Any]) -> SightingRow:
    def number(name: str) -> float | None:
        return float(row[name]) if row[name] is not None else None

    seen = Sighting(
        str(row["id"]),
        row["kind"],
        row["noted_on"],
        str(row["bed_id"] or ""),
        str(row["planting_id"] or ""),
        row["what"],
        row["part"],
        row["severity"],
        number("amount"),
        number("second"),
        number("of_amount"),
        row["note"],
        str(row["follows"] or ""),
        row["come_back_on"],
        row["closed_on"],
        row["team"],
    )
    return SightingRow(seen, row["square"], row["bed_name"] or "", row["crop"] or "", row["noted_at"])
