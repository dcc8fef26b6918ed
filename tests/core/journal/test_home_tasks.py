"""Tasks for home suit what grows in a bed, answers are checked, and what comes back is told as it came."""

import pytest

from almanaque.core.crops.crop import Crop
from almanaque.core.journal.home_tasks import (
    TASKS,
    HomeAnswer,
    HomeTask,
    notes_of,
    read_answer,
    suggested,
    task_named,
    task_of,
    told,
)
from almanaque.data import catalogue
from tests.refuses import refuses


def crops(*keys: str) -> list[Crop]:
    return [catalogue()[key] for key in keys]


def task(key: str) -> HomeTask:
    found = task_of(key)
    assert found is not None
    return found


def test_a_task_suits_its_bed_and_neighbours_have_different_ones() -> None:
    found = [one.key for one in suggested([crops("bush-bean"), crops("lettuce"), crops("sunflower"), [], []])]
    assert found[:3] == ["cup", "sill", "rain jar"]
    assert len(set(found)) == 5
    many = [one.key for one in suggested([crops("garlic")] * 16)]
    assert "cup" not in many
    assert max(many.count(key) for key in many) <= 4
    assert [one.key for one in suggested([crops("garlic")] * 16)] == many


def test_nothing_is_asked_in_frost_that_wants_flowers_or_a_glass_left_outside() -> None:
    beds = [crops("bush-bean"), crops("sunflower"), crops("strawberry"), crops("garlic"), []] * 3
    asked = {one.key for one in suggested(beds, freezes=True)}
    assert not asked & {"rain jar", "window visitors"}
    assert {"rain jar", "window visitors"} <= {one.key for one in suggested(beds)}


def test_a_class_that_writes_much_loses_no_line() -> None:
    lines = [f"“{number} {'x' * 290}”" for number in range(25)]
    notes = notes_of(lines, 3980)
    assert len(notes) == 2
    assert all(len(note) <= 3980 for note in notes)
    assert " ".join(notes) == " ".join(lines)
    assert notes_of(["one"], 100) == ["one"]


def test_answers_to_a_task_that_is_no_longer_given_are_told_all_the_same() -> None:
    assert told(task_named("gone"), [HomeAnswer(True, 3.0, line="a line")]) == [
        "1 home did “gone”.",
        "Counted: 3.",
        "“a line”",
    ]
    assert task_named("cup") == task("cup")


def test_every_task_says_what_is_needed_and_a_count_says_of_what() -> None:
    assert len({one.key for one in TASKS}) == len(TASKS)
    for one in TASKS:
        assert one.needs
        assert one.how.endswith((".", "?"))
        assert bool(one.counts) == (one.asks == "count")
    assert task_of("gone") is None


def test_an_answer_is_what_was_said_and_only_what_the_task_asks() -> None:
    found = read_answer(task("rain jar"), done=True, counted=" 12,5 ", vote="pea", line="  much\n rain ", photo=False)
    assert found == HomeAnswer(True, 12.5, "", "much rain")
    assert read_answer(task("vote"), done=False, counted="3", vote="Pea", line="", photo=False) == HomeAnswer(
        vote="Pea"
    )
    assert read_answer(task("draw"), done=False, counted="", vote="", line="", photo=True) == HomeAnswer()


@pytest.mark.parametrize(
    ("typed", "code", "field"),
    [
        ({}, "journal.home_nothing_said", "done"),
        ({"counted": "many"}, "journal.home_no_number", "counted"),
        ({"counted": "-1"}, "journal.home_count_out_of_range", "counted"),
        ({"counted": "nan"}, "journal.home_count_out_of_range", "counted"),
        ({"line": "x" * 301}, "journal.home_line_too_long", "line"),
        ({"vote": "x" * 61}, "journal.home_vote_too_long", "vote"),
    ],
)
def test_what_cannot_be_an_answer_is_refused(typed: dict[str, str], code: str, field: str) -> None:
    with refuses(code, field=field):
        read_answer(
            task("rain jar"),
            done=False,
            counted=typed.get("counted", ""),
            vote=typed.get("vote", ""),
            line=typed.get("line", ""),
            photo=False,
        )


def test_answers_are_told_with_their_range_their_votes_and_their_lines() -> None:
    rain = [HomeAnswer(True, 3.0), HomeAnswer(True, 14.0, line="It leaked"), HomeAnswer(True, 7.0)]
    assert told(task("rain jar"), rain) == [
        "3 homes did “A rain jar”.",
        "Millimetres of rain in a week: 3, 7, 14, from 3 to 14, in the middle 7.",
        "“It leaked”",
    ]
    votes = [HomeAnswer(vote="Pea"), HomeAnswer(vote="pea"), HomeAnswer(vote="Kale")]
    assert told(task("vote"), votes)[1] == "Votes: pea 2, kale 1."
    assert told(task("cup"), [HomeAnswer(True, 4.0)])[1] == "Days until the first root shows: 4."
