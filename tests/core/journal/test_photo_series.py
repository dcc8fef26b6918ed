"""Which photos are laid beside each other: of one place, apart in time, first and last always among them."""

from datetime import date, timedelta
from itertools import pairwise

from almanaque.core.journal.photo_series import MOST_IN_STRIP, SeriesPhoto, series

FIRST = date(2027, 3, 1)


def photo(days: int, place: str = "", name: str = "") -> SeriesPhoto:
    return SeriesPhoto(name or f"{place}{days}", FIRST + timedelta(days=days), place)


def test_two_that_lie_apart_are_then_and_now_and_one_alone_is_nothing() -> None:
    assert [p.id for p in series([photo(20), photo(0)])] == ["0", "20"]
    assert series([photo(0), photo(6)]) == []
    assert series([photo(0)]) == []
    assert series([]) == []


def test_photos_from_one_place_compare_better_than_those_from_anywhere() -> None:
    found = series([photo(0), photo(40), photo(10, "post"), photo(30, "post"), photo(12, "gate"), photo(15, "gate")])
    assert [p.id for p in found] == ["post10", "post30"]
    most = series([photo(n, "gate") for n in (0, 10, 20)] + [photo(n, "post") for n in (0, 30)])
    assert {p.viewpoint for p in most} == {"gate"}
    assert len(series([photo(0), photo(9), photo(3, "post")])) == 3  # one from a place is no series of that place


def test_a_long_series_is_thinned_evenly_in_time_and_keeps_first_and_last() -> None:
    many = [photo(n) for n in (0, 1, 2, 3, 4, 5, 50, 51, 100, 101, 150, 199, 200)]
    found = series(many)
    assert 2 < len(found) <= MOST_IN_STRIP
    assert (found[0].id, found[-1].id) == ("0", "200")
    gaps = [(b.day - a.day).days for a, b in pairwise(found)]
    assert max(gaps) <= 60
    assert series(list(reversed(many))) == found
