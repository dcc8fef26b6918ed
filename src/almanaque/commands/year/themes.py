"""Themes: what is planted together for one day."""

from datetime import date, timedelta

from almanaque.commands.context import Context
from almanaque.commands.growth import forecasts
from almanaque.core.crops.crop import Crop, Method
from almanaque.core.errors import BadInput
from almanaque.core.growth import nearest_fit
from almanaque.store.garden.garden import Bed
from almanaque.store.year.promises_and_themes import Theme


def best_way(context: Context, crop: Crop, bed: Bed, theme: Theme, *, today: date) -> tuple[Method, date]:
    """The way and day of starting that make the theme's day in most years. Raises BadInput when none does."""
    best: tuple[int, Method, date] | None = None
    for method in crop.methods:
        setting = forecasts.setting_in(context, bed, theme.ready_on - timedelta(days=crop.days[method][0]), None)
        found = nearest_fit.back_from(crop, method, theme.ready_on, setting, not_before=today)
        if found.best is not None and (best is None or found.best_years > best[0]):
            best = (found.best_years, method, found.best)
    if best is None:
        raise BadInput("year.cannot_be_ready", field="crop", crop=crop.name.en, ready_on=theme.ready_on)
    return best[1], best[2]
