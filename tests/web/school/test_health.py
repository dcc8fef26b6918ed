"""School, Health: what the server owes this school and what failed is seen, and a button does what can be done."""

from fastapi.testclient import TestClient

from almanaque.store import queue
from almanaque.store.db import Database
from almanaque.store.school import outgoing_mail, upkeep
from tests.database import NORTH, SOUTH
from tests.web.pages import token


def page(client: TestClient) -> str:
    answer = client.get("/school/health")
    assert answer.status_code == 200
    return " ".join(answer.text.split())


def mend(client: TestClient, what: str) -> int:
    return client.post(
        "/school/health", data={"form_token": token(client), "what": what}, follow_redirects=False
    ).status_code


def test_a_server_whose_worker_never_ran_and_that_has_no_backup_says_so(
    database: Database, coordinator: TestClient
) -> None:
    said = page(coordinator)
    assert "never ran" in said
    assert "No backup of this server was made yet" in said
    with database.school(NORTH) as connection:
        connection.execute("INSERT INTO queue.procrastinate_workers DEFAULT VALUES")
        upkeep.done(connection, "backup", "checked by restoring it")
        upkeep.done(connection, "each night")
    well = page(coordinator)
    assert "Nothing: the server is well." in well
    assert "a moment ago" in well
    assert "checked by restoring it" in well


def test_what_failed_for_this_school_is_seen_and_asked_for_again_by_a_button(
    database: Database, coordinator: TestClient
) -> None:
    with database.school(NORTH) as connection:
        queue.recompute_school(connection, NORTH)
        connection.execute("UPDATE queue.procrastinate_jobs SET status = 'doing'")
        connection.execute("UPDATE queue.procrastinate_jobs SET status = 'failed'")
        queue.recompute_school(connection, SOUTH)
    said = page(coordinator)
    assert "Dates could not be brought up to date, tried 1 time." in said
    assert "nothing, all is up to date" in said, "another school's job is not told"
    assert mend(coordinator, "recompute") == 303
    assert mend(coordinator, "recompute") == 303
    again = page(coordinator)
    assert "could not be brought up to date" not in again
    assert "1 job" in again


def test_mail_that_was_given_up_is_offered_again_by_a_button(database: Database, coordinator: TestClient) -> None:
    with database.school(NORTH) as connection:
        connection.execute("DELETE FROM mail")
        outgoing_mail.put(connection, NORTH, key="a", mail_to="a@b.example", subject="Frost", body=".")
        (mail,) = outgoing_mail.due(connection)
        outgoing_mail.refused(connection, mail.id, "The mail server did not take it: 550.", for_good=True)
    assert "1 message was not taken by the mail server and is not offered any more" in page(coordinator)
    assert "given up" in coordinator.get("/school/mail").text
    assert mend(coordinator, "mail") == 303
    assert "1 message waits" in page(coordinator)
    assert mend(coordinator, "nothing of the kind") == 422


def test_who_only_looks_sees_it_and_can_do_nothing(viewer: TestClient) -> None:
    said = page(viewer)
    assert "No backup of this server was made yet" in said
    assert viewer.post("/school/health", data={"form_token": token(viewer), "what": "mail"}).status_code == 403
