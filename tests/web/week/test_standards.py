"""A school's own codes come in as CSV, are attached to lessons, and are covered when those are held."""

from fastapi.testclient import TestClient

from tests.database import NORTH
from tests.web.journal.test_open_gardens import of_another_school
from tests.web.pages import enter, open_page, post, upload
from tests.web.week.test_lessons import DOCKS

LIST = b"code,words,subject,grades\nM.2.1,Measure lengths.,mathematics,2\nS.2.1,=Needs of plants.,science,2-3\n"


def bring_in(client: TestClient, body: bytes = LIST, **fields: str) -> str:
    return upload(client, "/week/standards", "codes.csv", body, **fields).text


def test_a_list_is_brought_in_attached_and_covered_by_what_is_held(client: TestClient) -> None:
    enter(client, "coordinator")
    assert "2 codes taken in." in bring_in(client)
    attached = post(client, "/week/lessons/what-a-weed-is/standards", codes="s.2.1")
    assert "S.2.1" in attached.text
    page = open_page(client, "/week/standards").text
    assert "0 of 1" in page
    assert "Tue 13 9:40, Grade 2: What is a weed? S.2.1" in page  # what this week's jobs could cover
    post(client, "/week/lessons/what-a-weed-is/held", group=DOCKS, day="2027-04-13", action="note")
    covered = open_page(client, "/week/standards").html
    assert 'aria-label="Grade 2, science: 1 of 1"' in covered
    assert 'aria-label="Grade 2, mathematics: 0 of 1"' in covered
    sent = client.get("/week/standards.csv")
    assert "M.2.1,Measure lengths.,mathematics,2" in sent.text
    assert "'=Needs of plants." in sent.text  # no live formula


def test_a_second_list_adds_or_replaces_and_lessons_keep_what_stays(client: TestClient) -> None:
    enter(client, "coordinator")
    bring_in(client)
    post(client, "/week/lessons/roots/standards", codes="M.2.1, S.2.1")
    bring_in(client, b"code,words\nM.2.1,New words.\nX.1,More.\n")
    page = open_page(client, "/week/standards").text
    assert "New words." in page
    assert "S.2.1" in page
    bring_in(client, b"code,words\nM.2.1,New words.\n", only="1")
    assert "S.2.1" not in open_page(client, "/week/standards").text
    assert "M.2.1" in open_page(client, "/week/lessons/roots").text


def test_a_wrong_list_changes_nothing_and_says_what_is_wrong(client: TestClient) -> None:
    enter(client, "coordinator")
    bring_in(client)
    assert "codes.csv, line 3: there is no code." in bring_in(client, b"code,words\nA,x\n,y\n")
    assert "M.2.1" in open_page(client, "/week/standards").text
    assert "M.9 is not on the school's list" in post(client, "/week/lessons/roots/standards", codes="M.9").text.replace(
        "’", "'"
    )


def test_another_schools_list_is_not_seen(client: TestClient) -> None:
    enter(client, "coordinator")
    bring_in(client)
    of_another_school(client)
    assert "M.2.1" not in open_page(client, "/week/standards").text
    with client.app.state.database.school(NORTH) as connection:
        assert connection.execute("SELECT count(*) FROM standard").fetchone() == (2,)
