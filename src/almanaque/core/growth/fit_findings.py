"""What is said of a start: each of its findings, from the weighed day; `school_fit` makes the verdict of the same day."""

from collections.abc import Iterator, Mapping
from datetime import timedelta

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.findings import AS_WRITTEN, Finding, Fix, Severity, worst_first
from almanaque.core.growth import verdicts
from almanaque.core.growth.crop_runs import Outcome
from almanaque.core.growth.growth_dates import GrowthDates
from almanaque.core.growth.setting import Setting, chart_months
from almanaque.core.growth.sowing_days import LESSONS_TO_PICK, Weighed
from almanaque.core.units import format_temperature, temperatures_in
from almanaque.core.words import Phrase, term

TENDER_FROM_C = -0.5  # a crop that bears no less than this has no place among typed freeze dates
OURS = "own_rule"
WEATHER = "weather"
PRACTICE = "practice"
CHART = "chart"
_SEASONS = {"": "by_record", "dormant": "dormant", "before winter": "before_winter"}  # wording of the usual weeks


def of_start(
    weighed: Weighed, row: int, crop: Crop, method: Method, dates: GrowthDates, setting: Setting
) -> list[Finding]:
    """All that is to be said of a start, worst first: hands to do it, picking, weather, calendar, cautions."""
    return worst_first(
        [
            *_hands(weighed, row, crop, method, dates, setting),
            *_whoever_started_it(weighed, row, crop, method, dates, setting),
        ]
    )


def of_standing(weighed: Weighed, crop: Crop, method: Method, dates: GrowthDates, setting: Setting) -> list[Finding]:
    """The same of what stands in the bed: who started it is no matter any more."""
    return worst_first(
        [*_seedbed(weighed, 0, crop, dates, setting), *_whoever_started_it(weighed, 0, crop, method, dates, setting)]
    )


def _whoever_started_it(
    weighed: Weighed, row: int, crop: Crop, method: Method, dates: GrowthDates, setting: Setting
) -> Iterator[Finding]:
    yield from _picking(weighed, row, crop, dates, setting)
    yield from _weather(weighed, row, crop, method, dates, setting)
    yield from _supposed(crop, dates, setting)
    yield from _corrected(crop, setting)
    yield from _in_programme(crop, dates, setting)
    yield from _cautions(crop)


def _hands(
    weighed: Weighed, row: int, crop: Crop, method: Method, dates: GrowthDates, setting: Setting
) -> Iterator[Finding]:
    """Someone must be there to sow or set out, and to keep the seedbed moist until the seed is up."""
    name, calendar = crop.name.en, setting.calendar
    for key, work, day in (
        ("start", term("work", "indoors"), dates.start),
        ("bed", term("work", "starts" if method == "indoors" else method), dates.bed_from),
    ):
        if _severity(weighed, row, f"{key}.outside_year"):
            yield _beyond(name, {"day": day})
        if severity := _severity(weighed, row, f"{key}.sow_no_school"):
            later = calendar.next_day_here(day)
            fixes: tuple[Fix, ...] = ()
            if later:
                moved = (later - (day - dates.start)).isoformat()
                fixes = (Fix("way_on", f"start:{method}", moved, params={"words": work, "day": later}),)
            yield Finding("sow_no_school", severity, name, {"work": work, "day": day}, OURS, fixes)
        if severity := _severity(weighed, row, f"{key}.sow_no_lesson"):
            yield Finding("sow_no_lesson", severity, name, {"day": day}, OURS, (Fix("someone_else"),))
    yield from _seedbed(weighed, row, crop, dates, setting)


def _severity(weighed: Weighed, row: int, code: str) -> Severity | None:
    """How grave a code is on a day; None where it is not to be said."""
    said = weighed.said.get(code)
    return None if said is None else verdicts.SEVERITIES[int(said[row])]


