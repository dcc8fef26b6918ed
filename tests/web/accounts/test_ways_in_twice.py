"""Forms about accounts that a thumb sends twice: done once, and both presses end where the first one led."""

import base64
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from uuid import uuid4

import psycopg
import pyotp
import pytest
from fastapi.testclient import TestClient

from almanaque.clock import Clock
from almanaque.commands.accounts import entry
from almanaque.demo import load
from almanaque.host.postgres import Addresses
from almanaque.store.accounts import entered_once
from almanaque.store.accounts.entered_once import Entered
from almanaque.store.db import Database
from tests.database import NORTH, PATIENCE_S
from tests.web.conftest import client_for
from tests.web.pages import Page, enter, log_in, open_page, post, token

WORDS = "long enough words"
FOUND = {
    "school_name": "Heron School",
    "latitude": "69.6",
    "longitude": "18.9",
    "zone": "Europe/Oslo",
    "units": "metric",
    "action": "found",
}


def count(demo: Addresses, statement: str) -> int:
    with psycopg.connect(demo.owner) as owner:
        ((found,),) = owner.execute(statement.encode()).fetchall()
    return int(found)


def press_twice(client: TestClient, path: str, sent: dict[str, str]) -> list[Page]:
    """Send the same form again as the browser was before the first answer had come."""
    before = {cookie.name: cookie.value or "" for cookie in client.cookies.jar}
    pages = []
    for _ in range(2):
        client.cookies.clear()
        for name, value in before.items():
            client.cookies.set(name, value, domain="testserver.local")
        pages.append(Page(client.post(path, data=sent)))
    return pages


def made_link(page: Page) -> str:
    return next(a["value"] for tag, a in page.tags if tag == "input" and a.get("id") == "made").split("testserver")[1]


def test_a_password_changed_twice_says_not_that_the_old_one_is_wrong(client: TestClient, demo: Addresses) -> None:
    enter(client, "helper")
    form = open_page(client, "/account").form("/account/password").fields
    sent = {**form, "password": load.PASSWORD, "new_password": WORDS}
    for _ in range(2):
        page = Page(client.post("/account/password", data=sent))
        assert (page.status, page.response.url.path) == (200, "/account")
    assert count(demo, "SELECT count(*) FROM login_attempt") == 0
    assert count(demo, "SELECT count(*) FROM audit_entry WHERE what = 'password changed'") == 1


def test_a_second_step_begun_twice_shows_the_recovery_codes_that_hold(
    client: TestClient, demo: Addresses, monkeypatch: pytest.MonkeyPatch
) -> None:
    enter(client, "helper")
    form = open_page(client, "/account/second-step").form("/account/second-step").fields
    code = pyotp.TOTP(form["secret"]).generate_otp(int(Clock().now().timestamp()) // entry.STEP_S)
    sent = {**form, "password": load.PASSWORD, "code": code}
    shown = []
    for after in (timedelta(), timedelta(minutes=5)):
        later = Clock().now() + after
        monkeypatch.setattr(Clock, "now", lambda _, instant=later: instant)
        page = client.post("/account/second-step", data=sent)
        shown.append([line for line in page.text.splitlines() if "<li><code>" in line])
    assert len(shown[0]) == entry.CODES
    assert shown[0] == shown[1]
    with client_for(demo) as other:
        form = log_in(other, "helper").form("/login/code").fields
        last = shown[0][-1].partition("<code>")[2].partition("</code>")[0]
        assert "This week" in Page(other.post("/login/code", data={**form, "code": last})).text


def test_recovery_codes_are_all_different_and_known_to_nobody_without_the_servers_key() -> None:
    secret = base64.b32encode(b"12345678901234567890").decode()
    codes = entry.recovery_codes(secret, "k" * 40)
    assert len(set(codes)) == entry.CODES
    assert {len(code) for code in codes} == {10}
    assert set("".join(codes)) <= set(entry.CODE_LETTERS)
    assert set(codes).isdisjoint(entry.recovery_codes(secret, "l" * 40))
    assert codes == entry.recovery_codes(secret, "k" * 40)


def test_a_school_founded_twice_is_one_and_both_presses_are_in_it(coordinator: TestClient, demo: Addresses) -> None:
    form = open_page(coordinator, "/start").form("/start").fields
    for page in press_twice(coordinator, "/start", {**form, **FOUND}):
        assert (page.response.url.path, "Heron School" in page.text) == ("/beginning", True)
    assert count(demo, "SELECT count(*) FROM school WHERE name = 'Heron School'") == 1
    # Another one is another form.
    form = open_page(coordinator, "/start").form("/start").fields
    coordinator.post("/start", data={**form, **FOUND})
    assert count(demo, "SELECT count(*) FROM school WHERE name = 'Heron School'") == 2


def test_a_first_account_and_its_school_made_twice_are_one(demo: Addresses) -> None:
    with client_for(demo) as stranger:
        form = open_page(stranger, "/start").form("/start").fields
        sent = {**form, **FOUND, "name": "Ola", "login": "ola", "password": WORDS}
        pages = press_twice(stranger, "/start", sent)
    assert [("Heron School" in page.text, page.response.url.path) for page in pages] == [(True, "/beginning")] * 2
    assert count(demo, "SELECT count(*) FROM school WHERE name = 'Heron School'") == 1


def test_the_second_of_two_at_once_waits_for_what_becomes_of_the_first(demo: Addresses) -> None:
    database = Database(demo.app, max_size=2, timeout_s=PATIENCE_S)
    database.open()
    number, helper = uuid4(), load.account_id("helper")

    def second() -> Entered | None:
        with database.transaction() as connection:
            return entered_once.begin(connection, number)

    with ThreadPoolExecutor(1) as pool:
        with database.transaction() as connection:
            assert entered_once.begin(connection, number) is None
            waiting = pool.submit(second)
            entered_once.note(connection, number, helper, NORTH)
        assert waiting.result() == Entered(helper, "helper", NORTH)
    assert entered_once.begin(connection, None) is None
    database.close()


def test_an_invitation_taken_twice_lets_in_twice_and_a_link_to_a_new_password_too(
    coordinator: TestClient, demo: Addresses
) -> None:
    link = made_link(post(coordinator, "/school/people/invitations", label="Wren", role="helper"))
    with client_for(demo) as stranger:
        form = open_page(stranger, link).form(link).fields
        sent = {**form, "login": "wren", "name": "Wren Ash", "password": WORDS}
        pages = press_twice(stranger, link, sent)
        assert ["This week" in page.text for page in pages] == [True, True]
        # Another form for the same invitation finds it used.
        assert (
            press_twice(stranger, link, {**sent, "once": str(uuid4()), "form_token": token(stranger)})[1].status == 404
        )
    assert count(demo, "SELECT count(*) FROM account WHERE login = 'wren'") == 1
    helper = load.account_id("helper")
    link = made_link(post(coordinator, f"/school/people/{helper}/reset", password=load.PASSWORD))
    with client_for(demo) as stranger:
        form = open_page(stranger, link).form(link).fields
        pages = press_twice(stranger, link, {**form, "new_password": WORDS})
        assert ["This week" in page.text for page in pages] == [True, True]
        # Who has the link and not what was chosen is not let in by it again.
        other = {**form, "new_password": "other words than these", "form_token": token(stranger)}
        assert press_twice(stranger, link, other)[1].status == 404
    assert count(demo, "SELECT count(*) FROM audit_entry WHERE what = 'recovery link used'") == 1
