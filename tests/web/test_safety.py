"""What a stranger, another school's user or a broken form may try at any address."""

import re
from uuid import UUID, uuid4

import psycopg
import pytest
from fastapi.testclient import TestClient

from almanaque.demo import load
from almanaque.host.postgres import Addresses
from almanaque.web import security
from almanaque.web.written_fields import is_written
from tests import policy
from tests.database import PATIENCE_S, bed_id
from tests.web.addresses import FIELDS, LOT, NASTY, NOBODYS, PAGES, TRAY, USUAL
from tests.web.conftest import client_for
from tests.web.pages import enter, log_in, open_page, post, token


def test_every_answer_carries_the_policy_and_no_style_or_script_of_its_own(reader: TestClient) -> None:
    for path in (
        *PAGES,
        "/year/crops/tomato/figures",
        "/year/crops/new",
        "/nowhere",
        "/garden/beds/nonsense",
        "/start",
    ):
        page = open_page(reader, path)
        assert page.response.headers["content-security-policy"] == security.CONTENT_SECURITY_POLICY, path
        assert page.response.headers["x-content-type-options"] == "nosniff", path
        assert page.response.headers["cache-control"] == "no-store", path
        assert not re.search(r"\sstyle=|<style|javascript:", page.response.text), path
        assert all("src" in attributes for tag, attributes in page.tags if tag == "script"), path


def test_the_policy_allows_nothing_inline_or_from_outside() -> None:
    assert "unsafe" not in security.CONTENT_SECURITY_POLICY
    assert "default-src 'none'" in security.CONTENT_SECURITY_POLICY
    assert policy.faults() == []


@pytest.mark.parametrize(
    "breach",
    [
        '<p style="x">',
        "<script>x</script>",
        '<a onclick="x">',
        '<p hx-on:click="x">',
        "<p>{{ a.b + 4 }}</p>",
        '<p hx-trigger="click[ctrlKey]">',
        '<p @click="a => b">',
        '<script src="https://x.example/y.js">',
    ],
)
def test_the_lint_finds_what_the_policy_would_break(breach: str) -> None:
    assert any(rule.search(breach) for rule, _ in policy.TEMPLATE_RULES)


def test_what_people_write_is_shown_as_text(coordinator: TestClient) -> None:
    post(coordinator, "/journal", id=str(uuid4()), body='<script>alert(1)</script> & "quotes" \'); DROP TABLE bed; --')
    page = open_page(coordinator, "/journal")
    assert "<script>alert(1)" not in page.response.text
    assert '<script>alert(1)</script> & "quotes" \'); DROP TABLE bed; --' in page.text


def theirs_group() -> UUID:
    return load.demo_id("Tallowbank School", "group", "Terns")


