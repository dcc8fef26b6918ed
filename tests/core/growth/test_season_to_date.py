"""How far a planting is by its own season: going on from any day of it ends where the whole run ends."""

from dataclasses import replace
from datetime import date, timedelta

import numpy as np
import pytest

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.growth import school_fit
from almanaque.core.growth.crop_runs import Outcome
from almanaque.core.growth.season_to_date import season_to_date, warmer_than_usual
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import weigh
from almanaque.core.growth.weather_record import Record
from almanaque.core.place.climate import Climate
from almanaque.data import catalogue
from tests.places import CALENDAR, D, early_spring, steady

CROPS = catalogue()
PLACE = early_spring()
OPEN = PLACE.conditions()
FIRST = PLACE.climate.first_day
IN_BED: list[tuple[Crop, Method]] = [
    (crop, method) for crop in CROPS for method in crop.methods if crop.season_warmth is None and method != "indoors"
]


@pytest.mark.parametrize(("crop", "method"), IN_BED, ids=[f"{c.key}-{m}" for c, m in IN_BED])
def test_going_on_from_any_day_ends_where_the_whole_run_ends(crop: Crop, method: Method) -> None:
    runs = PLACE.runs(crop, method, ready_by="warmth")
    tried = 0
    for start in range(2000, 5600, 37):
        lasts = int(runs.first[start])
        if runs.outcome[start] != Outcome.RIPE:
            continue
        for share in (0.1, 0.5, 0.9):
            now = start + max(1, round(share * lasts))
            bed_from, today = (FIRST + timedelta(days=day) for day in (start, now))
            far = season_to_date(crop, method, OPEN, bed_from=bed_from, today=today)
            assert far is not None
            assert (far.up_on is not None) == (now >= start + int(runs.up[start]))
            ahead = PLACE.runs(crop, method, ready_by="warmth", behind=far.behind)
            assert now + int(ahead.first[now]) == start + lasts
            assert ahead.outcome[now] == Outcome.RIPE
            assert now + int(ahead.last[now]) == start + int(runs.last[start])
            tried += 1
    ripens_at_all = (runs.outcome[2000:5600:37] == Outcome.RIPE).any()
    assert tried or not ripens_at_all


def test_a_warm_spring_brings_the_picking_forward_and_a_cold_one_puts_it_off() -> None:
    crop, sown, today = CROPS["pea"], D("2019-04-10"), D("2019-05-20")
    found = {}
    for name, shift in (("cold", -3.0), ("usual", 0.0), ("warm", 3.0)):
        climate = PLACE.climate
        spring = slice((sown - FIRST).days, (today - FIRST).days)
        tmin, tmax = climate.tmin_c.copy(), climate.tmax_c.copy()
        tmin[spring] += shift
        tmax[spring] += shift
        record = Record(Climate(FIRST, tmin, tmax, climate.rain_mm, latitude=climate.latitude))
        setting = Setting(CALENDAR, record, "us")
        far = season_to_date(crop, "direct", record.conditions(), bed_from=sown, today=today)
        assert far is not None
        before = school_fit.judge(crop, "direct", sown, setting).dates
        found[name] = school_fit.going_on(crop, "direct", before, far, setting).dates
    assert found["warm"].first_pick < found["usual"].first_pick < found["cold"].first_pick
    whole = found["usual"].first_pick_late - found["usual"].first_pick_early
    plain = school_fit.judge(crop, "direct", sown, Setting(CALENDAR, PLACE, "us")).dates
    assert whole < plain.first_pick_late - plain.first_pick_early  # what has passed is no longer uncertain
    assert (found["usual"].start, found["usual"].bed_from) == (sown, sown)


def test_what_was_seen_goes_before_what_is_reckoned() -> None:
    crop, sown = CROPS["carrot"], D("2019-04-10")
    reckoned = season_to_date(crop, "direct", OPEN, bed_from=sown, today=D("2019-06-01"))
    seen = season_to_date(crop, "direct", OPEN, bed_from=sown, today=D("2019-06-01"), seen_up=D("2019-05-20"))
    assert reckoned is not None
    assert seen is not None
    assert reckoned.up_on is not None
    assert seen.up_on == D("2019-05-20") > reckoned.up_on
    assert seen.share < reckoned.share
    assert seen.behind.days == reckoned.behind.days == (D("2019-06-01") - sown).days


def test_without_the_seasons_weather_it_goes_on_from_what_was_seen_or_says_nothing() -> None:
    crop, after = CROPS["carrot"], FIRST + timedelta(days=OPEN.days + 40)
    assert season_to_date(crop, "direct", OPEN, bed_from=after, today=after + timedelta(days=30)) is None
    up = after + timedelta(days=12)
    seen = season_to_date(crop, "direct", OPEN, bed_from=after, today=after + timedelta(days=30), seen_up=up)
    assert seen is not None
    assert (seen.day, seen.behind.up, seen.behind.days) == (up, 1.0, 12)
    assert season_to_date(crop, "direct", OPEN, bed_from=D("2019-04-10"), today=D("2019-04-10")) is None
    assert (
        season_to_date(CROPS["asparagus"], "starts", OPEN, bed_from=D("2018-04-10"), today=D("2019-04-10")) is None
    )  # not bearing yet
    climate = PLACE.climate
    holes = np.where((np.arange(len(climate.tmin_c)) % 3) == 0, np.nan, climate.tmin_c)
    gappy = Record(replace_minimum(climate, holes)).conditions()
    assert season_to_date(crop, "direct", gappy, bed_from=D("2019-04-10"), today=D("2019-06-01")) is None


def replace_minimum(climate: Climate, tmin_c: np.ndarray) -> Climate:
    return Climate(climate.first_day, tmin_c, climate.tmax_c, climate.rain_mm, latitude=climate.latitude)


