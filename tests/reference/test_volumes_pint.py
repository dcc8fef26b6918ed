"""Volumes of soil against the library pint, from the lengths as people write them."""

import pint
import pytest

from almanaque import calc

UNITS = pint.UnitRegistry()


@pytest.mark.parametrize(
    ("length", "width", "depth"),
    [("8 ft", "4 ft", "11 in"), ("240 cm", "120 cm", "30 cm"), ("1.8 m", "90 cm", "5 cm"), ("4.5 ft", "3 ft", "4 in")],
)
def test_a_layer_in_litres_and_cubic_feet(length: str, width: str, depth: str) -> None:
    found = calc.answer(["volume", "--bed", f"{length} x {width}", "--depth", depth])
    volume = UNITS(length) * UNITS(width) * UNITS(depth)
    assert found["litres"] == pytest.approx(volume.to("liter").magnitude, abs=0.0006)
    assert found["cubic_feet"] == pytest.approx(volume.to("ft^3").magnitude, abs=0.0006)
    assert found["cubic_yards"] == pytest.approx(volume.to("yd^3").magnitude, abs=0.00006)
