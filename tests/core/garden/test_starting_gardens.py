"""Starting gardens: nothing lies on anything, paths between beds, sizes in whole feet or tenths of a metre."""

from itertools import combinations
from typing import get_args

import pytest

from almanaque.core.garden.drawing import PATH_MM
from almanaque.core.garden.outline import distance_mm, overlap
from almanaque.core.garden.starting_gardens import Key, starting_garden


@pytest.mark.parametrize("key", get_args(Key))
@pytest.mark.parametrize("units", ["us", "metric"])
def test_beds_of_a_starting_garden_lie_apart(key: Key, units: str) -> None:
    made = starting_garden(key, units)  # type: ignore[arg-type]
    assert made.beds
    assert len({bed.name for bed in made.beds}) == len(made.beds)
    for one, other in combinations(made.beds, 2):
        assert not overlap(one.shape, other.shape)
        if key == "six":
            assert distance_mm(one.shape, other.shape) >= PATH_MM - 1
