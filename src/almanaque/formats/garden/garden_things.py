"""Beds and features as open files carry them: their properties by name, and their exact place in local millimetres."""

import math
from collections.abc import Sequence
from datetime import date
from typing import Any
from uuid import UUID, uuid4

from almanaque.core.errors import BadInput
from almanaque.core.garden.outline import Shape
from almanaque.core.garden.site import KINDS, Thing
from almanaque.core.words import Phrase

MOST_BYTES, MOST_THINGS = 2_000_000, 1000
BED_KINDS = ("raised", "sunken", "ground", "plot", "container", "fabric pot", "planter", "sill")


def properties(thing: Thing) -> dict[str, Any]:
    """What a file says of a thing; `local_mm` is read back to the last digit."""
    shape = thing.shape
    local = {
        "x": shape.x_mm,
        "y": shape.y_mm,
        "length": shape.length_mm,
        "width": shape.width_mm,
        "turn_deg": shape.turn_deg,
        "corners": [list(c) for c in shape.corners_mm],
    }
    return {"what": thing.what, "kind": thing.kind, "name": thing.name, **thing.known, "local_mm": local}


def thing_of(given: dict[str, Any], row_id: object, label: str, shape: Shape) -> Thing:
    """A thing from its properties, each checked. Raises BadInput that names it; a strange id is replaced by a new one."""
    return (_bed if given.get("what") == "bed" else _row)(given, _id(row_id), label, shape)


def label_of(given: dict[str, Any], number: int) -> str:
    return str(given.get("name") or f"feature {number}")[:80]


def local_shape(given: dict[str, Any], label: str) -> Shape | None:
    """The shape in local millimetres, where a file of ours has it."""
    local = given.get("local_mm")
    if not isinstance(local, dict):
        return None
    values = [number(local.get(key), label, key) for key in ("x", "y", "length", "width", "turn_deg")]
    corners = local.get("corners") or []
    if not isinstance(corners, list):
        raise BadInput("garden.corners_unreadable", field="file", label=label)
    return Shape(
        values[0], values[1], values[2], values[3], values[4] % 360, tuple(point(c, label) for c in corners), label
    )


def outline_shape(points: Sequence[tuple[float, float]], label: str) -> Shape:
    """A shape from the corners of an outline on the site [mm]."""
    left, top = min(x for x, _ in points), min(y for _, y in points)
    length, width = max(x for x, _ in points) - left, max(y for _, y in points) - top
    own = tuple((round(x - left, 4), round(y - top, 4)) for x, y in points)
    return Shape(round(left, 4), round(top, 4), round(length, 4), round(width, 4), 0.0, own, label)


def _bed(given: dict[str, Any], row_id: UUID, label: str, shape: Shape) -> Thing:
    kind = given.get("kind")
    if kind not in BED_KINDS:
        raise BadInput("garden.bed_kind_unknown", field="file", label=label, bed_kinds=", ".join(BED_KINDS))
    year, pockets = given.get("built_year"), given.get("pockets")
    known = {
        "purpose": str(given.get("purpose") or "")[:80],
        "material": str(given.get("material") or "")[:80],
        "built_year": year if isinstance(year, int) and 1800 <= year <= 2150 else None,
        "pockets": pockets if isinstance(pockets, int) and 1 <= pockets <= 200 else None,
        "depth_mm": number(given.get("depth_mm", 280), label, "depth_mm"),
        "cell_mm": number(given.get("cell_mm", 304.8), label, "cell_mm"),
        "volume_l": _optional(given, "volume_l", label),
    }
    return Thing(row_id, "bed", kind, label, shape, known)


def _row(given: dict[str, Any], row_id: UUID, label: str, shape: Shape) -> Thing:
    kind = given.get("kind", "other")
    if kind not in KINDS:
        raise BadInput("garden.thing_kind_unknown", field="file", label=label, kinds=", ".join(KINDS))
    months = given.get("months_bare") or []
    if not isinstance(months, list) or not all(isinstance(m, int) and 1 <= m <= 12 for m in months):
        raise BadInput("garden.months_out_of_range", field="file", label=label)
    known = {
        "height_mm": _optional(given, "height_mm", label),
        "base_mm": _optional(given, "base_mm", label) or 0.0,
        "months_bare": months,
        "hose_mm": _optional(given, "hose_mm", label),
        "from_day": _day(given.get("from_day"), label),
        "to_day": _day(given.get("to_day"), label),
    }
    return Thing(row_id, "feature", kind, label, shape, known)


def _optional(given: dict[str, Any], key: str, label: str) -> float | None:
    return None if given.get(key) is None else number(given[key], label, key)


def _id(text: object) -> UUID:
    try:
        return UUID(str(text))
    except ValueError:
        return uuid4()


A_CORNER = Phrase("garden.a_corner")


def number(value: Any, label: str, what: str | Phrase) -> float:
    """A finite number from a file, or BadInput that names the thing and the value."""
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value) or abs(value) > 1e9:
        raise BadInput("garden.thing_not_a_number", field="file", label=label, what=what)
    return float(value)


def point(pair: Any, label: str) -> tuple[float, float]:
    """Two numbers from a file."""
    if not isinstance(pair, list) or len(pair) < 2:
        raise BadInput("garden.corner_unreadable", field="file", label=label)
    return number(pair[0], label, A_CORNER), number(pair[1], label, A_CORNER)


def _day(value: Any, label: str) -> date | None:
    if value in (None, ""):
        return None
    try:
        return date.fromisoformat(str(value))
    except ValueError:
        raise BadInput("garden.thing_not_a_day", field="file", label=label, value=str(value)[:20]) from None
