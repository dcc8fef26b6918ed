"""A planting day with a class: squares in laying order, what each group carries, who waits for what, and whether it fits the lesson.

Times are our own rules, for children of seven or so with one adult; a school that measures its own knows better.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from almanaque.core.crops.crop import Method
from almanaque.core.findings import Finding, Fix
from almanaque.core.garden.bed import Cell

SOURCE = "own_rule"
GROUP_OF, MOST_IN_A_GROUP = 4, 5  # children, usually and at the most: common practice, no source
HANDS_AT_A_SQUARE = 2  # children who reach one square at the same time: our own rule
EDGE_MM = 450.0  # of a bed's edge for a child: our own rule
PER_HOLE_S: dict[Method, float] = {
    "direct": 12.0,
    "cloves": 15.0,
    "starts": 75.0,
    "indoors": 75.0,
}  # seconds: our own rule
CLOSE_S = 0.01  # seconds; no two loads differ by less
PER_SQUARE_S = 25.0  # to find it, lay it out and move on: our own rule
# What those who cannot reach the bed do meanwhile. Common practice, no source.
MEANWHILE = ("write the labels", "fetch water", "measure and mark the next row", "draw the bed into the notebook")


@dataclass(frozen=True)
class ToPlant:
    """A crop that goes in that day, with the holes in each of its squares."""

    key: str
    name: str
    method: Method
    holes: Mapping[Cell, int]
    depth_mm: float


@dataclass(frozen=True)
class Square:
    """A square to be planted with one crop."""

    key: str
    name: str
    cell: Cell
    holes: int
    seconds: float


@dataclass(frozen=True)
class GroupShare:
    """What one group carries, in laying order."""

    number: int
    squares: tuple[Square, ...]

    @property
    def seconds(self) -> float:
        return sum(square.seconds for square in self.squares)

    @property
    def holes(self) -> int:
        return sum(square.holes for square in self.squares)


@dataclass(frozen=True)
class Crew:
    """Children in groups; how many groups reach the bed at once, and in how many turns all of them get there."""

    children: int
    groups: int
    at_once: int

    @property
    def turns(self) -> int:
        return math.ceil(self.groups / self.at_once)

    @property
    def group_of(self) -> int:
        """Children in a group at the bed: as many as there are for each, five at the most."""
        return max(1, min(MOST_IN_A_GROUP, round(self.children / self.groups)))

    @property
    def elsewhere(self) -> int:
        """Children for whom there is no square, who do something else meanwhile and change with the others."""
        return max(0, self.children - self.groups * MOST_IN_A_GROUP)

    @property
    def waiting(self) -> int:
        """Groups that wait while the first ones plant."""
        return self.groups - self.at_once


@dataclass(frozen=True)
class PlantingPart:
    """A part of the day with its minutes. What can be done `beforehand` need not take the lesson's time."""

    key: str
    minutes: int
    beforehand: bool = False


def laying_order(crops: Iterable[ToPlant]) -> list[Square]:
    """Squares crop by crop and row by row, to and fro so that nobody walks back: what has a pot to be seen by goes first.

    **Source:** common practice, no source.
    """
    found = []
    for crop in sorted(crops, key=lambda c: (c.method in ("direct", "cloves"), c.name, c.key)):
        rows = sorted({row for _, row in crop.holes})
        for number, row in enumerate(rows):
            cells = sorted((cell for cell in crop.holes if cell[1] == row), reverse=number % 2 == 1)
            found += [
                Square(crop.key, crop.name, cell, crop.holes[cell], _seconds(crop.method, crop.holes[cell]))
                for cell in cells
            ]
    return found


def _seconds(method: Method, holes: int) -> float:
    return PER_SQUARE_S + PER_HOLE_S[method] * holes / HANDS_AT_A_SQUARE


