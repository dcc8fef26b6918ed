"""Week's pages on water and carers' rounds, and what the holder of a carer's pass does there."""

import re
from datetime import date
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from almanaque.demo import load
from almanaque.host.postgres import Addresses
from tests.database import NORTH, bed_id
from tests.web.accounts.test_people import make_pass
from tests.web.conftest import client_for
from tests.web.pages import Page, enter, open_page, post

JULY = "/week/rounds/2027-07-12/1"


def test_water_is_told_bed_by_bed_with_what_it_rests_on(reader: TestClient) -> None:
    page = open_page(reader, "/week/water")
    assert re.search(r"7 – 13 Apr: 0\.\d in of rain fell, and grass would have drunk 0\.\d in", page.text)
    assert re.search(r"Bed 1 16\.0 sq ft \d\.\d gal \d\.\d in \d min hose", page.text)
    assert re.search(r"a pot: 0\.\d gal a day, every \d days", page.text)
    assert "Sill" not in page.text
    assert "at the ground and not on the leaves" in page.text
    assert "leaves that are eaten raw" in page.text


def test_a_week_to_come_counts_a_usual_week_and_what_will_stand_there(reader: TestClient) -> None:
    now, later = (open_page(reader, f"/week/water{day}").text for day in ("", "?day=2027-07-14"))
    assert "For 14 – 20 Jul, as usual weather has it. Water less when it rains." in later
    assert "Bed 6" in later.split("How this school waters")[0]
    assert "min drip" in later
    assert "Bed 6" not in now.split("How this school waters")[0]


def test_in_winter_nothing_planted_is_nothing_to_water(reader: TestClient) -> None:
    assert "Nothing stands in the beds on this day." in open_page(reader, "/week/water?day=2020-01-10").text


def test_by_use_each_crop_has_its_own_and_the_hose_gives_the_minutes(coordinator: TestClient) -> None:
    inch = amounts(open_page(coordinator, "/week/water?day=2027-06-16"))
    page = post(coordinator, "/week/water", water_by="use", hose="2 gal", bottle="")
    assert page.form("/week/water").fields["hose"] == "2.0 gal"
    use = amounts(open_page(coordinator, "/week/water?day=2027-06-16"))
    assert set(use) == set(inch)
    assert len(set(per_foot(use))) > len(set(per_foot(inch)))
    assert use["Bed 1"][0] == pytest.approx(use["Bed 1"][2] * 2, abs=2.5)


def amounts(page: Page) -> dict[str, tuple[float, float, int]]:
    """Gallons, square feet and minutes of each bed with a hose."""
    rows = re.findall(r"(Bed \d) (\d+\.\d) sq ft (\d+(?:\.\d)?) gal \d\.\d in (\d+) min hose", page.text)
    return {name: (float(gallons), float(feet), int(minutes)) for name, feet, gallons, minutes in rows}


def per_foot(found: dict[str, tuple[float, float, int]]) -> list[float]:
    return [round(gallons / feet, 1) for gallons, feet, _ in found.values()]


@pytest.mark.parametrize(
    ("field", "value", "said"),
    [
        ("hose", "fast", "Write the volume like 10 gal"),
        ("bottle", "0 gal", "between nothing and"),
        ("water_by", "rain", "none of the choices"),
    ],
)
def test_what_cannot_be_is_refused_and_nothing_is_kept(
    coordinator: TestClient, field: str, value: str, said: str
) -> None:
    before = open_page(coordinator, "/week/water").form("/week/water").fields
    page = post(coordinator, "/week/water", **{**before, "water_by": "use", field: value})
    assert page.status == 422
    assert said in page.text
    after = open_page(coordinator, "/week/water")
    assert after.form("/week/water").fields["hose"] == before["hose"]
    assert re.search(r'value="inch"[^>]* checked', after.response.text)


