"""What a supervisor or a monitor asks: whether this process lives, and whether the whole is ready to be used."""

from datetime import timedelta

from anyio import CapacityLimiter, to_thread
from fastapi import APIRouter, Request, Response
from fastapi.responses import PlainTextResponse

from almanaque.clock import Clock
from almanaque.core.school import server_health
from almanaque.store import errors, queue
from almanaque.store.db import Database

router = APIRouter()
PATIENCE_S = 3.0
_beside_pages = CapacityLimiter(1)  # threads of its own, so that it answers when all of theirs are busy


@router.get("/healthz")
async def lives() -> Response:
    """200 as long as this process answers at all."""
    return PlainTextResponse("alive\n")


@router.get("/readyz")
async def ready(request: Request) -> Response:
    """200 when the database answers, has this code's schema, and a worker lives; else 503 with what is the matter."""
    problem = await to_thread.run_sync(
        _problem, request.app.state.probe, request.app.state.clock, limiter=_beside_pages
    )
    return PlainTextResponse(f"{problem or 'ready'}\n", status_code=503 if problem else 200)


def _problem(database: Database, clock: Clock) -> str:
    """What keeps us from being ready, in a sentence; empty for nothing."""
    try:
        database.check_ready()
        with database.transaction() as connection:
            seen = queue.worker_seen(connection)
    except errors.StoreError as error:
        return str(error)
    silent = clock.now() - seen if seen else timedelta.max
    if silent > server_health.SILENT:
        return "The worker is not heard of; dates are not brought up to date and no mail goes out."
    return ""