def _seedbed(weighed: Weighed, row: int, crop: Crop, dates: GrowthDates, setting: Setting) -> Iterator[Finding]:
    """Seed must stay moist until it is up, so it should be up before a break begins."""
    name, over = crop.name.en, int(weighed.seedbed_years[row])
    if (severity := _severity(weighed, row, "seedbed_over_break")) and dates.emerge_to is not None:
        gap = setting.calendar.breaks[int(weighed.seedbed_break[row])]
        in_some = weighed.measured and over < weighed.of[row]
        yield Finding(
            "seedbed_over_break",
            severity,
            name,
            {
                "gap": gap.name,
                "starts": gap.starts,
                "sown": dates.bed_from,
                "up_by": dates.emerge_to,
                "n": over,
                "of": int(weighed.of[row]),
            },
            OURS,
            (Fix("ask_carer_to_water"),),
            case="in_some_years" if in_some else "",
        )


def _beyond(name: str, params: Mapping[str, object], *, case: str = "") -> Finding:
    return Finding(
        "outside_year",
        "care",
        name,
        params,
        OURS,
        (Fix("add_school_year", "page", "/school"),),
        case=case,
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
            {"day": day, "year": day.year},
            OURS,
            (Fix("add_school_year", "page", "/school"),),
        )


def _corrected(crop: Crop, setting: Setting) -> Iterator[Finding]:
    """Say that the school's own seasons, or the bed's own pickings, have moved the dates."""
    longer = setting.pace_of(crop) - 1
    if crop.corrected_days:
        yield Finding(
            "own_correction",
            "note",
            crop.name.en,
            {"days": abs(crop.corrected_days)},
            OURS,
            (Fix("see_forecast_and_fact", "page", "/harvest/forecast"),),
            case="later" if crop.corrected_days > 0 else "earlier",
        )
    if longer:
        yield Finding(
            "bed_pace",
            "note",
            crop.name.en,
            {"percent": round(100 * abs(longer))},
            OURS,
            (Fix("see_forecast_and_fact", "page", "/harvest/forecast"),),
            case="later" if longer > 0 else "earlier",
        )


def _in_programme(crop: Crop, dates: GrowthDates, setting: Setting) -> Iterator[Finding]:
    """Say that only the groups of the summer programme are here for the first picking."""
    day, calendar = dates.first_pick, setting.calendar
    if calendar.children_here(day) and not calendar.in_session(day):
        yield Finding("in_summer_programme", "note", crop.name.en, {"first_pick": day}, OURS)


def _picking(weighed: Weighed, row: int, crop: Crop, dates: GrowthDates, setting: Setting) -> Iterator[Finding]:
    """The picking must meet lessons, in most years."""
    name, calendar = crop.name.en, setting.calendar
    ripe, of = int(weighed.ripe[row]), int(weighed.of[row])
    ready: dict[str, object] = (
        {"ready": dates.first_pick_early, "to": dates.first_pick_late}
        if weighed.measured
        else {"ready": dates.first_pick, "to": dates.last_pick}
    )
    if _severity(weighed, row, "picking.outside_year"):
        yield _beyond(name, {**ready, "year": dates.first_pick.year}, case="picking")
    gap_at = int(weighed.first_break[row])
    gap = calendar.breaks[gap_at] if gap_at >= 0 else None
    if severity := _severity(weighed, row, "ready_no_school"):
        coming = gap or calendar.next_break(dates.first_pick)
        years: Phrase | str = ""
        if weighed.measured:
            those = "in_years" if ripe == of else "in_years_that_ripen"
            years = Phrase(f"findings.part.{those}", {"n": ripe - int(weighed.school_years[row]), "of": ripe})
        named = {"coming": coming.name, "starts": coming.starts, "ends": coming.ends} if coming else {}
        case = "in_a_break" if coming else ""
        params = {**ready, "years": years, **named}
        yield Finding("ready_no_school", severity, name, params, OURS, (Fix("name_carers"),), case=case)
    if severity := _severity(weighed, row, "ready_to_store"):
        params = {
            **ready,
            "how": crop.keeps_how,
            "weeks": crop.keeps_weeks,
            "n": int(weighed.stored_years[row]),
            "of": ripe,
        }
        yield Finding("ready_to_store", severity, name, params, OURS, (Fix("name_carers"),))
    if (severity := _severity(weighed, row, "ready_in_break")) and gap is not None:
        weeks = max(1, round((min(gap.ends, dates.last_pick) - dates.first_pick).days / 7))
        params = {"first_pick": dates.first_pick, "gap": gap.name.lower(), "weeks": weeks}
        yield Finding("ready_in_break", severity, name, params, OURS, (Fix("name_carers"),))
    if severity := _severity(weighed, row, "ready_few_lessons"):
        n = int(weighed.fit_years[row])
        last = dates.stands_until or dates.last_pick
        lessons = len(calendar.lessons(dates.first_pick, last))
        if not calendar.slots:
            case = "in_school"
        elif weighed.measured and n > 0:
            case = "in_some_years"
        else:
            case = "no_lesson" if not lessons else "one_lesson" if lessons == 1 else "few_lessons"
        here = calendar.days_here_between(dates.first_pick, last)
        params = {**ready, "n": n, "of": of, "here": here, "wanted": LESSONS_TO_PICK}
        yield Finding("ready_few_lessons", severity, name, params, OURS, (Fix("extra_visit"),), case=case)
    if severity := _severity(weighed, row, "ready_not_always"):
        yield Finding(
            "ready_not_always", severity, name, {**ready, "n": int(weighed.school_years[row]), "of": of}, WEATHER
        )


