"""Stations through their pages: readings with what they mean, jobs for whoever has adopted one, supplies, and what is refused."""

import io
import re
from uuid import uuid4

from fastapi.testclient import TestClient
from PIL import Image

from almanaque.demo import load
from tests.web.pages import Page, enter, open_page, post, token

WORMS = load.demo_id("Brindlecombe School", "station", "Worm box")
PATH = f"/week/stations/{WORMS}"


def test_the_list_tells_what_each_station_wants_and_what_runs_low(reader: TestClient) -> None:
    text = open_page(reader, "/week/stations").text
    assert "Worm box: moisture is too wet. Mix in torn card" in text
    assert "Grade 1 looks after it" in text
    assert "Bird seed: 1 kg left. Tell the office." in text
    assert "Bird seed: 1 kg left." in open_page(reader, "/week").text


def test_a_reading_in_order_takes_the_note_away_and_one_beyond_brings_it(coordinator: TestClient) -> None:
    page = post(coordinator, f"{PATH}/readings", r0="right", day="2027-04-14")
    assert "all in order" in page.text
    assert "too wet" not in open_page(coordinator, "/week").text
    page = post(coordinator, f"{PATH}/readings", r1="31", day="2027-04-14", note="In the sun since Monday")
    assert "warmth of the bedding is 31 °C, above 27" in page.text
    assert "In the sun since Monday" in page.text


def test_what_cannot_be_read_keeps_what_was_typed(coordinator: TestClient) -> None:
    for data, words in (
        ({"r1": "warm"}, "is not a number"),
        ({"r1": "20", "day": "2027-05-01"}, "cannot lie in the future"),
        ({"day": "2027-04-14"}, "at least one reading"),
        ({"r0": "soggy"}, "is one of these"),
    ):
        page = post(coordinator, f"{PATH}/readings", **data)
        assert page.status == 422
        assert words in page.text
    page = post(coordinator, f"{PATH}/readings", r1="warm", note="By the window")
    assert 'value="By the window"' in page.response.text
    assert "By the window" not in open_page(coordinator, PATH).response.text


def jobs(client: TestClient, path: str) -> list[str]:
    return re.findall(r'<a href="/tasks/[^"]+">([^<]+)</a> <span class="second">[^·]+· ([^<·]+)', client.get(path).text)


def test_a_new_station_has_its_jobs_at_once_and_they_follow_its_adoption(coordinator: TestClient) -> None:
    page = post(coordinator, "/week/stations", kind="animals", name="Hens")
    path = page.response.url.path
    before = jobs(coordinator, path)
    assert any(title == "Hens: water, feed, count, every day" for title, _ in before)
    group = str(load.demo_id("Brindlecombe School", "group", "Cedars"))
    page = post(coordinator, f"{path}/adopt", group=group, from_day="2027-04-14", to_day="2027-06-16")
    assert "Grade 3" in page.text
    after = dict(jobs(coordinator, path))
    assert after["Hens: water, feed, count, every day"].strip() == "Grade 3"
    assert (
        "Another class looks after it"
        in post(coordinator, f"{path}/adopt", group=group, from_day="2027-05-01", to_day="2027-05-02").text
    )
    assert (
        "Swap the two days"
        in post(coordinator, f"{path}/adopt", group=group, from_day="2027-09-02", to_day="2027-09-01").text
    )
    form = open_page(coordinator, path).form(path)
    closed = Page(coordinator.post(path, data={**form.fields, "open": ""}))
    assert "closed since" in closed.text
    assert [t for t, _ in jobs(coordinator, path)] == []


def test_a_missing_hen_is_told_at_once(coordinator: TestClient) -> None:
    path = post(coordinator, "/week/stations", kind="animals", name="Hens").response.url.path
    post(coordinator, f"{path}/readings", r0="6", day="2027-04-13")
    assert (
        "1 fewer than last time (5 instead of 6)"
        in post(coordinator, f"{path}/readings", r0="5", day="2027-04-14").text
    )
    assert "1 fewer than last time" in open_page(coordinator, "/week").text


