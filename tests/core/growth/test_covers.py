from datetime import date

import numpy as np
import pytest

from almanaque.core.growth.covers import COVERS, QUARTERS_C, Covering, covering, under

JULY = (np.array([7, 7]), np.array([1, 2]))


@pytest.mark.parametrize("key", list(COVERS))
def test_a_cover_warms_cool_days_and_is_opened_on_warm_ones(key: str) -> None:
    cover = COVERS[key]  # type: ignore[index]
    low, high = under(np.array([2.0, 15.0]), np.array([10.0, 30.0]), Covering(cover.key), *JULY)
    assert low.tolist() == [2.0 + cover.least_c, 15.0]
    assert high[1] == 30.0
    assert 10.0 < high[0] <= cover.opened_above_c


def test_a_cover_with_days_lies_on_those_only_also_over_the_change_of_year() -> None:
    lies = Covering("row cover", (11, 15), (3, 1))
    month, day = np.array([11, 12, 2, 3, 7]), np.array([14, 24, 28, 2, 1])
    low, _ = under(np.zeros(5), np.full(5, 5.0), lies, month, day)
    assert low.tolist() == [0.0, 2.0, 2.0, 0.0, 0.0]


def test_what_stands_on_the_map_covers_a_bed_or_does_not() -> None:
    assert covering("bench", None, None) is None
    assert covering("tunnel", None, None) == Covering("tunnel")
    assert covering("frame", date(2027, 3, 1), date(2027, 5, 1)) == Covering("frame", (3, 1), (5, 1))
    assert covering("cover", date(2026, 3, 1), date(2027, 5, 1)) == Covering("row cover")
    assert covering("cover", date(2027, 3, 1), date(2028, 2, 28)) == Covering("row cover")
    assert covering("cover", date(2027, 3, 1), date(2028, 2, 27)) == Covering("row cover", (3, 1), (2, 27))


def test_readings_are_not_changed() -> None:
    low, high = np.array([1.0]), np.array([5.0])
    under(low, high, Covering("frame"), np.array([1]), np.array([1]))
    assert (low[0], high[0]) == (1.0, 5.0)


def test_winter_quarters_keep_frost_away_in_their_days_only_and_are_no_warmer_than_outdoors_when_it_is_warm() -> None:
    quarters = Covering("frame", (10, 20), (4, 25), quarters=True)
    least, greatest = np.array([-18.0, 2.0, 9.0, -3.0]), np.array([-9.0, 12.0, 20.0, 5.0])
    month, day = np.array([1, 11, 6, 5]), np.array([10, 2, 1, 1])
    felt = under(least, greatest, quarters, month, day)
    assert felt[0].tolist() == [QUARTERS_C[0], QUARTERS_C[0], 9.0, -3.0]
    assert felt[1].tolist() == [QUARTERS_C[1], 12.0, 20.0, 5.0]
