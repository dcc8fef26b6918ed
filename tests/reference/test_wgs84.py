"""Lengths of a degree against published figures of the WGS 84 ellipsoid.

Rounded metres in a degree of latitude and longitude as printed in geodesy tables (National Geospatial-Intelligence Agency's
calculator prints the same), from memory; tolerance half the last digit printed.
"""

import pytest

from almanaque.formats.garden.garden_geojson import metres_per_degree

PRINTED = (
    (0, 110_574, 111_320),
    (15, 110_649, 107_550),
    (30, 110_852, 96_486),
    (45, 111_132, 78_847),
    (60, 111_412, 55_800),
    (75, 111_618, 28_902),
)


@pytest.mark.parametrize(("latitude", "north", "east"), PRINTED)
def test_a_degree_is_as_long_as_printed(latitude: float, north: float, east: float) -> None:
    assert metres_per_degree(latitude) == pytest.approx((north, east), abs=0.51)
