"""How the server is for a school, gathered from the queue, the mail and what was done last; and what a school can do about it."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.errors import BadInput
from almanaque.core.school.server_health import ServerHealth
from almanaque.store import queue
from almanaque.store.school import outgoing_mail, upkeep


@dataclass(frozen=True)
class Upkeep:
    """The health of the server with what was done last and is worth knowing besides: the nightly round, the backup in words."""

    health: ServerHealth
    nightly_at: datetime | None
    backup: str


def gather(connection: Connection[Any], context: Context, *, now: datetime) -> Upkeep:
    """What is known at an instant. A school sees the work that is done for it and none of another's."""
    waiting, given_up = outgoing_mail.counts(connection)
    backup, nightly = upkeep.last(connection, "backup"), upkeep.last(connection, "each night")
    jobs = queue.jobs_of(connection, context.school.id)
    health = ServerHealth(
        now, queue.worker_seen(connection), jobs, waiting, given_up, backup.done_at if backup else None
    )
    return Upkeep(health, nightly.done_at if nightly else None, backup.detail if backup else "")


def mend(connection: Connection[Any], context: Context, what: str) -> None:
    """Do what a finding offers: bring dates up to date, or offer mail again. Raises BadInput for anything else."""
    if what == "recompute":
        queue.recompute_school(connection, context.school.id)
    elif what == "mail":
        outgoing_mail.offer_again(connection)
    else:
        raise BadInput("school.no_such_mend", field="what")
