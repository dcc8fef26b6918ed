"""The map and the sheet as their users see them: typed numbers, drafts, soil, needs, and two people on one bed."""

import io
import json
import re
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient
from PIL import Image

from almanaque.demo import load
from almanaque.host.postgres import Addresses
from tests.database import bed_id
from tests.web.conftest import client_for
from tests.web.pages import Page, enter, open_page, post, upload

BED_1, BED_2, BED_3, BED_4, BED_6 = (bed_id(f"Bed {n}") for n in (1, 2, 3, 4, 6))
HERBS = bed_id("Herb corner")
HUT = {"kind": "building", "name": "Bike hut", "size": "6 ft x 4 ft", "at": "24 ft x 29 ft", "turn": "0"}


def paint(
    client: TestClient, bed: object, squares: str, crop: str, command: str = "pencil", part: bool = False, **more: str
) -> Page:
    wish = {"method": "direct", "start_on": "2027-04-20", **more}
    return post(client, f"/garden/beds/{bed}", part=part, command=command, squares=squares, crop=crop, **wish)


def fill(page: Page, form: str = "/garden/features") -> dict[str, str]:
    return {k: v for k, v in page.form(form).fields.items() if k not in ("action", "top")} | (
        {"kind": "raised"} if form == "/garden/map/bed" else {}
    )


def test_the_map_can_be_seen_as_plants_sun_and_who(reader: TestClient) -> None:
    plants = open_page(reader, "/garden")
    assert "Bed 2 is closed 7 Jun – 25 Jun: rebuild in larch." in plants.text
    assert "Too narrow for a wheelchair" in plants.text
    sun = open_page(reader, f"/garden?show=sun&bed={HERBS}")
    assert "Herb corner · herbs" in sun.text
    assert len(re.findall(r'class="sun-\d"', sun.response.text)) > 600
    assert re.search(r"Jun \d+\.\d", sun.text)
    who = open_page(reader, "/garden?show=who")
    assert "Grade 2" in who.text
    # A day in the address is the ribbon's, and the shade is that day's.
    winter = open_page(reader, f"/garden?show=sun&bed={HERBS}&day=2026-12-21")
    assert "hours of direct sun on 21 Dec" in winter.text


def test_seasons_are_stepped_through_by_the_ribbon(reader: TestClient) -> None:
    page = open_page(reader, "/garden")
    steps = [link for link in page.links if "day=" in link]
    assert "Winter term 2027" in page.text
    assert "Summer 2027" in page.text
    before = open_page(reader, next(link for link in steps if "2027-02" in link))
    assert "Autumn term 2026" in before.text


def test_a_thing_is_put_on_the_map_changed_moved_put_back_and_taken_off(coordinator: TestClient) -> None:
    made = str(uuid4())
    page = post(coordinator, "/garden/features", id=made, **HUT)
    assert page.status == 200
    shown = open_page(coordinator, f"/garden/map?thing={made}")
    assert fill(shown)["size"] == "6 ft x 4 ft"
    post(
        coordinator,
        "/garden/features",
        **{**fill(shown), "kind": "building", "height": "9 ft", "outline": "L: 2 ft x 1 ft at top right", "turn": "45"},
    )
    again = fill(open_page(coordinator, f"/garden/map?thing={made}"))
    assert (again["height"], again["turn"]) == ("9 ft", "45")
    assert again["outline"].count(";") == 5
    moved = post(
        coordinator,
        "/garden/map/place",
        part=True,
        what="feature",
        id=made,
        x="7620",
        y="8839.2",
        length="1828.8",
        width="1219.2",
        turn="45",
    )
    assert "Bike hut moved to 25 ft right, 29 ft down." in moved.text
    back = post(coordinator, "/garden/map/undo", part=True)
    assert "Taken back: change Bike hut." in back.text
    assert float(lies(back, made)["x"]) == pytest.approx(24 * 304.8)
    far = post(
        coordinator,
        "/garden/map/place",
        part=True,
        what="feature",
        id=made,
        x="-500",
        y="0",
        length="1828.8",
        width="1219.2",
        turn="0",
    )
    assert far.status == 422
    assert "would lie outside the site" in far.text
    assert made not in post(coordinator, "/garden/features", id=made, action="delete").html


