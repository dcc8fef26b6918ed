"""The job queue in PostgreSQL. A job is put in by the transaction that makes it necessary, or not at all."""

from contextlib import suppress
from typing import Any
from uuid import UUID

from procrastinate import App, PsycopgConnector
from procrastinate.exceptions import AlreadyEnqueued
from psycopg import Connection

from almanaque.store.db import SESSION_OPTIONS

RECOMPUTE_SCHOOL = "recompute_school"
MAKE_PDF = "make_pdf"


def app_for(url: str) -> App:
    """The queue on a database. `worker` gives it its tasks."""
    return App(connector=PsycopgConnector(conninfo=url, kwargs={"options": SESSION_OPTIONS}, min_size=1, max_size=3))


_names_only = App(connector=PsycopgConnector())


def learn_of_picking(connection: Connection[Any], school_id: UUID) -> None:
    """The same after a first picking, of which many come at once: nobody waits for another who is asking at this moment.

    Whoever asks no more by that is heard of with the next picking, and every night.
    """
    free = connection.execute(
        "SELECT pg_try_advisory_xact_lock(hashtextextended(%s, 0))", [f"learn {school_id}"]
    ).fetchone()
    if free is not None and free[0]:
        recompute_school(connection, school_id)


def recompute_school(connection: Connection[Any], school_id: UUID) -> None:
    """Ask for the school's forecasts to be brought up to date; asked twice before it has run, it runs once."""
    waiting = connection.execute(
        "SELECT 1 FROM procrastinate_jobs WHERE queueing_lock = %s AND status = 'todo'", [f"recompute {school_id}"]
    ).fetchone()
    if waiting is None:
        asked = _names_only.configure_task(
            RECOMPUTE_SCHOOL, queueing_lock=f"recompute {school_id}", lock=str(school_id), connection=connection
        )
        with suppress(AlreadyEnqueued), connection.transaction():
            asked.defer(school_id=str(school_id))


def make_pdf(connection: Connection[Any], school_id: UUID, job_id: UUID) -> None:
    """Ask for a page that is kept to become a PDF."""
    _names_only.configure_task(MAKE_PDF, connection=connection).defer(school_id=str(school_id), job_id=str(job_id))
