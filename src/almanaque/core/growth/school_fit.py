"""Will the children be here when it is sown, and here when it is ready? A verdict with its reasons, and what would mend it.

`sowing_days.weigh` looks at every year on file; here a weighed day becomes dates, findings and the nearest changes.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date, timedelta

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.findings import MONTH_NAMES, Finding, Fix, short_day, worst_first
from almanaque.core.growth.crop_runs import Outcome
from almanaque.core.growth.growth_dates import GrowthDates, forecast, leaves_bed
from almanaque.core.growth.season_to_date import SeasonToDate
from almanaque.core.growth.sowing_days import LESSONS_TO_PICK, SURE_SHARE, Setting, Verdict, Weighed, weigh
from almanaque.core.units import format_temperature

VERDICT_WORDS: dict[Verdict, str] = {
    "fits": "fits the school year",
    "with care": "fits with care",
    "misses": "misses the school year",
}

TENDER_FROM_C = -0.5  # a crop that bears no less than this has no place among typed freeze dates
OURS = "our own rule"
WEATHER = "the weather on file"
CARE, FAULT = 0.10, 0.50


@dataclass(frozen=True)
class Fit:
    """Dates, verdict, and the findings behind it, worst first. Picking meets its lessons in `n` of `of` years on file."""

    crop: Crop
    method: Method
    dates: GrowthDates
    verdict: Verdict
    findings: tuple[Finding, ...]

    @property
    def n(self) -> int:
        return self.dates.fit_years

    @property
    def of(self) -> int:
        return self.dates.of_years


def judge(crop: Crop, method: Method, start: date, setting: Setting) -> Fit:
    """Judge one way and day of starting a crop. Raises BadInput when the crop is not started that way."""
    return at(weigh(crop, method, [start], setting), 0, crop, method, setting)


def at(weighed: Weighed, row: int, crop: Crop, method: Method, setting: Setting) -> Fit:
    """One of many weighed days in words."""
    dates = dates_at(weighed, row, crop, method)
    findings = worst_first(
        [
            *_hands(weighed, row, crop, method, dates, setting),
            *_picking(weighed, row, crop, dates, setting),
            *_weather(weighed, row, crop, method, dates, setting),
            *_supposed(crop, dates, setting),
            *_corrected(crop),
            *_cautions(crop),
        ]
    )
    return Fit(crop, method, dates, weighed.verdict_of(row), tuple(findings))


def going_on(crop: Crop, method: Method, before: GrowthDates, far: SeasonToDate, setting: Setting) -> Fit:
    """Judge what stands in the bed: from how far it is by this season's weather, with every year's weather to come.

    `before` are its dates by its first day alone, which stand where no year on file ripens it. Who starts it is no matter any more.
    """
    weighed = weigh(crop, method, [far.day], setting, behind=far.behind)
    ahead = dates_at(weighed, 0, crop, method) if weighed.ripe[0] else before
    dates = replace(
        ahead,
        start=before.start,
        bed_from=before.bed_from,
        fit_years=int(weighed.fit_years[0]),
        of_years=int(weighed.of[0]),
    )
    if before.emerge_from is not None:
        early, late = (_day(int(weighed.up[0, column])) for column in (0, 2))
        dates = replace(
            dates, emerge_from=far.up_on or early or before.emerge_from, emerge_to=far.up_on or late or before.emerge_to
        )
    findings = worst_first(
        [
            *_seedbed(weighed, 0, crop, dates, setting),
            *_picking(weighed, 0, crop, dates, setting),
            *_weather(weighed, 0, crop, method, dates, setting),
            *_supposed(crop, dates, setting),
            *_corrected(crop),
            *_cautions(crop),
        ]
    )
    return Fit(crop, method, dates, weighed.verdict_of(0), tuple(findings))


def dates_at(weighed: Weighed, row: int, crop: Crop, method: Method) -> GrowthDates:
    """The dates of a weighed day; packet days where no year on file ripens it."""
    start = date.fromordinal(int(weighed.days[row]))
    plain = forecast(
        crop, method, start, set_out=date.fromordinal(int(weighed.bed[row])) if method == "indoors" else None
    )
    of, n = int(weighed.of[row]) if weighed.measured else 0, int(weighed.fit_years[row]) if weighed.measured else 0
    if not weighed.measured:
        return plain
    early, late = int(weighed.up[row, 0]), int(weighed.up[row, 2])
    if method == "direct" or (method == "cloves" and early > 0):
        plain = replace(plain, emerge_from=_day(early) or plain.emerge_from, emerge_to=_day(late) or plain.emerge_to)
    if not weighed.ripe[row]:
        return replace(plain, fit_years=n, of_years=of)
    first = [date.fromordinal(int(d)) for d in weighed.first[row]]
    last = max(date.fromordinal(int(weighed.last[row, 1])), first[1])
    return replace(
        plain,
        first_pick_early=first[0],
        first_pick=first[1],
        first_pick_late=first[2],
        last_pick=last,
        clear_by=leaves_bed(crop, plain.bed_from, last),
        fit_years=n,
        of_years=of,
    )


def _day(ordinal: int) -> date | None:
    return date.fromordinal(ordinal) if ordinal > 0 else None


def stands_at_least_until(judged: Fit) -> date:
    """The day until which a crop must have its place: a week after the first picking of a late year, two when it is picked on.

    **Source:** our own rule.
    """
    dates = judged.dates
    enough = dates.first_pick_late + timedelta(days=7 if judged.crop.picked == "once" else 14)
    return min(dates.clear_by, enough)


def fits(crop: Crop, method: Method, start: date, setting: Setting) -> bool:
    """True when nothing speaks against it."""
    return bool(weigh(crop, method, [start], setting).verdict[0] == 0)


def _hands(
    weighed: Weighed, row: int, crop: Crop, method: Method, dates: GrowthDates, setting: Setting
) -> Iterator[Finding]:
    """Someone must be there to sow or set out, and to keep the seedbed moist until the seed is up."""
    name, calendar = crop.name.en, setting.calendar
    works = (
        [("Sowing indoors", dates.start, weighed.started_here, weighed.started_lesson)] if method == "indoors" else []
    )
    verb = {"indoors": "Setting out", "starts": "Setting out", "direct": "Sowing", "cloves": "Setting"}[method]
    works.append((verb, dates.bed_from, weighed.out_here, weighed.out_lesson))
    for work, day, here, lesson in works:
        if not calendar.reaches(day):
            yield _beyond(name, f"The calendar does not reach {short_day(day)}.")
        elif not here[row]:
            later = calendar.next_day_here(day)
            moved = (
                (Fix(f"{work} {short_day(later)}", f"start:{method}", (later - (day - dates.start)).isoformat()),)
                if later
                else ()
            )
            yield Finding(
                "sow_no_school",
                "fault",
                name,
                f"{work} on {short_day(day)} falls in a break.",
                "No school that week, so no class to do it.",
                OURS,
                moved,
            )
        elif not lesson[row]:
            yield Finding(
                "sow_no_lesson",
                "care",
                name,
                f"No garden lesson in the week of {short_day(day)}.",
                "School is in, but no class has a slot that week.",
                OURS,
                (Fix("Someone else does it"),),
            )
    yield from _seedbed(weighed, row, crop, dates, setting)


def _seedbed(weighed: Weighed, row: int, crop: Crop, dates: GrowthDates, setting: Setting) -> Iterator[Finding]:
    """Seed must stay moist until it is up, so it should be up before a break begins."""
    name, over = crop.name.en, int(weighed.seedbed_years[row])
    if over >= max(1, CARE * int(weighed.of[row])) and dates.emerge_to is not None:
        gap = setting.calendar.breaks[int(weighed.seedbed_break[row])]
        years = f" in {over} of {int(weighed.of[row])} years" if weighed.measured and over < weighed.of[row] else ""
        yield Finding(
            "seedbed_over_break",
            "care",
            name,
            f"Still coming up{years} when {gap.name} begins on {short_day(gap.starts)}.",
            f"Seed sown {short_day(dates.bed_from)} is up by {short_day(dates.emerge_to)} at the latest and must "
            "stay moist until then.",
            OURS,
            (Fix("Ask a carer to water the seedbed"),),
        )


def _beyond(name: str, message: str) -> Finding:
    return Finding(
        "outside_year",
        "care",
        name,
        message,
        "School days are not known there, so they cannot be judged.",
        OURS,
        (Fix("Add the school year", "page", "/school"),),
    )


def _supposed(crop: Crop, dates: GrowthDates, setting: Setting) -> Iterator[Finding]:
    """A note when a day that the verdict rests on is one for which no school year is on file yet."""
    rests_on = [dates.bed_from] if crop.for_guests else [dates.bed_from, dates.first_pick]
    day = next((day for day in rests_on if setting.calendar.supposed(day)), None)
    if day is not None:
        yield Finding(
            "supposed_year",
            "note",
            crop.name.en,
            f"There is no calendar yet for {short_day(day)} {day.year}.",
            "The terms and breaks of the last year on file were moved on to judge it.",
            OURS,
            (Fix("Add the school year", "page", "/school"),),
        )


def _corrected(crop: Crop) -> Iterator[Finding]:
    """Say that the school's own seasons have moved the dates."""
    if crop.corrected_days:
        when = "later" if crop.corrected_days > 0 else "earlier"
        yield Finding(
            "own_correction",
            "note",
            crop.name.en,
            f"Dates are {abs(crop.corrected_days)} days {when} than by the catalogue, as your own seasons were.",
            "The school has put its own correction to use.",
            OURS,
            (Fix("See forecast and fact", "page", "/harvest/forecast"),),
        )


