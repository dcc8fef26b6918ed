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