def test_a_bed_has_a_drip_line_and_keeps_its_exact_flow(coordinator: TestClient) -> None:
    fields = open_page(coordinator, f"/garden/beds/{bed_id('Bed 6')}/edit").form("/garden/beds").fields
    assert fields["drip"] == "16 gal"
    assert "min drip" in with_bed_6(coordinator)
    first = with_bed_6(coordinator)
    assert post(coordinator, "/garden/beds", **fields).status == 200
    assert with_bed_6(coordinator) == first
    post(
        coordinator,
        "/garden/beds",
        **{**open_page(coordinator, f"/garden/beds/{bed_id('Bed 6')}/edit").form("/garden/beds").fields, "drip": ""},
    )
    assert "min drip" not in with_bed_6(coordinator)


def with_bed_6(client: TestClient) -> str:
    return (
        open_page(client, "/week/water?day=2027-07-14").text.split("Bed by bed")[1].split("How this school waters")[0]
    )


def test_week_and_year_say_how_many_rounds_nobody_has(reader: TestClient) -> None:
    counts = set()
    for path in ("/week", "/year", "/week/rounds"):
        found = re.search(
            r"(\d+ of \d+ rounds with nobody yet, the first [\w –]+? Ju[nl])", open_page(reader, path).text
        )
        assert found is not None, path
        counts.add(found[1])
    assert len(counts) == 1  # one count, wherever it stands
    assert "gal this week" in open_page(reader, "/week").text


def test_the_rota_shows_every_week_without_school_and_who_walks(reader: TestClient) -> None:
    page = open_page(reader, "/week/rounds")
    assert "Summer break" in page.text
    assert "21 – 23 Jun Summer club" in page.text
    assert "1 – 4 Jul nobody yet" in page.text
    assert "No child's name." in page.text


def test_a_round_is_taken_given_back_and_only_walked_once_it_has_begun(coordinator: TestClient) -> None:
    page = post(coordinator, JULY, by="  Parents of   the Ferns ")
    assert "12 – 14 Jul Parents of the Ferns" in page.text
    again = post(coordinator, JULY, by="Somebody else")
    assert again.status == 409
    assert "Somebody has taken that round already." in again.text
    early = post(coordinator, JULY, action="walked")
    assert early.status == 422
    assert "still to come" in early.text
    back = post(coordinator, JULY, action="back")
    assert "12 – 14 Jul nobody yet" in back.text
    assert post(coordinator, JULY, action="back").status == 404


@pytest.mark.parametrize(
    ("path", "data", "status"),
    [
        (JULY, {"by": "  "}, 422),
        (JULY, {"by": "x" * 81}, 422),
        (JULY, {"action": "eat", "by": "x"}, 422),
        ("/week/rounds/2027-07-12/3", {"by": "x"}, 404),
        ("/week/rounds/2027-07-13/1", {"by": "x"}, 404),
        ("/week/rounds/2027-05-10/1", {"by": "x"}, 404),
        ("/week/rounds/9999-12-31/1", {"by": "x"}, 422),
        ("/week/rounds/july/1", {"by": "x"}, 422),
        ("/week/rounds", {"a_week": "0"}, 422),
        ("/week/rounds", {"a_week": "8"}, 422),
    ],
)
def test_rounds_that_are_none_and_names_that_are_none(
    coordinator: TestClient, path: str, data: dict, status: int
) -> None:
    assert post(coordinator, path, **data).status == status


def test_a_round_that_is_over_is_not_taken_any_more(coordinator: TestClient) -> None:
    page = post(coordinator, "/week/rounds/2027-03-22/1", by="Too late")
    assert page.status == 422
    assert "That round is over." in page.text


def test_more_rounds_a_week_are_shorter_and_carry_less_water(coordinator: TestClient) -> None:
    def water() -> float:
        found = re.search(r"(\d+(?:\.\d)?) gal of water", open_page(coordinator, JULY).text)
        assert found
        return float(found[1])

    two = water()
    page = post(coordinator, "/week/rounds", a_week="4")
    assert "12 Jul nobody yet" in page.text
    assert water() == pytest.approx(two / 2, abs=1)


