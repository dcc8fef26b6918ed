"""The whole garden by a link: what it tells, to whom, for how long; and what comes back from home, held until it is let in."""

import gzip
import io
from uuid import UUID, uuid4

import pytest
from fastapi.testclient import TestClient
from PIL import Image

from almanaque.demo import load
from almanaque.host.postgres import Addresses
from almanaque.store.db import Database
from almanaque.web import security
from almanaque.web.journal import open_garden_page
from tests.database import NORTH, SOUTH, bed_id
from tests.web.journal.test_letters_and_signs import address, groups
from tests.web.journal.test_phone import send_photo
from tests.web.pages import Page, enter, open_page, post

BED_2 = str(bed_id("Bed 2"))
MAKE = "/journal/open"


def picture(colour: str = "green") -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (640, 480), colour).save(out, "JPEG")
    return out.getvalue()


def make(client: TestClient, audience: str = "families", **more: object) -> Page:
    fields: dict[str, object] = {
        "audience": audience,
        "greeting": "Hello from the garden",
        "since": "2027-03-20",
        "until": "2027-08-01",
        "tasks": f"{BED_2} rain jar",
        **more,
    }
    return post(client, MAKE, **fields)  # type: ignore[arg-type]


def linked(client: TestClient, audience: str = "families", **more: object) -> str:
    page = make(client, audience, **more)
    assert page.status == 200, page.text[:400]
    return address(page)


def answer(client: TestClient, where: str, body: bytes | None = None, **typed: str) -> Page:
    page = open_page(client, where)
    form = next(f for f in page.forms if f.action.endswith("/answers"))
    hidden = {name: form.fields[name] for name in ("form_token", "bed")}
    files = {"file": ("jar.jpg", body, "image/jpeg")} if body else {"file": ("", b"", "application/octet-stream")}
    return Page(client.post(form.action, data={**hidden, **typed}, files=files))


def of_another_school(client: TestClient) -> None:
    """The educator, who also coordinates another school, is there now."""
    enter(client, "educator")
    theirs = str(SOUTH)
    assert post(client, "/schools", school=theirs).status == 200
    assert "Tallowbank" in open_page(client, MAKE).text


def test_the_garden_is_told_bed_by_bed_to_whoever_has_the_link(client: TestClient) -> None:
    enter(client, "coordinator")
    where = linked(client, groups(client)["Grade 2"])
    client.cookies.clear()
    page = open_page(client, where)
    assert page.status == 200
    assert "Hello from the garden" in page.text
    assert "Planted by you on 30 Mar 2027, when you were Grade 2." in page.text
    assert "It was 12 in high on 12 Apr; by its forecast" in page.text
    assert "while school is closed" in page.text
    assert "Look for:" in page.text
    assert "A rain jar" in page.text
    names = [bed for bed in ("Bed 1", "Bed 2", "Bed 8", "Herb corner") if f'aria-label="{bed} from above' in page.html]
    assert names == ["Bed 1", "Bed 2", "Bed 8", "Herb corner"]
    assert page.response.headers["x-robots-tag"] == "noindex, nofollow"
    assert page.response.headers["cache-control"] == "no-store"
    for login in load.LOGINS:
        assert login.name not in page.text
    for team in ("The Moles", "The Owls", "Something nibbles"):
        assert team not in page.text


def test_families_are_not_told_which_class_it_was(client: TestClient) -> None:
    enter(client, "coordinator")
    where = linked(client, "families")
    client.cookies.clear()
    text = open_page(client, where).text
    assert "Grade" not in text
    assert "your bed" not in text


def test_a_page_and_all_its_pictures_weigh_less_than_300_kb(client: TestClient) -> None:
    enter(client, "helper")
    for number, bed in enumerate(("Bed 1", "Bed 2", "Bed 3")):
        send_photo(client, picture(), UUID(int=900 + number), bed=str(bed_id(bed)))
    enter(client, "coordinator")
    where = linked(client, photos=[str(UUID(int=900 + number)) for number in range(3)])
    client.cookies.clear()
    page = open_page(client, where)
    assets = {
        given.get("src") or given.get("href", "")
        for tag, given in page.tags
        if tag in ("img", "image", "use", "script") or (tag == "link" and given.get("rel") in ("stylesheet", "preload"))
    }
    assert sum(1 for one in assets if "/photos/" in one) == 3
    weight = 0
    for href in [where, *(one.split("#")[0] for one in assets)]:
        sent = client.get(href)
        packed = sent.headers["content-type"].startswith(("text/", "image/svg"))
        weight += len(gzip.compress(sent.content) if packed else sent.content)
    assert 30_000 < weight < 300_000