def drawn(client: TestClient, **more: str) -> tuple[str, Page]:
    """A bed drawn on the map: its id and the part that came back."""
    made = str(uuid4())
    box = {
        "what": "bed",
        "kind": "raised",
        "x": "9448.8",
        "y": "609.6",
        "length": "1219.2",
        "width": "609.6",
        "turn": "0",
    }
    return made, post(client, "/garden/map/add", part=True, id=made, **{**box, **more})


def lies(page: Page, thing: str) -> dict[str, str]:
    """How a thing lies on the map that a page shows."""
    tag = re.search(rf'<g class="thing[^>]*data-id="{thing}"[^>]*>', page.html)
    assert tag is not None
    return dict(re.findall(r'data-(\w+)="([^"]*)"', tag[0]))


def test_a_bed_is_drawn_chosen_and_taken_back_and_done_again(coordinator: TestClient) -> None:
    made, page = drawn(coordinator)
    assert "Bed 9 drawn, 4 ft × 2 ft." in page.text
    assert fill(page, "/garden/map/bed")["length"] == "4 ft"
    assert "Undo: draw Bed 9" in page.text
    gone = post(coordinator, "/garden/map/undo", part=True, thing=made)
    assert ("Taken back: draw Bed 9." in gone.text, made in gone.html) == (True, False)
    back = post(coordinator, "/garden/map/redo", part=True)
    assert lies(back, made)["length"] == "1219.2"
    nothing = post(coordinator, "/garden/map/redo", part=True)
    assert (nothing.status, "Nothing is there to do again" in nothing.text) == (422, True)


def test_a_pot_is_called_a_pot(coordinator: TestClient) -> None:
    made, page = drawn(coordinator, kind="container", length="457.2", width="457.2")
    assert "Pot 1 drawn" in page.text
    assert "Pot 2" in post(coordinator, "/garden/map/copy", part=True, id=made).text


def test_a_corner_is_pulled_in_and_the_boxes_show_and_change_the_same(coordinator: TestClient) -> None:
    made, _ = drawn(coordinator, length="2438.4", width="1219.2", y="304.8")
    corners = "0,0;1524,0;1524,609.6;2438.4,609.6;2438.4,1219.2;0,1219.2"
    place = {"what": "bed", "id": made, "x": "9448.8", "y": "304.8", "length": "2438.4", "width": "1219.2", "turn": "0"}
    page = post(coordinator, "/garden/map/place", part=True, corners=corners, reshaped="yes", **place)
    fields = fill(page, "/garden/map/bed")
    assert (fields["notch_length"], fields["notch_width"], fields["notch"]) == ("3 ft", "2 ft", "top right")
    assert "26 whole squares" in page.text
    page = post(coordinator, "/garden/map/bed", part=True, **{**fields, "notch_length": "2 ft", "length": "9 ft"})
    assert "Saved: Bed 9, 9 ft × 4 ft." in page.text
    assert lies(page, made)["corners"].startswith("0.0000,0.0000;2133.6000,0.0000")
    page = post(coordinator, "/garden/map/bed", part=True, **{**fill(page, "/garden/map/bed"), "top": "whole"})
    assert lies(page, made)["corners"] == ""


def test_a_box_that_cannot_be_read_says_so_at_itself_and_keeps_what_was_typed(coordinator: TestClient) -> None:
    _, page = drawn(coordinator)
    fields = {**fill(page, "/garden/map/bed"), "depth": "very", "name": "Salad bed"}
    page = post(coordinator, "/garden/map/bed", part=True, **fields)
    assert page.status == 422
    field = next(a for tag, a in page.tags if tag == "input" and a.get("id") == "b-depth")
    assert (field["value"], field["aria-describedby"]) == ("very", "map-error")
    assert next(a for tag, a in page.tags if tag == "input" and a.get("id") == "b-name")["value"] == "Salad bed"
    assert "Salad bed" not in open_page(coordinator, "/garden").text


def test_a_bed_is_copied_to_the_first_free_place_and_a_row_is_one_step(coordinator: TestClient) -> None:
    made, _ = drawn(coordinator, x="12801.6", y="304.8", length="609.6")
    page = post(coordinator, "/garden/map/copy", part=True, id=made)
    assert "Bed 10 is a copy at the first free place." in page.text
    page = post(coordinator, "/garden/map/row", part=True, id=made, count="3", gap="1 ft", way="right")
    assert "3 beds in a row: Bed 9 to Bed 12." in page.text
    page = post(coordinator, "/garden/map/undo", part=True)
    assert "Taken back: draw Bed 11 and 1 more." in page.text
    full = post(coordinator, "/garden/map/row", part=True, id=made, count="24", gap="3 ft", way="right")
    assert (full.status, "outside the site" in full.text) == (422, True)
    assert full.html.count('data-name="Bed 11"') == 0


