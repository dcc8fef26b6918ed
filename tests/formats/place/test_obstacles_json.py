import json

import pytest

from almanaque.formats.place import obstacles_json
from tests.refuses import refuses


def read(*things: object) -> list:
    return obstacles_json.read(json.dumps(things).encode(), "o.json")


def test_a_box_and_a_crown_are_read_with_their_places() -> None:
    box, crown = read(
        {"name": "shed", "east": "-2 m", "north": "1 m", "length": "3 m", "width": "2 m", "height": "2.6 m"},
        {"east": "10 ft", "north": "−6 ft", "radius": "4 ft", "height": "20 ft", "base": "5 ft", "bare": [12, 1]},
    )
    assert sorted(box.outline_mm) == [
        (-2000, -3000),
        (-2000, -1000),
        (1000, -3000),
        (1000, -1000),
    ]  # north is up, y runs down
    assert (box.name, box.top_mm, box.base_mm) == ("shed", 2600, 0)
    assert crown.circle_mm == pytest.approx((3048, 1828.8, 1219.2))
    assert (crown.base_mm, crown.months_bare) == (pytest.approx(1524), {12, 1})


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (b"{", "place.obstacles_not_json"),
        (b"{}", "place.obstacles_not_a_list"),
        (b"[1]", "place.obstacle_keys"),
        (b'[{"colour": "red"}]', "place.obstacle_keys"),
        (b'[{"length": "3 m", "width": "2 m"}]', "place.obstacle"),
        (b'[{"radius": "x", "height": "2 m"}]', "place.obstacle"),
        (b'[{"radius": "1 m", "height": "2 m", "bare": [13]}]', "place.obstacle_months"),
        (b'[{"radius": "1 m", "height": "1 m", "base": "2 m"}]', "place.obstacle"),
        (b"[" * 100_000, "place.obstacles_not_json"),
    ],
)
def test_what_cannot_be_is_refused_with_its_number(body: bytes, says: str) -> None:
    with refuses(says):
        obstacles_json.read(body, "o.json")