def test_only_chosen_photos_are_shown(client: TestClient) -> None:
    enter(client, "helper")
    chosen, other = uuid4(), uuid4()
    for photo in (chosen, other):
        send_photo(client, picture(), photo, bed=BED_2, caption="Pea seedlings")
    enter(client, "coordinator")
    where = linked(client, photos=str(chosen))
    client.cookies.clear()
    assert f"{where}/photos/{chosen}" in open_page(client, where).html
    assert client.get(f"{where}/photos/{chosen}").headers["content-type"] == "image/jpeg"
    assert client.get(f"{where}/photos/{other}").status_code == 404


def test_a_link_ends_when_it_is_ended_or_out_of_date_and_cannot_be_guessed(client: TestClient, demo: Addresses) -> None:
    enter(client, "coordinator")
    where, lasting = linked(client), linked(client)
    end = next(f for f in open_page(client, MAKE).forms if f.action.endswith("/end"))
    both = [open_page(client, where).status, open_page(client, lasting).status]
    assert both == [200, 200]
    client.post(end.action, data=end.fields)
    assert sorted([open_page(client, where).status, open_page(client, lasting).status]) == [200, 404]
    assert open_page(client, where[:-4] + "aaaa").status == 404
    database = Database(demo.app, max_size=2)
    database.open()
    with database.school(NORTH) as connection:
        connection.execute("UPDATE open_garden SET expires_at = now() - interval '1 second'")
    database.close()
    assert open_page(client, where).status == open_page(client, lasting).status == 404
    refused = client.post(f"{lasting}/answers", data={"bed": BED_2, "done": "1"})
    assert refused.status_code == 403


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"until": "2027-04-01"}, "A link ends today or later"),
        ({"until": "2029-04-01"}, "within 400 days"),
        ({"since": "2027-06-01"}, "Choose a day before today"),
        ({"greeting": "x" * 2001}, "longer than 2,000 characters"),
        ({"audience": str(uuid4())}, "no such class"),
        ({"photos": [str(uuid4()) for _ in range(41)]}, "at most 40 photos"),
    ],
)
def test_a_link_that_cannot_be_is_refused_and_what_was_typed_stays(
    coordinator: TestClient, fields: dict[str, object], words: str
) -> None:
    page = make(coordinator, **fields)  # type: ignore[arg-type]
    assert (page.status, words in page.text) == (422, True), page.text[:300]
    assert fields.get("greeting", "Hello from the garden") in page.text  # type: ignore[operator]


def test_an_answer_is_held_until_it_is_let_in_and_stands_in_the_journal_then(client: TestClient) -> None:
    enter(client, "coordinator")
    where = linked(client)
    client.cookies.clear()
    sent = answer(client, where, picture(), done="1", counted="12", line="It rained cats", nobody="1")
    assert sent.status == 200
    assert "Thank you" in sent.text
    enter(client, "coordinator")
    assert "It rained cats" not in open_page(client, "/journal").text
    waits = open_page(client, MAKE)
    assert "12" in waits.text
    assert "It rained cats" in waits.text
    form = next(f for f in waits.forms if f.action.endswith("/open/answers"))
    assert client.get(f"/journal/open/answers/{form.fields['shown']}/photo").headers["content-type"] == "image/jpeg"
    fields = {**form.fields, "ticked": form.fields["shown"]}
    client.post(form.action, data=fields)
    journal = open_page(client, "/journal").text
    assert "From home. 1 home did “A rain jar”. Millimetres of rain in a week: 12. “It rained cats”" in journal
    assert "From home: A rain jar" in open_page(client, "/journal?what=photo").html
    assert "Nothing waits" in open_page(client, MAKE).text
    client.post(form.action, data={**fields, "once": str(uuid4())})
    assert open_page(client, "/journal").text.count("It rained cats") == 1


def test_who_answers_again_after_it_was_let_in_is_told_and_nothing_is_lost_in_silence(client: TestClient) -> None:
    enter(client, "coordinator")
    where = linked(client)
    reader = TestClient(client.app, base_url="http://testserver", raise_server_exceptions=False)
    answer(reader, where, counted="3")
    form = next(f for f in open_page(client, MAKE).forms if f.action.endswith("/open/answers"))
    client.post(form.action, data={**form.fields, "ticked": form.fields["shown"]})
    again = answer(reader, where, counted="4")
    assert (again.status, "stands in the journal of the garden already" in again.text) == (422, True)
    assert 'value="4"' in again.html
    assert "Nothing waits" in open_page(client, MAKE).text


def test_what_is_not_ticked_is_deleted_and_nobody_else_sees_it(client: TestClient) -> None:
    enter(client, "coordinator")
    where = linked(client)
    client.cookies.clear()
    answer(client, where, line="Rude words")
    of_another_school(client)
    assert "Rude words" not in open_page(client, MAKE).text
    enter(client, "coordinator")
    form = next(f for f in open_page(client, MAKE).forms if f.action.endswith("/open/answers"))
    of_another_school(client)
    post(client, "/journal/open/answers", shown=form.fields["shown"], ticked=form.fields["shown"])
    assert client.get(f"/journal/open/answers/{form.fields['shown']}/photo").status_code == 404
    enter(client, "coordinator")
    post(client, "/journal/open/answers", shown=form.fields["shown"])
    assert "Nothing waits" in open_page(client, MAKE).text
    assert "Rude words" not in open_page(client, "/journal").text


