"""Seeds through its pages: the box, a test, what to buy, trays, saving, stock, packets."""

import csv
import io
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from almanaque.demo import load
from tests.database import bed_id
from tests.web.pages import open_page, post

SCHOOL = "Brindlecombe School"
RADISH = load.demo_id(SCHOOL, "lot", "radish", 2026)
TRAY = load.demo_id(SCHOOL, "tray", "Tray by the window")


def test_the_box_tells_age_test_and_what_is_left(reader: TestClient) -> None:
    text = open_page(reader, "/seeds/box").text
    assert (
        "Radish Red globe 2026 bought, a seed house 454 seeds a year old; it lives 4 to 5 years. 85% came up (64% to 95%): sow as usual."
        in text
    )
    assert "15% came up (5% to 36%): it would take more than three times as much. Throw it away." in text
    assert "Bush bean Speckled 2026 : test of 8 Apr, to be counted out on 18 Apr." in text


def test_the_week_asks_for_a_test_to_be_counted_and_stops_when_it_was(coordinator: TestClient) -> None:
    bean = load.demo_id(SCHOOL, "lot", "bush-bean", 2026)
    line = "Bush bean Speckled 2026: count the germination test out on 18 Apr"
    assert "count the germination test out" not in open_page(coordinator, "/week?day=2027-04-07").text
    week = open_page(coordinator, "/week")
    assert line in week.text
    assert f'href="/seeds/lots/{bean}"' in week.response.text
    assert line.replace(" on 18 Apr", "") in open_page(coordinator, "/journal").text
    lot = open_page(coordinator, f"/seeds/lots/{bean}")
    counting = next(f for f in lot.forms if "up" in f.fields)
    post(coordinator, counting.action, **{**counting.fields, "up": "9", "end": "1"})
    assert "count the germination test out" not in open_page(coordinator, "/week").text


def test_a_packet_is_put_in_tested_and_thrown_away(coordinator: TestClient) -> None:
    lot = {
        "id": str(uuid4()),
        "crop": "kale",
        "origin": "bought",
        "year": "2022",
        "packets": "2",
        "place": "in a room",
        "got_on": "2023-01-01",
    }
    page = post(coordinator, "/seeds/box", **lot)
    assert "400 seeds left" in page.text
    assert "Test it before it is sown" in page.text
    path = f"/seeds/lots/{lot['id']}"
    test = str(uuid4())
    page = post(coordinator, f"{path}/tests", id=test, sown="20", day="2027-04-01", place="on the sill")
    assert "20 sown on 1 Apr, on the sill , still running" in page.text.replace("sill,", "sill ,")
    page = post(coordinator, f"{path}/tests", test_id=test, up="2", day="2027-04-12", end="1")
    assert "10% came up (3% to 30%): less than half of what good seed does. Throw it away." in page.text
    assert "380 seeds left" in page.text
    closed = post(coordinator, "/seeds/box", **lot, closed_why="thrown away")
    assert "thrown away 14 Apr" in closed.text


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"year": "2031"}, "from the future"),
        ({"year": "old"}, "The year of the seed"),
        ({"packets": ""}, "by weight or by count"),
        ({"price": "3 EUR"}, "kept in USD"),
        ({"origin": "found"}, "none of the choices"),
        ({"crop": "x"}, "no crop"),
        ({"seeds": "=9"}, "whole number"),
    ],
)
def test_a_lot_that_cannot_be_stays_in_the_form(coordinator: TestClient, change: dict[str, str], says: str) -> None:
    lot = {
        "id": str(uuid4()),
        "crop": "kale",
        "origin": "bought",
        "year": "2026",
        "packets": "2",
        "place": "in a room",
        "note": "from the fair",
        **change,
    }
    page = post(coordinator, "/seeds/box", **lot)
    assert page.status == 422
    assert says in page.text
    assert "from the fair" in page.response.text


def test_seed_is_taken_for_a_planting_and_put_back(coordinator: TestClient) -> None:
    path = f"/seeds/lots/{RADISH}"
    page = post(coordinator, f"{path}/taken", id=str(uuid4()), count="54", what="gift packets")
    assert "400 seeds left" in page.text
    back = next(a["value"] for tag, a in page.tags if tag == "button" and a.get("name") == "back")
    assert "454 seeds left" in post(coordinator, f"{path}/taken", back=back).text or "526" in page.text
    assert "seeds are left of that lot" in post(coordinator, f"{path}/taken", id=str(uuid4()), count="9000").text


def test_the_order_is_what_is_missing_as_page_and_csv(reader: TestClient) -> None:
    text = open_page(reader, "/seeds/order").text
    assert "Radish 128 168 454 enough" in text
    rows = list(csv.DictReader(io.StringIO(reader.get("/seeds/order.csv").text.removeprefix("\ufeff"))))
    assert "Radish" not in {row["crop"] for row in rows}
    beans = next(row for row in rows if row["crop"] == "Bush bean")
    assert int(beans["seeds_to_buy"]) == int(beans["seeds_needed"]) - int(beans["seeds_there"]) > 0
    assert int(beans["packets"]) * int(beans["seeds_in_packet"]) >= int(beans["seeds_to_buy"])


