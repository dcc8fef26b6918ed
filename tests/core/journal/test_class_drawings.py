"""Marks of a team in whatever order: none is lost, a stroke taken back leaves what others drew, and plans are compared fairly."""

import itertools

from almanaque.core.findings import Finding, Fix
from almanaque.core.journal.class_drawings import DrawnMark, PlanFigures, by_crop, gentle_notes, leading, standing


def mark(cell: tuple[int, int], what: str, stroke: str = "s", *, back: bool = False) -> DrawnMark:
    return DrawnMark(cell, what, stroke, back)


def test_a_square_holds_the_last_mark_and_a_cleared_one_nothing() -> None:
    plan = standing([mark((0, 0), "pea"), mark((1, 0), "pea"), mark((0, 0), "kale"), mark((1, 0), "")])
    assert plan == {(0, 0): "kale"}


def test_a_stroke_taken_back_leaves_what_was_there_before_and_what_others_drew_since() -> None:
    first = [mark((0, 0), "pea", "a"), mark((1, 0), "pea", "a")]
    second = [mark((0, 0), "kale", "b", back=True), mark((2, 0), "kale", "b", back=True)]
    third = [mark((1, 0), "leek", "c")]
    assert standing(first + second + third) == {(0, 0): "pea", (1, 0): "leek"}


def test_marks_of_two_tablets_in_other_squares_come_to_the_same_in_any_order() -> None:
    ours = [mark((n, 0), "pea") for n in range(2)]
    theirs = [mark((n, 1), "kale") for n in range(2)]
    plans = {tuple(sorted(standing(some).items())) for some in itertools.permutations(ours + theirs)}
    assert len(plans) == 1
    assert len(dict(plans.pop())) == 4


def test_squares_are_gathered_by_crop_and_things_are_no_crop() -> None:
    found = by_crop({(0, 0): "pea", (1, 0): "pea", (2, 0): "thing:pond"})
    assert found == {"pea": frozenset({(0, 0), (1, 0)})}


def shade(low: str, tall: str, severity: str = "care") -> Finding:
    params = {"tall": tall, "taken": 2.0, "left": 4.0, "middle": "2027-06-21", "wanted": 6}
    fixes = (Fix("tall_one_to_the_side"),) if severity == "care" else ()
    return Finding("shaded_by_plant", severity, low, params, "sun_computed", fixes)  # type: ignore[arg-type]


def test_notes_say_what_a_child_can_change_once_for_each_tall_plant() -> None:
    said = gentle_notes(
        [
            shade("Lettuce", "Sweet corn"),
            shade("Radish", "Sweet corn"),
            shade("Carrot", "Dill", "note"),
            Finding(
                "soil_sour", "care", "Carrot", {"ph": 5.0, "least": 6.0, "most": 7.0}, "laboratory", (Fix("lime"),)
            ),
            Finding(
                "squares_left_over",
                "care",
                "Pumpkin",
                {"count": 3, "block": 3},
                "practice_of_spacing",
                (Fix("whole_blocks"),),
            ),
        ],
        flowers=True,
    )
    assert [str(one) for one in said] == [
        "A pumpkin needs a block of 3 by 3 squares. 3 squares are too few for one.",
        "The sweet corn will shade the lettuce. Put the taller one where its shadow falls off the bed.",
    ]


def test_a_plan_without_a_flower_is_asked_for_one() -> None:
    assert [one.code for one in gentle_notes([], flowers=False)] == ["journal.gentle.no_flowers"]
    assert gentle_notes([], flowers=True) == []


def figures(plants: int, kinds: int, worries: int = 0, used: int = 4) -> PlanFigures:
    return PlanFigures(plants, kinds, used, 32, 0, worries, kinds)


def test_who_leads_shares_it_on_a_tie_and_nobody_leads_where_all_are_alike() -> None:
    found = leading(
        {"a": figures(10, 3), "b": figures(10, 2, worries=1), "c": figures(4, 3), "d": figures(0, 0, used=0)}
    )
    assert found == {
        "kinds": ["a", "c"],
        "plants": ["a", "b"],
        "picked_at_school": ["a", "c"],
        "worries": ["a", "c"],
    }
    assert leading({"a": figures(10, 3)}) == {}
    assert leading({}) == {}
