"""The range of a first picking as it was promised, in a sentence: kept, missed or moved, and why."""

from almanaque.commands.growth import promised_ranges
from almanaque.core.growth.range_moved import Cause, Moved, PromisedRange
from almanaque.core.growth.setting import Setting
from almanaque.store.garden.garden import Planting
from almanaque.web import words
from almanaque.web.request_scope import UnitOfWork

STAGES = {"emerged": "up", "in flower": "in flower", "ready": "ready", "bolted": "in seed"}


def sentence(work: UnitOfWork, planting: Planting, setting: Setting) -> str:
    """Empty while nothing was promised, or nothing has changed."""
    found = promised_ranges.became(work.connection, work.context, planting, setting, today=work.today)
    return _words(*found) if found else ""


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
            return "what your own pickings teach has changed"
        case "season" if found.later:
            return f"this season has been {'cooler' if found.later > 0 else 'warmer'} for it than the middle year"
        case "season":
            return "this season's weather up to now is known"
        case _:
            return "its season's weather is counted now, or its cover, the weather on file or the rules were changed"


def cause_words(cause: Cause | None) -> str:
    """What had moved a range by the eve of its first picking, in a few words; empty where nothing had."""
    match cause:
        case "seen":
            return "a stage was seen"
        case "correction":
            return "your own pickings"
        case "season":
            return "the season's weather"
        case "other":
            return "other causes"
        case _:
            return ""
