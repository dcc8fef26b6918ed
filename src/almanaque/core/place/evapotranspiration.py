"""Reference evapotranspiration ET₀: the water that well-watered short grass would use in a day.

Two ways: Penman–Monteith with a full station, Hargreaves where only temperatures are known. Both after Allen et al.
(1998), *Crop evapotranspiration*, FAO Irrigation and Drainage Paper 56; equation numbers below are of that paper.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from almanaque.core.errors import BadInput
from almanaque.core.place.sun import daylight_hours, extraterrestrial_radiation

Floats = npt.NDArray[np.float64]

STEFAN_BOLTZMANN = 4.903e-9  # MJ K⁻⁴ m⁻² day⁻¹, eq. 39
ALBEDO = 0.23  # of the reference grass, eq. 38
LATENT_HEAT = 2.45  # MJ kg⁻¹, so 1 MJ m⁻² evaporates 0.408 mm; eq. 20
ANGSTROM_A, ANGSTROM_B = 0.25, 0.50  # eq. 35, where nobody has calibrated them


@dataclass(frozen=True)
class StationSite:
    """One day at a full station.

    Temperatures [°C], actual vapour pressure [kPa], wind at 2 m [m s⁻¹], solar radiation [MJ m⁻² day⁻¹], latitude [°],
    elevation [m]. `soil_heat` is G [MJ m⁻² day⁻¹]: 0 for a single day (eq. 42).
    """

    tmin_c: float
    tmax_c: float
    vapour_kpa: float
    wind_2m: float
    radiation: float
    latitude: float
    elevation_m: float
    day_of_year: int
    soil_heat: float = 0.0


def hargreaves(tmin_c: Floats, tmax_c: Floats, latitude: float, day_of_year: Floats) -> Floats:
    """ET₀ [mm day⁻¹] from temperatures alone; arrays (days,). NaN where a temperature is missing. **Source:** eq. 52."""
    radiation = extraterrestrial_radiation(latitude, day_of_year) / LATENT_HEAT
    mean = (tmin_c + tmax_c) / 2
    return np.asarray(np.maximum(0.0, 0.0023 * (mean + 17.8) * np.sqrt(np.maximum(0.0, tmax_c - tmin_c)) * radiation))


def penman_monteith(day: StationSite) -> float:
    """ET₀ [mm day⁻¹]; raises BadInput when the least temperature is above the greatest. **Source:** eq. 6."""
    if day.tmin_c > day.tmax_c:
        raise BadInput("place.temperatures_swapped", field="tmin")
    mean = (day.tmin_c + day.tmax_c) / 2
    gamma = psychrometric_constant(day.elevation_m)
    slope = vapour_pressure_slope(mean)
    deficit = saturation_of_day(day.tmin_c, day.tmax_c) - day.vapour_kpa
    energy = 0.408 * slope * (net_radiation(day) - day.soil_heat)
    wind = gamma * 900 / (mean + 273) * day.wind_2m * deficit
    return max(0.0, (energy + wind) / (slope + gamma * (1 + 0.34 * day.wind_2m)))


def net_radiation(day: StationSite) -> float:
    """Rn [MJ m⁻² day⁻¹]: what the grass keeps of the sun, less what it radiates. **Source:** eq. 37 to 40."""
    clear = (0.75 + 2e-5 * day.elevation_m) * float(extraterrestrial_radiation(day.latitude, day.day_of_year))
    cloud = min(1.0, day.radiation / clear) if clear > 0 else 1.0
    kelvin = ((day.tmax_c + 273.16) ** 4 + (day.tmin_c + 273.16) ** 4) / 2
    outgoing = STEFAN_BOLTZMANN * kelvin * (0.34 - 0.14 * day.vapour_kpa**0.5) * (1.35 * cloud - 0.35)
    return float((1 - ALBEDO) * day.radiation - outgoing)


def saturation_vapour(celsius: float) -> float:
    """e° [kPa] at an air temperature [°C]. **Source:** eq. 11."""
    return float(0.6108 * np.exp(17.27 * celsius / (celsius + 237.3)))


def saturation_of_day(tmin_c: float, tmax_c: float) -> float:
    """Mean saturation vapour pressure of a day [kPa]. **Source:** eq. 12."""
    return (saturation_vapour(tmin_c) + saturation_vapour(tmax_c)) / 2


def vapour_pressure_slope(celsius: float) -> float:
    """Δ [kPa °C⁻¹]. **Source:** eq. 13."""
    return 4098 * saturation_vapour(celsius) / (celsius + 237.3) ** 2


def vapour_from_humidity(tmin_c: float, tmax_c: float, least_percent: float, most_percent: float) -> float:
    """Actual vapour pressure [kPa] from the day's least and greatest relative humidity [%]. **Source:** eq. 17.

    Raises BadInput for a humidity that is not between 0 and 100.
    """
    for percent in (least_percent, most_percent):
        if not 0 <= percent <= 100:
            raise BadInput("place.humidity_out_of_range", field="rh", percent=percent)
    return (saturation_vapour(tmin_c) * most_percent + saturation_vapour(tmax_c) * least_percent) / 200


def vapour_from_dewpoint(celsius: float) -> float:
    """Actual vapour pressure [kPa] from the dew point [°C]. **Source:** eq. 14."""
    return saturation_vapour(celsius)


def atmospheric_pressure(elevation_m: float) -> float:
    """P [kPa] of a standard atmosphere. **Source:** eq. 7."""
    return float(101.3 * ((293 - 0.0065 * elevation_m) / 293) ** 5.26)


def psychrometric_constant(elevation_m: float) -> float:
    """γ [kPa °C⁻¹]. **Source:** eq. 8."""
    return 0.665e-3 * atmospheric_pressure(elevation_m)


def radiation_from_sunshine(hours: float, latitude: float, day_of_year: int) -> float:
    """Solar radiation Rs [MJ m⁻² day⁻¹] from hours of bright sunshine. **Source:** eq. 35 (Ångström)."""
    possible = float(daylight_hours(latitude, day_of_year))
    share = min(1.0, hours / possible) if possible > 0 else 0.0
    return (ANGSTROM_A + ANGSTROM_B * share) * float(extraterrestrial_radiation(latitude, day_of_year))


def radiation_from_temperatures(
    tmin_c: float, tmax_c: float, latitude: float, day_of_year: int, *, k: float = 0.16
) -> float:
    """Solar radiation Rs [MJ m⁻² day⁻¹] from the day's range; k 0.16 inland, 0.19 on a coast. **Source:** eq. 50."""
    return float(k * max(0.0, tmax_c - tmin_c) ** 0.5 * float(extraterrestrial_radiation(latitude, day_of_year)))


def wind_at_2m(speed: float, height_m: float) -> float:
    """Wind at 2 m [m s⁻¹] from wind measured at another height over short grass. **Source:** eq. 47."""
    return float(speed * 4.87 / np.log(67.8 * height_m - 5.42))
