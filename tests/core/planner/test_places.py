"""Places in a bed: together, apart from what they shun, tall ones to the shade side, and every planting as long as there is room."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from almanaque.core.garden.squares_for_a_plan import connected
from almanaque.core.planner.places import HeldSquares, ToPlace, places

EIGHT_BY_FOUR = [(c, r) for c in range(8) for r in range(4)]


def planting(key: str, squares: int, first: int = 0, last: int = 9, **more: object) -> ToPlace:
    return ToPlace(key, first, last, squares, more.pop("height_mm", 300.0), **more)  # type: ignore[arg-type]


def overlapping(found: dict[str, frozenset[tuple[int, int]]], each: list[ToPlace]) -> bool:
    return any(
        found[a.key] & found[b.key]
        for n, a in enumerate(each)
        for b in each[:n]
        if a.key in found and b.key in found and a.meets(b.first, b.last)
    )


def test_plantings_lie_together_as_rectangles_and_the_same_squares_serve_twice() -> None:
    each = [planting("a", 8), planting("b", 12), planting("c", 12), planting("d", 32, 10, 20)]
    found = places(EIGHT_BY_FOUR, each)
    assert {key: len(cells) for key, cells in found.items()} == {"a": 8, "b": 12, "c": 12, "d": 32}
    assert all(len(connected(cells)) == 1 for cells in found.values())
    assert not overlapping(found, each)


def test_what_is_held_or_pinned_stays_free() -> None:
    pinned = frozenset({(3, 1), (4, 1)})
    held = HeldSquares(frozenset((c, 0) for c in range(8)), 5, 30)
    each = [planting("a", 2, pinned=pinned), planting("b", 22), planting("c", 8, 0, 4)]
    found = places(EIGHT_BY_FOUR, each, [held])
    assert found["a"] == pinned
    assert not found["b"] & held.cells
    assert found["c"] <= set(EIGHT_BY_FOUR)
    assert not overlapping(found, each)


@pytest.mark.parametrize(("shade", "row"), [((0.0, -1.0), 0), ((0.0, 1.0), 3)])
def test_what_is_tall_stands_where_its_shadow_falls_out_of_the_bed(shade: tuple[float, float], row: int) -> None:
    each = [planting("tall", 8, height_mm=2000.0), planting("low", 24, height_mm=200.0)]
    found = places(EIGHT_BY_FOUR, each, shade=shade)
    assert found["tall"] == frozenset((c, row) for c in range(8))


def test_a_plant_that_wants_a_block_gets_whole_ones() -> None:
    found = places(EIGHT_BY_FOUR, [planting("a", 8, block=2), planting("b", 9, block=3)])
    assert len(found["a"]) == 8
    assert len(found["b"]) == 9
    columns, rows = {c for c, _ in found["b"]}, {r for _, r in found["b"]}
    assert (len(columns), len(rows)) == (3, 3)
    assert places([(0, 0), (1, 0), (3, 0), (0, 1)], [planting("a", 4, block=2)]) == {}


def test_bad_neighbours_stand_apart_and_kin_where_it_has_rested() -> None:
    each = [
        planting("a", 4, shuns=frozenset({"b"})),
        planting("b", 4),
        planting("c", 4, tired=frozenset((c, r) for c in range(4) for r in range(4))),
    ]
    found = places(EIGHT_BY_FOUR, each)
    beside = {(c + x, r + y) for c, r in found["a"] for x, y in ((1, 0), (-1, 0), (0, 1), (0, -1))}
    assert not beside & found["b"]
    assert not found["c"] & each[2].tired


def test_kin_comes_after_kin_in_other_squares_where_there_are_any() -> None:
    each = [planting("spring", 16, 0, 9), planting("autumn", 16, 20, 29, kin=frozenset({"spring"}))]
    found = places(EIGHT_BY_FOUR, each)
    assert not found["spring"] & found["autumn"]


def test_what_finds_no_place_in_one_piece_lies_in_two_or_is_missing() -> None:
    split = [(0, 0), (1, 0), (3, 0), (4, 0)]
    assert places(split, [planting("a", 4)]) == {"a": frozenset(split)}
    assert places(split, [planting("a", 5)]) == {}


def test_where_one_after_another_leaves_one_without_a_place_the_bed_is_looked_at_as_a_whole() -> None:
    row = [(c, 0) for c in range(6)]
    each = [
        planting("a", 2, 0, 5),
        planting("b", 2, 4, 9),
        planting("c", 2, 8, 14),
        planting("d", 4, 10, 14),
        planting("e", 2, 0, 3),
    ]
    found = places(row, each)
    assert set(found) == {"a", "b", "c", "d", "e"}
    assert not overlapping(found, each)


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.integers(1, 6), st.integers(0, 20), st.integers(2, 12)), max_size=10))
def test_plantings_never_share_a_square_and_all_are_placed_where_there_is_room(
    each: list[tuple[int, int, int]],
) -> None:
    wanted: list[ToPlace] = []
    for n, (squares, first, long) in enumerate(each):
        one = planting(str(n), squares, first, first + long)
        if all(sum(o.squares for o in [*wanted, one] if o.first <= day <= o.last) <= 32 for day in range(40)):
            wanted.append(one)
    found = places(EIGHT_BY_FOUR, wanted)
    assert not overlapping(found, wanted)
    assert all(len(found[one.key]) == one.squares for one in wanted if one.key in found)
    assert set(found) == {one.key for one in wanted}
