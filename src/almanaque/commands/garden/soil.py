"""What is kept of a bed's soil: what a laboratory found, and what was put on."""

from datetime import date
from typing import Any

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.errors import BadInput
from almanaque.store.garden import garden, soil
from almanaque.store.garden.soil import Amendment, SoilTest

LONGEST_ADVICE = 1000
MOST_GRAMS = 10_000_000


def save_test(connection: Connection[Any], context: Context, test: SoilTest, *, today: date) -> None:
    """Keep a laboratory's result. Raises BadInput for a day to come and for a test without a result, NotFound for its bed."""
    garden.bed(connection, test.bed_id)
    if test.taken_on > today:
        raise BadInput("garden.sample_in_future", field="taken_on")
    if len(test.advice) > LONGEST_ADVICE:
        raise BadInput("garden.advice_too_long", field="advice")
    levels = (test.nitrogen, test.phosphorus, test.potassium, test.texture, test.drainage, test.advice)
    if (test.ph, test.lead_ppm) == (None, None) and not any(levels):
        raise BadInput("garden.test_without_result", field="ph")
    soil.save_test(connection, context.school.id, test)


def save_amendment(connection: Connection[Any], context: Context, given: Amendment, *, today: date) -> None:
    """Keep what was put on a bed. Raises BadInput for a day to come and without an amount, NotFound for its bed."""
    garden.bed(connection, given.bed_id)
    if given.on_day > today:
        raise BadInput("garden.amendment_in_future", field="on_day")
    if given.grams is not None and not 0 < given.grams <= MOST_GRAMS:
        raise BadInput("garden.amendment_weight_out_of_range", field="weight")
    if given.litres is None and given.grams is None:
        raise BadInput("garden.amendment_amount_missing", field="volume")
    soil.save_amendment(connection, context.school.id, given)
