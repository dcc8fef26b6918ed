from datetime import date, time, timedelta

import numpy as np
import pytest

from almanaque.core import fit
from almanaque.core.climate import Climate
from almanaque.core.findings import lead
from almanaque.core.fit import Setting, judge, latest_fit, mends, nearest_fit
from almanaque.core.school_year import Calendar, SchoolYear, Slot, Span
from almanaque.data import catalogue

CROPS = catalogue()
D = date.fromisoformat
YEARS = [
    SchoolYear(
        "2026–27", D("2026-08-26"), D("2027-08-24"),
        (Span("Autumn term", D("2026-08-26"), D("2026-12-18")), Span("Spring term", D("2027-01-04"), D("2027-06-16"))),
        (Span("Spring break", D("2027-03-20"), D("2027-03-28")),),
    ),
    SchoolYear("2027–28", D("2027-08-25"), D("2028-08-22"), (Span("Autumn term", D("2027-08-25"), D("2027-12-17")),)),
]  # fmt: skip
SLOTS = [Slot("a", 1, time(9, 40), 45), Slot("b", 3, time(9, 40), 45)]
CALENDAR = Calendar(YEARS, SLOTS)
PLAIN = Setting(CALENDAR, None, "us")


def weather(least_c: float, greatest_c: float, cold_nights: dict[str, float] | None = None) -> Climate:
    days = 365 * 10 + 3
    tmin = np.full(days, least_c)
    for day, value in (cold_nights or {}).items():
        tmin[(D(day) - date(2001, 1, 1)).days] = value
    return Climate(date(2001, 1, 1), tmin, np.full(days, greatest_c), np.zeros(days), latitude=45)


def codes(judged: fit.Fit) -> dict[str, str]:
    return {finding.code: finding.severity for finding in judged.findings}


def test_sown_and_picked_while_children_are_here_fits() -> None:
    judged = judge(CROPS["radish"], "direct", D("2027-04-13"), Setting(CALENDAR, weather(8, 20), "us"))
    assert (judged.verdict, judged.findings) == ("fits", ())
    assert lead(judged.findings) == ""


def test_ripe_in_the_summer_misses_and_names_the_break() -> None:
    judged = judge(CROPS["bush-bean"], "direct", D("2027-05-12"), PLAIN)
    assert judged.verdict == "misses"
    assert codes(judged)["ready_no_school"] == "fault"
    assert lead(judged.findings).endswith("when nobody is at school.")
    assert "17 Jun" in judged.findings[0].reason


def test_a_picking_that_begins_in_a_break_and_goes_on_into_school_needs_care() -> None:
    judged = judge(CROPS["tomato"], "indoors", D("2027-03-30"), PLAIN)
    assert (judged.verdict, codes(judged)["ready_in_break"]) == ("with care", "care")


def test_sowing_in_a_break_misses_and_offers_the_next_school_day() -> None:
    judged = judge(CROPS["radish"], "direct", D("2027-03-20"), PLAIN)
    assert codes(judged)["sow_no_school"] == "fault"
    assert judged.findings[0].fixes[0].value == "2027-03-29"


def test_sowing_indoors_and_setting_out_both_need_someone() -> None:
    in_break = judge(CROPS["tomato"], "indoors", D("2027-03-20"), PLAIN)
    assert "Sowing indoors on 20 Mar falls in a break." in [f.message for f in in_break.findings]
    out_in_break = judge(CROPS["tomato"], "indoors", D("2027-05-17"), PLAIN)
    assert "Setting out on 5 Jul falls in a break." in [f.message for f in out_in_break.findings]


