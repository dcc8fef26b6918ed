"""Wilson's interval against `scipy.stats` (scipy's own implementation), and against a worked example.

The worked example is 1 of 29: 0.6 % to 17.2 %, in R. G. Newcombe (1998), Statistics in Medicine 17, 857–872, table I, from memory.
"""

import pytest
from scipy.stats import binomtest

from almanaque.core.seeds.seed_lots import wilson

CASES = [
    (up, sown)
    for sown in (1, 5, 10, 20, 29, 81, 144, 400)
    for up in {0, 1, sown // 3, sown // 2, sown - 1, sown}
    if 0 <= up <= sown
]


@pytest.mark.parametrize(("up", "sown"), CASES)
def test_the_interval_is_scipys(up: int, sown: int) -> None:
    interval = binomtest(up, sown).proportion_ci(confidence_level=0.95, method="wilson")
    found = wilson(up, sown)
    assert (found.low, found.high) == pytest.approx((interval.low, interval.high), abs=1e-9)


def test_newcombes_example() -> None:
    found = wilson(1, 29)
    assert round(found.low, 3) == 0.006
    assert round(found.high, 3) == 0.172
