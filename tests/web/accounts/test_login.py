from fastapi.testclient import TestClient

from almanaque.demo import load
from almanaque.web import security
from tests.web.pages import Page, log_in, open_page, post, token


def test_without_a_login_every_page_leads_to_it_and_back(client: TestClient) -> None:
    page = open_page(client, "/harvest?day=2027-05-01")
    assert str(page.response.url).endswith("/login?to=/harvest%3Fday%3D2027-05-01")
    form = page.form("/login")
    after = client.post("/login", data={**form.fields, "login": "helper", "password": load.PASSWORD})
    assert str(after.url).endswith("/harvest?day=2027-05-01")


def test_a_wrong_password_says_so_and_keeps_the_name(client: TestClient) -> None:
    page = log_in(client, "coordinator", "wrong")
    assert page.status == 401
    assert "do not belong together" in page.text
    assert page.form("/login").fields["login"] == "coordinator"


def test_an_unknown_login_gets_the_same_answer(client: TestClient) -> None:
    assert log_in(client, "nobody-here", "x").text == log_in(client, "somebody-here", "x").text


def test_the_session_cookie_is_out_of_reach_of_scripts_and_other_sites(client: TestClient) -> None:
    form = open_page(client, "/login").form("/login")
    answer = client.post(
        "/login", data={**form.fields, "login": "helper", "password": load.PASSWORD}, follow_redirects=False
    )
    cookie = answer.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=lax" in cookie


def test_logging_out_ends_the_session_on_the_server(coordinator: TestClient) -> None:
    cookie = coordinator.cookies[security.SESSION_COOKIE]
    post(coordinator, "/logout")
    coordinator.cookies.set(security.SESSION_COOKIE, cookie)
    assert "/login" in str(open_page(coordinator, "/week").response.url)


def test_a_login_does_not_lead_outside(client: TestClient) -> None:
    for outside in ("https://elsewhere.example/", "//elsewhere.example", "/\\elsewhere.example"):
        form = open_page(client, "/login").form("/login")
        answer = client.post(
            "/login",
            data={**form.fields, "login": "helper", "password": load.PASSWORD, "to": outside},
            follow_redirects=False,
        )
        assert answer.headers["location"] == "/week"
        client.cookies.clear()


def test_a_form_from_elsewhere_is_refused(coordinator: TestClient) -> None:
    right = token(coordinator)
    for data, headers in (
        ({}, {}),
        ({"form_token": "0" * 64}, {}),
        ({"form_token": right}, {"Origin": "https://elsewhere.example"}),
        ({"form_token": right}, {"Sec-Fetch-Site": "cross-site"}),
    ):
        answer = coordinator.post("/journal", data={"body": "forged", **data}, headers=headers)
        assert answer.status_code == 403
        assert "did not come from a page of this login" in answer.text
    assert "forged" not in open_page(coordinator, "/journal").text


def test_every_write_is_guarded(client: TestClient) -> None:
    """Whatever route is added: without a token it answers 403 before it does anything."""
    writes = [
        (route.path, method)
        for route in client.app.routes
        for method in (getattr(route, "methods", None) or ())
        if method not in security.SAFE_METHODS
    ]
    nested = [
        (route.path, method)
        for included in client.app.routes
        for route in getattr(getattr(included, "original_router", None), "routes", ())
        for method in (getattr(route, "methods", None) or ())
        if method not in security.SAFE_METHODS
    ]
    assert len(writes) + len(nested) >= 10
    for path, method in [*writes, *nested]:
        assert client.request(method, path.replace("{", "").replace("}", "")).status_code == 403, path


def test_an_account_in_two_schools_changes_between_them(client: TestClient) -> None:
    log_in(client, "educator")
    page = open_page(client, "/schools")
    assert "Brindlecombe School" in page.text
    other = page.form("/schools").fields["school"]
    beside = page.text.split("Tallowbank School")[-1]
    assert "Grade 2" in page.text
    assert "No garden lesson this week." in beside
    assert "Ready to pick: Chard, Bed A." in beside
    assert "Bed 1" not in beside
    after = post(client, "/schools", school=other)
    assert "Tallowbank School" in after.text
    garden = open_page(client, "/garden")
    assert "2.4 m × 1.2 m" in garden.text
    assert "Bed 1" not in garden.text


def test_a_school_of_others_cannot_be_chosen(coordinator: TestClient) -> None:
    page = post(coordinator, "/schools", school="00000000-0000-0000-0000-000000000001")
    assert page.status == 422
    assert "do not belong to that school" in page.text
    assert post(coordinator, "/schools", school="nonsense").status == 422


def test_the_demo_day_moves_for_one_visitor_only(client: TestClient, coordinator: TestClient) -> None:
    post(coordinator, "/demo-day", day="2027-05-10")
    assert "Demo day 10 May" in open_page(coordinator, "/week").text
    coordinator.cookies.clear()
    assert "Demo day 14 Apr" in log_in(coordinator, "helper").text


def test_the_page_after_a_login_is_the_week(client: TestClient) -> None:
    page: Page = log_in(client, "viewer")
    assert str(page.response.url).endswith("/week")


def test_side_by_side_shows_the_schools_of_the_account_and_no_other(client: TestClient) -> None:
    log_in(client, "coordinator")
    page = open_page(client, "/schools")
    assert "Brindlecombe School coordinator" in page.text
    assert "Open now: to its week" in page.text
    assert "Tallowbank" not in page.text
    assert "Ready to pick: " in page.text
    assert "Carers' rounds: " in page.text


def test_the_other_school_is_read_on_its_own_day_and_in_its_own_words(client: TestClient) -> None:
    log_in(client, "educator")
    text = open_page(client, "/schools").text
    north, south = (
        text.split(head)[1][:700] for head in ("Brindlecombe School educator", "Tallowbank School coordinator")
    )
    assert "week 34 of school" in north
    assert "week 34 of school" not in south
    assert "Open Tallowbank School" in south


def test_who_scans_a_label_is_told_whom_to_ask(client: TestClient) -> None:
    page = open_page(client, "/garden/plantings/6f2d1c58-0b55-4f7e-9a57-2d1f7f3d2a11")
    assert page.response.url.path == "/login"
    assert "This code stands on a label in a school's garden." in page.text
    assert "This code stands" not in open_page(client, "/week").text