def test_two_people_on_one_map_do_not_write_over_each_other(demo: Addresses) -> None:
    with client_for(demo) as one, client_for(demo) as two:
        enter(one, "coordinator")
        enter(two, "educator")
        made, _ = drawn(one)
        place = {"what": "bed", "id": made, "y": "609.6", "length": "1219.2", "width": "609.6", "turn": "0"}
        seen = "9448.8,609.6,1219.2,609.6,0"
        first = post(two, "/garden/map/place", part=True, x="9753.6", seen=seen, **place)
        assert "Bed 9 moved to 32 ft right" in first.text
        late = post(one, "/garden/map/place", part=True, x="9144", seen=seen, **place)
        assert (late.status, "Someone else changed Bed 9" in late.text) == (409, True)
        assert lies(late, made)["x"] == "9753.6"
        undone = post(one, "/garden/map/undo", part=True)
        assert (undone.status, "Bed 9 was changed by someone else since" in undone.text) == (422, True)


def test_a_picture_lies_under_the_map_to_scale_and_to_north_for_planners_only(
    demo: Addresses,
) -> None:
    with client_for(demo) as coordinator, client_for(demo) as stranger, client_for(demo) as helper:
        enter(coordinator, "coordinator")
        enter(helper, "helper")
        picture_under_the_map(coordinator, stranger, helper)


def picture_under_the_map(coordinator: TestClient, stranger: TestClient, helper: TestClient) -> None:
    image = Image.new("RGB", (400, 200), "white")
    body = io.BytesIO()
    image.save(body, "JPEG", exif=b"Exif\0\0" + b"II*\0\x08\0\0\0\0\0\0\0\0\0")
    page = upload(coordinator, "/garden/map/pictures", "plan.jpg", body.getvalue())
    picture = re.search(r'data-underlay="([0-9a-f-]+)"', page.html)
    assert picture is not None
    address = f"/garden/map/pictures/{picture[1]}"
    kept = coordinator.get(f"{address}.jpg")
    assert (kept.status_code, b"Exif" in kept.content) == (200, False)
    assert stranger.get(f"{address}.jpg", follow_redirects=False).status_code in (303, 401)
    assert helper.get(f"{address}.jpg").status_code == 403
    page = post(coordinator, address, action="scale", a="0,0", b="3048,0", true="20 ft")
    before = float(re.findall(r"scale\(([0-9.]+)\)", page.html)[1])
    assert before == pytest.approx(2 * 52 * 304.8 / 400, rel=1e-3)
    page = post(coordinator, address, action="north", arrow="30")
    assert "rotate(330.000)" in page.html
    page = post(coordinator, address, action="scale", a="0,0", b="1,0", true="20 ft")
    assert "lie too near each other" in page.text
    assert "data-underlay" not in post(coordinator, address, action="delete").html


def test_what_is_felled_is_on_the_map_of_its_days_only(coordinator: TestClient) -> None:
    made = str(uuid4())
    post(
        coordinator,
        "/garden/features",
        id=made,
        **{**HUT, "kind": "tree", "name": "Plum", "from_day": "2027-05-01", "to_day": "2027-09-01"},
    )
    assert "Plum" not in open_page(coordinator, "/garden").response.text
    assert "Plum" in open_page(coordinator, "/garden?day=2027-06-01").response.text
    assert "Plum" not in open_page(coordinator, "/garden?day=2027-09-01").response.text
    wrong = post(coordinator, "/garden/features", id=made, **{**HUT, "from_day": "2027-05-01", "to_day": "2027-04-01"})
    assert "gone before it was there" in wrong.text


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"size": "0 ft x 4 ft"}, "longer and wider than nothing"),
        ({"size": "6 ft"}, "two lengths with an x between"),
        ({"outline": "0 x 0; 6 ft x 4 ft; 6 ft x 0; 0 x 4 ft"}, "like a bow-tie"),
        ({"outline": "L: 2 ft x 1 ft at the back"}, "at top right"),
        ({"at": "400 ft x 2 ft"}, "outside the site"),
        ({"kind": "castle"}, "none of the choices"),
        ({"kind": "tree", "months": "Nov, Smarch"}, "“Smarch” is not a month"),
        ({"height": "4 ft", "base": "5 ft"}, "lower edge lies above its top"),
        ({"turn": "sideways"}, "is not a number"),
    ],
)
def test_what_cannot_stand_on_the_map_is_said(coordinator: TestClient, fields: dict[str, str], says: str) -> None:
    page = post(coordinator, "/garden/features", id=str(uuid4()), **{**HUT, **fields})
    assert page.status == 422
    assert says in page.text
    assert "Bike hut" not in open_page(coordinator, "/garden").text


