"""What is shown to others: a letter under a secret address, signs that everybody may see, and what neither of them tells."""

import io
import re
from uuid import UUID, uuid4

import pytest
from fastapi.testclient import TestClient
from PIL import Image
from pypdf import PdfReader

from almanaque.demo import load
from almanaque.host.postgres import Addresses
from almanaque.store.db import Database
from almanaque.store.journal import signs
from almanaque.worker import pdfs
from tests.database import NORTH, bed_id
from tests.web.journal.test_phone import entry, send_photo, sync
from tests.web.pages import Page, enter, open_page, post, token

GRADE_2 = str(load.demo_id("Brindlecombe School", "group", "Grade 2"))


def groups(client: TestClient) -> dict[str, str]:
    text = client.get("/journal/letters").text
    return {name: key for key, name in re.findall(r'<option value="([0-9a-f-]{36})"[^>]*>([^<]+)', text)}


def write(client: TestClient, group: str, action: str = "send", **more: str) -> Page:
    return post(
        client,
        "/journal/letters",
        group=group,
        since="2027-03-20",
        greeting="Dear class",
        task="Draw a pea",
        action=action,
        **more,
    )


def address(page: Page) -> str:
    made = next(attributes for tag, attributes in page.tags if tag == "input" and attributes.get("id") == "made")
    return made["value"].removeprefix("http://testserver")


@pytest.fixture
def grade(coordinator: TestClient) -> str:
    """The class whose bed is Bed 2."""
    found = groups(coordinator)
    for key in found.values():
        if "Bed 2" in write(coordinator, key, "look").text:
            return key
    raise AssertionError("no class has Bed 2")


def test_a_letter_tells_of_the_classs_own_beds_what_changed_and_what_comes(coordinator: TestClient, grade: str) -> None:
    page = write(coordinator, grade, "look")
    assert page.status == 200
    assert "Dear class" in page.text
    assert "Growing now: Pea" in page.text
    assert "What comes next" in page.text
    assert "Put up support for pea" in page.text
    assert "Draw a pea" in page.text
    assert "Something nibbles the end row" not in page.text  # a free note, which nobody has read through yet
    with_notes = write(coordinator, grade, "look", notes="1")
    assert "Something nibbles the end row" in with_notes.text


def test_a_letter_is_read_by_whoever_has_its_address_and_names_nobody(client: TestClient) -> None:
    enter(client, "helper")
    photo = uuid4()
    assert (
        send_photo(client, _picture(), photo, bed=str(bed_id("Bed 2")), caption="Pea seedlings").json()["is"] == "kept"
    )
    other = uuid4()
    send_photo(client, _picture(), other, bed=str(bed_id("Bed 8")))
    assert (
        sync(client, entry("sighting", what_kind="visitors", bed=str(bed_id("Bed 2")), what="bees", amount=4)).json()[
            "results"
        ][0]["is"]
        == "kept"
    )
    enter(client, "coordinator")
    key = next(k for k in groups(client).values() if "Bed 2" in write(client, k, "look").text)
    assert "Pea seedlings" in write(client, key, "look").text  # to be chosen, not yet chosen
    where = address(write(client, key, photos=str(photo)))
    assert "14 Apr 2027: Pea seedlings" in open_page(client, where).text
    client.cookies.clear()
    page = open_page(client, where)
    assert page.status == 200
    assert "4 bees" in page.text
    for name in (login.name for login in load.LOGINS):
        assert name not in page.text
    assert client.get(f"{where}/photos/{photo}").headers["content-type"] == "image/jpeg"
    assert client.get(f"{where}/photos/{other}").status_code == 404
    assert open_page(client, where[:-3] + "xyz").status == 404


def test_a_letter_is_for_the_class_that_the_form_has_now_and_what_was_only_suggested_follows(
    client: TestClient,
) -> None:
    enter(client, "coordinator")
    names = groups(client)
    first, second = names["Grade 2"], names["Grade 3"]
    form = open_page(client, f"/journal/letters?group={first}").form("/journal/letters").fields
    assert "Dear Grade 2" in form["greeting"]
    sent = {**form, "group": second, "task": "Draw a pea", "action": "look"}
    page = Page(client.post("/journal/letters", data=sent))
    assert "A letter to Grade 3" in page.text
    again = page.form("/journal/letters").fields
    assert "Dear Grade 3" in again["greeting"]
    assert again["task"] == "Draw a pea"


