"""Every form carries a number, and what it sends is written once, however often it is sent."""

import io
from uuid import uuid4

import pytest
from fastapi import Request
from fastapi.testclient import TestClient
from psycopg import sql
from starlette.datastructures import FormData, UploadFile

from almanaque.demo import load
from almanaque.store.accounts import accounts
from almanaque.store.db import Database
from almanaque.web import once
from tests.database import NORTH, bed_id
from tests.web.addresses import PAGES
from tests.web.pages import open_page, token


def test_every_form_that_writes_carries_a_number_of_its_own(reader: TestClient) -> None:
    seen: set[str] = set()
    forms = 0
    for path in (*PAGES, f"/garden/beds/{bed_id('Bed 4')}"):
        page = open_page(reader, path)
        for form in page.forms:
            # The phone's page is kept on the phone, and logging out twice is logging out.
            if form.method == "post" and (path, form.action) != ("/field/", "/logout"):
                assert len(form.fields.get("once", "")) == 36, (path, form.action)
                assert form.fields["once"] not in seen, (path, form.action)
                seen.add(form.fields["once"])
                forms += 1
    assert forms > 100


def partners(database: Database) -> list[str]:
    with database.school(NORTH) as connection:
        return [
            name for (name,) in connection.execute("SELECT name FROM partner WHERE name LIKE 'Mill%' ORDER BY name")
        ]


def send(client: TestClient, number: str, **data: str) -> tuple[int, str]:
    fields = {"form_token": token(client), "once": number, "kind": "hands", **data}
    answer = client.post("/school/partners", data=fields, follow_redirects=False)
    return answer.status_code, answer.headers.get("Location", "")


def test_a_form_sent_twice_is_written_once_and_leads_to_the_same_page(database: Database, reader: TestClient) -> None:
    number, row = str(uuid4()), str(uuid4())
    assert send(reader, number, id=row, name="Mill") == (303, "/school/partners")
    with database.school(NORTH) as connection:
        connection.execute("UPDATE partner SET answer = 'yes' WHERE name = 'Mill'")
    assert send(reader, number, id=row, name="Mill") == (303, "/school/partners")
    assert partners(database) == ["Mill"]
    with database.school(NORTH) as connection:
        assert connection.execute("SELECT answer FROM partner WHERE name = 'Mill'").fetchone() == ("yes",)
    # A page that the browser kept, filled in anew: that is something else.
    assert send(reader, number, id=str(uuid4()), name="Mill road") == (303, "/school/partners")
    assert partners(database) == ["Mill", "Mill road"]


def test_what_was_refused_may_be_sent_again_as_it_is(database: Database, reader: TestClient) -> None:
    number, row = str(uuid4()), str(uuid4())
    assert send(reader, number, id=row, name="")[0] == 422
    assert send(reader, number, id=row, name="")[0] == 422
    assert send(reader, number, id=row, name="Mill")[0] == 303
    assert partners(database) == ["Mill"]


@pytest.mark.parametrize("number", ["", "no number", "0" * 40])
def test_a_form_without_a_number_is_written_as_ever(database: Database, reader: TestClient, number: str) -> None:
    for name in ("Mill", "Mill road"):
        assert send(reader, number, id=str(uuid4()), name=name)[0] == 303
    assert partners(database) == ["Mill", "Mill road"]


def test_a_part_of_a_page_sent_twice_loads_the_page_anew(database: Database, reader: TestClient) -> None:
    bed = bed_id("Bed 4")
    fields = {
        "form_token": token(reader),
        "once": str(uuid4()),
        "command": "pencil",
        "squares": "A4",
        "crop": "radish",
        "method": "direct",
        "start_on": "2027-05-01",
    }
    before = commands(database)
    first, again = (reader.post(f"/garden/beds/{bed}", data=fields, headers={"HX-Request": "true"}) for _ in range(2))
    assert first.status_code == 200
    assert (again.status_code, again.headers["HX-Refresh"]) == (204, "true")
    plain = reader.post(
        f"/garden/beds/{bed}",
        data=fields,
        headers={"Referer": f"http://testserver/garden/beds/{bed}"},
        follow_redirects=False,
    )
    assert (plain.status_code, plain.headers["Location"]) == (303, f"http://testserver/garden/beds/{bed}")
    elsewhere = reader.post(
        f"/garden/beds/{bed}", data=fields, headers={"Referer": "http://other.example/x"}, follow_redirects=False
    )
    assert elsewhere.headers["Location"] == "/week"
    assert commands(database) == before + 1


def commands(database: Database) -> int:
    """How many commands were given at the bed."""
    with database.school(NORTH) as connection:
        rows = connection.execute("SELECT 1 FROM change WHERE bed_id = %s", [bed_id("Bed 4")])
        return len(rows.fetchall())


