"""Choosing a place: candidates, criteria, raters and their scores with the evidence."""

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store import errors


@dataclass(frozen=True)
class Candidate:
    id: UUID
    ordinal: int
    name: str
    kind: str
    about: str


@dataclass(frozen=True)
class CriterionRow:
    id: UUID
    ordinal: int
    name: str
    weight: int
    how: str


@dataclass(frozen=True)
class Rater:
    id: UUID
    name: str
    class_group_id: UUID | None


@dataclass(frozen=True)
class PlaceScore:
    candidate_id: UUID
    criterion_id: UUID
    rater_id: UUID
    score: int
    evidence: str


def candidates(connection: Connection[Any]) -> list[Candidate]:
    rows = connection.cursor(row_factory=class_row(Candidate))
    return rows.execute("SELECT id, ordinal, name, kind, about FROM candidate ORDER BY ordinal, name").fetchall()


def criteria(connection: Connection[Any]) -> list[CriterionRow]:
    rows = connection.cursor(row_factory=class_row(CriterionRow))
    return rows.execute("SELECT id, ordinal, name, weight, how FROM criterion ORDER BY ordinal, name").fetchall()


def raters(connection: Connection[Any]) -> list[Rater]:
    rows = connection.cursor(row_factory=class_row(Rater))
    return rows.execute("SELECT id, name, class_group_id FROM rater ORDER BY name").fetchall()


def scores(connection: Connection[Any]) -> list[PlaceScore]:
    rows = connection.cursor(row_factory=class_row(PlaceScore))
    return rows.execute("SELECT candidate_id, criterion_id, rater_id, score, evidence FROM place_score").fetchall()


def save_candidate(connection: Connection[Any], school_id: UUID, row: Candidate) -> None:
    connection.execute(
        """INSERT INTO candidate (school_id, id, ordinal, name, kind, about) VALUES (%s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET name = excluded.name, kind = excluded.kind, about = excluded.about""",
        [school_id, row.id, row.ordinal, row.name, row.kind, row.about],
    )


def save_criterion(connection: Connection[Any], school_id: UUID, row: CriterionRow) -> None:
    connection.execute(
        """INSERT INTO criterion (school_id, id, ordinal, name, weight, how) VALUES (%s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET name = excluded.name, weight = excluded.weight, how = excluded.how""",
        [school_id, row.id, row.ordinal, row.name, row.weight, row.how],
    )


def save_rater(connection: Connection[Any], school_id: UUID, row: Rater) -> None:
    connection.execute(
        """INSERT INTO rater (school_id, id, name, class_group_id) VALUES (%s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET name = excluded.name, class_group_id = excluded.class_group_id""",
        [school_id, row.id, row.name, row.class_group_id],
    )


def save_score(connection: Connection[Any], school_id: UUID, row: PlaceScore) -> None:
    connection.execute(
        """INSERT INTO place_score (school_id, candidate_id, criterion_id, rater_id, score, evidence)
           VALUES (%s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, candidate_id, criterion_id, rater_id) DO UPDATE
           SET score = excluded.score, evidence = excluded.evidence""",
        [school_id, row.candidate_id, row.criterion_id, row.rater_id, row.score, row.evidence],
    )


def delete_candidate(connection: Connection[Any], candidate_id: UUID) -> None:
    if connection.execute("DELETE FROM candidate WHERE id = %s", [candidate_id]).rowcount == 0:
        raise errors.NotFound("That place is not there any more.")


def delete_criterion(connection: Connection[Any], criterion_id: UUID) -> None:
    if connection.execute("DELETE FROM criterion WHERE id = %s", [criterion_id]).rowcount == 0:
        raise errors.NotFound("That criterion is not there any more.")