def test_another_schools_rows_are_not_there(client: TestClient) -> None:
    enter(client, "coordinator")
    theirs = bed_id("Bed A", "Tallowbank School")
    assert open_page(client, f"/garden/beds/{theirs}").status == 404
    for path, data in (
        (
            f"/garden/beds/{theirs}",
            {"command": "pencil", "squares": "A1", "crop": "radish", "method": "direct", "start_on": "2027-04-20"},
        ),
        (f"/garden/plantings/{uuid4()}/start", {"method": "direct", "start_on": "2027-04-20"}),
        (f"/garden/plantings/{uuid4()}/happened", {"kind": "started"}),
        (f"/tasks/{uuid4()}", {}),
        (f"/journal/{uuid4()}/close", {}),
        (f"/journal/{uuid4()}/close", {"kind": "trouble"}),
        (f"/journal/photos/{uuid4()}/delete", {}),
        (f"/journal/letters/{uuid4()}/delete", {}),
        (f"/week/stations/{uuid4()}/readings", {"r0": "right"}),
        (f"/garden/plantings/{uuid4()}/ending", {"ending": "seed"}),
        ("/garden/prints", {"beds": str(theirs), "parts": "sums", "paper": "a4"}),
        (f"/school/groups/{theirs_group()}/teams", {"name": "x"}),
        (f"/school/groups/{theirs_group()}/slots", {"weekday": "1", "starts_at": "9:00", "minutes": "30"}),
        (f"/school/people/{uuid4()}/role", {"role": "viewer"}),
        (f"/school/people/passes/{uuid4()}/revoke", {}),
        (f"/school/feeds/{uuid4()}/revoke", {}),
        (f"/garden/beds/{theirs}/soil", {"id": str(uuid4()), "taken_on": "2027-04-01", "ph": "6"}),
        (
            f"/garden/beds/{theirs}/closure",
            {"id": str(uuid4()), "starts": "2027-06-01", "ends": "2027-06-02", "reason": "x"},
        ),
        (
            f"/garden/beds/{theirs}/amendment",
            {"id": str(uuid4()), "on_day": "2027-04-01", "kind": "compost", "volume": "1 L"},
        ),
        (f"/garden/beds/{theirs}/planting-day", {"on_day": "2027-04-14"}),
        (f"/garden/beds/{theirs}/found", {"id": str(uuid4()), "square": "A1"}),
        ("/garden/features", {"id": str(uuid4()), "action": "delete"}),
        (
            "/garden/map/place",
            {"what": "bed", "id": str(theirs), "x": "1", "y": "1", "length": "900", "width": "900", "turn": "0"},
        ),
        ("/garden/drafts/choose", {"bed": str(theirs), "planting": str(uuid4())}),
        ("/garden/drafts", {"id": str(uuid4()), "action": "close"}),
        (f"/garden/plantings/{uuid4()}/steps", {"step": "clear", "day": "2027-05-01"}),
        (f"/garden/plantings/{uuid4()}/cover", {}),
        ("/year/finder", {"crop": "radish", "bed": str(theirs), "sow": "2027-04-20"}),
        ("/year/finder", {"crop": "radish", "bed": str(theirs), "sow": "2027-04-20", "planting": str(uuid4())}),
        (f"/year/themes/{uuid4()}/parts", {"crop": "radish", "bed": str(theirs)}),
        ("/year/summer", {"id": str(uuid4()), "bed": str(theirs), "from_day": "2027-05-20", "what_for": "x"}),
        (f"/school/plans/{uuid4()}/delete", {}),
        (f"/garden/places/{uuid4()}/scores", {"rater": str(uuid4())}),
    ):
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
        ("/school/closures", {}, "educator"),
        ("/school/groups", {}, "educator"),
        ("/school/people/invitations", {}, "educator"),
        ("/school/people/passes", {}, "helper"),
        ("/school/weather/import", {}, "helper"),
        ("/school/weather/by-hand", {}, "viewer"),
        ("/garden/places", {}, "helper"),
        ("/school/place", {}, "educator"),
        ("/garden/features", {}, "helper"),
        ("/garden/map/place", {"what": "bed"}, "helper"),
        ("/garden/drafts", {}, "helper"),
        ("/year/finder", {}, "helper"),
        ("/year/summer", {}, "helper"),
        ("/week/water", {}, "helper"),
        ("/week/lessons", {}, "helper"),
        ("/week/lessons/compost/held", {}, "viewer"),
        ("/week/lessons/compost/delete", {}, "helper"),
        ("/week/share", {}, "helper"),
        ("/garden/signs", {}, "helper"),
        ("/school/weather/device", {}, "helper"),
        ("/school/weather/mail", {}, "helper"),
        ("/journal/letters", {}, "helper"),
        ("/week/stations", {}, "helper"),
        (f"/garden/plantings/{NOBODYS}/new-plants", {}, "helper"),
        (f"/garden/plantings/{NOBODYS}/ending", {}, "viewer"),
        (f"/tasks/{NOBODYS}/lesson", {}, "helper"),
        (f"/tasks/{NOBODYS}/told", {}, "viewer"),
        (f"/garden/beds/{NOBODYS}/planting-day", {}, "viewer"),
        ("/week/rounds", {}, "helper"),
        ("/week/rounds/2027-07-12/1", {}, "viewer"),
        ("/year/themes", {}, "helper"),
        ("/year/crops/radish", {}, "helper"),
        (f"/garden/plantings/{NOBODYS}/steps", {}, "helper"),
        (f"/garden/beds/{NOBODYS}/soil", {}, "helper"),
        (f"/garden/beds/{NOBODYS}/found", {}, "viewer"),
    ],
)
def test_a_role_without_the_right_is_told_what_it_would_take(
    client: TestClient, path: str, data: dict, who: str
) -> None:
    enter(client, who)
    page = post(client, path, **data)
    assert page.status == 403
    assert re.search(rf"An? {who} cannot", page.text)


