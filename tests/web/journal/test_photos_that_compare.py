"""Then and now: photos from a marked place, beside each other on bed and planting, and the plant as the forecast has it."""

import re
from uuid import uuid4

from fastapi.testclient import TestClient

from tests.database import bed_id
from tests.web.addresses import WORMS
from tests.web.journal.test_open_gardens import picture
from tests.web.journal.test_phone import send_photo
from tests.web.pages import Page, enter, open_page, token

BED_2 = str(bed_id("Bed 2"))


def stop(client: TestClient, bed: str) -> dict[str, object]:
    found: dict[str, object] = next(s for s in client.get("/field/snapshot").json()["stops"] if s["id"] == bed)
    return found


def test_the_demos_photos_are_drawn_and_say_so_and_stand_then_and_now_on_the_bed(reader: TestClient) -> None:
    bed = open_page(reader, f"/garden/beds/{bed_id('Bed 1')}")
    for words in ("then, 3 Nov 2026", "now, 12 Apr 2027", "Taken from the corner post."):
        assert words in bed.text
    assert len(re.findall(r'src="/journal/photos/[0-9a-f-]{36}\?size=small"', bed.html)) == 4
    assert all(
        "drawn for the demo" in given["alt"] for tag, given in bed.tags if "/journal/photos/" in given.get("src", "")
    )
    before = open_page(reader, f"/garden/beds/{bed_id('Bed 1')}?day=2026-12-01")
    assert "then, 3 Nov 2026" not in before.text


def test_a_planting_shows_its_last_photo_beside_the_plant_as_it_should_look_that_day(reader: TestClient) -> None:
    bed = open_page(reader, f"/garden/beds/{bed_id('Bed 1')}")
    garlic = next(link for link in bed.links if "/garden/plantings/" in link)
    page = open_page(reader, garlic)
    assert "Seen, and as the forecast has it" in page.text
    assert "seen, 12 Apr 2027" in page.text
    assert "as it should look then, drawn" in page.text
    assert re.search(r'src="/portraits/garlic/(young|grown)-side', page.html)


def test_a_marked_place_is_made_with_its_first_photo_and_the_next_is_taken_over_the_last(client: TestClient) -> None:
    enter(client, "helper")
    place, first, second = str(uuid4()), uuid4(), uuid4()
    sent = {"bed": BED_2, "viewpoint": place, "viewpoint_name": " Gate  post ", "people": "no"}
    assert send_photo(client, picture(), first, **sent).json()["is"] == "kept"
    assert stop(client, BED_2)["viewpoints"] == [{"id": place, "name": "Gate post", "last": f"/journal/photos/{first}"}]
    # Another phone made the same place without a signal: it is one place.
    assert (
        send_photo(
            client, picture("red"), second, **{**sent, "viewpoint": str(uuid4()), "viewpoint_name": "Gate post"}
        ).json()["is"]
        == "kept"
    )
    (found,) = stop(client, BED_2)["viewpoints"]  # type: ignore[misc]
    assert found["last"] in (f"/journal/photos/{first}", f"/journal/photos/{second}")
    other = send_photo(client, picture("blue"), uuid4(), **{**sent, "bed": str(bed_id("Bed 3"))})
    assert other.json()["is"] == "refused"


def test_a_picture_of_somebody_is_refused_kindly_and_nothing_of_it_is_kept(client: TestClient) -> None:
    enter(client, "helper")
    photo = uuid4()
    answer = send_photo(client, picture("pink"), photo, bed=BED_2, people="yes").json()
    assert answer["is"] == "refused"
    assert "not kept, with thanks" in answer["words"]
    assert client.get(f"/journal/photos/{photo}").status_code == 404
    again = send_photo(client, picture("pink"), photo, bed=BED_2, people="no").json()
    assert again["is"] == "kept"


def test_a_station_has_a_series_of_its_own(client: TestClient) -> None:
    enter(client, "helper")
    page = f"/week/stations/{WORMS}"
    assert "No photo yet" in open_page(client, page).text

    def send(**more: str) -> Page:
        fields = {"form_token": token(client), "caption": "A week later", **more}
        return Page(client.post(f"{page}/photos", data=fields, files={"file": ("a.jpg", picture(), "image/jpeg")}))

    refused = send()
    assert (refused.status, "keeps no faces" in refused.text) == (422, True)
    assert "One taken a week later stands beside it" in send(people="no").text
    no_file = Page(client.post(f"{page}/photos", data={"form_token": token(client), "people": "no"}))
    assert no_file.status == 422
    assert "A week later" in open_page(client, "/journal?what=photo").text
    enter(client, "viewer")
    assert send(people="no").status == 403


def test_the_season_report_has_the_photos_that_were_chosen_and_no_others(reader: TestClient) -> None:
    page = open_page(reader, "/harvest/report")
    assert "How it looked" not in page.text
    offered = [
        given["value"] for tag, given in page.tags if given.get("name") == "photo" and given.get("type") == "checkbox"
    ]
    assert len(offered) == 6
    with_two = open_page(reader, f"/harvest/report?photo={offered[0]}&photo={offered[3]}&photo=nonsense")
    assert "How it looked" in with_two.text
    shown = re.findall(r'class="letter-photo" src="/journal/photos/([0-9a-f-]+)"', with_two.html)
    assert shown == [offered[0], offered[3]]
    form = with_two.form("/harvest/report")
    asked = Page(reader.post("/harvest/report", data={**form.fields, "photo": [offered[0], offered[3]]}))
    assert asked.status == 200
