from datetime import timedelta

from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.growth.growth_dates import forecast
from almanaque.core.growth.plant_height import height_mm, share_grown
from almanaque.data import catalogue
from tests.places import D

CROPS = catalogue()
DATES = forecast(CROPS["sunflower"], "direct", D("2027-05-01"))


def test_nothing_until_it_is_up_half_in_the_middle_all_of_it_when_picking_begins() -> None:
    assert DATES.emerge_to is not None
    assert share_grown(DATES.emerge_to, DATES) == 0
    assert share_grown(DATES.first_pick, DATES) == share_grown(DATES.last_pick, DATES) == 1
    middle = DATES.emerge_to + (DATES.first_pick - DATES.emerge_to) / 2
    assert abs(share_grown(middle, DATES) - 0.5) < 0.02
    assert height_mm(CROPS["sunflower"], DATES.first_pick, DATES) == CROPS["sunflower"].height_mm


@given(st.integers(-30, 200), st.integers(0, 60))
def test_it_never_shrinks(day: int, later: int) -> None:
    first = D("2027-05-01") + timedelta(days=day)
    assert share_grown(first, DATES) <= share_grown(first + timedelta(days=later), DATES)
