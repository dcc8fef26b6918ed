from dataclasses import replace
from datetime import date, time, timedelta

import pytest

from almanaque.core.crops.crop import Crop
from almanaque.core.findings import lead
from almanaque.core.growth import school_fit
from almanaque.core.growth.growth_dates import forecast
from almanaque.core.growth.school_fit import judge
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import VERDICTS, weigh
from almanaque.core.place.typed_freezes import TypedFreezes
from almanaque.core.school.school_year import Calendar, Slot
from almanaque.data import catalogue
from tests.places import CALENDAR, SLOTS, YEARS, D, early_spring, hard_winters, steady

CROPS = catalogue()
PLAIN = Setting(CALENDAR, None, "us")
EARLY = Setting(CALENDAR, early_spring(), "us")
HARD = Setting(CALENDAR, hard_winters(), "us")
MILD_DAYS = Setting(CALENDAR, steady(11, 20), "us")
WAYS = [(crop, method) for crop in CROPS for method in crop.methods]


def codes(judged: school_fit.Fit) -> dict[str, str]:
    return {finding.code: finding.severity for finding in judged.findings}


def test_sown_and_picked_while_children_are_here_fits() -> None:
    judged = judge(CROPS["radish"], "direct", D("2027-04-13"), MILD_DAYS)
    assert (judged.verdict, judged.findings) == ("fits", ())
    assert lead(judged.findings) == ""
    assert judged.n == judged.of >= 9


def test_ripe_in_the_summer_misses_and_names_the_break() -> None:
    for setting in (PLAIN, EARLY):
        judged = judge(CROPS["bush-bean"], "direct", D("2027-05-18"), setting)
        assert judged.verdict == "misses"
        assert codes(judged)["ready_no_school"] == "fault"
        assert "when nobody is at school" in lead(judged.findings)
        assert "17 Jun" in judged.findings[0].reason


def test_a_picking_that_begins_in_a_break_and_goes_on_into_school_needs_care() -> None:
    judged = judge(CROPS["tomato"], "indoors", D("2027-03-30"), EARLY)
    assert (judged.verdict, codes(judged)["ready_in_break"]) == ("with care", "care")


def test_what_ripens_on_a_saturday_is_picked_by_children_while_it_stands() -> None:
    dates = forecast(CROPS["radish"], "direct", D("2027-04-13"))
    saturday = replace(dates, first_pick=D("2027-05-15"), last_pick=D("2027-05-20"))
    assert school_fit.is_picked_by_children(saturday, CALENDAR)
    assert not school_fit.is_picked_by_children(
        replace(saturday, last_pick=D("2027-05-16"), stands_until=None), CALENDAR
    )
    stands = replace(saturday, last_pick=D("2027-05-16"), stands_until=D("2027-05-18"))
    assert school_fit.is_picked_by_children(stands, CALENDAR)
    summer = replace(dates, first_pick=D("2027-07-01"), last_pick=D("2027-07-20"), stands_until=None)
    assert not school_fit.is_picked_by_children(summer, CALENDAR)


def test_sowing_in_a_break_misses_and_offers_the_next_school_day() -> None:
    judged = judge(CROPS["radish"], "direct", D("2027-03-20"), PLAIN)
    assert codes(judged)["sow_no_school"] == "fault"
    assert judged.findings[0].fixes[0].value == "2027-03-29"


def test_sowing_indoors_and_setting_out_both_need_someone() -> None:
    in_break = judge(CROPS["tomato"], "indoors", D("2027-03-20"), PLAIN)
    assert "Sowing indoors on 20 Mar falls in a break." in [f.message for f in in_break.findings]
    out_in_break = judge(CROPS["tomato"], "indoors", D("2027-05-17"), PLAIN)
    assert "Setting out on 5 Jul falls in a break." in [f.message for f in out_in_break.findings]


def test_a_seedbed_over_a_break_needs_a_carer_and_says_in_how_many_years() -> None:
    judged = judge(CROPS["carrot"], "direct", D("2027-03-10"), EARLY)
    assert codes(judged)["seedbed_over_break"] == "care"
    assert "Spring break begins on 20 Mar" in next(f.message for f in judged.findings if f.code == "seedbed_over_break")
    assert "seedbed_over_break" not in codes(judge(CROPS["carrot"], "direct", D("2027-03-29"), EARLY))


def test_a_picking_that_meets_too_few_lessons_needs_care() -> None:
    one_slot = Setting(Calendar(YEARS, SLOTS[:1]), None, "us")
    start = D("2027-06-15") - timedelta(days=27)
    judged = judge(CROPS["radish"], "direct", start, one_slot)
    assert codes(judged)["ready_few_lessons"] == "care"


