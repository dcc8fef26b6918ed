"""The garden's map as GeoJSON (RFC 7946): WGS 84 positions, and the exact place of each thing in local millimetres.

The site's top-left corner is a point in WGS 84 and north lies where the site says. Positions are reckoned on the ellipsoid's
tangent plane at that corner, which for a garden is exact to a millimetre. The `local_mm` property of a feature is what is
read back; a feature of another program, without it, is placed by its positions.
"""

import json
import math
from collections.abc import Iterable, Sequence
from datetime import date
from typing import Any
from uuid import UUID, uuid4

from almanaque.core.errors import BadInput
from almanaque.core.outline import Shape
from almanaque.core.site import KINDS, Frame, Thing

WGS84_A, WGS84_F = 6_378_137.0, 1 / 298.257223563  # NIMA TR8350.2
MOST_BYTES, MOST_FEATURES, FAR_M = 2_000_000, 1000, 2000.0
BED_KINDS = ("raised", "sunken", "ground", "plot", "container", "fabric pot", "planter", "sill")
Corner = tuple[float, float]  # latitude, longitude


def metres_per_degree(latitude: float) -> tuple[float, float]:
    """Metres in a degree of latitude and of longitude at a latitude. **Source:** radii of curvature of the WGS 84 ellipsoid."""
    e2 = WGS84_F * (2 - WGS84_F)
    sine = math.sin(math.radians(latitude))
    w = math.sqrt(1 - e2 * sine * sine)
    meridian, normal = WGS84_A * (1 - e2) / w**3, WGS84_A / w
    return math.radians(1) * meridian, math.radians(1) * normal * math.cos(math.radians(latitude))


def position(x_mm: float, y_mm: float, frame: Frame, corner: Corner) -> list[float]:
    """Longitude and latitude of a place on the site."""
    turn = math.radians(frame.north_deg)
    up, right = -y_mm / 1000, x_mm / 1000  # on the map; north lies `turn` clockwise from up
    north, east = up * math.cos(turn) + right * math.sin(turn), right * math.cos(turn) - up * math.sin(turn)
    per_lat, per_lon = metres_per_degree(corner[0])
    return [round(corner[1] + east / per_lon, 9), round(corner[0] + north / per_lat, 9)]


def place(longitude: float, latitude: float, frame: Frame, corner: Corner) -> tuple[float, float]:
    """The place on the site [mm] of a position."""
    per_lat, per_lon = metres_per_degree(corner[0])
    north, east = (latitude - corner[0]) * per_lat, (longitude - corner[1]) * per_lon
    turn = math.radians(frame.north_deg)
    up, right = north * math.cos(turn) - east * math.sin(turn), north * math.sin(turn) + east * math.cos(turn)
    return right * 1000, -up * 1000


def write(frame: Frame, things: Iterable[Thing], *, corner: Corner) -> dict[str, Any]:
    """A FeatureCollection of all beds and features of a site, rings counter-clockwise as the RFC asks."""
    return {"type": "FeatureCollection", "features": [_feature(thing, frame, corner) for thing in things]}


def _feature(thing: Thing, frame: Frame, corner: Corner) -> dict[str, Any]:
    shape = thing.shape
    ring = [position(x, y, frame, corner) for x, y in shape.on_site_mm]
    if _signed_area(ring) < 0:
        ring.reverse()
    local = {
        "x": shape.x_mm, "y": shape.y_mm, "length": shape.length_mm, "width": shape.width_mm, "turn_deg": shape.turn_deg,
        "corners": [list(c) for c in shape.corners_mm],
    }  # fmt: skip
    return {
        "type": "Feature", "id": str(thing.id), "geometry": {"type": "Polygon", "coordinates": [[*ring, ring[0]]]},
        "properties": {"what": thing.what, "kind": thing.kind, "name": thing.name, **thing.known, "local_mm": local},
    }  # fmt: skip


def read(body: bytes, name: str, frame: Frame, *, corner: Corner) -> list[Thing]:
    """Beds and features of a file, their values checked. Raises BadInput, naming the feature, for what is no GeoJSON, far away, or no polygon."""
    if len(body) > MOST_BYTES:
        raise BadInput(f"{name} is larger than {MOST_BYTES // 1_000_000} MB. Export only the garden.", field="file")
    try:
        found = json.loads(body.decode("utf-8-sig"))
    except (UnicodeDecodeError, ValueError, RecursionError):
        raise BadInput(f"{name} is not GeoJSON: it cannot be read as JSON. Export it again.", field="file") from None
    items = found.get("features") if isinstance(found, dict) and found.get("type") == "FeatureCollection" else None
    if not isinstance(items, list) or not items:
        raise BadInput(f"{name} holds no features. It must be a FeatureCollection of polygons.", field="file")
    if len(items) > MOST_FEATURES:
        raise BadInput(f"{name} holds {len(items):,} features; at most {MOST_FEATURES:,} are read.", field="file")
    things = []
    for number, item in enumerate(items, start=1):
        properties = item.get("properties") if isinstance(item, dict) else None
        properties = properties if isinstance(properties, dict) else {}
        label = str(properties.get("name") or f"feature {number}")[:80]
        shape = _shape(item, properties, label, frame, corner)
        read_known = _bed if properties.get("what") == "bed" else _row
        things.append(read_known(item, properties, label, shape))
    return things


