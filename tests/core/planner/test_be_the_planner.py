"""The outline “Be the planner”: the best answer that it tells is the planner's own."""

import re

from almanaque.core.planner import search
from almanaque.core.planner.capacity import Stay, rows_over_time
from almanaque.core.planner.model import Model, Option
from almanaque.data import lessons

# The cards: squares, months it stands, months in which it may begin (1 is April), points.
CARDS = {
    "radish": (1, 1, (1, 2, 3), 2),
    "spinach": (2, 2, (1,), 4),
    "lettuce": (2, 2, (1, 2), 5),
    "peas": (2, 3, (1,), 6),
    "carrots": (3, 3, (1,), 7),
    "beans": (3, 2, (2,), 7),
    "potatoes": (4, 2, (2,), 9),
    "flowers": (1, 3, (1,), 4),
}
BEDS, SQUARES = 2, 4


def puzzle() -> Model:
    """Two beds of four squares, three months, every card once."""
    drawn = [
        (wish, bed, begin, points, Stay(begin, begin + months - 1, squares))
        for wish, (squares, months, begins, points) in enumerate(CARDS.values())
        for bed in range(BEDS)
        for begin in begins
    ]
    takes: list[list[tuple[int, int]]] = [[] for _ in drawn]
    rooms: list[int] = []
    for bed in range(BEDS):
        here = [n for n, (_, where, _, _, _) in enumerate(drawn) if where == bed]
        for row in rows_over_time([drawn[n][4] for n in here], (), SQUARES):
            for member in row.members:
                takes[here[member]].append((len(rooms), drawn[here[member]][4].amount))
            rooms.append(row.room)
    options = tuple(Option(wish, points, tuple(takes[n])) for n, (wish, _, _, points, _) in enumerate(drawn))
    return Model((False,) * len(CARDS), options, tuple(rooms))


def test_the_answer_in_the_outline_is_the_best_there_is() -> None:
    *_, last = search.steps(puzzle())
    assert last.proved
    outline = lessons()["be-the-planner"]
    told = " ".join(outline.doing).lower()
    for name, (squares, months, _, points) in CARDS.items():
        assert re.search(rf"{name} {squares}, {months}, {points}\b", told), name
    assert f"{last.score.points} points" in outline.notebook
