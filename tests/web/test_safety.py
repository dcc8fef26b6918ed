"""What a stranger, another school's user or a broken form may try at any address."""

import re
from uuid import UUID, uuid4

import psycopg
import pytest
from fastapi.testclient import TestClient

from almanaque.host.postgres import Addresses
from almanaque.web import security
from almanaque.web.frame import ROOMS
from tests import policy
from tests.database import bed_id
from tests.web.conftest import client_for
from tests.web.pages import log_in, open_page, post, token

NOBODYS = UUID(int=7)  # fixed, so that every worker collects the same tests
PAGES = [room.path for room in ROOMS] + ["/patterns", "/schools"]


@pytest.mark.parametrize("path", [*PAGES, "/nowhere", "/garden/beds/nonsense"])
def test_every_answer_carries_the_policy_and_no_style_or_script_of_its_own(coordinator: TestClient, path: str) -> None:
    page = open_page(coordinator, path)
    assert page.response.headers["content-security-policy"] == security.CONTENT_SECURITY_POLICY
    assert page.response.headers["x-content-type-options"] == "nosniff"
    assert page.response.headers["cache-control"] == "no-store"
    assert not re.search(r"\sstyle=|<style|javascript:", page.response.text)
    assert all("src" in attributes for tag, attributes in page.tags if tag == "script")


def test_the_policy_allows_nothing_inline_or_from_outside() -> None:
    assert "unsafe" not in security.CONTENT_SECURITY_POLICY
    assert "default-src 'none'" in security.CONTENT_SECURITY_POLICY
    assert policy.faults() == []


@pytest.mark.parametrize("breach", ['<p style="x">', "<script>x</script>", '<a onclick="x">', '<p hx-on:click="x">',
    '<p>{{ a.b + 4 }}</p>', '<p hx-trigger="click[ctrlKey]">', '<p @click="a => b">', '<script src="https://x.example/y.js">'])  # fmt: skip
def test_the_lint_finds_what_the_policy_would_break(breach: str) -> None:
    assert any(rule.search(breach) for rule, _ in policy.TEMPLATE_RULES)


def test_what_people_write_is_shown_as_text(coordinator: TestClient) -> None:
    post(coordinator, "/journal", id=str(uuid4()), body='<script>alert(1)</script> & "quotes" \'); DROP TABLE bed; --')
    page = open_page(coordinator, "/journal")
    assert "<script>alert(1)" not in page.response.text
    assert '<script>alert(1)</script> & "quotes" \'); DROP TABLE bed; --' in page.text


def test_another_schools_rows_are_not_there(client: TestClient) -> None:
    log_in(client, "coordinator")
    theirs = bed_id("Bed A", "Tallowbank School")
    assert open_page(client, f"/garden/beds/{theirs}").status == 404
    for path, data in (
        (f"/garden/beds/{theirs}", {"command": "pencil", "squares": "A1", "crop": "radish", "method": "direct", "start_on": "2027-04-20"}),
        (f"/garden/plantings/{uuid4()}/start", {"method": "direct", "start_on": "2027-04-20"}),
        (f"/garden/plantings/{uuid4()}/happened", {"kind": "started"}),
        (f"/tasks/{uuid4()}", {}),
        (f"/journal/{uuid4()}/close", {}),
    ):  # fmt: skip
        page = post(client, path, **data)
        assert page.status == 404, path
        assert "belong to another school" in page.text
    page = post(client, "/journal", id=str(uuid4()), bed=str(theirs), body="Mine now")
    assert page.status == 404


@pytest.mark.parametrize(
    ("path", "data", "who"),
    [
        ("/journal", {"body": "x"}, "viewer"),
        ("/harvest", {"amount": "1"}, "viewer"),
        (f"/tasks/{NOBODYS}", {}, "viewer"),
        (f"/garden/beds/{NOBODYS}", {"command": "undo"}, "helper"),
        ("/school/spans", {"kind": "term", "year": str(NOBODYS)}, "educator"),
    ],
)
def test_a_role_without_the_right_is_told_what_it_would_take(
    client: TestClient, path: str, data: dict, who: str
) -> None:
    log_in(client, who)
    page = post(client, path, **data)
    assert page.status == 403
    assert f"A {who} cannot" in page.text


