"""A lesson as a page for pupils: this bed's own map and sizes, answers apart, a version for home, a school's own tasks."""

import pytest
from fastapi.testclient import TestClient

from almanaque.data import lessons
from tests.database import bed_id
from tests.web.pages import enter, open_page, post
from tests.web.week.test_lessons import DOCKS, NEW

BED_2 = str(bed_id("Bed 2"))


def test_the_page_has_this_beds_map_table_graph_words_and_space(reader: TestClient) -> None:
    page = open_page(reader, f"/week/lessons/measuring-growth/pupil?bed={BED_2}")
    assert page.status == 200
    for words in (
        "When did it grow fastest?",
        "Bed 2 from above",
        "Mark it on the graph",
        "line graph",
        "Draw or write:",
    ):
        assert words in page.text, words
    assert 'aria-label="Squared paper for a graph: day across, height up"' in page.html
    assert page.html.count("-line.svg") > 10  # plants in line, to be coloured in
    assert all(f">{letter}</text>" in page.html for letter in "ABCDEFGH1234")


def test_answers_are_apart_and_go_by_the_bed(reader: TestClient) -> None:
    asked = open_page(reader, f"/week/lessons/measuring-a-bed/pupil?bed={BED_2}")
    assert "32 squares" not in asked.text
    told = open_page(reader, f"/week/lessons/measuring-a-bed/pupil?bed={BED_2}&show=answers")
    assert "Length 8 ft, width 4 ft, once around 24 ft, 32 squares: 32.0 sq ft in all." in told.text
    rain = open_page(reader, f"/week/lessons/inch-of-rain/pupil?bed={BED_2}&show=answers")
    assert "32.0 sq ft × 1 in is about 20 gal" in rain.text  # 32 sq ft × 1/12 ft = 2.67 cu ft; × 7.48 gal = 19.9
    assert "A straight jar outside" in open_page(reader, "/week/lessons/inch-of-rain/pupil?show=home").text


def test_a_lesson_leads_to_its_pupil_page_for_the_class_and_its_own_bed(reader: TestClient) -> None:
    lesson = open_page(reader, f"/week/lessons/what-a-weed-is?group={DOCKS}&on=2027-04-20")
    link = next(one for one in lesson.links if "/pupil" in one)
    page = open_page(reader, link)
    assert "Grade 2" in page.text
    assert "20 Apr" in page.text
    assert "For pupils · Grade 2 · Bed" in page.text


@pytest.mark.parametrize("key", sorted(lessons()))
def test_every_outline_prints_for_every_kind_of_bed(reader: TestClient, key: str) -> None:
    for name, show in (("Bed 2", "page"), ("Herb corner", "answers"), ("Fence strip", "home")):
        page = open_page(reader, f"/week/lessons/{key}/pupil?bed={bed_id(name)}&show={show}")
        assert page.status == 200, page.text[:300]
        assert "{" not in page.text.split("Colour it in")[0]


def test_a_bed_of_another_school_is_not_shown(reader: TestClient) -> None:
    page = open_page(reader, f"/week/lessons/roots/pupil?bed={'0' * 8}-0000-4000-8000-000000000000")
    assert page.status == 200
    assert "For pupils · Bed 1" in page.text
    assert open_page(reader, "/week/lessons/no-such/pupil").status == 404


def test_a_school_writes_tasks_answers_and_a_version_for_home_of_its_own(client: TestClient) -> None:
    enter(client, "coordinator")
    own = {**NEW, "tasks": "- Count in {bed}.\nDraw {one}.", "answers": "As counted.", "home": "A pot."}
    assert post(client, "/week/lessons", **own).status == 200
    page = open_page(client, f"/week/lessons/counting-worms/pupil?bed={BED_2}")
    assert "Count in Bed 2." in page.text
    assert "Draw {one}." in page.text
    assert "As counted." in open_page(client, "/week/lessons/counting-worms/pupil?show=answers").text
    # A version of one that ships keeps the table that the form does not ask for.
    form = open_page(client, "/week/lessons/roots/edit").form("/week/lessons")
    shipped = open_page(client, "/week/lessons/setting-out/edit").form("/week/lessons")
    changed = post(client, "/week/lessons", **{**shipped.fields, "tasks": "One task of ours."})
    assert changed.status == 200, changed.text[:300]
    page = open_page(client, f"/week/lessons/setting-out/pupil?bed={BED_2}")
    assert "One task of ours." in page.text
    assert "pupil-table" in page.html
    assert form.fields["tasks"].startswith("Draw a whole plant.")


def test_how_it_is_done_by_hand_is_shown_on_the_page(reader: TestClient) -> None:
    page = open_page(reader, f"/week/lessons/thinning/pupil?bed={BED_2}")
    assert "Snip at the soil, do not pull" in page.text
    assert "/static/knacks/thin.svg" in page.html
    assert "/static/knacks/" not in open_page(reader, f"/week/lessons/compost/pupil?bed={BED_2}").html