@pytest.mark.parametrize("who", ["coordinator", "educator", "helper", "viewer"])
def test_every_role_can_look_at_every_page(client: TestClient, who: str) -> None:
    enter(client, who)
    assert {path: status for path in PAGES if (status := open_page(client, path).status) != 200} == {}


def test_a_viewers_pages_offer_no_writing(viewer: TestClient) -> None:
    for path in (
        *PAGES,
        f"/garden/beds/{bed_id('Bed 3')}",
        f"/garden/beds/{bed_id('Bed 3')}/soil",
        f"/garden/beds/{bed_id('Bed 2')}/rebuild",
    ):
        page = open_page(viewer, path)
        assert page.status == 200, path
        writes = {form.action for form in page.forms if form.method == "post"}
        assert writes <= {
            "/logout",
            "/demo-day",
            "/schools",
            "/account",
            "/account/password",
            "/account/erase",
            "/account/second-step",
            "/account/second-step/end",
            "/account/logins/end",
            "/account/logins/known",
            "/garden/prints",
            "/harvest/report",
        }, path  # a PDF changes nothing


def test_every_address_that_writes_is_tried(reader: TestClient) -> None:
    """The list above is whole: a new route that writes must be added to it."""
    app = reader.app
    writes = {
        re.sub(r"\{[^}]+\}", "*", route.path)
        for router in app.routes
        for route in getattr(getattr(router, "original_router", None), "routes", [router])
        if "POST" in (getattr(route, "methods", None) or ())
    }
    tried = {
        re.sub(r"[0-9a-f]{8}-[0-9a-f-]{27}", "*", path)
        .replace("/invite/nothing", "/invite/*")
        .replace("/open/nothing", "/open/*")
        .replace("/reset/nothing", "/reset/*")
        .replace("/crops/radish", "/crops/*")
        .replace("/forecast/kale", "/forecast/*")
        .replace("/lessons/compost", "/lessons/*")
        .replace("/rounds/2027-07-12/1", "/rounds/*/*")
        .replace("/surest/", "/*/")
        for path in FIELDS
    }
    # One button each, without a field of its own; those of a pass want a pass, those of a tablet a code (see their tests).
    buttons = {
        "/logout",
        "/week/lessons/*/delete",
        "/week/share",
        "/account/logins/known",
        "/school/feeds/*/revoke",
        "/school/people/invitations/*/revoke",
        "/school/people/passes/*/revoke",
        "/school/people/*/erase",
        "/school/plans/*/delete",
        "/school/groups/*/*/*/delete",
        "/school/plans/*/stages/*/items",
        "/journal/photos/*/delete",
        "/journal/letters/*/delete",
        "/journal/letters/*/pdf",
        "/school/health",
    }
    buttons.add("/field/sync")  # takes JSON, whose every field is tried in the phone's tests
    assert len(writes) > 30
    assert {path for path in writes if not path.startswith(("/pass/", "/class/"))} - tried - buttons == set()


