"""School: groups that move up, people, invitations, passes, and a school of one's own."""

import re
from uuid import uuid4

import psycopg
from fastapi.testclient import TestClient

from almanaque.demo import load
from almanaque.host.postgres import Addresses
from almanaque.web import security
from tests.database import SOUTH, bed_id
from tests.web.conftest import client_for
from tests.web.pages import Page, enter, log_in, open_page, post


def test_a_class_before_and_after_it_moved_up(coordinator: TestClient) -> None:
    bed = load.demo_id("Brindlecombe School", "bed", "Bed 1")
    before, after = (open_page(coordinator, f"/school/groups?day={day}") for day in ("2027-08-24", "2027-08-25"))
    assert "Grade 4 Birches" in before.text
    assert "Grade 5 Birches" in after.text
    assert "Alders left on Tuesday, 24 August 2027" in after.text
    assert "Kindergarten Gentians" in after.text
    assert "Gentians arrives on Wednesday, 25 August 2027" in before.text
    post(coordinator, "/demo-day", day="2027-09-01")
    garlic = open_page(coordinator, f"/garden/beds/{bed}?day=2027-06-10")
    assert "planted by last year's Grade 4, now Grade 5" in garlic.text


def test_groups_lessons_flags_and_teams_are_added_changed_and_deleted(coordinator: TestClient) -> None:
    made = str(uuid4())
    page = post(
        coordinator,
        "/school/groups",
        id=made,
        name="Hazels",
        kind="class",
        grade="1",
        head_count="21",
        led_by="Science room",
    )
    assert "Grade 1 (Hazels)" in page.text  # Elders are Grade 1 too
    assert "Grade 1 (Elders)" in page.text
    here = f"/school/groups/{made}"
    page = post(coordinator, f"{here}/slots", weekday="0", starts_at="8:45", minutes="40", held="terms")
    page = post(coordinator, f"{here}/flags", kind="must not eat", what="nuts")
    page = post(coordinator, f"{here}/teams", name="The Otters")
    assert "Monday 8:45, 40 min" in page.text
    assert "Someone here must not eat nuts." in page.text
    assert "The Otters" in page.text
    week = open_page(coordinator, "/week?day=2027-04-19")
    assert "Grade 1 (Hazels)" in week.text
    assert "Someone here must not eat nuts." in week.text
    for form in [f.action for f in page.forms if "/delete" in f.action]:
        post(coordinator, form)
    assert "nuts" not in open_page(coordinator, f"/school/groups?open={made}").text
    assert post(coordinator, f"{here}/slots", weekday="9", starts_at="8:45", minutes="40").status == 422
    assert (
        post(coordinator, "/school/groups", id=str(uuid4()), name="x", kind="class", grade="1", head_count="0").status
        == 422
    )
    assert post(coordinator, f"/school/groups/{uuid4()}/teams", name="x").status == 404
    gone = post(coordinator, "/school/groups", id=made, action="delete")
    assert "Hazels" not in gone.text


def test_the_class_of_next_year_takes_the_lessons_of_the_one_before(coordinator: TestClient, demo: Addresses) -> None:
    with psycopg.connect(demo.owner) as owner:
        owner.execute("DELETE FROM class_group WHERE name = 'Gentians'")
    page = open_page(coordinator, "/school/groups")
    assert "No class arrives as Kindergarten yet" in page.text
    page = post(coordinator, "/school/groups/arriving", year="2027", name="Irises", head_count="19")
    assert "Irises arrives on Wednesday, 25 August 2027" in page.text
    assert "Wednesday 10:20, 30 min" in page.text
    renamed = post(coordinator, "/school/grades", word="Year", first="1", last="6")
    assert "Year 6 Alders" in renamed.text


