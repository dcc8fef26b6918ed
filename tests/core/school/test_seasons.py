from datetime import date, timedelta

from almanaque.core.school.seasons import around, seasons
from tests.places import CALENDAR


def test_a_day_has_its_season_with_the_one_before_and_the_next() -> None:
    found = seasons(CALENDAR)
    assert len(found) >= 3
    middle = found[1]
    assert around(found, middle.starts) == (found[0], middle, found[2])
    assert around(found, found[0].starts) == (None, found[0], found[1])
    assert around(found, found[-1].ends) == (found[-2], found[-1], None)
    assert around(found, found[0].starts - timedelta(days=1)) == (None, None, found[0])
    assert around(found, date(2149, 1, 1)) == (None, None, None)
