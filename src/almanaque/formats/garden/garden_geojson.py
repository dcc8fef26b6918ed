"""The garden's map as GeoJSON (RFC 7946): WGS 84 positions, and the exact place of each thing in local millimetres.

The site's top-left corner is a point in WGS 84 and north lies where the site says. Positions are reckoned on the ellipsoid's
tangent plane at that corner, which for a garden is exact to a millimetre. The `local_mm` property of a feature is what is
read back; a feature of another program, without it, is placed by its positions.
"""

import json
import math
from collections.abc import Iterable, Sequence
from typing import Any

from almanaque.core.errors import BadInput
from almanaque.core.garden.outline import Shape
from almanaque.core.garden.site import SiteFrame, Thing
from almanaque.formats.garden import garden_things
from almanaque.formats.garden.garden_things import MOST_BYTES, MOST_THINGS

WGS84_A, WGS84_F = 6_378_137.0, 1 / 298.257223563  # NIMA TR8350.2
FAR_M = 2000.0
Corner = tuple[float, float]  # latitude, longitude


def metres_per_degree(latitude: float) -> tuple[float, float]:
    """Metres in a degree of latitude and of longitude at a latitude. **Source:** radii of curvature of the WGS 84 ellipsoid."""
    e2 = WGS84_F * (2 - WGS84_F)
    sine = math.sin(math.radians(latitude))
    w = math.sqrt(1 - e2 * sine * sine)
    meridian, normal = WGS84_A * (1 - e2) / w**3, WGS84_A / w
    return math.radians(1) * meridian, math.radians(1) * normal * math.cos(math.radians(latitude))


def position(x_mm: float, y_mm: float, frame: SiteFrame, corner: Corner) -> list[float]:
    """Longitude and latitude of a place on the site."""
    turn = math.radians(frame.north_deg)
    up, right = -y_mm / 1000, x_mm / 1000  # on the map; north lies `turn` clockwise from up
    north, east = up * math.cos(turn) + right * math.sin(turn), right * math.cos(turn) - up * math.sin(turn)
    per_lat, per_lon = metres_per_degree(corner[0])
    return [round(corner[1] + east / per_lon, 9), round(corner[0] + north / per_lat, 9)]


def place(longitude: float, latitude: float, frame: SiteFrame, corner: Corner) -> tuple[float, float]:
    """The place on the site [mm] of a position."""
    per_lat, per_lon = metres_per_degree(corner[0])
    north, east = (latitude - corner[0]) * per_lat, (longitude - corner[1]) * per_lon
    turn = math.radians(frame.north_deg)
    up, right = north * math.cos(turn) - east * math.sin(turn), north * math.sin(turn) + east * math.cos(turn)
    return right * 1000, -up * 1000


def write(frame: SiteFrame, things: Iterable[Thing], *, corner: Corner) -> dict[str, Any]:
    """A FeatureCollection of all beds and features of a site, rings counter-clockwise as the RFC asks."""
    return {"type": "FeatureCollection", "features": [_feature(thing, frame, corner) for thing in things]}


def _feature(thing: Thing, frame: SiteFrame, corner: Corner) -> dict[str, Any]:
    shape = thing.shape
    ring = [position(x, y, frame, corner) for x, y in shape.on_site_mm]
    if _signed_area(ring) < 0:
        ring.reverse()
    return {
        "type": "Feature",
        "id": str(thing.id),
        "geometry": {"type": "Polygon", "coordinates": [[*ring, ring[0]]]},
        "properties": garden_things.properties(thing),
    }


def read(body: bytes, name: str, frame: SiteFrame, *, corner: Corner) -> list[Thing]:
    """Beds and features of a file, their values checked. Raises BadInput, naming the feature, for what is no
    GeoJSON, far away, or no polygon."""
    if len(body) > MOST_BYTES:
        raise BadInput("garden.drawing_too_large", field="file", name=name, most_megabytes=MOST_BYTES // 1000000)
    try:
        found = json.loads(body.decode("utf-8-sig"))
    except (UnicodeDecodeError, ValueError, RecursionError):
        raise BadInput("garden.not_geojson", field="file", name=name) from None
    items = found.get("features") if isinstance(found, dict) and found.get("type") == "FeatureCollection" else None
    if not isinstance(items, list) or not items:
        raise BadInput("garden.geojson_without_features", field="file", name=name)
    if len(items) > MOST_THINGS:
        raise BadInput("garden.too_many_features", field="file", name=name, count=len(items), most=MOST_THINGS)
    things = []
    for number, item in enumerate(items, start=1):
        given = item.get("properties") if isinstance(item, dict) else None
        given = given if isinstance(given, dict) else {}
        label = garden_things.label_of(given, number)
        shape = garden_things.local_shape(given, label) or _shape(item, label, frame, corner)
        things.append(garden_things.thing_of(given, item.get("id"), label, shape))
    return things


def _shape(item: Any, label: str, frame: SiteFrame, corner: Corner) -> Shape:
    """The box around an outline's positions, with its corners."""
    geometry = item.get("geometry") if isinstance(item, dict) else None
    if not isinstance(geometry, dict) or geometry.get("type") != "Polygon":
        raise BadInput("garden.not_a_polygon", field="file", label=label)
    rings = geometry.get("coordinates")
    if not isinstance(rings, list) or not rings or not isinstance(rings[0], list) or len(rings[0]) < 4:
        raise BadInput("garden.no_outline", field="file", label=label)
    points = []
    for pair in rings[0][:-1]:
        longitude, latitude = garden_things.point(pair, label)
        if not (-180 <= longitude <= 180 and -90 <= latitude <= 90):
            raise BadInput("garden.position_not_on_earth", field="file", label=label)
        points.append(place(longitude, latitude, frame, corner))
    far = max(max(abs(x), abs(y)) for x, y in points) / 1000
    if far > FAR_M:
        raise BadInput(
            "garden.far_from_corner", field="file", label=label, km=far / 1000, latitude=corner[0], longitude=corner[1]
        )
    return garden_things.outline_shape(points, label)


def _signed_area(ring: Sequence[Sequence[float]]) -> float:
    return sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(ring, [*ring[1:], ring[0]], strict=True)) / 2