def test_an_invited_person_joins_with_a_new_account_or_an_old_one(coordinator: TestClient, demo: Addresses) -> None:
    page = post(coordinator, "/school/people/invitations", label="Carer for July", role="carer")
    link = next(a["value"] for tag, a in page.tags if tag == "input" and a.get("id") == "made").split("testserver")[1]
    assert 'svg class="qr"' in page.response.text
    with client_for(demo) as stranger:
        form = open_page(stranger, link).form(link)
        wrong = Page(
            stranger.post(link, data={**form.fields, "login": "wren", "name": "Wren Ash", "password": "short"})
        )
        assert (wrong.status, "12 to 200 characters" in wrong.text) == (422, True)
        assert 'value="wren"' in wrong.response.text
        taken = Page(
            stranger.post(link, data={**form.fields, "login": "helper", "name": "W", "password": "long enough words"})
        )
        assert (taken.status, "login name is taken" in taken.text) == (422, True)
        joined = Page(
            stranger.post(
                link, data={**form.fields, "login": "wren", "name": "Wren Ash", "password": "long enough words"}
            )
        )
        assert "This week in the garden" in joined.text
        assert open_page(stranger, link).status == 404
        assert post(stranger, "/school/years", id=str(uuid4()), starts="2030-01-01").status == 403
    second = post(coordinator, "/school/people/invitations", label="Ivo again", role="coordinator")
    link = next(a["value"] for tag, a in second.tags if tag == "input" and a.get("id") == "made").split("testserver")[1]
    with client_for(demo) as known:
        form = open_page(known, link).form(link)
        wrong = Page(
            known.post(link, data={**form.fields, "has_account": "yes", "login": "educator", "password": "nope"})
        )
        assert (wrong.status, "do not belong together" in wrong.text) == (422, True)
        right = Page(
            known.post(link, data={**form.fields, "has_account": "yes", "login": "educator", "password": load.PASSWORD})
        )
        assert "This week in the garden" in right.text
        post(known, "/schools", school=str(SOUTH))  # this one coordinates the southern school too
        third = post(known, "/school/people/invitations", label="From the north", role="viewer")
    roles = open_page(coordinator, "/school/people").response.text
    assert roles.count("<option selected>coordinator</option>") == 2
    link = next(a["value"] for tag, a in third.tags if tag == "input" and a.get("id") == "made").split("testserver")[1]
    with client_for(demo) as other:
        form = open_page(other, link).form(link)
        joined = Page(
            other.post(link, data={**form.fields, "has_account": "yes", "login": "helper", "password": load.PASSWORD})
        )
        assert "Tallowbank School" in joined.text  # the school that was joined, not the one known longest


def test_roles_change_and_people_are_let_go_and_erased(coordinator: TestClient, demo: Addresses) -> None:
    helper, me, educator = (load.account_id(name) for name in ("helper", "coordinator", "educator"))
    assert "keeps at least one coordinator" in post(coordinator, f"/school/people/{me}/role", role="viewer").text
    assert post(coordinator, f"/school/people/{helper}/role", role="queen").status == 422
    assert post(coordinator, f"/school/people/{uuid4()}/role", role="viewer").status == 404
    assert "another school too" in post(coordinator, f"/school/people/{educator}/erase").text
    post(coordinator, f"/school/people/{helper}/erase")
    page = open_page(coordinator, "/school/people")
    assert "Runa Oakes" not in page.text
    post(coordinator, f"/school/people/{educator}/role", role="none")
    assert "Ivo Tarn" not in open_page(coordinator, "/school/people").text
    with client_for(demo) as client:
        assert log_in(client, "helper").status == 401


def test_ones_own_account_is_changed_and_erased_with_the_password(client: TestClient) -> None:
    enter(client, "viewer")
    new = {"new_password": "long enough words"}
    assert "not right" in post(client, "/account/password", password="wrong", **new).text
    post(client, "/account", name="Pell M.")
    post(client, "/account/password", password=load.PASSWORD, **new)
    assert "Pell M." in open_page(client, "/account").response.text
    assert "not right" in post(client, "/account/erase", password=load.PASSWORD).text
    page = post(client, "/account/erase", password="long enough words")
    assert page.response.url.path == "/login"
    assert log_in(client, "viewer", "long enough words").status == 401


