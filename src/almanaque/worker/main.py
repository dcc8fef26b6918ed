"""The worker process: takes jobs from the queue in the database, one at a time, until it is told to stop."""

import asyncio
from uuid import UUID

import structlog
from procrastinate import App

from almanaque.clock import Clock
from almanaque.commands import context, forecasts
from almanaque.store import queue
from almanaque.store.db import Database
from almanaque.worker import pdfs

log = structlog.get_logger()


def with_tasks(app: App, database: Database, clock: Clock) -> App:
    """Give the queue its tasks."""

    @app.task(name=queue.RECOMPUTE_SCHOOL)
    def recompute_school(school_id: str) -> None:
        with database.school(UUID(school_id)) as connection:
            school = context.load(connection)
            count = forecasts.refresh_school(connection, school, today=clock.today(school.school.zone))
        log.info("recomputed", school=school_id, plantings=count)

    @app.task(name=queue.MAKE_PDF)
    def make_pdf(school_id: str, job_id: str) -> None:
        pdfs.make(database, UUID(school_id), UUID(job_id))
        log.info("made a PDF", school=school_id, job=job_id)

    return app


def run(url: str, clock: Clock) -> None:
    """Work until a termination signal. Raises what `Database.check_ready` raises."""
    database = Database(url, max_size=2)
    database.open()
    try:
        database.check_ready()
        app = with_tasks(queue.app_for(url), database, clock)
        asyncio.run(_work(app))
    finally:
        database.close()


async def _work(app: App) -> None:
    async with app.open_async():
        await app.run_worker_async(concurrency=1, shutdown_graceful_timeout=5, fetch_job_polling_interval=2)
