"""The usual weeks for starting a crop, counted from the spring and the autumn of a weather record: the second opinion.

The catalogue's windows are told from the last and the first freeze, as planting charts are. They were made where spring comes
soon after the last freeze, so where it does not, spring is the day that is as warm; and where winters are mild, they are
the season of cool crops.

What is set while it is dormant, or so many weeks before the ground freezes, has its season by that and not by the freezes: from
leaf fall until it buds, or from cool days on until there is no time left to root.
"""

from dataclasses import dataclass, field
from datetime import date, timedelta

import numpy as np
import numpy.typing as npt

from almanaque.core.crops.crop import Anchor, Crop, Method
from almanaque.core.place.climate import Climate

YEAR = 366  # days, of a leap year
SPRING_C, AUTUMN_C = (
    12.0,
    11.0,
)  # normal means of the day [°C] that stand for the freezes where these come too early or late
MILD_C = 6.0  # a coldest normal mean from which cool crops grow through the winter: our own rule
LONG_SEASON_DAYS = 230  # from spring to the first freeze, from which warm crops may be started for longer: our own rule
LONGER_WEEKS = 8  # for so much longer: our own rule
GRACE_WEEKS = 1  # either way before a day counts as outside: our own rule

# Normal means of the day [°C], common practice, no source: leaves have fallen below the first, buds are out above the second.
LEAF_FALL_C, OUT_IN_LEAF_C = 8.0, 12.0
ALWAYS_LEAFY_C = 13.0  # of the coldest day, from which nothing rests for its warmth
FROZEN_C = -1.0  # from which the ground is taken to freeze, since it lags behind the air
COOL_WINTER_C = 5.0  # of the coldest day; where it is milder, "cool" begins warmer by as much
NO_WINTER_C = 16.0  # of the coldest day, from which there is no winter to be set before: our own rule
ONE_SEASON_C = (
    5.0  # between the coldest and the warmest normal day, under which there is neither rest nor winter: our own rule
)
STILL_SUMMER_DAYS = 45  # after the warmest day, however cool the summer: our own rule

Bools = npt.NDArray[np.bool_]
Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class UsualWeeks:
    """Spring and autumn of a place as days of a leap year, 1 January is 0; None where hardly any winter freezes."""

    spring: int | None
    autumn: int | None
    mild: bool
    long: bool
    normal_c: Floats | None = field(default=None, compare=False, repr=False)
    _open: dict[tuple[str, Method], Bools | None] = field(default_factory=dict, compare=False, repr=False)

    def spans(self, crop: Crop, method: Method) -> list[tuple[int, int]]:
        """First and last day of each usual window, days of the year that may lie outside of 0 to 365; none where it cannot be told."""
        if crop.set_when and self.normal_c is not None:
            return _runs(
                _dormant(self.normal_c, crop) if crop.set_when == "dormant" else _before_winter(self.normal_c, crop)
            )
        found: dict[Anchor, tuple[int, int]] = {}
        for window in crop.windows:
            anchor = self.spring if window.anchor == "last freeze" else self.autumn
            if window.method == method and anchor is not None:
                longer = LONGER_WEEKS if crop.season == "warm" and self.long and crop.life == "annual" else 0
                found[window.anchor] = (anchor + 7 * window.weeks[0], anchor + 7 * (window.weeks[1] + longer) + 6)
        if self.mild and crop.season == "cool" and len(found) == 2:
            begins, ends = found["first freeze"][0], found["last freeze"][1]
            return [(begins if begins < ends else begins - YEAR, ends)]
        spans = sorted(found.values())
        if len(spans) == 2 and spans[1][0] <= spans[0][1] + 1:
            return [(spans[0][0], max(spans[0][1], spans[1][1]))]
        return spans

    def open_days(self, crop: Crop, method: Method) -> Bools | None:
        """By day of the year whether it lies in a usual window or a week about it, (366,); None where that cannot be told."""
        key = (crop.digest, method)
        if key not in self._open:
            self._open[key] = self._open_days(crop, method)
        return self._open[key]

    def _open_days(self, crop: Crop, method: Method) -> Bools | None:
        spans = self.spans(crop, method)
        if not spans:
            return None
        found = np.zeros(YEAR, dtype=np.bool_)
        for first, last in spans:
            found[np.arange(first - 7 * GRACE_WEEKS, last + 7 * GRACE_WEEKS + 1) % YEAR] = True
        return found

    def dates(self, crop: Crop, method: Method, near: date) -> list[tuple[date, date]]:
        """The windows as days, those nearest to a day."""
        found = []
        for first, last in self.spans(crop, method):
            years = [
                (date(near.year + n, 1, 1) + timedelta(days=first), date(near.year + n, 1, 1) + timedelta(days=last))
                for n in (-1, 0, 1)
            ]
            found.append(min(years, key=lambda span: max((span[0] - near).days, (near - span[1]).days)))
        return sorted(found)


