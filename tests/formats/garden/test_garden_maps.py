"""The garden's map as GeoJSON and SVG: what goes out comes back, and what is wrong is said."""

import itertools
import json
from dataclasses import replace
from typing import Any
from uuid import UUID, uuid4
from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.errors import BadInput
from almanaque.core.garden.outline import Shape
from almanaque.core.garden.site import SiteFrame, Thing
from almanaque.formats.garden import garden_geojson, garden_svg
from tests.refuses import refuses

FRAME = SiteFrame("School garden", 15_850, 10_670, 30.0)
CORNER = (46.2104, 7.3581)
KNOWN = {
    "purpose": "Roots",
    "material": "larch",
    "built_year": 2021,
    "pockets": None,
    "depth_mm": 280.0,
    "cell_mm": 304.8,
    "volume_l": None,
}
BED = Thing(UUID(int=5), "bed", "raised", "Bed 1", Shape(914.4, 2743.2, 2438.4, 1219.2, 15.0, (), "Bed 1"), KNOWN)


def read(found: Any, frame: SiteFrame = FRAME) -> list[Thing]:
    return garden_geojson.read(json.dumps(found).encode(), "m.geojson", frame, corner=CORNER)


def polygon(*ring: tuple[float, float], **properties: object) -> dict[str, Any]:
    return {
        "type": "FeatureCollection",
        "features": [
            {
                "type": "Feature",
                "geometry": {"type": "Polygon", "coordinates": [[*map(list, ring), list(ring[0])]]},
                "properties": properties,
            }
        ],
    }


@given(st.floats(-80, 80), st.floats(-179, 179), st.floats(0, 359), st.floats(0, 200_000), st.floats(0, 200_000))
def test_a_place_goes_to_the_world_and_back_to_the_millimetre(
    lat: float, lon: float, north: float, x: float, y: float
) -> None:
    frame = SiteFrame("g", 1, 1, north)
    longitude, latitude = garden_geojson.position(x, y, frame, (lat, lon))
    # Positions are written to nine digits: a tenth of a millimetre.
    assert garden_geojson.place(longitude, latitude, frame, (lat, lon)) == pytest.approx((x, y), abs=0.2)


def test_up_on_the_map_is_north_unless_it_is_turned() -> None:
    east, north = garden_geojson.position(10_000, -10_000, SiteFrame("g", 1, 1), CORNER)
    assert (east > CORNER[1], north > CORNER[0]) == (True, True)
    # North to the right of the map: what lies to the right is farther north.
    same, more = garden_geojson.position(10_000, 0, SiteFrame("g", 1, 1, 90), CORNER)
    assert more > CORNER[0]
    assert same == pytest.approx(CORNER[1], abs=1e-9)


def test_what_is_written_is_rfc_7946_and_is_read_back_the_same() -> None:
    found = garden_geojson.write(FRAME, [BED], corner=CORNER)
    (feature,) = found["features"]
    ring = feature["geometry"]["coordinates"][0]
    assert (found["type"], feature["geometry"]["type"]) == ("FeatureCollection", "Polygon")
    assert ring[0] == ring[-1]
    assert len(ring) == 5
    area = sum(a[0] * b[1] - b[0] * a[1] for a, b in itertools.pairwise(ring))
    assert area > 0  # counter-clockwise, RFC 7946 section 3.1.6
    assert feature["properties"]["local_mm"]["turn_deg"] == 15
    assert "crs" not in found
    assert read(found) == [BED]


def test_an_outline_of_another_program_is_placed_by_its_positions() -> None:
    corners = [(1000, 1000), (4000, 1000), (4000, 3000), (2000, 3000)]
    ring = [tuple(garden_geojson.position(x, y, FRAME, CORNER)) for x, y in corners]
    (thing,) = read(polygon(*ring, name="Hut", kind="building", height_mm=2400))  # type: ignore[arg-type]
    assert (thing.name, thing.kind, thing.known["height_mm"]) == ("Hut", "building", 2400)
    assert (thing.shape.x_mm, thing.shape.y_mm) == pytest.approx((1000, 1000), abs=0.5)
    assert [tuple(round(v) for v in c) for c in thing.shape.corners_mm] == [
        (0, 0),
        (3000, 0),
        (3000, 2000),
        (1000, 2000),
    ]


