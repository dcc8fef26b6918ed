"""What a school has not said yet that would make its answers better, in the order in which it helps, and by how much."""

from almanaque.commands.context import Context
from almanaque.core.growth.verdicts import FEW_YEARS
from almanaque.store.garden import garden, site_features
from almanaque.web import words
from almanaque.web.request_scope import UnitOfWork

Wanted = tuple[str, str, str]
RANGE_YEARS = 10  # of readings, from which an early and a late date can be told apart: common practice, no source
OPEN = ("pencilled", "planned", "in the ground")


def still_missing(work: UnitOfWork) -> list[Wanted]:
    """As (words, address, what it is good for), what matters most first; empty once everything is there."""
    context = work.context
    beds = garden.beds(work.connection)
    wanted: list[Wanted] = []
    if not context.years:
        why = "without it nothing can say whether a crop ripens while school is in"
        wanted.append(("The school year", "/beginning?step=year", why + _held_up(work)))
    if not context.groups:
        why = "so that every job finds a lesson and somebody to do it"
        wanted.append(("The classes", "/beginning?step=classes", why + _held_up(work)))
    if not beds:
        wanted.append(("The garden, drawn", "/beginning?step=garden", "so that plants are counted square by square"))
    wanted += _weather(work, context)
    if beds and not site_features.features(work.connection):
        taken = f"{words.count(len(beds), 'bed')} {'is' if len(beds) == 1 else 'are'} taken for sunny all day until they are there"
        wanted.append(("Buildings and trees on the map", "/garden/map", taken))
    return wanted


def _weather(work: UnitOfWork, context: Context) -> list[Wanted]:
    readings = f"with daily readings of {RANGE_YEARS} years and more each says in how many of them it holds"
    if context.climate is None and context.typed is None:
        why = f"dates come from the packet and usual weeks until then; {readings}{_held_up(work, 'rests on that', 'rest on that')}"
        return [("The weather of your place", "/school/weather", why)]
    if context.climate is None:
        return [
            ("Daily readings", "/school/weather", f"typed freeze dates give one date, readings its range: {readings}")
        ]
    on_file = context.climate.seasons
    if on_file >= RANGE_YEARS:
        return []
    there = f"{words.count(on_file, 'whole winter')} on file"
    more = f"{there}; from {RANGE_YEARS} on an early and a late date can be told apart"
    if on_file < FEW_YEARS:
        more = f"{there}, so nothing is called fitting before there are {FEW_YEARS}{_held_up(work)}"
    return [("More years of readings", "/school/weather", more)]


def _held_up(work: UnitOfWork, one: str = "waits for it", many: str = "wait for it") -> str:
    """`; 6 plans wait for it`, where there are plans."""
    plans = sum(planting.status in OPEN for planting in garden.plantings(work.connection, since=work.today))
    return f"; {words.count(plans, 'plan')} {one if plans == 1 else many}" if plans else ""