def _mostly_lost(weighed: Weighed, row: int) -> bool:
    return weighed.measured and bool(weighed.ripe[row] <= (1 - FAULT) * weighed.of[row])


def _picking(weighed: Weighed, row: int, crop: Crop, dates: GrowthDates, setting: Setting) -> Iterator[Finding]:
    """The picking must meet lessons, in most years."""
    name, calendar = crop.name.en, setting.calendar
    ripe, of = int(weighed.ripe[row]), int(weighed.of[row])
    if crop.for_guests or not ripe or _mostly_lost(weighed, row):
        return  # of what is mostly lost, the loss is told
    ready = (
        f"{short_day(dates.first_pick_early)} to {short_day(dates.first_pick_late)}"
        if weighed.measured
        else (f"{short_day(dates.first_pick)} to {short_day(dates.last_pick)}")
    )
    if not calendar.reaches(dates.first_pick):
        yield _beyond(name, f"Ready {ready} {dates.first_pick.year}, beyond the calendar on file.")
        return
    gap_at = int(weighed.first_break[row])
    gap = calendar.breaks[gap_at] if gap_at >= 0 else None
    missed = of - int(weighed.school_years[row])
    if weighed.school_years[row] < FAULT * ripe:
        coming = gap or calendar.next_break(dates.first_pick)
        those = f"{ripe} years" if ripe == of else f"the {ripe} years that ripen it"
        years = f" in {ripe - int(weighed.school_years[row])} of {those}" if weighed.measured else ""
        yield Finding(
            "ready_no_school",
            "fault",
            name,
            f"Ready {ready}, when nobody is at school{years}.",
            f"{coming.name} lasts from {short_day(coming.starts)} to {short_day(coming.ends)}."
            if coming
            else "No school then.",
            OURS,
            (Fix("Name carers who pick"),),
        )
        return
    if gap is not None:
        weeks = max(1, round((min(gap.ends, dates.last_pick) - dates.first_pick).days / 7))
        yield Finding(
            "ready_in_break",
            "care",
            name,
            f"First ripe {short_day(dates.first_pick)}, in the {gap.name.lower()}.",
            f"About {weeks} week{'s' if weeks != 1 else ''} of picking before children are back.",
            OURS,
            (Fix("Name carers who pick"),),
        )
    if weighed.fit_years[row] < SURE_SHARE * ripe:
        n = int(weighed.fit_years[row])
        lessons = len(calendar.lessons(dates.first_pick, dates.last_pick))
        if not calendar.slots:
            message = f"Ready {ready}; school is in for the picking in only {n} of {of} years."
        elif weighed.measured and n > 0:
            message = f"Ready {ready}; {LESSONS_TO_PICK} garden lessons meet it in {n} of {of} years."
        else:
            met = (
                "no garden lesson meets"
                if not lessons
                else "one garden lesson meets"
                if lessons == 1
                else "few garden lessons meet"
            )
            message = f"Ready {ready}; {met} it."
        here = calendar.days_here_between(dates.first_pick, dates.last_pick)
        yield Finding(
            "ready_few_lessons",
            "care",
            name,
            message,
            f"{here} school day{'s' if here != 1 else ''} in the picking time of the middle year; "
            f"{LESSONS_TO_PICK} lessons are wanted.",
            OURS,
            (Fix("Ask a class for an extra visit"),),
        )
    elif missed and weighed.measured and missed >= CARE * of and weighed.school_years[row] < ripe:
        n = int(weighed.school_years[row])
        yield Finding(
            "ready_not_always",
            "note",
            name,
            f"Ready {ready}; children are here for it in {n} of {of} years.",
            "In the other years it is lost, or ripens in a break.",
            WEATHER,
        )


