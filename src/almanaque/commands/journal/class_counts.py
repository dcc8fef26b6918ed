"""What teams count and measure: kept as class counts, and made an entry of the journal when an educator says so."""

from datetime import date, datetime
from typing import Any
from uuid import UUID, uuid5

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.errors import BadInput
from almanaque.core.journal import class_counts as rules
from almanaque.core.journal import sightings as sighting_rules
from almanaque.core.journal.class_counts import ClassCount, CountKey
from almanaque.core.journal.sightings import Sighting
from almanaque.core.units import parse_length, plain_number
from almanaque.store import errors
from almanaque.store.garden import garden
from almanaque.store.journal import class_counts as store
from almanaque.store.journal import sightings
from almanaque.store.journal.class_counts import CountedRow
from almanaque.store.journal.class_pages import ClassPage, ClassTeam
from almanaque.store.journal.sightings import NotedBy

MOST_ON_A_PAGE = 3000  # counts: our own rule
TAKEN_OVER: dict[CountKey, sighting_rules.Kind] = {"height": "height", "visitors": "visitors", "worms": "visitors"}


def read(
    context: Context, kind: CountKey, team: str, day: date, *, amount: str, of: str = "", what: str = ""
) -> ClassCount:
    """A count as it was typed, lengths and rain in the school's units. Raises BadInput."""
    shape = rules.KINDS[kind]
    inches = context.school.units == "us"
    if shape.measured == "length":
        value = float(parse_length(amount, bare_unit="in" if inches else "cm"))
    elif shape.measured == "rain":
        value = float(parse_length(amount, bare_unit="in" if inches else "mm"))
    else:
        value = _number(amount, "amount")
    return rules.check(ClassCount(kind, team, day, value, _number(of, "of") if shape.of and of.strip() else None, what))


def _number(text: str, field: str) -> float:
    try:
        found = float(plain_number(text))
    except ValueError:
        found = -1.0
    if not 0 <= found <= rules.MOST_COUNT:
        raise BadInput("journal.class_count_out_of_range", field=field)
    return found


def keep(
    connection: Connection[Any],
    context: Context,
    page: ClassPage,
    team: ClassTeam,
    number: UUID,
    count: ClassCount,
    *,
    planting_id: UUID | None = None,
) -> None:
    """Keep a count of a team, at the page's bed or on a planting. Raises BadInput when a page holds too many."""
    if store.how_many(connection, page.id) >= MOST_ON_A_PAGE:
        raise BadInput("journal.class_too_many_counts", field="amount")
    at = rules.KINDS[count.kind].at
    planting = (planting_id or team.planting_id) if at == "planting" else None
    bed = page.count_bed_id or page.bed_id if at else None
    if planting is not None:
        bed = garden.planting(connection, planting).bed_id
    store.save(connection, context.school.id, number, team.id, count, bed_id=bed, planting_id=planting)


def take_over(
    connection: Connection[Any], context: Context, row: CountedRow, *, by: UUID | None, now: datetime
) -> None:
    """Make an entry of the journal of a height or of visitors, with the team's name, marked as counted by a class.

    Raises BadInput for what the journal has no entry for, NotFound for what was taken back meanwhile.
    """
    kind = TAKEN_OVER.get(row.count.kind)
    if kind is None or (kind == "height" and row.planting_id is None):
        raise BadInput("journal.class_no_entry_for", field="count")
    entry = uuid5(row.id, "entry")
    if not store.take_over(connection, row.id, entry):
        raise errors.NotFound("That count was taken back or taken over already. Load the page again.")
    seen = Sighting(
        str(entry),
        kind,
        row.count.day,
        bed=str(row.bed_id or ""),
        planting=str(row.planting_id or ""),
        what="worms" if row.count.kind == "worms" else row.count.what,
        amount=row.count.amount,
        note="Counted by a class.",
        team=row.count.team,
    )
    sightings.save(connection, context.school.id, sighting_rules.check(seen), NotedBy(by, now))
