"""What a phone asks for and sends: the snapshot, entries one by one, photos; and what strangers try."""

import io
from typing import Any
from uuid import UUID, uuid4

import pytest
from fastapi.testclient import TestClient
from PIL import Image

from almanaque.demo import load
from almanaque.store.week import tasks
from almanaque.web import security
from tests.database import NORTH, SOUTH, bed_id
from tests.web.pages import enter, open_page, post, token


def snapshot(client: TestClient) -> dict[str, Any]:
    answer = client.get("/field/snapshot")
    assert answer.status_code == 200
    return dict(answer.json())


def entry(kind: str, id: UUID | None = None, **say: Any) -> dict[str, Any]:
    return {"id": str(id or uuid4()), "kind": kind, "noted_at": "2027-04-14T09:00:00Z", "noted_on": "2027-04-14", **say}


def sync(
    client: TestClient, *entries: Any, account: UUID | None = None, school: UUID = NORTH, form_token: str | None = None
) -> Any:
    parcel = {"account": str(account or load.account_id("helper")), "school": str(school), "entries": list(entries)}
    return client.post(
        "/field/sync", json=parcel, headers={"X-Form-Token": token(client) if form_token is None else form_token}
    )


@pytest.fixture
def helper(client: TestClient) -> TestClient:
    enter(client, "helper")
    return client


def picture(size: tuple[int, int] = (300, 200)) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, (30, 90, 40)).save(out, "JPEG")
    return out.getvalue()


def send_photo(client: TestClient, body: bytes, id: UUID, **more: str) -> Any:
    data = {
        "id": str(id),
        "account": str(load.account_id("helper")),
        "school": str(NORTH),
        "noted_at": "2027-04-14T09:00:00Z",
        "noted_on": "2027-04-14",
        "form_token": token(client),
        **more,
    }
    return client.post("/field/photos", data=data, files={"file": ("photo.jpg", body, "image/jpeg")})


def test_the_page_is_the_same_for_everybody_and_tells_nothing(client: TestClient) -> None:
    before = client.get("/field/").text
    enter(client, "helper")
    assert client.get("/field/").text == before
    assert "Brindlecombe" not in before
    assert client.get("/field/", headers={}).headers["content-security-policy"] == security.CONTENT_SECURITY_POLICY
    worker = client.get("/field/worker.js")
    assert worker.headers["content-type"].startswith("text/javascript")
    for path in worker.text.split("KEPT = [", 1)[1].split("]", 1)[0].replace('"', "").split(", "):
        assert client.get(path).status_code == 200, path
    assert client.get("/field/manifest.webmanifest").json()["start_url"] == "/field/"


def test_the_snapshot_is_for_those_who_may_note_and_of_their_school(client: TestClient) -> None:
    assert client.get("/field/snapshot", follow_redirects=False).status_code == 303
    enter(client, "viewer")
    assert client.get("/field/snapshot").status_code == 403
    enter(client, "helper")
    snap = snapshot(client)
    assert snap["school"]["id"] == str(NORTH)
    assert [s["name"] for s in snap["stops"]][:2] == ["Bed 1", "Bed 2"]
    assert any(q["title"] == "Pea up?" for q in snap["stops"][1]["questions"])
    assert snap["ready"]


def test_entries_are_taken_once_each_and_one_that_is_wrong_does_not_hold_up_the_others(helper: TestClient) -> None:
    good, twice = (
        entry("note", body="Fifty peas at once", bed=str(bed_id("Bed 2"))),
        entry("note", body="Robin on the fork"),
    )
    sent = [
        good,
        entry("note", body="  "),
        twice,
        twice,
        "rubbish",
        entry("picking", planting=str(uuid4()), amount="3", unit="oz", use="kitchen"),
    ]
    results = sync(helper, *sent).json()["results"]
    by = {r["id"]: r for r in results}
    assert by[good["id"]]["is"] == by[twice["id"]]["is"] == "kept"
    assert [r["words"] for r in results if r["is"] == "refused" and r["words"].startswith("The note")] == [
        "The note is empty. Write what you saw."
    ]
    assert sum(r["is"] == "refused" for r in results) == 3
    assert sync(helper, good, twice).json()["results"][0]["is"] == "kept"
    page = open_page(helper, "/journal").text
    assert page.count("Robin on the fork") == 1
    assert page.count("Fifty peas at once") == 1