_LOSSES: dict[Outcome, tuple[str, str, str]] = {
    Outcome.NOT_UP: (
        "not_up",
        "It does not come up in {n} of {of} years.",
        "Wait for other ground, or start it another way",
    ),
    Outcome.FROZEN: ("frost_risk", "A freeze it does not bear in {n} of {of} years.", "Later, or under a cover"),
    Outcome.HEAT: ("heat_risk", "Heat spoils it before it is ready in {n} of {of} years.", "Earlier, or in autumn"),
    Outcome.NO_COLD: ("no_cold", "It misses the cold it needs in {n} of {of} years.", "Start it before the winter"),
    Outcome.BOLTED: (
        "bolts_in_spring",
        "It shoots into flower before it is ready in {n} of {of} years.",
        "Later in spring, or earlier in autumn",
    ),
    Outcome.NOT_RIPE: ("not_ripe", "It does not ripen here in {n} of {of} years.", "A faster kind, or a cover"),
}


def _weather(
    weighed: Weighed, row: int, crop: Crop, method: Method, dates: GrowthDates, setting: Setting
) -> Iterator[Finding]:
    """What the years on file did to it; without a record, what can still be said."""
    if not weighed.measured:
        yield from _without_record(crop, method, dates, setting)
        return
    of = int(weighed.of[row])
    lost = {outcome: int(weighed.outcomes[row, outcome]) for outcome in _LOSSES}
    # When half of the years or more are lost, it misses for the reason that most of them share.
    worst = max(lost, key=lambda outcome: lost[outcome]) if _mostly_lost(weighed, row) else None
    for outcome, (code, message, label) in _LOSSES.items():
        n = lost[outcome]
        if outcome == worst or (n and n >= CARE * of):
            yield Finding(
                code,
                "fault" if outcome == worst else "care",
                crop.name.en,
                message.format(n=n, of=of),
                _why(outcome, crop, dates, setting),
                WEATHER,
                (Fix(label),),
            )