def make_pass(client: TestClient, group: str = "") -> str:
    page = post(client, "/school/people/passes", label="Grade 2 on Tuesdays", group=group, when="term")
    return next(a["value"] for tag, a in page.tags if tag == "input" and a.get("id") == "made").split("testserver")[1]


def test_a_garden_pass_opens_jobs_notes_and_pickings_and_nothing_else(coordinator: TestClient, demo: Addresses) -> None:
    docks = str(load.demo_id("Brindlecombe School", "group", "Docks"))
    link = make_pass(coordinator, docks)
    with client_for(demo) as holder:
        page = open_page(holder, link)
        assert "Garden pass for Grade 2" in page.text
        assert "Someone here must not touch tomato leaves." in page.text
        for path in ("/week", "/school/people", "/garden", "/harvest"):
            assert str(open_page(holder, path).response.url.path) == "/login"
        fields = page.form("/pass/notes").fields
        task = next(f.action for f in page.forms if f.action.startswith("/pass/tasks/"))
        ticked = Page(holder.post(task, data={"form_token": fields["form_token"], "status": "done"}))
        assert "Open again" in ticked.response.text
        assert Page(holder.post("/pass/notes", data={**fields, "body": "Two worms by the path"})).status == 200
        picking = page.form("/pass/pickings").fields
        planting = re.search(r'name="planting">\s*<option value="([0-9a-f-]+)"', page.response.text)[1]
        kept = Page(
            holder.post(
                "/pass/pickings",
                data={**picking, "planting": planting, "amount": "12", "unit": "count", "use": "kitchen"},
            )
        )
        assert "The picking is in the book." in kept.text
        much = {
            **picking,
            "id": str(uuid4()),
            "planting": planting,
            "amount": "900",
            "unit": "kg",
            "use": "kitchen",
            "sure": "",
        }
        asked = Page(holder.post("/pass/pickings", data=much))
        assert asked.status == 422
        assert "times the most that is usual" in asked.text
        assert "in the book" in Page(holder.post("/pass/pickings", data={**much, "sure": "1"})).text
        with psycopg.connect(demo.owner) as owner:
            other = owner.execute(
                "SELECT id FROM task WHERE class_group_id <> %s AND status = 'open' LIMIT 1", [docks]
            ).fetchone()
            signed = owner.execute(
                "SELECT count(*) FROM journal_entry WHERE pass_id IS NOT NULL AND noted_by IS NULL"
            ).fetchone()
        assert signed == (1,)
        assert holder.post(f"/pass/tasks/{other[0]}", data={"form_token": fields["form_token"]}).status_code == 404
        revoke = next(
            f.action
            for f in open_page(coordinator, "/school/people").forms
            if "/passes/" in f.action and "/revoke" in f.action
        )
        post(coordinator, revoke)
        assert str(open_page(holder, "/pass").response.url.path) == "/login"
        assert open_page(holder, link).status == 404
    assert "Two worms by the path" in open_page(coordinator, "/journal").text


def test_following_a_pass_logs_nobody_out_and_a_carers_pass_has_carers_jobs(coordinator: TestClient) -> None:
    page = open_page(coordinator, make_pass(coordinator))
    assert "Garden pass for carer" in page.text
    assert open_page(coordinator, "/week").status == 200