def test_a_seedbed_over_a_break_needs_a_carer() -> None:
    judged = judge(CROPS["carrot"], "direct", D("2027-03-16"), PLAIN)
    assert codes(judged)["seedbed_over_break"] == "care"
    assert "seedbed_over_break" not in codes(judge(CROPS["carrot"], "direct", D("2027-03-29"), PLAIN))


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
    setting = Setting(CALENDAR, weather(8, 20, nights), "us")
    judged = judge(CROPS["tomato"], "starts", D("2027-05-04"), setting)
    assert codes(judged).get("frost_risk") == severity
    if severity:
        finding = next(f for f in judged.findings if f.code == "frost_risk")
        assert f"in {cold_years} of 10 years" in finding.message
        assert "32 °F" in finding.reason


def test_cold_ground_and_heat_are_judged_by_the_normals() -> None:
    cold = judge(CROPS["radish"], "direct", D("2027-04-13"), Setting(CALENDAR, weather(0, 6), "metric"))
    assert codes(cold)["cold_ground"] == "care"
    assert "3 °C" in next(f for f in cold.findings if f.code == "cold_ground").reason
    hot = judge(CROPS["spinach"], "direct", D("2027-04-13"), Setting(CALENDAR, weather(15, 35), "us"))
    assert codes(hot)["heat_risk"] == "care"
    assert "heat_risk" not in codes(
        judge(CROPS["tomato"], "starts", D("2027-04-13"), Setting(CALENDAR, weather(15, 35), "us"))
    )


def test_without_weather_or_calendar_the_answer_says_what_it_lacks() -> None:
    assert codes(judge(CROPS["radish"], "direct", D("2027-04-13"), PLAIN)) == {"no_weather": "note"}
    beyond = judge(CROPS["garlic"], "cloves", D("2028-10-01"), PLAIN)
    assert codes(beyond)["outside_year"] == "care"
    nothing = judge(CROPS["radish"], "direct", D("2027-04-13"), Setting(Calendar([]), None, "us"))
    assert nothing.verdict == "with care"


def test_the_nearest_day_that_fits_really_fits_and_none_nearer_does() -> None:
    start = D("2027-06-01")
    found = nearest_fit(CROPS["radish"], "direct", start, PLAIN, not_before=D("2027-04-14"))
    assert found is not None
    assert judge(CROPS["radish"], "direct", found.dates.start, PLAIN).verdict == "fits"
    gap = abs((found.dates.start - start).days)
    nearer = [start + timedelta(days=n) for n in range(-gap + 1, gap)]
    assert not any(CALENDAR.in_session(day) and fit.fits(CROPS["radish"], "direct", day, PLAIN) for day in nearer)
    assert CALENDAR.in_session(found.dates.start)


@pytest.mark.parametrize("key", ["radish", "carrot", "lettuce", "pea", "kale", "garlic"])
def test_the_short_answer_agrees_with_the_long_one(key: str) -> None:
    crop = CROPS[key]
    setting = Setting(CALENDAR, weather(2, 18, {"2003-05-01": -6.0}), "us")
    for offset in range(0, 365, 3):
        day = D("2026-08-26") + timedelta(days=offset)
        for method in crop.methods:
            assert fit.fits(crop, method, day, setting) == (judge(crop, method, day, setting).verdict == "fits")


def test_mends_name_another_day_or_another_way() -> None:
    judged = judge(CROPS["lettuce"], "direct", D("2027-05-20"), PLAIN)
    offered = list(mends(judged, PLAIN, not_before=D("2027-04-14")))
    assert [fix.action for fix in offered] == ["start:direct", "start:starts"]
    for fix in offered:
        assert fit.fits(CROPS["lettuce"], fix.action.split(":")[1], D(fix.value), PLAIN)


def test_the_last_call_is_the_last_day_that_fits() -> None:
    last = latest_fit(CROPS["radish"], "direct", PLAIN, not_before=D("2027-04-14"), picked_by=D("2027-06-16"))
    assert last is not None
    assert fit.fits(CROPS["radish"], "direct", last, PLAIN)
    assert latest_fit(CROPS["pumpkin"], "direct", PLAIN, not_before=D("2027-04-14"), picked_by=D("2027-06-16")) is None
