from datetime import timedelta

import numpy as np
import pytest

from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import weigh
from almanaque.data import catalogue
from tests.places import CALENDAR, D, early_spring

CROPS = catalogue()
EARLY = Setting(CALENDAR, early_spring(), "us")


@pytest.mark.parametrize("key", ["radish", "tomato", "garlic", "pumpkin"])
def test_one_day_alone_is_weighed_as_among_many(key: str) -> None:
    crop = CROPS[key]
    days = [D("2026-08-26") + timedelta(days=n) for n in range(0, 364, 11)]
    many = weigh(crop, crop.methods[0], days, EARLY)
    for row, day in enumerate(days):
        one = weigh(crop, crop.methods[0], [day], EARLY)
        assert one.verdict[0] == many.verdict[row]
        assert (one.first[0] == many.first[row]).all()
        assert (one.outcomes[0] == many.outcomes[row]).all()


def test_quantiles_of_the_first_picking_are_numpys_own() -> None:
    crop = CROPS["lettuce"]
    weighed = weigh(crop, "direct", [D("2027-04-13")], EARLY)
    runs = EARLY.record.runs(crop, "direct", ready_by="warmth")  # type: ignore[union-attr]
    rows = EARLY.record.conditions().starts[413]  # type: ignore[union-attr]
    ripe = rows[(rows >= 0) & (runs.outcome[rows] == 0)]
    low, middle, high = np.quantile(runs.first[ripe], [0.1, 0.5, 0.9])
    found = weighed.first[0] - D("2027-04-13").toordinal()
    # The weather's own quantiles in the middle, and wider than they are by all that differs besides.
    assert found[1] == np.rint(middle)
    assert found[0] < low
    assert found[2] > high
    up = weighed.up[0] - D("2027-04-13").toordinal()
    assert (up == np.rint(np.quantile(runs.up[ripe], [0.1, 0.5, 0.9]))).all()
