"""A note in the journal."""

from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.core.errors import BadInput
from almanaque.store.garden import garden
from almanaque.store.journal import journal_entries

LONGEST = 4000


def write(
    connection: Connection[Any],
    context: Context,
    note_id: UUID,
    *,
    body: str,
    bed_id: UUID | None,
    come_back_on: date | None,
    actor: Actor,
) -> None:
    """Keep a note of today. Raises BadInput for an empty or too long one, and for coming back to it on a day that is not to come."""
    if not body.strip():
        raise BadInput("journal.entry_empty", field="body")
    if len(body) > LONGEST:
        raise BadInput("journal.entry_too_long", field="body", length=len(body))
    if come_back_on is not None and come_back_on <= actor.today:
        raise BadInput("constraints.journal_entry_comes_back_later", field="come_back_on")
    journal_entries.save(
        connection,
        context.school.id,
        entry_id=note_id,
        bed_id=garden.bed(connection, bed_id).id if bed_id else None,
        noted_on=actor.today,
        body=body.strip(),
        come_back_on=come_back_on,
        by=actor.by,
    )
