import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.growth.emergence import days_at, rates
from almanaque.data import catalogue

CROPS = catalogue()


def test_rates_are_interpolated_between_the_temperatures_of_the_table() -> None:
    shares = rates(CROPS["radish"], np.array([10.0, 12.5, 15.0]))
    assert shares == pytest.approx([1 / 11, (1 / 11 + 1 / 6) / 2, 1 / 6])


def test_outside_the_table_nothing_comes_up() -> None:
    assert days_at(CROPS["radish"], 0) is None
    assert days_at(CROPS["lettuce"], 36) is None
    assert days_at(CROPS["celery"], 26) is None
    assert days_at(CROPS["pepper"], 9) is None


def test_a_crop_without_a_row_goes_by_its_own_days() -> None:
    pumpkin = CROPS["pumpkin"]
    least, best, most = pumpkin.germination_c
    assert days_at(pumpkin, best) == pumpkin.emerges[0]
    assert days_at(pumpkin, least) == pumpkin.emerges[1]
    assert days_at(pumpkin, most) is None
    assert days_at(pumpkin, least - 3) is None


@given(st.sampled_from(list(CROPS)), st.floats(-20, 60))
def test_a_share_is_never_below_nothing_nor_more_than_a_seed(crop: object, soil: float) -> None:
    share = float(rates(crop, np.array([soil]))[0])  # type: ignore[arg-type]
    assert 0 <= share <= 1


@given(st.sampled_from(list(CROPS)), st.floats(-20, 45), st.floats(0, 10))
def test_below_the_best_temperature_colder_is_never_quicker(crop: object, soil: float, colder: float) -> None:
    days = crop.emergence_days  # type: ignore[attr-defined]
    fastest = min(d for d in days if d) if days else None
    best = min(5.0 * n for n, d in enumerate(days) if d == fastest) if days else crop.germination_c[1]  # type: ignore[attr-defined]
    if soil <= best and crop.key not in ("turnip",):  # type: ignore[attr-defined]
        warm, cold = rates(crop, np.array([soil, soil - colder]))  # type: ignore[arg-type]
        assert cold <= warm + 1e-12
