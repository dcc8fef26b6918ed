"""Random gardens for the planner, as numbers only: families, beds with other rooms, candidates in spring and autumn, classes, breaks."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import partial

import numpy as np

from almanaque.core.planner.capacity import Stay, rows_over_time
from almanaque.core.planner.model import Model, Option, SharedTerm

FAMILIES, CLASSES, WEEKS = 9, 6, 40
BREAKS = ((14, 15), (27, 36))  # weeks of a spring and a summer break


@dataclass(frozen=True)
class Drawn:
    wish: int
    bed: int
    starts: int
    ends: int
    squares: int
    points: int
    family: int
    group: int


def model_of(seed: int, *, beds: int, wishes: int, must_share: float = 0.15, days: int = 5) -> Model:
    """A garden of so many beds and wishes; `days` is the most weeks in which a wish may begin in a bed."""
    random = np.random.default_rng(seed)
    sizes = random.choice([8, 16, 16, 24, 32], size=beds)
    rested = random.integers(0, 5, size=(FAMILIES, beds))
    own_class = random.integers(0, CLASSES, size=beds)
    musts, drawn = [], []
    for wish in range(wishes):
        family, group = int(random.integers(FAMILIES)), int(random.integers(CLASSES))
        squares, long = int(random.integers(1, 9)), int(random.integers(6, 18))
        weight = int(random.choice([100, 300, 300, 1000]))
        musts.append(bool(random.random() < must_share))
        weeks = np.arange(1, 10) if random.random() < 0.6 else np.arange(18, 27)
        best = int(random.choice(weeks))
        mine = sorted(random.choice(weeks, size=min(days, len(weeks)), replace=False).tolist())
        suited = random.random(beds) < 0.7
        for bed in np.flatnonzero(suited).tolist():
            for week in mine:
                chance = max(0.05, 0.98 - 0.06 * abs(week - best))
                points = (
                    int(weight * chance) - 30 * max(0, 3 - int(rested[family, bed])) + 40 * int(own_class[bed] == group)
                )
                drawn.append(Drawn(wish, bed, int(week), int(week) + long, squares, points, family, group))
    return written(drawn, musts, [int(size) for size in sizes])


def written(drawn: list[Drawn], musts: list[bool], sizes: list[int]) -> Model:
    """The model of drawn candidates, with the rows and terms that a real garden has."""
    takes: list[list[tuple[int, int]]] = [[] for _ in drawn]
    rows: list[int] = []
    in_bed = _by_key(drawn, lambda one: [one.bed])
    for bed, size in enumerate(sizes):
        here = in_bed.get(bed, [])
        stays = [Stay(drawn[n].starts, drawn[n].ends, drawn[n].squares) for n in here]
        for row in rows_over_time(stays, (), size):
            for member in row.members:
                takes[here[member]].append((len(rows), drawn[here[member]].squares))
            rows.append(row.room)
    for members in _by_key(drawn, lambda one: [(one.group, week) for week in {one.starts, one.ends - 2}]).values():
        for n in members:
            takes[n].append((len(rows), 10 + drawn[n].squares * 2))
        rows.append(60)
    terms: list[SharedTerm] = []
    counts: list[list[int]] = [[] for _ in drawn]

    def term(points: int, members: list[int], limit: int | None = None) -> None:
        for n in members:
            counts[n].append(len(terms))
        terms.append(SharedTerm(points, limit))

    for members in _by_key(drawn, lambda one: [(one.group, "sows")] if one.starts < 15 else []).values():
        term(200, members)
    for members in _by_key(drawn, lambda one: [(one.group, "picks")] if one.ends < 27 else []).values():
        term(200, members)
    for members in _by_key(drawn, lambda one: [(one.bed, one.family)]).values():
        term(-20, members)
    for number in range(len(BREAKS)):
        for members in _by_key(drawn, partial(_picked_in, number)).values():
            term(-30, members, number)
    options = tuple(Option(one.wish, one.points, tuple(takes[n]), tuple(counts[n])) for n, one in enumerate(drawn))
    return Model(tuple(musts), options, tuple(rows), tuple(terms), (max(1, len(sizes) // 3),) * len(BREAKS))


def _picked_in(number: int, one: Drawn) -> list[int]:
    first, last = BREAKS[number]
    return [one.bed] if first <= one.ends - 2 <= last else []


def _by_key(drawn: list[Drawn], keys: Callable[[Drawn], Iterable[object]]) -> dict[object, list[int]]:
    found: dict[object, list[int]] = {}
    for n, one in enumerate(drawn):
        for key in keys(one):
            found.setdefault(key, []).append(n)
    return found
