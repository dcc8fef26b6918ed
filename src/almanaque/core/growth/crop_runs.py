"""What becomes of a crop sown on any day of any year on file: up, ripe, until when, or what ended it.

All days of the record are sowing days at once: `grow` returns arrays along them. Two schools say when it is ripe: `packet`
counts the packet's calendar days, `warmth` adds up degree-days above the crop's base from the day it is up or set out,
slowed under ten hours of light. Both kill what frost or heat would. `sowing_days` reads
the answers for days of a school year.
"""

from dataclasses import dataclass
from enum import IntEnum
from typing import Literal

import numpy as np
import numpy.typing as npt

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.errors import BadInput
from almanaque.core.growth import emergence
from almanaque.core.growth.conditions import BOLTS_BELOW_C, Conditions, Ints, reached, useful_warmth
from almanaque.core.words import term

Shorts = npt.NDArray[np.int16]
ReadyBy = Literal["warmth", "packet"]

REFERENCE_C = {"cool": 15.5, "warm": 21.0}  # warmth at which a packet's days hold, about 60 and 70 °F: our own rule
SWING_C = 5.0  # of a day about its mean, at which a packet's days hold: our own rule
INDOORS_C = 20.0  # warmth of a room in which seed is started
NOT_UP_DAYS = {"cool": 75, "warm": 40}  # seed that is not up by then has rotted, or been eaten: our own rule
FLOWERS_C = 2.0  # less heat than a warm crop bears makes it drop its flowers: common practice, no source
BULB_DAYS = 35  # from days long enough for it until a bulb is full: common practice, no source
LEAST_SHARE = 0.8  # of the packet's least days, below which no warmth ripens it: our own rule
CHILL_BEFORE_DAYS, CHILL_AFTER_DAYS = 90, 75  # about midwinter, in which hours of chill count: our own rule
NOT_UP_WITH_COLD_DAYS = 300  # the same for seed that must lie through a winter
COLD_WITHIN_DAYS = 110  # a need for cold that is not met by then comes a summer too late: our own rule
LONGEST_DAYS = 500  # an annual that is not ripe by then never is
LONGEST_WAIT_DAYS = 2200  # the same for one that comes again each year
FROM_THE_ROOT_C = -20.0  # what comes again and bears this much survives colder nights underground: our own rule
MOST_OFFSET = 32_000  # what lies beyond is kept as this, so that short integers hold it
MISSING_SHARE = 0.05  # a run that rests on more missing days than this is not counted
MOST_MISSING = 3  # days without a reading that are always allowed


class Outcome(IntEnum):
    """What became of a sowing. UNKNOWN: the record ends first, or too much of it is missing. NO_GROUND: the ground could not be
    worked on that day. CHILLED: harmed by cold nights without frost.
    """

    RIPE = 0
    NOT_UP = 1
    FROZEN = 2
    HEAT = 3
    NO_COLD = 4
    BOLTED = 5
    NOT_RIPE = 6
    UNKNOWN = 7
    NO_GROUND = 8
    CHILLED = 9


@dataclass(frozen=True)
class Runs:
    """Every day of a record as the first day of a planting, arrays (days,) of days after it.

    `into_bed` is when it stands in the bed, `up` when the seed is up (when it stands in the bed, for plants), `first` and
    `last` the picking at its best, `stands` until when it may stand in the ground or on the plant. `touched` tells whether a
    frost touched its leaves before the picking and did not kill it, `dropped` whether heat made a warm crop drop
    its flowers. `spread` are the days by which packets differ around the first picking: earliest, latest.
    """

    into_bed: int
    up: Shorts
    first: Shorts
    last: Shorts
    stands: Shorts
    outcome: npt.NDArray[np.int8]
    touched: npt.NDArray[np.bool_]
    dropped: npt.NDArray[np.bool_]
    spread: tuple[int, int]

    @property
    def nbytes(self) -> int:
        """Memory that its arrays take."""
        return sum(
            kept.nbytes
            for kept in (self.up, self.first, self.last, self.stands, self.outcome, self.touched, self.dropped)
        )


@dataclass(frozen=True)
class Behind:
    """What a plant has behind it when a run begins in the middle of its life; all of it counts towards what it needs.

    `up` is the share of the way to emergence, 1 for what is up or was planted; `seed_cold` [days] in the ground; `cold` and
    `chill` [days] and `warmth` [°C d] since it was up, warmth from the day its need for cold was met, or of a plant that comes again
    since midwinter; `days` since it was started, `up_days` since it was up.
    """

    up: float = 0.0
    seed_cold: float = 0.0
    cold: float = 0.0
    chill: float = 0.0
    warmth: float = 0.0
    days: int = 0
    up_days: int = 0


NOTHING = Behind()


