"""What a school has not told yet, and how much better the answers get with it."""

from almanaque.store.garden import garden, site_features
from almanaque.web.request_scope import UnitOfWork


def still_missing(work: UnitOfWork) -> list[tuple[str, str, str]]:
    """As (words, address, what it is good for), what matters most first; empty once everything is there."""
    context = work.context
    wanted = []
    if not context.years:
        wanted.append(
            (
                "The school year",
                "/beginning?step=year",
                "without it nothing can say whether a crop ripens while school is in",
            )
        )
    if not context.groups:
        wanted.append(
            ("The classes", "/beginning?step=classes", "so that every job finds a lesson and somebody to do it")
        )
    beds = garden.beds(work.connection)
    if not beds:
        wanted.append(("The garden, drawn", "/beginning?step=garden", "so that plants are counted square by square"))
    if context.climate is None and context.typed is None:
        wanted.append(
            (
                "The weather of your place",
                "/school/weather",
                "dates come from the packet and usual weeks until then; with daily readings of ten years and more each says in how "
                "many of them it holds",
            )
        )
    elif context.climate is None:
        wanted.append(
            (
                "Daily readings",
                "/school/weather",
                "typed freeze dates give one date; readings give its range, year by year",
            )
        )
    if beds and not site_features.features(work.connection):
        wanted.append(
            (
                "Buildings and trees on the map",
                "/garden/map",
                "every bed is taken for sunny all day until they are there",
            )
        )
    return wanted