def test_what_stands_in_the_bed_needs_nobody_to_start_it_and_is_still_judged_by_its_picking() -> None:
    crop, sown = CROPS["bush-bean"], D("2027-05-18")
    setting = Setting(CALENDAR, PLACE, "us")
    before = school_fit.judge(crop, "direct", sown, setting)
    far = season_to_date(crop, "direct", OPEN, bed_from=D("2019-05-18"), today=D("2019-06-01"))
    assert far is not None
    now = school_fit.going_on(crop, "direct", before.dates, replace(far, day=D("2027-06-01")), setting)
    assert now.verdict == "misses"
    assert [f.code for f in now.findings if f.severity == "fault"] == ["ready_no_school"]
    sunday = weigh(crop, "direct", [D("2027-07-11")], setting, behind=far.behind)
    assert sunday.said["bed.sow_no_school"][0] == 0


COMES_AGAIN = [crop for crop in CROPS if crop.season_warmth is not None]


@pytest.mark.parametrize("crop", COMES_AGAIN, ids=[c.key for c in COMES_AGAIN])
def test_what_comes_again_is_asked_about_the_season_at_hand_until_it_is_over(crop: Crop) -> None:
    method, planted = crop.methods[0], D("2005-04-10")
    runs = PLACE.runs(crop, method, ready_by="warmth")
    first = planted + timedelta(days=int(runs.first[(planted - FIRST).days]))
    assert season_to_date(crop, method, OPEN, bed_from=planted, today=planted + timedelta(days=20)) is None
    seen = {}
    for year in (first.year + 2, first.year + 3):
        for day in (D(f"{year}-02-01"), D(f"{year}-06-01"), D(f"{year}-12-20")):
            far = season_to_date(crop, method, OPEN, bed_from=planted, today=day)
            assert far is not None
            ahead = PLACE.runs(crop, method, ready_by="warmth", behind=far.behind)
            at = (far.day - FIRST).days
            picked = far.day + timedelta(days=int(ahead.first[at]))
            assert picked + timedelta(days=crop.picking_days) >= day
            assert (picked - day).days < 366
            seen[day] = picked
    winter, summer = D(f"{first.year + 2}-02-01"), D(f"{first.year + 2}-06-01")
    if seen[winter] + timedelta(days=crop.picking_days) >= summer:
        assert seen[winter] == seen[summer]  # the same season on the same weather, however far it is
    else:
        assert (seen[summer].year, seen[summer] > summer) == (
            summer.year + 1,
            True,
        )  # what blooms early is over by then
    assert seen[winter].year == winter.year
    assert seen[D(f"{first.year + 2}-12-20")] == seen[D(f"{first.year + 3}-02-01")]


@pytest.mark.parametrize("share", [0.3, 0.6, 0.9])
def test_weather_that_is_known_tells_nothing_of_the_variety(share: float) -> None:
    """Where all years are alike only variety, bed and people make a range, and these are as little known late as early."""
    setting = Setting(CALENDAR, steady(11, 20), "us")
    record, sown = setting.record, D("2027-04-20")
    assert record is not None
    before = school_fit.judge(CROPS["kale"], "direct", sown, setting).dates
    today = sown + timedelta(days=round(share * (before.first_pick - sown).days))
    past = date(record.climate.first_day.year + 1, sown.month, sown.day)  # a season on file stands for this one
    far = season_to_date(CROPS["kale"], "direct", record.conditions(), bed_from=past, today=past + (today - sown))
    assert far is not None
    far = replace(far, day=today)
    late = school_fit.going_on(CROPS["kale"], "direct", before, far, setting).dates
    widths = [(dates.first_pick_late - dates.first_pick_early).days for dates in (before, late)]
    assert abs(widths[0] - widths[1]) <= 1


def test_a_season_is_as_warm_as_the_middle_year_or_warmer_by_a_share() -> None:
    crop, since, until = CROPS["pea"], D("2009-04-10"), D("2009-06-10")
    for shift in (-3.0, 0.0, 3.0):
        climate = steady(6, 16).climate
        days = slice((since - climate.first_day).days, (until - climate.first_day).days)
        tmin, tmax = climate.tmin_c.copy(), climate.tmax_c.copy()
        tmin[days] += shift
        tmax[days] += shift
        felt = Record(Climate(climate.first_day, tmin, tmax, climate.rain_mm, latitude=climate.latitude)).conditions()
        warmer = warmer_than_usual(crop, felt, since=since, until=until)
        assert warmer is not None
        assert np.sign(round(warmer, 6)) == np.sign(shift)
    assert warmer_than_usual(crop, felt, since=D("2030-04-10"), until=D("2030-06-10")) is None
    assert warmer_than_usual(crop, felt, since=until, until=until) is None


def test_what_bears_every_year_is_asked_from_its_packets_least_days_on_and_tells_its_share() -> None:
    crop = CROPS["raspberry"]
    method = crop.methods[0]
    least, most = crop.days[method]
    bed_from = FIRST + timedelta(days=3700)
    before, after = (bed_from + timedelta(days=least + n) for n in (-1, 0))
    assert most > least
    far = [season_to_date(crop, method, OPEN, bed_from=bed_from, today=day) for day in (before, after)]
    assert far[0] is None or far[0].day != before
    assert far[1] is not None
    assert far[1].up_on == bed_from
    assert 0 <= far[1].share <= 1
    spring = date(after.year + 1, 4, 1)
    growing = season_to_date(crop, method, OPEN, bed_from=bed_from, today=spring)
    assert growing is not None
    assert 0 < growing.share < 1
    assert growing.up_on == bed_from
    assert growing.share == pytest.approx(growing.behind.warmth / crop.season_warmth, rel=1e-6)  # type: ignore[operator]