def _shape(item: Any, properties: dict[str, Any], label: str, frame: Frame, corner: Corner) -> Shape:
    """The local millimetres where the file has them, else the box around the positions with its corners."""
    local = properties.get("local_mm")
    if isinstance(local, dict):
        values = [_number(local.get(key), label, key) for key in ("x", "y", "length", "width", "turn_deg")]
        corners = local.get("corners") or []
        if not isinstance(corners, list):
            raise BadInput(f"“{label}”: its corners cannot be read.", field="file")
        return Shape(
            values[0], values[1], values[2], values[3], values[4] % 360, tuple(_point(c, label) for c in corners), label
        )
    geometry = item.get("geometry") if isinstance(item, dict) else None
    if not isinstance(geometry, dict) or geometry.get("type") != "Polygon":
        raise BadInput(f"“{label}” is not a polygon. Draw it as an outline, or leave it out of the file.", field="file")
    rings = geometry.get("coordinates")
    if not isinstance(rings, list) or not rings or not isinstance(rings[0], list) or len(rings[0]) < 4:
        raise BadInput(f"“{label}” has no outline of at least three corners.", field="file")
    points = []
    for pair in rings[0][:-1]:
        longitude, latitude = _point(pair, label)
        if not (-180 <= longitude <= 180 and -90 <= latitude <= 90):
            raise BadInput(
                f"“{label}” has a position that is not on earth. GeoJSON writes longitude first.", field="file"
            )
        points.append(place(longitude, latitude, frame, corner))
    left, top = min(x for x, _ in points), min(y for _, y in points)
    far = max(max(abs(x), abs(y)) for x, y in points) / 1000
    if far > FAR_M:
        raise BadInput(
            f"“{label}” lies {far / 1000:,.0f} km from this garden's corner at {corner[0]:.4f}, {corner[1]:.4f}. Check the file, or the corner of the map.",
            field="file",
        )
    length, width = max(x for x, _ in points) - left, max(y for _, y in points) - top
    own = tuple((round(x - left, 4), round(y - top, 4)) for x, y in points)
    return Shape(round(left, 4), round(top, 4), round(length, 4), round(width, 4), 0.0, own, label)


def _bed(item: dict[str, Any], properties: dict[str, Any], label: str, shape: Shape) -> Thing:
    kind = properties.get("kind")
    if kind not in BED_KINDS:
        raise BadInput(f"“{label}” is a bed of an unknown kind. Known are {', '.join(BED_KINDS)}.", field="file")
    year, pockets = properties.get("built_year"), properties.get("pockets")
    known = {
        "purpose": str(properties.get("purpose") or "")[:80], "material": str(properties.get("material") or "")[:80],
        "built_year": year if isinstance(year, int) and 1800 <= year <= 2150 else None,
        "pockets": pockets if isinstance(pockets, int) and 1 <= pockets <= 200 else None,
        "depth_mm": _number(properties.get("depth_mm", 280), label, "depth_mm"), "cell_mm": _number(properties.get("cell_mm", 304.8), label, "cell_mm"),
        "volume_l": _optional(properties, "volume_l", label),
    }  # fmt: skip
    return Thing(_id(item), "bed", kind, label, shape, known)


def _row(item: dict[str, Any], properties: dict[str, Any], label: str, shape: Shape) -> Thing:
    kind = properties.get("kind", "other")
    if kind not in KINDS:
        raise BadInput(f"“{label}” is of an unknown kind. Known are {', '.join(KINDS)}.", field="file")
    months = properties.get("months_bare") or []
    if not isinstance(months, list) or not all(isinstance(m, int) and 1 <= m <= 12 for m in months):
        raise BadInput(f"“{label}”: months are numbers from 1 to 12.", field="file")
    known = {
        "height_mm": _optional(properties, "height_mm", label), "base_mm": _optional(properties, "base_mm", label) or 0.0,
        "months_bare": months, "hose_mm": _optional(properties, "hose_mm", label),
        "from_day": _day(properties.get("from_day"), label), "to_day": _day(properties.get("to_day"), label),
    }  # fmt: skip
    return Thing(_id(item), "feature", kind, label, shape, known)


def _optional(properties: dict[str, Any], key: str, label: str) -> float | None:
    return None if properties.get(key) is None else _number(properties[key], label, key)


def _id(item: dict[str, Any]) -> UUID:
    try:
        return UUID(str(item.get("id")))
    except ValueError:
        return uuid4()


def _number(value: Any, label: str, what: str) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value) or abs(value) > 1e9:
        raise BadInput(f"“{label}”: {what} is not a number.", field="file")
    return float(value)


def _point(pair: Any, label: str) -> tuple[float, float]:
    if not isinstance(pair, list) or len(pair) < 2:
        raise BadInput(f"“{label}” has a corner that cannot be read.", field="file")
    return _number(pair[0], label, "a corner"), _number(pair[1], label, "a corner")


def _day(value: Any, label: str) -> date | None:
    if value in (None, ""):
        return None
    try:
        return date.fromisoformat(str(value))
    except ValueError:
        raise BadInput(f"“{label}”: “{str(value)[:20]}” is not a day. Write it as 2027-04-14.", field="file") from None


def _signed_area(ring: Sequence[Sequence[float]]) -> float:
    return sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(ring, [*ring[1:], ring[0]], strict=True)) / 2