def crew(children: int, squares: int, *, edge_mm: float) -> Crew:
    """Groups of about four, no more than there are squares, and how many of them reach a bed with so much edge at once.

    Raises ValueError without a child or a square. **Source:** our own rule.

    >>> crew(24, 16, edge_mm=7315)
    Crew(children=24, groups=6, at_once=6)
    """
    if children < 1 or squares < 1:
        raise ValueError("a planting day has a child and a square")
    groups = min(squares, max(1, round(children / GROUP_OF)))
    places = max(1, int(edge_mm / EDGE_MM))
    return Crew(children, groups, max(1, min(groups, places // HANDS_AT_A_SQUARE)))


def shares(squares: Sequence[Square], groups: int) -> list[GroupShare]:
    """The squares in laying order, cut into runs for so many groups: the slowest is done as early as it can be, and then the
    loads are as even as they can be.

    Each group has at least one square. Raises ValueError for more groups than squares.

    >>> fair = [Square("p", "Potato", (n, 0), 1, 40.0) for n in range(16)]
    >>> [len(share.squares) for share in shares(fair, 5)]
    [4, 3, 3, 3, 3]
    """
    if not 1 <= groups <= len(squares):
        raise ValueError("every group has at least one square")
    low, high = max(s.seconds for s in squares), sum(s.seconds for s in squares)
    while high - low > CLOSE_S:  # the least load with which the groups suffice
        middle = (low + high) / 2
        if len(_cut(squares, middle, 0)) <= groups:
            high = middle
        else:
            low = middle
    most = max(sum(s.seconds for s in run) for run in _cut(squares, high, groups))
    return [GroupShare(number, tuple(run)) for number, run in enumerate(_even(squares, most, groups), start=1)]


def _even(squares: Sequence[Square], most: float, groups: int) -> list[Sequence[Square]]:
    """So many runs, none above a load, with the least sum of squared loads: the most even cut. There is one within that load."""
    ends = [0.0]
    for square in squares:
        ends.append(ends[-1] + square.seconds)
    count = len(squares)
    # After each number of groups: the least sum with which so many squares are given out, and where the last run begins.
    best: list[list[tuple[float, int]]] = [[(0.0, 0)] + [(math.inf, 0)] * count]
    for _ in range(groups):
        before, row = best[-1], [(math.inf, 0)] * (count + 1)
        for end in range(1, count + 1):
            for start in range(end - 1, -1, -1):
                load = ends[end] - ends[start]
                if load > most + CLOSE_S:
                    break
                found = before[start][0] + load * load
                if found < row[end][0]:
                    row[end] = (found, start)
        best.append(row)
    runs, end = [], count
    for row in reversed(best[1:]):
        start = row[end][1]
        runs.append(squares[start:end])
        end = start
    return runs[::-1]


def _cut(squares: Sequence[Square], most: float, groups: int) -> list[list[Square]]:
    """Runs that stay within a load; later runs are kept from going empty when there are as many groups as asked for."""
    runs: list[list[Square]] = [[]]
    for number, square in enumerate(squares):
        left, wanted = len(squares) - number, groups - len(runs)
        full = runs[-1] and (sum(s.seconds for s in runs[-1]) + square.seconds > most + 1e-9 or left <= wanted)
        if full:
            runs.append([])
        runs[-1].append(square)
    return runs


def share_out(squares: Sequence[Square], children: int, *, edge_mm: float) -> tuple[Crew, list[GroupShare]]:
    """The groups with which all is planted soonest, and what each carries; of equals the more groups, which are smaller.

    A group more is of no use when it only waits for its turn. Raises ValueError without a child or a square.
    """
    most = crew(children, len(squares), edge_mm=edge_mm)
    best: tuple[float, Crew, list[GroupShare]] | None = None
    for groups in range(most.groups, 0, -1):
        who = Crew(children, groups, min(groups, most.at_once))
        found = shares(squares, groups)
        seconds = planting_seconds(found, who)
        if best is None or seconds < best[0] - CLOSE_S:
            best = seconds, who, found
    assert best is not None
    return best[1], best[2]


def planting_seconds(found: Sequence[GroupShare], who: Crew) -> float:
    """How long planting takes when so many groups plant at once, turn by turn."""
    turns = [found[n : n + who.at_once] for n in range(0, len(found), who.at_once)]
    return sum(max(share.seconds for share in turn) for turn in turns)


def parts(
    found: Sequence[GroupShare], who: Crew, *, squares: int, strings: int, labels: int, water_minutes: int
) -> list[PlantingPart]:
    """The parts of the day in order, with their minutes. **Source:** our own rules.

    `water_minutes` are those of one gentle watering.
    """
    return [
        PlantingPart("gather", 5),
        PlantingPart("prepare", 4 + math.ceil(squares / 2), beforehand=True),
        PlantingPart("soak", max(2, water_minutes), beforehand=True),
        *([PlantingPart("string", 2 + math.ceil(0.75 * strings), beforehand=True)] if strings else []),
        PlantingPart("lay out", 6),
        PlantingPart("plant", max(3, math.ceil(planting_seconds(found, who) / 60))),
        PlantingPart("measure", 3),
        PlantingPart("label", max(2, math.ceil(labels / 2))),
        PlantingPart("water", max(2, water_minutes)),
        PlantingPart("clean up", 6),
    ]


def against_the_lesson(found: Sequence[PlantingPart], minutes: int) -> Finding | None:
    """Whether the day fits its lesson, with what would make it fit; None when it does as it stands."""
    whole = sum(part.minutes for part in found)
    if whole <= minutes:
        return None
    before = sum(part.minutes for part in found if part.beforehand)
    rest = whole - before
    if rest <= minutes:
        return Finding(
            "day_too_full",
            "care",
            "the lesson",
            {"whole": whole, "minutes": minutes, "before": before, "rest": rest},
            SOURCE,
            (Fix("prepare_before"),),
        )
    return Finding(
        "day_too_full",
        "fault",
        "the lesson",
        {"rest": rest, "minutes": minutes},
        SOURCE,
        (
            Fix("split_over_lessons", params={"lessons": math.ceil(rest / minutes)}),
            Fix("half_the_class"),
            Fix("fewer_squares"),
        ),
        case="over",
    )


def apart(measured_mm: Sequence[float], wanted_mm: float) -> Finding | None:
    """Five distances against the one that was meant; None when they are right within a fifth, or fewer than three were measured.

    **Source:** our own rule.
    """
    if len(measured_mm) < 3:
        return None
    mean = sum(measured_mm) / len(measured_mm)
    if abs(mean - wanted_mm) <= wanted_mm / 5:
        return None
    near = mean < wanted_mm
    return Finding(
        "distances_off",
        "care",
        "the distances",
        {"off": abs(1 - mean / wanted_mm)},
        SOURCE,
        (Fix("thin_to_distance") if near else Fix("fill_the_gaps"),),
        case="close" if near else "wide",
    )
