"""The planner's choice, without a word about gardens: of each wish at most one option, within the room of every row.

An option takes amounts of rows (squares of a bed on a day, minutes of a class in a week, money) and counts for shared terms, which are
gained or paid once however many options count for them: a class's first sowing, a family's coming into a bed, a bed that must be picked
in a break. All numbers are whole, so that two solvers cannot differ by a rounding.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import numpy.typing as npt

Ints = npt.NDArray[np.int64]
Small = npt.NDArray[np.int32]
NO_ROOM_NEEDED = 2**40  # room of the row that stands for none


@dataclass(frozen=True, slots=True)
class Option:
    """One way to grant a wish: what it gains by itself [points], `takes` of rows as (row, amount), and the terms it counts for."""

    wish: int
    points: int
    takes: tuple[tuple[int, int], ...] = ()
    counts_for: tuple[int, ...] = ()


@dataclass(frozen=True)
class SharedTerm:
    """Points gained (above 0) or paid (below 0) once when any option that counts for it is chosen.

    `group` is the group of terms of which only so many may be true at once; None for no such limit.
    """

    points: int
    group: int | None = None


@dataclass(frozen=True)
class Model:
    """What is to be chosen from. `musts` tells for each wish whether it must be granted, `rows` the room of each row,
    `groups` how many terms of a group may be true.
    """

    musts: tuple[bool, ...]
    options: tuple[Option, ...]
    rows: tuple[int, ...] = ()
    terms: tuple[SharedTerm, ...] = ()
    groups: tuple[int, ...] = ()

    @cached_property
    def must_points(self) -> int:
        """What granting a must is worth: more than everything else together, so that no must gives way to anything that is none."""
        best = [0] * len(self.musts)
        worst = [0] * len(self.musts)
        for option in self.options:
            best[option.wish] = max(best[option.wish], option.points)
            worst[option.wish] = min(worst[option.wish], option.points)
        return 1 + sum(best) - sum(worst) + sum(abs(term.points) for term in self.terms)

    @cached_property
    def of_wish(self) -> tuple[tuple[int, ...], ...]:
        """The options of each wish, by number."""
        found: list[list[int]] = [[] for _ in self.musts]
        for at, option in enumerate(self.options):
            found[option.wish].append(at)
        return tuple(tuple(each) for each in found)

    @cached_property
    def arrays(self) -> "Arrays":
        return Arrays.of(self)

    def worth(self, at: int) -> int:
        """Points of an option with what granting its wish is worth where it is a must."""
        option = self.options[at]
        return option.points + (self.must_points if self.musts[option.wish] else 0)

    def score(self, chosen: Iterable[int]) -> "ChoiceScore":
        """What a choice comes to. It is not asked here whether it is allowed."""
        options = [self.options[at] for at in chosen]
        true = {term for option in options for term in option.counts_for}
        points = sum(option.points for option in options) + sum(self.terms[term].points for term in true)
        return ChoiceScore(sum(self.musts[option.wish] for option in options), points)

    def total(self, score: "ChoiceScore") -> int:
        return score.musts * self.must_points + score.points

    def breaks(self, chosen: Sequence[int]) -> str:
        """The first rule that a choice breaks, in a few words for a reader of the code; empty when it is allowed."""
        options = [self.options[at] for at in chosen]
        if len({option.wish for option in options}) < len(options):
            return "a wish is granted twice"
        used = [0] * len(self.rows)
        for option in options:
            for row, amount in option.takes:
                used[row] += amount
        for row, most in enumerate(self.rows):
            if used[row] > most:
                return f"row {row} holds {used[row]} of {most}"
        true = {term for option in options for term in option.counts_for}
        for group, most in enumerate(self.groups):
            if sum(self.terms[term].group == group for term in true) > most:
                return f"group {group} has more than {most}"
        return ""


@dataclass(frozen=True, order=True)
class ChoiceScore:
    """Musts granted first, then points."""

    musts: int
    points: int


@dataclass(frozen=True)
class Arrays:
    """The model as arrays, options sorted by wish: `rows` and `amounts` (options, most rows of an option), `terms` (options, most terms).

    Shorter lists are filled up with a row that has room for everything and a term without points.
    """

    order: Ints
    starts: Ints
    worth: Ints
    rows: Small
    amounts: Small
    terms: Small
    term_points: Ints
    room: Ints
    limited: npt.NDArray[np.bool_] = field(repr=False)

    @staticmethod
    def of(model: Model) -> "Arrays":
        order = [at for options in model.of_wish for at in options]
        starts = np.cumsum([0, *(len(options) for options in model.of_wish)])
        options = [model.options[at] for at in order]
        no_row, no_term = len(model.rows), len(model.terms)
        wide = max((len(option.takes) for option in options), default=0)
        many = max((len(option.counts_for) for option in options), default=0)
        rows = np.full((len(options), wide), no_row, dtype=np.int32)
        amounts = np.zeros((len(options), wide), dtype=np.int32)
        terms = np.full((len(options), many), no_term, dtype=np.int32)
        for n, option in enumerate(options):
            for k, (row, amount) in enumerate(option.takes):
                rows[n, k], amounts[n, k] = row, amount
            terms[n, : len(option.counts_for)] = option.counts_for
        return Arrays(
            order=np.array(order, dtype=np.int64),
            starts=starts,
            worth=np.array([model.worth(at) for at in order], dtype=np.int64),
            rows=rows,
            amounts=amounts,
            terms=terms,
            term_points=np.array([*(term.points for term in model.terms), 0], dtype=np.int64),
            room=np.array([*model.rows, NO_ROOM_NEEDED], dtype=np.int64),
            limited=np.array([*(term.group is not None for term in model.terms), False]),
        )
