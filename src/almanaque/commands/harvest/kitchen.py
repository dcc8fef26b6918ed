"""The weekly sheet for kitchen and stall, read from the beds; and what they asked for."""

from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.harvest import harvest_book
from almanaque.core.errors import BadInput
from almanaque.core.harvest import kitchen_sheet as rules
from almanaque.core.harvest.kitchen_sheet import KitchenLine
from almanaque.core.school.school_year import week_of
from almanaque.core.units import parse_mass
from almanaque.data import ways_to_eat
from almanaque.store.garden import garden
from almanaque.store.harvest import kitchen_requests
from almanaque.store.harvest.kitchen_requests import RequestRow

WEEKS_AHEAD = 6  # of which there is a sheet: our own choice
LONGEST_WHAT, LONGEST_AMOUNT = 80, 40  # letters of a request
MOST_A_DAY = 20  # requests by one link on a day: our own rule
LONGEST_WAIT = timedelta(days=400)  # to what is asked for: our own rule


@dataclass(frozen=True)
class KitchenWeek:
    """A week of the sheet, from Monday on."""

    monday: date
    lines: list[KitchenLine]


def weeks(connection: Connection[Any], context: Context, *, today: date) -> list[KitchenWeek]:
    """This week and those to come, each with what it brings; a week that brings nothing has no line."""
    first = week_of(today)[0]
    until = first + timedelta(weeks=WEEKS_AHEAD) - timedelta(days=1)
    book = harvest_book.read(connection, context, today=today, until=today)
    shares = harvest_book.coming(connection, context, book, today=today, until=until)
    adopted = {bed.name: str(bed.class_group_id) for bed in garden.beds(connection) if bed.class_group_id is not None}
    return [
        KitchenWeek(
            monday,
            rules.lines(shares, monday, context.calendar.carried_on, adopted=adopted, ways=ways_to_eat()),
        )
        for monday in (first + timedelta(weeks=n) for n in range(WEEKS_AHEAD))
    ]


@dataclass(frozen=True)
class AskedFor:
    """What is asked for, as it was typed: a crop's key or a word of one's own, an amount, and between which days."""

    id: UUID
    crop: str
    what: str
    amount: str
    from_day: date
    to_day: date


def ask(
    connection: Connection[Any],
    context: Context,
    wanted: AskedFor,
    *,
    today: date,
    open_garden_id: UUID | None = None,
) -> None:
    """Keep a request. An amount that is a weight counts as one; any other is kept as it was written.

    Raises BadInput for nothing, too long a word, days that are over or out of order, and more by a link than fit a day.
    """
    crop = wanted.crop if wanted.crop in context.crops else None
    what = " ".join(wanted.what.split()) or (context.crops[crop].name.en if crop else "")
    amount = " ".join(wanted.amount.split())
    if not what:
        raise BadInput("harvest.request_empty", field="what")
    if len(what) > LONGEST_WHAT:
        raise BadInput("harvest.request_too_long", field="what", most=LONGEST_WHAT)
    if len(amount) > LONGEST_AMOUNT:
        raise BadInput("harvest.request_amount_too_long", field="amount", most=LONGEST_AMOUNT)
    if wanted.to_day < wanted.from_day:
        raise BadInput("harvest.request_ends_before_start", field="to_day")
    if wanted.to_day < today or wanted.from_day > today + LONGEST_WAIT:
        raise BadInput("harvest.request_out_of_reach", field="from_day")
    if (
        open_garden_id is not None
        and kitchen_requests.by_link_on(connection, open_garden_id, today, besides=wanted.id) >= MOST_A_DAY
    ):
        raise BadInput("harvest.too_many_requests", most=MOST_A_DAY)
    row = RequestRow(
        wanted.id,
        crop,
        what,
        grams_of(amount, context),
        amount,
        wanted.from_day,
        wanted.to_day,
        today,
        None,
        open_garden_id is not None,
    )
    kitchen_requests.add(connection, context.school.id, row, open_garden_id=open_garden_id)


def grams_of(amount: str, context: Context) -> Decimal | None:
    """An amount as a weight [g]; None for one that is none, such as two bunches."""
    try:
        grams = parse_mass(amount, bare_unit="oz" if context.school.units == "us" else "g") if amount else None
    except BadInput:
        return None
    return grams if grams is not None and 0 < grams <= 1_000_000 else None


def wanted(connection: Connection[Any], today: date) -> list[RequestRow]:
    """Requests that are neither settled nor past."""
    return [row for row in kitchen_requests.requests(connection) if row.closed_on is None and row.to_day >= today]
