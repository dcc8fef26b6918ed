from datetime import timedelta

from almanaque.core.journal.letters import TASKS, BedPart, Letter, check, default_task, read
from tests.places import D
from tests.refuses import refuses


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
