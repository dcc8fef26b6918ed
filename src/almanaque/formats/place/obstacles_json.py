"""What stands around a point, as a JSON list: each thing with its place from the point, its size and its height.

`{"name": "shed", "east": "-2 m", "north": "-4 m", "length": "3 m", "width": "2 m", "height": "2.6 m"}` is a box, length from
west to east, its south-west corner at that place. With `"radius"` instead of length and width it is round around the place,
with `"base"` it begins above the ground, as a crown does, and `"bare": [12, 1, 2]` names months without leaves.
"""

import json
from typing import Any

from almanaque.core.errors import BadInput
from almanaque.core.place.shade import Obstacle, body, round_body
from almanaque.core.units import parse_length
from almanaque.formats import text_file

MOST_BYTES = 1_000_000
MOST_THINGS = 500
_KEYS = {"name", "east", "north", "length", "width", "radius", "height", "base", "bare"}


def read(sent: bytes, name: str) -> list[Obstacle]:
    """The bodies on a map whose origin is the point, north up. Raises BadInput with the file and the number of the thing."""
    text = text_file.read(sent, name, most_bytes=MOST_BYTES)
    try:
        things = json.loads(text)
    except (ValueError, RecursionError) as error:
        line = getattr(error, "lineno", 1)
        raise BadInput("place.obstacles_not_json", name=name, line=line) from None
    if not isinstance(things, list) or len(things) > MOST_THINGS:
        raise BadInput("place.obstacles_not_a_list", name=name, most=MOST_THINGS)
    return [_thing(thing, f"{name}, thing {number}") for number, thing in enumerate(things, start=1)]


def _thing(thing: Any, where: str) -> Obstacle:
    if not isinstance(thing, dict) or not set(thing) <= _KEYS:
        raise BadInput("place.obstacle_keys", where=where, keys=", ".join(sorted(_KEYS)))
    bare = thing.get("bare", [])
    if not isinstance(bare, list) or not all(isinstance(m, int) and 1 <= m <= 12 for m in bare):
        raise BadInput("place.obstacle_months", where=where)
    try:
        x, y = _place(thing, "east"), -_place(thing, "north")
        top, base = _length(thing, "height"), _place(thing, "base")
        common: dict[str, Any] = {
            "top_mm": top,
            "base_mm": base,
            "months_bare": frozenset(bare),
            "name": str(thing.get("name", ""))[:80],
        }
        if "radius" in thing:
            return round_body(x, y, _length(thing, "radius"), **common)
        length, width = _length(thing, "length"), _length(thing, "width")
        return body([(x, y), (x + length, y), (x + length, y - width), (x, y - width)], **common)
    except BadInput as error:
        raise BadInput("place.obstacle", where=where, problem=error.phrase) from None


def _length(thing: dict[str, Any], key: str) -> float:
    if key not in thing:
        raise BadInput("place.obstacle_key_missing", key=key)
    return float(parse_length(str(thing[key])))


def _place(thing: dict[str, Any], key: str) -> float:
    """A length that may be 0 or below it; 0 when left out."""
    text = str(thing.get(key, "0")).strip().replace("−", "-")
    below = text.startswith("-")
    plain = text.lstrip("-").strip()
    value = 0.0 if plain in ("0", "") else float(parse_length(plain))
    return -value if below else value