NEW_BED = {
    "name": "Bed 20",
    "kind": "raised",
    "size": "4 ft x 2 ft",
    "depth": "11 in",
    "cell": "12 in",
    "at": "24 ft x 31 ft",
}


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"size": "0 ft x 4 ft"}, "must be longer and wider than 0"),
        ({"size": "400 ft x 4 ft"}, "would lie outside the site"),
        ({"outline": "0 x 0; 4 ft x 2 ft; 4 ft x 0; 0 x 2 ft"}, "like a bow-tie"),
        ({"kept": "Currant: 5 ft x 3 ft at 0 x 0"}, "“Currant” lies outside the bed"),
        ({"sections": "Salad: 9 ft x 1 ft at 0 x 0"}, "“Salad” lies outside the bed"),
        ({"sections": "Salad: 1 ft x 1 ft at 0 x 0, Yetis"}, "no group “Yetis”"),
        ({"kept": "Currant: 1 ft x 1 ft at 0 x 0 from 2027-09-01 until 2027-03-01"}, "kept until after it began"),
        ({"volume": "a lot"}, "like 10 gal"),
        ({"light": "25"}, "between 0 and 24"),
    ],
)
def test_a_bed_that_cannot_be_is_said(coordinator: TestClient, fields: dict[str, str], says: str) -> None:
    page = post(coordinator, "/garden/beds", id=str(uuid4()), **{**NEW_BED, **fields})
    assert page.status == 422
    assert re.search(says, page.text)


def test_a_bed_of_every_kind_and_shape_is_kept_as_it_was_typed(coordinator: TestClient) -> None:
    made = str(uuid4())
    wish = {
        **NEW_BED,
        "size": "4 ft x 3 ft",
        "kind": "fabric pot",
        "turn": "350",
        "outline": "L: 2 ft x 1 ft at bottom left",
        "volume": "20 gal",
        "sections": "Salad: 2 ft x 1 ft at 2 ft x 0 in, Birches",
        "kept": "Sage: 1 ft x 1 ft at 3 ft x 2 ft from 2027-05-01",
    }
    page = post(coordinator, "/garden/beds", id=made, **wish)
    assert "fabric pot" in page.text
    assert "2.7 cu ft of soil" in page.text
    assert "Salad · Grade 4" in page.response.text
    form = open_page(coordinator, f"/garden/beds/{made}/edit").form("/garden/beds").fields
    assert form["outline"].count(";") == 5
    assert form["sections"] == "Salad: 2 ft x 1 ft at 2 ft x 0 in, Birches"
    assert form["kept"] == "Sage: 1 ft x 1 ft at 3 ft x 2 ft from 2027-05-01"
    assert (form["turn"], form["volume"]) == ("350", "2.7 cu ft")
    again = post(
        coordinator, "/garden/beds", **{**{k: v for k, v in form.items() if k != "action"}, "kind": "fabric pot"}
    )
    assert again.status == 200


def test_a_planter_counts_its_pockets(coordinator: TestClient) -> None:
    made = str(uuid4())
    page = post(
        coordinator, "/garden/beds", id=made, **{**NEW_BED, "kind": "planter", "size": "4 ft x 1 ft", "pockets": "6"}
    )
    assert "6 squares" in page.text
    assert "6 pockets." in page.text
    assert "6 plants" in paint(coordinator, made, "A1-F1", "lettuce", per_square="1").text


def test_a_sill_shows_the_light_that_was_measured(reader: TestClient) -> None:
    assert "indoor sill" in open_page(reader, f"/garden/beds/{bed_id('Sill')}").text
    assert "As typed for this sill." in open_page(reader, f"/garden?show=sun&bed={bed_id('Sill')}").text


def choice(client: TestClient, bed: object, **query: str) -> str:
    return open_page(
        client, f"/garden/beds/{bed}/choice?only=preview&" + "&".join(f"{k}={v}" for k, v in query.items())
    ).text


