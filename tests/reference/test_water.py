"""Water against published figures."""

import numpy as np
import pint
import pytest

from almanaque.core.crops.crop import Coefficients
from almanaque.core.week import water
from almanaque.data import catalogue

CROPS = catalogue()
UNITS = pint.UnitRegistry()

# Allen et al. (1998), FAO-56, example 28: dry beans with stages of 25, 25, 30 and 20 days and coefficients 0.15, 1.19 and 0.35;
# day of the season and coefficient as printed. From memory.
EXAMPLE_28 = [(20, 0.15), (40, 0.77), (70, 1.19), (95, 0.56)]

# The same paper, table 12: first, middle and end coefficient as printed, of crops whose row stands for itself. From memory.
TABLE_12 = {
    "broccoli": (0.7, 1.05, 0.95),
    "carrot": (0.7, 1.05, 0.95),
    "radish": (0.7, 0.9, 0.85),
    "tomato": (0.6, 1.15, 0.8),
    "potato": (0.5, 1.15, 0.75),
    "sweet-corn": (0.3, 1.15, 1.05),
    "strawberry": (0.4, 0.85, 0.75),
}

# The same paper, table 11: lengths of the four stages [d] as printed. From memory.
TABLE_11 = {
    "radish": (5, 10, 15, 5),
    "spinach": (20, 20, 20, 5),  # the third is printed as 15/25
    "sweet-corn": (20, 25, 25, 10),
    "pumpkin": (25, 35, 35, 25),
}


@pytest.mark.parametrize(("day", "printed"), EXAMPLE_28)
def test_fao_56_example_28_the_coefficient_on_four_days_of_dry_beans(day: int, printed: float) -> None:
    beans = CROPS["bush-bean"].model_copy(
        update={"water": Coefficients(kc=(0.15, 1.19, 0.35), stages=(25, 25, 30, 20))}
    )
    assert water.coefficient(beans, day, 100) == pytest.approx(printed, abs=0.005)


@pytest.mark.parametrize("key", TABLE_12)
def test_fao_56_table_12_coefficients_are_those_printed(key: str) -> None:
    row = CROPS[key].water
    assert row is not None
    assert row.kc == TABLE_12[key]


@pytest.mark.parametrize("key", TABLE_11)
def test_fao_56_table_11_stages_are_those_printed(key: str) -> None:
    row = CROPS[key].water
    assert row is not None
    assert row.stages == TABLE_11[key]


@pytest.mark.parametrize(
    ("inches", "area", "gallons", "tolerance"),
    [
        (1, "1 foot**2", 0.623, 0.0005),  # common practice, as printed in most guides to watering
        (1, "100 foot**2", 62.3, 0.05),  # the same
        (1, "1000 foot**2", 623, 0.5),  # the same
        (1, "1 acre", 27154, 2),  # United States Geological Survey, "one inch of rain on one acre", from memory
        (1.5, "32 foot**2", 29.9, 0.05),  # a bed of 4 ft by 8 ft in a hot week, by the same figure
    ],
)
def test_an_inch_of_water_in_gallons_as_printed(inches: float, area: str, gallons: float, tolerance: float) -> None:
    square_metres = UNITS.Quantity(area).to("meter**2").magnitude
    amount = UNITS.Quantity(water.litres(inches * water.INCH_MM, square_metres), "liter")
    assert amount.to("gallon").magnitude == pytest.approx(gallons, abs=tolerance)


def test_a_millimetre_on_a_square_metre_is_a_litre() -> None:
    """FAO-56, table 1."""
    assert water.litres(1, 1) == 1


def test_the_five_centimetre_of_water_a_vegetable_bed_drinks_in_a_dry_july_week_are_within_what_guides_say() -> None:
    """FAO-56, table 2: warm semi-arid days have 6 to 8 mm of ET₀; so 40 to 60 mm a week at full leaf. From memory."""
    dry = water.Weather(np.full(7, 7.0), np.zeros(7), np.full(7, 33.0))
    assert 40 <= water.by_use(dry, np.full(7, 1.05), depth_mm=300).give_mm <= 60
