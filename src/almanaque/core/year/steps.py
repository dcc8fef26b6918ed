"""The steps of a planting in the order of the work, each with the days in which it is due.

They follow from the dates of the crop; what has happened moves what comes after, and a day that somebody set stays set.
"""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Literal

from almanaque.core.crops.crop import Crop, Method, turned
from almanaque.core.growth.growth_dates import CLEAR_DAYS, HARDEN_DAYS, GrowthDates, picking_window
from almanaque.core.units import Units, format_length

WEEK = timedelta(days=7)
DAY = timedelta(days=1)
SERIES = ("keep moist", "picking")
WEEKS_A_YEAR = 53  # Mondays that a year can have
POT_UP_WEEKS = 6  # plants that stay indoors as long as this are potted up half-way: our own rule
SOIL_CAUTION = "Gloves or clean hands; wash hands after soil."
# Steps whose day a person may set; the others follow from them.
SETTABLE = ("harden off", "prepare bed", "transplant", "thin", "support", "mulch", "clear")
# Whatever of these was seen, it is up.
UP = ("emerged", "in flower", "ready", "first picking", "bolted")
# What an event makes of the steps: they are done.
DONE_BY: dict[str, tuple[str, ...]] = {
    "started": ("start indoors", "sow"),
    "set out": ("start indoors", "pot up", "harden off", "prepare bed", "transplant"),
    "first picking": ("first picking", "thin"),
    "cleared": ("clear",),
}
State = Literal["planned", "set by hand", "done", "over"]


@dataclass(frozen=True)
class Step:
    """A job to be done from `from_day` to `to_day`. (step, ordinal) is its identity within its planting.

    One that is only to be looked out for, such as scouting, is no `job` of its own. One that `lapses` is not overdue after its window
    but over. `again` [days] is from one time to the next within what goes on, 0 for what is done once.
    """

    step: str
    ordinal: int
    title: str
    from_day: date
    to_day: date
    minutes: int
    caution: str = ""
    job: bool = True
    lapses: bool = False
    again: int = 0


@dataclass(frozen=True)
class DatedStep:
    """A step as it stands: its days, the day on which it was done, and whether somebody set it."""

    step: Step
    state: State
    done_on: date | None


def steps(
    crop: Crop,
    method: Method,
    dates: GrowthDates,
    *,
    plants: int,
    squares: int,
    units: Units,
    by_hand: Mapping[str, date] | None = None,
    southern: bool = False,
    since: date | None = None,
) -> Iterator[Step]:
    """The steps of a planting in the order of the work, in the school's units. **Source:** common practice, no source.

    `by_hand` are days that somebody set: such a step is due in the week from that day on. A plant that comes again is picked,
    cut back and divided in the season that holds or follows `since`, in its first one without a day.
    """
    fixed, seasons = by_hand or {}, 0
    if crop.life == "perennial":
        dates, seasons = season_of(crop, dates, since or dates.bed_from)
    found = [*_all(crop, method, dates, plants, squares, units, southern, seasons, since)]
    if crop.life == "perennial" and "clear" in fixed:
        out = fixed["clear"]
        found.append(
            Step(
                "clear", 1, f"Take the {crop.name.en.lower()} out, roots and all", out, out + 6 * DAY, 40, SOIL_CAUTION
            )
        )
    for step in sorted(found, key=lambda s: (s.from_day, s.to_day)):
        day = fixed.get(step.step) if step.ordinal == 1 else None
        yield replace(step, from_day=day, to_day=day + 6 * DAY) if day else step


def season_of(crop: Crop, dates: GrowthDates, day: date) -> tuple[GrowthDates, int]:
    """The dates with the picking of the season that a day falls in or before, and how many years after its planting that is."""
    window = picking_window(crop, dates, day)
    later = replace(dates, first_pick_early=window.early, first_pick=window.first, last_pick=window.best)
    return replace(later, stands_until=window.last), window.first.year - dates.bed_from.year


