"""What a planting in the bed has behind it by this season's own weather, so that its forecast goes on from there."""

from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.growth.conditions import BOLTS_BELOW_C, Conditions, Floats, reached
from almanaque.core.growth.crop_runs import MISSING_SHARE, MOST_MISSING, Behind, needs, season_ripe

ALMOST = 0.999  # the share of a seed that is not up yet stays below 1


@dataclass(frozen=True)
class SeasonToDate:
    """How far a planting is on the morning of `day`: `up_on` when it was up, if it is; `share` of the warmth to its first picking."""

    day: date
    behind: Behind
    up_on: date | None
    share: float


def season_to_date(
    crop: Crop,
    method: Method,
    conditions: Conditions,
    *,
    bed_from: date,
    today: date,
    seen_up: date | None = None,
    pace: float = 1.0,
) -> SeasonToDate | None:
    """How far a planting is that came into the bed on a day, by the weather recorded until today.

    `seen_up` is the day on which somebody saw it up; else it is reckoned. `pace` is the share of its usual warmth that it takes there.
    Where the record does not hold the time since it came into the bed, or more than a twentieth of it is missing, it goes on from the
    day it was seen up, and None without one. Plants that come again go by the season at hand; None before their first one.
    """
    if crop.season_warmth is not None:
        return _season(crop, method, conditions, bed_from, today, crop.season_warmth)
    day = min(today, conditions.first_day + timedelta(days=conditions.days))
    if not _recorded(conditions, bed_from, day) or (seen_up is not None and day <= seen_up):
        if seen_up is None:
            return None
        return SeasonToDate(
            seen_up, Behind(1.0, float(crop.seed_cold_days), days=(seen_up - bed_from).days), seen_up, 0.0
        )
    begin, now = (bed_from - conditions.first_day).days, (day - conditions.first_day).days
    up = _up(crop, method, conditions, begin, seen_up)
    if up > now:
        ready, seed_cold = begin, 0.0
        if method == "direct" and crop.seed_cold_days:
            seed_cold = _since(conditions.seed_cold(), begin, now)
            ready = min(_reached(conditions.seed_cold(), begin, crop.seed_cold_days), now)
        share = _since(conditions.coming_up(crop), ready, now)
        return SeasonToDate(day, Behind(up=min(share, ALMOST), seed_cold=seed_cold, days=now - begin), None, 0.0)
    cold = _since(conditions.vernal(crop.cold_below_c), up, now) if crop.cold_days else 0.0
    met = _reached(conditions.vernal(crop.cold_below_c), up, crop.cold_days) if crop.cold_days else up
    sums = conditions.warmth(crop)
    warmth = _since(sums, met, now) if met < now else 0.0
    behind = Behind(
        1.0,
        float(crop.seed_cold_days),
        cold,
        _since(conditions.cold(BOLTS_BELOW_C), up, now),
        warmth,
        now - begin,
        now - up,
    )
    return SeasonToDate(
        day, behind, conditions.first_day + timedelta(days=up), min(1.0, warmth / (needs(crop, method) * pace))
    )


def warmer_than_usual(crop: Crop, conditions: Conditions, *, since: date, until: date) -> float | None:
    """By what share of the middle year's the warmth that a crop could use was more from a day until another of this season.

    None where the record does not hold these days, or has no other year for them.
    """
    begin, days = (since - conditions.first_day).days, (until - since).days
    if days <= 0 or begin < 0 or begin + days > conditions.days or not _recorded(conditions, since, until):
        return None
    sums = conditions.warmth(crop)
    begins = conditions.starts[since.month * 100 + since.day]
    others = begins[(begins >= 0) & (begins + days <= conditions.days) & (begins != begin)]
    if not len(others):
        return None
    usual = float(np.median(sums[others + days] - sums[others]))
    return (float(sums[begin + days] - sums[begin]) - usual) / usual if usual > 0 else None


def _season(
    crop: Crop, method: Method, conditions: Conditions, bed_from: date, today: date, need: float
) -> SeasonToDate | None:
    """The season that is under way, or the next when its picking is over: warmth counts from midwinter."""
    bears_from = bed_from + timedelta(days=crop.days[method][0])
    if today < bears_from:
        return None
    begins = _midwinter(today, southern=conditions.climate.southern)
    recorded = min(today, conditions.first_day + timedelta(days=conditions.days))
    if not _recorded(conditions, begins, recorded):
        return None
    sums = conditions.warmth(crop)
    begin, now = ((day - conditions.first_day).days for day in (begins, recorded))
    warm_on = _reached(sums, begin, need)
    picked = int(season_ripe(crop, conditions, np.array([warm_on], dtype=np.int32))[0])
    ripe = min(warm_on, now)
    first = conditions.first_day + timedelta(days=ripe)
    over = conditions.first_day + timedelta(days=picked + crop.picking_days)
    if picked < now and (conditions.first_day + timedelta(days=picked) < bears_from or over < today):
        following = _midwinter(begins + timedelta(days=370), southern=conditions.climate.southern)
        return SeasonToDate(following, Behind(1.0), bed_from, 0.0)
    warmth = _since(sums, begin, ripe)
    return SeasonToDate(first, Behind(1.0, warmth=warmth), bed_from, min(1.0, warmth / need))


def _midwinter(day: date, *, southern: bool) -> date:
    """The first day of the warmth count that a day falls in: 1 January, south of the equator 1 July."""
    if not southern:
        return date(day.year, 1, 1)
    return date(day.year if day.month >= 7 else day.year - 1, 7, 1)


def _recorded(conditions: Conditions, begins: date, ends: date) -> bool:
    """True when the record holds the days from the one to before the other, with few of them missing."""
    if begins < conditions.first_day or ends <= begins:
        return False
    begin, end = (begins - conditions.first_day).days, (ends - conditions.first_day).days
    gone = conditions.missing[end] - conditions.missing[begin]
    return bool(gone <= max(MOST_MISSING, MISSING_SHARE * (end - begin)))


def _up(crop: Crop, method: Method, conditions: Conditions, begin: int, seen_up: date | None) -> int:
    if seen_up is not None:
        return max(begin, (seen_up - conditions.first_day).days)
    if method in ("indoors", "starts"):
        return begin
    cold = crop.seed_cold_days if method == "direct" else 0
    ready = _reached(conditions.seed_cold(), begin, cold) if cold else begin
    return _reached(conditions.coming_up(crop), ready, 1.0)


def _since(sums: Floats, begin: int, now: int) -> float:
    return float(sums[now] - sums[min(begin, now)])


def _reached(sums: Floats, begin: int, need: float) -> int:
    return int(reached(sums, np.array([begin], dtype=np.int32), need)[0])
