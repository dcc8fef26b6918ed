"""The worker process: takes jobs from the queue in the database, one at a time and a season's plan beside it, until it is told to stop.

A job whose worker was killed is handed back to the queue; one that fails is tried again, later and later; what stays failed is
kept for a while and shown under School, Health.
"""

import asyncio
import signal
import time
from contextlib import suppress
from uuid import UUID

import structlog
from procrastinate import App

from almanaque.clock import Clock
from almanaque.core.planner.problem import Which
from almanaque.settings import Settings
from almanaque.store import queue
from almanaque.store.db import Database
from almanaque.worker import handed_back, pdfs, planning
from almanaque.worker.polling import Rounds
from almanaque.worker.recompute import recompute

log = structlog.get_logger()
FIRST_TRIES = 3  # a station that starts together with the worker is a moment later


def with_tasks(app: App, database: Database, clock: Clock, rounds: Rounds | None = None) -> App:
    """Give the queue its tasks; with `rounds` also those that come by the clock."""

    @app.task(name=queue.RECOMPUTE_SCHOOL)
    def recompute_school(school_id: str, tried: int = 0) -> None:
        try:
            count = recompute(database, clock, UUID(school_id))
        except Exception:
            # The queue's own second try would collide with a newer job for the same school.
            with database.transaction() as connection:
                if queue.recompute_again(connection, UUID(school_id), tried=tried + 1):
                    log.warning("to be recomputed again", school=school_id, tried=tried + 1)
            raise
        with database.transaction() as connection:
            queue.not_again(connection, UUID(school_id))
        log.info("recomputed", school=school_id, plantings=count)

    @app.task(name=queue.MAKE_PDF)
    def make_pdf(school_id: str, job_id: str) -> None:
        pdfs.make(database, UUID(school_id), UUID(job_id))
        log.info("made a PDF", school=school_id, job=job_id)

    @app.task(name=queue.PLAN_SEASON)
    async def plan_season(school_id: str, plan_id: str, which: Which, asked: str) -> None:
        await planning.in_a_child(database, school_id, plan_id, which, asked)
        log.info("planned a season", school=school_id, plan=plan_id, which=which)

    if rounds is not None:

        @app.periodic(cron="* * * * *")
        @app.task(name="mind_the_queue", queueing_lock="mind the queue", pass_context=False)
        async def mind_the_queue(timestamp: int) -> None:
            await handed_back.hand_back(app)

        @app.periodic(cron="*/10 * * * *")
        @app.task(name="ask_stations", queueing_lock="ask stations", pass_context=False)
        def ask_stations(timestamp: int) -> None:
            rounds.stations()
            rounds.mail()
            rounds.overdue()

        @app.periodic(cron="20 3 * * *")
        @app.task(name="each_night", queueing_lock="each night", pass_context=False)
        def each_night(timestamp: int) -> None:
            rounds.nightly()

    return app


def run(chosen: Settings, clock: Clock) -> None:
    """Work until a termination signal. Raises what `Database.check_ready` raises."""
    url = chosen.database_url
    database = Database(url, max_size=2)
    database.open()
    try:
        database.check_ready()
        rounds = Rounds(database, clock, chosen)
        app = with_tasks(queue.app_for(url), database, clock, rounds)
        for _ in range(FIRST_TRIES):  # at once, so that nobody waits for the first tenth minute
            if rounds.stations():
                break
            time.sleep(1)
        rounds.mail()
        rounds.overdue()
        asyncio.run(_work(app))
    finally:
        database.close()


async def _work(app: App) -> None:
    async with app.open_async():
        await handed_back.hand_back(app)
        both = asyncio.gather(*(_take_from(app, name) for name in (queue.USUAL, queue.PLANS)))
        for number in (signal.SIGINT, signal.SIGTERM):
            asyncio.get_running_loop().add_signal_handler(number, both.cancel)
        with suppress(asyncio.CancelledError):
            await both


async def _take_from(app: App, name: str) -> None:
    """Take one job after another from a queue."""
    await app.run_worker_async(
        queues=[name],
        concurrency=1,
        install_signal_handlers=False,  # one signal stops both
        shutdown_graceful_timeout=5,
        fetch_job_polling_interval=2,
        update_heartbeat_interval=handed_back.HEARTBEAT_S,
        stalled_worker_timeout=handed_back.STALLED_S,
    )