def test_a_browser_answers_a_task_once_and_the_last_word_holds(client: TestClient) -> None:
    enter(client, "coordinator")
    where = linked(client)
    client.cookies.clear()
    answer(client, where, counted="3")
    again = answer(client, where, counted="5")
    assert "Thank you" in again.text
    assert "You have answered this already" in open_page(client, where).text
    client.cookies.clear()
    answer(client, where, counted="9")
    enter(client, "coordinator")
    assert (
        "2 homes did “A rain jar”. Millimetres of rain in a week: 5, 9, from 5 to 9, in the middle 7."
        in open_page(client, MAKE).text
    )
    form = next(f for f in open_page(client, MAKE).forms if f.action.endswith("/open/answers"))
    post(client, "/journal/open/answers", shown=form.fields["shown"])


@pytest.mark.parametrize(
    ("typed", "body", "words"),
    [
        ({}, None, "Tick that it is done"),
        ({"counted": "lots"}, None, "That is no number"),
        ({"counted": "1", "line": "x" * 301}, None, "Say it shorter"),
        ({"done": "1"}, picture(), "nobody can be recognised"),
        ({"done": "1", "nobody": "1"}, b"no picture at all", "no picture"),
    ],
)
def test_an_answer_that_cannot_be_is_refused_by_its_task_with_what_was_typed(
    client: TestClient, typed: dict[str, str], body: bytes | None, words: str
) -> None:
    enter(client, "coordinator")
    where = linked(client)
    client.cookies.clear()
    page = answer(client, where, body, **typed)
    assert (page.status, words in page.text) == (422, True), page.text[-600:]
    if typed.get("counted"):
        assert f'value="{typed["counted"]}"' in page.html


def test_what_comes_is_limited_and_a_form_of_another_page_is_refused(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    enter(client, "coordinator")
    where = linked(client)
    client.cookies.clear()
    monkeypatch.setattr("almanaque.commands.journal.home_answers.MOST_WAITING", 1)
    assert answer(client, where, counted="3").status == 200
    client.cookies.clear()
    full = answer(client, where, counted="4")
    assert (full.status, "Come again tomorrow" in full.text) == (422, True)
    open_page(client, where)
    assert client.post(f"{where}/answers", data={"bed": BED_2, "done": "1"}).status_code == 403
    other = answer(client, where, bed=str(bed_id("Bed 1")), done="1")
    assert (other.status, "no longer asked" in other.text) == (422, False)  # said at no bed: it has no such form
    large = client.post(
        f"{where}/answers",
        content=b"x" * (open_garden_page.PHOTO_BYTES + security.FORM_BYTES + 1),
        headers={"Content-Type": "multipart/form-data; boundary=x"},
    )
    assert large.status_code == 413


def test_partners_read_what_came_and_what_became_of_it_and_nobody_is_named(client: TestClient) -> None:
    enter(client, "coordinator")
    where = linked(
        client, "partners", since="2026-08-24", greeting="This is how the garden is doing while you are away."
    )
    client.cookies.clear()
    page = open_page(client, where)
    assert "Thank you for helping our garden." in page.text
    assert "A grant of 60.00 USD for Seed for the spring" in page.text
    assert "Seed, spring order: 34.80 USD" in page.text
    assert "44.5 lb came in, in 10 pickings." in page.text
    assert "Tomato 20.5 lb · 2 pickings" in page.text
    assert "Kitchen: 18.0 lb" in page.text
    assert "/portraits/tomato/ripe-side" in page.html
    assert page.response.headers["x-robots-tag"] == "noindex, nofollow"
    for word in ("families at the gate", "a seed house", *(login.name for login in load.LOGINS)):
        assert word not in page.text


def test_a_viewer_looks_and_makes_nothing(client: TestClient) -> None:
    enter(client, "viewer")
    assert "Make a link" not in open_page(client, MAKE).text
    assert make(client).status == 403


def test_the_form_opens_with_a_task_for_each_bed_and_no_photo(coordinator: TestClient) -> None:
    grade = groups(coordinator)["Grade 2"]
    page = open_page(coordinator, f"{MAKE}?group={grade}")
    chosen = [given["value"] for tag, given in page.tags if tag == "option" and "selected" in given]
    assert grade in chosen
    assert sum(f"{BED_2} " in value for value in chosen) == 1
    assert not [given for tag, given in page.tags if given.get("name") == "photos" and "checked" in given]
