"""A first choice at once, and a better one by taking a part out and filling it in again: no solver, fixed turns, the same every time."""

from collections.abc import Callable, Iterable, Sequence
from typing import Final

import numpy as np

from almanaque.core.planner.model import Model

TURNS = 300  # in which a part is taken out and filled in again: our own choice, for half a second on 60 beds
WORSE_SHARE = 0.002  # of the score by which a turn may be worse at first and still go on: our own choice
NOTHING: Final = -1


def bound_at_once(model: Model) -> int:
    """A bound at once: every wish by its best option, every gain for nothing."""
    best = sum(max(0, max(model.worth(at) for at in options)) for options in model.of_wish if options)
    return best + sum(max(0, term.points) for term in model.terms)


class Choosing:
    """A choice under way: which option each wish has, what room is left, how many options count for each term."""

    def __init__(self, model: Model, chosen: Iterable[int] = ()) -> None:
        self.model = model
        self._arrays = arrays = model.arrays
        self.room = arrays.room.copy()
        self.counts = np.zeros(len(arrays.term_points), dtype=np.int64)
        self.groups = list(model.groups)
        self.has = [NOTHING] * len(model.musts)
        self.total = 0
        for at in chosen:
            self.take(at)

    def take(self, at: int) -> None:
        """Choose an option; nothing is asked."""
        option = self.model.options[at]
        self.has[option.wish] = at
        self.total += self.model.worth(at)
        for row, amount in option.takes:
            self.room[row] -= amount
        for term in option.counts_for:
            if not self.counts[term]:
                self._turn(term, 1)
            self.counts[term] += 1

    def give_back(self, wish: int) -> None:
        """Take a wish's option out; nothing happens where it has none."""
        at = self.has[wish]
        if at == NOTHING:
            return
        option = self.model.options[at]
        self.has[wish] = NOTHING
        self.total -= self.model.worth(at)
        for row, amount in option.takes:
            self.room[row] += amount
        for term in option.counts_for:
            self.counts[term] -= 1
            if not self.counts[term]:
                self._turn(term, -1)

    def _turn(self, term: int, way: int) -> None:
        shared = self.model.terms[term]
        self.total += way * shared.points
        if shared.group is not None:
            self.groups[shared.group] -= way

    def best(self, wish: int) -> tuple[int, int]:
        """The option that adds most now and what it adds; (-1, 0) where none adds anything."""
        arrays = self._arrays
        low, high = arrays.starts[wish], arrays.starts[wish + 1]
        if low == high:
            return NOTHING, 0
        fits = (arrays.amounts[low:high] <= self.room[arrays.rows[low:high]]).all(axis=1)
        terms = arrays.terms[low:high]
        new = self.counts[terms] == 0
        gains = np.where(fits, arrays.worth[low:high] + np.where(new, arrays.term_points[terms], 0).sum(axis=1), 0)
        while True:  # the limits of groups are asked of the best only: few options meet one
            first = int(gains.argmax())
            gain = int(gains[first])
            if gain <= 0:
                return NOTHING, 0
            at = int(arrays.order[low + first])
            if not (new[first] & arrays.limited[terms[first]]).any() or self._within_groups(at):
                return at, gain
            gains[first] = 0

    def _within_groups(self, at: int) -> bool:
        wanted: dict[int, int] = {}
        for term in self.model.options[at].counts_for:
            group = self.model.terms[term].group
            if group is not None and not self.counts[term]:
                wanted[group] = wanted.get(group, 0) + 1
        return all(self.groups[group] >= many for group, many in wanted.items())

    def allows(self, at: int) -> bool:
        """Whether an option would fit beside what is chosen."""
        option = self.model.options[at]
        return all(self.room[row] >= amount for row, amount in option.takes) and self._within_groups(at)

    @property
    def chosen(self) -> list[int]:
        return [at for at in self.has if at != NOTHING]


def first_choice(model: Model, *, keep: Sequence[int] = ()) -> list[int]:
    """A good choice at once: wishes in the order of what they add for the room they take, musts first.

    `keep` are options that are chosen already. The result is never worse than nothing and always allowed.
    """
    choosing = Choosing(model, keep)
    fill_in(choosing, by_worth(model))
    return choosing.chosen


def fill_in(choosing: Choosing, wishes: Sequence[int]) -> None:
    """Grant wishes in this order, each by the option that adds most; those that add nothing stay out."""
    for wish in wishes:
        if choosing.has[wish] == NOTHING:
            at, _ = choosing.best(wish)
            if at != NOTHING:
                choosing.take(at)


def by_worth(model: Model) -> list[int]:
    """Musts first; then what gains most for the squares and days it takes. Wishes with few options go before those with many."""

    def rank(wish: int) -> tuple[bool, float, int]:
        options = [model.options[at] for at in model.of_wish[wish]]
        per_room = max((o.points / (1 + sum(amount for _, amount in o.takes)) for o in options), default=0.0)
        return not model.musts[wish], -per_room, len(options)

    return sorted(range(len(model.musts)), key=lambda wish: (*rank(wish), wish))


def improve(
    model: Model, chosen: Sequence[int], *, turns: int = TURNS, fixed: Iterable[int] = (), seed: int = 1
) -> list[int]:
    """Take a part of a choice out and fill it in again, so many turns; the best that came by. Never worse than it was.

    A part is what shares a row with one wish, or any few wishes. `fixed` wishes stay as they are.
    """
    random = np.random.default_rng(seed)
    free = np.array([wish for wish in range(len(model.musts)) if wish not in set(fixed) and model.of_wish[wish]])
    if not len(free):
        return list(chosen)
    sharing = _sharing(model)
    choosing = Choosing(model, chosen)
    best, best_total = choosing.chosen, choosing.total
    slack = WORSE_SHARE * max(1, abs(model.must_points and choosing.total % model.must_points))
    for turn in range(turns):
        before, before_total = list(choosing.has), choosing.total
        middle = int(random.choice(free))
        near = [wish for wish in sharing(choosing.has[middle], choosing.has) if wish in set(free.tolist())]
        some = list(random.permutation(near)[:8]) if len(near) > 3 else []
        some = some or [int(w) for w in random.choice(free, size=min(6, len(free)), replace=False)]
        for wish in some:
            choosing.give_back(int(wish))
        left_out = [int(wish) for wish in free if choosing.has[wish] == NOTHING]
        noise = random.random(len(left_out)) * 0.6 + 0.7
        gains = [choosing.best(wish)[1] for wish in left_out]
        order = sorted(range(len(left_out)), key=lambda n: -gains[n] * noise[n])
        fill_in(choosing, [left_out[n] for n in order])
        if choosing.total > best_total:
            best, best_total = choosing.chosen, choosing.total
        if choosing.total < before_total - slack * (1 - turn / turns):
            for wish, had in enumerate(before):
                if choosing.has[wish] != had:
                    choosing.give_back(wish)
            for wish, had in enumerate(before):
                if had != NOTHING and choosing.has[wish] == NOTHING:
                    choosing.take(had)
    return best


def _sharing(model: Model) -> Callable[[int, Sequence[int]], list[int]]:
    """A function from an option and a choice to the wishes whose options share a row with it."""
    rows: dict[int, frozenset[int]] = {}

    def rows_of(at: int) -> frozenset[int]:
        if at not in rows:
            rows[at] = frozenset(row for row, _ in model.options[at].takes)
        return rows[at]

    def found(at: int, has: Sequence[int]) -> list[int]:
        if at == NOTHING:
            return []
        mine = rows_of(at)
        return [wish for wish, other in enumerate(has) if other != NOTHING and not mine.isdisjoint(rows_of(other))]

    return found
