"""What keeps strangers out and lets owners in: waits, known browsers, the second step, links to a new password, logins that end."""

import base64
import re
import threading
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime

import psycopg
import pyotp
import pytest
from fastapi.testclient import TestClient

from almanaque import passwords
from almanaque.clock import Clock
from almanaque.commands.accounts import entry
from almanaque.core.accounts import attempts
from almanaque.core.errors import BadInput
from almanaque.demo import DEMO_DAY, load
from almanaque.host.postgres import Addresses
from almanaque.settings import Settings
from almanaque.store.db import Database
from almanaque.web import security
from almanaque.web.app import create_app
from tests.database import PATIENCE_S
from tests.web.conftest import SETTINGS, client_for
from tests.web.pages import Page, enter, log_in, open_page, post

WORDS = "long enough words"


def code(secret: str, *, steps: int = 0) -> str:
    return pyotp.TOTP(secret).generate_otp(int(Clock().now().timestamp()) // entry.STEP_S + steps)


def just_now(demo: Addresses) -> None:
    """Let what was tried lie an hour ahead: however slow the machine is, no wait is over by itself."""
    with psycopg.connect(demo.owner) as owner:
        owner.execute("UPDATE login_attempt SET at = at + interval '1 hour'")


def test_whoever_mistypes_often_waits_even_with_the_right_password_but_is_not_locked_out(
    client: TestClient, demo: Addresses
) -> None:
    for _ in range(attempts.LOGIN_FROM_ADDRESS.free):
        log_in(client, "helper", "wrong")
    just_now(demo)
    page = log_in(client, "helper")
    assert page.status == 429
    wait = int(page.response.headers["retry-after"])
    assert f"Wait {wait} seconds" in page.text
    with psycopg.connect(demo.owner) as owner:
        owner.execute("UPDATE login_attempt SET at = at - interval '65 minutes'")
    assert log_in(client, "helper").status == 200


def test_a_browser_that_is_known_is_not_kept_out_by_others_who_try(client: TestClient, demo: Addresses) -> None:
    assert log_in(client, "helper").status == 200
    post(client, "/logout")
    with client_for(demo) as stranger:
        for _ in range(attempts.LOGIN_FROM_ADDRESS.free):
            log_in(stranger, "helper", "wrong")
        just_now(demo)
        assert log_in(stranger, "helper").status == 429
    assert log_in(client, "helper").status == 200, "the same address, but a browser that has logged in before"
    with client_for(demo) as other:
        other.cookies.set(security.KNOWN_COOKIE, "made-up." + "0" * 32, domain="testserver.local")
        assert log_in(other, "helper").status == 429


def test_a_known_browser_is_known_for_its_own_account_only(client: TestClient, demo: Addresses) -> None:
    log_in(client, "helper")
    post(client, "/logout")
    for _ in range(attempts.LOGIN_FROM_ADDRESS.free):
        log_in(client, "viewer", "wrong")
    just_now(demo)
    assert log_in(client, "viewer", "wrong").status == 429
    assert log_in(client, "helper").status == 200


def test_two_who_try_at_once_are_both_counted(demo: Addresses) -> None:
    """Each try is counted before the password is looked at, under a lock of its key."""
    limit = {"login x": attempts.Limit(3, 3600)}
    database = Database(demo.app, max_size=4, timeout_s=PATIENCE_S)
    database.open()

    def tried() -> bool:
        try:
            entry.try_once(database.transaction, limit)
        except entry.TooSoon:
            return False
        return True

    with ThreadPoolExecutor(4) as pool:
        let = [one.result() for one in [pool.submit(tried) for _ in range(12)]]
    database.close()
    assert sum(let) == 3


def test_only_two_passwords_are_hashed_at_once(monkeypatch: pytest.MonkeyPatch) -> None:
    now, most, lock = 0, 0, threading.Lock()
    gate = threading.Barrier(passwords.AT_ONCE)

    class Slow:
        def hash(self, password: str) -> str:
            nonlocal now, most
            with lock:
                now += 1
                most = max(most, now)
            gate.wait()
            with lock:
                now -= 1
            return password

    monkeypatch.setattr(passwords, "_hasher", Slow())
    with ThreadPoolExecutor(6) as pool:
        list(pool.map(passwords.hash_password, ["x"] * 6))
    assert most == passwords.AT_ONCE


def test_an_account_with_a_second_step_asks_for_its_code_and_takes_each_once(
    coordinator: TestClient, demo: Addresses
) -> None:
    page = open_page(coordinator, "/account/second-step")
    secret = page.form("/account/second-step").fields["secret"]
    given = {"secret": secret, "password": load.PASSWORD}
    assert "code is not right" in post(coordinator, "/account/second-step", code="000000", **given).text
    begun = post(coordinator, "/account/second-step", code=code(secret, steps=-1), **given)
    codes = re.findall(r"<code>([a-z0-9]{5} [a-z0-9]{5})</code>", begun.response.text)
    assert len(set(codes)) == entry.CODES
    with client_for(demo) as other:
        page = log_in(other, "coordinator")
        assert page.response.url.path == "/login/code"
        assert str(open_page(other, "/week").response.url.path) == "/login", "half a login opens nothing"
        form = page.form("/login/code").fields
        now = code(secret)
        assert Page(other.post("/login/code", data={**form, "code": "123456"})).status == 401
        right = Page(other.post("/login/code", data={**form, "code": now}))
        assert "This week in the garden" in right.text
        post(other, "/logout")
        form = log_in(other, "coordinator").form("/login/code").fields
        assert Page(other.post("/login/code", data={**form, "code": now})).status == 401, "a code is taken once"
        for nasty in ("é" * 6, "🥕", "١٢٣٤٥٦"):
            assert Page(other.post("/login/code", data={**form, "code": nasty})).status == 401
        assert "This week" in Page(other.post("/login/code", data={**form, "code": codes[0].upper()})).text
        post(other, "/logout")
        form = log_in(other, "coordinator").form("/login/code").fields
        assert Page(other.post("/login/code", data={**form, "code": codes[0]})).status == 401
    assert "9 recovery codes left" in open_page(coordinator, "/account").text
    ended = post(coordinator, "/account/second-step/end", password="wrong")
    assert "not right" in ended.text
    post(coordinator, "/account/second-step/end", password=load.PASSWORD)
    with client_for(demo) as other:
        assert "This week in the garden" in log_in(other, "coordinator").text


def test_half_a_login_is_over_with_another_password_and_with_time(coordinator: TestClient, demo: Addresses) -> None:
    secret = open_page(coordinator, "/account/second-step").form("/account/second-step").fields["secret"]
    post(coordinator, "/account/second-step", secret=secret, password=load.PASSWORD, code=code(secret, steps=-1))
    with client_for(demo) as other:
        form = log_in(other, "coordinator").form("/login/code").fields
        signed, _, packed = other.cookies[security.HALF_COOKIE].strip('"').partition(".")
        parts = base64.urlsafe_b64decode(packed).decode().split("|")
        forged = [
            [parts[0], str(int(parts[1]) + 60), *parts[2:]],
            [str(load.account_id("viewer")), *parts[1:]],
            ["nobody", *parts[1:]],
            parts[:2],
        ]
        packed_again = [base64.urlsafe_b64encode("|".join(one).encode()).decode() for one in forged]
        for wrong in (
            "x",
            "x.y",
            f"{signed[:-1]}x.{packed}",
            f"{signed}.{packed[:-4]}",
            *(f"{signed}.{p}" for p in packed_again),
        ):
            other.cookies.set(security.HALF_COOKIE, wrong, domain="testserver.local")
            assert other.get("/login/code", follow_redirects=False).headers.get("location") == "/login", wrong
            other.cookies.clear()
        form = log_in(other, "coordinator").form("/login/code").fields
        post(coordinator, "/account/password", password=load.PASSWORD, new_password=WORDS)
        answer = other.post("/login/code", data={**form, "code": code(secret)}, follow_redirects=False)
        assert answer.headers["location"] == "/login"


def test_a_coordinators_link_sets_a_new_password_once_and_ends_every_login(
    coordinator: TestClient, demo: Addresses
) -> None:
    helper, educator = load.account_id("helper"), load.account_id("educator")
    assert "not right" in post(coordinator, f"/school/people/{helper}/reset", password="wrong").text
    elsewhere = post(coordinator, f"/school/people/{educator}/reset", password=load.PASSWORD)
    assert (elsewhere.status, "another school too" in elsewhere.text) == (422, True)
    links = []
    for _ in range(2):
        page = post(coordinator, f"/school/people/{helper}/reset", password=load.PASSWORD)
        made = next(a["value"] for tag, a in page.tags if tag == "input" and a.get("id") == "made")
        links.append(made.split("testserver")[1])
    with client_for(demo) as old, client_for(demo) as stranger:
        log_in(old, "helper")
        assert open_page(stranger, links[0]).status == 404, "a later link replaces it"
        form = open_page(stranger, links[1]).form(links[1]).fields
        short = Page(stranger.post(links[1], data={**form, "new_password": "short"}))
        assert (short.status, "12 to 200" in short.text) == (422, True)
        page = Page(stranger.post(links[1], data={**form, "new_password": WORDS}))
        assert "This week in the garden" in page.text
        assert open_page(stranger, links[1]).status == 404
        assert str(open_page(old, "/week").response.url.path) == "/login"
        assert log_in(old, "helper").status == 401
        assert log_in(old, "helper", WORDS).status == 200
    log = open_page(coordinator, "/school/log").text
    assert "made a link to a new password for Runa Oakes" in log
    assert "set a new password by a link" in log


def test_who_may_not_change_people_makes_no_link_and_reads_no_log(viewer: TestClient) -> None:
    assert post(viewer, f"/school/people/{load.account_id('helper')}/reset", password=load.PASSWORD).status == 403
    assert open_page(viewer, "/school/log").status == 403


def test_logins_are_listed_a_new_browser_is_noticed_and_others_are_ended(client: TestClient, demo: Addresses) -> None:
    log_in(client, "helper")
    assert "Was it you?" not in open_page(client, "/week").text
    with client_for(demo) as stranger, client_for(demo) as third:
        stranger.headers["User-Agent"] = "Mozilla/5.0 (X11; Linux x86_64) Gecko/20100101 Firefox/130.0"
        log_in(stranger, "helper")
        assert "Was it you?" in open_page(client, "/week").text
        page = open_page(client, "/account")
        assert "Firefox on Linux new" in page.text
        chosen = next(
            f.fields["login"] for f in page.forms if f.action == "/account/logins/end" and "login" in f.fields
        )
        post(client, "/account/logins/known")
        assert "Was it you?" not in open_page(client, "/week").text
        post(client, "/account/logins/end", login=chosen)
        assert str(open_page(stranger, "/week").response.url.path) == "/login"
        log_in(third, "viewer")
        post(client, "/account/logins/end")
        assert open_page(third, "/week").response.url.path == "/week", "only one's own logins end"
        mine = open_page(third, "/account").form("/account").fields
        assert third.post("/account/logins/end", data={**mine, "login": chosen}).status_code == 404
    assert open_page(client, "/week").response.url.path == "/week"


def test_a_login_that_nobody_uses_ends_sooner_on_a_shared_computer(client: TestClient, demo: Addresses) -> None:
    form = open_page(client, "/login").form("/login")
    data = {**form.fields, "login": "helper", "password": load.PASSWORD, "shared": "1"}
    answer = client.post("/login", data=data, follow_redirects=False)
    held = next(h for h in answer.headers.get_list("set-cookie") if h.startswith(security.SESSION_COOKIE))
    assert "max-age" not in held.lower(), "it ends with the browser"
    with psycopg.connect(demo.owner) as owner:
        owner.execute("UPDATE login_session SET seen_at = now() - interval '119 minutes'")
    assert open_page(client, "/week").response.url.path == "/week"
    with psycopg.connect(demo.owner) as owner:
        ((minutes,),) = owner.execute("SELECT extract(epoch FROM now() - seen_at) / 60 FROM login_session").fetchall()
        assert minutes < 5, "that it was used is written down"
        owner.execute("UPDATE login_session SET seen_at = now() - interval '121 minutes'")
    assert open_page(client, "/week").response.url.path == "/login"


def test_a_link_to_a_new_password_comes_by_mail_for_logins_that_are_addresses(
    coordinator: TestClient, demo: Addresses
) -> None:
    settings = SETTINGS.model_copy(update={"smtp_url": "smtps://mail.example", "public_url": "http://testserver"})
    with psycopg.connect(demo.owner) as owner:
        owner.execute("UPDATE account SET login = 'runa@school.example' WHERE login = 'helper'")
    app = create_app(settings, Clock(DEMO_DAY), Database(demo.app, timeout_s=PATIENCE_S))
    with TestClient(app, base_url="http://testserver") as stranger:
        said = []
        for login in ("runa@school.example", "nobody@school.example", "viewer"):
            form = open_page(stranger, "/forgotten").form("/forgotten").fields
            said.append(Page(stranger.post("/forgotten", data={**form, "login": login})).text.replace(login, "X"))
        assert said[0] == said[1] == said[2], "the answer tells nobody who has a login here"
        with psycopg.connect(demo.owner) as owner:
            mails = owner.execute("SELECT mail_to, body FROM mail").fetchall()
        assert [to for to, _ in mails] == ["runa@school.example"]
        assert mails[0][1].split("testserver")[1].split()[0] not in open_page(coordinator, "/school/mail").text
        assert "runa@school.example" not in open_page(coordinator, "/school/mail").text
        link = mails[0][1].split("testserver")[1].split()[0]
        form = open_page(stranger, link).form(link).fields
        assert "This week" in Page(stranger.post(link, data={**form, "new_password": WORDS})).text
        post(stranger, "/logout")
        form = open_page(stranger, "/forgotten").form("/forgotten").fields
        stranger.post("/forgotten", data={**form, "login": "runa@school.example"})
        just_now(demo)
        assert (
            "the server made a link to a new password for Runa Oakes by mail"
            in open_page(coordinator, "/school/log").text
        )
        again = stranger.post("/forgotten", data={**form, "login": "runa@school.example"})
        assert again.status_code == 429, "nobody's mailbox is filled"


def test_without_mail_a_forgotten_password_leads_to_a_coordinator(client: TestClient) -> None:
    page = open_page(client, "/forgotten")
    assert "A coordinator of your school makes you a link" in page.text
    assert [f.action for f in page.forms] == []
    assert Settings(public_url="https://garden.example", smtp_url="smtps://mail.example").mails_links
    # Without a public address the link would lead to wherever the visitor says that we are.
    assert not Settings(smtp_url="smtps://mail.example").mails_links
    assert not Settings(public_url="https://garden.example").mails_links


def test_an_invitation_asks_for_the_second_step_too(coordinator: TestClient, demo: Addresses) -> None:
    with client_for(demo) as helper:
        enter(helper, "helper")
        secret = open_page(helper, "/account/second-step").form("/account/second-step").fields["secret"]
        post(helper, "/account/second-step", secret=secret, password=load.PASSWORD, code=code(secret, steps=-1))
    page = post(coordinator, "/school/people/invitations", label="Runa", role="educator")
    made = next(a["value"] for tag, a in page.tags if tag == "input" and a.get("id") == "made").split("testserver")[1]
    with client_for(demo) as stranger:
        form = open_page(stranger, made).form(made).fields
        data = {**form, "has_account": "yes", "login": "helper", "password": load.PASSWORD}
        assert "asks for a code as well" in Page(stranger.post(made, data=data)).text
        assert "code is not right" in Page(stranger.post(made, data={**data, "code": "000000"})).text
        assert "This week" in Page(stranger.post(made, data={**data, "code": code(secret)})).text
    assert "joined" in open_page(coordinator, "/school/log").text


def test_under_https_cookies_belong_to_this_host_alone_and_the_browser_stays_with_https(demo: Addresses) -> None:
    settings = SETTINGS.model_copy(update={"public_url": "https://garden.example"})
    app = create_app(settings, Clock(DEMO_DAY), Database(demo.app, timeout_s=PATIENCE_S))
    with TestClient(app, base_url="https://garden.example") as visitor:
        page = open_page(visitor, "/login")
        assert page.response.headers["strict-transport-security"] == "max-age=31536000"
        data = {**page.form("/login").fields, "login": "helper", "password": load.PASSWORD}
        answer = visitor.post("/login", data=data, follow_redirects=False)
        cookies = [h for h in answer.headers.get_list("set-cookie") if "max-age=0" not in h.lower()]
        assert len(cookies) == 2
        for held in cookies:
            assert held.startswith("__Host-almanaque_")
            assert "secure" in held.lower()
            assert "path=/" in held.lower()
            assert "domain" not in held.lower()
        assert open_page(visitor, "/week").response.url.path == "/week"
        post_token = open_page(visitor, "/account").form("/account").fields
        for origin, status in (("https://garden.example", 303), ("https://other.example", 403), ("null", 403)):
            got = visitor.post(
                "/account", data={**post_token, "name": "R"}, headers={"Origin": origin}, follow_redirects=False
            )
            assert got.status_code == status, origin
        assert visitor.get("/login", headers={"Host": "evil.example"}).status_code == 400


def test_settings_name_hosts_origins_and_proxies() -> None:
    set_so = Settings(public_url="https://garden.example/", hosts="a.example, b.example", origins="https://old.example")
    assert set_so.allowed_hosts == ["a.example", "b.example", "127.0.0.1", "localhost"]
    assert set_so.allowed_origins == {"https://garden.example", "https://old.example"}
    assert Settings().allowed_hosts == ["*"]
    assert Settings().allowed_origins == frozenset()
    assert Settings(trusted_proxies="127.0.0.1, 10.0.0.0/8").trusted_proxies == "127.0.0.1,10.0.0.0/8"
    for wrong in ("*", "proxy.example", "10.0.0.1/8"):
        with pytest.raises(ValueError):
            Settings(trusted_proxies=wrong)


def test_the_second_step_takes_only_secrets_of_its_own_shape(coordinator: TestClient) -> None:
    for secret in ("", "abc", "A" * 31, "!" * 32):
        page = post(coordinator, "/account/second-step", secret=secret, password=load.PASSWORD, code="123456")
        assert page.status == 422


def test_codes_are_those_of_the_standard() -> None:
    """RFC 6238, appendix B: seconds and codes for SHA-1, of whose eight digits six are used."""
    secret = "GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ"  # 12345678901234567890
    for seconds, eight in (
        (59, "94287082"),
        (1111111109, "07081804"),
        (1234567890, "89005924"),
        (20000000000, "65353130"),
    ):
        now = datetime.fromtimestamp(seconds, UTC)
        assert entry.step_of(secret, eight[-6:], now=now) == seconds // 30
        assert entry.step_of(secret, "000001", now=now) is None


def test_a_wrong_password_within_a_login_is_limited_too(coordinator: TestClient, demo: Addresses) -> None:
    for _ in range(attempts.OWN_ACCOUNT.free):
        assert post(coordinator, "/account/erase", password="wrong").status == 422
    just_now(demo)
    assert post(coordinator, "/account/erase", password=load.PASSWORD).status == 429


def test_a_try_that_has_to_wait_is_not_counted(database: Database, demo: Addresses) -> None:
    limit = {"login y": attempts.Limit(1, 3600)}
    entry.try_once(database.transaction, limit)
    just_now(demo)
    for _ in range(3):
        with pytest.raises(BadInput, match=r"Wait 3\d\d\d seconds, then"):
            entry.try_once(database.transaction, limit)
