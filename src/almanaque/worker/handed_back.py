"""Jobs of a worker that is no more go back to the queue, and jobs that ended long ago go away."""

import structlog
from procrastinate import App
from procrastinate.exceptions import UniqueViolation
from procrastinate.jobs import Job, Status

log = structlog.get_logger()
HEARTBEAT_S = 5.0
STALLED_S = 25.0  # five heartbeats missed: our own rule
KEPT_HOURS = 14 * 24


async def hand_back(app: App) -> int:
    """Let jobs that no living worker is doing be done again; return how many. What ended two weeks ago is deleted."""
    manager = app.job_manager
    stalled = list(await manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_S))
    for job in stalled:
        await _again(app, job)
    if stalled:
        log.warning("handed back", jobs=len(stalled))
    await manager.prune_stalled_workers(STALLED_S)
    await manager.delete_old_jobs(KEPT_HOURS, include_failed=True, include_cancelled=True, include_aborted=True)
    return len(stalled)


async def _again(app: App, job: Job) -> None:
    try:
        await app.job_manager.retry_job(job)
    except UniqueViolation:  # the same was asked for anew meanwhile: that job does for both
        await app.job_manager.finish_job(job, Status.ABORTED, delete_job=True)
