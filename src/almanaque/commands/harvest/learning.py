"""The school's own pickings move its dates by what they are worth, where it lets them: by themselves, a little with each.

A school that agrees learns of others near by that agreed too, and tells them by what share of its time a crop came later.
"""

from datetime import date
from typing import Any

from psycopg import Connection

from almanaque.commands import context as contexts
from almanaque.commands.context import Context
from almanaque.commands.harvest import harvest_book
from almanaque.core.harvest import forecast_error
from almanaque.store import queue
from almanaque.store.harvest import bed_paces, lessons, pickings
from almanaque.store.school import school

OF_ITS_TIME = frozenset({"days", "degree_days", "packet_c", "base_c", "upper_c", "slower_c", "still_c"})


def learn(connection: Connection[Any], context: Context, *, today: date) -> Context:
    """Bring the corrections, and the beds' paces, up to what the pickings say until today; the context that follows from them."""
    if not context.school.shares_lessons:
        lessons.tell(connection, context.school.id, {})  # also what was being told while somebody took it back
    if not context.school.learns and not context.school.shares_lessons:
        return context
    book = harvest_book.read(connection, context, today=today, until=today)
    if context.school.shares_lessons:
        told = forecast_error.own_shares(book.facts)
        lessons.tell(
            connection, context.school.id, {crop: told[crop] for crop in told if _as_in_catalogue(context, crop)}
        )
    if not context.school.learns:
        return context
    nearby = lessons.near_by(connection)
    found = harvest_book.errors(book, nearby)
    bed_paces.put(connection, context.school.id, harvest_book.bed_paces(book, nearby), day=today)
    worth = {error.crop: (error.worth, error.seasons) for error in found if error.worth}
    measured = {error.crop for error in found}
    for one in nearby:
        if one.crop not in measured and _as_in_catalogue(context, one.crop):
            days = forecast_error.of_neighbours(context.crops[one.crop], nearby)
            worth |= {one.crop: (days, 0)} if days else {}
    have = {crop: (days, seasons) for crop, days, seasons in context.corrections}
    if worth == have:
        return context
    for crop in worth.keys() | have.keys():
        days, seasons = worth.get(crop, (0, 0))
        if have.get(crop) != (days, seasons):
            pickings.set_correction(connection, context.school.id, crop, days=days, seasons=seasons, day=today)
    return contexts.load(connection)


def _as_in_catalogue(context: Context, crop: str) -> bool:
    """Whether a crop is forecast here as it is elsewhere: by another time of its own, a share of it would mislead."""
    return crop in context.crops and not context.crops[crop].own & OF_ITS_TIME


def let_pickings_move_dates(connection: Connection[Any], context: Context, *, learns: bool) -> None:
    """Whether corrections come by themselves from now on; else crops' stay until somebody changes them, and beds go alike again."""
    school.save_learns(connection, learns=learns)
    if not learns:
        bed_paces.forget(connection)
    queue.recompute_school(connection, context.school.id)


def learn_with_others(connection: Connection[Any], context: Context, *, agreed: bool) -> None:
    """Tell schools near by what the crops did here, and hear what they did there; without agreement all of it is taken back."""
    school.save_shares_lessons(connection, agreed=agreed)
    if not agreed:
        lessons.tell(connection, context.school.id, {})
    queue.recompute_school(connection, context.school.id)
