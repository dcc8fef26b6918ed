"""What somebody wanted to come back to: notes, and troubles that are not gone."""

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any, Literal

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.sightings import latest, say
from almanaque.store import journal, sightings

AHEAD = timedelta(days=7)  # what is due within a week is shown: our own rule


@dataclass(frozen=True)
class ComeBack:
    """`id` is the note's, or that of the sighting that began a trouble."""

    kind: Literal["note", "trouble"]
    id: str
    bed_id: str
    bed_name: str
    words: str
    day: date


def come_back(connection: Connection[Any], context: Context, day: date) -> list[ComeBack]:
    """What is due to be looked at again by a week from a day, the oldest first."""
    notes = [
        ComeBack("note", str(n.id), str(n.bed_id or ""), n.bed_name or "", n.body, n.come_back_on)
        for n in journal.to_come_back_to(connection, day=day)
        if n.come_back_on
    ]
    found = {f.seen.id: f for f in sightings.open_ones(connection, until=day)}
    troubles = []
    for seen in latest([f.seen for f in found.values()]):
        if seen.come_back_on is not None and seen.come_back_on <= day + AHEAD:
            crop = found[seen.id].crop
            name = f"{context.crops[crop].name.en}: " if crop else ""
            troubles.append(
                ComeBack(
                    "trouble",
                    seen.root,
                    seen.bed,
                    found[seen.id].bed_name,
                    name + say(seen, context.school.units),
                    seen.come_back_on,
                )
            )
    return sorted([*notes, *troubles], key=lambda row: row.day)
