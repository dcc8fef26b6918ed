"""Where the local office's chart and the weather on file differ about when to begin, in one judgement.

A chart speaks of months and means their usual weather; the record tells what each year made of the first of them.
"""

from datetime import date, timedelta

import numpy as np

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.findings import Finding
from almanaque.core.growth import verdicts
from almanaque.core.growth.setting import Setting, chart_months
from almanaque.core.growth.sowing_days import weigh
from almanaque.core.growth.year_counts import Ints, month_days
from almanaque.core.words import Phrase

EARLIER_DAYS = 14  # by which the weather must be earlier than the chart before it is worth a sentence: our own rule
LOOK_BACK_DAYS = 183


def where_they_differ(crop: Crop, method: Method, setting: Setting, *, after: date) -> Finding | None:
    """A note on the chart's next first day after `after`: in how many years it was too early, or that it need not be awaited.

    None where there is no chart for it, no record, a chart of all months, or no difference.
    """
    months = chart_months(crop, method, setting)
    if not setting.measured or not months or len(months) == 12:
        return None
    first = _next_beginning(months, after)
    days = [first - timedelta(days=n) for n in range(LOOK_BACK_DAYS, -1, -1)]
    weighed = weigh(crop, method, days, setting)
    of, ripe = weighed.of, weighed.ripe
    known = {"crop": crop.name.en, "first": first, "of": int(of[-1])}
    cold = _years_too_cold(crop, method, first, setting)
    lost = of[-1] - ripe[-1]
    if lost >= max(1, verdicts.CARE_SHARE * of[-1]):
        code = _loss(weighed.outcomes[-1])
        if code == "not_up" and 2 * cold >= lost:
            code = "too_cold"
        return _told({**known, "n": int(lost), "why": Phrase(f"findings.part.lost_{code}")}, "lost")
    if cold >= max(1, verdicts.CARE_SHARE * of[-1]):
        return _told({**known, "n": cold}, "waits")
    good = (ripe >= verdicts.SURE_SHARE * of) & (weighed.said["not_in_window"] == verdicts.NONE)
    bad = np.flatnonzero(~good)
    begins = int(bad[-1]) + 1 if len(bad) else 0
    if len(days) - 1 - begins >= EARLIER_DAYS:
        return _told({**known, "from": days[begins], "n": int(ripe[begins])}, "later")
    return None


def _told(params: dict[str, object], case: str) -> Finding:
    return Finding("chart_differs", "note", str(params["crop"]), params, "weather", case=case)


def _loss(outcomes: Ints) -> str:
    """The code of the loss that most years share."""
    return max(verdicts.LOSSES.items(), key=lambda loss: outcomes[loss[0]])[1]


def _next_beginning(months: frozenset[int], after: date) -> date:
    """The first day after `after` of a month that is in the chart while the one before is not."""
    day = after.replace(day=1)
    while True:
        before, day = day, (day + timedelta(days=31)).replace(day=1)
        if day.month in months and before.month not in months:
            return day


def _years_too_cold(crop: Crop, method: Method, day: date, setting: Setting) -> int:
    """In how many years on file the ground was colder than the seed wants on that day, or could not be worked."""
    if method != "direct" or setting.record is None:
        return 0
    conditions = setting.record.conditions(setting.covering, setting.indoors_c)
    rows = conditions.starts[month_days(np.array([day.toordinal()]))[0]]
    rows = rows[rows >= 0]
    return int(((conditions.soil_c[rows] < crop.germination_c[0]) | ~conditions.workable[rows]).sum())
