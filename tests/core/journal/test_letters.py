from datetime import timedelta

from almanaque.core.journal.letters import TASKS, BedPart, Letter, check, default_task, grown_since, read
from almanaque.core.journal.sightings import Sighting
from tests.places import D
from tests.refuses import refuses


def height(day: str, inches: float, team: str = "") -> Sighting:
    return Sighting(day + team, "height", D(day), amount=inches * 25.4, team=team)


def test_growth_is_told_from_the_first_to_the_last_height_of_one_team() -> None:
    rows = [height("2027-04-20", 9), height("2027-04-06", 4), height("2027-04-13", 6)]
    assert grown_since(rows, "Pea", "us") == "Pea: 4 in on 6 Apr, 9 in on 20 Apr"
    mixed = [height("2027-04-06", 4, "Wrens"), height("2027-04-20", 9, "Larks"), height("2027-04-13", 6, "Wrens")]
    assert grown_since(mixed, "Pea", "us") == "Pea (Wrens): 4 in on 6 Apr, 6 in on 13 Apr"
    assert grown_since(rows[:1], "Pea", "us") == ""
    assert grown_since([height("2027-04-06", 4), height("2027-04-06", 5)], "Pea", "us") == ""


def test_a_letter_is_read_as_it_was_kept() -> None:
    letter = Letter(
        "School",
        "Grade 2",
        "14 Apr 2027",
        "1 Apr 2027",
        "Dear all",
        "Draw it",
        [BedPart("Bed 2", "Pea", ["up"], ["thin"], [("id", "words")]), BedPart("Bed 3", "nothing")],
    )
    assert read(letter.out()) == letter


def test_the_task_is_the_lessons_question_or_another_each_week() -> None:
    assert default_task("Why?", D("2027-04-14")) == "Why?"
    weeks = {default_task("", D("2027-04-14") + timedelta(weeks=n)) for n in range(len(TASKS))}
    assert weeks == set(TASKS)


def test_words_that_are_too_long_are_refused_at_their_field() -> None:
    with refuses("journal.letter_too_long") as refused:
        check("", "x" * 2001)
    assert refused.value.field == "task"