def test_the_sheet_of_a_round_walks_the_beds_in_order_with_water_and_picking(reader: TestClient) -> None:
    page = open_page(reader, JULY)
    beds = re.findall(r"<h2><a[^>]*>([^<]+)</a>", page.html)
    assert beds[:6] == ["Bed 1", "Bed 2", "Bed 3", "Bed 4", "Bed 5", "Bed 6"]
    assert "Sill" not in beds
    assert re.search(
        r"Bed 5 Soup Carrot: .*?Water \d\.\d gal · \d min hose Pick Carrot: the shoulder is as wide as a finger",
        page.text,
    )
    assert "The water is that of a usual week." in page.text
    assert "Barrel water is not for drinking" in page.text


def test_a_carer_takes_a_round_without_an_account_and_touches_no_other(
    coordinator: TestClient, demo: Addresses
) -> None:
    link, other = make_pass(coordinator), make_pass(coordinator)
    with client_for(demo) as carer, client_for(demo) as second:
        page = open_page(carer, link)
        open_page(second, other)
        assert "12 – 14 Jul nobody yet" in page.text
        assert "16 – 18 Aug" not in page.text  # sixteen weeks ahead from April end before it
        early = next(f for f in page.forms if f.action.startswith("/pass/rounds/2027-06-28/2"))
        done = Page(carer.post(early.action, data={**early.fields, "action": "take"}))
        assert "The round is yours. Thank you." in done.text
        assert "1 – 4 Jul yours" in done.text
        assert "1 – 4 Jul taken" in open_page(second, "/pass").text
        right = {"form_token": open_page(second, "/pass").forms[0].fields["form_token"]}
        for action in ("take", "back", "walked"):
            refused = second.post(early.action, data={**right, "action": action})
            assert refused.status_code in (404, 409, 422), action
        assert "Fence strip" in open_page(carer, early.action).text
        assert "/garden/beds/" not in open_page(carer, early.action).response.text
        mine = {"form_token": open_page(carer, "/pass").forms[0].fields["form_token"]}
        assert carer.post(early.action, data={**mine, "action": "walked"}).status_code == 422
        assert carer.post("/pass/rounds/2027-06-21/1", data={**mine, "action": "back"}).status_code == 404
        assert "1 – 4 Jul nobody yet" in Page(carer.post(early.action, data={**mine, "action": "back"})).text
    assert "1 – 4 Jul nobody yet" in open_page(coordinator, "/week/rounds").text


def test_a_round_is_offered_and_taken_over_by_another_carer(coordinator: TestClient, demo: Addresses) -> None:
    link, other = make_pass(coordinator), make_pass(coordinator)
    path = "/pass/rounds/2027-06-28/2"
    with client_for(demo) as carer, client_for(demo) as second:

        def send(client: TestClient, action: str) -> Page:
            token = open_page(client, "/pass").forms[0].fields["form_token"]
            return Page(client.post(path, data={"form_token": token, "action": action}))

        open_page(carer, link)
        open_page(second, other)
        send(carer, "take")
        assert send(second, "offer").status == 404  # not its own
        assert send(second, "take").status == 409
        assert "yours, offered to others" in send(carer, "offer").text
        assert "1 – 4 Jul offered to others" in open_page(second, "/pass").text
        assert "1 – 4 Jul yours" in send(second, "take").text
        assert "1 – 4 Jul taken" in open_page(carer, "/pass").text
        assert send(carer, "back").status == 404