def test_a_letter_to_everybody_tells_of_every_bed_in_sentences(coordinator: TestClient) -> None:
    page = write(coordinator, "all", "look")
    assert "A letter to everybody" in page.text
    for words in (
        "Bed 1",
        "Bed 8",
        "Garlic grew from",
        "Garlic should be ready from 19 Jun 2027, while school is closed.",
    ):
        assert words in page.text
    assert "Planted by you" not in page.text


def test_a_draft_is_kept_goes_on_and_is_gone_when_it_is_sent(client: TestClient) -> None:
    enter(client, "coordinator")
    grade = groups(client)["Grade 2"]
    kept = write(client, grade, "draft", was=grade)
    assert kept.status == 200
    form = kept.form("/journal/letters").fields
    assert (form["task"], form["draft"] != "") == ("Draw a pea", True)
    client.post("/journal/letters", data={**form, "group": grade, "task": "Draw two", "action": "draft"})
    stale = Page(
        client.post("/journal/letters", data={**form, "group": grade, "task": "From another screen", "action": "draft"})
    )
    assert stale.status == 409
    drafts = [link for link in open_page(client, "/journal/letters").links if "draft=" in link]
    assert len(drafts) == 1
    form = open_page(client, drafts[0]).form("/journal/letters").fields
    assert form["task"] == "Draw two"
    address(Page(client.post("/journal/letters", data={**form, "group": grade, "action": "send"})))
    assert not [link for link in open_page(client, "/journal/letters").links if "draft=" in link]
    assert open_page(client, drafts[0]).status == 404
    other = write(client, grade, "draft", was=grade).form("/journal/letters").fields["draft"]
    enter(client, "viewer")
    assert post(client, f"/journal/letters/drafts/{other}/delete").status == 403
    enter(client, "coordinator")
    post(client, f"/journal/letters/drafts/{other}/delete")
    assert not [link for link in open_page(client, "/journal/letters").links if "draft=" in link]


def test_a_letter_stays_as_it_was_sent_becomes_a_pdf_and_is_taken_back(client: TestClient, demo: Addresses) -> None:
    enter(client, "coordinator")
    key = next(k for k in groups(client).values() if "Bed 2" in write(client, k, "look").text)
    where = address(write(client, key))
    post(client, "/journal", id=str(uuid4()), bed=str(bed_id("Bed 2")), body="Written after the letter")
    assert "Written after" not in open_page(client, where).text
    page = open_page(client, "/journal/letters")
    form = next(f for f in page.forms if f.action.endswith("/pdf"))
    job = UUID(client.post(form.action, data=form.fields).url.path.rsplit("/", 1)[1])
    worker = Database(demo.app, max_size=2)
    worker.open()
    pdfs.make(worker, NORTH, job)
    worker.close()
    text = PdfReader(io.BytesIO(client.get(f"/prints/{job}.pdf").content)).pages[0].extract_text()
    assert "Dear class" in text
    assert "Bed 2" in text
    back = next(f for f in page.forms if f.action.endswith("/delete"))
    client.post(back.action, data=back.fields)
    assert open_page(client, where).status == 404


def test_a_letter_without_anything_to_tell_or_with_a_day_to_come_is_refused(
    coordinator: TestClient, grade: str
) -> None:
    assert (
        "Choose a day before today"
        in post(coordinator, "/journal/letters", group=grade, since="2027-05-01", action="look").text
    )
    answer = post(coordinator, "/journal/letters", group=str(uuid4()), since="2027-04-01", action="send")
    assert (answer.status, "no such class" in answer.text) == (422, True)
    assert (
        post(coordinator, "/journal/letters", group=grade, since="2027-04-01", task="x" * 2001, action="send").status
        == 422
    )


def test_only_planners_write_letters_and_change_signs(viewer: TestClient) -> None:
    assert post(viewer, "/journal/letters", group=GRADE_2, since="2027-04-01").status == 403
    assert post(viewer, "/garden/signs").status == 403
    assert open_page(viewer, "/garden/signs").status == 200


def show(client: TestClient, *keys: str, **more: str) -> Page:
    return Page(
        client.post("/garden/signs", data={"form_token": token(client), "show": list(keys), "action": "save", **more})
    )


def code_of(client: TestClient, key: str) -> str:
    text = client.get("/garden/signs").text
    row = next(r for r in text.split("<tr>") if f'value="{key}"' in r)
    return (
        re.findall(r"/s/([2-9a-z]{8})|<span class=\"second\">([2-9a-z]{8})", row)[0][0]
        or re.findall(r"([2-9a-z]{8})</span>", row)[0]
    )


