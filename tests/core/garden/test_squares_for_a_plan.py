from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.garden.squares_for_a_plan import connected, pick_squares

CELLS = st.sets(st.tuples(st.integers(0, 6), st.integers(0, 4)))


def block(columns: range, rows: range) -> list[tuple[int, int]]:
    return [(c, r) for r in rows for c in columns]


def test_four_of_an_empty_bed_are_a_square_in_its_corner() -> None:
    assert pick_squares(block(range(5), range(3)), wanted=4) == [(0, 0), (1, 0), (0, 1), (1, 1)]


def test_the_largest_connected_block_comes_before_the_first_corner() -> None:
    corner, large = block(range(2), range(2)), block(range(3, 7), range(4))
    assert set(pick_squares([*corner, *large], wanted=4)) <= set(large)


def test_a_number_that_is_no_rectangle_stays_together() -> None:
    assert pick_squares(block(range(5), range(3)), wanted=5) == [(0, 0), (1, 0), (2, 0), (0, 1), (1, 1)]
    assert len(connected(pick_squares(block(range(5), range(3)), wanted=7))) == 1


def test_fewer_are_better_than_none_and_a_full_bed_gives_none() -> None:
    assert pick_squares([(0, 0), (1, 0)], wanted=6) == [(0, 0), (1, 0)]
    assert pick_squares([], wanted=4) == []


def test_a_large_crop_gets_whole_blocks_or_nothing() -> None:
    assert pick_squares(block(range(3), range(2)), wanted=1, side=2) == [(0, 0), (1, 0), (0, 1), (1, 1)]
    assert pick_squares(block(range(5), range(1)), wanted=4, side=2) == []


def test_squares_where_the_family_stood_are_left_while_others_are_free() -> None:
    tired = block(range(4), range(3))
    free = [*tired, *block(range(4, 6), range(1))]
    assert set(pick_squares(free, wanted=4, unrested=tired)) == {(4, 0), (5, 0)}
    assert len(pick_squares(tired, wanted=4, unrested=tired)) == 4


@given(CELLS, CELLS, st.integers(1, 12), st.integers(1, 3))
def test_only_free_squares_come_out_together_and_never_tired_ones_beside_rested(
    free: set, tired: set, wanted: int, side: int
) -> None:
    found = pick_squares(free, wanted=wanted, side=side, unrested=tired)
    assert set(found) <= free
    assert len(found) <= max(wanted, side * side)
    assert len(connected(found)) <= 1
    if pick_squares(free - tired, wanted=wanted, side=side):
        assert not set(found) & tired
    if side == 1 and free - tired:
        assert len(found) == min(wanted, len(connected(free - tired)[0]))