def test_school_without_garden_lessons_that_week_is_said() -> None:
    friday_only = Setting(Calendar(YEARS, [Slot("a", 6, time(9), 30)]), None, "us")
    assert codes(judge(CROPS["radish"], "direct", D("2027-04-13"), friday_only))["sow_no_lesson"] == "care"


@pytest.mark.parametrize(("cold_years", "severity"), [(0, None), (1, "care"), (5, "fault")])
def test_frost_risk_follows_the_share_of_years(cold_years: int, severity: str | None) -> None:
    nights = {f"{2001 + n}-05-15": -2.0 for n in range(cold_years)}
    judged = judge(CROPS["tomato"], "starts", D("2027-05-04"), Setting(CALENDAR, steady(11, 20, cold=nights), "us"))
    assert codes(judged).get("frost_risk") == severity
    if severity:
        finding = next(f for f in judged.findings if f.code == "frost_risk")
        assert f"in {cold_years} of {judged.of} years" in finding.message
        assert "31 °F" in finding.reason


@pytest.mark.parametrize(
    ("crop", "method", "day", "record", "code", "words"),
    [
        ("radish", "direct", "2027-04-13", steady(1, 4), "not_up", "5 °C to 35 °C"),
        ("spinach", "direct", "2027-04-13", steady(15, 33), "heat_risk", "28 °C"),
        ("garlic", "cloves", "2027-04-13", hard_winters(), "no_cold", "one round bulb"),
        ("kale", "direct", "2026-10-06", early_spring(), "bolts_in_spring", "make it flower"),
        ("pepper", "starts", "2027-05-10", steady(6, 13), "not_ripe", "not enough warmth above 8 °C"),
        ("radish", "direct", "2027-04-13", steady(-4, 0), "no_ground", "colder than 2 °C"),
        ("melon", "starts", "2027-06-01", steady(3, 26), "chilled", "averaged less than 4 °C"),
        ("apple", "starts", "2027-04-13", steady(20, 28), "no_cold", "low chill"),
        ("milkweed", "direct", "2027-04-13", hard_winters(), "not_up", "35 days of cold ground"),
    ],
)
def test_every_loss_has_its_name_its_reason_and_its_years(
    crop: str, method: str, day: str, record: object, code: str, words: str
) -> None:
    judged = judge(CROPS[crop], method, D(day), Setting(CALENDAR, record, "metric"))  # type: ignore[arg-type]
    finding = next(f for f in judged.findings if f.code == code)
    assert finding.severity in ("care", "fault")
    assert f"of {judged.of} years" in finding.message
    assert words in finding.reason
    assert finding.fixes
    assert finding.source == "weather"


def test_a_crop_that_cannot_ripen_here_misses_and_says_why() -> None:
    judged = judge(CROPS["melon"], "starts", D("2027-06-01"), Setting(CALENDAR, steady(5, 13), "us"))
    assert judged.verdict == "misses"
    assert "does not ripen here in" in lead(judged.findings)


def test_chances_are_years_of_the_record_that_cover_the_sowing_to_its_end() -> None:
    short = Setting(CALENDAR, steady(11, 20, years=3), "us")
    assert judge(CROPS["radish"], "direct", D("2027-04-13"), short).of == 3
    assert judge(CROPS["radish"], "direct", D("2027-12-20"), short).of == 2  # the last one runs beyond the record
    assert judge(CROPS["winter-wheat"], "direct", D("2026-10-01"), HARD).of >= 29


def test_without_weather_or_calendar_the_answer_says_what_it_lacks() -> None:
    judged = judge(CROPS["radish"], "direct", D("2027-04-13"), PLAIN)
    assert codes(judged) == {"no_weather": "care"}
    assert (judged.n, judged.of) == (0, 0)
    beyond = judge(CROPS["garlic"], "cloves", D("2028-10-01"), PLAIN)
    assert codes(beyond)["outside_year"] == "care"
    nothing = judge(CROPS["radish"], "direct", D("2027-04-13"), Setting(Calendar([]), None, "us"))
    assert nothing.verdict == "with care"
    no_terms = Setting(Calendar([replace(YEARS[0], terms=(), closures=())]), EARLY.record, "us")
    assert judge(CROPS["radish"], "direct", D("2027-04-13"), no_terms).verdict == "misses"


def test_what_is_grown_for_bees_and_butterflies_wants_nobody_to_pick_it() -> None:
    judged = judge(CROPS["coneflower"], "starts", D("2027-05-04"), EARLY)
    assert (judged.verdict, codes(judged)) == ("fits", {})