def test_what_was_done_on_a_round_goes_where_the_tour_reads_it(coordinator: TestClient) -> None:
    wish = {"command": "ink", "squares": "A4", "crop": "carrot", "method": "direct", "start_on": "2027-04-14"}
    post(coordinator, f"/garden/beds/{bed_id('Bed 4')}", **wish)
    with coordinator.app.state.database.school(NORTH) as connection:
        row = connection.execute(
            "SELECT id FROM planting WHERE crop = 'carrot' AND start_on = '2027-04-14' AND status = 'planned' AND bed_id = %s",
            [bed_id("Bed 4")],
        ).fetchone()
    assert row is not None
    begun = post(coordinator, f"/garden/plantings/{row[0]}/happened", kind="started", day="2027-04-14")
    assert begun.status == 200, begun.text[:300]
    post(
        coordinator,
        "/school/closures",
        id=str(uuid4()),
        name="Storm",
        starts="2027-04-14",
        ends="2027-06-10",
        why="weather",
    )
    walk = "/week/rounds/2027-04-12/11"
    assert open_page(coordinator, walk).status == 200
    post(coordinator, walk, by="Parents")
    sheet = open_page(coordinator, walk)
    assert "What was done" in sheet.text
    assert re.search(rf'name="up" value="{row[0]}">\s*Carrot is up', sheet.html)
    assert "Carrot: sown 14 Apr, should be up" in sheet.text
    done = post(
        coordinator,
        walk,
        action="walked",
        watered=str(bed_id("Bed 4")),
        up=str(row[0]),
        note="The hose leaks at the tap.",
    )
    assert "walked 14 Apr by Parents" in done.text
    journal = open_page(coordinator, "/journal").text
    assert "Carers' round: watered Bed 4; The hose leaks at the tap." in journal
    with coordinator.app.state.database.school(NORTH) as connection:
        up = connection.execute(
            "SELECT on_day FROM event WHERE planting_id = %s AND kind = 'emerged'", [row[0]]
        ).fetchone()
    assert up == (date(2027, 4, 14),)
    assert "What was done" not in open_page(coordinator, walk).text


def test_the_pass_of_a_class_has_no_rounds(coordinator: TestClient, demo: Addresses) -> None:
    link = make_pass(coordinator, str(load.demo_id("Brindlecombe School", "group", "Docks")))
    with client_for(demo) as holder:
        assert "Rounds while school is closed" not in open_page(holder, link).text
        assert open_page(holder, "/pass/rounds/2027-06-28/2").status == 404


def test_a_sudden_closure_is_turned_into_rounds(coordinator: TestClient) -> None:
    before = open_page(coordinator, "/week/rounds").text
    assert "19 – 21 Apr" not in before
    post(
        coordinator,
        "/school/closures",
        id=str(uuid4()),
        name="Storm",
        starts="2027-04-15",
        ends="2027-06-10",
        why="weather",
    )
    after = open_page(coordinator, "/week/rounds").text
    assert "19 – 21 Apr nobody yet" in after
    assert "15 – 18 Apr nobody yet" in after  # from the Thursday on
    assert "<h2>Storm</h2>" in open_page(coordinator, "/week/rounds").response.text
    wish = {"command": "ink", "squares": "A4", "crop": "carrot", "method": "direct", "start_on": "2027-04-14"}
    post(coordinator, f"/garden/beds/{bed_id('Bed 4')}", **wish)
    assert "Carrot: keep the seedbed moist" in open_page(coordinator, "/week/rounds/2027-04-19/1").text
    assert "20 Apr seedbeds nobody yet" in open_page(coordinator, "/week/rounds").text
    short = open_page(coordinator, "/week/rounds/2027-04-19/22").text
    assert "a short round to the seedbeds" in short
    assert "Bed 4" in short
    assert "Bed 6" not in short.split("Wash hands")[0]


def test_the_southern_school_waters_by_use_in_litres_and_walks_in_its_summer(demo: Addresses) -> None:
    with client_for(demo) as client:
        enter(client, "educator")
        post(client, "/schools", school=open_page(client, "/schools").form("/schools").fields["school"])
        page = open_page(client, "/week/water")
        assert re.search(r"\d+ L this week", page.text)
        assert re.search(r'value="use"[^>]* checked', page.response.text)
        assert re.search(r"Bed A \d\.\d m² \d+(\.\d)? L \d+ mm", page.text)
        assert "Summer" in open_page(client, "/week/rounds?day=2027-11-10").text
