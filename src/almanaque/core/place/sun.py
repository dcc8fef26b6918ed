"""Where the sun stands by the day: declination, daylength, and the radiation that would arrive without an atmosphere.

Latitudes are degrees, north above zero; days of the year run from 1. Every function takes numbers or arrays of one shape.
"""

import math
from datetime import date

import numpy as np
import numpy.typing as npt

from almanaque.core.errors import BadInput

Floats = npt.NDArray[np.float64]

SOLAR_CONSTANT = 0.0820  # MJ m⁻² min⁻¹, FAO-56 eq. 21
SUNRISE_DEG = -0.833  # centre of the disc when its upper edge is on a level horizon, with 34′ of refraction
_J2000 = date(2000, 1, 1).toordinal()


def check_latitude(latitude: float) -> float:
    """Return the latitude [°]; raise BadInput beyond the poles or for what is no number."""
    if not -90 <= latitude <= 90:
        raise BadInput("place.latitude_out_of_range", field="latitude", latitude=latitude)
    return latitude


def declination(day: date) -> float:
    """Declination of the sun [°] at 12:00 universal time.

    **Source:** Meeus, Astronomical Algorithms (1998), ch. 25, the low-accuracy series, as NOAA's solar calculator prints it.
    """
    century = (day.toordinal() - _J2000) / 36525.0  # noon of 1 January 2000 is the epoch
    mean_longitude = 280.46646 + century * (36000.76983 + century * 0.0003032)
    anomaly = np.radians(357.52911 + century * (35999.05029 - 0.0001537 * century))
    centre = (
        np.sin(anomaly) * (1.914602 - century * (0.004817 + 0.000014 * century))
        + np.sin(2 * anomaly) * (0.019993 - 0.000101 * century)
        + np.sin(3 * anomaly) * 0.000289
    )
    node = np.radians(125.04 - 1934.136 * century)
    longitude = np.radians(mean_longitude + centre - 0.00569 - 0.00478 * np.sin(node))
    obliquity = np.radians(23.0 + (26.0 + 21.448 / 60.0) / 60.0 - 0.0130042 * century + 0.00256 * np.cos(node))
    return float(np.degrees(np.arcsin(np.sin(obliquity) * np.sin(longitude))))


def daylength(latitude: float, day: date, *, horizon_deg: float = SUNRISE_DEG) -> float:
    """Hours from sunrise to sunset: the upper edge of the sun above a level horizon, refraction included.

    24 in the polar day, 0 in the polar night. `horizon_deg` −6 gives civil twilight, 0 the geometric centre of the disc.
    Raises BadInput for a latitude beyond the poles. **Source:** the sunrise equation, with the declination above.
    """
    phi, delta = np.radians(check_latitude(latitude)), np.radians(declination(day))
    if np.cos(phi) < 1e-12:
        return 24.0 if np.degrees(delta) * np.sign(latitude) > horizon_deg else 0.0
    cosine = (np.sin(np.radians(horizon_deg)) - np.sin(phi) * np.sin(delta)) / (np.cos(phi) * np.cos(delta))
    return float(24.0 / np.pi * np.arccos(np.clip(cosine, -1.0, 1.0)))


def sunset_angle(latitude: float, day_of_year: Floats | int) -> Floats:
    """Sunset hour angle [rad] of the disc's centre, without refraction. **Source:** FAO-56 eq. 25 with eq. 24."""
    phi = np.radians(latitude)
    return np.asarray(np.arccos(np.clip(-np.tan(phi) * np.tan(_declination_fao(day_of_year)), -1.0, 1.0)))


def daylight_hours(latitude: float, day_of_year: Floats | int) -> Floats:
    """Greatest possible hours of sunshine N, as evapotranspiration uses them. **Source:** FAO-56 eq. 34."""
    return np.asarray(24.0 / np.pi * sunset_angle(latitude, day_of_year))


def extraterrestrial_radiation(latitude: float, day_of_year: Floats | int) -> Floats:
    """Radiation on a level surface above the atmosphere Ra [MJ m⁻² day⁻¹]. **Source:** FAO-56 eq. 21, 23, 24, 25."""
    phi, delta = np.radians(latitude), _declination_fao(day_of_year)
    distance = 1.0 + 0.033 * np.cos(2 * np.pi / 365 * np.asarray(day_of_year))
    angle = sunset_angle(latitude, day_of_year)
    return np.asarray(
        24
        * 60
        / np.pi
        * SOLAR_CONSTANT
        * distance
        * (angle * np.sin(phi) * np.sin(delta) + np.cos(phi) * np.cos(delta) * np.sin(angle))
    )


def _declination_fao(day_of_year: Floats | int) -> Floats:
    """Declination [rad]. **Source:** FAO-56 eq. 24."""
    return np.asarray(0.409 * np.sin(2 * np.pi / 365 * np.asarray(day_of_year) - 1.39))


def equation_of_time(day: date) -> float:
    """Minutes by which a sundial is ahead of a clock that shows mean solar time. **Source:** Spencer (1971), as NOAA prints it."""
    turn = 2 * math.pi * (day.timetuple().tm_yday - 1) / 365
    return 229.18 * (
        0.000075
        + 0.001868 * math.cos(turn)
        - 0.032077 * math.sin(turn)
        - 0.014615 * math.cos(2 * turn)
        - 0.040849 * math.sin(2 * turn)
    )


def solar_hour(day: date, clock_h: float, *, longitude: float, utc_offset_h: float) -> float:
    """Hours of local solar time (12 when the sun is highest) at an hour of the clock, east positive."""
    return clock_h - utc_offset_h + longitude / 15 + equation_of_time(day) / 60


def position(latitude: float, day: date, solar_hour: Floats) -> tuple[Floats, Floats]:
    """Altitude above a level horizon and azimuth from north through east [°] at hours of local solar time (12 is noon).

    Solar time needs no longitude and no clock: over a whole day it gives every place the sun passes through. The centre of
    the disc, without refraction. Raises BadInput for a latitude beyond the poles. **Source:** spherical astronomy (Meeus,
    *Astronomical Algorithms*, ch. 13), with the declination above.
    """
    phi, delta = np.radians(check_latitude(latitude)), np.radians(declination(day))
    hour = np.radians((np.asarray(solar_hour, dtype=np.float64) - 12.0) * 15.0)
    sine = np.sin(phi) * np.sin(delta) + np.cos(phi) * np.cos(delta) * np.cos(hour)
    east = -np.cos(delta) * np.sin(hour)
    north = np.cos(phi) * np.sin(delta) - np.sin(phi) * np.cos(delta) * np.cos(hour)
    return np.degrees(np.arcsin(np.clip(sine, -1.0, 1.0))), np.degrees(np.arctan2(east, north)) % 360.0