@pytest.mark.parametrize("path", PAGES)
@pytest.mark.parametrize("who", ["coordinator", "helper", "viewer"])
def test_every_role_can_look_at_every_page(client: TestClient, path: str, who: str) -> None:
    log_in(client, who)
    assert open_page(client, path).status == 200


def test_a_viewers_pages_offer_no_writing(viewer: TestClient) -> None:
    for path in (*PAGES, f"/garden/beds/{bed_id('Bed 3')}"):
        writes = {form.action for form in open_page(viewer, path).forms if form.method == "post"}
        assert writes <= {"/logout", "/demo-day", "/schools"}, path


NASTY = ["", "\0", "🥕" * 60, "9" * 400, "-1", "1e999", "../../etc", "%s {{ 7 * 7 }} <script>", "0001-01-01", "A1-ZZ999",
         "'; DROP TABLE bed; --"]  # fmt: skip
FIELDS = {
    "/journal": ("id", "bed", "body", "come_back_on"),
    "/harvest": ("id", "planting", "amount", "unit", "use", "day", "note"),
    "/school/spans": ("kind", "year", "id", "name", "starts", "ends", "action"),
    "/schools": ("school",),
    "/demo-day": ("day",),
    "/login": ("login", "password", "to"),
    f"/garden/beds/{bed_id('Bed 4')}": ("command", "squares", "crop", "method", "start_on", "per_square", "version"),
    f"/garden/plantings/{NOBODYS}/start": ("method", "start_on"),
    f"/garden/plantings/{NOBODYS}/happened": ("kind", "day"),
    f"/tasks/{NOBODYS}": ("status", "day"),
    f"/journal/{NOBODYS}/close": ("to",),
}


@pytest.mark.parametrize("path", list(FIELDS))
def test_no_nasty_value_in_any_field_is_an_unexpected_error(coordinator: TestClient, path: str) -> None:
    """Every write, every field: an answer in words, or the thing done; never a fault of ours."""
    kept = {**coordinator.cookies}
    right = token(coordinator)
    for field in FIELDS[path]:
        for value in NASTY:
            coordinator.cookies.update(kept)
            usual = {"command": "pencil", "squares": "A4", "crop": "radish", "method": "direct", "start_on": "2027-04-20",
                     "id": str(NOBODYS), "body": "x", "kind": "started" if "happened" in path else "term"}  # fmt: skip
            answer = coordinator.post(path, data={**usual, "form_token": right, field: value}, follow_redirects=False)
            assert answer.status_code < 500, (field, value[:20], answer.status_code)


def test_no_nasty_value_in_an_address_is_an_unexpected_error(coordinator: TestClient) -> None:
    bed = f"/garden/beds/{bed_id('Bed 4')}"
    asked = {"/week": ["day"], "/harvest": ["planting", "kept"], "/journal": ["bed"], "/school": ["changed"], bed: ["crop"],
             f"{bed}/choice": ["crop", "method", "squares", "start_on", "per_square", "only"]}  # fmt: skip
    for path, names in asked.items():
        for name in names:
            for value in NASTY:
                assert coordinator.get(path, params={name: value[:2000]}).status_code < 500, (path, name, value[:20])


def test_more_than_a_megabyte_is_refused_before_it_is_read(coordinator: TestClient) -> None:
    page = post(coordinator, "/journal", id=str(uuid4()), body="x" * 1_100_000)
    assert page.status == 413
    assert "More than 1 MB" in page.text