@pytest.mark.parametrize(
    ("found", "says"),
    [
        ({"type": "FeatureCollection", "features": []}, "garden.geojson_without_features"),
        ([1, 2], "garden.geojson_without_features"),
        ({"type": "FeatureCollection", "features": [7]}, "garden.not_a_polygon"),
        (
            {
                "type": "FeatureCollection",
                "features": [{"geometry": {"type": "Point", "coordinates": [7, 46]}, "properties": {"name": "Tap"}}],
            },
            "garden.not_a_polygon",
        ),
        (polygon((7.0, 46.0), (7.1, 46.0)), "garden.no_outline"),
        (polygon((7.0, 460.0), (7.1, 46.0), (7.1, 46.1), (7.0, 46.1)), "garden.position_not_on_earth"),
        (
            polygon((8.0, 47.0), (8.0001, 47.0), (8.0001, 47.0001), (8.0, 47.0001), name="Hut"),
            "garden.far_from_corner",
        ),
        (polygon((7.3581, 46.2104), (7.3582, 46.2104), (7.3582, 46.2103), kind="castle"), "garden.thing_kind_unknown"),
        (
            polygon((7.3581, 46.2104), (7.3582, 46.2104), (7.3582, 46.2103), what="bed", kind="castle"),
            "garden.bed_kind_unknown",
        ),
        (
            polygon((7.3581, 46.2104), (7.3582, 46.2104), (7.3582, 46.2103), kind="tree", height_mm="tall"),
            "garden.thing_not_a_number",
        ),
        (
            polygon((7.3581, 46.2104), (7.3582, 46.2104), (7.3582, 46.2103), kind="tree", months_bare=[13]),
            "garden.months_out_of_range",
        ),
        (
            polygon((7.3581, 46.2104), (7.3582, 46.2104), (7.3582, 46.2103), kind="tree", to_day="soon"),
            "garden.thing_not_a_day",
        ),
        (
            {"type": "FeatureCollection", "features": [{"properties": {"local_mm": {"x": 1}}}]},
            "garden.thing_not_a_number",
        ),
        ({"type": "FeatureCollection", "features": [{}] * 1001}, "garden.too_many_features"),
    ],
)
def test_what_cannot_be_placed_is_said_with_its_name(found: Any, says: str) -> None:
    with refuses(says) as refused:
        read(found)
    assert refused.value.field == "file"


@pytest.mark.parametrize("body", [b"\xff\xfe", b"not json", b"[" * 100_000])
def test_what_is_no_json_is_refused(body: bytes) -> None:
    with refuses("garden.not_geojson"):
        garden_geojson.read(body, "m.geojson", FRAME, corner=CORNER)
    with pytest.raises(BadInput, match="larger than 2 MB"):
        garden_geojson.read(b" " * 2_000_001, "m.geojson", FRAME, corner=CORNER)


def test_the_drawing_is_in_millimetres_and_holds_every_thing_once() -> None:
    tree = Thing(uuid4(), "feature", "tree", "Old <maple> & co", Shape(5000, 5000, 3000, 3000), {})
    root = ElementTree.fromstring(garden_svg.write(FRAME, [BED, tree]))
    space = "{http://www.w3.org/2000/svg}"
    assert (root.get("width"), root.get("viewBox")) == ("15850mm", "0 0 15850 10670")
    groups = root.findall(f"{space}g")
    assert [group.find(f"{space}title").text for group in groups] == ["Old <maple> & co", "Bed 1"]  # type: ignore[union-attr]
    assert groups[1].get("transform") == "translate(914.4 2743.2) rotate(15 1219.2 609.6)"
    assert groups[0].find(f"{space}ellipse") is not None


def test_a_drawing_of_ours_is_read_back_the_same() -> None:
    tree = Thing(
        uuid4(),
        "feature",
        "tree",
        "Old <maple> & co",
        Shape(5000, 5000, 3000, 3000),
        {
            "height_mm": 9000.0,
            "base_mm": 0.0,
            "months_bare": [1, 2],
            "hose_mm": None,
            "from_day": None,
            "to_day": None,
        },
    )
    found = garden_svg.read(garden_svg.write(FRAME, [BED, tree]), "m.svg")
    assert found == [replace(tree, shape=replace(tree.shape, label=tree.name)), BED]


def test_rectangles_and_polygons_of_another_drawing_become_things() -> None:
    body = b"""<svg xmlns="http://www.w3.org/2000/svg"><rect id="hut" x="100" y="200" width="3000mm" height="2000"/>
        <polygon points="0,0 500,0 500,800"><title>Ramp</title></polygon></svg>"""
    hut, ramp = garden_svg.read(body, "m.svg")
    assert (hut.name, hut.kind, hut.shape.x_mm, hut.shape.length_mm) == ("hut", "other", 100, 3000)
    assert (ramp.name, ramp.shape.corners_mm) == ("Ramp", ((0, 0), (500, 0), (500, 800)))


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (b"<svg", "garden.not_svg"),
        (b"<html/>", "garden.not_svg"),
        (b'<!DOCTYPE x [<!ENTITY a "b">]><svg xmlns="http://www.w3.org/2000/svg"/>', "garden.not_svg"),
        (b'<svg xmlns="http://www.w3.org/2000/svg"/>', "garden.svg_without_things"),
        (b'<svg xmlns="http://www.w3.org/2000/svg"><rect width="wide" height="3"/></svg>', "garden.thing_not_a_number"),
        (
            b'<svg xmlns="http://www.w3.org/2000/svg"><rect width="9" height="3" transform="rotate(3)"/></svg>',
            "garden.svg_thing_transformed",
        ),
        (b'<svg xmlns="http://www.w3.org/2000/svg"><polygon points="1 2 3 4"/></svg>', "garden.no_outline"),
        (b'<svg xmlns="http://www.w3.org/2000/svg"><g data-thing="{"/></svg>', "garden.svg_thing_unreadable"),
        (b'<svg xmlns="http://www.w3.org/2000/svg"><g data-thing="[1]"/></svg>', "garden.svg_thing_unreadable"),
    ],
)
def test_a_drawing_that_cannot_be_read_is_said(body: bytes, says: str) -> None:
    with refuses(says):
        garden_svg.read(body, "m.svg")
    with pytest.raises(BadInput, match="larger than 2 MB"):
        garden_svg.read(b" " * 2_000_001, "m.svg")