def needs(crop: Crop, method: Method) -> float:
    """Degree-days [°C d] from being up (or set out) to the first picking.

    A published figure counts from sowing, so what passes until emergence at the reference warmth is taken off. Without one
    it is the middle of the packet's days at 15.5 °C for cool crops and 21 °C for warm ones. **Source:** our own rule.
    """
    warm = crop.packet_c or REFERENCE_C[crop.season]
    a_day = float(useful_warmth(np.array(warm - SWING_C), np.array(warm + SWING_C), crop.cardinal_c))
    seed_days = (emergence.days_at(crop, warm) or crop.emerges[0]) if method == "direct" else 0.0
    if method in crop.degree_days:
        # What needs cold counts its warmth from the day that need is met, so nothing passes before it.
        return crop.degree_days[method] - (0.0 if crop.cold_days else seed_days * a_day)
    least, most = crop.days[method]
    return max(1.0, (least + most) / 2 - seed_days) * a_day


def grow(
    crop: Crop,
    method: Method,
    conditions: Conditions,
    *,
    ready_by: ReadyBy,
    quicker: float = 1.0,
    behind: Behind = NOTHING,
) -> Runs:
    """Run a crop from every day of the record. Raises BadInput when it is not started that way.

    `quicker` below 1 asks what a faster variety would do: that share of days or warmth. With something `behind` it the plant stands in
    the bed on the first day, and goes on from there. **Source:** the module's notes; the limits above are our own rules.
    """
    if method not in crop.methods:
        raise BadInput("growth.crop_not_started_that_way", crop=crop.name.en, method=term("method", method))
    end = conditions.days
    start = np.arange(end, dtype=np.int32)
    indoors = 7 * crop.weeks_indoors if method == "indoors" and behind is NOTHING else 0
    into_bed = start + indoors
    up = into_bed if behind.up >= 1 else _up(crop, method, conditions, start, into_bed, behind)
    met = _cold_met(crop, conditions, up, behind)
    ripe = _first_picking(crop, method, conditions, into_bed, up, met, ready_by, quicker, behind)
    if crop.bulbs_at_h is not None:
        long = np.append(conditions.next_long_day(crop.bulbs_at_h), [end, end])[np.clip(up - behind.up_days, 0, end)]
        ripe = np.where(long < end, np.maximum(ripe, long + BULB_DAYS), end + 1)
    soonest = into_bed + round(LEAST_SHARE * crop.days[method][0] * quicker) - behind.days
    first = np.minimum(ripe if crop.season_warmth is not None else np.maximum(ripe, soonest), end + 1)
    risks = _risks(crop, conditions, up, first, _shoots(crop, conditions, up, behind), behind)
    rots_on = _rots(crop, method, conditions, into_bed, behind)
    outcome, ends_at = _outcome(crop, start, into_bed, up, met, first, risks, rots_on, behind)
    if behind is NOTHING:
        _cannot_begin(crop, method, conditions, into_bed, outcome, ends_at)
    last, stands = _standing(crop, conditions, first, risks)
    touches = conditions.next_frost(crop.bears_c)[np.minimum(up, end - 1)]
    outcome[~_known(conditions, start, outcome, ends_at, last)] = Outcome.UNKNOWN
    least, most = crop.days[method]
    spread = (
        (round((least - most) / 2 * quicker), round((most - least) / 2 * quicker)) if ready_by == "packet" else (0, 0)
    )

    def after_start(days: Ints) -> Shorts:
        return np.asarray(np.minimum(days - start, MOST_OFFSET), dtype=np.int16)

    return Runs(
        indoors,
        after_start(up),
        after_start(first),
        after_start(last),
        after_start(stands),
        outcome,
        np.asarray((touches < first) & (outcome == Outcome.RIPE) & (crop.life != "perennial")),
        np.asarray((risks.drops_on < first) & (outcome == Outcome.RIPE)),
        spread,
    )


def _cannot_begin(
    crop: Crop, method: Method, conditions: Conditions, into_bed: Ints, outcome: npt.NDArray[np.int8], ends_at: Ints
) -> None:
    """Mark the starts in ground that cannot be worked, and those whose season lacks the winter's chill; changes the last two."""
    no_ground = ~conditions.workable[np.minimum(into_bed, conditions.days - 1)]
    if crop.winter_chill_h:
        outcome[_next_season(crop, method, conditions, into_bed)[1]] = Outcome.NO_COLD
    outcome[no_ground], ends_at[no_ground] = Outcome.NO_GROUND, into_bed[no_ground]


