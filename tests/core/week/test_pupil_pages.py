"""Every outline has a page for pupils whose tasks and answers go together, and a bed's own words in their places."""

from dataclasses import replace

import pytest

from almanaque.core.week.lesson_outlines import LessonOutline, PupilTasks
from almanaque.core.week.pupil_pages import PLACE, PLACES, BedInWords, filled, page_of
from almanaque.data import lessons

BED = BedInWords(
    bed="Bed 2",
    length="8 ft",
    width="4 ft",
    around="24 ft",
    area="32.0 sq ft",
    squares="32",
    crop="pea",
    plants="64",
    per_square="8",
    apart="3 in",
    ready="6 Jun",
    names="pea and lettuce",
    parts="pea: pod",
    sign="Pods are plump.",
    inch_of_rain="32.0 sq ft × 1 in is about 20 gal",
)
EVERY = sorted(lessons().values(), key=lambda lesson: lesson.key)
NEW = {
    "parts-we-eat",
    "plate-from-the-garden",
    "life-in-a-circle",
    "from-one-seed",
    "who-visits",
    "weather-log",
    "a-root-drinks",
    "pollen-by-hand",
    "worms-at-work",
    "thinning-is-sharing",
    "how-fast",
    "grain-to-bread",
    "at-our-stall",
    "map-from-memory",
}


def test_there_are_fourteen_more_outlines_each_tied_to_a_step_or_a_season() -> None:
    assert len(EVERY) == 41
    assert set(lessons()) >= NEW
    assert all(lessons()[key].steps or lessons()[key].months for key in NEW)


@pytest.mark.parametrize("lesson", EVERY, ids=lambda lesson: lesson.key)
def test_an_outline_has_tasks_with_answers_and_something_for_home(lesson: LessonOutline) -> None:
    page = lesson.page
    assert len(page.tasks) >= 3
    assert len(page.answers) == len(page.tasks)
    assert page.home
    texts = (*page.tasks, *page.answers, *page.home)
    assert {place for text in texts for place in PLACE.findall(text)} <= PLACES
    made = page_of(lesson, BED, ["Pea"])
    assert not any("{" in text for text in (*made.tasks, *made.answers, *made.home))
    assert bool(made.table) == bool(made.rows)
    assert len(made.table) != 1
    assert len(made.graph) in (0, 2)


def test_a_bed_fills_its_words_in_and_what_is_no_place_of_ours_stays() -> None:
    assert filled("{bed} is {length} by {width}: {squares} squares.", BED) == "Bed 2 is 8 ft by 4 ft: 32 squares."
    assert filled("a {b}, {bed2} and {__class__}", BED) == "a {b}, {bed2} and {__class__}"


def test_a_table_has_a_row_for_each_crop_of_the_bed_and_room_for_more() -> None:
    page = page_of(lessons()["parts-we-eat"], BED, ["Pea"])
    assert page.rows == ("Pea", "", "")
    assert page_of(lessons()["parts-we-eat"], BED, ["A", "B", "C", "D"]).rows == ("A", "B", "C", "D")


def test_a_lesson_of_ones_own_without_tasks_asks_its_question() -> None:
    own = LessonOutline(
        key="own-one", title="Own one", aim="To see.", question="Why?", notebook="Draw it.", doing=("Look.",)
    )
    assert page_of(own, BED, []).tasks == ("Why?", "Draw it.")
    bare = own.model_copy(update={"question": "", "notebook": ""})
    assert page_of(bare, BED, []).tasks == ("To see.",)
    with_place = own.model_copy(update={"page": PupilTasks(tasks=("Look at {crop}.",))})
    assert page_of(with_place, replace(BED, crop="kale"), []).tasks == ("Look at kale.",)