WORMS = load.demo_id("Brindlecombe School", "station", "Worm box")
DOCKS = load.demo_id("Brindlecombe School", "group", "Docks")
# Where rows get their ids on the server: the page, where its form writes to, and what is filled in.
ROWS_OF_THE_SERVER = {
    "a station's reading": (f"/week/stations/{WORMS}", f"/week/stations/{WORMS}/readings", {"r0": "right"}),
    "a new station": ("/week/stations", "/week/stations", {"kind": "compost", "name": "By the fence"}),
    "adoption of a station": (
        f"/week/stations/{WORMS}",
        f"/week/stations/{WORMS}/adopt",
        {"group": str(DOCKS), "from_day": "2028-01-10", "to_day": "2028-02-10"},
    ),
    "pencil from the finder": (
        f"/year/finder?crop=radish&method=direct&bed={bed_id('Bed 4')}&sow=2027-05-03",
        "/year/finder",
        {"crop": "radish", "method": "direct", "bed": str(bed_id("Bed 4")), "sow": "2027-05-03"},
    ),
    "next season's map": ("/school/turn", "/school/turn/map", {"name": "A map"}),
    "a class's slot": (
        f"/school/groups?open={DOCKS}",
        f"/school/groups/{DOCKS}/slots",
        {"weekday": "4", "starts_at": "10:00", "minutes": "30", "held": "terms"},
    ),
    "a calendar address": ("/school/feeds", "/school/feeds", {"label": "The office", "what": "both"}),
    "an invitation": ("/school/people", "/school/people/invitations", {"label": "Wren", "role": "helper"}),
    "a garden pass": ("/school/people", "/school/people/passes", {"label": "Docks", "days": "7"}),
    "a letter": (
        "/journal/letters",
        "/journal/letters",
        {"group": str(DOCKS), "since": "2027-04-01", "greeting": "Dear all", "action": "send"},
    ),
    "a letter's draft": (
        "/journal/letters",
        "/journal/letters",
        {"group": str(DOCKS), "since": "2027-04-01", "greeting": "Dear all", "action": "draft"},
    ),
    "the garden by a link": (
        "/journal/open",
        "/journal/open",
        {"audience": "families", "since": "2027-04-01", "until": "2027-06-01"},
    ),
    "a new class": ("/school/groups", "/school/groups", {"name": "Ferns", "kind": "club", "head_count": "12"}),
}


def rows(database: Database) -> dict[str, int]:
    """How many rows of this school each table holds, and of accounts' invitations."""
    with database.school(NORTH) as connection:
        found = connection.execute(
            """SELECT relname FROM pg_class WHERE relnamespace = 'public'::regnamespace AND relkind = 'r'
               AND relname <> 'written_once' AND has_table_privilege(oid, 'SELECT')"""
        ).fetchall()
        counted = {}
        for (table,) in found:
            statement = sql.SQL("SELECT count(*) FROM {}").format(sql.Identifier(table))
            (counted[table],) = connection.execute(statement).fetchone() or (0,)
        counted["invitation"] = len(accounts.invitations(connection))
    return counted


@pytest.mark.parametrize("what", ROWS_OF_THE_SERVER)
def test_a_row_whose_id_the_server_makes_is_made_once(database: Database, reader: TestClient, what: str) -> None:
    path, action, filled = ROWS_OF_THE_SERVER[what]
    form = next(f for f in open_page(reader, path).forms if f.method == "post" and f.action.split("?")[0] == action)
    fields = {**form.fields, **filled}
    before = rows(database)
    first = reader.post(action, data=fields, follow_redirects=False)
    assert first.status_code in (200, 303), first.text[-500:]
    after = rows(database)
    assert after != before, "the first one wrote something"
    again = reader.post(action, data=fields, follow_redirects=False)
    assert again.status_code == 303
    assert rows(database) == after


def test_two_files_of_one_name_and_size_are_two() -> None:
    def number(body: bytes) -> object:
        form = FormData(
            [("once", "3f0c1f4e-0000-4000-8000-000000000000"), ("file", UploadFile(io.BytesIO(body), filename="a.jpg"))]
        )
        request = Request({"type": "http", "method": "POST", "path": "/x", "headers": [], "query_string": b""})
        request.state.form = form
        found = once.number_of(request)
        (sent,) = [value for _, value in form.multi_items() if not isinstance(value, str)]
        assert sent.file.read() == body, "it can be read again"
        return found

    assert number(b"x" * 100_000) == number(b"x" * 100_000)
    assert number(b"x" * 99_999 + b"y") != number(b"x" * 100_000)
