from datetime import date, timedelta

import numpy as np
import pytest

from almanaque.core.growth.usual_weeks import UsualWeeks, of_climate
from almanaque.core.place.climate import Climate
from almanaque.data import catalogue
from tests.places import D, early_spring, hard_winters, made, mild_winters

CROPS = catalogue()


def days_open(weeks: UsualWeeks, crop: str, method: str) -> int:
    found = weeks.open_days(CROPS[crop], method)  # type: ignore[arg-type]
    return 366 if found is None else int(found.sum())


def test_where_winters_are_hard_windows_count_from_the_freezes() -> None:
    place = hard_winters().climate
    weeks = of_climate(place)
    last = place.date_of(place.last_freeze(0.5), place.season_start(D("2027-03-01")))
    assert last is not None
    assert weeks.spring is not None
    assert abs(weeks.spring - last.timetuple().tm_yday) <= 14
    assert not weeks.mild
    [(first, until)] = weeks.dates(CROPS["bush-bean"], "direct", D("2027-05-20"))
    spring = date(2027, 1, 1) + timedelta(days=weeks.spring)
    assert (first, until) == (spring + timedelta(weeks=1), spring + timedelta(weeks=10, days=6))


def test_mild_winters_are_the_season_of_cool_crops_and_lengthen_that_of_warm_ones() -> None:
    mild, hard = of_climate(mild_winters().climate), of_climate(hard_winters().climate)
    assert mild.mild
    assert mild.long
    january = (D("2028-01-10") - D("2028-01-01")).days
    radish = mild.open_days(CROPS["radish"], "direct")
    assert radish is not None
    assert radish[january]
    assert not radish[200]
    assert days_open(mild, "bush-bean", "direct") > days_open(hard, "bush-bean", "direct")


def test_where_it_never_freezes_nothing_is_told() -> None:
    always_warm = of_climate(made(mean_c=26.0, swing_c=2.0, latitude=14.0).climate)
    assert always_warm.open_days(CROPS["radish"], "direct") is None
    assert always_warm.dates(CROPS["radish"], "direct", D("2027-05-01")) == []


@pytest.mark.parametrize("place", [hard_winters, early_spring, mild_winters], ids=["hard", "early", "mild"])
@pytest.mark.parametrize(
    ("crop", "method"), [("radish", "direct"), ("bush-bean", "direct"), ("garlic", "cloves"), ("kale", "starts")]
)
def test_south_of_the_equator_the_weeks_lie_half_a_year_on(place: object, crop: str, method: str) -> None:
    north = place().climate  # type: ignore[operator]
    south = Climate(
        north.first_day + timedelta(days=183), north.tmin_c, north.tmax_c, north.rain_mm, latitude=-north.latitude
    )
    one = of_climate(north).open_days(CROPS[crop], method)  # type: ignore[arg-type]
    two = of_climate(south).open_days(CROPS[crop], method)  # type: ignore[arg-type]
    assert one is not None
    assert two is not None
    apart = np.count_nonzero(np.roll(one, 183) != two)
    assert apart <= 16  # a week at each end, by which the halves of a record differ


PLACES = {
    "hard": hard_winters().climate,
    "early": early_spring().climate,
    "cool coast": made(mean_c=10.0, swing_c=6.5, latitude=52.0).climate,
    "warm rains": made(mean_c=17.0, swing_c=10.0, latitude=33.0).climate,
    "dry mild": made(mean_c=17.0, swing_c=5.5, latitude=34.0).climate,
}
# Days on which a grower of such a place would set it, and would not: common practice, from memory.
SET = [
    ("apple", "starts", "hard", ["03-25", "04-20"], ["07-01", "08-15", "11-20", "12-20"]),
    ("apple", "starts", "cool coast", ["11-20", "01-15", "03-10"], ["06-15", "09-01"]),
    ("apple", "starts", "dry mild", ["12-20", "02-10"], ["05-15", "08-01"]),
    ("asparagus", "starts", "hard", ["04-10", "05-01"], ["07-15", "10-25"]),
    ("raspberry", "starts", "early", ["11-20", "03-20"], ["07-01", "09-15"]),
    ("garlic", "cloves", "hard", ["10-05", "11-01"], ["07-10", "12-15", "03-20"]),
    ("garlic", "cloves", "cool coast", ["10-15", "12-01"], ["06-01", "03-20"]),
    ("garlic", "cloves", "warm rains", ["11-01", "12-15"], ["05-01", "08-01"]),
    ("winter-wheat", "direct", "hard", ["09-25", "10-20"], ["07-01", "12-01", "04-10"]),
    ("winter-wheat", "direct", "cool coast", ["10-01", "11-10"], ["07-15", "05-01"]),
    ("hairy-vetch", "direct", "hard", ["09-05"], ["11-10", "06-01"]),
]


@pytest.mark.parametrize(("crop", "method", "place", "set_on", "not_on"), SET)
def test_what_rests_or_winters_is_set_when_growers_set_it(
    crop: str, method: str, place: str, set_on: list[str], not_on: list[str]
) -> None:
    found = of_climate(PLACES[place]).open_days(CROPS[crop], method)  # type: ignore[arg-type]
    assert found is not None
    for days, expected in ((set_on, True), (not_on, False)):
        for day in days:
            assert found[(D(f"2028-{day}") - D("2028-01-01")).days] == expected, day


@pytest.mark.parametrize("crop", ["apple", "garlic", "winter-wheat"])
def test_where_nothing_rests_there_is_no_such_season(crop: str) -> None:
    tropics = of_climate(made(mean_c=26.0, swing_c=2.0, latitude=14.0).climate)
    assert tropics.open_days(CROPS[crop], CROPS[crop].methods[0]) is None


@pytest.mark.parametrize("mean_c", [9.0, 13.5, 18.0])
@pytest.mark.parametrize("crop", ["apple", "garlic", "winter-wheat"])
def test_where_every_month_is_alike_no_season_is_told_however_cool_it_is(crop: str, mean_c: float) -> None:
    """As in high valleys near the equator, where garlic is set in any month. Common practice, from memory."""
    valley = of_climate(made(mean_c=mean_c, swing_c=1.0, latitude=4.0).climate)
    assert valley.open_days(CROPS[crop], CROPS[crop].methods[0]) is None


@pytest.mark.parametrize("place", list(PLACES))
def test_a_colder_place_sets_no_later_and_a_longer_wait_for_roots_ends_it_earlier(place: str) -> None:
    weeks = of_climate(PLACES[place])
    garlic = CROPS["garlic"]
    slow = garlic.model_copy(update={"roots_in_weeks": garlic.roots_in_weeks + 4})
    (span,), (sooner,) = weeks.spans(garlic, "cloves"), weeks.spans(slow, "cloves")
    assert sooner[0] == span[0]
    assert sooner[1] in (span[1], span[1] - 28)


def test_days_are_kept_by_all_that_they_depend_on() -> None:
    weeks = of_climate(PLACES["hard"])
    kale = CROPS["kale"]
    first = weeks.open_days(kale, "starts")
    assert weeks.open_days(kale, "starts") is first
    assert weeks.open_days(kale, kale.methods[-1]) is not first
    other = CROPS["pea"].windows
    changed = kale.model_copy(update={"windows": other, "methods": CROPS["pea"].methods})
    vars(changed).pop("digest", None)
    assert weeks.open_days(changed, "direct") is not None
    assert (weeks.open_days(changed, "direct") == weeks.open_days(CROPS["pea"], "direct")).all()  # type: ignore[union-attr]
    assert of_climate(PLACES["early"]).open_days(kale, "starts") is not first
