from datetime import timedelta
from itertools import pairwise

import pytest

from almanaque.core.errors import BadInput
from almanaque.core.growth import school_fit
from almanaque.core.growth.setting import Setting
from almanaque.core.year.succession import every, twice_a_term
from almanaque.data import catalogue
from tests.places import CALENDAR, D, early_spring, mild_winters

CROPS = catalogue()
EARLY = Setting(CALENDAR, early_spring(), "us")


def test_sowings_follow_by_the_rhythm_until_the_last_that_still_fits() -> None:
    found = every(CROPS["radish"], "direct", D("2027-03-30"), 10, EARLY, until=D("2027-08-01"))
    days = [sowing.day for sowing in found]
    assert len(days) >= 4
    assert all(CALENDAR.children_here(day) for day in days)
    assert all(sowing.wanted <= sowing.day for sowing in found)
    assert all(later > day for day, later in pairwise(days))
    assert all(sowing.fit.verdict != "misses" for sowing in found)
    after = D("2027-03-30") + timedelta(days=10 * len(found))
    while not CALENDAR.children_here(after) and after < D("2027-08-01"):
        after += timedelta(days=1)
    assert (
        not CALENDAR.children_here(after)
        or school_fit.judge(CROPS["radish"], "direct", after, EARLY).verdict == "misses"
    )


def test_a_rhythm_that_nobody_keeps_is_refused_and_one_that_never_fits_gives_none() -> None:
    with pytest.raises(BadInput, match="5 to 90 days"):
        every(CROPS["radish"], "direct", D("2027-03-30"), 2, EARLY, until=D("2027-08-01"))
    assert every(CROPS["sweet-corn"], "direct", D("2026-11-03"), 14, EARLY, until=D("2027-01-10")) == []
    assert every(CROPS["radish"], "direct", D("2027-06-20"), 14, EARLY, until=D("2027-07-10")) == []


def test_a_fast_crop_comes_twice_a_term_and_the_second_follows_the_first() -> None:
    term = D("2027-08-25"), D("2027-12-17")
    mild = Setting(CALENDAR, mild_winters(), "us")
    found = twice_a_term(CROPS["radish"], "direct", mild, *term)
    assert len(found) == 2
    assert found[1].day > found[0].fit.dates.first_pick_late
    assert all(sowing.fit.verdict == "fits" for sowing in found)
    assert len(twice_a_term(CROPS["kale"], "starts", EARLY, *term)) <= 1
    assert twice_a_term(CROPS["radish"], "direct", EARLY, D("2027-07-01"), D("2027-07-20")) == []
