"""The roster of stations: filled fairly, handed over, with homes for the winter."""

from itertools import pairwise

from fastapi.testclient import TestClient

from almanaque.demo import load
from tests.database import NORTH
from tests.web.addresses import WORMS
from tests.web.journal.test_open_gardens import of_another_school
from tests.web.pages import Page, enter, open_page, post
from tests.web.week.test_lessons import DOCKS

ROSTER = "/week/stations/roster"
BIRCHES = str(load.demo_id("Brindlecombe School", "group", "Birches"))


def send(client: TestClient, action: str, **fields: str) -> Page:
    return post(client, ROSTER, action=action, **fields)


def test_the_roster_shows_who_has_what_and_what_is_open(client: TestClient) -> None:
    enter(client, "coordinator")
    page = open_page(client, ROSTER)
    assert "Worm box" in page.text
    assert "nobody yet" in page.text
    assert "no home yet for:" in page.text
    filled = send(client, "fill")
    assert "turns given out." in filled.text
    with client.app.state.database.school(NORTH) as connection:
        late = connection.execute("SELECT count(*) FROM adoption WHERE from_day >= '2027-04-14'").fetchone()
    assert late is not None
    assert late[0] > 0
    assert "0 turns given out." in send(client, "fill").text  # a second time there is nothing to give


def test_a_station_is_handed_over_and_its_jobs_follow(client: TestClient) -> None:
    enter(client, "coordinator")
    done = send(client, "hand over", station=str(WORMS), group=DOCKS, on="2027-05-03")
    assert "Handed over." in done.text
    assert "Grade 2, 3 May" in done.text
    again = send(client, "hand over", station=str(WORMS), group=DOCKS, on="2027-05-04")
    assert again.status == 422
    assert "has it already" in again.text
    assert send(client, "hand over", station=str(WORMS), group=BIRCHES, on="2027-04-01").status == 422
    with client.app.state.database.school(NORTH) as connection:
        rows = connection.execute(
            "SELECT from_day, to_day FROM adoption WHERE station_id = %s ORDER BY from_day", [WORMS]
        ).fetchall()
        jobs = connection.execute(
            "SELECT count(*) FROM task WHERE step LIKE %s AND class_group_id = %s AND from_day >= '2027-05-03'",
            [f"station {WORMS} %", DOCKS],
        ).fetchone()
    assert all(before[1] < after[0] for before, after in pairwise(rows))
    assert jobs is not None
    assert jobs[0] > 0


def test_worms_get_a_home_for_the_summer_and_it_is_taken_out_again(client: TestClient) -> None:
    enter(client, "coordinator")
    home = {"station": str(WORMS), "place": "Cellar by the boiler", "from_day": "2027-06-14", "to_day": "2027-08-30"}
    page = send(client, "home", **home)
    assert "Cellar by the boiler" in page.text
    assert send(client, "home", **home).status == 422
    assert send(client, "home", **{**home, "from_day": "2027-09-01"}).status == 422
    assert send(client, "home", **{**home, "place": " "}).status == 422
    key = next(form.fields["home"] for form in page.forms if "home" in form.fields)
    assert "Cellar by the boiler" not in send(client, "no home", home=key).text


def test_only_those_who_plan_change_it_and_another_school_sees_nothing(client: TestClient) -> None:
    enter(client, "helper")
    assert send(client, "fill").status == 403
    enter(client, "coordinator")
    send(client, "home", station=str(WORMS), place="Cellar", from_day="2027-06-14", to_day="2027-08-30")
    of_another_school(client)
    assert "Cellar" not in open_page(client, ROSTER).text
    assert send(client, "hand over", station=str(WORMS), group=DOCKS, on="2027-05-03").status == 404
