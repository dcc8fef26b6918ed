"""Nothing large is parsed for somebody who may not send it; what somebody wrote is given back even so."""

import pytest
from fastapi.testclient import TestClient
from starlette.requests import Request

from tests.web.pages import enter, token

LARGE = b"x" * 400_000


@pytest.fixture
def parsed(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """Addresses whose forms were parsed."""
    found: list[str] = []
    real = Request.form

    def form(self: Request, **limits: int):
        found.append(self.url.path)
        return real(self, **limits)

    monkeypatch.setattr(Request, "form", form)
    return found


def send(client: TestClient, path: str, body: bytes = LARGE) -> int:
    data = {"form_token": token(client)}
    files = {"file": ("x.csv", body, "text/csv")}
    return client.post(path, data=data, files=files, follow_redirects=False).status_code


def test_a_large_file_of_somebody_who_may_not_send_it_is_not_parsed(client: TestClient, parsed: list[str]) -> None:
    assert send(client, "/school/weather/import") in (303, 401)
    enter(client, "viewer")
    assert send(client, "/school/weather/import") == 403
    assert send(client, "/school/formats/school") == 403
    assert parsed == []
    enter(client, "coordinator")
    assert send(client, "/school/weather/import") == 422
    assert set(parsed) == {"/school/weather/import"}


def test_a_form_without_a_length_is_taken_for_a_large_one(client: TestClient, parsed: list[str]) -> None:
    enter(client, "viewer")
    answer = client.post(
        "/journal",
        content=iter([b"body=hello&form_token=x"]),
        headers={"Content-Type": "application/x-www-form-urlencoded"},
        follow_redirects=False,
    )
    assert (answer.status_code, parsed) == (403, [])
