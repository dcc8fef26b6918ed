"""The job queue in PostgreSQL. A job is put in by the transaction that makes it necessary, or not at all.

Jobs carry no lock of the queue's: what they write they hold in the database, and a lock would outlive a killed worker.
"""

from contextlib import suppress
from datetime import datetime
from typing import Any
from uuid import UUID

from procrastinate import App, PsycopgConnector
from procrastinate.exceptions import AlreadyEnqueued
from psycopg import Connection
from psycopg.rows import class_row

from almanaque.core.school.server_health import OwedJob
from almanaque.store.db import SESSION_OPTIONS
from almanaque.store.sql import load

SQL = load("queue")

RECOMPUTE_SCHOOL = "recompute_school"
MAKE_PDF = "make_pdf"
PLAN_SEASON = "plan_season"
USUAL, PLANS = "default", "plans"  # queues: what takes long must not hold up what does not
WAITS_S = (5, 30, 180, 900, 3600)  # how long a recompute that failed waits before it is tried again: our own rule


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
            RECOMPUTE_SCHOOL, queueing_lock=f"recompute {school_id}", connection=connection
        )
        with suppress(AlreadyEnqueued), connection.transaction():
            asked.defer(school_id=str(school_id))


def recompute_again(connection: Connection[Any], school_id: UUID, *, tried: int) -> bool:
    """Ask again for what failed, later with every try; False when it was tried often enough, or is asked for already."""
    if tried > len(WAITS_S):
        return False
    asked = _names_only.configure_task(
        RECOMPUTE_SCHOOL,
        queueing_lock=f"recompute {school_id} again",
        schedule_in={"seconds": WAITS_S[tried - 1]},
        connection=connection,
    )
    with suppress(AlreadyEnqueued), connection.transaction():
        asked.defer(school_id=str(school_id), tried=tried)
        return True
    return False


def not_again(connection: Connection[Any], school_id: UUID) -> None:
    """What failed has been done by another job meanwhile: it need not be tried again."""
    connection.execute(
        "DELETE FROM procrastinate_jobs WHERE queueing_lock = %s AND status = 'todo'", [f"recompute {school_id} again"]
    )


def make_pdf(connection: Connection[Any], school_id: UUID, job_id: UUID) -> None:
    """Ask for a page that is kept to become a PDF."""
    _names_only.configure_task(MAKE_PDF, connection=connection).defer(school_id=str(school_id), job_id=str(job_id))


def plan_season(connection: Connection[Any], school_id: UUID, plan_id: UUID, which: str, asked: UUID) -> None:
    """Ask for one of the plans of a season. Schools come in turn: the next plan of the same season is asked for when this one is done."""
    _names_only.configure_task(PLAN_SEASON, queue=PLANS, connection=connection).defer(
        school_id=str(school_id), plan_id=str(plan_id), which=which, asked=str(asked)
    )


def jobs_of(connection: Connection[Any], school_id: UUID) -> list[OwedJob]:
    """What a school is owed and what failed for it, the newest first; what a later one of its kind did is not told any more."""
    rows = connection.cursor(row_factory=class_row(OwedJob))
    return rows.execute(SQL["jobs_of"], {"school": str(school_id)}).fetchall()


def worker_seen(connection: Connection[Any]) -> datetime | None:
    """When a worker last said that it lives."""
    row = connection.execute("SELECT max(last_heartbeat) FROM procrastinate_workers").fetchone()
    return row[0] if row else None