def test_the_preview_says_whose_figure_was_followed_and_what_the_others_give(reader: TestClient) -> None:
    usual = choice(reader, BED_1, crop="carrot", squares="E1-E4")
    assert "64 plants in 4 squares" in usual
    assert "By the usual square count." in usual
    packet = choice(reader, BED_1, crop="carrot", squares="E1-E4", follows="packet", in_row="4 in", sow="1 in")
    assert "36 plants in 4 squares" in packet
    assert "By the packet. Sow 1 in apart, thin to 4 in." in packet
    assert "The usual square count: 64 plants, 4 along, 16 in the square." in packet
    rows = choice(
        reader, BED_1, crop="carrot", squares="E1-H4", arrangement="rows", follows="packet", in_row="3 in", row="12 in"
    )
    assert "rows, 12 in apart, 3 in in the row" in rows
    assert "do not fit in 1 ft × 1 ft" in choice(reader, BED_1, crop="zucchini", squares="E1", arrangement="rows")
    assert "Measure the span of your hand once" in choice(reader, BED_1, crop="carrot", squares="E1", follows="hand")


def test_one_each_counts_the_class_and_starts_in_hand_leave_the_rest_open(
    reader: TestClient, coordinator: TestClient
) -> None:
    docks = str(load.demo_id("Brindlecombe School", "group", "Docks"))
    each = choice(reader, BED_1, crop="cabbage", squares="E1-H4", method="starts", number="class", group=docks)
    assert re.search(r"16 of \d+ places for \d+ children of .*; \d+ are missing", each)
    assert "Choose the class" in choice(reader, BED_1, crop="cabbage", squares="E1", number="class")
    few = paint(coordinator, BED_1, "E1-H4", "cabbage", method="starts", number="starts", wanted="5")
    assert "5 plants in 5 squares" in few.text or "5 plants · 5 squares" in few.text


def test_findings_are_live_before_anything_is_painted(reader: TestClient) -> None:
    text = choice(reader, BED_1, crop="potato", squares="A1-B2", start_on="2027-05-10")
    assert "The garlic still stands in 4 of these squares." in text
    assert "Potato stood in these squares" in text
    assert "pH 7.1" in text


def test_two_people_on_one_bed_see_each_others_change_and_neither_loses_work(demo: Addresses) -> None:
    with client_for(demo) as one, client_for(demo) as two:
        enter(one, "coordinator")
        enter(two, "educator")
        shown = re.search(r'name="version" value="(\d+)"', open_page(two, f"/garden/beds/{BED_4}").response.text)
        assert shown
        version = shown[1]
        assert two.get(f"/garden/beds/{BED_4}/news?version={version}").status_code == 204
        paint(one, BED_4, "A4-B4", "lettuce")
        news = open_page(two, f"/garden/beds/{BED_4}/news?version={version}")
        assert "Meanwhile here: paint leaf lettuce" in news.text
        refused = paint(two, BED_4, "A4-C4", "spinach", part=True, version=version)
        assert "Nothing of yours was written" in refused.text
        assert "Meanwhile here: paint leaf lettuce" in refused.text
        assert "data-stale" in refused.response.text
        plain = paint(two, BED_4, "A4-C4", "spinach", version=version)
        assert plain.status == 409
        form = plain.form(f"/garden/beds/{BED_4}").fields
        assert form["squares"] == "A4-C4"
        done = paint(
            two,
            BED_4,
            "C4",
            "spinach",
            part=True,
            version=re.search(r'name="version" value="(\d+)"', plain.response.text)[1],
        )  # type: ignore[index]
        assert "Spinach pencilled in" in done.text


def test_undo_and_redo_survive_a_reload(coordinator: TestClient) -> None:
    paint(coordinator, BED_4, "A4-B4", "radish")
    assert "Undo: paint radish" in open_page(coordinator, f"/garden/beds/{BED_4}").text
    assert "Undone: paint radish." in post(coordinator, f"/garden/beds/{BED_4}", part=True, command="undo").text
    page = open_page(coordinator, f"/garden/beds/{BED_4}")
    assert "Redo: paint radish" in page.text
    assert "Done again: paint radish." in post(coordinator, f"/garden/beds/{BED_4}", part=True, command="redo").text