def test_a_planting_over_three_school_years_is_judged_as_far_as_the_calendar_reaches() -> None:
    judged = judge(CROPS["asparagus"], "starts", D("2027-04-13"), EARLY)
    assert judged.dates.first_pick.year == 2029
    assert codes(judged)["outside_year"] == "care"
    assert "2029, beyond the calendar" in lead(judged.findings)


def test_what_ripens_after_the_last_calendar_is_judged_by_the_last_terms_moved_on() -> None:
    one_year = Calendar(YEARS[:1], SLOTS)
    both = judge(CROPS["pumpkin"], "direct", D("2027-06-01"), EARLY)
    alone = judge(CROPS["pumpkin"], "direct", D("2027-06-01"), replace(EARLY, calendar=one_year))
    moved = judge(CROPS["pumpkin"], "direct", D("2027-06-01"), replace(EARLY, calendar=one_year.carried_on))
    assert "supposed_year" not in codes(both)
    assert (alone.verdict, codes(alone)["outside_year"]) == ("with care", "care")
    assert (moved.verdict, codes(moved)["supposed_year"]) == (both.verdict, "note")
    assert "There is no calendar yet for" in next(f.message for f in moved.findings if f.code == "supposed_year")
    years_on = judge(CROPS["asparagus"], "starts", D("2027-04-13"), replace(EARLY, calendar=CALENDAR.carried_on))
    assert codes(years_on) == {"supposed_year": "note", "caution": "note"}


def test_typed_freezes_and_usual_weeks_speak_where_there_is_no_record() -> None:
    typed = TypedFreezes("05-10", "05-20", "09-25", "10-05", "the growers")
    setting = replace(PLAIN, typed=typed)
    assert "not_in_window" not in codes(judge(CROPS["bush-bean"], "direct", D("2027-05-24"), setting))
    late = judge(CROPS["spinach"], "direct", D("2027-06-08"), setting)
    finding = next(f for f in late.findings if f.code == "not_in_window")
    assert finding.severity == "care"
    assert "22 Mar to 23 May" in finding.message
    assert finding.source == "the growers"


@pytest.mark.parametrize("ready_by", ["warmth", "packet"])
@pytest.mark.parametrize("setting", [EARLY, HARD, PLAIN], ids=["early spring", "hard winters", "no record"])
def test_the_verdict_is_that_of_the_worst_finding_for_every_crop_and_week(setting: Setting, ready_by: str) -> None:
    days = [D("2026-08-26") + timedelta(days=n) for n in range(0, 364, 7)]
    by = {"fault": 2, "care": 1, "note": 0}
    setting = replace(setting, ready_by=ready_by)  # type: ignore[arg-type]
    for crop, method in WAYS:
        weighed = weigh(crop, method, days, setting)
        for row, day in enumerate(days):
            found = school_fit.at(weighed, row, crop, method, setting)
            worst = max((by[f.severity] for f in found.findings), default=0)
            if setting.measured:
                assert VERDICTS[worst] == found.verdict, (crop.key, method, day, found.findings)
            else:
                assert VERDICTS.index(found.verdict) <= worst, (crop.key, method, day, found.findings)


@pytest.mark.parametrize("crop", [c for c in CROPS if c.caution], ids=lambda c: c.key)
def test_a_caution_is_shown_where_the_crop_is_planned(crop: Crop) -> None:
    judged = judge(crop, crop.methods[0], date(2027, 4, 13), EARLY)
    assert crop.caution in [f.message for f in judged.findings if f.code == "caution"]


def test_of_what_is_mostly_lost_the_loss_is_told_and_not_the_picking() -> None:
    lost = judge(CROPS["broad-bean"], "direct", D("2027-05-10"), EARLY)
    assert [f.code for f in lost.findings if f.severity == "fault"] == ["heat_risk"]
    assert "Heat spoils it before it is ready in 30 of 30 years." in lead(lost.findings)
    late = judge(CROPS["pea"], "direct", D("2027-05-25"), EARLY)
    assert "in 24 of the 24 years that ripen it" in lead(late.findings)
    assert codes(late)["heat_risk"] == "care"


def test_without_a_record_the_packet_gives_the_range() -> None:
    for crop, method in WAYS:
        packet, judged = forecast(crop, method, D("2027-05-11")), judge(crop, method, D("2027-05-11"), PLAIN).dates
        assert (judged.first_pick_early, judged.first_pick, judged.first_pick_late) == (
            packet.first_pick_early,
            packet.first_pick,
            packet.first_pick_late,
        )
