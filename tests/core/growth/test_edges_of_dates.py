"""The first and the last day of what dates say: a day to the one side or the other changes the answer, and only there."""

from dataclasses import replace
from datetime import date, timedelta

import numpy as np
import pytest

from almanaque.core.growth.growth_dates import GrowthDates, forecast, ready_until
from almanaque.core.growth.nearest_fit import waits
from almanaque.core.school.calendar_import import year_name
from almanaque.core.school.school_year import Calendar
from almanaque.data import catalogue
from tests.places import CALENDAR, SLOTS, YEARS, D

CROPS = catalogue()
DAY = timedelta(days=1)


def carrot() -> GrowthDates:
    dates = forecast(CROPS["carrot"], "direct", D("2027-04-10"))
    return replace(dates, stands_until=dates.last_pick + 20 * DAY)


def test_a_crop_is_fresh_to_its_last_best_day_stands_to_its_last_day_and_comes_from_store_after() -> None:
    dates = carrot()
    assert dates.stands_until is not None
    asked = (dates.first_pick, dates.last_pick, dates.last_pick + DAY, dates.stands_until, dates.stands_until + DAY)
    assert [waits(CROPS["carrot"], dates, day) for day in asked] == [
        "fresh",
        "fresh",
        "standing",
        "standing",
        "stored",
    ]
    assert waits(CROPS["carrot"], replace(dates, stands_until=None), dates.last_pick + DAY) == "stored"


def test_picking_is_offered_from_a_week_before_it_opens_to_its_last_day() -> None:
    dates = carrot()
    first = dates.first_pick
    last = ready_until(CROPS["carrot"], dates, first_picked=first, day=first)
    assert last is not None
    assert ready_until(CROPS["carrot"], dates, first_picked=first, day=last) == last
    assert ready_until(CROPS["carrot"], dates, first_picked=first, day=last + DAY) is None
    opens = next(
        day
        for day in (dates.first_pick_early - 30 * DAY + n * DAY for n in range(60))
        if ready_until(CROPS["carrot"], dates, first_picked=None, day=day)
    )
    assert ready_until(CROPS["carrot"], dates, first_picked=None, day=opens - DAY) is None
    assert timedelta(0) < first - opens <= 21 * DAY


@pytest.mark.parametrize(
    ("starts", "name"),
    [("2026-01-28", "2026"), ("2026-03-31", "2026"), ("2026-04-01", "2026–27"), ("2099-08-26", "2099–00")],
)
def test_a_school_year_that_begins_in_spring_runs_over_two(starts: str, name: str) -> None:
    assert year_name(D(starts), D(starts) + timedelta(days=364)) == name


def test_every_day_of_a_term_lies_in_it_and_none_beside_it() -> None:
    calendar = Calendar(YEARS, SLOTS)
    for year in YEARS:
        for term in year.terms:
            assert calendar.term_of(term.starts) == term
            assert calendar.term_of(term.ends) == term
            for beside in (term.starts - DAY, term.ends + DAY):
                assert calendar.term_of(beside) != term


def test_days_of_a_calendar_count_both_ends_and_none_beyond_it() -> None:
    running, first = CALENDAR.running, CALENDAR.years[0].school_days[0]
    at = running.first + (first.toordinal() - running.first)
    here = [int(running.between(running.here, _one(at), _one(at + n))[0]) for n in (-1, 0)]
    assert here == [0, 1]
    beyond = date(2099, 1, 1).toordinal()
    assert int(running.between(running.here, _one(beyond), _one(beyond + 400))[0]) == 0
    both = running.both_between(running.here, running.lessons, _one(at), _one(at + 27))
    alone = [running.between(counts, _one(at), _one(at + 27)) for counts in (running.here, running.lessons)]
    assert [int(one[0]) for one in both] == [int(one[0]) for one in alone]
    assert int(both[1][0]) < int(both[0][0])


def _one(ordinal: int) -> np.ndarray:
    return np.array([ordinal], dtype=np.int64)