def _all(
    crop: Crop,
    method: Method,
    dates: GrowthDates,
    plants: int,
    squares: int,
    units: Units,
    southern: bool,
    seasons: int,
    since: date | None,
) -> Iterator[Step]:
    name, sown = crop.name.en.lower(), method in ("direct", "cloves")
    yield from _until_in_the_bed(crop, method, dates, plants, squares, units)
    if method == "direct" and dates.emerge_to is not None:
        weeks = max(1, -(-(dates.emerge_to - dates.bed_from).days // 7))
        for week in range(weeks):
            begin = dates.bed_from + week * WEEK
            yield Step(
                "keep moist",
                week + 1,
                f"Keep the {name} seedbed moist until it is up",
                begin,
                min(begin + 6 * DAY, max(begin, dates.emerge_to)),
                5,
            )
    up = dates.emerge_to or dates.bed_from
    if method == "direct" and crop.thin_to_mm and dates.emerge_to is not None:
        yield Step(
            "thin",
            1,
            f"Thin {name} to {format_length(crop.thin_to_mm, units, feet=False)}",
            dates.emerge_to + 3 * DAY,
            dates.emerge_to + 16 * DAY,
            20,
        )
    if crop.support:
        yield Step(
            "support",
            1,
            f"Put up support for {name}",
            dates.bed_from + 10 * DAY,
            dates.bed_from + 24 * DAY,
            25,
            "Stakes and canes at eye height: cap the ends; an adult hammers.",
        )
    if crop.season == "warm" and crop.life == "annual" and crop.group != "cover crops" and not sown:
        yield Step("mulch", 1, f"Mulch the {name} now that the ground is warm", up + 14 * DAY, up + 35 * DAY, 20)
    if "scape" in crop.parts:
        yield Step(
            "scape",
            1,
            f"Take off the {name}'s scapes: {crop.parts['scape'].sign}",
            dates.first_pick - 28 * DAY,
            dates.first_pick - 14 * DAY,
            20,
        )
    if up < dates.first_pick:
        yield Step("scout", 1, f"Look under the leaves of the {name}", up, dates.last_pick, 5, job=False)
    yield from _picking(crop, dates, seasons)
    if crop.life == "perennial":
        yield from _year_after_year(crop, dates, southern, since or dates.bed_from)
    else:
        yield Step(
            "clear",
            1,
            f"Clear the {name}; roots to the compost",
            max(dates.last_pick, dates.clear_by - CLEAR_DAYS * DAY),
            dates.clear_by,
            20,
            SOIL_CAUTION,
        )


def _until_in_the_bed(
    crop: Crop, method: Method, dates: GrowthDates, plants: int, squares: int, units: Units
) -> Iterator[Step]:
    name = crop.name.en.lower()
    if method == "indoors":
        yield Step(
            "start indoors", 1, f"Sow {name} indoors: {plants} plants wanted", dates.start, dates.start + 6 * DAY, 25
        )
        if crop.weeks_indoors >= POT_UP_WEEKS:
            half = dates.start + (dates.bed_from - dates.start) / 2
            yield Step(
                "pot up",
                1,
                f"Pot up the {name}: one to a pot, by the leaves and not the stem",
                half,
                half + 6 * DAY,
                30,
                SOIL_CAUTION,
            )
        harden = dates.bed_from - HARDEN_DAYS * DAY
        yield Step("harden off", 1, f"Harden off the {name}: outdoors by day", harden, dates.bed_from - DAY, 10)
    yield Step(
        "prepare bed",
        1,
        f"Prepare {_squares(squares)} for {name}: compost, water, string",
        dates.bed_from - WEEK,
        dates.bed_from - DAY,
        25,
        SOIL_CAUTION,
    )
    deep = crop.depth_for(method)
    if method in ("indoors", "starts"):
        level = "soil level as in the pot" if deep is None else f"{format_length(deep, units)} deep"
        yield Step(
            "transplant",
            1,
            f"Set out {name}: {_places(plants)}, {level}; water in",
            dates.bed_from,
            dates.bed_from + 6 * DAY,
            30,
            SOIL_CAUTION,
        )
    else:
        verb = "Sow" if method == "direct" else "Set"
        yield Step(
            "sow",
            1,
            f"{verb} {name}: {_places(plants)}, {format_length(crop.depth_mm, units)} deep",
            dates.bed_from,
            dates.bed_from + 6 * DAY,
            30,
            SOIL_CAUTION,
        )


def _picking(crop: Crop, dates: GrowthDates, seasons: int) -> Iterator[Step]:
    """Picking, weekly for what is picked on. Later seasons count on from where the one before ended, so that each is its own job."""
    name, before = crop.name.en.lower(), seasons * WEEKS_A_YEAR
    if crop.picked == "once":
        yield Step(
            "first picking",
            before + 1,
            f"Harvest {name}: {crop.ready_sign}",
            dates.first_pick,
            max(dates.last_pick, dates.clear_by - CLEAR_DAYS * DAY),
            25,
            crop.caution,
        )
    else:
        begin, ordinal = dates.first_pick, 1
        while begin <= dates.last_pick:
            yield Step(
                "first picking" if ordinal == 1 else "picking",
                before + ordinal,
                f"Pick {name}: {crop.ready_sign}",
                begin,
                min(begin + 6 * DAY, dates.last_pick),
                15,
                crop.caution,
            )
            begin, ordinal = begin + WEEK, ordinal + 1
    if crop.cure_days:
        yield Step(
            "cure",
            1,
            f"Hang up or lay out the {name} to cure for {crop.cure_days} days",
            dates.first_pick,
            dates.first_pick + timedelta(days=crop.cure_days),
            15,
        )


def _year_after_year(crop: Crop, dates: GrowthDates, southern: bool, since: date) -> Iterator[Step]:
    """The next cutting back in each of its months, and the next division, each year's a job of its own."""
    name, planted = crop.name.en.lower(), dates.bed_from
    for number, month in enumerate(sorted(turned(crop.cut_back_months, southern=southern)), start=1):
        day = date(planted.year, month, 1)
        while day < planted + timedelta(days=60) or day + timedelta(days=27) < since:
            day = day.replace(year=day.year + 1)
        yield Step(
            "cut back",
            number + 12 * max(0, day.year - planted.year - 1),
            f"Cut back the {name}",
            day,
            day + timedelta(days=27),
            25,
            "Shears and saws: by the school's rule; thorns want gloves.",
        )
    if crop.divide_years:
        early, times = date(planted.year + crop.divide_years, 9 if southern else 3, 15), 1
        while early + timedelta(days=30) < since:
            early, times = early.replace(year=early.year + crop.divide_years), times + 1
        yield Step(
            "divide", 1, f"Divide the {name}; pot what is over", early, early + timedelta(days=30), 40, SOIL_CAUTION
        )


def as_they_stand(
    wanted: Iterable[Step], *, events: Mapping[str, date], by_hand: Mapping[str, date], today: date, method: Method
) -> list[DatedStep]:
    """Steps with what became of them: done by what happened, set by hand, over, or planned."""
    done = done_steps(events, method)
    found = []
    for step in wanted:
        if step.step in done:
            found.append(DatedStep(step, "done", done[step.step]))
        elif step.ordinal == 1 and step.step in by_hand:
            found.append(DatedStep(step, "set by hand", None))
        else:
            found.append(DatedStep(step, "over" if step.to_day < today else "planned", None))
    return found


def done_steps(events: Mapping[str, date], method: Method) -> dict[str, date]:
    """Steps that are done by what really happened, with the day. Sowing in the bed also means that it was prepared."""
    found: dict[str, date] = {}
    for event, day in events.items():
        for step in DONE_BY.get(event, ()):
            found.setdefault(step, day)
    if seen := [events[kind] for kind in UP if kind in events]:
        found["keep moist"] = min(seen)
    if "started" in events and method != "indoors":
        found |= {"prepare bed": events["started"], "transplant": events["started"]}
    return found


def from_today(wanted: Iterable[Step], today: date) -> Iterator[Step]:
    """The steps that can still be done: no window begins before today.

    What is overdue is due today. A step of a series (keep moist, picking), and one that lapses, is over when it has passed.
    """
    for step in wanted:
        if step.to_day >= today:
            yield replace(step, from_day=max(step.from_day, today))
        elif step.step not in SERIES and not step.lapses:
            yield replace(step, from_day=today, to_day=today)


def _places(count: int) -> str:
    return "1 plant" if count == 1 else f"{count} plants"


def _squares(count: int) -> str:
    return "1 square" if count == 1 else f"{count} squares"
