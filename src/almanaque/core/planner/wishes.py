"""Wishes of a large grain as single ones: a theme, so many kinds, so much a week, what is left to be filled."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import replace
from datetime import date, timedelta

from almanaque.core.crops.crop import Crop
from almanaque.core.planner.problem import Wish
from almanaque.core.units import MM_PER_FOOT

FILLING_SQUARES = 4  # of a foot, of one wish that fills: our own choice
MOST_FILLING = 8  # wishes that fill one bed: our own choice


def of_theme(wish: Wish, crops: Sequence[str]) -> list[Wish]:
    """A wish for each crop of a theme, all for the same day."""
    return [
        replace(wish, key=f"{wish.key}.{crop}", crops=(crop,), text=f"{wish.text}: {crop}", origin="theme")
        for crop in crops
    ]


def of_kinds(wish: Wish, kinds: int) -> list[Wish]:
    """So many wishes for anything of a kind; which crops, the aim for kinds decides."""
    return [replace(wish, key=f"{wish.key}.{n}", text=f"{wish.text} {n}") for n in range(1, kinds + 1)]


def of_weeks(wish: Wish, crop: Crop, grams_a_week: float) -> list[Wish]:
    """So much a week from `ready_by` to `ready_to`: one wish where the crop lasts as long, else one for as long as each lasts.

    It lasts while it is picked again and again, may stand, or keeps in store. **Source:** our own rule. Raises ValueError without days.
    """
    if wish.ready_by is None or wish.ready_to is None:
        raise ValueError("a weekly wish has two days")
    days = (wish.ready_to - wish.ready_by).days + 1
    lasts = max(7, crop.picking_days, crop.stands_days or 0)
    parts = max(1, math.ceil(days / lasts))
    found = []
    for n in range(parts):
        first = wish.ready_by + timedelta(days=n * days // parts)
        last = wish.ready_by + timedelta(days=(n + 1) * days // parts - 1)
        grams = max(1, round(grams_a_week * ((last - first).days + 1) / 7))
        key = wish.key if parts == 1 else f"{wish.key}.{n + 1}"
        text = wish.text if parts == 1 else f"{wish.text}, {n + 1} of {parts}"
        found.append(
            replace(wish, key=key, text=text, grams=grams, ready_by=first, ready_to=_within(first, last, lasts))
        )
    return found


def _within(first: date, last: date, lasts: int) -> date:
    """The last day that one sowing can be asked to reach, a week short of how long it lasts."""
    return min(last, first + timedelta(days=max(0, lasts - 7)))


def filling(wish: Wish, beds: Iterable[tuple[str, float]]) -> list[Wish]:
    """Wishes that take what is left of each bed (its key, its area in mm²), a few squares each."""
    found = []
    for bed, area in beds:
        if wish.beds and bed not in wish.beds:
            continue
        feet = area / float(MM_PER_FOOT) ** 2
        for n in range(min(MOST_FILLING, max(1, round(feet / FILLING_SQUARES)))):
            found.append(
                replace(
                    wish,
                    key=f"{wish.key}.{bed}.{n + 1}",
                    squares=min(FILLING_SQUARES, max(1, round(feet))),
                    weight="if room",
                    origin="filling",
                    beds=frozenset({bed}),
                )
            )
    return found
