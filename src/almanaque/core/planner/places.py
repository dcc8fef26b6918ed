"""Where in its bed each planting of a plan stands: together, tall ones to the shade side, bad neighbours apart, kin where it has rested.

First each planting gets the best rectangles that are free, the tallest first, and a few orders are tried; where that leaves one without a
place, a solver looks at all of the bed at once.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import permutations

from almanaque.core.garden.bed import Cell
from almanaque.core.garden.squares_for_a_plan import connected

TALL_SHARE = 1.3  # how often a neighbour's height one must be to shade it, as on the bed sheet
SPLIT, LONG = 60, 1  # points against what lies in two parts, and against each square of its outline: our own rule
SHADES, NEIGHBOUR, TIRED = (
    12,
    10,
    8,
)  # against shading, a bad neighbour, a square in which kin has not rested: our own rule
FROM_EDGE = 2  # against each square that lies behind a tall one: our own rule
MOST_ORDERS = 24  # in which plantings are tried: our own choice
LITTLE = 4  # plantings in a bed whose orders are all tried: our own choice
MOST_SHAPES = 60  # places of a planting that the solver may choose from: our own choice


@dataclass(frozen=True)
class ToPlace:
    """A planting to be placed from its first to its last day (ordinals): so many squares, in whole blocks of `block` × `block`.

    `pinned` are squares that it has already. `tired` are squares in which its family has not rested, `kin` keys of its family's
    plantings before and after it, `shuns` keys of those that
    should not stand beside it.
    """

    key: str
    first: int
    last: int
    squares: int
    height_mm: float
    block: int = 1
    pinned: frozenset[Cell] = frozenset()
    tired: frozenset[Cell] = frozenset()
    kin: frozenset[str] = frozenset()
    shuns: frozenset[str] = frozenset()

    def meets(self, first: int, last: int) -> bool:
        return self.first <= last and first <= self.last


@dataclass(frozen=True)
class HeldSquares:
    """Squares that something else holds from a first to a last day (ordinals)."""

    cells: frozenset[Cell]
    first: int
    last: int


def places(
    cells: Iterable[Cell],
    plantings: Sequence[ToPlace],
    held: Sequence[HeldSquares] = (),
    *,
    shade: tuple[float, float] = (0.0, -1.0),
    solver: bool = True,
) -> dict[str, frozenset[Cell]]:
    """Squares for each planting by its key; one that finds none is missing.

    `shade` is the direction, along columns and rows, to which shadows fall at noon: what is tall stands there.
    Without a `solver` what finds no place one after another has none.
    """
    bed = _Bed(frozenset(cells), tuple(held), shade)
    pinned = {one.key: one.pinned for one in plantings if one.pinned}
    free = [one for one in plantings if not one.pinned]
    best: tuple[tuple[int, int], dict[str, frozenset[Cell]]] | None = None
    for order in _orders(free):
        found = bed.filled(plantings, order, pinned)
        rank = (len(found) - len(plantings), -bed.against(plantings, found))
        if best is None or rank > best[0]:
            best = rank, found
        if len(found) == len(plantings) and len(free) > LITTLE:
            break
    assert best is not None
    if solver and len(best[1]) < len(plantings):
        solved = bed.solved(plantings, pinned)
        if len(solved) > len(best[1]):
            return solved
    return best[1]


def _orders(plantings: Sequence[ToPlace]) -> Iterable[Sequence[ToPlace]]:
    """Orders to try: by size and height first, then others; all of them where there are few."""
    by_need = sorted(plantings, key=lambda one: (-one.block, -one.squares, -one.height_mm, one.first, one.key))
    yield by_need
    if len(plantings) <= LITTLE:
        for number, order in enumerate(permutations(by_need)):
            if 0 < number < MOST_ORDERS:
                yield order
        return
    yield sorted(plantings, key=lambda one: (-one.height_mm, -one.squares, one.first, one.key))
    yield sorted(plantings, key=lambda one: (one.first, one.last, one.key))
    yield sorted(plantings, key=lambda one: (one.first - one.last, one.key))


@dataclass(frozen=True)
class _Bed:
    cells: frozenset[Cell]
    held: tuple[HeldSquares, ...]
    shade: tuple[float, float]

    def free_for(
        self, one: ToPlace, others: Mapping[str, frozenset[Cell]], known: Mapping[str, ToPlace]
    ) -> frozenset[Cell]:
        gone = [there.cells for there in self.held if one.meets(there.first, there.last)]
        gone += [
            cells for key, cells in others.items() if key != one.key and one.meets(known[key].first, known[key].last)
        ]
        return self.cells.difference(*gone)

    def filled(
        self, plantings: Sequence[ToPlace], order: Sequence[ToPlace], pinned: Mapping[str, frozenset[Cell]]
    ) -> dict[str, frozenset[Cell]]:
        """Every planting in its best free place, one after another."""
        known = {one.key: one for one in plantings}
        found = dict(pinned)
        for one in order:
            shapes = self.shapes(one, self.free_for(one, found, known))
            if shapes:
                found[one.key] = min(shapes, key=lambda cells: (self._cost(one, cells, found, known), sorted(cells)))
        return found

    def shapes(self, one: ToPlace, free: frozenset[Cell]) -> list[frozenset[Cell]]:
        """Places that it could have: rectangles, rectangles with squares along an edge, then what lies together in any shape."""
        found = [*_rectangles(one, free)]
        if not found and one.block == 1:
            found = [*_grown(one, free)]
        if not found:
            found = [*_scattered(one, free)]
        return found

    def against(self, plantings: Sequence[ToPlace], found: Mapping[str, frozenset[Cell]]) -> int:
        """Points against a way of placing all of them."""
        known = {one.key: one for one in plantings}
        return sum(
            self._cost(known[key], cells, {k: c for k, c in found.items() if k < key}, known)
            for key, cells in sorted(found.items())
        )

    def _cost(
        self, one: ToPlace, cells: frozenset[Cell], others: Mapping[str, frozenset[Cell]], known: Mapping[str, ToPlace]
    ) -> int:
        cost = LONG * _outline(cells) + SPLIT * (len(connected(cells)) - 1) + TIRED * len(cells & one.tired)
        if not others:  # the first one goes to a corner, so that the rest stays whole
            cost += min(sum(abs(c - c0) + abs(r - r0) for c, r in cells) for c0, r0 in self._corners) // max(
                1, len(cells)
            )
        if any(one.meets(o.first, o.last) and one.height_mm > TALL_SHARE * o.height_mm for o in known.values()):
            cost += FROM_EDGE * self._from_shade_edge(cells)
        around = {(c + x, r + y) for c, r in cells for x, y in BESIDE}
        for key, theirs in others.items():
            other = known[key]
            if not one.meets(other.first, other.last):
                cost += TIRED * len(cells & theirs) if key in one.kin else 0
                continue
            if key in one.shuns or one.key in other.shuns:
                cost += NEIGHBOUR * len(around & theirs)
            tall, low = (one, other) if one.height_mm >= other.height_mm else (other, one)
            if tall.height_mm > TALL_SHARE * low.height_mm:
                tall_cells, low_cells = (cells, theirs) if tall is one else (theirs, cells)
                cost += SHADES * self._shaded(tall_cells, low_cells)
        return cost

    def _from_shade_edge(self, cells: frozenset[Cell]) -> int:
        """Squares of the bed that lie behind these where their shadows fall, all told."""
        x, y = round(self.shade[0]), round(self.shade[1])
        behind = 0
        for column, row in cells:
            at = (column + x, row + y)
            while (x or y) and at in self.cells:
                behind += 1
                at = (at[0] + x, at[1] + y)
        return behind

    def _shaded(self, tall: frozenset[Cell], low: frozenset[Cell]) -> int:
        """How many tall squares stand next to low ones, on the sunny side twice, aslant of it and beside once; behind them not at all."""
        x, y = -round(self.shade[0]), -round(self.shade[1])
        steps = ((x, y), (x, y), (x - y, y + x), (x + y, y - x), (-y, x), (y, -x))
        return sum((c + dx, r + dy) in tall for c, r in low for dx, dy in steps)

    @property
    def _corners(self) -> list[Cell]:
        columns, rows = [c for c, _ in self.cells], [r for _, r in self.cells]
        return [(c, r) for c in (min(columns), max(columns)) for r in (min(rows), max(rows))]

    def solved(self, plantings: Sequence[ToPlace], pinned: Mapping[str, frozenset[Cell]]) -> dict[str, frozenset[Cell]]:
        """As many plantings as can be placed at once, by CP-SAT over their possible places."""
        from ortools.sat.python import cp_model  # takes a while to read, and is seldom needed

        known = {one.key: one for one in plantings}
        program = cp_model.CpModel()
        chosen: list[tuple[ToPlace, frozenset[Cell], cp_model.IntVar]] = []
        for one in plantings:
            if one.key in pinned:
                continue
            shapes = self.shapes(one, self.free_for(one, pinned, known))
            ranked = sorted((self._cost(one, cells, {}, known), sorted(cells), cells) for cells in shapes)
            mine = [(one, cells, program.new_bool_var("")) for _, _, cells in ranked[:MOST_SHAPES]]
            program.add_at_most_one(variable for _, _, variable in mine)
            chosen += mine
        days = sorted({one.first for one, _, _ in chosen})
        for cell in self.cells:
            here = [(one, variable) for one, cells, variable in chosen if cell in cells]
            for day in days:
                now = [variable for one, variable in here if one.first <= day <= one.last]
                if len(now) > 1:
                    program.add_at_most_one(now)
        program.maximize(
            sum((1000 * one.squares - self._cost(one, cells, {}, known)) * variable for one, cells, variable in chosen)
        )
        solver = cp_model.CpSolver()
        solver.parameters.num_workers = 1
        solver.parameters.max_deterministic_time = 0.5
        status = solver.solve(program)
        found = dict(pinned)
        if status in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            found.update({one.key: cells for one, cells, variable in chosen if solver.boolean_value(variable)})
        return found


BESIDE = ((1, 0), (-1, 0), (0, 1), (0, -1))  # steps to the squares that share a side


def _outline(cells: frozenset[Cell]) -> int:
    """Sides of squares on the outside of a place, less those of a square block of that size at its least."""
    return sum((c + x, r + y) not in cells for c, r in cells for x, y in BESIDE)


def _rectangles(one: ToPlace, free: frozenset[Cell]) -> Iterable[frozenset[Cell]]:
    """All rectangles of just so many squares, in whole blocks."""
    block, squares = one.block, one.squares
    for wide in range(block, squares + 1, block):
        if squares % wide or (squares // wide) % block:
            continue
        high = squares // wide
        for column, row in free:
            if (column + wide - 1, row + high - 1) in free:
                cells = frozenset((column + x, row + y) for x in range(wide) for y in range(high))
                if cells <= free:
                    yield cells


def _grown(one: ToPlace, free: frozenset[Cell]) -> Iterable[frozenset[Cell]]:
    """Nearly rectangles: rows of one width, the last one shorter, from any square and both ways."""
    for wide in range(1, one.squares + 1):
        if one.squares % wide == 0:
            continue
        for column, row in free:
            for turned in (False, True):
                cells = frozenset(
                    (column + y, row + x) if turned else (column + x, row + y)
                    for n in range(one.squares)
                    for y, x in [divmod(n, wide)]
                )
                if cells <= free:
                    yield cells


def _scattered(one: ToPlace, free: frozenset[Cell]) -> Iterable[frozenset[Cell]]:
    """What lies together in any shape, or else in as few parts as can be; whole blocks for what wants them."""
    if one.block > 1:
        cells: set[Cell] = set()
        for corner in sorted(free, key=lambda cell: (cell[1], cell[0])):
            block = {(corner[0] + x, corner[1] + y) for x in range(one.block) for y in range(one.block)}
            if len(cells) < one.squares and block <= free - cells:
                cells |= block
        if len(cells) == one.squares:
            yield frozenset(cells)
        return
    gathered: list[Cell] = []
    for part in connected(free):
        order = _walk(part)
        gathered += order[: one.squares - len(gathered)]
        if len(gathered) == one.squares:
            yield frozenset(gathered)
            return


def _walk(part: set[Cell]) -> list[Cell]:
    """The squares of one part so that each touches an earlier one."""
    start = min(part, key=lambda cell: (cell[1], cell[0]))
    order, seen, edge = [], {start}, [start]
    while edge:
        cell = edge.pop(0)
        order.append(cell)
        for x, y in BESIDE:
            other = (cell[0] + x, cell[1] + y)
            if other in part and other not in seen:
                seen.add(other)
                edge.append(other)
    return order
