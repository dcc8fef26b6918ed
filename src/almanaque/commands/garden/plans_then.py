"""Plans as they were on a day that has passed: what was done since is taken back, newest first."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import date, datetime, time, timedelta
from typing import Any
from uuid import UUID
from zoneinfo import ZoneInfo

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.growth import forecasts
from almanaque.store.garden import changes, garden, plantings_then
from almanaque.store.garden.changes import Change
from almanaque.store.garden.garden import Bed, Planting

HORIZON = timedelta(days=365)  # how far ahead the plans of a day reach


def as_thought(
    connection: Connection[Any], context: Context, beds: Sequence[Bed], *, day: date, today: date
) -> list[Planting]:
    """What stood in these beds and what was planned for the year to come, as it was known in the evening of `day`.

    Dates and verdicts are those that the rules of today give for what was known then. A command that was undone since
    counts as never done.
    """
    evening = datetime.combine(day + timedelta(days=1), time.min, ZoneInfo(context.school.zone))
    made_since = plantings_then.made_since(connection, evening)
    found = []
    for bed in beds:
        present = garden.plantings(connection, bed_id=bed.id)
        for planting in taken_back(present, changes.done_since(connection, bed.id, evening), made_since, day):
            then = plantings_then.as_it_stood(planting, day, today)
            then = replace(then, events={kind: on for kind, on in then.events.items() if on <= day})
            then = _judged(context, then, bed, day)
            if then.bed_to(day) >= day and then.bed_from <= day + HORIZON and then.status not in ("finished", "lost"):
                found.append(then)
    return found


def taken_back(
    present: Sequence[Planting], since: Sequence[Change], made_since: set[UUID], day: date
) -> list[Planting]:
    """The plantings before the commands in `since`, newest first. What was entered later but had begun by `day` stays."""
    state = {p.id: p for p in present}
    events = {p.id: p.events for p in present}
    begun = {p.id for p in present if min(p.events.values(), default=date.max) <= day}
    for change in since:
        for made in {UUID(text) for text in change.before.get("made", ())} - begun:
            state.pop(made, None)
        for kept in change.before.get("put_back", ()):
            planting = changes.planting_in(kept)
            state[planting.id] = replace(planting, events=events.get(planting.id, {}))
    return [p for p in state.values() if p.id in begun or p.id not in made_since]


def _judged(context: Context, planting: Planting, bed: Bed, day: date) -> Planting:
    crop = context.crops[planting.crop]
    found = forecasts.judged(planting, crop, forecasts.setting_of(context, planting, bed), today=day)
    return replace(planting, dates=found.dates, verdict=found.verdict, findings=found.findings)
