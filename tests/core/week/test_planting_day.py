"""A planting day: laying order, shares, who reaches the bed, and the lesson."""

from itertools import combinations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.week import planting_day
from almanaque.core.week.planting_day import PlantingPart, Square, ToPlant


def crop(name: str, method: str, cells: list[tuple[int, int]], holes: int = 4) -> ToPlant:
    return ToPlant(name, name, method, dict.fromkeys(cells, holes), 12.0)  # type: ignore[arg-type]


def squares(*seconds: float) -> list[Square]:
    return [Square("k", "Radish", (n, 0), 1, s) for n, s in enumerate(seconds)]


def test_pots_go_in_before_seed_and_rows_are_walked_to_and_fro() -> None:
    block = [(x, y) for x in range(3) for y in range(2)]
    found = planting_day.laying_order([crop("Carrot", "direct", block), crop("Lettuce", "starts", [(5, 0), (4, 0)])])
    assert [(s.name, s.cell) for s in found] == [
        ("Lettuce", (4, 0)),
        ("Lettuce", (5, 0)),
        ("Carrot", (0, 0)),
        ("Carrot", (1, 0)),
        ("Carrot", (2, 0)),
        ("Carrot", (2, 1)),
        ("Carrot", (1, 1)),
        ("Carrot", (0, 1)),
    ]


def test_every_square_is_laid_once_whatever_the_shape() -> None:
    cells = [(0, 0), (3, 1), (1, 1), (7, 4), (2, 4)]
    found = planting_day.laying_order([crop("Beet", "direct", cells), crop("Chard", "direct", [(9, 9)])])
    assert sorted(s.cell for s in found) == sorted([*cells, (9, 9)])


def test_a_pot_takes_longer_than_a_seed_and_sixteen_holes_longer_than_one() -> None:
    def seconds(method: str, holes: int) -> float:
        return planting_day.laying_order([crop("x", method, [(0, 0)], holes)])[0].seconds

    assert seconds("direct", 1) < seconds("starts", 1)
    assert seconds("direct", 1) < seconds("direct", 16)


@given(st.lists(st.integers(1, 300), min_size=1, max_size=9), st.data())
def test_the_slowest_group_is_as_fast_as_any_cut_in_order_allows(loads: list[int], data: st.DataObject) -> None:
    groups = data.draw(st.integers(1, len(loads)))
    found = planting_day.shares(squares(*loads), groups)
    assert [s for share in found for s in share.squares] == squares(*loads)
    assert len(found) == groups
    assert all(share.squares for share in found)
    best = min(
        max(sum(loads[a:b]) for a, b in zip((0, *cuts), (*cuts, len(loads)), strict=True))
        for cuts in combinations(range(1, len(loads)), groups - 1)
    )
    assert max(share.seconds for share in found) == best
    # Of the cuts in which the slowest is as fast, the most even one.
    even = min(
        sum(load**2 for load in run)
        for cuts in combinations(range(1, len(loads)), groups - 1)
        if max(run := [sum(loads[a:b]) for a, b in zip((0, *cuts), (*cuts, len(loads)), strict=True)]) == best
    )
    assert sum(share.seconds**2 for share in found) == even


def test_sixteen_potatoes_over_five_groups_are_shared_fairly() -> None:
    found = planting_day.shares(squares(*[40] * 16), 5)
    assert sorted(len(share.squares) for share in found) == [3, 3, 3, 3, 4]


def test_a_group_at_the_bed_is_never_half_the_class() -> None:
    who = planting_day.crew(25, 2, edge_mm=7315)
    assert (who.groups, who.group_of, who.elsewhere) == (2, 5, 15)
    assert planting_day.crew(24, 16, edge_mm=7315).elsewhere == 0


@pytest.mark.parametrize("groups", [0, 4])
def test_a_group_without_a_square_is_refused(groups: int) -> None:
    with pytest.raises(ValueError, match="at least one square"):
        planting_day.shares(squares(1, 2, 3), groups)


def test_a_group_more_that_would_only_wait_is_not_made() -> None:
    order = squares(600, 600, 100, 100, 100, 100)
    who, found = planting_day.share_out(order, 24, edge_mm=4600)  # six groups, of which five reach the bed
    assert (who.groups, who.turns) == (5, 1)
    assert planting_day.planting_seconds(found, who) == 600
    assert [s for share in found for s in share.squares] == order


