"""Will the children be here when it is sown, and here when it is ready? A verdict with its reasons, and what would mend it."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from datetime import date, timedelta
from itertools import chain
from typing import Literal

from almanaque.core.climate import Climate
from almanaque.core.crops import METHOD_WORDS, Crop, Method
from almanaque.core.findings import Finding, Fix, short_day, worst_first
from almanaque.core.growth import GrowthDates, forecast
from almanaque.core.school_year import Calendar
from almanaque.core.typed_freezes import TypedFreezes
from almanaque.core.units import Units, format_temperature

Verdict = Literal["fits", "with care", "misses"]
VERDICT_WORDS: dict[Verdict, str] = {
    "fits": "fits the school year",
    "with care": "fits with care",
    "misses": "misses the school year",
}

LESSONS_TO_PICK = 2  # lessons that must meet the picking
FROST_CARE, FROST_FAULT = 0.10, 0.50  # share of years with a killing freeze
SEARCH_DAYS = 150  # how far the nearest day that fits is looked for, both ways
STEP_WINDOW = timedelta(days=6)  # a step may be done within a week of its day
TENDER_FROM_C = -0.5  # a crop that bears no less than this has no place among typed freeze dates
OURS = "our own rule"
MONTH_NAMES = ("January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
               "December")  # fmt: skip


@dataclass(frozen=True)
class Setting:
    """What a verdict depends on besides the crop: the calendar with its lessons, and the climate if there is one.

    Without a climate, typed freeze dates and the local office's chart speak, more roughly: `chart` maps a crop's name in
    small letters and what is done (indoors, sow, set out) to the months for it.
    """

    calendar: Calendar
    climate: Climate | None
    units: Units
    typed: TypedFreezes | None = None
    chart: Mapping[tuple[str, str], frozenset[int]] = field(default_factory=dict)


@dataclass(frozen=True)
class Fit:
    """Dates, verdict, and the findings behind it, worst first."""

    crop: Crop
    method: Method
    dates: GrowthDates
    verdict: Verdict
    findings: tuple[Finding, ...]


def judge(crop: Crop, method: Method, start: date, setting: Setting) -> Fit:
    """Judge one way and day of starting a crop. Raises BadInput when the crop is not started that way."""
    dates = forecast(crop, method, start)
    findings = worst_first([*_hands(crop, method, dates, setting.calendar), *_picking(crop, dates, setting.calendar),
                            *_weather(crop, method, dates, setting), *_cautions(crop)])  # fmt: skip
    severities = {finding.severity for finding in findings}
    verdict: Verdict = "misses" if "fault" in severities else "with care" if "care" in severities else "fits"
    return Fit(crop, method, dates, verdict, tuple(findings))


def fits(crop: Crop, method: Method, start: date, setting: Setting) -> bool:
    """True when nothing speaks against it; stops at the first thing that does, so many days can be tried."""
    dates = forecast(crop, method, start)
    against = chain(
        _hands(crop, method, dates, setting.calendar),
        _picking(crop, dates, setting.calendar),
        _weather(crop, method, dates, setting),
    )
    return all(finding.severity == "note" for finding in against)


def nearest_fit(crop: Crop, method: Method, start: date, setting: Setting, *, not_before: date) -> Fit | None:
    """The school day nearest to `start`, from `not_before` on, on which the crop fits; later wins a tie."""
    for distance in range(SEARCH_DAYS + 1):
        for day in dict.fromkeys((start + timedelta(days=distance), start - timedelta(days=distance))):
            if day >= not_before and setting.calendar.children_here(day) and fits(crop, method, day, setting):
                return judge(crop, method, day, setting)
    return None


def latest_fit(crop: Crop, method: Method, setting: Setting, *, not_before: date, picked_by: date) -> date | None:
    """The last school day from `not_before` on for which it fits and is picked for the first time by `picked_by`; None if none."""
    day = picked_by - timedelta(days=crop.days[method][0])
    while day >= not_before:
        in_time = forecast(crop, method, day).first_pick <= picked_by
        if in_time and setting.calendar.children_here(day) and fits(crop, method, day, setting):
            return day
        day -= timedelta(days=1)
    return None


def mends(fit: Fit, setting: Setting, *, not_before: date) -> Iterator[Fix]:
    """The nearest changes that would make it fit: another day, then another way of starting it on a day near by."""
    for method in (fit.method, *(m for m in fit.crop.methods if m != fit.method)):
        found = nearest_fit(fit.crop, method, fit.dates.start, setting, not_before=not_before)
        if found is not None:
            words = "Start" if method == fit.method else f"{METHOD_WORDS[method].capitalize()}:"
            yield Fix(f"{words} {short_day(found.dates.start)}", f"start:{method}", found.dates.start.isoformat())


def _hands(crop: Crop, method: Method, dates: GrowthDates, calendar: Calendar) -> Iterator[Finding]:
    """Someone must be there to sow or set out, and to keep the seedbed moist until the seed is up."""
    name = crop.name.en
    for work, day in _days_by_hand(method, dates):
        if not calendar.reaches(day):
            yield Finding("outside_year", "care", name, f"The calendar does not reach {short_day(day)}.",
                          "School days are not known there, so they cannot be judged.", OURS,
                          (Fix("Add the school year", "page", "/school"),))  # fmt: skip
        elif calendar.days_here_between(day, day + STEP_WINDOW) == 0:
            later = calendar.next_day_here(day)
            moved = (
                (Fix(f"{work} {short_day(later)}", f"start:{method}", (later - (day - dates.start)).isoformat()),)
                if later
                else ()
            )
            yield Finding("sow_no_school", "fault", name, f"{work} on {short_day(day)} falls in a break.",
                          "No school that week, so no class to do it.", OURS, moved)  # fmt: skip
        elif calendar.slots and not calendar.lessons(day, day + STEP_WINDOW):
            yield Finding("sow_no_lesson", "care", name, f"No garden lesson in the week of {short_day(day)}.",
                          "School is in, but no class has a slot that week.", OURS, (Fix("Someone else does it"),))  # fmt: skip
    if method == "direct" and dates.emerge_to is not None:
        for gap in calendar.breaks_between(dates.bed_from, dates.emerge_to):
            if gap.starts > dates.bed_from:
                yield Finding("seedbed_over_break", "care", name,
                              f"Still coming up when {gap.name} begins on {short_day(gap.starts)}.",
                              f"Seed sown {short_day(dates.bed_from)} is up by {short_day(dates.emerge_to)} at the latest and must "
                              "stay moist until then.", OURS, (Fix("Ask a carer to water the seedbed"),))  # fmt: skip
                break


def _days_by_hand(method: Method, dates: GrowthDates) -> list[tuple[str, date]]:
    """The days on which children sow or set out, with the name of the work."""
    if method == "indoors":
        return [("Sowing indoors", dates.start), ("Setting out", dates.bed_from)]
    return [("Setting out" if method == "starts" else "Sowing" if method == "direct" else "Setting", dates.bed_from)]


def _picking(crop: Crop, dates: GrowthDates, calendar: Calendar) -> Iterator[Finding]:
    """The picking window must meet lessons."""
    name = crop.name.en
    window = f"{short_day(dates.first_pick)} to {short_day(dates.last_pick)}"
    if not calendar.reaches(dates.first_pick):
        yield Finding("outside_year", "care", name, f"Ready {window}, beyond the calendar on file.",
                      "School days are not known there, so they cannot be judged.", OURS,
                      (Fix("Add the school year", "page", "/school"),))  # fmt: skip
        return
    school_days = calendar.days_here_between(dates.first_pick, dates.last_pick)
    if school_days == 0:
        gap = calendar.next_break(dates.first_pick)
        yield Finding("ready_no_school", "fault", name, f"Ready {window}, when nobody is at school.",
                      f"{gap.name} lasts from {short_day(gap.starts)} to {short_day(gap.ends)}." if gap else "No school then.",
                      OURS, (Fix("Name carers who pick"),))  # fmt: skip
        return
    gap = next(iter(calendar.breaks_between(dates.first_pick, dates.first_pick)), None)
    if gap is not None:
        weeks = max(1, round((min(gap.ends, dates.last_pick) - dates.first_pick).days / 7))
        yield Finding("ready_in_break", "care", name, f"First ripe {short_day(dates.first_pick)}, in the {gap.name.lower()}.",
                      f"About {weeks} week{'s' if weeks != 1 else ''} of picking before children are back.", OURS,
                      (Fix("Name carers who pick"),))  # fmt: skip
    if calendar.slots:
        lessons = len(calendar.lessons(dates.first_pick, dates.last_pick))
        if lessons < LESSONS_TO_PICK:
            met = "no garden lesson meets" if not lessons else "one garden lesson meets"
            yield Finding("ready_few_lessons", "care", name, f"Ready {window}; {met} it.",
                          f"{school_days} school day{'s' if school_days != 1 else ''} in the picking time; "
                          f"{LESSONS_TO_PICK} lessons are wanted.", OURS, (Fix("Ask a class for an extra visit"),))  # fmt: skip


def _weather(crop: Crop, method: Method, dates: GrowthDates, setting: Setting) -> Iterator[Finding]:
    name, climate = crop.name.en, setting.climate

    def degrees(celsius: float) -> str:
        return format_temperature(celsius, setting.units)

    if climate is None or not climate.seasons:
        yield from _without_record(crop, method, dates, setting)
        return
    out = dates.emerge_from or dates.bed_from
    cold, of = climate.years_colder(out, dates.first_pick, crop.bears_c)
    share = cold / of if of else 0.0
    if share >= FROST_CARE:
        yield Finding("frost_risk", "fault" if share >= FROST_FAULT else "care", name,
                      f"A freeze it does not bear in {cold} of {of} years.",
                      f"Between {short_day(out)} and {short_day(dates.first_pick)} a night fell below {degrees(crop.bears_c)}.",
                      "the weather on file", (Fix("Later, or under a cover"),))  # fmt: skip
    mean = climate.normal_mean_c(dates.bed_from)
    if mean is not None and mean < crop.germination_least_c:
        yield Finding("cold_ground", "care", name,
                      f"Too cold on {short_day(dates.bed_from)} to {'come up' if method in ('direct', 'cloves') else 'grow on'}.",
                      f"A normal day has {degrees(mean)} then; it wants {degrees(crop.germination_least_c)}. "
                      "Packet days do not count such days: expect it later.",
                      "the weather on file", (Fix("Wait for warmer ground, or start indoors"),))  # fmt: skip
    if crop.season == "cool":
        hottest = climate.normal_max_c(dates.first_pick)
        if hottest is not None and hottest > crop.heat_c:
            yield Finding("heat_risk", "care", name, f"Ripens in the heat: {degrees(hottest)} on a normal {short_day(dates.first_pick)}.",
                          f"Above {degrees(crop.heat_c)} it bolts, turns bitter or stops.", "the weather on file",
                          (Fix("Earlier, or in autumn"),))  # fmt: skip


_IN_CHART: dict[Method, str] = {"direct": "sow", "cloves": "sow", "indoors": "indoors", "starts": "set out"}


def _without_record(crop: Crop, method: Method, dates: GrowthDates, setting: Setting) -> Iterator[Finding]:
    """What can still be said without a weather record, and what that lacks."""
    name, typed = crop.name.en, setting.typed
    add = (Fix("Add weather", "page", "/school/weather"),)
    out = dates.emerge_from or dates.bed_from
    days = (out + timedelta(days=n) for n in range(max(0, (dates.first_pick - out).days) + 1))
    if typed is not None and crop.bears_c >= TENDER_FROM_C:
        cold = next((day for day in days if typed.frost_may_fall(day)), None)
        if cold is not None:
            yield Finding("frost_risk", "care", name, f"A freeze may fall on it around {short_day(cold)}.",
                          "It bears none. By the freeze dates that were typed in; a weather record would say in how many years.",
                          typed.from_whom or "typed freeze dates", (Fix("Later, or under a cover"), *add))  # fmt: skip
    months = setting.chart.get((name.lower(), _IN_CHART[method]))
    if months is not None and dates.start.month not in months:
        yield Finding("not_in_chart", "care", name, f"The local chart does not have it in {MONTH_NAMES[dates.start.month - 1]}.",
                      f"It has {', '.join(MONTH_NAMES[m - 1] for m in sorted(months))}; a chart knows months, not years.",
                      "the local office's chart", add)  # fmt: skip
    if typed is not None or months is not None:
        yield Finding("no_weather", "note", name, "Cold ground and heat are not judged, and frost only roughly.",
                      "There is no weather record for this place; freeze dates or a month chart were given instead.", OURS, add)  # fmt: skip
    else:
        yield Finding("no_weather", "note", name, "Frost, cold ground and heat are not judged.",
                      "There is no weather on file for this place.", OURS, add)  # fmt: skip


def _cautions(crop: Crop) -> Iterator[Finding]:
    """Where someone can be hurt, shown where the crop is planned; the school's own rules come first."""
    if crop.caution:
        yield Finding("caution", "note", crop.name.en, crop.caution, "The school's own rules come first.",
                      "common practice, no source")  # fmt: skip
