"""Lessons in Week: offered to classes, on one page, held, and the school's own."""

import re

import psycopg
import pytest
from fastapi.testclient import TestClient

from almanaque.demo import load
from almanaque.host.postgres import Addresses
from tests.web.pages import enter, open_page, post

DOCKS = str(load.demo_id("Brindlecombe School", "group", "Docks"))
NEW = {
    "key": "",
    "title": "Counting worms",
    "aim": "Count worms in a square of soil.",
    "question": "How many live under our bed?",
    "doing": "- Dig out one square.\n\n• Count on a white tray.\r\nPut them back.",
    "notebook": "A number and a guess.",
    "words": "worm, sample; estimate",
    "materials": "tray, spade",
    "minutes": "30",
    "ages_from": "6",
    "months": "4, 5",
    "subject": "science",
    "curriculum": "Our own page 12.",
    "caution": "",
    "crops": "",
    "groups": "",
}


def test_each_class_of_the_week_is_offered_what_is_due_for_it(reader: TestClient) -> None:
    page = open_page(reader, "/week/lessons")
    assert re.search(
        r"Tue 13 9:40 Grade 2 What is a weed\? weeding is due|Tue 13 9:40 Grade 2 Keeping watch over a seedbed",
        page.text,
    )
    assert re.search(r"(Where did the leaves go\?|Worms at work) the compost is to be turned", page.text)
    assert page.text.count("35 min") >= 8
    week = open_page(reader, "/week")
    assert "How large is our bed?" in week.text
    assert "a bed is to be prepared" in week.text


def test_a_lesson_is_one_page_for_its_class_and_day(reader: TestClient) -> None:
    page = open_page(reader, f"/week/lessons/what-a-weed-is?group={DOCKS}&on=2027-04-20")
    assert "Grade 2, Tue 20 Apr" in page.text
    for words in (
        "Aim. Tell three plants",
        "Is a sunflower in the carrots a weed?",
        "What we do",
        "Notebook page",
        "Words to learn",
        "taproot",
        "Materials",
        "hand forks",
    ):
        assert words in page.text, words
    assert open_page(reader, "/week/lessons/what-a-weed-is?on=soon").status == 422
    assert open_page(reader, "/week/lessons/what-a-weed-is?group=x").status == 200
    assert open_page(reader, "/week/lessons/nothing").status == 404


def of_grade_2(client: TestClient) -> str:
    """What is offered to Grade 2 this week."""
    found = re.search(r"Tue 13 9:40 Grade 2 (.*?) Tue 13 13:10", open_page(client, "/week/lessons").text)
    assert found
    return found[1]


def test_a_lesson_that_was_held_is_not_offered_again_that_year(coordinator: TestClient) -> None:
    path = "/week/lessons/a-moist-seedbed"
    assert "Keeping watch" in of_grade_2(coordinator)
    page = post(coordinator, f"{path}/held", group=DOCKS, day="2027-04-13")
    assert "Grade 2, 13 Apr" in page.text
    post(coordinator, f"{path}/held", group=DOCKS, day="2027-04-13")
    assert open_page(coordinator, path).text.count("Grade 2, 13 Apr") == 1 + open_page(coordinator, path).text.count(
        "take back : Grade 2, 13 Apr"
    )
    assert "Keeping watch" not in of_grade_2(coordinator)
    back = post(coordinator, f"{path}/held", group=DOCKS, day="2027-04-13", action="forget")
    assert "Not yet." in back.text


@pytest.mark.parametrize(
    ("data", "status"),
    [
        ({"group": DOCKS, "day": "2027-04-15"}, 422),
        ({"group": DOCKS, "day": "x"}, 422),
        ({"group": "x", "day": "2027-04-13"}, 422),
        ({"group": str(load.demo_id("Tallowbank School", "group", "Terns")), "day": "2027-04-13"}, 404),
    ],
)
def test_what_was_not_held_is_not_noted(coordinator: TestClient, data: dict, status: int) -> None:
    assert post(coordinator, "/week/lessons/compost/held", **data).status == status
    assert "Not yet." in open_page(coordinator, "/week/lessons/compost").text