@given(st.lists(st.integers(1, 300), min_size=1, max_size=12), st.integers(1, 30), st.integers(500, 9000))
def test_no_other_number_of_groups_plants_sooner(loads: list[int], children: int, edge: int) -> None:
    order = squares(*loads)
    who, found = planting_day.share_out(order, children, edge_mm=edge)
    most = planting_day.crew(children, len(order), edge_mm=edge)
    assert who.groups <= most.groups
    for groups in range(1, most.groups + 1):
        other = planting_day.Crew(children, groups, min(groups, most.at_once))
        assert (
            planting_day.planting_seconds(found, who)
            <= planting_day.planting_seconds(planting_day.shares(order, groups), other) + 0.02
        )


@pytest.mark.parametrize(
    ("children", "count", "edge", "groups", "at_once", "turns"),
    [
        (24, 16, 7315, 6, 6, 1),  # 4 ft by 8 ft: 24 ft of edge
        (25, 16, 2400, 6, 2, 3),  # a half barrel
        (24, 3, 7315, 3, 3, 1),  # no more groups than squares
        (1, 5, 7315, 1, 1, 1),
        (3, 5, 300, 1, 1, 1),
    ],
)
def test_groups_fit_the_head_count_the_squares_and_the_edge_of_the_bed(
    children: int, count: int, edge: float, groups: int, at_once: int, turns: int
) -> None:
    found = planting_day.crew(children, count, edge_mm=edge)
    assert (found.groups, found.at_once, found.turns) == (groups, at_once, turns)
    assert found.waiting == groups - at_once


def test_nobody_and_nothing_make_no_planting_day() -> None:
    for children, count in ((0, 4), (4, 0)):
        with pytest.raises(ValueError, match="a child and a square"):
            planting_day.crew(children, count, edge_mm=1000)


def test_those_who_wait_make_it_longer() -> None:
    order = planting_day.laying_order([crop("Carrot", "direct", [(x, y) for x in range(4) for y in range(3)], 16)])

    def planting(edge: float) -> int:
        who = planting_day.crew(24, len(order), edge_mm=edge)
        found = planting_day.parts(
            planting_day.shares(order, who.groups), who, squares=12, strings=4, labels=1, water_minutes=2
        )
        return next(part.minutes for part in found if part.key == "plant")

    # Six groups with two squares of 121 s each: all at once, or two at a time.
    assert (planting(8000), planting(1800)) == (5, 13)


def test_without_strings_there_is_nothing_to_string() -> None:
    order = planting_day.laying_order([crop("Carrot", "direct", [(0, 0)])])
    who = planting_day.crew(4, 1, edge_mm=3000)
    found = planting_day.parts(planting_day.shares(order, 1), who, squares=1, strings=0, labels=1, water_minutes=0)
    assert "string" not in [part.key for part in found]
    assert all(part.minutes >= 2 for part in found)


def test_a_day_that_fits_says_nothing_and_one_that_does_not_says_what_would_help() -> None:
    day = [PlantingPart("gather", 5), PlantingPart("prepare", 12, beforehand=True), PlantingPart("plant", 20)]
    assert planting_day.against_the_lesson(day, 37) is None
    tight = planting_day.against_the_lesson(day, 30)
    assert tight is not None
    assert (tight.severity, tight.message) == ("care", "All of it takes 37 minutes; the lesson has 30.")
    assert "before the class comes" in tight.fixes[0].label
    much = planting_day.against_the_lesson(day, 12)
    assert much is not None
    assert much.severity == "fault"
    assert much.fixes[0].label == "Split it over 3 lessons, crop by crop"


@pytest.mark.parametrize(
    ("measured", "said"),
    [
        ([100, 104, 98, 101, 99], ""),
        ([80, 82, 79, 81, 83], ""),
        ([60, 62, 58, 61, 59], "40% too close"),
        ([140, 150, 145], "45% too wide"),
        ([10, 10], ""),
        ([], ""),
    ],
)
def test_measured_distances_are_held_against_the_one_that_was_meant(measured: list[float], said: str) -> None:
    found = planting_day.apart(measured, 100)
    assert (found.message if found else "") == (f"They came out {said}." if said else "")