def test_a_plan_is_moved_and_laid_out_anew_by_the_form(coordinator: TestClient) -> None:
    paint(coordinator, BED_4, "A3-B4", "lettuce")
    assert "1 plan moved." in paint(coordinator, BED_4, "A3", "lettuce", command="move", part=True, by="1,0").text
    laid = paint(
        coordinator,
        BED_4,
        "B3",
        "lettuce",
        command="lay",
        part=True,
        arrangement="rows",
        follows="packet",
        in_row="6 in",
        row="12 in",
    )
    assert "1 plan laid out anew." in laid.text
    assert "2 rows, 12 in apart, 6 in in the row" in laid.text
    assert (
        "right and down, like 1,0"
        in paint(coordinator, BED_4, "B3", "lettuce", command="move", part=True, by="far").text
    )


def test_drafts_stand_side_by_side_and_parts_of_each_are_chosen(coordinator: TestClient) -> None:
    page = open_page(coordinator, f"/garden/drafts/compare?bed={BED_2}")
    for words in (
        "Pencil plan",
        "Birches' plan",
        "Ferns' plan",
        "Radish",
        "Carrot",
        "Sweet corn",
        "Pole bean",
        "picked",
    ):
        assert words in page.text, words
    ids = [a["value"] for tag, a in page.tags if tag == "input" and a.get("name") == "planting"]
    assert len(ids) >= 5
    refused = post(coordinator, "/garden/drafts/choose", bed=str(BED_2), planting=[ids[0], ids[1]])  # type: ignore[arg-type]
    assert "at the same time. Choose one of them" in refused.text
    chosen = post(coordinator, "/garden/drafts/choose", bed=str(BED_2), planting=[ids[1], ids[2]])  # type: ignore[arg-type]
    assert chosen.response.url.path == f"/garden/beds/{BED_2}"
    assert chosen.text.count("planned from") == 2
    assert "Choose at least one" in post(coordinator, "/garden/drafts/choose", bed=str(BED_2)).text


def test_a_draft_is_begun_renamed_closed_and_a_season_copied_into_it(coordinator: TestClient) -> None:
    made = str(uuid4())
    assert "Club plan" in post(coordinator, "/garden/drafts", id=made, name="Club plan", made_by="Garden club").text
    post(coordinator, "/garden/drafts", id=made, name="The club's plan")
    page = post(coordinator, "/garden/drafts/copy", source="2026-03-30", onto="2027-03-29", draft=made)
    assert re.search(r"\d+ plantings pencilled in \d+ beds for Spring term 2027\.", page.text)
    assert "still stands there" in page.text
    assert (
        "Choose the season to copy" in post(coordinator, "/garden/drafts/copy", source="x", onto="y", draft=made).text
    )
    assert "closed" in post(coordinator, "/garden/drafts", id=made, action="close").text
    assert "Something was planned in this draft" in post(coordinator, "/garden/drafts", id=made, action="delete").text


def test_four_seasons_of_a_bed_and_the_printed_map(reader: TestClient) -> None:
    page = open_page(reader, f"/garden/beds/{BED_1}/seasons?day=2026-06-01")
    assert page.text.count("drawn as on") == 4
    assert "Garlic: " in page.text
    assert "Potato: " in page.text
    filled, empty = open_page(reader, "/garden/print"), open_page(reader, "/garden/print?empty=true")
    assert "Ga Garlic" in filled.text
    assert "Ga" not in [word for word in empty.text.split() if word == "Ga"]
    assert "Drawn by" in empty.text


def test_soil_is_kept_with_the_laboratorys_advice_and_lead_is_said_loudly(coordinator: TestClient) -> None:
    page = post(
        coordinator,
        f"/garden/beds/{BED_4}/soil",
        id=str(uuid4()),
        taken_on="2027-04-01",
        laboratory="Bench",
        ph="5,4",
        lead="310",
        advice="Cover it.",
    )
    assert "pH 5.4 · lead 310 ppm" in page.text
    assert "The laboratory advises: Cover it." in page.text
    assert "Lead was found in this soil." in page.text
    assert (
        "no result yet" in post(coordinator, f"/garden/beds/{BED_4}/soil", id=str(uuid4()), taken_on="2027-04-01").text
    )
    assert (
        "in the future"
        in post(coordinator, f"/garden/beds/{BED_4}/soil", id=str(uuid4()), taken_on="2028-04-01", ph="6").text
    )
    logged = post(
        coordinator,
        f"/garden/beds/{BED_4}/amendment",
        id=str(uuid4()),
        on_day="2027-04-02",
        kind="raw manure",
        volume="3 cu ft",
    )
    assert "120 days where it touches the soil" in logged.text
    assert (
        "by volume or by weight"
        in post(coordinator, f"/garden/beds/{BED_4}/amendment", id=str(uuid4()), on_day="2027-04-02").text
    )


