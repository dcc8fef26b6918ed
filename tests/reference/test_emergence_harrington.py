"""Days to emergence by soil temperature against the printed table.

Harrington, J. F. & Minges, P. A. (1954), Vegetable Seed Germination, California Agricultural Extension Service, mimeo leaflet, as
reprinted in Knott's Handbook for Vegetable Growers, "Days required for seedling emergence at various soil temperatures from
seed planted 1/2 inch deep". Typed here from memory and apart from the catalogue's file, so that the two must agree.
"""

from itertools import pairwise

import numpy as np
import pytest

from almanaque.core.growth.emergence import days_at, rates
from almanaque.data import catalogue

CROPS = catalogue()
COLUMNS = (0, 5, 10, 15, 20, 25, 30, 35, 40)  # 32 to 104 °F
# "-" where it was not tried, "n" where little or nothing came up.
PRINTED = """
asparagus    n  n  53 24 15 10 12 20 28
lima-bean    -  -  n  31 18 7  7  n  -
bush-bean    n  n  n  16 11 8  6  6  n
beet         -  42 17 10 6  5  5  5  -
cabbage      -  -  15 9  6  5  4  -  -
carrot       n  51 17 10 7  6  6  9  n
cauliflower  -  -  20 10 6  5  5  -  -
celery       n  41 16 12 7  n  n  n  -
sweet-corn   n  n  22 12 7  4  4  3  n
cucumber     n  n  n  13 6  4  3  3  -
eggplant     -  -  -  -  13 8  5  -  -
lettuce      49 15 7  4  3  2  3  n  n
melon        -  -  -  -  8  4  3  -  -
okra         n  n  n  27 17 13 7  6  7
onion        136 31 13 7 5  4  4  13 n
parsley      -  -  29 17 14 13 12 -  -
parsnip      172 57 27 19 14 15 32 n n
pea          -  36 14 9  8  6  6  -  -
pepper       n  n  n  25 13 8  8  9  n
radish       n  29 11 6  4  4  3  -  -
spinach      63 23 12 7  6  5  6  n  n
tomato       n  n  43 14 8  6  6  9  n
turnip       n  n  5  3  2  1  1  1  3
watermelon   -  n  -  -  12 5  4  3  -
"""
ROWS = [line.split() for line in PRINTED.strip().splitlines()]
ENTRIES = [(row[0], t, said) for row in ROWS for t, said in zip(COLUMNS, row[1:], strict=True)]


def test_all_24_crops_of_the_table_are_used() -> None:
    assert len(ROWS) == 24
    assert all(CROPS[row[0]].emergence_days for row in ROWS)


@pytest.mark.parametrize(("crop", "soil", "said"), ENTRIES, ids=[f"{c}-{t}" for c, t, _ in ENTRIES])
def test_the_days_at_a_steady_temperature_are_the_printed_ones(crop: str, soil: int, said: str) -> None:
    found = days_at(CROPS[crop], soil)
    if said == "n":
        assert found is None
    elif said != "-":
        assert found == pytest.approx(float(said), abs=1e-9)


@pytest.mark.parametrize("row", ROWS, ids=[row[0] for row in ROWS])
def test_between_two_printed_temperatures_the_days_lie_between_the_printed_ones(row: list[str]) -> None:
    values = [(t, float(d)) for t, d in zip(COLUMNS, row[1:], strict=True) if d not in "-n"]
    for (low, slow), (high, quick) in pairwise(values):
        if high - low == 5:
            between = 1 / rates(CROPS[row[0]], np.linspace(low, high, 11))
            assert ((min(slow, quick) - 1e-9 <= between) & (between <= max(slow, quick) + 1e-9)).all()
