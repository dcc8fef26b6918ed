"""First and last freezes of cold seasons, and their quantiles over the years.

A season has two halves that meet at midwinter: its first freeze falls in the first, its last in the second.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class FreezeDate:
    """One quantile of a freeze date as days after the season's first day; None when it falls among those without one.

    Days are counted through 29 February, and named by the calendar of the season that is asked for.
    """

    probability: float
    day_of_season: float | None


@dataclass(frozen=True)
class Freezes:
    """First and last freezes below a threshold [°C]: days after each season's first day, NaN for a season without one.

    `firsts` has the seasons whose first half is on file, `lasts` those whose second half is; a record that begins or
    ends at midwinter so adds half a season to one of them.
    """

    threshold_c: float
    firsts: Floats
    lasts: Floats

    @property
    def seasons(self) -> int:
        """How many seasons both kinds of date rest on, at the least."""
        return min(len(self.firsts), len(self.lasts))

    @property
    def first_without(self) -> int:
        return int(np.isnan(self.firsts).sum())

    @property
    def last_without(self) -> int:
        return int(np.isnan(self.lasts).sum())

    def last(self, probability: float) -> FreezeDate:
        """Quantile of the last freeze of the cold season. A season without one counts as *never*, earlier than any."""
        return quantile(self.lasts, probability, never_is_late=False)

    def first(self, probability: float) -> FreezeDate:
        """Quantile of the first freeze of the cold season. A season without one counts as later than any."""
        return quantile(self.firsts, probability, never_is_late=True)


@dataclass(frozen=True)
class HalfSeasons:
    """Least temperatures [°C] of the two halves of a season, arrays (days,); None for a half that is not on file."""

    starts: date
    midwinter: date
    early: Floats | None
    late: Floats | None


@dataclass(frozen=True)
class FreezeTable:
    """The freezes, and as `whole` the first and last ones of the seasons that are on file with both halves."""

    freezes: Freezes
    whole: tuple[Floats, Floats]


def table(seasons: Sequence[HalfSeasons], threshold_c: float) -> FreezeTable:
    """Freezes of every season: nights at or below the threshold [°C].

    A half counts when it has a freeze, or when the other half is on file too, so that the season is known to have none.
    """
    firsts, lasts, whole = [], [], []
    for season in seasons:
        half = (season.midwinter - season.starts).days
        autumn, spring = (
            np.flatnonzero(values <= threshold_c) if values is not None else np.array([], dtype=int)
            for values in (season.early, season.late)
        )
        days = np.concatenate([autumn, half + spring])
        complete = season.early is not None and season.late is not None
        first, last = (float(days[at]) if len(days) else np.nan for at in (0, -1))
        if season.early is not None and (complete or len(autumn)):
            firsts.append(first)
        if season.late is not None and (complete or len(spring)):
            lasts.append(last)
        if complete:
            whole.append((first, last))
    pairs = np.array(whole, dtype=float).reshape(-1, 2)
    return FreezeTable(Freezes(threshold_c, np.array(firsts), np.array(lasts)), (pairs[:, 0], pairs[:, 1]))


def quantile(days: Floats, probability: float, *, never_is_late: bool) -> FreezeDate:
    """Empirical quantile with linear interpolation over seasons (as NumPy's default), seasons without sorted outside."""
    if not len(days):
        return FreezeDate(probability, None)
    ordered = np.sort(np.where(np.isnan(days), np.inf if never_is_late else -np.inf, days))
    at = probability * (len(ordered) - 1)
    low, high = ordered[int(np.floor(at))], ordered[int(np.ceil(at))]
    if not (np.isfinite(low) and np.isfinite(high)):
        return FreezeDate(probability, None)
    return FreezeDate(probability, float(low + (high - low) * (at - np.floor(at))))
