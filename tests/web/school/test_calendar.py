"""School: the calendar by hand, from a file and out again, and the closure nobody planned."""

import re
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from almanaque.host.postgres import Addresses
from tests.web.conftest import client_for
from tests.web.pages import Page, enter, open_page, post, upload

ICS = """BEGIN:VCALENDAR
VERSION:2.0
PRODID:-//office//EN
{events}END:VCALENDAR
"""


def event(uid: str, name: str, start: str, end: str = "", extra: str = "") -> str:
    until = f"DTEND;VALUE=DATE:{end}\n" if end else ""
    return f"BEGIN:VEVENT\nUID:{uid}\nSUMMARY:{name}\nDTSTART;VALUE=DATE:{start}\n{until}{extra}END:VEVENT\n"


YEAR_FILE = ICS.format(
    events=event("1", "First day of school", "20280823")
    + event("2", "Last day of school", "20290613")
    + event("3", "Winter break - no school", "20281218", "20290102")
    + event("4", "Early release 12:15", "20280906", "", "RRULE:FREQ=MONTHLY;COUNT=5;BYDAY=1WE\n")
    + event("5", "Band practice", "20280905", "", "RRULE:FREQ=WEEKLY;COUNT=30\n")
    + event("6", "Soup day", "20281115")
)


def facts(page: Page) -> dict[str, str]:
    return dict(re.findall(r"<dt>(.*?)</dt><dd>(.*?)</dd>", page.html))


def test_the_day_has_its_place_in_the_school_year(reader: TestClient) -> None:
    found = facts(open_page(reader, "/school"))
    assert found["School days"] == "45 left of 189"
    assert found["Next break"].startswith("Summer break, 17 Jun – 24 Aug; 45 school days")
    assert "Garden club 8" in found["Lessons until then"]
    assert "until 12:00" in facts(open_page(reader, "/school?day=2027-04-28"))["Wed 28 Apr"]
    assert "summer programme meets" in facts(open_page(reader, "/school?day=2028-07-04"))["Tue 4 Jul"]


def test_a_calendar_file_is_looked_at_changed_and_kept(coordinator: TestClient) -> None:
    page = upload(coordinator, "/school/import", "office.ics", YEAR_FILE.encode())
    assert page.status == 200
    assert "School year 2028–29: Wednesday, 23 August 2028 to" in page.text
    assert "1 event that is ignored" in page.text
    form = page.form("/school/import/save")
    fields = dict(form.fields)
    kinds = {
        m[1]: m[2]
        for m in re.finditer(r'name="kind_(\d+)".*?<option selected>(.*?)</option>', page.response.text, re.S)
    }
    assert sorted(kinds.values()) == ["break", "feast", "first day", "half day", "ignored", "last day"]
    band = next(number for number, kind in kinds.items() if kind == "ignored")
    soup = next(number for number, kind in kinds.items() if kind == "feast")
    page = Page(
        coordinator.post(
            "/school/import/save",
            data={
                **fields,
                **{f"kind_{n}": k for n, k in kinds.items()},
                f"kind_{soup}": "closed day",
                f"name_{soup}": "Founders",
            },
        )
    )
    assert page.status == 200
    assert "School year 2028–29" in page.text
    years = open_page(coordinator, "/school?day=2028-11-15")
    assert 'value="Founders"' in years.response.text
    assert "Winter break - no school" in years.response.text
    assert years.response.text.count('value="Early release 12:15"') == 5
    assert f"kind_{band}" not in years.response.text
    assert open_page(coordinator, str(page.response.url).replace("school?", "school/import/preview?")).status in (
        404,
        422,
    )