def _weather(
    weighed: Weighed, row: int, crop: Crop, method: Method, dates: GrowthDates, setting: Setting
) -> Iterator[Finding]:
    """What the years on file did to it; without a record, what can still be said."""
    if not weighed.measured:
        yield from _without_record(crop, method, dates, setting)
        return
    name, of = crop.name.en, int(weighed.of[row])
    for outcome, code in verdicts.LOSSES.items():
        if severity := _severity(weighed, row, code):
            params = {"n": int(weighed.outcomes[row, outcome]), "of": of, **_why(outcome, crop, dates, setting)}
            case = "after_cold_ground" if outcome == Outcome.NOT_UP and crop.seed_cold_days else ""
            if outcome == Outcome.NO_COLD and crop.winter_chill_h:
                case = "of_winter"
            if outcome == Outcome.NOT_RIPE and "hours" in params:
                case = "days_too_short"
            yield Finding(code, severity, name, params, WEATHER, (Fix(f"against_{code}"),), case=case)
    if severity := _severity(weighed, row, "frost_touch"):
        told = _why(Outcome.FROZEN, crop, dates, setting) | {"bears": format_temperature(crop.bears_c, setting.units)}
        params = {"n": int(weighed.touched_years[row]), "of": of, **told}
        yield Finding("frost_touch", severity, name, params, WEATHER, (Fix("against_frost_risk"),))
    if severity := _severity(weighed, row, "flowers_drop"):
        params = {"n": int(weighed.dropped_years[row]), "of": of}
        params["no_set"] = temperatures_in(crop.no_set, setting.units)
        yield Finding("flowers_drop", severity, name, params, WEATHER, (Fix("against_heat_risk"),))
    if (severity := _severity(weighed, row, "not_in_window")) and setting.record is not None:
        windows = setting.record.usual_weeks.dates(crop, method, dates.start)
        spans = [Phrase("findings.part.span", {"first": first, "last": last}) for first, last in windows]
        yield Finding("not_in_window", severity, name, {"spans": spans}, PRACTICE, (), case=_SEASONS[crop.set_when])
    months = chart_months(crop, method, setting)
    if (severity := _severity(weighed, row, "not_in_chart")) and months is not None:
        params = {"start": dates.start, "months": sorted(months), "n": int(weighed.ripe[row]), "of": of}
        yield Finding(
            "not_in_chart",
            severity,
            name,
            params,
            CHART,
            case="beside_a_record" if setting.leads == "record" else "leads",
        )
    if severity := _severity(weighed, row, "few_years"):
        yield Finding("few_years", severity, name, {"of": of}, OURS, (Fix("add_weather", "page", "/school/weather"),))


