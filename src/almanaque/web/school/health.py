"""School: how the server is, what it owes this school, what failed, and when it was last backed up."""

from dataclasses import dataclass
from datetime import datetime
from typing import Annotated
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Depends, Form, Response

from almanaque.commands.school import health as commands
from almanaque.core.findings import Finding
from almanaque.core.school import server_health
from almanaque.core.school.server_health import ServerHealth
from almanaque.web import frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]


@dataclass(frozen=True)
class HealthFactView(View):
    """A row of `HealthView`: what is asked about, and the answer."""

    name: str
    said: str


@dataclass(frozen=True)
class HealthMendView(View):
    """What can be done: a button where `action` says what it does, else words."""

    label: str
    action: str


@dataclass(frozen=True)
class HealthNoteView(View):
    """Something that somebody should look after."""

    severity: str
    message: str
    reason: str
    mends: list[HealthMendView]


@dataclass(frozen=True)
class HealthView(View):
    """What `school/health.html` shows."""

    notes: list[HealthNoteView]
    facts: list[HealthFactView]


@router.get("/school/health")
def page(scope: Look) -> Response:
    with scope.open() as work:
        found = commands.gather(work.connection, work.context, now=scope.clock.now())
        values = HealthView([_note(f) for f in server_health.findings(found.health)], _facts(work, found))
        return frame.page(work, "school", "Health", values, template="school/health.html")


@router.post("/school/health")
def mend(scope: Plan, what: Annotated[str, Form()] = "") -> Response:
    """Do what a note offers."""
    with scope.open() as work:
        commands.mend(work.connection, work.context, what)
        return frame.go(work, "/school/health")


def _note(finding: Finding) -> HealthNoteView:
    mends = [HealthMendView(fix.label, fix.action) for fix in finding.fixes]
    return HealthNoteView(finding.severity, finding.message, finding.reason, mends)


def _facts(work: UnitOfWork, found: commands.Upkeep) -> list[HealthFactView]:
    health = found.health
    owed = sum(job.status != "failed" for job in health.jobs)
    waiting = words.count(health.mail_waiting, "message waits", "messages wait")
    return [
        HealthFactView("Background work", _since(health, health.worker_seen, "heard of", "never heard of")),
        HealthFactView("Owed to this school", words.count(owed, "job") if owed else "nothing, all is up to date"),
        HealthFactView("Mail", waiting if health.mail_waiting else "none waits"),
        HealthFactView("Nightly round", _at(work, health, found.nightly_at, "not made yet")),
        HealthFactView(
            "Last backup", f"{_at(work, health, health.backup_at, 'none was made yet')}{_detail(found.backup)}"
        ),
    ]


def _detail(backup: str) -> str:
    return f"; {backup}" if backup else ""


def _since(health: ServerHealth, at: datetime | None, verb: str, never: str) -> str:
    return f"{verb} {server_health.ago(health.now - at)}" if at else never


def _at(work: UnitOfWork, health: ServerHealth, at: datetime | None, never: str) -> str:
    if at is None:
        return never
    local = at.astimezone(ZoneInfo(work.context.school.zone))
    return f"{server_health.ago(health.now - at)}, {words.short_day(local.date())} at {words.clock(local.time())}"