def test_jobs_and_pickings_from_the_phone_are_in_the_books(helper: TestClient) -> None:
    snap = snapshot(helper)
    job, ready = snap["jobs"][0], snap["ready"][0]
    results = sync(
        helper,
        entry("job", task=job["id"], status="partly", amount="two barrows", minutes=12),
        entry("picking", planting=ready["id"], amount="1 1/2", unit="lb", use="kitchen"),
    ).json()["results"]
    assert [r["is"] for r in results] == ["kept", "kept"], results
    assert "two barrows" in open_page(helper, f"/tasks/{job['id']}").response.text
    assert next(j for j in snapshot(helper)["jobs"] if j["id"] == job["id"])["status"] == "partly"
    assert "1.5 lb" in open_page(helper, "/harvest").text


def test_what_belongs_to_another_login_or_school_waits(helper: TestClient) -> None:
    note = entry("note", body="Whose is this?")
    for who, where in ((load.account_id("educator"), NORTH), (load.account_id("helper"), SOUTH)):
        assert sync(helper, note, account=who, school=where).json()["results"] == [
            {"id": note["id"], "is": "waiting", "words": "It waits for the login and school it belongs to."}
        ]
    assert "Whose is this?" not in open_page(helper, "/journal").text


def test_another_schools_rows_are_refused_one_by_one(helper: TestClient) -> None:
    theirs = str(bed_id("Bed A", "Tallowbank School"))
    results = sync(
        helper,
        entry("note", body="x", bed=theirs),
        entry("sighting", what_kind="count", bed=theirs, amount=3),
        entry("job", task=str(uuid4()), status="done"),
        {**entry("remedy", sighting=str(uuid4()), what="soap"), "noted_at": "2026-04-14T09:00:00Z"},
        entry("answer", code="remedy", subject=str(uuid4()), answer="helped"),
    ).json()["results"]
    assert [r["is"] for r in results] == ["refused"] * 5
    assert send_photo(helper, picture(), uuid4(), bed=theirs).json()["is"] == "refused"


def test_sending_needs_the_token_a_login_and_no_more_than_fits(client: TestClient) -> None:
    assert sync(client, form_token="x").status_code == 403
    enter(client, "helper")
    assert sync(client, entry("note", body="x"), form_token="forged").status_code == 403
    assert sync(client, *[entry("note", body=str(n)) for n in range(51)]).status_code == 422
    enter(client, "viewer")
    assert sync(client, entry("note", body="x")).status_code == 403


def test_a_photo_is_kept_once_shown_to_its_school_and_taken_away(client: TestClient) -> None:
    enter(client, "helper")
    id = uuid4()
    for _ in range(2):
        assert send_photo(client, picture(), id, bed=str(bed_id("Bed 2")), caption="Pea seedlings").json() == {
            "id": str(id),
            "is": "kept",
            "words": "",
        }
    assert send_photo(client, picture((10, 10)), id).json()["is"] == "refused"
    shown = client.get(f"/journal/photos/{id}")
    assert (shown.headers["content-type"], Image.open(io.BytesIO(shown.content)).size) == ("image/jpeg", (300, 200))
    assert client.get(f"/journal/photos/{id}?size=small").status_code == 200
    assert open_page(client, "/journal").text.count("Pea seedlings") == 1
    enter(client, "educator")
    client.post("/schools", data={"form_token": token(client), "school": str(SOUTH)})
    assert client.get(f"/journal/photos/{id}").status_code == 404
    assert client.post(f"/journal/photos/{id}/delete", data={"form_token": token(client)}).status_code == 404
    enter(client, "coordinator")
    client.post(f"/journal/photos/{id}/delete", data={"form_token": token(client)})
    assert client.get(f"/journal/photos/{id}").status_code == 404


@pytest.mark.parametrize("body", [b"no picture", b"\x89PNG\r\n\x1a\n" + b"\0" * 40])
def test_a_photo_that_is_none_is_refused_in_a_sentence(helper: TestClient, body: bytes) -> None:
    answer = send_photo(helper, body, uuid4()).json()
    assert answer["is"] == "refused"
    assert "no picture that can be read here" in answer["words"]


