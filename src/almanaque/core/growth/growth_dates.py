"""When a planting comes up and ripens: its dates, by packet days here, from the years on file in `fit`."""

from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.errors import BadInput
from almanaque.core.words import term

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
    and most, or eight first pickings in ten by the weather on file. `of_years` is 0 for packet days alone; else picking meets its
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
        raise BadInput("growth.crop_not_started_that_way", crop=crop.name.en, method=term("method", method))
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


@dataclass(frozen=True)
class PickingWindow:
    """The picking of one season, as every list and page tells it.

    It may begin on `early`, does in the middle year on `first`, is at its best until `best` and may stand until `last`.
    `begun` is the first picking that really was in this season.
    """

    early: date
    first: date
    best: date
    last: date
    begun: date | None = None

    @property
    def opens(self) -> date:
        """The first day on which something may be picked."""
        return self.begun or self.early


def picking_window(crop: Crop, dates: GrowthDates, day: date, *, first_picked: date | None = None) -> PickingWindow:
    """The picking of the season that a day falls in or before; a perennial's comes again every year, an annual has one.

    A picking of an earlier season does not open this one. **Source:** common practice, no source; at most 150 days ahead of
    the forecast is our own rule.
    """
    early = min(dates.first_pick_early, dates.first_pick)
    days = [early, dates.first_pick, dates.last_pick, max(dates.last_pick, dates.stands_until or dates.last_pick)]
    while crop.life == "perennial" and days[3] < day:
        days = [_next_year(one) for one in days]
    of_this = (
        first_picked is not None
        and days[0] - timedelta(days=SEASONS_APART) <= first_picked
        and (first_picked <= days[3] or crop.life != "perennial")
    )
    return PickingWindow(days[0], days[1], days[2], days[3], first_picked if of_this else None)


def ready_until(crop: Crop, dates: GrowthDates, *, first_picked: date | None, day: date) -> date | None:
    """The last day of picking, when picking has begun or may begin within a week of `day`; None otherwise.

    `first_picked` is the day of the first picking that really was. **Source:** our own rule.
    """
    window = picking_window(crop, dates, day, first_picked=first_picked)
    return window.last if window.opens <= day + timedelta(days=6) and day <= window.last else None


def _next_year(day: date) -> date:
    """The same day a year later; 29 February becomes 28 February."""
    return day.replace(year=day.year + 1, day=28 if (day.month, day.day) == (2, 29) else day.day)
