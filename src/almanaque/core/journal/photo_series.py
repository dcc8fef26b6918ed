"""Then and now: which photos of the same are laid beside each other."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

APART = timedelta(days=7)  # nearer to each other two photos show no change: our own rule
MOST_IN_STRIP = 6  # photos in a strip: our own choice


@dataclass(frozen=True)
class SeriesPhoto:
    """A photo by its day and the place that it was taken from; empty for nowhere in particular."""

    id: str
    day: date
    viewpoint: str = ""


def series(photos: Sequence[SeriesPhoto]) -> list[SeriesPhoto]:
    """The photos that compare best, oldest first: those of the place with most of them, else all; from first to last, evenly in time.

    Empty where there are not two that lie apart.
    """
    places: dict[str, list[SeriesPhoto]] = {}
    for one in sorted(photos, key=lambda p: (p.day, p.id)):
        places.setdefault(one.viewpoint, []).append(one)
    of_places = [found for name, found in places.items() if name and _apart(found)]
    every = sorted(photos, key=lambda p: (p.day, p.id))
    chosen = max(of_places, key=lambda found: (len(found), found[-1].day), default=every)
    return _evenly(chosen) if _apart(chosen) else []


def _apart(photos: Sequence[SeriesPhoto]) -> bool:
    return len(photos) > 1 and photos[-1].day - photos[0].day >= APART


def _evenly(photos: Sequence[SeriesPhoto]) -> list[SeriesPhoto]:
    """At most so many, first and last among them, the others nearest to even steps of time."""
    if len(photos) <= MOST_IN_STRIP:
        return list(photos)
    first, last = photos[0].day, photos[-1].day
    steps = [first + (last - first) * n / (MOST_IN_STRIP - 1) for n in range(1, MOST_IN_STRIP - 1)]
    inner = {min(photos[1:-1], key=lambda p: (abs(p.day - step), p.id)).id for step in steps}
    return [p for p in photos if p.id in inner or p.id in (photos[0].id, photos[-1].id)]
