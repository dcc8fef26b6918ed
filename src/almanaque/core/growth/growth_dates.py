"""When a planting comes up and ripens: its dates, by packet days here, from the years on file in `fit`."""

from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.core.crops.crop import METHOD_WORDS, Crop, Method
from almanaque.core.errors import BadInput

SOURCE = "packet days"
CLEAR_DAYS = 7  # to clear a bed after the last picking: our own rule
SEASONS_APART = 150  # days between two pickings that make them two seasons: our own rule
STAYS_DAYS = 30 * 365  # what comes again holds its squares until somebody takes it out
HARDEN_DAYS = 7  # outdoors in the shade before setting out: common practice, no source


@dataclass(frozen=True)
class GrowthDates:
    """Forecast dates of one planting. `bed_from` is the day on which it takes its place in the bed.

    `clear_by` is the last day on which it holds its place. `emerge_*` are None where nothing is sown in the bed.
    `first_pick` is the middle of its range: packet days at their least
    and most, or nine years in ten of the weather on file. `of_years` is 0 for packet days alone; else picking meets its
    lessons in `fit_years` of so many. `last_pick` is the end of its best; `stands_until` the day until which it may stand in the
    ground or on the plant, None where that was not asked.
    """

    start: date
    bed_from: date
    emerge_from: date | None
    emerge_to: date | None
    first_pick_early: date
    first_pick: date
    first_pick_late: date
    last_pick: date
    clear_by: date
    fit_years: int = 0
    of_years: int = 0
    stands_until: date | None = None


def forecast(crop: Crop, method: Method, start: date, *, set_out: date | None = None) -> GrowthDates:
    """Dates for a first day `start`: of sowing or setting in place, of sowing indoors, or of setting out bought starts.

    The first picking lies at the least, middle and most of the packet's days; the last one `picking_days` after the
    middle. `set_out` is the day on which plants started indoors really went out. Raises BadInput when the crop is
    not started that way. **Source:** common practice; the days are the crop's.
    """
    if method not in crop.days:
        raise BadInput("growth.crop_not_started_that_way", crop=crop.name.en, method=METHOD_WORDS[method])
    least, most = crop.days[method]
    bed_from = start
    if method == "indoors":
        bed_from = set_out or start + timedelta(weeks=crop.weeks_indoors)
    sown = method in ("direct", "cloves")
    middle = bed_from + timedelta(days=(least + most) // 2)
    last = middle + timedelta(days=crop.picking_days)
    return GrowthDates(
        start=start,
        bed_from=bed_from,
        emerge_from=bed_from + timedelta(days=crop.emerges[0]) if sown else None,
        emerge_to=bed_from + timedelta(days=crop.emerges[1]) if sown else None,
        first_pick_early=bed_from + timedelta(days=least),
        first_pick=middle,
        first_pick_late=bed_from + timedelta(days=most),
        last_pick=last,
        clear_by=leaves_bed(crop, bed_from, last),
        stands_until=middle + timedelta(days=max(crop.stands_days or 0, crop.picking_days)),
    )


def leaves_bed(crop: Crop, bed_from: date, last_pick: date) -> date:
    """The last day on which it holds its squares: a week after its last picking; 30 years for what comes again."""
    if crop.life == "perennial":
        return bed_from + timedelta(days=STAYS_DAYS)
    return last_pick + timedelta(days=CLEAR_DAYS)


def picking_season(crop: Crop, dates: GrowthDates, day: date) -> tuple[date, date]:
    """First and last picking of the season that a day falls in or before; a perennial's comes again every year.

    An annual has one season only. **Source:** common practice, no source.
    """
    first, last = dates.first_pick, dates.last_pick
    while crop.life == "perennial" and last < day:
        first, last = _next_year(first), _next_year(last)
    return first, last


def picked_in_season(dates: GrowthDates, first_picked: date | None) -> date | None:
    """The first picking that really was, when it belongs to the season of these dates: what comes again was picked before.

    **Source:** our own rule, at most 150 days ahead of the forecast.
    """
    if first_picked is None or first_picked < dates.first_pick_early - timedelta(days=SEASONS_APART):
        return None
    return first_picked


def ready_until(crop: Crop, dates: GrowthDates, *, first_picked: date | None, day: date) -> date | None:
    """The last day of picking, when picking has begun or may begin within a week of `day`; None otherwise.

    `first_picked` is the day of the first picking that really was. **Source:** our own rule.
    """
    first, last = picking_season(crop, dates, day)
    if first == dates.first_pick:
        first = picked_in_season(dates, first_picked) or dates.first_pick_early
    return last if first <= day + timedelta(days=6) and day <= last else None


def _next_year(day: date) -> date:
    """The same day a year later; 29 February becomes 28 February."""
    return day.replace(year=day.year + 1, day=28 if (day.month, day.day) == (2, 29) else day.day)