def _standing(crop: Crop, conditions: Conditions, first: Ints, risks: "_Risks") -> tuple[Ints, Ints]:
    """The end of the picking at its best, and the day until which it may stand: until frost, heat or flowers end it, or its own limit."""
    after = np.minimum(first, conditions.days - 1)
    flowers = np.maximum(risks.shoots_on - 1, first)
    best = np.minimum.reduce([first + crop.picking_days, risks.frost[after] - 1, risks.heat[after] - 1, flowers])
    best = np.maximum(best, first)
    freezes = conditions.next_frost(crop.dies_c if crop.stands_to_c is None else crop.stands_to_c)[after] - 1
    longest = first + max(crop.stands_days or 0, crop.picking_days)
    return best, np.maximum(best, np.minimum.reduce([longest, flowers, freezes]))


def _first_picking(
    crop: Crop,
    method: Method,
    conditions: Conditions,
    into_bed: Ints,
    up: Ints,
    met: Ints,
    ready_by: ReadyBy,
    quicker: float,
    behind: Behind,
) -> Ints:
    """The first picking by the school of readiness, or of the next season for a plant that comes again."""
    if crop.season_warmth is not None and behind is NOTHING:
        return _next_season(crop, method, conditions, into_bed)[0]
    if crop.season_warmth is not None:
        warm_on = reached(conditions.warmth(crop), into_bed, max(0.0, crop.season_warmth - behind.warmth))
        return season_ripe(crop, conditions, warm_on)
    if ready_by == "packet":
        least, most = crop.days[method]
        # Packet days do not count the days in which cold ground holds the seed back.
        left = round((least + most) / 2 * quicker) - behind.days
        return np.asarray(np.maximum(into_bed + left, up + 1), dtype=np.int32)
    return reached(conditions.warmth(crop), met, max(0.0, needs(crop, method) * quicker - behind.warmth))


@dataclass(frozen=True)
class _Risks:
    """By day of the record the next killing night and the next hot spell; by start the days on which they, or flowers, come."""

    frost: Ints
    heat: Ints
    frozen_on: Ints
    hot_on: Ints
    chilled_on: Ints
    drops_on: Ints
    shoots_on: Ints