def test_a_photo_larger_than_the_limit_is_not_read(helper: TestClient) -> None:
    assert send_photo(helper, b"\0" * 12_400_000, uuid4()).status_code == 413


def test_an_entry_that_the_server_stumbles_over_does_not_hold_up_those_behind_it(
    helper: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    from almanaque.commands.week import jobs

    def stumble(*_: object, **__: object) -> None:
        raise ZeroDivisionError

    monkeypatch.setattr(jobs, "tell", stumble)
    bad, good = entry("job", task=str(uuid4()), status="done"), entry("note", body="Behind it in the queue")
    by = {r["id"]: r for r in sync(helper, bad, good).json()["results"]}
    assert by[bad["id"]]["is"] == "refused"
    assert "that was our fault" in by[bad["id"]]["words"]
    assert by[good["id"]]["is"] == "kept"
    monkeypatch.undo()
    assert "no such job" in sync(helper, bad).json()["results"][0]["words"]  # nothing of it was written down as taken


def said_of_a_job(client: TestClient, job: str, status: str, noted_at: str) -> str:
    """What becomes of a word on a job; returns the job's status then."""
    told = {**entry("job", task=job, status=status), "noted_at": noted_at}
    assert sync(client, told).json()["results"][0]["is"] == "kept"
    return status_of(client, job)


def status_of(client: TestClient, job: str) -> str:
    with client.app.state.database.school(NORTH) as connection:  # type: ignore[attr-defined]
        return tasks.task(connection, UUID(job)).status


def test_of_two_words_on_a_job_the_later_noted_holds_whichever_comes_first(helper: TestClient) -> None:
    job = snapshot(helper)["jobs"][0]["id"]
    assert said_of_a_job(helper, job, "not needed", "2026-04-14T10:00:00Z") == "not needed"
    # By the clock it is earlier, though as text it reads later.
    assert said_of_a_job(helper, job, "open", "2026-04-14T11:30:00+02:00") == "not needed"
    assert said_of_a_job(helper, job, "open", "2026-04-14T11:00:00Z") == "open"
    assert said_of_a_job(helper, job, "open", "2026-04-14T12:00:00Z") == "open"
    assert said_of_a_job(helper, job, "not needed", "2026-04-14T11:45:00Z") == "open", (
        "a word that changed nothing counts too"
    )


def test_a_word_from_the_desk_holds_over_an_earlier_one_that_a_phone_sends_late(helper: TestClient) -> None:
    job = snapshot(helper)["jobs"][0]["id"]
    assert post(helper, f"/tasks/{job}", status="not needed").response.status_code == 200
    assert said_of_a_job(helper, job, "open", "2026-04-14T11:00:00Z") == "not needed"


def test_entries_of_one_parcel_are_taken_by_instant_and_not_by_text(helper: TestClient) -> None:
    job = snapshot(helper)["jobs"][0]["id"]
    later = {**entry("job", task=job, status="not needed"), "noted_at": "2026-04-14T10:00:00Z"}
    earlier = {**entry("job", task=job, status="open"), "noted_at": "2026-04-14T11:30:00+02:00"}
    results = sync(helper, later, {"id": "x", "noted_at": 7}, earlier).json()["results"]
    assert [r["id"] for r in results] == ["x", earlier["id"], later["id"]]
    assert status_of(helper, job) == "not needed"


def test_a_remedy_that_comes_before_what_it_was_done_against_waits_for_it(helper: TestClient) -> None:
    aphids = entry("sighting", what_kind="pest", bed=str(bed_id("Bed 4")), what="aphids", severity=2)
    soap = entry("remedy", sighting=aphids["id"], what="soap")
    assert sync(helper, soap).json()["results"][0]["is"] == "waiting"
    assert [r["is"] for r in sync(helper, aphids).json()["results"]] == ["kept"]
    assert [r["is"] for r in sync(helper, soap).json()["results"]] == ["kept"]
    for_nothing = {**entry("remedy", sighting=str(uuid4()), what="soap"), "noted_at": "2026-04-14T10:00:00Z"}
    assert sync(helper, for_nothing).json()["results"][0]["is"] == "refused", "after a week nobody brings it any more"