def test_somebody_new_sets_up_a_school_where_that_is_open(demo: Addresses) -> None:
    with client_for(demo) as stranger:
        form = open_page(stranger, "/start").form("/start")
        looked = Page(
            stranger.post(
                "/start", data={**form.fields, "school_name": "Heron School", "town": "Tromso", "action": "look"}
            )
        )
        assert "Tromsø, Norway" in looked.text
        place = next(a["value"] for tag, a in looked.tags if tag == "input" and a.get("name") == "place")
        fields = {
            **looked.form("/start").fields,
            "town": "Tromso",
            "place": place,
            "units": "metric",
            "action": "found",
        }
        assert (
            "12 to 200 characters"
            in Page(stranger.post("/start", data={**fields, "name": "Ola", "login": "ola", "password": "x"})).text
        )
        made = Page(
            stranger.post("/start", data={**fields, "name": "Ola", "login": "ola", "password": "long enough words"})
        )
        assert "Heron School" in made.text
        assert "The beginning" in made.text
        place_page = open_page(stranger, "/school/place").response.text
        assert "Europe/Oslo" in place_page
        assert "Tromsø, Norway" in place_page
        assert "Brindlecombe" not in open_page(stranger, "/garden").text
        assert "Kept under simulated station" in post(stranger, "/school/weather/station").text
        assert "One year in ten still froze after" in open_page(stranger, "/school/climate").text
        assert "up to yesterday already" in post(stranger, "/school/weather/station").text


def test_where_it_is_not_open_a_stranger_is_told_so(empty: Addresses) -> None:
    from almanaque.clock import Clock
    from almanaque.settings import Settings
    from almanaque.web.app import create_app

    with TestClient(
        create_app(Settings(database_url=empty.app, secret="s" * 40), Clock()), base_url="http://testserver"
    ) as stranger:
        page = open_page(stranger, "/start")
        assert "Ask whoever runs this server" in page.text
        assert [f for f in page.forms if f.action == "/start"] == []
        assert "Set up a school" not in open_page(stranger, "/login").text


def test_what_a_class_must_not_eat_is_said_where_it_is_planned(coordinator: TestClient) -> None:
    group = load.demo_id("Brindlecombe School", "group", "Ferns")
    sheet = f"/garden/beds/{bed_id('Bed 4')}"
    words = "omeone in Kindergarten must not eat radishes."
    assert words not in open_page(coordinator, sheet).text
    post(coordinator, f"/school/groups/{group}/flags", kind="must not eat", what="radishes")
    page = open_page(coordinator, sheet)
    assert words in page.text
    assert "school's own rules come first" in page.text
    assert words in open_page(coordinator, f"{sheet}/fits?from=2027-04-14").text


def test_a_pass_after_its_day_opens_nothing_and_writes_nothing(coordinator: TestClient, demo: Addresses) -> None:
    link = make_pass(coordinator, str(load.demo_id("Brindlecombe School", "group", "Docks")))
    with client_for(demo) as holder:
        page = open_page(holder, link)
        note = page.form("/pass/notes").fields
        task = next(f.action for f in page.forms if f.action.startswith("/pass/tasks/"))
        with psycopg.connect(demo.owner) as owner:
            owner.execute("UPDATE garden_pass SET expires_at = now() - interval '1 minute'")
        assert holder.get("/pass", follow_redirects=False).status_code == 303
        for path, data in (
            ("/pass/notes", {**note, "body": "After its day"}),
            (task, {"form_token": note["form_token"], "status": "done"}),
        ):
            assert holder.post(path, data=data, follow_redirects=False).status_code in (303, 401)
        assert open_page(holder, link).status == 404
    assert "After its day" not in open_page(coordinator, "/journal").text


def test_a_garden_pass_locks_its_phone_out_of_nothing_and_can_be_left(coordinator: TestClient, demo: Addresses) -> None:
    link = make_pass(coordinator)
    with client_for(demo) as holder:
        open_page(holder, link)
        assert Page(holder.get("/pass")).status == 200
        # Somebody with a login takes the same phone.
        page = log_in(holder, "helper")
        assert page.status == 200
        assert security.PASS_COOKIE not in holder.cookies
        assert holder.get("/pass", follow_redirects=False).status_code == 303
        post(holder, "/logout")
        open_page(holder, link)
        left = open_page(holder, "/pass").form("/pass/leave")
        assert str(holder.post("/pass/leave", data=left.fields).url).endswith("/login")
        assert security.PASS_COOKIE not in holder.cookies