def test_needs_are_listed_priced_and_go_out_as_csv(coordinator: TestClient) -> None:
    page = open_page(coordinator, "/garden/needs")
    assert "Known prices add up to" in page.text
    table = coordinator.get("/garden/needs.csv")
    assert table.headers["content-type"].startswith("text/csv")
    assert (
        table.text.splitlines()[0].lstrip("\ufeff")
        == "kind,what,needed,unit,in the shed,to get,price each (USD),cost (USD),for"
    )
    one = open_page(coordinator, f"/garden/needs?bed={BED_3}")
    assert "Mark along the length: 1 ft · 2 ft" in one.text
    post(coordinator, "/garden/shed", id=str(uuid4()), kind="material", name="pole, 8 ft", have="2", price="1.50")
    assert "pole, 8 ft" in open_page(coordinator, "/garden/shed").text
    assert (
        "one of that name already"
        in post(coordinator, "/garden/shed", id=str(uuid4()), kind="material", name="pole, 8 ft").text
    )


def test_how_the_school_gardens_changes_what_the_sheets_say(coordinator: TestClient) -> None:
    before = choice(coordinator, BED_1, crop="potato", squares="A1-B2", start_on="2027-05-10")
    page = post(
        coordinator,
        "/garden/practice",
        rest_years="4",
        neighbours="off",
        feeding="fertiliser",
        hand="8 in",
        invasive="Mint, privet",
        currency="eur",
    )
    assert page.status == 200
    after = choice(coordinator, BED_1, crop="potato", squares="A1-B2", start_on="2027-05-10")
    assert "rest 3 years here" in before
    assert "rest 4 years here" in after
    spans = choice(coordinator, BED_1, crop="carrot", squares="E1", follows="hand", in_row="0.5")
    assert "9 plants in 1 square" in spans
    assert "By your own hand." in spans
    assert "invasive here" in choice(coordinator, BED_1, crop="mint", squares="E1-F2", method="starts")
    assert "2 to 4" in post(coordinator, "/garden/practice", rest_years="7").text


def test_a_bed_is_closed_for_a_rebuild_and_says_what_still_stands(coordinator: TestClient) -> None:
    page = post(
        coordinator,
        f"/garden/beds/{BED_1}/closure",
        id=str(uuid4()),
        starts="2027-06-01",
        ends="2027-06-10",
        reason="Rebuild",
        paid_by="Grounds staff",
    )
    assert "Still or already there: Garlic, in the ground" in page.text
    assert "24 ft of wall" in page.text
    assert "modular brick" in open_page(coordinator, f"/garden/beds/{BED_1}/rebuild?bricks=true").text
    assert "Garlic: the bed is closed 1 Jun – 10 Jun: Rebuild." in open_page(coordinator, f"/garden/beds/{BED_1}").text
    wrong = post(
        coordinator,
        f"/garden/beds/{BED_1}/closure",
        id=str(uuid4()),
        starts="2027-06-10",
        ends="2027-06-01",
        reason="Rebuild",
    )
    assert "opens before it closes" in wrong.text


def test_a_found_plant_is_unknown_until_named(coordinator: TestClient) -> None:
    page = post(coordinator, f"/garden/beds/{BED_4}/found", part=True, id=str(uuid4()), square="B4", name="")
    assert "Unknown plant" in page.text
    assert "Nobody tastes a plant without a name." in page.text
    made = next(a["value"] for tag, a in page.tags if tag == "input" and a.get("name") == "id")
    named = post(coordinator, f"/garden/beds/{BED_4}/found", part=True, id=made, name="Borage", intent="keep")
    assert "Borage nobody sowed it" in named.text
    assert (
        "Borage"
        not in post(coordinator, f"/garden/beds/{BED_4}/found", part=True, id=made, name="Borage", action="gone").text
    )
    assert (
        "such as B2" in post(coordinator, f"/garden/beds/{BED_4}/found", part=True, id=str(uuid4()), square="Z99").text
    )


