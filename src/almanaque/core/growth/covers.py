"""What covers do to the warmth that plants feel: row cover, tunnel and frame.

A cover lifts the night's least and the day's greatest temperature by stated amounts. It is opened on warm days, when it would
do harm. **Source:** common practice, no source; the amounts are middling figures from memory, and a gardener's own
thermometer under the cover goes before them.
"""

from dataclasses import dataclass
from datetime import date
from typing import Literal

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
QUARTERS_C = (4.0, 9.0)  # least and greatest of a day [°C] in a room for the winter: common practice, no source
CoverKey = Literal["row cover", "tunnel", "frame"]


@dataclass(frozen=True)
class Cover:
    """A kind of cover: by how much [°C] it lifts the least and the greatest temperature, and above which it is opened."""

    key: CoverKey
    least_c: float
    greatest_c: float
    opened_above_c: float


COVERS: dict[CoverKey, Cover] = {
    "row cover": Cover("row cover", 2.0, 2.0, 22.0),
    "tunnel": Cover("tunnel", 2.5, 6.0, 20.0),
    "frame": Cover("frame", 3.5, 6.0, 18.0),
}
# Features of the garden map that cover a bed, and what they are as covers.
OF_FEATURE: dict[str, CoverKey] = {"tunnel": "tunnel", "frame": "frame", "cover": "row cover"}


@dataclass(frozen=True)
class Covering:
    """A cover over a bed; with days of the year (month, day) it lies there from the one to the other, else all the time.

    `quarters` are no cover but a frost-free room into which a pot is carried for those days.
    """

    key: CoverKey
    from_day: tuple[int, int] | None = None
    to_day: tuple[int, int] | None = None
    quarters: bool = False

    @property
    def cover(self) -> Cover:
        return COVERS[self.key]


def covering(kind: str, from_day: date | None, to_day: date | None) -> Covering | None:
    """The covering that a feature of the map is; None for a feature that covers nothing.

    One that lies for a year or more, or whose days are not given, lies all the time.
    """
    key = OF_FEATURE.get(kind)
    if key is None:
        return None
    if from_day is None or to_day is None or (to_day - from_day).days >= 364:
        return Covering(key)
    return Covering(key, (from_day.month, from_day.day), (to_day.month, to_day.day))


def under(
    tmin_c: Floats, tmax_c: Floats, covering: Covering, month: npt.NDArray[np.int64], day: npt.NDArray[np.int64]
) -> tuple[Floats, Floats]:
    """Least and greatest temperature [°C] felt under a cover; arrays (days,), with the month and day of each.

    On days that are warmer outside than it bears, the cover is open and the plant feels the air. Inputs are not changed.

    >>> under(np.array([0.0, 12.0]), np.array([8.0, 25.0]), Covering("row cover"), np.array([4, 7]), np.array([1, 1]))
    (array([ 2., 12.]), array([10., 25.]))
    """
    cover = covering.cover
    on = np.full(len(tmax_c), True) if covering.quarters else tmax_c < cover.opened_above_c
    if covering.from_day is not None and covering.to_day is not None:
        at, first, last = month * 100 + day, _number(covering.from_day), _number(covering.to_day)
        on &= (first <= at) & (at <= last) if first <= last else (at >= first) | (at <= last)
    if covering.quarters:
        return np.where(on, np.maximum(tmin_c, QUARTERS_C[0]), tmin_c), np.where(
            on, np.maximum(tmax_c, QUARTERS_C[1]), tmax_c
        )
    # Under glass the day never gets warmer than that at which it is opened.
    warmed = np.maximum(tmax_c, np.minimum(tmax_c + cover.greatest_c, cover.opened_above_c))
    return np.where(on, tmin_c + cover.least_c, tmin_c), np.where(on, warmed, tmax_c)


def _number(day: tuple[int, int]) -> int:
    return day[0] * 100 + day[1]