def _why(outcome: Outcome, crop: Crop, dates: GrowthDates, setting: Setting) -> dict[str, object]:
    """What the reason for a loss tells: the crop's own limits, from when, and under which cover."""

    def degrees(celsius: float) -> str:
        return format_temperature(celsius, setting.units)

    covering = setting.covering
    told: dict[str, object] = {
        "covered": Phrase("findings.part.covered", {"how": term("cover", covering.key)}) if covering else ""
    }
    if outcome == Outcome.NOT_UP:
        told |= {"least": degrees(crop.germination_c[0]), "most": degrees(crop.germination_c[2])}
        if crop.seed_cold_days:
            told["cold_days"] = crop.seed_cold_days
    elif outcome == Outcome.FROZEN:
        told |= {"out": dates.emerge_from or dates.bed_from, "bears": degrees(crop.dies_c)}
    elif outcome == Outcome.HEAT:
        told["above"] = degrees(crop.heat_c)
    elif outcome == Outcome.NO_GROUND:
        told["bed_from"] = dates.bed_from
    elif outcome == Outcome.CHILLED:
        told["nights"] = degrees(crop.harmed_by_nights_c or 0.0)
    elif outcome == Outcome.NO_COLD and crop.winter_chill_h:
        told["hours"] = crop.winter_chill_h
    elif outcome == Outcome.NO_COLD:
        told |= {"cold_days": crop.cold_days, "below": degrees(crop.cold_below_c), "without": crop.without_cold}
    elif outcome == Outcome.BOLTED:
        told["cold_days"] = crop.bolts_after_cold_days
    elif crop.bulbs_at_h is not None and setting.record and setting.record.conditions().light_h.max() < crop.bulbs_at_h:
        told["hours"] = crop.bulbs_at_h
    else:
        told["base"] = degrees(crop.base_c)
    return told


def _without_record(crop: Crop, method: Method, dates: GrowthDates, setting: Setting) -> Iterator[Finding]:
    """What can still be said without a weather record, and what that lacks."""
    name, typed = crop.name.en, setting.typed
    add = (Fix("add_weather", "page", "/school/weather"),)
    out = dates.emerge_from or dates.bed_from
    days = (out + timedelta(days=n) for n in range(max(0, (dates.first_pick - out).days) + 1))
    if typed is not None and crop.bears_c >= TENDER_FROM_C:
        cold = next((day for day in days if typed.frost_may_fall(day)), None)
        if cold is not None:
            yield Finding(
                "frost_risk",
                "care",
                name,
                {"cold": cold},
                typed.from_whom or "typed_freezes",
                (Fix("later_or_cover"), *add),
                case="typed",
            )
    months = chart_months(crop, method, setting)
    if months is not None and dates.start.month not in months:
        yield Finding(
            "not_in_chart",
            "care",
            name,
            {"start": dates.start, "months": sorted(months)},
            CHART,
            add,
        )
    elif (
        months is None
        and typed is not None
        and (windows := typed.windows(crop, method, dates.start))
        and not any(first <= dates.start <= last for first, last in windows)
    ):
        spans = [Phrase("findings.part.span", {"first": first, "last": last}) for first, last in windows]
        yield Finding(
            "not_in_window",
            "care",
            name,
            {"spans": spans},
            typed.from_whom or "typed_freezes",
            add,
        )
    roughly = typed is not None or months is not None
    yield Finding("no_weather", "care", name, {}, OURS, add, case="typed" if roughly else "")


def _cautions(crop: Crop) -> Iterator[Finding]:
    """Where someone can be hurt, shown where the crop is planned; the school's own rules come first."""
    if crop.caution:
        yield Finding(
            "caution",
            "note",
            crop.name.en,
            {"message": crop.caution, "reason": Phrase("findings.part.school_rules_first")},
            PRACTICE,
            case=AS_WRITTEN,
        )