def _why(outcome: Outcome, crop: Crop, dates: GrowthDates, setting: Setting) -> str:
    def degrees(celsius: float) -> str:
        return format_temperature(celsius, setting.units)

    out = short_day(dates.emerge_from or dates.bed_from)
    covered = f" {setting.covering.cover.words}" if setting.covering else ""
    if outcome == Outcome.NOT_UP:
        if crop.seed_cold_days:
            return (
                f"The seed lies until it has had {crop.seed_cold_days} days of "
                f"cold ground; then it wants {degrees(crop.germination_c[0])}."
            )
        return f"It wants ground of {degrees(crop.germination_c[0])} to {degrees(crop.germination_c[2])}{covered}."
    if outcome == Outcome.FROZEN:
        return f"From {out} until it was ready a night{covered} fell below {degrees(crop.bears_c)}."
    if outcome == Outcome.HEAT:
        return f"A week of days above {degrees(crop.heat_c)}{covered} makes it bolt, turn bitter or stop."
    if outcome == Outcome.NO_COLD:
        return f"It needs {crop.cold_days} days at or below {degrees(crop.cold_below_c)}; without them: {crop.without_cold}."
    if outcome == Outcome.BOLTED:
        return f"After {crop.bolts_after_cold_days} cold days the first long days of spring make it flower."
    return f"There is not enough warmth above {degrees(crop.base_c)}{covered} before it is over."


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
            yield Finding(
                "frost_risk",
                "care",
                name,
                f"A freeze may fall on it around {short_day(cold)}.",
                "It bears none. By the freeze dates that were typed in; a weather record would say in how many years.",
                typed.from_whom or "typed freeze dates",
                (Fix("Later, or under a cover"), *add),
            )
    months = setting.chart.get((name.lower(), _IN_CHART[method]))
    if months is not None and dates.start.month not in months:
        yield Finding(
            "not_in_chart",
            "care",
            name,
            f"The local chart does not have it in {MONTH_NAMES[dates.start.month - 1]}.",
            f"It has {', '.join(MONTH_NAMES[m - 1] for m in sorted(months))}; a chart knows months, not years.",
            "the local office's chart",
            add,
        )
    elif (
        months is None
        and typed is not None
        and (windows := typed.windows(crop, method, dates.start))
        and not any(first <= dates.start <= last for first, last in windows)
    ):
        spans = "; ".join(f"{short_day(first)} to {short_day(last)}" for first, last in windows)
        yield Finding(
            "not_in_window",
            "care",
            name,
            f"Not its usual time: {spans}.",
            "Weeks counted from the freeze dates that were typed in; a weather record would say in how many years.",
            typed.from_whom or "typed freeze dates",
            add,
        )
    if typed is not None or months is not None:
        yield Finding(
            "no_weather",
            "note",
            name,
            "Cold ground and heat are not judged, and frost only roughly.",
            "There is no weather record for this place; freeze dates or a month chart were given instead.",
            OURS,
            add,
        )
    else:
        yield Finding(
            "no_weather",
            "note",
            name,
            "Frost, cold ground and heat are not judged.",
            "There is no weather on file for this place.",
            OURS,
            add,
        )


def _cautions(crop: Crop) -> Iterator[Finding]:
    """Where someone can be hurt, shown where the crop is planned; the school's own rules come first."""
    if crop.caution:
        yield Finding(
            "caution",
            "note",
            crop.name.en,
            crop.caution,
            "The school's own rules come first.",
            "common practice, no source",
        )
