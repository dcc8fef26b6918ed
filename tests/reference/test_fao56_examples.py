"""Worked examples of Allen et al. (1998), FAO Irrigation and Drainage Paper 56, chapters 3 and 4.

Inputs and results as printed, from memory of the paper; tolerances are half of the last printed digit unless a line says
why not. Where the paper rounds on the way, it says so beside the row.
"""

from datetime import date

import numpy as np
import pytest

from almanaque.core.place import evapotranspiration as et
from almanaque.core.place import sun

SEPT_3, MAY_15, JULY_6, APRIL_15, JULY_15 = 246, 135, 187, 105, 196
BRUSSELS, BANGKOK, LYON, RIO = 50 + 48 / 60, 13 + 44 / 60, 45 + 43 / 60, -(22 + 54 / 60)


@pytest.mark.parametrize(
    ("example", "found", "printed", "tolerance"),
    [
        ("2 pressure at 1,800 m [kPa]", et.atmospheric_pressure(1800), 81.8, 0.05),
        ("2 psychrometric constant at 1,800 m [kPa/°C]", et.psychrometric_constant(1800), 0.054, 0.0005),
        ("3 saturation pressure at 24.5 °C [kPa]", et.saturation_vapour(24.5), 3.075, 0.0005),
        ("3 saturation pressure at 15 °C [kPa]", et.saturation_vapour(15.0), 1.705, 0.0005),
        ("3 mean saturation pressure [kPa]", et.saturation_of_day(15.0, 24.5), 2.39, 0.005),
        ("5 vapour pressure from humidity [kPa]", et.vapour_from_humidity(18, 25, 54, 82), 1.70, 0.005),
        (
            "8 radiation above the atmosphere, 20° S [MJ/m²/day]",
            float(sun.extraterrestrial_radiation(-20, SEPT_3)),
            32.2,
            0.05,
        ),
        ("9 daylight hours, 20° S [h]", float(sun.daylight_hours(-20, SEPT_3)), 11.7, 0.05),
        (
            "10 radiation from sunshine, 22°54' S [MJ/m²/day]",
            et.radiation_from_sunshine(220 / 31, RIO, MAY_15),
            14.5,
            0.06,
        ),
        ("14 wind at 2 m from 10 m [m/s]", et.wind_at_2m(3.2, 10), 2.4, 0.05),
        (
            "15 radiation from temperatures, 45°43' N [MJ/m²/day]",
            et.radiation_from_temperatures(14.8, 26.6, LYON, JULY_15),
            22.3,
            0.05,
        ),
        ("18 wind at 2 m [m/s]", et.wind_at_2m(10 / 3.6, 10), 2.078, 0.0005),
        ("18 vapour pressure [kPa]", et.vapour_from_humidity(12.3, 21.5, 63, 84), 1.409, 0.0005),
        ("18 radiation [MJ/m²/day]", et.radiation_from_sunshine(9.25, BRUSSELS, JULY_6), 22.07, 0.005),
    ],
)
def test_a_worked_example_comes_out_as_printed(example: str, found: float, printed: float, tolerance: float) -> None:
    assert found == pytest.approx(printed, abs=tolerance), example


def test_example_18_a_day_in_july_with_a_full_station() -> None:
    day = et.StationSite(12.3, 21.5, 1.409, 2.078, 22.07, BRUSSELS, 100, JULY_6)
    assert et.net_radiation(day) == pytest.approx(13.28, abs=0.005)
    assert et.penman_monteith(day) == pytest.approx(3.88, abs=0.005)


def test_example_17_a_month_with_soil_heat() -> None:
    """The paper takes the middle of April and rounds Rs to 22.65."""
    rs = et.radiation_from_sunshine(8.5, BANGKOK, APRIL_15)
    assert rs == pytest.approx(22.65, abs=0.005)
    soil_heat = 0.14 * (30.2 - 29.2)
    day = et.StationSite(25.6, 34.8, 2.85, 2.0, rs, BANGKOK, 2, APRIL_15, soil_heat)
    assert et.penman_monteith(day) == pytest.approx(5.72, abs=0.005)


def test_example_20_hargreaves_where_only_temperatures_are_known() -> None:
    value = et.hargreaves(np.array([14.8]), np.array([26.6]), LYON, np.array([float(JULY_15)]))
    assert value[0] == pytest.approx(5.0, abs=0.05)


@pytest.mark.parametrize(("month", "at_0", "at_40_north"), [(1, 36.2, 15.0), (6, 33.4, 41.9), (7, 33.9, 40.8)])
def test_annex_2_table_6_radiation_on_the_fifteenth_of_the_month(month: int, at_0: float, at_40_north: float) -> None:
    """Annex 2, table 2.6, printed to 0.1 for the 15th: the three months that are remembered for certain."""
    of_year = date(2001, month, 15).timetuple().tm_yday
    assert float(sun.extraterrestrial_radiation(0, of_year)) == pytest.approx(at_0, abs=0.1)
    assert float(sun.extraterrestrial_radiation(40, of_year)) == pytest.approx(at_40_north, abs=0.1)
