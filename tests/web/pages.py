"""Read pages as a visitor's browser would: forms with their fields, links, and the text that stands there."""

import re
from dataclasses import dataclass, field
from datetime import UTC, datetime
from functools import cached_property
from html.parser import HTMLParser
from urllib.parse import urlsplit

from fastapi.testclient import TestClient
from httpx2 import Response

from almanaque.demo import load
from almanaque.store.accounts import sessions
from almanaque.web import security

VOID = {"input", "meta", "link", "br", "img", "hr"}


@dataclass
class Form:
    action: str
    method: str
    fields: dict[str, str] = field(default_factory=dict)


class Page:
    """An answer, parsed when something of it is asked for.

    `text` is what is read, without scripts and templates' white space; `html` is its tags without that too.
    """

    def __init__(self, response: Response) -> None:
        self.response, self.status = response, response.status_code

    @cached_property
    def _read(self) -> "_Reader":
        return _Reader(self.response.text)

    @property
    def forms(self) -> list[Form]:
        return self._read.forms

    @property
    def links(self) -> list[str]:
        return self._read.links

    @property
    def tags(self) -> list[tuple[str, dict[str, str]]]:
        return self._read.tags

    @cached_property
    def text(self) -> str:
        return " ".join(" ".join(self._read.words).split())

    @cached_property
    def html(self) -> str:
        return re.sub(r"\s*(<[^>]+>)\s*", r"\1", re.sub(r"\s+", " ", self.response.text))

    def form(self, action: str) -> Form:
        """The form that writes to this address."""
        return next(form for form in self.forms if urlsplit(form.action).path == action and form.method == "post")


class _Reader(HTMLParser):
    def __init__(self, text: str) -> None:
        super().__init__()
        self.forms: list[Form] = []
        self.links: list[str] = []
        self.tags: list[tuple[str, dict[str, str]]] = []
        self.words: list[str] = []
        self._open: list[str] = []
        self._textarea = ""
        self.feed(text)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        given = {name: value or "" for name, value in attrs}
        self.tags.append((tag, given))
        if tag not in VOID:
            self._open.append(tag)
        if tag == "form":
            self.forms.append(Form(given.get("action", ""), given.get("method", "get")))
        if tag == "a" and given.get("href"):
            self.links.append(given["href"])
        if self.forms and tag == "input" and given.get("name"):
            self.forms[-1].fields.setdefault(given["name"], given.get("value", ""))
        if self.forms and tag == "textarea":
            self._textarea = given.get("name", "")
            self.forms[-1].fields[self._textarea] = ""

    def handle_endtag(self, tag: str) -> None:
        if tag in self._open:
            while self._open.pop() != tag:
                pass
        if tag == "textarea":
            self._textarea = ""

    def handle_data(self, data: str) -> None:
        if "script" not in self._open:
            self.words.append(data)
        if self._textarea and self.forms:
            self.forms[-1].fields[self._textarea] += data


def open_page(client: TestClient, path: str) -> Page:
    return Page(client.get(path))


def log_in(client: TestClient, login: str, password: str = load.PASSWORD) -> Page:
    form = open_page(client, "/login").form("/login")
    return Page(client.post("/login", data={**form.fields, "login": login, "password": password}))


def enter(client: TestClient, login: str) -> None:
    """Be logged in, by a session written into the database; how one logs in is tested on its own."""
    opened = security.new_token()
    with client.app.state.database.transaction() as connection:  # type: ignore[attr-defined]
        sessions.open_session(
            connection,
            security.token_hash(opened),
            load.account_id(login),
            datetime.now(UTC) + security.SESSION_LASTS,
        )
    client.cookies.set(security.SESSION_COOKIE, opened, domain="testserver.local")


def token(client: TestClient) -> str:
    """The form token of whoever is logged in."""
    for name in (security.SESSION_COOKIE, security.PASS_COOKIE, security.FORM_COOKIE):
        bound = client.cookies.get(name)
        if bound:
            return security.sign(client.app.state.settings.secret, bound)  # type: ignore[attr-defined]
    return ""


def post(client: TestClient, path: str, part: bool = False, **data: str) -> Page:
    """Send a form as a page of ours would, or as htmx does."""
    headers = {"HX-Request": "true"} if part else {}
    return Page(client.post(path, data={"form_token": token(client), **data}, headers=headers))


def upload(client: TestClient, path: str, name: str, body: bytes, **data: str) -> Page:
    """Send a file as a form does."""
    return Page(
        client.post(path, data={"form_token": token(client), **data}, files={"file": (name, body, "text/plain")})
    )
