from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.growth.growth_dates import forecast, picking_season, ready_until
from almanaque.data import catalogue
from tests.refuses import refuses

CROPS = catalogue()
WAYS = [(crop, method) for crop in CROPS for method in crop.methods]


def test_radish_is_pulled_25_to_30_days_from_sowing() -> None:
    dates = forecast(CROPS["radish"], "direct", date(2027, 4, 14))
    assert (dates.first_pick_early, dates.first_pick_late) == (date(2027, 5, 9), date(2027, 5, 14))
    assert dates.emerge_from == date(2027, 4, 18)


def test_days_count_from_setting_out_when_it_was_started_indoors() -> None:
    tomato = CROPS["tomato"]
    dates = forecast(tomato, "indoors", date(2027, 3, 30))
    assert dates.bed_from == date(2027, 3, 30) + timedelta(weeks=tomato.weeks_indoors)
    assert dates.emerge_from is None
    late = forecast(tomato, "indoors", date(2027, 3, 30), set_out=date(2027, 6, 1))
    assert (late.bed_from, late.first_pick - late.bed_from) == (date(2027, 6, 1), dates.first_pick - dates.bed_from)


def test_a_way_that_a_crop_is_not_started_is_refused() -> None:
    with refuses("growth.crop_not_started_that_way"):
        forecast(CROPS["carrot"], "starts", date(2027, 4, 14))


@given(st.sampled_from(WAYS), st.dates(date(2000, 1, 1), date(2050, 1, 1)), st.integers(1, 60))
def test_a_later_start_is_never_ready_earlier_and_dates_are_in_order(way: object, start: date, later: int) -> None:
    crop, method = way
    first, second = (forecast(crop, method, day) for day in (start, start + timedelta(days=later)))
    assert first.first_pick < second.first_pick
    assert first.start <= first.bed_from <= first.first_pick_early <= first.first_pick <= first.first_pick_late
    assert first.first_pick <= first.last_pick <= first.clear_by


def test_a_perennial_is_picked_again_every_year() -> None:
    berry = CROPS["strawberry"]
    dates = forecast(berry, "starts", date(2025, 8, 28))
    assert picking_season(berry, dates, date(2026, 1, 1))[0] == dates.first_pick
    first, last = picking_season(berry, dates, date(2027, 4, 14))
    assert (first.year, first.month, first.day) == (2027, dates.first_pick.month, dates.first_pick.day)
    assert last > date(2027, 4, 14)
    radish = forecast(CROPS["radish"], "direct", date(2025, 4, 1))
    assert picking_season(CROPS["radish"], radish, date(2027, 4, 14)) == (radish.first_pick, radish.last_pick)


def test_a_perennial_picked_on_a_leap_day_goes_on_on_the_28th() -> None:
    berry = CROPS["strawberry"]
    start = date(2024, 2, 29) - timedelta(days=(230 + 260) // 2)
    dates = forecast(berry, "starts", start)
    assert dates.first_pick == date(2024, 2, 29)
    assert picking_season(berry, dates, date(2025, 2, 1))[0] == date(2025, 2, 28)


def test_ready_from_a_week_before_the_earliest_picking_until_the_last() -> None:
    radish = CROPS["radish"]
    dates = forecast(radish, "direct", date(2027, 4, 14))
    earliest = dates.first_pick_early
    assert ready_until(radish, dates, first_picked=None, day=earliest - timedelta(days=7)) is None
    assert ready_until(radish, dates, first_picked=None, day=earliest - timedelta(days=6)) == dates.last_pick
    assert ready_until(radish, dates, first_picked=None, day=dates.last_pick + timedelta(days=1)) is None
    early = earliest - timedelta(days=9)
    assert ready_until(radish, dates, first_picked=early, day=early) == dates.last_pick