def test_a_sign_is_seen_by_everybody_only_while_it_is_shown(client: TestClient) -> None:
    enter(client, "coordinator")
    bed = f"bed:{bed_id('Bed 2')}"
    show(client, bed)
    code = code_of(client, bed)
    stranger = TestClient(client.app, base_url="http://testserver", raise_server_exceptions=False)
    page = Page(stranger.get(f"/s/{code}"))
    assert page.status == 200
    assert "Pea" in page.text
    assert "Pisum sativum" in page.text
    assert "ready about" in page.text
    assert "Look for: pods are full but still bright" in page.text
    pictures = re.findall(r'src="(/portraits/pea/[^"]+)"', page.html)
    assert len(pictures) == 1
    assert stranger.get(pictures[0]).status_code == 200
    for word in ("nibbles", "Grade", "Kindergarten", *(login.name for login in load.LOGINS)):
        assert word not in page.text, word
    assert Page(stranger.get(f"/s/{code.upper()}")).status == 200
    show(client)
    hidden = stranger.get(f"/s/{code}", follow_redirects=False)
    assert (hidden.status_code, hidden.headers["location"]) == (303, f"/garden/beds/{bed_id('Bed 2')}")
    assert client.get(f"/s/{code}").url.path == f"/garden/beds/{bed_id('Bed 2')}"
    assert stranger.get("/s/aaaaaaaa").status_code == 404
    assert stranger.get("/s/'; DROP TABLE sign; --").status_code == 404


def test_the_whole_garden_is_off_at_first_and_tells_no_person_when_it_is_on(client: TestClient) -> None:
    enter(client, "coordinator")
    garden = f"garden:{NORTH}"
    assert "checked" not in client.get("/garden/signs").text
    show(client, garden)
    stranger = TestClient(client.app, base_url="http://testserver")
    page = Page(stranger.get(f"/s/{code_of(client, garden)}"))
    assert page.text.count("Nothing grows here") >= 1
    for words in ("Bed 1", "Winter wheat", "Strawberry", "Wash your hands"):
        assert words in page.text, words


def test_a_stations_sign_tells_how_it_is_done_and_ends_when_it_closes(client: TestClient) -> None:
    enter(client, "coordinator")
    worms = load.demo_id("Brindlecombe School", "station", "Worm box")
    show(client, f"station:{worms}")
    code = code_of(client, f"station:{worms}")
    stranger = TestClient(client.app, base_url="http://testserver", raise_server_exceptions=False)
    page = Page(stranger.get(f"/s/{code}"))
    for words in ("Worm box", "Squeeze a handful", "moisture: too wet, 13 Apr", "Wash hands after the worm box"):
        assert words in page.text, words
    form = open_page(client, f"/week/stations/{worms}").form(f"/week/stations/{worms}")
    client.post(form.action, data={**form.fields, "open": ""})
    assert stranger.get(f"/s/{code}").status_code == 404


def test_codes_are_hard_to_guess_and_to_misread(coordinator: TestClient) -> None:
    assert not set("01ilo") & set(signs.ALPHABET)
    assert len(signs.ALPHABET) ** signs.CODE_LENGTH > 5e11


def test_signs_are_printed_with_their_codes(client: TestClient, demo: Addresses) -> None:
    enter(client, "coordinator")
    keys = [f"bed:{bed_id(n)}" for n in ("Bed 1", "Bed 2", "Bed 3")]
    answer = client.post(
        "/garden/signs", data={"form_token": token(client), "chosen": keys, "action": "print", "paper": "a4"}
    )
    job = UUID(answer.url.path.rsplit("/", 1)[1])
    worker = Database(demo.app, max_size=2)
    worker.open()
    pdfs.make(worker, NORTH, job)
    worker.close()
    made = PdfReader(io.BytesIO(client.get(f"/prints/{job}.pdf").content))
    text = "".join(page.extract_text() for page in made.pages)
    assert [name for name in ("Bed 1", "Bed 2", "Bed 3", "Bed 4") if name in text] == ["Bed 1", "Bed 2", "Bed 3"]
    assert "Choose 1 to 40 signs" in show(client, action="print", paper="a4").text


def _picture() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (300, 200), (30, 90, 60)).save(out, "JPEG")
    return out.getvalue()
