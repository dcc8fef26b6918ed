"""Space and the eye: places [mm] of a plant's parts (right, back, up), seen from the side a little above, or from straight above."""

import math
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Literal, NamedTuple

from almanaque.core.portrait.pen import Element, Point

View = Literal["side", "top"]
TILT_DEG = 17.0  # by which the eye looks down on a plant that is seen from the side: our own choice
GOLDEN_DEG = 137.5  # between leaves that follow each other around a stem


class Place(NamedTuple):
    x: float
    y: float
    z: float


def towards(start: Place, azimuth: float, elevation: float, length: float) -> Place:
    """The place that lies so far away, by degrees around (0 right, 90 back) and up."""
    flat = math.cos(math.radians(elevation)) * length
    return Place(
        start.x + flat * math.cos(math.radians(azimuth)),
        start.y + flat * math.sin(math.radians(azimuth)),
        start.z + math.sin(math.radians(elevation)) * length,
    )


def arc(start: Place, azimuth: float, elevation: float, length: float, droop: float, steps: int = 4) -> list[Place]:
    """A line of a length that begins at an elevation and bends down by `droop` degrees to its end."""
    found = [start]
    for step in range(steps):
        here = elevation - droop * (step + 0.5) / steps
        x, y, z = towards(found[-1], azimuth, here, length / steps)
        found.append(Place(x, y, max(z, 0.0)))  # what hangs lies on the ground
    return found


@dataclass
class Scene:
    """The parts of a plant as they are seen, each with how near it is; `wide` and `high` stretch space before it is looked at."""

    view: View
    detail: int
    wide: float = 1.0
    high: float = 1.0
    parts: list[tuple[float, list[Element]]] = field(default_factory=list)

    def see(self, place: Place) -> tuple[Point, float]:
        """Where a place is on paper, and how near the eye."""
        x, y, z = place.x * self.wide, place.y * self.wide, place.z * self.high
        if self.view == "top":
            return complex(x, y), z
        tilt = math.radians(TILT_DEG)
        return complex(x, z * math.cos(tilt) + y * math.sin(tilt)), z * math.sin(tilt) - y * math.cos(tilt)

    def add(self, near: float, *elements: Element) -> None:
        self.parts.append((near, list(elements)))

    def in_order(self) -> Iterator[Element]:
        """Everything, the farthest first; what is as near keeps its order."""
        for _, elements in sorted(self.parts, key=lambda part: part[0]):
            yield from elements
