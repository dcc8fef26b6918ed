"""A job's own page: another lesson, what became of it, and sharing all out anew from Week."""

import re
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from almanaque.demo import load
from tests.web.pages import Page, enter, open_page, post


def jobs_of_week(client: TestClient, day: str = "") -> dict[str, str]:
    """Addresses of jobs by their titles."""
    found = re.findall(
        r'<a class="job-title" href="(/tasks/[0-9a-f-]{36})[^"]*">([^<]+)<',
        open_page(client, f"/week{day}").response.text,
    )
    return {title: path for path, title in found}


def job(client: TestClient, words: str, day: str = "") -> str:
    return next(path for title, path in jobs_of_week(client, day).items() if words in title)


def test_a_job_says_who_does_it_when_and_why(reader: TestClient) -> None:
    page = open_page(reader, job(reader, "Prepare 6 squares for beet"))
    assert "Prepare 6 squares for beet: compost, water, string Bed 3 · 25 min · due" in page.text
    assert "Grade 3, Fri 16 Apr Grade 3 adopted this bed." in page.text
    assert "Gloves or clean hands" in page.text
    assert re.search(r"Fri 16 Apr 9:20, Grade 3: 45 min free", page.text)
    assert "outside its days" in page.text


def test_put_into_another_lesson_it_stays_there_until_the_rules_have_it_again(coordinator: TestClient) -> None:
    path = job(coordinator, "Prepare 6 squares for beet")
    page = open_page(coordinator, path)
    value = re.search(r'<option value="([^"]+)">Thu 15 Apr 14:00, Grade 5', page.response.text)
    assert value
    moved = post(coordinator, f"{path}/lesson", lesson=value[1])
    assert "Grade 5, Thu 15 Apr Set by hand." in moved.text
    week = open_page(coordinator, "/week")
    assert re.search(
        r"Grade 5 Bed 3[^·]* · 25 children · 45 min .*Prepare 6 squares for beet[^·]*· 25 min · set by hand", week.text
    )
    post(coordinator, "/week/share")
    assert "Set by hand." in open_page(coordinator, path).text
    back = post(coordinator, f"{path}/lesson", lesson="rules")
    assert "Set by hand." not in back.text
    assert "Leave it to the rules again" not in back.text


def test_jobs_are_shared_out_anew_and_the_week_says_how_many_moved(coordinator: TestClient) -> None:
    first = post(coordinator, "/week/share")
    assert re.search(r"\d+ jobs? found another lesson\.|Every job is where it belongs already\.", first.text)
    assert "Every job is where it belongs already." in post(coordinator, "/week/share").text
    assert "found another" not in open_page(coordinator, "/week?shared=%3Cb%3E").text


def test_done_in_part_with_an_amount_shows_on_the_week(coordinator: TestClient) -> None:
    path = job(coordinator, "Keep the radish seedbed moist")
    page = post(
        coordinator,
        f"{path}/told",
        what="partly",
        minutes="15",
        amount="three barrows of weeds",
        note="roots left by the fence",
    )
    assert "done in part 14 Apr" in page.text
    assert "done in part · three barrows of weeds" in open_page(coordinator, "/week").text
    done = post(coordinator, f"{path}/told", what="done", minutes="20", amount="", note="")
    assert "done 14 Apr" in done.text
    again = post(coordinator, f"{path}/told", what="open")
    assert "Put it there" in again.text


def test_not_needed_is_off_the_week(coordinator: TestClient) -> None:
    path = job(coordinator, "Keep the radish seedbed moist")
    page = post(coordinator, f"{path}/told", what="not needed")
    assert "not needed" in page.text
    assert path not in jobs_of_week(coordinator).values()


@pytest.mark.parametrize(
    ("form", "data", "said"),
    [
        ("told", {"what": "eaten"}, "none of the choices"),
        ("told", {"minutes": "-3"}, "whole number from 0"),
        ("told", {"day": "2027-04-15"}, "from its day on"),
        ("told", {"amount": "x" * 81}, "80 characters"),
        ("lesson", {"lesson": ""}, "Choose a lesson"),
        ("lesson", {"lesson": f"2027-04-16|{uuid4()}"}, "no such class"),
        ("lesson", {"lesson": "someday|x"}, ""),
        ("lesson", {"lesson": "2027-04-15|"}, "Choose a lesson"),
    ],
)
def test_what_cannot_be_is_refused_in_words(coordinator: TestClient, form: str, data: dict, said: str) -> None:
    path = job(coordinator, "Keep the radish seedbed moist")
    before = open_page(coordinator, path).text.split("Keys")[0]
    page = post(coordinator, f"{path}/{form}", **data)
    assert page.status == 422
    assert said in page.text
    assert open_page(coordinator, path).text.split("Keys")[0] == before


def test_a_class_without_a_lesson_that_day_is_refused(coordinator: TestClient) -> None:
    path = job(coordinator, "Prepare 6 squares for beet")
    group = re.search(r'<option value="2027-04-\d\d\|([0-9a-f-]{36})"', open_page(coordinator, path).response.text)
    assert group
    page = post(coordinator, f"{path}/lesson", lesson=f"2027-04-18|{group[1]}")
    assert "That class has no garden lesson on that day." in page.text


def test_a_helper_tells_what_became_of_it_but_moves_nothing(client: TestClient) -> None:
    enter(client, "helper")
    path = job(client, "Keep the radish seedbed moist")
    page = open_page(client, path)
    assert "What became of it" in page.text
    assert "Put it there" not in page.text
    assert post(client, f"{path}/lesson", lesson="nobody").status == 403
    assert post(client, f"{path}/told", what="done").status == 200


def test_a_job_of_nobody_or_of_another_school_is_not_there(coordinator: TestClient) -> None:
    for page in (
        open_page(coordinator, f"/tasks/{uuid4()}"),
        post(coordinator, f"/tasks/{uuid4()}/told", what="done"),
        post(coordinator, f"/tasks/{uuid4()}/lesson", lesson="nobody"),
        open_page(coordinator, "/tasks/nonsense"),
    ):
        assert isinstance(page, Page)
        assert page.status == 404


def test_a_job_cannot_be_put_on_a_holiday(coordinator: TestClient) -> None:
    path = job(coordinator, "Prepare 6 squares for beet")
    cedars = load.demo_id(
        "Brindlecombe School", "group", "Cedars"
    )  # their lesson is on Fridays; 14 May is the valley fair
    page = post(coordinator, f"{path}/lesson", lesson=f"2027-05-14|{cedars}")
    assert page.status == 422
    assert "That class has no garden lesson on that day." in page.text
    assert post(coordinator, f"{path}/lesson", lesson=f"2027-05-21|{cedars}").status == 200