def test_a_file_of_many_events_can_be_kept(coordinator: TestClient) -> None:
    lines = "".join(f"half day,Day {n},2028-{9 + n // 28:02}-{1 + n % 28:02},\n" for n in range(110))
    many = "".join(f"ignored,Lesson {n},2028-09-01,\n" for n in range(400))
    table = f"kind,name,start,end\nterm,All,2028-08-23,2029-06-13\n{lines}{many}"
    page = upload(coordinator, "/school/import", "many.csv", table.encode())
    fields = {
        f"{name}_{n}": value
        for n in range(511)
        for name, value in (("name", f"Event {n}"), ("ends", ""), ("until", ""))
    }
    fields = {**page.form("/school/import/save").fields, **fields}
    fields.pop("sure", None)
    asked = Page(coordinator.post("/school/import/save", data=fields))
    assert (asked.status, "would have 1 school day" in asked.text) == (422, True)  # its term was made a day long
    fields = {**fields, "sure": "yes", "once": asked.form("/school/import/save").fields["once"]}
    kept = Page(coordinator.post("/school/import/save", data=fields))
    assert kept.status == 200, kept.text
    assert "School year 2028–29" in kept.text
    again = Page(coordinator.post("/school/import/save", data=fields))
    assert (again.status, again.response.url) == (200, kept.response.url)


def test_what_contradicts_itself_is_shown_again_and_nothing_is_half_saved(coordinator: TestClient) -> None:
    page = upload(coordinator, "/school/import", "office.ics", YEAR_FILE.encode())
    fields = dict(page.form("/school/import/save").fields)
    wrong = {**fields, "kind_0": "ignored"}  # no first day any more
    answer = Page(coordinator.post("/school/import/save", data=wrong))
    assert answer.status == 422
    assert "Nothing in the list says when school begins" in answer.text
    assert "2028–29" not in open_page(coordinator, "/school").text


@pytest.mark.parametrize(
    ("name", "body", "says"),
    [
        ("x.ics", b"BEGIN:VCALENDAR\nBEGIN:VEVENT\n", "x.ics, line 2: what begins here"),
        ("x.ics", YEAR_FILE.replace("MONTHLY", "MINUTELY").encode(), "hour or finer"),
        ("x.csv", b"name,start\nBreak,2027-02-30\n", "x.csv, line 2"),
        ("x.csv", "Schluß;x\n".encode("latin-1"), "not UTF-8"),
        ("x.ics", b"B" * 2_100_000, "larger than 2 MB"),
        ("x.ics", YEAR_FILE.replace("2028", "1998").replace("2029", "1999").encode(), "holds no event"),
    ],
)
def test_a_file_that_cannot_be_is_refused_with_its_line(
    coordinator: TestClient, name: str, body: bytes, says: str
) -> None:
    page = upload(coordinator, "/school/import", name, body)
    assert page.status == 422
    assert says in page.text


def test_a_file_far_too_large_is_not_read(coordinator: TestClient) -> None:
    for path, size, most in (("/school/import", 2_300_000, "2 MB"), ("/school/weather/import", 9_000_000, "8 MB")):
        page = upload(coordinator, path, "x.csv", b"x" * size)
        assert page.status == 413
        assert f"More than {most}" in page.text


def test_own_words_are_recognised_and_emptied_lists_go_back(coordinator: TestClient) -> None:
    page = post(coordinator, "/school/import/words", words_feast="pancake morning\nband practice")
    assert "pancake morning" in page.response.text
    assert "2 MB" in page.text
    shown = upload(coordinator, "/school/import", "office.ics", YEAR_FILE.encode())
    assert shown.response.text.count('value="Band practice"') == 30  # as feasts they stand one by one
    page = post(coordinator, "/school/import/words", words_feast="")
    assert "pancake morning" not in page.response.text


ASKED = """2028-29
Aug 23  First day of school
Oct 2-6  Harvest Week
Nov 22-24  Thanksgiving break
Dec 20 - Jan 2  Winter break
June 13  Last day of school
"""


