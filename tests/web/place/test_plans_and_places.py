"""Partners, plans of stages, and choosing a place."""

import re
from uuid import uuid4

from fastapi.testclient import TestClient

from almanaque.demo import load
from tests.web.pages import open_page, post


def test_partners_are_kept_with_when_they_were_asked(coordinator: TestClient) -> None:
    made = str(uuid4())
    page = post(
        coordinator,
        "/school/partners",
        id=made,
        name="Mill",
        kind="materials",
        gives="Chips",
        contact="gate",
        asked_on="2027-03-01",
        answer="yes",
    )
    assert "last asked Monday, 1 March 2027" in page.text
    assert page.text.index("Valley fund") < page.text.index("Mill")  # not asked yet comes first
    assert post(coordinator, "/school/partners", id=made, name=" ", kind="hands").status == 422
    assert "Chips" not in post(coordinator, "/school/partners", id=made, action="delete").text


def test_a_plan_is_begun_dated_ticked_and_moved(coordinator: TestClient) -> None:
    made = str(uuid4())
    page = post(coordinator, "/school/plans", id=made, name="New bed", template="one-bed", starts="2027-04-14")
    assert page.response.url.path == f"/school/plans/{made}"
    assert "Old or city ground: test the soil for lead" in page.text
    item = next(f.action for f in page.forms if "/items/" in f.action)
    assert "1 of 3 done" in post(coordinator, item, action="done").text
    stage = next(f.action for f in page.forms if re.fullmatch(rf"/school/plans/{made}/stages/[0-9a-f-]+", f.action))
    moved = post(coordinator, stage, starts="2027-05-03", ends="2027-05-07")
    assert "3 – 7 May 2027" in moved.text
    assert post(coordinator, stage, starts="2027-05-07", ends="2027-05-03").status == 422
    assert (
        "Borrow a level"
        in post(coordinator, f"{stage}/items", kind="tool", what="Borrow a level", who="Caretaker").text
    )
    assert post(coordinator, item, action="burn").status == 422
    assert "New bed" not in post(coordinator, f"/school/plans/{made}/delete").text
    assert post(coordinator, "/school/plans", id=str(uuid4()), template="castle", starts="2027-04-14").status == 422


def test_places_are_rated_ranked_and_turn_with_a_weight(coordinator: TestClient) -> None:
    page = open_page(coordinator, "/garden/places")
    assert re.search(r"1\. South lawn .* 2\. Behind the gym", page.text)
    assert "Room to work weighs 3 now; above 8.5, Behind the gym leads" in page.text
    roof = load.demo_id("Brindlecombe School", "place", "Hall roof")
    assert "An engineer's word on the load" in open_page(coordinator, f"/garden/places?place={roof}").text
    room_to_work = load.demo_id("Brindlecombe School", "criterion", "Room to work")
    turned = post(coordinator, "/garden/places/criteria", id=str(room_to_work), name="Room to work", weight="10")
    assert "1. Behind the gym" in turned.text
    made = str(uuid4())
    post(coordinator, "/garden/places", id=made, name="Yard", kind="containers", about="paved")
    rater = load.demo_id("Brindlecombe School", "rater", "Caretaker")
    path = f"/garden/places/{made}/scores"
    no_evidence = post(coordinator, path, rater=str(rater), **{f"score_{room_to_work}": "4"})
    assert (no_evidence.status, "rests on" in no_evidence.text) == (422, True)
    scored = post(
        coordinator,
        path,
        rater=str(rater),
        **{f"score_{room_to_work}": "4", f"evidence_{room_to_work}": "whole class stood"},
    )
    assert "whole class stood" in scored.text
    docks = str(load.demo_id("Brindlecombe School", "group", "Docks"))
    assert (
        "Grade 2, 2026–27" in post(coordinator, "/garden/places/raters", id=str(uuid4()), group=docks, place=made).text
    )
    assert (
        post(
            coordinator, path, rater=str(rater), **{f"score_{room_to_work}": "6", f"evidence_{room_to_work}": "x"}
        ).status
        == 422
    )
    assert "Yard" not in post(coordinator, "/garden/places", id=made, action="delete").text