def test_the_map_goes_out_and_comes_in(coordinator: TestClient) -> None:
    body = coordinator.get("/garden/map.geojson")
    assert body.headers["content-type"].startswith("application/geo+json")
    found = json.loads(body.text)
    assert len(found["features"]) == 25
    drawing = coordinator.get("/garden/map.svg").content
    assert upload(coordinator, "/garden/map/import", "garden.svg", drawing).response.url.path == "/garden/map"
    page = upload(coordinator, "/garden/map/import", "garden.geojson", body.content)
    assert page.response.url.path == "/garden/map"
    found["features"][0]["properties"]["local_mm"]["x"] = -5000
    assert (
        "outside the site"
        in upload(coordinator, "/garden/map/import", "garden.geojson", json.dumps(found).encode()).text
    )
    assert "is not GeoJSON" in upload(coordinator, "/garden/map/import", "x.json", b"nothing").text


def test_the_southern_school_sees_its_garden_in_metres(client: TestClient) -> None:
    enter(client, "educator")
    page = open_page(client, "/schools")
    other = next(a["value"] for tag, a in page.tags if tag in ("input", "button") and a.get("name") == "school")
    post(client, "/schools", school=other)
    for path in (
        "/garden",
        "/garden?show=sun",
        "/garden/needs",
        "/garden/drafts/compare",
        "/garden/print",
        "/garden/map",
    ):
        assert open_page(client, path).status == 200, path


def test_a_planted_bush_is_a_planting_with_a_crown_and_a_cover_lies_over_its_bed(coordinator: TestClient) -> None:
    made = str(uuid4())
    post(
        coordinator,
        "/garden/beds",
        id=made,
        **{**NEW_BED, "kind": "plot", "size": "4 ft x 4 ft", "at": "24 ft x 30 ft", "depth": "18 in"},
    )
    page = paint(coordinator, made, "A1-D4", "currant", command="ink", method="starts", start_on="2027-04-14")
    assert "1 plant" in page.text
    assert 'class="crown"' not in coordinator.get("/garden").text
    planting = next(form.action for form in page.forms if "/happened" in form.action)
    post(coordinator, planting, kind="started")
    garden = coordinator.get("/garden").text
    assert garden.count('class="crown"') == 1
    post(
        coordinator,
        "/garden/features",
        id=str(uuid4()),
        kind="tunnel",
        name="Low tunnel",
        size="4 ft x 4 ft",
        at="3 ft x 9 ft",
    )
    drawn = coordinator.get("/garden").text
    assert drawn.index("site-tunnel") > drawn.index("Bed 1, Roots")


def test_the_past_is_what_stood_then(reader: TestClient) -> None:
    october = open_page(reader, "/garden?day=2024-10-22").text
    assert re.search(r"Bed 5 , soup [^B]*Kindergarten Kale", october)
    assert re.search(r"Bed 2 , leaves [^B]*Spinach", october)
    now = open_page(reader, "/garden").text
    assert not re.search(r"Bed 5 , soup [^B]*Kale", now)
    before = open_page(reader, "/garden?day=2022-05-10").text
    assert "Bed 1" in before
    assert "Half barrel" not in before  # built in 2024
    sheet = open_page(reader, f"/garden/beds/{bed_id('Bed 5')}?day=2024-10-22").text
    assert "in the ground then" in sheet
    assert "Paint squares" not in sheet
    assert "24 squares · 8 planted · 16 free · 2 plants" in sheet
    assert "closed 7 Jun" in now
    assert "closed 7 Jun" not in october


def test_a_past_day_can_be_seen_as_it_was_planned(reader: TestClient) -> None:
    """The demo's plans lie before its day as long as its rows do; in 2024 nobody had planned anything of them yet."""
    bed = f"/garden/beds/{bed_id('Bed 3')}"
    march = open_page(reader, f"{bed}?day=2027-03-10&then=thought")
    assert "Beet planned from" in march.text
    assert "Winter wheat in the ground then" in march.text
    assert not [form for form in march.forms if form.action.startswith(bed) and form.method == "post"]
    assert "Beet planned from" not in open_page(reader, f"{bed}?day=2027-03-10").text
    assert "and nothing was planned" in open_page(reader, f"{bed}?day=2024-10-10&then=thought").text
    planned = open_page(reader, "/garden?day=2027-04-10&then=thought").text
    assert re.search(r"Bed 3 , mixed [^B]*; planned: ", planned)
