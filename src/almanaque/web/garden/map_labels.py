"""Where the names on a map stand: near their thing, on the map, and clear of one another.

Each takes the best of a few places around its thing, in the order in which they are named; sizes are those of a phone's letters,
the largest that are drawn.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

Anchor = Literal["is-start", "is-middle", "is-end"]
LETTER = 0.56  # of the size of the letters: about the mean width of one
GAP = 5.0  # between a thing and its name
NEAR_A_BODY = 0.3  # as bad as this part of running over a name is running over another thing
OFF_THE_MAP = 4.0
LATER = 3.0  # [square px] by which an earlier place is preferred to the next
Box = tuple[float, float, float, float]  # left, top, right, bottom [px]


@dataclass(frozen=True)
class NamedThing:
    """A thing with its box [px], the width and height of its name, and whether that stands inside it if there is room."""

    body: Box
    width: float
    height: float
    inside: bool


@dataclass(frozen=True)
class LabelPlace:
    """Where a name's line begins, ends or has its middle, at the foot of its letters [px]."""

    x: float
    y: float
    anchor: Anchor


def place(things: Sequence[NamedThing], width: float, height: float) -> list[LabelPlace]:
    """Places for the names of things on a map of this size, in the order of the things."""
    taken: list[Box] = []
    places = []
    for number, thing in enumerate(things):
        bodies = [other.body for n, other in enumerate(things) if n != number and not other.inside]
        choices = _choices(thing)
        costs = [
            _cost(_box(choice, thing), taken, bodies, width, height) + LATER * n for n, choice in enumerate(choices)
        ]
        best = choices[costs.index(min(costs))]
        taken.append(_box(best, thing))
        places.append(best)
    return places


def _choices(thing: NamedThing) -> list[LabelPlace]:
    left, top, right, bottom = thing.body
    middle, half = (left + right) / 2, (top + bottom) / 2 + thing.height / 4
    above, below = top - GAP, bottom + thing.height * 0.8
    around = [
        LabelPlace(left, above, "is-start"),
        LabelPlace(right, above, "is-end"),
        LabelPlace(left, below, "is-start"),
        LabelPlace(right, below, "is-end"),
        LabelPlace(right + GAP, half, "is-start"),
        LabelPlace(left - GAP, half, "is-end"),
    ]
    if not thing.inside:
        return around
    inner = [
        LabelPlace(middle, half, "is-middle"),
        LabelPlace(left + GAP, bottom - GAP, "is-start"),
        LabelPlace(right - GAP, bottom - GAP, "is-end"),
        LabelPlace(left + GAP, top + thing.height, "is-start"),
        LabelPlace(right - GAP, top + thing.height, "is-end"),
    ]
    return inner + around


def _box(place: LabelPlace, thing: NamedThing) -> Box:
    left = place.x - {"is-start": 0.0, "is-middle": thing.width / 2, "is-end": thing.width}[place.anchor]
    return left, place.y - thing.height * 0.8, left + thing.width, place.y + thing.height * 0.2


def _cost(box: Box, taken: Sequence[Box], bodies: Sequence[Box], width: float, height: float) -> float:
    own = (box[2] - box[0]) * (box[3] - box[1])
    return (
        sum(_shared(box, other) for other in taken)
        + NEAR_A_BODY * sum(_shared(box, body) for body in bodies)
        + OFF_THE_MAP * (own - _shared(box, (0.0, 0.0, width, height)))
    )


def _shared(a: Box, b: Box) -> float:
    """The area of the overlap of two boxes."""
    return max(0.0, min(a[2], b[2]) - max(a[0], b[0])) * max(0.0, min(a[3], b[3]) - max(a[1], b[1]))