def test_what_is_set_stands_on_the_order_as_often_as_on_the_run_sheet(reader: TestClient) -> None:
    page = open_page(reader, "/seeds/order").text
    assert "Potato 16 16 seed potatoes 25 May Bed 1" in page
    assert "Leaf lettuce 16 17 starts 22 Apr Bed 7" in page
    assert "Mint 1 1 starts" in page  # nobody buys one in twenty of one
    rows = list(csv.DictReader(io.StringIO(reader.get("/seeds/order.csv").text.removeprefix("\ufeff"))))
    lettuce = next(row for row in rows if row["kind"] == "starts" and row["crop"] == "Leaf lettuce")
    assert (lettuce["to_have"], lettuce["by"]) == ("17", "2027-04-22")
    sheet = open_page(reader, f"/garden/beds/{bed_id('Bed 7')}/planting-day?on=2027-04-22").text
    assert "Leaf lettuce starts 17" in sheet
    have = open_page(reader, "/seeds").text
    assert "17 starts" in have


def test_the_order_is_grouped_by_whom_it_was_had_from(reader: TestClient) -> None:
    page = open_page(reader, "/seeds/order?by=supplier").text
    assert page.index("the seed swap in March") < page.index("Pumpkin")  # those of nobody known come last
    assert "under 0.1 oz" in page
    assert "12 May" in page


def test_the_wheats_page_shows_its_line_over_the_years(reader: TestClient) -> None:
    text = open_page(reader, f"/seeds/lots/{load.demo_id(SCHOOL, 'lot', 'wheat saved')}").text
    assert (
        "Winter wheat 2026 saved · Cedars; from winter wheat in Bed 3, 2025 Winter wheat 2024 bought · a mill" in text
    )


def test_a_tray_is_added_sown_and_emptied(coordinator: TestClient) -> None:
    page = post(coordinator, "/seeds/trays", id=str(uuid4()), name="Egg boxes", columns="5", rows="2")
    path = page.response.url.path
    assert "10 cells, 10 free" in page.text
    page = post(
        coordinator, path, id=str(uuid4()), crop="basil", first="1", last="8", per_cell="2", home="3", action="sow"
    )
    assert "Ba Basil , cells 1 to 8, 2 in each" in page.text
    assert (
        "Cells 1 to 8 hold basil" in post(coordinator, path, id=str(uuid4()), crop="kale", first="8", action="sow").text
    )
    assert "Something stands in it still" in post(coordinator, path, action="empty").text
    sowing = next(a["value"] for tag, a in page.tags if tag == "input" and a.get("name") == "sowing")
    page = post(coordinator, path, action="tend", sowing=sowing, up="7", home="3", gone_on="2027-04-14")
    assert "Basil, cells 1 to 8, 14 Apr – 14 Apr, 3 went home" in page.text
    assert "Egg boxes" not in post(coordinator, path, action="empty").text


def test_the_tray_is_drawn_cell_by_cell_with_words(reader: TestClient) -> None:
    page = open_page(reader, f"/seeds/trays/{TRAY}")
    picture = next(a for tag, a in page.tags if tag == "svg" and a.get("class") == "tray-picture")
    assert picture["aria-label"] == "Tray by the window: Tomato in cells 1 to 24; Basil in cells 33 to 44"
    assert sum(1 for tag, a in page.tags if tag == "rect" and a.get("class") == "tray-cell") == 48
    assert sum(1 for tag, a in page.tags if tag == "circle" and a.get("class") == "tray-home") == 5
    assert "Pot up from" in page.text
    assert "harden off from" in page.text


def test_saving_says_which_plantings_are_good_for_seed(reader: TestClient) -> None:
    text = open_page(reader, "/seeds/saving").text
    assert "Pea, Bed 2 good for seed" in text
    assert "Carrot wants 0.6 miles from others that flower: wild carrot." in text


def test_planting_stock_is_reckoned_for_the_head_count(reader: TestClient) -> None:
    text = open_page(reader, "/seeds/stock?crop=garlic&wanted=24&per_unit=8&growing=90").text
    assert (
        "Keep 4 bulbs with 8 cloves each: 27 to set, so that 24 grow. From those a next harvest gives about 135 to 324 cloves to set."
        in text
    )
    refused = open_page(reader, "/seeds/stock?crop=garlic&wanted=many")
    assert refused.status == 422
    assert "whole numbers" in refused.text


def test_packets_to_give_away_say_how_to_sow(reader: TestClient) -> None:
    text = open_page(reader, f"/seeds/lots/{RADISH}/packets?count=3&each=25").text
    assert (
        text.count(
            "25 seeds · seed of 2026 Sow 1/2 in deep, 3 in apart; up in 4 to 8 days. 17 of 20 came up when we tried."
        )
        == 3
    )


def test_who_only_looks_puts_nothing_in(viewer: TestClient) -> None:
    for path in (
        "/seeds/box",
        f"/seeds/lots/{RADISH}/taken",
        f"/seeds/lots/{RADISH}/tests",
        "/seeds/trays",
        f"/seeds/trays/{TRAY}",
    ):
        assert post(viewer, path, id=str(uuid4())).status == 403


def test_a_plantings_page_leads_to_its_seed(reader: TestClient) -> None:
    page = open_page(reader, f"/seeds/lots/{RADISH}")
    planting = next(link for link in page.links if link.startswith("/garden/plantings/"))
    assert "126 seeds of Radish Red globe 2026" in open_page(reader, planting).text
