"""The turn of the year: steps done, a sentence for each bed, closed times, ballots and votes."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store import errors


@dataclass(frozen=True)
class BedYear:
    bed_id: UUID
    state: str
    sentence: str


@dataclass(frozen=True)
class ClosedTime:
    """Days whose book is closed; `why` says why it was reopened."""

    id: UUID
    school_year_id: UUID
    from_day: date
    to_day: date
    closed_on: date
    closed_at: datetime
    reopened_on: date | None
    reopened_at: datetime | None
    why: str


@dataclass(frozen=True)
class Ballot:
    id: UUID
    name: str
    from_day: date
    to_day: date
    closed_on: date | None


def steps(connection: Connection[Any], year_id: UUID) -> dict[str, date]:
    """Steps that were done, with the day."""
    rows = connection.execute("SELECT step, done_on FROM turn_step WHERE school_year_id = %s", [year_id]).fetchall()
    return dict(rows)


def set_step(
    connection: Connection[Any], school_id: UUID, year_id: UUID, step: str, *, day: date | None, by: UUID | None
) -> None:
    """Mark a step as done on a day, or as open again (None)."""
    connection.execute("DELETE FROM turn_step WHERE school_year_id = %s AND step = %s", [year_id, step])
    if day is not None:
        connection.execute(
            "INSERT INTO turn_step (school_id, school_year_id, step, done_on, done_by) VALUES (%s, %s, %s, %s, %s)",
            [school_id, year_id, step, day, by],
        )


def bed_years(connection: Connection[Any], year_id: UUID) -> dict[UUID, BedYear]:
    rows = (
        connection.cursor(row_factory=class_row(BedYear))
        .execute("SELECT bed_id, state, sentence FROM bed_year WHERE school_year_id = %s", [year_id])
        .fetchall()
    )
    return {row.bed_id: row for row in rows}


def hold_bed_years(connection: Connection[Any], school_id: UUID, year_id: UUID) -> None:
    """Let nobody else say anything of this year's beds until the transaction ends."""
    connection.execute("SELECT pg_advisory_xact_lock(hashtextextended(%s, 0))", [f"bed years {school_id} {year_id}"])


def save_bed_year(connection: Connection[Any], school_id: UUID, year_id: UUID, kept: BedYear) -> None:
    connection.execute(
        "INSERT INTO bed_year (school_id, school_year_id, bed_id, state, sentence) VALUES (%s, %s, %s, %s, %s)"
        " ON CONFLICT (school_id, school_year_id, bed_id) DO UPDATE SET state = excluded.state, sentence = excluded.sentence",
        [school_id, year_id, kept.bed_id, kept.state, kept.sentence],
    )


def closed_times(connection: Connection[Any]) -> list[ClosedTime]:
    """All closings, reopened ones among them, the last first."""
    return (
        connection.cursor(row_factory=class_row(ClosedTime))
        .execute(
            "SELECT id, school_year_id, from_day, to_day, closed_on, closed_at, "
            "reopened_on, reopened_at, why FROM closed_time ORDER BY closed_at DESC, id"
        )
        .fetchall()
    )


def close(
    connection: Connection[Any],
    school_id: UUID,
    closing_id: UUID,
    year_id: UUID,
    *,
    from_day: date,
    to_day: date,
    day: date,
    at: datetime,
    by: UUID | None,
) -> None:
    connection.execute(
        "INSERT INTO closed_time (school_id, id, school_year_id, from_day, to_day, "
        "closed_on, closed_at, closed_by) VALUES (%s, %s, %s, %s, %s, %s, %s, %s)"
        " ON CONFLICT (school_id, id) DO NOTHING",
        [school_id, closing_id, year_id, from_day, to_day, day, at, by],
    )


def reopen(
    connection: Connection[Any], closing_id: UUID, *, day: date, at: datetime, by: UUID | None, why: str
) -> None:
    """Open a closed time again; that it was closed, and why it is open, stays on record."""
    done = connection.execute(
        "UPDATE closed_time SET reopened_on = %s, reopened_at = %s, reopened_by = %s, why = %s WHERE id = %s AND reopened_at IS NULL",
        [day, at, by, why, closing_id],
    )
    if done.rowcount == 0:
        raise errors.NotFound("That time is not closed.")


def let_in(connection: Connection[Any], how: Literal["on", "whole", ""]) -> None:
    """For this transaction: `on` lets late entries in, marked; `whole` lets a whole school in as it was."""
    connection.execute("SELECT set_config('almanaque.late', %s, true)", [how])


def ballots(connection: Connection[Any]) -> list[Ballot]:
    return (
        connection.cursor(row_factory=class_row(Ballot))
        .execute(
            "SELECT id, name, from_day, to_day, closed_on FROM ballot ORDER BY closed_on NULLS FIRST, created_at DESC, id"
        )
        .fetchall()
    )


def ballot(connection: Connection[Any], ballot_id: UUID) -> Ballot:
    found = next((b for b in ballots(connection) if b.id == ballot_id), None)
    if found is None:
        raise errors.NotFound("There is no such ballot in this school.")
    return found


def save_ballot(connection: Connection[Any], school_id: UUID, kept: Ballot, crops: Sequence[tuple[str, str]]) -> None:
    """Keep a ballot with its crops (crop, why it fits); the same id again only changes its end."""
    done = connection.execute(
        "INSERT INTO ballot (school_id, id, name, from_day, to_day, closed_on) VALUES (%s, %s, %s, %s, %s, %s)"
        " ON CONFLICT (school_id, id) DO NOTHING",
        [school_id, kept.id, kept.name, kept.from_day, kept.to_day, kept.closed_on],
    )
    if done.rowcount == 1:
        connection.cursor().executemany(
            "INSERT INTO ballot_crop (school_id, ballot_id, crop, why) VALUES (%s, %s, %s, %s)",
            [(school_id, kept.id, crop, why) for crop, why in crops],
        )


def end_ballot(connection: Connection[Any], ballot_id: UUID, day: date | None) -> None:
    connection.execute("UPDATE ballot SET closed_on = %s WHERE id = %s", [day, ballot_id])


def ballot_crops(connection: Connection[Any], ballot_id: UUID) -> list[tuple[str, str]]:
    """Crops of a ballot with the words on why they fit."""
    return connection.execute(
        "SELECT crop, why FROM ballot_crop WHERE ballot_id = %s ORDER BY crop", [ballot_id]
    ).fetchall()


def votes(connection: Connection[Any], ballot_id: UUID) -> list[tuple[str, str, int]]:
    """Class, crop and count."""
    return connection.execute(
        "SELECT class_group_id::text, crop, votes FROM vote WHERE ballot_id = %s ORDER BY 1, 2", [ballot_id]
    ).fetchall()


def vote(connection: Connection[Any], school_id: UUID, ballot_id: UUID, group_id: UUID, counts: dict[str, int]) -> None:
    """Keep a class's votes, in place of what it voted before."""
    connection.execute("DELETE FROM vote WHERE ballot_id = %s AND class_group_id = %s", [ballot_id, group_id])
    connection.cursor().executemany(
        "INSERT INTO vote (school_id, ballot_id, class_group_id, crop, votes) VALUES (%s, %s, %s, %s, %s)",
        [(school_id, ballot_id, group_id, crop, count) for crop, count in counts.items() if count],
    )
