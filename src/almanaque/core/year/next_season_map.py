"""Next season's map from rotation and wishes: families stay together and move on to where they have rested longest."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date

from almanaque.core.garden import rotation
from almanaque.core.garden.bed import Cell
from almanaque.core.garden.rotation import Stood

NEVER = 99  # years rested of a family that never stood there


@dataclass(frozen=True)
class MapWish:
    """What is wanted: a crop of a family in so many squares; `votes` put the wishes of classes in order."""

    crop: str
    family: str
    squares: int
    start: date
    why: str
    votes: int = 0
    sun_least_h: float = 0.0
    depth_least_mm: float = 0.0
    cell_mm: float = 304.8
    origin: str = ""


@dataclass(frozen=True)
class RestedBed:
    """A bed with its free squares in reading order, what stood there, and what it offers."""

    bed: str
    name: str
    cells: tuple[Cell, ...]
    history: Sequence[Stood]
    cell_mm: float = 304.8
    depth_mm: float = 1000.0
    sun_h: float = 24.0


@dataclass(frozen=True)
class Placed:
    """A wish with its place, and how many years its family has rested there; None where it never stood."""

    wish: MapWish
    bed: str
    name: str
    cells: tuple[Cell, ...]
    rested: int | None


@dataclass(frozen=True)
class Left:
    """A wish without a place, and the first rule that leaves it none."""

    wish: MapWish
    reason: str


def propose(
    wishes: Iterable[MapWish], ground: Sequence[RestedBed], *, rest_years: int
) -> tuple[list[Placed], list[Left]]:
    """Places for wishes, the largest families first and within a family the most squares and votes first.

    A bed is taken where the family has rested at least `rest_years`, the longest rested first, then one that holds kin already, then the
    one that fits most tightly. Plants stay within one bed. **Source:** our own rule over common practice.
    """
    free = {g.bed: list(g.cells) for g in ground}
    kin: dict[str, set[str]] = {}
    placed: list[Placed] = []
    left: list[Left] = []
    sizes: dict[str, int] = {}
    every = list(wishes)
    for wish in every:
        sizes[wish.family] = sizes.get(wish.family, 0) + wish.squares
    for wish in sorted(every, key=lambda w: (-sizes[w.family], w.family, -w.votes, -w.squares, w.crop)):
        reason = "no bed is deep enough for its roots"
        best: tuple[tuple[int, int, int], RestedBed, int | None, int] | None = None
        for g in ground:
            if g.depth_mm < wish.depth_least_mm:
                continue
            if g.sun_h < wish.sun_least_h:
                reason = _later(reason, "no bed with room has sun enough")
                continue
            squares = max(1, round(wish.squares * wish.cell_mm**2 / g.cell_mm**2))
            if len(free[g.bed]) < squares:
                reason = _later(reason, "no bed has that much room")
                continue
            stood = rotation.years_rested(wish.family, None, wish.start, g.history)
            rested = stood[0] if stood else None
            if rested is not None and rested < rest_years:
                reason = _later(reason, f"its family has not rested {rest_years} years in any bed with room")
                continue
            with_kin = 0 if wish.family in kin.get(g.bed, set()) else 1
            rank = (with_kin, -(NEVER if rested is None else rested), len(free[g.bed]) - squares)
            if best is None or rank < best[0]:
                best = (rank, g, rested, squares)
        if best is None:
            left.append(Left(wish, reason))
            continue
        _, g, rested, squares = best
        cells = tuple(free[g.bed][:squares])
        free[g.bed] = free[g.bed][squares:]
        kin.setdefault(g.bed, set()).add(wish.family)
        placed.append(Placed(wish, g.bed, g.name, cells, rested))
    return placed, left


_ORDER = ("no bed is deep enough for its roots", "no bed with room has sun enough", "no bed has that much room")


def _later(known: str, new: str) -> str:
    """The reason of the rule that a wish came furthest by."""
    rank = {reason: number for number, reason in enumerate(_ORDER)}
    return new if rank.get(new, len(_ORDER)) >= rank.get(known, len(_ORDER)) else known
