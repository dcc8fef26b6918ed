"""Distances between plants, measured by scipy.spatial on every arrangement that Hypothesis makes."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.distance import pdist

from almanaque.core.garden.spacing import count_in_bed

FT = 304.8


@given(st.integers(1, 6), st.integers(1, 4), st.floats(90, 1300))
def test_no_two_plants_stand_closer_than_their_spacing_less_two_percent(
    columns: int, rows: int, spacing: float
) -> None:
    layout = count_in_bed(columns * FT, rows * FT, spacing_mm=spacing, cell_mm=FT)
    if layout.plants > 1:
        assert pdist(np.array(layout.positions_mm)).min() >= spacing / 1.02 - 1e-6