@pytest.mark.parametrize("path", list(FIELDS))
def test_no_nasty_value_in_any_field_is_an_unexpected_error(anvil: TestClient, path: str) -> None:
    """Every write, every field: an answer in words, or the thing done; never a fault of ours."""
    kept = {cookie.name: cookie.value or "" for cookie in anvil.cookies.jar}
    right = token(anvil)
    for number, field in enumerate(FIELDS[path]):
        for value in NASTY[number % 2 :: 2] if path in USUAL else NASTY:  # long forms: half of them for each field
            anvil.cookies.clear()  # an answer may have set others
            anvil.cookies.update(kept)
            usual = {
                "command": "pencil",
                "squares": "A4",
                "crop": "radish",
                "method": "direct",
                "start_on": "2027-04-20",
                "id": str(NOBODYS),
                "body": "x",
                "kind": "started" if "happened" in path else "term",
                **USUAL.get(path, {}),
            }
            answer = anvil.post(path, data={**usual, "form_token": right, field: value}, follow_redirects=False)
            assert answer.status_code < 500, (field, value[:20], answer.status_code)
    anvil.cookies.clear()
    anvil.cookies.update(kept)


def test_no_nasty_value_in_an_address_is_an_unexpected_error(reader: TestClient) -> None:
    bed = f"/garden/beds/{bed_id('Bed 4')}"
    asked = {
        "/school/import/preview": ["file"],
        "/school/holidays": ["country", "region", "year"],
        "/school/calendar.ics": ["what"],
        "/school/calendar.csv": ["year"],
        "/school/groups": ["open"],
        "/towns": ["name"],
        "/school/place": ["name"],
        "/school/climate": ["compare"],
        "/school/weather": ["saved"],
        "/school/weather/preview": ["file"],
        "/school/chart/preview": ["file"],
        "/school/partners": ["open"],
        "/garden/places": ["place", "rater"],
        "/start": ["town", "invitation"],
        "/week": ["day", "shared"],
        "/week/water": ["day"],
        "/week/lessons": ["day"],
        "/week/lessons/compost": ["group", "on"],
        "/week/rounds": ["day"],
        f"{bed}/planting-day": ["on", "day"],
        f"{bed}/mats": ["on"],
        f"{bed}/labels": ["on", "sheet"],
        f"{bed}/sums": ["day"],
        "/harvest": ["planting", "kept"],
        "/school/formats/past": ["file", "what"],
        "/school/formats/school.json": ["photos"],
        "/school/turn": ["year"],
        "/seeds/box": ["crop", "planting"],
        "/seeds/stock": ["crop", "wanted", "per_unit", "growing"],
        f"/seeds/lots/{LOT}/packets": ["count", "each"],
        f"/seeds/trays/{TRAY}": ["planting"],
        "/harvest/book": ["by", "season", "crop"],
        "/harvest/book.csv": ["by", "season", "crop"],
        "/harvest/calendar": ["season"],
        "/harvest/worked": ["crop"],
        "/harvest/report": ["season"],
        "/harvest/report.csv": ["season"],
        "/harvest/weights": ["crop", "changed"],
        "/journal": ["bed", "planting", "what", "search", "before"],
        "/journal.csv": ["search"],
        "/journal/heights": ["crop"],
        "/journal/letters": ["group"],
        "/garden/prints": ["bed", "on"],
        "/school": ["changed"],
        bed: ["crop", "draft", "show"],
        f"{bed}/news": ["version", "draft"],
        "/garden": ["show", "bed", "day"],
        "/garden/needs": ["bed", "group"],
        "/garden/needs.csv": ["bed"],
        "/garden/map": ["thing", "new", "picture", "tool"],
        "/garden/drafts/compare": ["bed"],
        f"{bed}/seasons": ["day"],
        f"{bed}/rebuild": ["bricks"],
        f"{bed}/choice": [
            "crop",
            "method",
            "squares",
            "start_on",
            "per_square",
            "only",
            "arrangement",
            "follows",
            "in_row",
            "number",
            "wanted",
            "group",
            "draft",
        ],
    }
    for path, names in asked.items():
        for name in names:
            for value in NASTY:
                assert reader.get(path, params={name: value[:2000]}).status_code < 500, (path, name, value[:20])


