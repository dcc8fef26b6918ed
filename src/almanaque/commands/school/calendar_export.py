"""The calendar and the plan as all-day events, for files and for calendar programs that read along."""

from collections.abc import Iterator
from typing import Any, Literal

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.school.school_year import SUMMER_PROGRAMME
from almanaque.core.words import terms
from almanaque.formats.school.ical_out import DayEvent
from almanaque.store.garden import garden

What = Literal["calendar", "plan", "both"]


def events(connection: Connection[Any], context: Context, what: What) -> list[DayEvent]:
    """Terms, breaks, half days and dates to serve; and of the garden when to sow, set out and pick."""
    found: list[DayEvent] = []
    if what in ("calendar", "both"):
        found += _calendar(context)
    if what in ("plan", "both"):
        found += _plan(connection, context)
    return sorted(found, key=lambda event: (event.starts, event.key))


def _calendar(context: Context) -> Iterator[DayEvent]:
    for year in context.years:
        for row in year.terms:
            span = row.span
            if span.kind == SUMMER_PROGRAMME:
                yield DayEvent(str(row.id), span.name, span.starts, span.ends, "Summer programme", "school")
                continue
            yield DayEvent(f"{row.id}-first", f"First day of {span.name}", span.starts, span.starts, "", "school")
            yield DayEvent(f"{row.id}-last", f"Last day of {span.name}", span.ends, span.ends, "", "school")
        for row in year.closures:
            yield DayEvent(
                str(row.id), f"No school: {row.span.name}", row.span.starts, row.span.ends, row.span.kind, "no school"
            )
        for half in year.half_days:
            ends = f"School ends at {half.half_day.until:%H:%M}"
            yield DayEvent(
                str(half.id), f"Half day: {half.half_day.name}", half.half_day.day, half.half_day.day, ends, "school"
            )
        for row in year.feasts:
            yield DayEvent(
                str(row.id), row.span.name, row.span.starts, row.span.starts, "A date the garden serves", "garden"
            )


def _plan(connection: Connection[Any], context: Context) -> Iterator[DayEvent]:
    beds = {bed.id: bed.name for bed in garden.beds(connection)}
    for planting in garden.plantings(connection):
        if planting.status not in ("planned", "in the ground") or planting.dates is None:
            continue
        name, bed, dates = context.crops[planting.crop].name.en, beds[planting.bed_id], planting.dates
        if planting.status == "planned":
            words = terms("method")[planting.method].capitalize()
            yield DayEvent(
                f"{planting.id}-start", f"{name}, {bed}: {words.lower()}", dates.start, dates.start, "Planned", "garden"
            )
        about = f"By the forecast; early {dates.first_pick_early.isoformat()}, late {dates.first_pick_late.isoformat()}"
        yield DayEvent(
            f"{planting.id}-pick", f"{name}, {bed}: ready to pick", dates.first_pick, dates.last_pick, about, "garden"
        )
