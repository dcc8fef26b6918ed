"""Rows over time: a choice keeps to them just when on no day more is taken than there is."""

from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.planner.capacity import Stay, rows_over_time

stays = st.lists(
    st.builds(
        lambda first, long, amount: Stay(first, first + long, amount),
        st.integers(0, 20),
        st.integers(0, 9),
        st.integers(1, 6),
    ),
    max_size=9,
)


@given(stays, stays, st.integers(0, 12), st.data())
def test_a_choice_keeps_to_the_rows_just_when_every_day_has_room(
    each: list[Stay], taken: list[Stay], most: int, data: st.DataObject
) -> None:
    chosen = data.draw(st.sets(st.integers(0, max(0, len(each) - 1)), max_size=len(each)) if each else st.just(set()))
    by_rows = all(
        sum(each[n].amount for n in row.members if n in chosen) <= row.room for row in rows_over_time(each, taken, most)
    )

    def on(day: int, some: list[Stay]) -> int:
        return sum(stay.amount for stay in some if stay.first <= day <= stay.last)

    mine = [each[n] for n in chosen]
    by_days = all(on(day, mine) <= max(0, most - on(day, taken)) for day in range(31))
    assert by_rows == by_days


def test_days_on_which_less_meets_have_no_row() -> None:
    each = [Stay(0, 9, 3), Stay(2, 5, 3), Stay(4, 12, 3), Stay(20, 22, 3)]
    rows = rows_over_time(each, (), 5)
    assert [(row.day, row.room, row.members) for row in rows] == [(4, 5, (0, 1, 2))]
    held = rows_over_time(each, (Stay(8, 9, 4),), 5)
    assert [(row.day, row.room, row.members) for row in held] == [(4, 5, (0, 1, 2)), (8, 1, (0, 2))]