def _risks(crop: Crop, conditions: Conditions, up: Ints, first: Ints, shoots_on: Ints, behind: Behind) -> _Risks:
    """Frost counts from the day it is up, heat in the second half of its growth, and only for cool crops.

    What comes again and bears −20 °C is cut down by winter and comes from its root, so no night ends it. **Source:** our own rules.
    """
    end = conditions.days
    never = np.full(end, end, dtype=np.int32)
    comes_again = crop.life == "perennial"
    frost = never if comes_again and crop.bears_c <= FROM_THE_ROOT_C else conditions.next_frost(crop.dies_c)
    chill = never if crop.harmed_by_nights_c is None else conditions.next_chill(crop.harmed_by_nights_c)
    heat = never if comes_again or crop.season == "warm" else conditions.next_heat(crop.heat_c)
    drops = conditions.next_heat(crop.heat_c - FLOWERS_C) if crop.sets_in_warmth else never
    began = np.minimum(up, end - 1)
    grown = np.minimum(first, end - 1) - began + behind.up_days
    half = np.clip(began - behind.up_days + grown // 2, began, end - 1)
    return _Risks(frost, heat, frost[half if crop.regrows else began], heat[half], chill[began], drops[half], shoots_on)


def _outcome(
    crop: Crop,
    start: Ints,
    into_bed: Ints,
    up: Ints,
    met: Ints,
    first: Ints,
    risks: _Risks,
    rots_on: Ints,
    behind: Behind,
) -> tuple[npt.NDArray[np.int8], Ints]:
    """What became of each start, and the day by which that was clear. Of several losses the first in the plant's life counts."""
    longest = start - behind.days + (LONGEST_WAIT_DAYS if crop.life == "perennial" else LONGEST_DAYS)
    outcome, ends_at = np.zeros(len(start), dtype=np.int8), np.minimum(first, longest)

    def lost(where: npt.NDArray[np.bool_], kind: Outcome, day: Ints) -> None:
        nonlocal ends_at
        outcome[where] = kind
        ends_at = np.where(where, np.minimum(ends_at, day), ends_at)

    lost(first > longest, Outcome.NOT_RIPE, longest)
    for day, kind in (
        (risks.shoots_on, Outcome.BOLTED),
        (risks.hot_on, Outcome.HEAT),
        (risks.chilled_on, Outcome.CHILLED),
        (risks.frozen_on, Outcome.FROZEN),
    ):
        lost((day <= first) & (day <= longest), kind, day)
    if crop.cold_days > behind.cold:
        too_late = up - behind.up_days + COLD_WITHIN_DAYS
        lost(met > too_late, Outcome.NO_COLD, too_late)
    patience = into_bed - behind.days + (NOT_UP_WITH_COLD_DAYS if crop.seed_cold_days else NOT_UP_DAYS[crop.season])
    patience = np.minimum(patience, rots_on)
    not_up = (up > patience) & (behind.up < 1)
    outcome[not_up] = Outcome.NOT_UP
    return outcome, np.where(not_up, patience, ends_at)


def _rots(crop: Crop, method: Method, conditions: Conditions, into_bed: Ints, behind: Behind) -> Ints:
    """The day on which seed has lain longer in soil too cold for it than it survives; beyond the record where it does not."""
    if method != "direct" or crop.seed_cold_days or behind is not NOTHING:
        return np.full(len(into_bed), conditions.days + 1, dtype=np.int32)
    return reached(conditions.below_least(crop.germination_c[0]), into_bed, crop.seed_waits + 1.0)


def _known(
    conditions: Conditions, start: Ints, outcome: npt.NDArray[np.int8], ends_at: Ints, last: Ints
) -> npt.NDArray[np.bool_]:
    """True where the record covers a start to its end, with few days missing."""
    end, ripe = conditions.days, outcome == Outcome.RIPE
    stop = np.minimum(np.where(ripe, last, ends_at), end - 1)
    gone = conditions.missing[stop + 1] - conditions.missing[start]
    enough = gone <= np.maximum(MOST_MISSING, MISSING_SHARE * (stop - start))
    return np.asarray((ends_at < end) & (~ripe | (last < end - 1)) & enough)


def _up(
    crop: Crop, method: Method, conditions: Conditions, start: Ints, into_bed: Ints, behind: Behind = NOTHING
) -> Ints:
    """The day on which it is up; plants are, and what is set counts as up by the crop's usual days."""
    if method in ("indoors", "starts"):
        return into_bed
    cold = crop.seed_cold_days - behind.seed_cold if method == "direct" and crop.seed_cold_days else 0.0
    ready = reached(conditions.seed_cold(), start, cold) if cold > 0 else start
    return np.asarray(reached(conditions.coming_up(crop), ready, 1.0 - behind.up))


def _cold_met(crop: Crop, conditions: Conditions, up: Ints, behind: Behind = NOTHING) -> Ints:
    """The day on which a need for cold is met; the day it is up for a crop without one."""
    if crop.cold_days <= behind.cold:
        return up
    return reached(conditions.vernal(crop.cold_below_c), up, crop.cold_days - behind.cold)


def _shoots(crop: Crop, conditions: Conditions, up: Ints, behind: Behind) -> Ints:
    """The first long day after enough cold, on which it shoots into flower; beyond the record for a crop that does not."""
    end = conditions.days
    if not crop.bolts_after_cold_days:
        return np.full(end, end + 1, dtype=np.int32)
    left = crop.bolts_after_cold_days - behind.chill
    chilled = reached(conditions.cold(BOLTS_BELOW_C), up, left) if left > 0 else up
    spring = np.append(conditions.next_spring(), [end + 1, end + 1])
    return np.asarray(spring[np.minimum(chilled, end)])


def season_ripe(crop: Crop, conditions: Conditions, warm_on: Ints) -> Ints:
    """The first picking of a season whose warmth was met on these days: its fruit grows on, or it waits for short days."""
    end = conditions.days
    ripe = np.minimum(warm_on + crop.fruit_days, end + 1)
    if crop.short_day_h is not None:
        short = np.append(conditions.next_short_day(crop.short_day_h), [end + 1, end + 1])
        ripe = np.where(ripe < end, short[ripe], ripe)
    return np.asarray(ripe, dtype=np.int32)


def _next_season(
    crop: Crop, method: Method, conditions: Conditions, into_bed: Ints
) -> tuple[Ints, npt.NDArray[np.bool_]]:
    """The first season's picking after it is established, and whether that season lacks the winter's chill before it.

    Warmth is counted from midwinter of each year and ends at the next: what is not ripe by then is not ripe that year.
    **Source:** common practice, no source.
    """
    winters, beyond = conditions.midwinters, conditions.days + 1
    seasons = season_ripe(crop, conditions, reached(conditions.warmth(crop), winters, crop.season_warmth or 0.0))
    bears = seasons < np.append(winters[1:], conditions.days)
    kept, chilled = np.append(seasons[bears], beyond), np.append(_chilled(crop, conditions, winters)[bears], True)
    at = np.minimum(np.searchsorted(kept, into_bed + crop.days[method][0]), len(kept) - 1)
    return kept[at].astype(np.int32), ~chilled[at]


def _chilled(crop: Crop, conditions: Conditions, winters: Ints) -> npt.NDArray[np.bool_]:
    """By midwinter, whether the winter around it brings the hours of chill that it needs; a winter not on file does."""
    hours = conditions.chill_hours()
    begin, end = winters - CHILL_BEFORE_DAYS, np.minimum(winters + CHILL_AFTER_DAYS, conditions.days)
    found = hours[end] - hours[np.maximum(begin, 0)]
    return np.asarray((begin < 0) | (found >= crop.winter_chill_h))