def test_a_pasted_list_is_looked_at_as_a_year_that_follows_every_answer(coordinator: TestClient) -> None:
    page = post(coordinator, "/school/import", pasted=ASKED)
    assert "Harvest Week, Mon 2 Oct to Fri 6 Oct. “Harvest Week” has no word for closed" in page.text
    fields = dict(page.form("/school/import/save").fields)
    (number,) = re.findall(r'id="asked-(\d+)"', page.html)
    assert 'class="is-off is-asked" title="Mon 2 Oct, no school: Harvest Week"' in page.html
    looked = Page(coordinator.post("/school/import/look", data={**fields, f"kind_{number}": "ignored"}))
    assert 'class="is-school is-asked" title="Mon 2 Oct, school"' in looked.html
    assert "2028–29" not in open_page(coordinator, "/school").text
    kept = Page(coordinator.post("/school/import/save", data={**fields, f"kind_{number}": "ignored"}))
    assert kept.status == 200
    months = open_page(coordinator, "/school?day=2028-10-03").html
    assert "Tue 3 Oct, school" in months
    assert "Thu 23 Nov, no school: Thanksgiving break" in months


def test_a_year_of_one_day_is_asked_about_before_it_is_kept(coordinator: TestClient) -> None:
    one_day = "kind,name,start,end\nfirst day,First,2028-08-23,\nlast day,Last,2028-08-23,\n"
    page = upload(coordinator, "/school/import", "office.csv", one_day.encode())
    assert "would have 1 school day. Is something missing?" in page.text
    fields = {k: v for k, v in page.form("/school/import/save").fields.items() if k != "sure"}
    assert Page(coordinator.post("/school/import/save", data=fields)).status == 422
    assert "2028–29" not in open_page(coordinator, "/school").text


def test_a_slip_in_one_row_keeps_what_was_typed_in_the_others_and_all_slips_are_told(coordinator: TestClient) -> None:
    page = upload(coordinator, "/school/import", "office.ics", YEAR_FILE.encode())
    fields = dict(page.form("/school/import/save").fields)
    days = [name.removeprefix("starts_") for name in fields if name.startswith("starts_")]
    half = next(name for name in fields if name.startswith("until_"))
    slips = {f"ends_{days[0]}": "2020-01-01", half: "noon", f"name_{days[1]}": "A name of ours"}
    looked = Page(coordinator.post("/school/import/look", data={**fields, **slips}))
    refused = Page(coordinator.post("/school/import/save", data={**fields, **slips}))
    assert (looked.status, refused.status) == (200, 422)
    for answer in (looked, refused):
        assert answer.form("/school/import/save").fields[half] == "noon"
        assert 'value="A name of ours"' in answer.html
        assert f'href="#ends-{days[0]}"' in answer.html
        assert f'aria-describedby="wrong-ends-{days[0]}"' in answer.html
        assert f'aria-describedby="wrong-{half.replace("_", "-")}"' in answer.html
    assert "2028–29" not in open_page(coordinator, "/school").text


def test_a_list_that_cannot_be_read_stands_again_with_the_reason(coordinator: TestClient) -> None:
    page = post(coordinator, "/school/import", pasted="Sept 7 Labor Day")
    assert page.status == 422
    assert "pasted.txt, line 1: the day has no year" in page.text
    assert "Sept 7 Labor Day</textarea>" in page.html


def test_public_holidays_are_offered_and_none_is_added_unasked(coordinator: TestClient) -> None:
    page = open_page(coordinator, "/school/holidays?country=US&region=NY&year=2026%E2%80%9327")
    boxes = [a for tag, a in page.tags if tag == "input" and a.get("name") == "take"]
    assert len(boxes) > 8
    assert not any("checked" in box for box in boxes)
    memorial = next(box["value"] for box in boxes if "Memorial" in box["value"])
    post(coordinator, "/school/holidays", take=memorial)
    assert 'value="Memorial Day"' in open_page(coordinator, "/school").response.text
    assert "none is added unasked" in post(coordinator, "/school/holidays").text.lower()
    assert open_page(coordinator, "/school/holidays?country=XX").status == 422
    assert open_page(coordinator, "/school/holidays?country=US&region=ZZ").status == 422


def test_the_calendar_goes_out_and_comes_back(coordinator: TestClient) -> None:
    answer = coordinator.get("/school/calendar.ics?what=calendar")
    assert answer.headers["content-type"].startswith("text/calendar")
    assert "SUMMARY:No school: Spring break" in answer.text
    table = coordinator.get("/school/calendar.csv").text
    assert "break,Spring break,2027-03-20,2027-03-28" in table
    page = upload(coordinator, "/school/import", "back.csv", table.encode())
    assert "189 school days, usual anywhere is 165 to 205" in page.text
    assert "A year for this time is on file" in page.text
    assert coordinator.get("/school/calendar.ics?what=everything").status_code == 422


