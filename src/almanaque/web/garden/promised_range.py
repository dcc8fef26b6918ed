"""The range of a first picking as it was promised, in a sentence: kept, missed or moved, and why."""

from almanaque.commands.growth import forecasts
from almanaque.core.crops.crop import Crop
from almanaque.core.growth.range_moved import Moved, PromisedRange, moved
from almanaque.core.growth.season_to_date import warmer_than_usual
from almanaque.core.growth.setting import Setting
from almanaque.store.garden.garden import Planting
from almanaque.store.harvest import promised_ranges
from almanaque.web import words
from almanaque.web.request_scope import UnitOfWork

STAGES = {"emerged": "up", "in flower": "in flower", "ready": "ready", "bolted": "in seed"}


def sentence(work: UnitOfWork, planting: Planting, crop: Crop, setting: Setting) -> str:
    """Empty while nothing was promised, or nothing has changed, and for what comes again, whose promise was its first year's."""
    promise, dates = promised_ranges.promise(work.connection, planting.id), planting.dates
    if promise is None or dates is None or crop.life == "perennial":
        return ""
    far = forecasts.how_far(planting, crop, setting, planting.bed_from, today=work.today)
    warmer = None
    if far is not None and setting.record is not None:
        felt = setting.record.conditions(setting.covering, setting.indoors_c)
        warmer = warmer_than_usual(crop, felt, since=promise.made_on, until=far.day)
    now = (dates.first_pick_early, dates.first_pick, dates.first_pick_late)
    found = moved(promise, now, planting.events, corrected=work.context.corrected_by(crop.key), warmer=warmer)
    return _words(promise, found) if found else ""


def _words(promise: PromisedRange, found: Moved) -> str:
    given = f"Promised {words.span(promise.early, promise.late)} on {words.short_day(promise.made_on)}"
    if found.cause == "picked" and found.on is not None:
        return (
            f"{given}; first picked {words.short_day(found.on)}, {'within' if found.inside else 'outside'} that range."
        )
    return f"{given}; since then {_by(found.later, found.wider)}: {_why(found)}."


def _by(later: int, wider: int) -> str:
    said = [
        f"{words.count(abs(later), 'day')} {'later' if later > 0 else 'sooner'}" if later else "",
        f"the range {words.count(abs(wider), 'day')} {'wider' if wider > 0 else 'narrower'}" if wider else "",
    ]
    return ", ".join(part for part in said if part)


def _why(found: Moved) -> str:
    match found.cause:
        case "seen":
            return f"it was seen {STAGES[found.stage]} on {words.short_day(found.on)}" if found.on else ""
        case "correction":
            return "the school's own correction was changed"
        case "season" if found.later:
            return f"this season has been {'cooler' if found.later > 0 else 'warmer'} for it than the middle year"
        case "season":
            return "this season's weather up to now is known"
        case _:
            return "its season's weather is counted now, or its cover, the weather on file or the rules were changed"
