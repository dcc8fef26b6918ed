"""New and full moons against the dates that almanacs print.

Dates in universal time of the year 2000 as astronomical almanacs give them, from memory; the library's own approximation is
good to a day.
"""

from itertools import pairwise

import pytest

from almanaque.core.year.moon import phases
from tests.places import D

PRINTED = [
    ("2000-01-06", "new moon"),
    ("2000-01-21", "full moon"),
    ("2000-02-05", "new moon"),
    ("2000-02-19", "full moon"),
    ("2000-03-06", "new moon"),
    ("2000-03-20", "full moon"),
    ("2000-04-04", "new moon"),
    ("2000-04-18", "full moon"),
]


@pytest.mark.parametrize(("day", "phase"), PRINTED)
def test_a_printed_moon_is_found_within_a_day(day: str, phase: str) -> None:
    found = [when for when, what in phases(D("1999-12-25"), D("2000-05-10")) if what == phase]
    assert min(abs((when - D(day)).days) for when in found) <= 1


def test_they_take_turns_some_fifteen_days_apart() -> None:
    found = list(phases(D("2027-01-01"), D("2027-12-31")))
    assert 24 <= len(found) <= 26
    for (day, phase), (later, other) in pairwise(found):
        assert phase != other
        assert 13 <= (later - day).days <= 17