def of_climate(climate: Climate) -> UsualWeeks:
    """Spring is the middle last freeze, or the day on which the normal mean rises to 12 °C if that is later; autumn the middle
    first freeze, or the day on which it falls below 11 °C if that is earlier."""
    usual = np.array([climate.normal_mean_c(date(2028, 1, 1) + timedelta(days=n)) or np.nan for n in range(YEAR)])
    if np.isnan(usual).any():
        return UsualWeeks(None, None, mild=False, long=False)
    start = climate.season_start(date(2028, 3, 1))
    midsummer = 1 if climate.southern else 182  # about the turn of the year half a year from midwinter
    from_midsummer = np.roll(usual, -midsummer)
    last, first = climate.date_of(climate.last_freeze(0.5), start), climate.date_of(climate.first_freeze(0.5), start)
    below = np.flatnonzero(from_midsummer < AUTUMN_C)
    cold = np.flatnonzero(from_midsummer < SPRING_C)

    def at(day: date | None) -> int | None:
        """Days after midsummer."""
        return None if day is None else ((day - date(day.year, 1, 1)).days - midsummer) % YEAR

    mild, usual = bool(usual.min() >= MILD_C), _smooth(usual)
    springs = [n for n in (at(last), int(cold[-1]) + 1 if len(cold) else None) if n is not None]
    autumns = [n for n in (at(first), int(below[0]) if len(below) else None) if n is not None]
    if not springs or not autumns:
        return UsualWeeks(None, None, mild=True, long=True, normal_c=usual)
    spring, autumn = max(springs), min(autumns)
    until_freeze = at(first)
    long = until_freeze is None or YEAR - spring + until_freeze > LONG_SEASON_DAYS
    return UsualWeeks((spring + midsummer) % YEAR, (autumn + midsummer) % YEAR, mild=mild, long=long, normal_c=usual)


def _smooth(normal_c: Floats) -> Floats:
    """A month's running mean, so that the year has one fall and one rise."""
    return np.convolve(np.concatenate([normal_c[-15:], normal_c, normal_c[:15]]), np.ones(31) / 31, "valid")


def _since_midsummer(normal_c: Floats) -> tuple[Floats, int]:
    """The normals from the warmest day on, and that day."""
    warmest = int(normal_c.argmax())
    return np.roll(normal_c, -warmest), warmest


def _freezes_up(falling: Floats) -> int | None:
    """Days after the warmest one on which the ground freezes; None where it does not."""
    frozen = np.flatnonzero(falling < FROZEN_C)
    return int(frozen[0]) if len(frozen) else None


def _dormant(normal_c: Floats, crop: Crop) -> Bools:
    """By day of the year whether it rests and can be set: from leaf fall, in autumn with weeks left to root, until it is in leaf."""
    year, warmest = _since_midsummer(normal_c)
    coldest = int(year.argmin())
    milder = max(0.0, year[coldest] - COOL_WINTER_C)
    day = np.arange(YEAR)
    if year[coldest] >= ALWAYS_LEAFY_C or year[0] - year[coldest] < ONE_SEASON_C:
        return np.zeros(YEAR, dtype=np.bool_)
    falling = (day < coldest) & (year < LEAF_FALL_C + milder)
    rising = (day >= coldest) & (year < max(OUT_IN_LEAF_C, year[coldest] + 2.0))
    frozen, freezes_up = year < FROZEN_C, _freezes_up(year)
    in_time = day < (coldest if freezes_up is None else freezes_up - 7 * crop.roots_in_weeks)
    return np.roll((falling & in_time) | (rising & ~frozen), warmest)


def _before_winter(normal_c: Floats, crop: Crop) -> Bools:
    """By day of the year whether it is cool enough to be set and there are weeks left to root before the ground freezes, or midwinter."""
    year, warmest = _since_midsummer(normal_c)
    coldest = int(year.argmin())
    below = (crop.set_below_c or 0.0) + max(0.0, year[coldest] - COOL_WINTER_C)
    freezes_up, day = _freezes_up(year), np.arange(YEAR)
    last = (coldest if freezes_up is None else freezes_up) - 7 * crop.roots_in_weeks
    if year[coldest] >= NO_WINTER_C or year[0] - year[coldest] < ONE_SEASON_C:
        return np.zeros(YEAR, dtype=np.bool_)
    return np.roll((day >= STILL_SUMMER_DAYS) & (day <= last) & (year < below), warmest)


def _runs(open_days: Bools) -> list[tuple[int, int]]:
    """First and last day of each run of a year that goes round; one over its turn begins before 0. None of a whole year."""
    begins = np.flatnonzero(open_days & ~np.roll(open_days, 1))
    ends = np.flatnonzero(open_days & ~np.roll(open_days, -1))
    spans = [(int(first), int(ends[ends >= first][0] if (ends >= first).any() else ends[0] + YEAR)) for first in begins]
    return sorted((first - YEAR, last - YEAR) if last >= YEAR else (first, last) for first, last in spans)
