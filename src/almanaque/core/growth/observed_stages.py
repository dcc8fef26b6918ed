"""Dates of a planting moved by the stages that somebody saw: in flower, ready, bolted."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import date, timedelta

from almanaque.core.crops.crop import Crop
from almanaque.core.growth.growth_dates import CLEAR_DAYS, GrowthDates, leaves_bed, picking_window

FRUITS = frozenset({"fruit", "pod", "ear", "nut", "seed"})
MOST_MOVED_DAYS = 30  # a flower seen early or late moves picking by at most so much: our own rule


def by_stages(crop: Crop, dates: GrowthDates, events: Mapping[str, date]) -> GrowthDates:
    """The dates as the stages seen leave them; what was picked is more certain than what was seen, and ripe than in flower.

    A crop ready on a day is picked from that day on, as long as it was to be picked. Fruit follows its first flower by as many days as
    before, so flowers early or late move picking by as much. What has bolted is picked at once or never, and cleared within a week.
    Plants that come again keep their dates. **Source:** common practice; limits are our own rule.
    """
    if crop.life == "perennial":
        return dates
    window = picking_window(crop, dates, dates.bed_from, first_picked=events.get("first picking"))
    first = window.begun or events.get("ready")
    if first is not None:
        dates = _picked_from(crop, dates, first)
    elif "in flower" in events and crop.bloom_days is not None and crop.part in FRUITS:
        off = (events["in flower"] - dates.bed_from).days - crop.bloom_days[0]
        dates = _later(crop, dates, max(-MOST_MOVED_DAYS, min(MOST_MOVED_DAYS, off)))
    bolted = events.get("bolted")
    if bolted is not None:
        first = min(dates.first_pick, bolted)
        last = max(first, bolted)
        dates = replace(
            dates,
            first_pick_early=min(dates.first_pick_early, first),
            first_pick=first,
            last_pick=last,
            first_pick_late=max(first, min(dates.first_pick_late, last)),
            clear_by=last + timedelta(days=CLEAR_DAYS),
            stands_until=last,
        )
    return dates


def _picked_from(crop: Crop, dates: GrowthDates, first: date) -> GrowthDates:
    last = first + (dates.last_pick - dates.first_pick)
    return replace(
        dates,
        first_pick_early=first,
        first_pick=first,
        first_pick_late=first,
        last_pick=last,
        clear_by=leaves_bed(crop, dates.bed_from, last),
        stands_until=max(last, dates.stands_until or last),
    )


def _later(crop: Crop, dates: GrowthDates, days: int) -> GrowthDates:
    def moved(day: date) -> date:
        return max(dates.bed_from, day + timedelta(days=days))

    last = moved(dates.last_pick)
    return replace(
        dates,
        first_pick_early=moved(dates.first_pick_early),
        first_pick=moved(dates.first_pick),
        first_pick_late=moved(dates.first_pick_late),
        last_pick=last,
        clear_by=leaves_bed(crop, dates.bed_from, last),
        stands_until=moved(dates.stands_until or dates.last_pick),
    )
