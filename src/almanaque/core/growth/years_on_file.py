"""What every year on file makes of the first days of a way of starting a crop; packet days where none does."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date

import numpy as np
import numpy.typing as npt

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.growth.crop_runs import Behind, Outcome
from almanaque.core.growth.growth_dates import forecast
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.year_counts import Bools, Ints, month_days


@dataclass(frozen=True)
class WayYears:
    """Days after the first one, arrays (days, years); `known` marks the years that are covered to the end."""

    into_bed: int
    up: Ints
    first: Ints
    last: Ints
    stands: Ints
    outcome: npt.NDArray[np.int8]
    touched: Bools
    dropped: Bools
    known: Bools
    spread: tuple[int, int]

    def below(self, others: "Sequence[WayYears]") -> "WayYears":
        """These years with those of others below them; what is one value for each stays this one's."""
        if not others:
            return self
        every = (self, *others)
        return replace(
            self,
            up=np.concatenate([years.up for years in every]),
            first=np.concatenate([years.first for years in every]),
            last=np.concatenate([years.last for years in every]),
            stands=np.concatenate([years.stands for years in every]),
            outcome=np.concatenate([years.outcome for years in every]),
            touched=np.concatenate([years.touched for years in every]),
            dropped=np.concatenate([years.dropped for years in every]),
            known=np.concatenate([years.known for years in every]),
        )


def measured(
    crop: Crop, method: Method, days: Ints, setting: Setting, quicker: float, behind: Behind, later: int = 0
) -> WayYears | None:
    """The years of the record; None when it covers none of these days to the end. Plants go out `later` days than usual.

    What stands there goes by the pace of the place, besides being `quicker`.
    """
    record = setting.record
    assert record is not None
    runs = record.runs(
        crop,
        method,
        ready_by=setting.ready_by,
        covering=setting.covering,
        indoors_c=setting.indoors_c,
        quicker=quicker * setting.pace_of(crop),
        behind=behind,
    )
    rows = record.conditions(setting.covering, setting.indoors_c).starts[month_days(days + later)]
    outcome = runs.outcome[rows]
    known = (rows >= 0) & (outcome != Outcome.UNKNOWN)
    if not known.any():
        return None
    up, first, last, stands = (kept[rows] + np.int16(later) for kept in (runs.up, runs.first, runs.last, runs.stands))
    outcome, touched = np.where(known, outcome, Outcome.UNKNOWN), known & runs.touched[rows]
    dropped = known & runs.dropped[rows]
    return WayYears(runs.into_bed + later, up, first, last, stands, outcome, touched, dropped, known, runs.spread)


def by_packet(crop: Crop, method: Method, days: Ints, setting: Setting, later: int = 0) -> WayYears:
    """Packet days alone, as one year that nobody measured."""
    dates = (
        forecast(crop, method, date.fromordinal(int(days[0])))
        if len(days)
        else forecast(crop, method, date(2000, 1, 1))
    )
    begin = dates.start

    def offset(day: date | None) -> Ints:
        return np.full((len(days), 1), (day - begin).days if day else 0, dtype=np.int64)

    spread = ((dates.first_pick_early - dates.first_pick).days, (dates.first_pick_late - dates.first_pick).days)
    whole = np.ones((len(days), 1), dtype=bool)
    up = offset(dates.emerge_to or dates.bed_from) + later
    ripens = later + setting.days_later(crop, method)
    first, last = offset(dates.first_pick) + ripens, offset(dates.last_pick) + ripens
    stands = first + max(crop.stands_days or 0, crop.picking_days)
    none = np.zeros((len(days), 1), dtype=np.int8)
    bed = (dates.bed_from - begin).days + later
    return WayYears(bed, up, first, last, stands, none, none.astype(bool), none.astype(bool), whole, spread)
