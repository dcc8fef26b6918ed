"""What has become of the range that was promised for a first picking, and the last one before it came."""

from datetime import date
from typing import Any

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.growth import forecasts
from almanaque.core.growth.range_moved import Moved, PromisedRange, moved
from almanaque.core.growth.season_to_date import warmer_than_usual
from almanaque.core.growth.setting import Setting
from almanaque.store.garden.garden import Planting
from almanaque.store.harvest import promised_ranges


def became(
    connection: Connection[Any], context: Context, planting: Planting, setting: Setting, *, today: date
) -> tuple[PromisedRange, Moved] | None:
    """The promise and how it moved. None while nothing was promised or has changed, and for what comes again, whose promise
    was its first year's.
    """
    promise, dates, crop = (
        promised_ranges.promise(connection, planting.id),
        planting.dates,
        context.crops[planting.crop],
    )
    if promise is None or dates is None or crop.life == "perennial":
        return None
    far = forecasts.how_far(planting, crop, setting, planting.bed_from, today=today)
    warmer = None
    if far is not None and setting.record is not None:
        felt = setting.record.conditions(setting.covering, setting.indoors_c)
        warmer = warmer_than_usual(crop, felt, since=promise.made_on, until=far.day)
    now = (dates.first_pick_early, dates.first_pick, dates.first_pick_late)
    corrected = forecasts.corrected_by(context, planting, setting)
    found = moved(promise, now, planting.events, corrected=corrected, warmer=warmer)
    return (promise, found) if found else None


def keep_last(
    connection: Connection[Any], context: Context, planting: Planting, setting: Setting, *, today: date
) -> None:
    """Keep the range as it is on the eve of the first picking, and what had moved it; to be called before that is noted."""
    found = became(connection, context, planting, setting, today=today)
    cause = found[1].cause if found is not None else None
    promised_ranges.keep_last(connection, planting.id, cause=None if cause == "picked" else cause)
