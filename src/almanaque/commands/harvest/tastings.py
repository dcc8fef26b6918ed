"""What a class thought of what it picked."""

from typing import Any

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.core.errors import BadInput
from almanaque.core.harvest import picking
from almanaque.store.harvest import tasting
from almanaque.store.harvest.tasting import Tasting


def keep(connection: Connection[Any], context: Context, kept: Tasting, actor: Actor) -> None:
    """Keep a tasting. Raises BadInput for a day to come, and when more liked it than tried it."""
    if kept.on_day > actor.today:
        raise BadInput("harvest.tasting_in_future", field="day")
    picking.tasted(kept.tried, kept.liked)
    tasting.save(connection, context.school.id, kept, by=actor.by)
