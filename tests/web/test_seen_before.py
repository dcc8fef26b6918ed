"""Two people open the same form: what the second sends does not undo what the first has written."""

import pytest
from fastapi.testclient import TestClient

from almanaque.demo import load
from almanaque.store.db import Database
from almanaque.store.school import partners
from almanaque.store.week import stations
from tests.database import NORTH, bed_id
from tests.web.pages import Form, open_page

STATION = load.demo_id("Brindlecombe School", "station", "Worm box")


def send(client: TestClient, form: Form, **changed: str) -> int:
    return client.post(form.action, data={**form.fields, **changed}, follow_redirects=False).status_code


def filled(client: TestClient, path: str, action: str, name: str) -> Form:
    """The form of a page that writes to an address and has this field filled in."""
    forms = open_page(client, path).forms
    return next(f for f in forms if f.action == action and f.method == "post" and f.fields.get(name))


def test_a_station_that_someone_else_changed_is_not_written_over(database: Database, coordinator: TestClient) -> None:
    path = f"/week/stations/{STATION}"
    form = filled(coordinator, path, path, "name")
    assert send(coordinator, form, about="First word", open="1") == 303
    assert send(coordinator, form, caution="Second word", open="1") == 409
    with database.school(NORTH) as connection:
        kept = stations.station(connection, STATION)
    assert (kept.about, kept.caution == "Second word") == ("First word", False)
    again = filled(coordinator, path, path, "name")
    assert send(coordinator, again, caution="Second word", open="1") == 303


def test_a_partner_that_someone_else_changed_is_not_written_over(database: Database, coordinator: TestClient) -> None:
    with database.school(NORTH) as connection:
        known = partners.partners(connection)[0]
    form = filled(coordinator, f"/school/partners?open={known.id}", "/school/partners", "seen")
    assert send(coordinator, form, kind=known.kind, gives="First word", action="save") == 303
    assert send(coordinator, form, kind=known.kind, contact="Second word", action="save") == 409
    assert send(coordinator, form, action="delete") == 409
    with database.school(NORTH) as connection:
        kept = next(p for p in partners.partners(connection) if p.id == known.id)
    assert (kept.gives, kept.contact) == ("First word", known.contact)


@pytest.mark.parametrize("both", [False, True])
def test_sentences_of_beds_by_two_people_are_put_together(
    database: Database, coordinator: TestClient, *, both: bool
) -> None:
    form = open_page(coordinator, "/school/turn").form("/school/turn/beds")
    mine, theirs = (f"sentence-{bed_id(name)}" for name in ("Bed 4", "Bed 6"))
    assert send(coordinator, form, **{mine: "Kale for the soup."}) == 303
    second = {theirs: "Beans, and slugs."} | ({mine: "Kale, and aphids."} if both else {})
    assert send(coordinator, form, **second) == (409 if both else 303)
    with database.school(NORTH) as connection:
        rows = connection.execute("SELECT bed_id, sentence FROM bed_year").fetchall()
    kept = dict(rows)
    assert kept[bed_id("Bed 4")] == "Kale for the soup."
    assert (kept[bed_id("Bed 6")] == "Beans, and slugs.") == (not both)
