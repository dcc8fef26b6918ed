"""Conversions against pint's own registry of units."""

from decimal import Decimal

import pint
import pytest

from almanaque.core import units

REGISTRY = pint.UnitRegistry()


@pytest.mark.parametrize(
    ("text", "quantity"),
    [("7 ft 3 in", 87 * REGISTRY.inch), ("5/8 in", 0.625 * REGISTRY.inch), ("2.45 m", 2.45 * REGISTRY.meter)],
)
def test_lengths_agree(text: str, quantity: pint.Quantity) -> None:
    assert float(units.parse_length(text)) == pytest.approx(quantity.to("mm").magnitude, abs=5e-5)


def test_masses_volumes_areas_and_temperatures_agree() -> None:
    assert float(units.parse_mass("3 lb 5 oz")) == pytest.approx((53 * REGISTRY.ounce).to("g").magnitude, abs=5e-5)
    assert float(units.LITRES_PER_GALLON) == pytest.approx((1 * REGISTRY.gallon).to("liter").magnitude, rel=1e-9)
    assert float(units.SQUARE_METRES_PER_SQUARE_FOOT) == pytest.approx(
        (1 * REGISTRY.foot**2).to("m^2").magnitude, rel=1e-9
    )
    fahrenheit = REGISTRY.Quantity(41, REGISTRY.degF).to("degC").magnitude
    assert float(units.parse_temperature("41 °F")) == pytest.approx(fahrenheit, abs=5e-5)
    assert units.format_volume(Decimal("28.316846592"), "us") == "1.0 cu ft"


def test_an_inch_of_water_on_a_square_foot_is_0_623_gallons() -> None:
    """Common figure, printed as 0.623 US gal."""
    litres = units.MM_PER_INCH * units.SQUARE_METRES_PER_SQUARE_FOOT
    assert round(float(litres / units.LITRES_PER_GALLON), 3) == 0.623
