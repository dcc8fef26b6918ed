from dataclasses import replace
from datetime import date, timedelta

from hypothesis import given, settings
from hypothesis import strategies as st

from almanaque.core.crops.crop import Crop
from almanaque.core.growth.growth_dates import forecast, picking_window, ready_until
from almanaque.core.harvest.coming_harvest import GrowingCrop, by_week
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
    assert picking_window(berry, dates, date(2026, 1, 1)).first == dates.first_pick
    window = picking_window(berry, dates, date(2027, 4, 14))
    first = window.first
    assert (first.year, first.month, first.day) == (2027, dates.first_pick.month, dates.first_pick.day)
    assert window.last > date(2027, 4, 14)
    radish = forecast(CROPS["radish"], "direct", date(2025, 4, 1))
    window = picking_window(CROPS["radish"], radish, date(2027, 4, 14))
    assert (window.first, window.best, window.last) == (radish.first_pick, radish.last_pick, radish.stands_until)


def test_a_perennial_picked_on_a_leap_day_goes_on_on_the_28th() -> None:
    berry = CROPS["strawberry"]
    start = date(2024, 2, 29) - timedelta(days=(230 + 260) // 2)
    dates = forecast(berry, "starts", start)
    assert dates.first_pick == date(2024, 2, 29)
    assert picking_window(berry, dates, date(2025, 2, 1)).first == date(2025, 2, 28)


def test_ready_from_a_week_before_the_earliest_picking_until_the_last() -> None:
    radish = CROPS["radish"]
    dates = forecast(radish, "direct", date(2027, 4, 14))
    earliest = dates.first_pick_early
    assert ready_until(radish, dates, first_picked=None, day=earliest - timedelta(days=7)) is None
    assert ready_until(radish, dates, first_picked=None, day=earliest - timedelta(days=6)) == dates.stands_until
    assert dates.stands_until == dates.first_pick + timedelta(days=18)
    assert ready_until(radish, dates, first_picked=None, day=dates.stands_until + timedelta(days=1)) is None
    early = earliest - timedelta(days=9)
    assert ready_until(radish, dates, first_picked=early, day=early) == dates.stands_until


@settings(max_examples=60, deadline=None)
@given(
    st.sampled_from([*CROPS]),
    st.dates(date(2024, 1, 1), date(2027, 12, 31)),
    st.integers(0, 1400),
    st.none() | st.integers(0, 1400),
)
def test_no_list_has_a_picking_outside_the_planting_s_window(
    crop: Crop, start: date, on: int, picked: int | None
) -> None:
    """Kitchen list, what is ready, the tour and the window of the planting's page are one."""
    dates = forecast(crop, crop.methods[0], start)
    day = start + timedelta(days=on)
    first_picked = start + timedelta(days=picked) if picked is not None and picked <= on else None
    window = picking_window(crop, dates, day, first_picked=first_picked)
    standing = GrowingCrop("p", "Bed 1", crop, dates, 1.0, 4, first_picked=first_picked)
    for share in by_week(standing, today=day, until=day + timedelta(days=700)):
        assert share.monday + timedelta(days=6) >= window.opens
        assert share.monday <= window.last
    until = ready_until(crop, dates, first_picked=first_picked, day=day)
    assert until is None or window.opens - timedelta(days=6) <= day <= until == window.last


def test_last_year_s_picking_does_not_open_this_year_s_window() -> None:
    berry = CROPS["strawberry"]
    dates = replace(forecast(berry, "starts", date(2025, 9, 1)), stands_until=None)
    picked = dates.first_pick + timedelta(days=4)
    next_spring = dates.first_pick.replace(year=dates.first_pick.year + 1) - timedelta(days=40)
    assert picking_window(berry, dates, next_spring, first_picked=picked).begun is None
    assert ready_until(berry, dates, first_picked=picked, day=next_spring) is None
