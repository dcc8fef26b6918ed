"""Pages waiting to become PDFs, and those that have. They are kept for a week."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store import errors

KEPT_DAYS = 7


@dataclass(frozen=True)
class PrintJob:
    """A PDF that was asked for; `made_at` is None while it is being made, `problem` says why it could not be."""

    id: UUID
    title: str
    pages: int | None
    problem: str
    asked_at: datetime
    made_at: datetime | None


def ask(connection: Connection[Any], school_id: UUID, job_id: UUID, *, title: str, html: str, by: UUID | None) -> None:
    """Keep a page that is to become a PDF; those of more than a week ago go."""
    connection.execute("DELETE FROM print_job WHERE asked_at < now() - make_interval(days => %s)", [KEPT_DAYS])
    connection.execute(
        "INSERT INTO print_job (school_id, id, title, html, made_by) VALUES (%s, %s, %s, %s, %s)",
        [school_id, job_id, title, html, by],
    )


def job(connection: Connection[Any], job_id: UUID) -> PrintJob:
    found = (
        connection.cursor(row_factory=class_row(PrintJob))
        .execute("SELECT id, title, pages, problem, asked_at, made_at FROM print_job WHERE id = %s", [job_id])
        .fetchone()
    )
    if found is None:
        raise errors.NotFound("There is no such PDF any more; they are kept for a week. Make it again.")
    return found


def html(connection: Connection[Any], job_id: UUID) -> str | None:
    """The page of a job that is still to be made; None when it is made or gone."""
    row = connection.execute("SELECT html FROM print_job WHERE id = %s AND made_at IS NULL", [job_id]).fetchone()
    return None if row is None else str(row[0])


def made(connection: Connection[Any], job_id: UUID, body: bytes, pages: int) -> None:
    connection.execute(
        "UPDATE print_job SET pdf = %s, pages = %s, html = '', problem = '', made_at = now() WHERE id = %s",
        [body, pages, job_id],
    )


def failed(connection: Connection[Any], job_id: UUID, problem: str) -> None:
    connection.execute("UPDATE print_job SET problem = %s, made_at = now() WHERE id = %s", [problem, job_id])


def pdf(connection: Connection[Any], job_id: UUID) -> tuple[str, bytes]:
    """Title and bytes of a finished PDF."""
    row = connection.execute("SELECT title, pdf FROM print_job WHERE id = %s AND pdf IS NOT NULL", [job_id]).fetchone()
    if row is None:
        raise errors.NotFound("That PDF is not ready.")
    return str(row[0]), bytes(row[1])