def test_more_than_a_megabyte_is_refused_before_it_is_read(coordinator: TestClient) -> None:
    page = post(coordinator, "/journal", id=str(uuid4()), body="x" * 1_100_000)
    assert page.status == 413
    assert "More than 1 MB" in page.text


def test_an_unexpected_error_shows_a_number_and_no_trace(
    coordinator: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    from almanaque.web.seeds import seeds_to_have

    def fail(*_: object, **__: object) -> None:
        raise ZeroDivisionError("a secret detail")

    monkeypatch.setattr(seeds_to_have.garden, "beds", fail)
    page = open_page(coordinator, "/seeds")
    assert page.status == 500
    assert re.search(r"quote number [0-9A-F]{6}", page.text)
    assert "secret detail" not in page.response.text
    assert page.response.headers["content-security-policy"] == security.CONTENT_SECURITY_POLICY


def test_a_lost_database_says_so_and_gives_back_what_was_written(demo: Addresses) -> None:
    with client_for(demo) as client:
        enter(client, "coordinator")
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
        client.app.state.database.pool.timeout = PATIENCE_S
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
            ("/week", "No school year is on file"),
            ("/garden", "no beds yet"),
            ("/year", "No school year"),
            ("/journal", "Nothing yet"),
            ("/week/stations", "No station yet"),
            ("/journal/letters", "no class yet"),
            ("/journal/heights", "No heights yet"),
            ("/harvest", "Nothing has been picked yet"),
            ("/harvest/book", "nothing to draw"),
            ("/harvest/report", "Nothing was picked"),
            ("/harvest/money", "No purpose yet"),
            ("/harvest/curing", "No tasting yet"),
            ("/harvest/forecast", "Nothing to measure yet"),
            ("/harvest/weights", "a rough figure of the catalogue"),
            ("/harvest/worked", "Nothing has stood here yet"),
            ("/harvest/uses", "Nothing has been picked yet"),
            ("/harvest/calendar", "no school year on file"),
            ("/seeds", "No plan asks for seed"),
            ("/seeds/box", "The box is empty"),
            ("/seeds/order", "No plan is sown from seed"),
            ("/seeds/trays", "No tray yet"),
            ("/seeds/saving", "Nothing stands that gives seed"),
            ("/seeds/stock", "No class yet"),
            ("/school", "The weather of your place"),
            ("/school/climate", "frost is not judged"),
            ("/school/groups", "No groups yet"),
            ("/school/weather", "No weather on file"),
            ("/school/plans", "No plan yet"),
            ("/school/turn", "No school year has begun yet"),
            ("/school/formats", "Bring a whole school in"),
            ("/school/ballots", "No ballot yet"),
            ("/garden/places", "No places yet"),
            ("/school/partners", "No partners yet"),
            ("/school/chart", "No chart on file"),
        ):
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


def test_a_route_says_itself_what_it_takes(reader: TestClient) -> None:
    takes = reader.app.state.takes  # type: ignore[attr-defined]
    assert takes("/journal") == security.Takes()
    assert takes("/school/import/save").fields == 60_000
    assert takes("/field/photos").size > 12_000_000
    assert takes("/week/stations/5").size == takes("/field/photos").size
    assert takes("/week/stations/5/readings") == security.Takes()


@pytest.mark.parametrize(
    ("name", "written"),
    [
        *(
            (name, True)
            for name in ("body", "note", "name", "amount", "squares", "about", "evidence_light", "gives", "label", "r0")
        ),
        *((name, True) for name in ("what", "greeting", "how_to", "caution", "task", "depth", f"sentence-{NOBODYS}")),
        *(
            (name, False)
            for name in ("password", "new_password", "form_token", "id", "day", "version", "file", "action")
        ),
    ],
)
def test_an_error_page_gives_back_what_people_write_and_never_a_password(name: str, written: bool) -> None:
    assert is_written(name) == written
