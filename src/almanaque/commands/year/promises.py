"""Beds promised for something from a day on."""

from datetime import date
from typing import Any

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.errors import BadInput
from almanaque.store.garden import garden
from almanaque.store.year import promises_and_themes
from almanaque.store.year.promises_and_themes import Promise


def promise(connection: Connection[Any], context: Context, found: Promise, *, today: date) -> None:
    """Promise a bed. Raises BadInput for a day that has passed, NotFound for a bed of another school."""
    if found.from_day < today:
        raise BadInput("year.promise_in_past", field="from_day")
    garden.bed(connection, found.bed_id)
    promises_and_themes.save_promise(connection, context.school.id, found)