def test_a_lesson_of_one_s_own_is_kept_offered_changed_and_taken_out(coordinator: TestClient) -> None:
    page = post(coordinator, "/week/lessons", **NEW)
    assert page.response.url.path == "/week/lessons/counting-worms"
    assert "Dig out one square. Count on a white tray. Put them back." in page.text
    assert "Our own page 12." in page.text
    assert "· your own" in open_page(coordinator, "/week/lessons").text
    fields = open_page(coordinator, "/week/lessons/counting-worms/edit").form("/week/lessons").fields
    assert fields["words"] == "worm, sample, estimate"
    changed = post(coordinator, "/week/lessons", **{**NEW, "key": "counting-worms", "title": "Counting all worms"})
    assert "Counting all worms" in changed.text
    second = post(coordinator, "/week/lessons", **NEW)
    assert second.response.url.path == "/week/lessons/counting-worms-2"
    post(coordinator, "/week/lessons/counting-worms/delete")
    assert open_page(coordinator, "/week/lessons/counting-worms").status == 404


def test_a_version_of_one_that_ships_goes_before_it_until_it_is_taken_out(coordinator: TestClient) -> None:
    post(coordinator, "/week/lessons", **{**NEW, "key": "compost", "title": "Our heap"})
    assert "Our heap" in open_page(coordinator, "/week/lessons/compost").text
    post(coordinator, "/week/lessons/compost/delete")
    assert "Where did the leaves go?" in open_page(coordinator, "/week/lessons/compost").text
    assert post(coordinator, "/week/lessons/compost/delete").status == 404


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"title": "x"}, "title"),
        ({"doing": " \n - "}, "doing"),
        ({"minutes": "500"}, "minutes"),
        ({"ages_from": "two"}, "age"),
        ({"months": "4, 13"}, "month"),
        ({"crops": "unobtainium"}, "There is no crop"),
        ({"steps": "dance"}, "no step"),
        ({"aim": "x" * 400}, "aim"),
        ({"key": "not-there"}, "There is no such lesson"),
    ],
)
def test_a_lesson_that_cannot_be_is_refused_and_nothing_is_kept(
    coordinator: TestClient, change: dict, said: str
) -> None:
    page = post(coordinator, "/week/lessons", **{**NEW, **change})
    assert page.status in (404, 422)
    assert said in page.text
    assert "· your own" not in open_page(coordinator, "/week/lessons").text


def test_a_helper_notes_what_was_held_and_writes_no_lesson(client: TestClient) -> None:
    enter(client, "helper")
    assert "We held it" in open_page(client, "/week/lessons/compost").text
    assert "Change it" not in open_page(client, "/week/lessons/compost").text
    assert post(client, "/week/lessons", **NEW).status == 403
    assert open_page(client, "/week/lessons/new").status == 403


def test_a_step_that_is_no_longer_known_takes_no_lesson_away(coordinator: TestClient, demo: Addresses) -> None:
    post(coordinator, "/week/lessons", **{**NEW, "steps": "thin"})
    with psycopg.connect(demo.owner) as owner:
        owner.execute("UPDATE own_lesson SET outline = jsonb_set(outline, '{steps}', '[\"thin\", \"gone\"]')")
    assert "Counting worms" in open_page(coordinator, "/week/lessons").text


def test_a_week_that_is_over_asks_for_nothing(reader: TestClient) -> None:
    over = open_page(reader, "/week?day=2026-10-07").text
    assert "No jobs were given to it." in over
    for asked in ("Free for a tour of the beds", "it belongs to October", "Worm box:", "Bird seed:", "rounds taken"):
        assert asked not in over, asked
    now = open_page(reader, "/week")
    assert "Worm box:" in now.text
    assert "lesson-offer" in now.response.text
