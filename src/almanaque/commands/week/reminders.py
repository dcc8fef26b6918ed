"""What somebody wanted to come back to: notes, troubles that are not gone, seed to be counted out, and what hangs to cure."""

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any, Literal

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.seeds import seed_box as seed_commands
from almanaque.core.journal.sightings import latest, say
from almanaque.store.harvest import pickings
from almanaque.store.journal import journal_entries, sightings
from almanaque.store.seeds import seed_box

AHEAD = timedelta(days=7)  # what is due within a week is shown: our own rule


@dataclass(frozen=True)
class ComeBack:
    """`id` is the note's, that of the sighting that began a trouble, the lot's that is tested, or the picking's that hangs."""

    kind: Literal["note", "trouble", "test", "curing"]
    id: str
    bed_id: str
    bed_name: str
    words: str
    day: date


def come_back(connection: Connection[Any], context: Context, day: date) -> list[ComeBack]:
    """What is due to be looked at again by a week from a day, the oldest first."""
    notes = [
        ComeBack("note", str(n.id), str(n.bed_id or ""), n.bed_name or "", n.body, n.come_back_on)
        for n in journal_entries.to_come_back_to(connection, day=day)
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
    return sorted(
        [*notes, *troubles, *_tests(connection, context, day), *_hanging(connection, context, day)],
        key=lambda row: row.day,
    )


def _tests(connection: Connection[Any], context: Context, day: date) -> list[ComeBack]:
    """Germination tests that run, by the day on which they are to be counted out."""
    lots = [lot for lot in seed_box.lots(connection) if lot.crop in context.crops]
    return [
        ComeBack(
            "test", str(lot.id), "", "", f"{seed_commands.name_of(context, lot)}: count the germination test out", on
        )
        for lot, test, on in seed_commands.due(context, lots)
        if test.started_on <= day and on <= day + AHEAD
    ]


def _hanging(connection: Connection[Any], context: Context, day: date) -> list[ComeBack]:
    """Pickings that hang to cure or dry, by the day on which they should be ready."""
    found = []
    for row in pickings.recent(connection, until=day, curing=True, limit=200):
        if row.hung_on and row.ready_on and row.cured_on is None and row.hung_on <= day and row.ready_on <= day + AHEAD:
            crop = context.crops[row.crop].name.en if row.crop in context.crops else row.crop
            words = f"{crop}{f', {row.place}' if row.place else ''}: see whether it has cured, and weigh it"
            found.append(ComeBack("curing", str(row.id), str(row.bed_id), row.bed_name, words, row.ready_on))
    return found
