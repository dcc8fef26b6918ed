"""What stands around the beds: its shade, and whether there is room to pass, to turn a wheelchair, and to reach with the hose.

Lengths are millimetres on the site. Heights are above level ground.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from functools import lru_cache
from typing import Any
from uuid import UUID

from almanaque.core.findings import Finding, Fix
from almanaque.core.garden.outline import Shape, convex_parts, distance_mm, reach_mm
from almanaque.core.place.shade import Obstacle, body, round_body
from almanaque.core.units import Units, format_length

PASS_MM, WHEELCHAIR_MM = 3 * 304.8, 4 * 304.8  # 3 ft and 4 ft: common practice, no source
ACCESS = "practice_of_access"
CROWN_MM = 1000.0  # a lasting plant as wide as this has a crown on the map: our own rule
TALL_MM = 900.0  # plants lower than this throw no shade worth reckoning on other beds: our own rule


@dataclass(frozen=True)
class FeatureKind:
    """A kind of thing on the map. `height_mm` is what is supposed when nobody measured; None throws no shade."""

    words: str
    height_mm: float | None = None
    round: bool = False
    walked_on: bool = False
    over_bed: bool = False


KINDS: dict[str, FeatureKind] = {
    "building": FeatureKind("building", 4000.0),
    "wall": FeatureKind("wall", 2000.0),
    "fence": FeatureKind("fence"),
    "shade roof": FeatureKind("shade roof", 2600.0),
    "tree": FeatureKind("tree", 6000.0, round=True),
    "bush": FeatureKind("bush", 1500.0, round=True),
    "path": FeatureKind("path", walked_on=True),
    "gate": FeatureKind("gate", walked_on=True),
    "tap": FeatureKind("tap"),
    "rain barrel": FeatureKind("rain barrel", 1000.0, round=True),
    "compost": FeatureKind("compost", 1000.0),
    "bench": FeatureKind("bench"),
    "tepee": FeatureKind("tepee", 2000.0, round=True),
    "trellis": FeatureKind("trellis", 1800.0),
    "tunnel": FeatureKind("tunnel", over_bed=True),
    "frame": FeatureKind("frame", over_bed=True),
    "cover": FeatureKind("cover", over_bed=True),
    "pole": FeatureKind("pole", 2500.0, round=True),
    "other": FeatureKind("other"),
}


@dataclass(frozen=True)
class Feature:
    """One thing on the map. A tree's box is its crown; `base_mm` is the crown's, or a roof's, lower edge.

    `months_bare` are those without leaves; `hose_mm` is the hose at a tap. A tree planted
    in a bed is a planting, and shades as any tall plant does.
    """

    kind: str
    name: str
    shape: Shape
    height_mm: float | None = None
    base_mm: float = 0.0
    months_bare: frozenset[int] = frozenset()
    hose_mm: float | None = None

    @property
    def round(self) -> bool:
        return KINDS[self.kind].round

    @property
    def middle_mm(self) -> tuple[float, float]:
        return self.shape.x_mm + self.shape.length_mm / 2, self.shape.y_mm + self.shape.width_mm / 2


@dataclass(frozen=True)
class SiteFrame:
    """The ground a map is drawn on; north lies `north_deg` clockwise from its upper edge."""

    name: str
    width_mm: float
    depth_mm: float
    north_deg: float = 0.0


@dataclass(frozen=True)
class Thing:
    """A bed or a feature as files carry it: its shape, and what else is known of it by name."""

    id: UUID
    what: str
    kind: str
    name: str
    shape: Shape
    known: Mapping[str, Any]


@dataclass(frozen=True)
class TallPlants:
    """Grown plants as bodies: their places on the site, how tall they are and how wide."""

    name: str
    places_mm: tuple[tuple[float, float], ...]
    height_mm: float
    width_mm: float
    months_bare: frozenset[int] = frozenset()


@lru_cache(maxsize=4096)
def bodies(feature: Feature) -> tuple[Obstacle, ...]:
    """What of a feature throws shade; nothing for what lies flat, lets light through, or has no height known or usual."""
    top = feature.height_mm or KINDS[feature.kind].height_mm
    if top is None or KINDS[feature.kind].over_bed:
        return ()
    open_below = feature.kind == "shade roof" and not feature.base_mm
    base = 0.9 * top if open_below else min(feature.base_mm, 0.99 * top)
    if feature.round:
        x, y = feature.middle_mm
        radius = (feature.shape.length_mm + feature.shape.width_mm) / 4
        return (round_body(x, y, radius, top_mm=top, base_mm=base, months_bare=feature.months_bare, name=feature.name),)
    return tuple(
        body(part, top_mm=top, base_mm=base, months_bare=feature.months_bare, name=feature.name)
        for part in convex_parts(feature.shape.on_site_mm)
    )


def plant_bodies(plants: Sequence[TallPlants]) -> list[Obstacle]:
    """Plants that are tall enough to shade others."""
    return [
        round_body(
            x, y, plants_.width_mm / 2, top_mm=plants_.height_mm, months_bare=plants_.months_bare, name=plants_.name
        )
        for plants_ in plants
        if plants_.height_mm >= TALL_MM
        for x, y in plants_.places_mm
    ]


def clearances(beds: Sequence[Shape], features: Sequence[Feature], *, units: Units) -> list[Finding]:
    """Where it is too narrow to pass, or with a wheelchair, and which beds the hose does not reach.

    Widths are those of paths and of the gaps between beds, the hose goes as the crow flies to a bed's farthest corner.
    **Source:** 3 ft and 4 ft are common practice, no source.
    """
    widths = [(thing.name, thing.shape.narrow_mm) for thing in features if thing.kind == "path"]
    for number, bed in enumerate(beds):
        for other in beds[number + 1 :]:
            gap = distance_mm(bed, other)
            if 0 < gap < WHEELCHAIR_MM:
                widths.append((f"between {bed.label} and {other.label}", gap))
    return [*_narrow(widths, units), *_out_of_reach(beds, features, units)]


def _narrow(widths: Sequence[tuple[str, float]], units: Units) -> list[Finding]:
    """Care for what is under 3 ft, a note for what is under 4 ft: one of each, that names every place."""
    need, wheelchair = format_length(PASS_MM, units), format_length(WHEELCHAIR_MM, units)
    tight = [pair for pair in widths if pair[1] < PASS_MM - 1]
    short = [pair for pair in widths if PASS_MM - 1 <= pair[1] < WHEELCHAIR_MM - 1]
    found = []
    if tight:
        found.append(
            Finding(
                "path_narrow",
                "care",
                tight[0][0],
                {"paths": _places(tight, units), "need": need, "wheelchair": wheelchair},
                ACCESS,
                (Fix("widen_the_path"),),
            )
        )
    if short:
        found.append(
            Finding(
                "path_no_wheelchair",
                "note",
                short[0][0],
                {"paths": _places(short, units), "wheelchair": wheelchair},
                ACCESS,
                (Fix("keep_one_way_wide"),),
            )
        )
    return found


def _places(widths: Sequence[tuple[str, float]], units: Units) -> str:
    by_width: dict[str, list[str]] = {}
    for name, mm in sorted(widths, key=lambda pair: pair[1]):
        by_width.setdefault(format_length(mm, units), []).append(name)
    return "; ".join(f"{', '.join(names)} ({width})" for width, names in by_width.items())


def _out_of_reach(beds: Sequence[Shape], features: Sequence[Feature], units: Units) -> list[Finding]:
    taps = [thing for thing in features if thing.kind in ("tap", "rain barrel") and thing.hose_mm]
    found = []
    for bed in beds:
        if not taps:
            break
        short = {tap.name: reach_mm(tap.middle_mm, bed) - (tap.hose_mm or 0.0) for tap in taps}
        name, lacking = min(short.items(), key=lambda pair: pair[1])
        if lacking > 1:
            found.append(
                Finding(
                    "tap_far",
                    "care",
                    bed.label,
                    {"tap": name, "bed": bed.label, "lacking": format_length(_rough(lacking, units), units)},
                    ACCESS,
                    (Fix("longer_hose"),),
                )
            )
    return found


def hose_words(bed: Shape, features: Sequence[Feature], units: Units) -> str:
    """How far it is from the nearest water to a bed's far end; empty without a tap."""
    taps = [thing for thing in features if thing.kind in ("tap", "rain barrel")]
    if not taps:
        return ""
    nearest = min(taps, key=lambda tap: reach_mm(tap.middle_mm, bed))
    return f"{format_length(_rough(reach_mm(nearest.middle_mm, bed), units), units)} from {nearest.name}"


def _rough(mm: float, units: Units) -> float:
    """To the next foot or 10 cm, since nobody lays a hose to the inch."""
    step = 304.8 if units == "us" else 100.0
    return math.ceil(mm / step - 1e-6) * step


def month_days(year: int) -> list[date]:
    """The day each month is judged by: its 21st, when the sun stands at its turning points."""
    return [date(year, month, 21) for month in range(1, 13)]