def test_words_limits_routines_and_a_picture_can_be_changed(coordinator: TestClient) -> None:
    out = io.BytesIO()
    Image.new("RGB", (80, 60), (90, 60, 30)).save(out, "PNG")
    form = open_page(coordinator, PATH).form(PATH)
    fields = {k: v for k, v in form.fields.items() if not k.startswith(("resting", "asleep"))}
    fields |= {
        "name": "Worms by the kitchen",
        "how_to": "Handful for handful.",
        "most-1": "25",
        "what-3": "Look for eggs",
        "every-3": "month",
        "minutes-3": "5",
        "open": "1",
    }
    page = Page(coordinator.post(PATH, data=fields, files={"file": ("box.png", out.getvalue(), "image/png")}))
    assert page.status == 200, page.text
    assert "Worms by the kitchen" in page.text
    assert "right: 8 to 25" in page.text
    picture = next(a["src"] for tag, a in page.tags if tag == "img")
    assert coordinator.get(picture).headers["content-type"] == "image/jpeg"
    fields["seen"] = page.form(PATH).fields["seen"]
    wrong = Page(coordinator.post(PATH, data={**fields, "least-1": "30"}))
    assert (wrong.status, "the wrong way round" in wrong.text) == (422, True)
    bad = Page(coordinator.post(PATH, data=fields, files={"file": ("box.png", b"no picture", "image/png")}))
    assert "no picture that can be read" in bad.text


def test_supplies_are_counted_with_their_mark(coordinator: TestClient) -> None:
    page = post(coordinator, f"{PATH}/supplies", name="torn card", have="1", unit="bags", low="1", told="the caretaker")
    assert page.status == 200
    assert "Torn card: 1 bags left. Tell the caretaker." in open_page(coordinator, "/week/stations").text
    id = next(f.fields["id"] for f in open_page(coordinator, PATH).forms if f.fields.get("told") == "the caretaker")
    post(coordinator, f"{PATH}/supplies", id=id, have="4", low="1", told="the caretaker")
    assert "Torn card" not in open_page(coordinator, "/week/stations").text
    assert post(coordinator, f"{PATH}/supplies", name="x", have="many").status == 422


def test_the_shed_keeps_a_mark_when_its_other_figures_change(coordinator: TestClient) -> None:
    seed = load.demo_id("Brindlecombe School", "supply", "bird seed")
    post(
        coordinator,
        "/garden/shed",
        id=str(seed),
        kind="material",
        name="bird seed",
        unit="kg",
        have="9",
        price="3.99",
        low="2",
        told="the office",
    )
    assert "Bird seed" not in open_page(coordinator, "/week/stations").text
    assert 'value="the office"' in coordinator.get("/garden/shed").text


def test_those_who_only_look_and_other_schools_change_nothing(client: TestClient) -> None:
    enter(client, "viewer")
    assert open_page(client, PATH).status == 200
    for path in ("/week/stations", PATH, f"{PATH}/readings", f"{PATH}/adopt", f"{PATH}/supplies"):
        assert post(client, path, kind="compost").status == 403, path
    enter(client, "educator")
    client.post("/schools", data={"form_token": token(client), "school": str(load.demo_id("Tallowbank School"))})
    assert open_page(client, PATH).status == 404
    assert post(client, f"{PATH}/readings", r0="right").status == 404
    assert open_page(client, "/week/stations").status == 200
    assert post(client, "/week/stations", kind="dragon").status == 422
    assert open_page(client, f"/week/stations/{uuid4()}").status == 404


def test_the_round_of_a_break_names_the_stations_that_want_a_carer(coordinator: TestClient) -> None:
    text = open_page(coordinator, "/week/rounds/2027-07-05/1").text
    assert "Stations" in text
    assert "Worm box: feed the worms" in text