def test_a_private_address_needs_no_login_and_can_be_taken_back(coordinator: TestClient, demo: Addresses) -> None:
    page = post(coordinator, "/school/feeds", label="Kitchen", what="both")
    made = next(a["value"] for tag, a in page.tags if tag == "input" and a.get("id") == "made")
    with client_for(demo) as stranger:
        path = made.split("testserver")[1]
        answer = stranger.get(path)
        assert answer.status_code == 200
        assert "BEGIN:VCALENDAR" in answer.text
        assert "set-cookie" not in answer.headers
        revoke = next(f.action for f in open_page(coordinator, "/school/feeds").forms if "/revoke" in f.action)
        post(coordinator, revoke)
        assert stranger.get(path).status_code == 404
        assert stranger.get("/feeds/guessed.ics").status_code == 404


def test_a_sudden_closure_is_one_step_and_shows_what_it_does(coordinator: TestClient) -> None:
    page = post(
        coordinator,
        "/school/closures",
        id=str(uuid4()),
        name="Storm",
        starts="2027-04-14",
        ends="",
        why="until further notice",
    )
    assert "until further notice: 45 school days lost" in page.text
    assert re.search(r"\d+ jobs want somebody · \d+ seedbeds at risk · \d+ pickings? move", page.text)
    assert "The seedbed of Carrot in Bed 5 may dry out." in page.text
    assert "No school: Storm" in open_page(coordinator, "/week").text
    reopened = post(coordinator, page.form(str(page.response.url.path) + "/reopen").action, day="2027-04-19")
    assert "Saved." in reopened.text
    assert "No school: Storm" in open_page(coordinator, "/week").text
    assert "No school" not in open_page(coordinator, "/week?day=2027-04-20").text


def test_years_half_days_and_feasts_are_added_and_deleted(coordinator: TestClient) -> None:
    year = str(uuid4())
    page = post(coordinator, "/school/years", id=year, name="", starts="2028-08-23", ends="")
    assert "School year 2028–29" in page.text
    half = str(uuid4())
    post(
        coordinator,
        "/school/spans",
        kind="half_day",
        year=year,
        id=half,
        name="Evening",
        starts="2028-10-02",
        until="11:45",
    )
    assert 'value="11:45"' in open_page(coordinator, "/school?day=2028-10-02").response.text
    refused = post(
        coordinator,
        "/school/spans",
        kind="half_day",
        year=year,
        id=str(uuid4()),
        name="Bad",
        starts="2028-10-03",
        until="25:00",
    )
    assert (refused.status, "not a time of day" in refused.text) == (422, True)
    assert 'value="Bad"' in refused.response.text
    post(coordinator, "/school/spans", kind="feast", year=year, id=str(uuid4()), name="Corn day", starts="2028-10-04")
    post(
        coordinator,
        "/school/spans",
        kind="term",
        year=year,
        id=str(uuid4()),
        name="Garden weeks",
        starts="2029-07-02",
        ends="2029-07-13",
        sort="summer programme",
    )
    shown = open_page(coordinator, "/school?day=2029-07-03")
    assert "The summer programme meets" in shown.text
    post(coordinator, "/school/spans", kind="half_day", year=year, id=half, action="delete")
    assert 'value="Evening"' not in open_page(coordinator, "/school?day=2028-10-02").response.text
    post(coordinator, "/school/years", id=year, action="delete")
    assert (
        "No school year is on file for Monday, 2 October 2028" in open_page(coordinator, "/school?day=2028-10-02").text
    )


def test_who_may_not_change_the_calendar_reads_each_list_once(client: TestClient) -> None:
    enter(client, "educator")
    text = open_page(client, "/school").response.text
    for title in ("Terms", "Breaks and closed days", "Half days", "Dates to serve"):
        assert text.count(f"<h3>{title}</h3>") == 1, title
