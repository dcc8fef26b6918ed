"""How the server is, for a school: what it is owed, what failed for it, whether somebody keeps its records safe."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

from almanaque.core.findings import Finding, Fix
from almanaque.core.words import Phrase

# Our own rules.
SILENT = timedelta(minutes=2)  # a worker says every few seconds that it lives
LONG_WAIT = timedelta(minutes=15)  # work that nobody takes for so long, though a worker lives
BACKUP_OLD = timedelta(days=8)  # a weekly backup, a day late

Task = Literal["recompute_school", "make_pdf", "plan_season"]


@dataclass(frozen=True)
class OwedJob:
    """Work for a school that waits, is being done, or failed; `tried` times before, last at `at`, again at `next_try_at`."""

    task: Task
    status: Literal["todo", "doing", "failed"]
    tried: int
    at: datetime
    next_try_at: datetime | None


@dataclass(frozen=True)
class ServerHealth:
    """What is known at `now`. Instants are in UTC, None for what never was."""

    now: datetime
    worker_seen: datetime | None
    jobs: Sequence[OwedJob]
    mail_waiting: int
    mail_given_up: int
    backup_at: datetime | None


def findings(health: ServerHealth) -> list[Finding]:
    """What somebody should look after, the gravest first; empty when all is well."""
    found = [*_worker(health), *_jobs(health), *_mail(health), *_backup(health)]
    return sorted(found, key=lambda finding: ("fault", "care", "note").index(finding.severity))


def ago(since: timedelta) -> Phrase:
    """How long ago, in words: minutes below two hours, hours below two days, then days."""
    minutes = max(0, int(since.total_seconds() // 60))
    if minutes < 1:
        return Phrase("school.ago.moment")
    if minutes < 120:
        return Phrase("school.ago.minutes", {"n": minutes})
    if minutes < 48 * 60:
        return Phrase("school.ago.hours", {"n": minutes // 60})
    return Phrase("school.ago.days", {"n": minutes // (24 * 60)})


def _worker(health: ServerHealth) -> list[Finding]:
    fix = (Fix("start_the_server_anew"),)
    if health.worker_seen is None:
        return [Finding("worker_silent", "fault", "server", {}, "own_rule", fix, case="never")]
    silent = health.now - health.worker_seen
    if silent <= SILENT:
        return []
    return [Finding("worker_silent", "fault", "server", {"since": ago(silent)}, "own_rule", fix, case="since")]


def _jobs(health: ServerHealth) -> list[Finding]:
    found = [_job(job, health.now) for job in health.jobs]
    return [finding for finding in found if finding is not None]


def _job(job: OwedJob, now: datetime) -> Finding | None:
    fixes = {
        "recompute_school": (Fix("recompute_now", action="recompute"),),
        "make_pdf": (Fix("make_the_pdf_again"),),
        "plan_season": (Fix("plan_the_season_again", "page", "/year/plans"),),
    }[job.task]
    if job.status == "failed":
        return Finding("work_failed", "fault", "server", {"tried": job.tried + 1}, "own_rule", fixes, case=job.task)
    if job.tried and job.next_try_at is not None and job.next_try_at > now:
        wait = max(1, round((job.next_try_at - now).total_seconds() / 60))
        params = {"tried": job.tried, "wait": wait}
        return Finding("work_tried_again", "care", "server", params, "own_rule", fixes, case=job.task)
    if job.status == "todo" and now - job.at > LONG_WAIT:
        since = ago(now - job.at)
        return Finding("work_waits", "care", "server", {"since": since}, "own_rule", fixes, case=job.task)
    return None


def _mail(health: ServerHealth) -> list[Finding]:
    if not health.mail_given_up:
        return []
    fix = (Fix("offer_mail_again", action="mail"),)
    return [Finding("mail_given_up", "care", "server", {"n": health.mail_given_up}, "own_rule", fix)]


def _backup(health: ServerHealth) -> list[Finding]:
    fix = (Fix("make_a_backup"),)
    if health.backup_at is None:
        return [Finding("backup_missing", "care", "server", {}, "own_rule", fix, case="never")]
    age = health.now - health.backup_at
    if age <= BACKUP_OLD:
        return []
    return [Finding("backup_missing", "care", "server", {"since": ago(age)}, "own_rule", fix, case="old")]