def test_an_unexpected_error_shows_a_number_and_no_trace(
    coordinator: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    from almanaque.web.rooms import seeds

    def fail(*_: object, **__: object) -> None:
        raise ZeroDivisionError("a secret detail")

    monkeypatch.setattr(seeds.garden, "beds", fail)
    page = open_page(coordinator, "/seeds")
    assert page.status == 500
    assert re.search(r"quote number [0-9A-F]{6}", page.text)
    assert "secret detail" not in page.response.text
    assert page.response.headers["content-security-policy"] == security.CONTENT_SECURITY_POLICY


def test_a_lost_database_says_so_and_gives_back_what_was_written(demo: Addresses) -> None:
    with client_for(demo) as client:
        log_in(client, "coordinator")
        right = token(client)
        client.app.state.database.pool.timeout = 0.3
        with psycopg.connect(demo.owner.rsplit("/", 1)[0] + "/postgres", autocommit=True) as owner:
            name = demo.owner.rsplit("/", 1)[1]
            owner.execute(f"ALTER DATABASE {name} ALLOW_CONNECTIONS false".encode())
            owner.execute("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = %s", [name])
            answer = client.post(
                "/journal", data={"form_token": right, "id": str(uuid4()), "body": "Half a page on bees"}
            )
            assert answer.status_code == 503
            assert "The database does not answer" in answer.text
            assert "Half a page on bees" in answer.text
            owner.execute(f"ALTER DATABASE {name} ALLOW_CONNECTIONS true".encode())
        client.app.state.database.pool.timeout = 20
        assert open_page(client, "/week").status == 200


def test_a_login_that_ended_meanwhile_gives_back_what_was_written(demo: Addresses, coordinator: TestClient) -> None:
    right = token(coordinator)
    with psycopg.connect(demo.owner) as owner:
        owner.execute("UPDATE login_session SET expires_at = now() - interval '1 minute'")
    answer = coordinator.post("/journal", data={"form_token": right, "id": str(uuid4()), "body": "Half a page on bees"})
    assert answer.status_code == 401
    assert "Your login has ended" in answer.text
    assert "Half a page on bees" in answer.text
    assert "/login" in str(open_page(coordinator, "/week").response.url)


def test_an_empty_database_shows_the_login_and_refuses_it_in_words(empty: Addresses) -> None:
    with client_for(empty) as client:
        assert open_page(client, "/").status == 200
        page = log_in(client, "coordinator")
        assert page.status == 401


def test_a_school_without_anything_has_pages_that_say_so(empty: Addresses) -> None:
    from almanaque.passwords import hash_password

    school, person = uuid4(), uuid4()
    with psycopg.connect(empty.owner) as owner:
        owner.execute(
            "INSERT INTO school (id, name, zone, latitude, longitude, units) VALUES (%s, 'New School', 'Europe/Oslo', 60, 10, 'metric')",
            [school],
        )
        owner.execute(
            "INSERT INTO account (id, login, name, password_hash) VALUES (%s, 'first', 'First Person', %s)",
            [person, hash_password("long enough")],
        )
        owner.execute("INSERT INTO membership VALUES (%s, %s, 'coordinator')", [school, person])
    with client_for(empty) as client:
        log_in(client, "first", "long enough")
        for path, says in (
            ("/week", "No school year is on file"), ("/garden", "no beds yet"), ("/year", "No school year"),
            ("/journal", "No notes yet"), ("/harvest", "nothing to draw"), ("/seeds", "No plan asks for seed"),
            ("/school", "No weather on file"),
        ):  # fmt: skip
            page = open_page(client, path)
            assert page.status == 200, path
            assert says in page.text, path


def test_the_app_does_not_start_on_a_database_of_another_version(demo: Addresses) -> None:
    from almanaque.store.errors import SchemaMismatch

    with psycopg.connect(demo.owner) as owner:
        owner.execute("INSERT INTO schema_migration VALUES (99, '0099_later.sql', 'x', now())")
    with pytest.raises(SchemaMismatch, match="newer than this version"), client_for(demo):
        raise AssertionError("it started")


def test_static_files_are_kept_for_a_year_and_stay_in_their_folder(client: TestClient) -> None:
    from almanaque.web.frame import static

    answer = client.get(static("css/frame.css"))
    assert answer.status_code == 200
    assert "immutable" in answer.headers["cache-control"]
    for path in ("/static/../app.py", "/static/%2e%2e/app.py", "/static/nothing.css"):
        assert client.get(path).status_code == 404
