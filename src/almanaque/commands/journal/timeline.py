"""The journal as one line of time, in words."""

from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.garden.planting_events import PASSIVE
from almanaque.core.journal.sightings import Sighting, say
from almanaque.store.journal import timeline
from almanaque.store.journal.timeline import TimelineRow, What

STARTED = {"direct": "sown", "cloves": "set", "indoors": "sown indoors", "starts": "set out"}


LATE = " (entered after the year was closed)"


@dataclass(frozen=True)
class TimelineEntry:
    """One thing that was seen or done; `crop` is its name, `words` what there is to say."""

    what: What
    id: UUID
    day: date
    bed_id: UUID | None
    bed: str
    planting_id: UUID | None
    crop: str
    variety: str
    words: str
    come_back_on: date | None
    closed_on: date | None


def entries(
    connection: Connection[Any],
    context: Context,
    *,
    until: date,
    since: date | None = None,
    bed_id: UUID | None = None,
    planting_id: UUID | None = None,
    what: What | None = None,
    search: str = "",
    limit: int = 80,
) -> list[TimelineEntry]:
    """What was written down up to a day, newest first; a search also finds crops by their name."""
    crops = [key for key, crop in context.crops.crops.items() if search and search.lower() in crop.name.en.lower()]
    found = timeline.timeline(
        connection,
        until=until,
        since=since,
        bed_id=bed_id,
        planting_id=planting_id,
        whats=[what] if what else None,
        search=search,
        crops=crops,
        limit=limit,
    )
    return [_entry(item, context) for item in found]


def _entry(item: TimelineRow, context: Context) -> TimelineEntry:
    crop = context.crops[item.crop].name.en if item.crop else ""
    return TimelineEntry(
        item.what,
        item.id,
        item.day,
        item.bed_id,
        item.bed_name or "",
        item.planting_id,
        crop,
        item.variety or "",
        _words(item, context) + (LATE if item.late else ""),
        item.come_back_on,
        item.closed_on,
    )


def _words(item: TimelineRow, context: Context) -> str:
    if item.what == "happened":
        return (
            STARTED.get(item.method or "", "started")
            if item.words == "started"
            else PASSIVE.get(item.words, item.words)
        )
    if item.what == "picked":
        return f"picked {item.words}"
    if item.seen is None:
        return item.words
    row = item.seen
    seen = Sighting(
        str(item.id),
        row["kind"],
        item.day,
        what=row["what"],
        part=row["part"],
        severity=row["severity"],
        amount=row["amount"],
        second=row["second"],
        of_amount=row["of_amount"],
        note=row["note"],
        closed_on=item.closed_on,
        team=row["team"],
    )
    where = f" ({row['square']})" if row["square"] else ""
    return say(seen, context.school.units) + where
