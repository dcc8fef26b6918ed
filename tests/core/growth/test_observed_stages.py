from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.growth.growth_dates import forecast
from almanaque.core.growth.observed_stages import MOST_MOVED_DAYS, by_stages
from almanaque.data import catalogue
from tests.places import D

CROPS = catalogue()
ANNUAL = sorted(key for key, crop in CROPS.crops.items() if crop.life != "perennial")


def test_ready_on_a_day_is_picked_from_that_day_for_as_long_as_before() -> None:
    radish = CROPS["radish"]
    dates = forecast(radish, "direct", D("2027-04-01"))
    seen = dates.first_pick - timedelta(days=5)
    moved = by_stages(radish, dates, {"ready": seen})
    assert (moved.first_pick_early, moved.first_pick) == (seen, seen)
    assert moved.last_pick - moved.first_pick == dates.last_pick - dates.first_pick
    picked = seen + timedelta(days=2)
    assert by_stages(radish, dates, {"ready": seen, "first picking": picked}).first_pick == picked


def test_flowers_a_week_late_move_the_fruit_by_a_week() -> None:
    tomato = CROPS["tomato"]
    assert tomato.bloom_days is not None
    dates = forecast(tomato, "starts", D("2027-05-15"))
    usual = dates.bed_from + timedelta(days=tomato.bloom_days[0])
    moved = by_stages(tomato, dates, {"in flower": usual + timedelta(days=7)})
    assert moved.first_pick - dates.first_pick == timedelta(days=7)
    assert by_stages(tomato, dates, {"in flower": usual}) == dates
    far = by_stages(tomato, dates, {"in flower": usual + timedelta(days=200)})
    assert far.first_pick - dates.first_pick == timedelta(days=MOST_MOVED_DAYS)


def test_lettuce_that_has_bolted_is_out_within_a_week() -> None:
    lettuce = CROPS["lettuce"]
    dates = forecast(lettuce, "direct", D("2027-04-01"))
    seen = dates.first_pick + timedelta(days=3)
    moved = by_stages(lettuce, dates, {"bolted": seen})
    assert (moved.first_pick, moved.last_pick, moved.clear_by) == (dates.first_pick, seen, seen + timedelta(days=7))


def test_a_flower_of_a_leaf_crop_and_a_perennial_move_nothing() -> None:
    for key, method in (("lettuce", "direct"), ("strawberry", "starts")):
        dates = forecast(CROPS[key], method, D("2027-04-01"))  # type: ignore[arg-type]
        assert by_stages(CROPS[key], dates, {"in flower": D("2027-05-01")}) == dates
    assert by_stages(CROPS["strawberry"], dates, {"ready": D("2027-05-01"), "bolted": D("2027-05-02")}) == dates


@given(
    key=st.sampled_from(ANNUAL),
    events=st.dictionaries(st.sampled_from(["in flower", "ready", "first picking", "bolted"]), st.integers(0, 300)),
)
def test_dates_stay_in_order_whatever_was_seen(key: str, events: dict[str, int]) -> None:
    crop = CROPS[key]
    start = date(2027, 4, 1)
    dates = forecast(crop, crop.methods[0], start)
    moved = by_stages(crop, dates, {kind: dates.bed_from + timedelta(days=n) for kind, n in events.items()})
    assert moved.bed_from <= moved.first_pick <= moved.last_pick <= moved.clear_by
    assert moved.first_pick_early <= moved.first_pick <= moved.first_pick_late
