"""A school's forecasts brought up to date: what its pickings teach, its stations' jobs, then bed by bed."""

from uuid import UUID

import structlog

from almanaque.clock import Clock
from almanaque.commands import context as contexts
from almanaque.commands.garden import renewal
from almanaque.commands.harvest import learning
from almanaque.commands.week import bed_care, stations
from almanaque.store import errors
from almanaque.store.accounts import audit
from almanaque.store.db import Database
from almanaque.store.garden import garden
from almanaque.store.school import written_once

log = structlog.get_logger()


class SomeBedsFailed(Exception):
    """What could be brought up to date was; the rest is to be tried again."""


def recompute(database: Database, clock: Clock, school_id: UUID) -> int:
    """Bring everything that is not over up to date, a transaction a bed; return how many plantings were looked at.

    Nobody waits longer than for one bed, and what fails in one keeps no other from being done. Raises SomeBedsFailed then.
    """
    with database.school(school_id) as connection:
        written_once.forget_old(connection)
        audit.forget(connection)
        context = contexts.load(connection)
        today = clock.today(context.school.zone)
        context = learning.learn(connection, context, today=today)
        stations.renew_all(connection, context, today=today)
        bed_care.renew_all(connection, context, today=today)
        beds = garden.beds_in_use(connection)
    count, failed = 0, 0
    for bed_id in beds:
        try:
            with database.school(school_id) as connection:
                count += renewal.renew_bed(connection, context, bed_id, today=today)
        except errors.NotFound:
            continue  # taken out meanwhile
        except Exception as error:  # whatever it is, the other beds are not to suffer for it
            failed += 1
            log.error("a bed was not recomputed", school=str(school_id), bed=str(bed_id), exc_info=error)
    if failed:
        raise SomeBedsFailed(f"{failed} of {len(beds)} beds")
    return count
