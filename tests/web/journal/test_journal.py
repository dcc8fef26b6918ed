"""Journal: one line of time with filters and search, out as CSV and JSON; remedies summed; heights; what follows on a planting."""

import csv
import io
import re
from typing import Any
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from tests.database import bed_id
from tests.web.pages import Page, open_page, post


def entries(page: Page) -> list[str]:
    return [
        " ".join(re.sub(r"<[^>]+>", " ", body).split())
        for body in re.findall(r'<p class="entry-body">(.*?)</p>', page.response.text, re.S)
    ]


def test_everything_stands_in_one_line_of_time_newest_first(reader: TestClient) -> None:
    page = open_page(reader, "/journal")
    said = entries(page)
    assert "12 in tall (The Moles)" in said
    assert "picked 31 count" in said
    assert any(words.startswith("Peas are up") for words in said)
    days = [re.sub(r" \d{4}$", "", d) for d in re.findall(r'class="journal-day">([^<]+)', page.response.text)]
    assert days[:2] == ["Tue 13 Apr", "Mon 12 Apr"]
    earlier = next(link for link in page.links if "before=" in link)
    assert entries(open_page(reader, earlier)) != said


@pytest.mark.parametrize(
    ("query", "has", "has_not"),
    [
        ("what=seen", "aphids on the leaf, some", "picked 31 count"),
        ("what=picked", "picked 31 count", "aphids"),
        (f"bed={bed_id('Bed 7')}", "slugs and snails", "aphids"),
        ("search=soup day", "140 bowls", "aphids"),
        ("search=KALE", "aphids", "slugs"),
        ("search=the moles", "(The Moles)", "(The Wrens)"),
        ("search=100%25", "", "picked"),
        ("what=happened&search=garlic", "set", "picked"),
    ],
)
def test_bed_kind_and_words_narrow_it(reader: TestClient, query: str, has: str, has_not: str) -> None:
    said = " | ".join(entries(open_page(reader, f"/journal?{query}")))
    assert has in said
    assert has_not not in said


def test_it_goes_out_as_csv_and_json_with_the_same_filter(reader: TestClient) -> None:
    rows = list(csv.DictReader(io.StringIO(reader.get("/journal.csv?what=seen&search=aphids").text.lstrip("\ufeff"))))
    assert {row["Bed"] for row in rows} == {"Bed 5"}
    assert [row["Words"] for row in rows] == [
        "aphids on the leaf, some",
        "aphids on the leaf, bad",
        "aphids on the leaf, some",
    ]
    told = reader.get("/journal.json?what=seen&search=aphids").json()
    assert [e["day"] for e in told["entries"]] == ["2026-10-06", "2025-10-14", "2024-10-01"]
    assert told["entries"][0]["crop"] == "Kale"
    whole = reader.get("/journal.json").json()["entries"]
    assert len(whole) > 100
    assert {e["what"] for e in whole} == {"note", "seen", "happened", "picked", "photo"}


def test_formulas_in_notes_do_not_run_in_a_spreadsheet(coordinator: TestClient) -> None:
    post(coordinator, "/journal", id=str(uuid4()), body="=1+1 peas")
    assert "'=1+1 peas" in coordinator.get("/journal.csv?search=1%2B1").text


def test_what_helped_is_summed_over_seasons(reader: TestClient) -> None:
    text = open_page(reader, "/journal").text
    assert "aphids Soap spray helped 0 of 1 times (1 unclear)" in text
    assert "slugs and snails Boards laid out, emptied each morning helped 2 of 2 times" in text


def test_heights_are_told_by_team_with_a_table_and_a_sentence(reader: TestClient) -> None:
    page = open_page(reader, "/journal/heights")
    assert "Garlic: 12 measurements by 3 teams or beds; the tallest now is The Snails with 13 inches." in page.text
    assert page.text.count("The Wrens") >= 4
    assert "Winter wheat: 2 measurements" in open_page(reader, "/journal/heights?crop=winter-wheat").text
    assert open_page(reader, "/journal/heights?crop=nothing").status == 200


def plantings(client: TestClient, bed: str) -> dict[str, str]:
    """Addresses of what stands in a bed, by the crop's name."""
    text = client.get(f"/garden/beds/{bed_id(bed)}").text
    return {
        name: path
        for path, name in re.findall(
            r'href="(/garden/plantings/[0-9a-f-]+)"[^>]*>\s*(?:<[^>]+>)*([A-Z][a-z]+(?: [a-z]+)?)', text
        )
    }


def test_a_planting_shows_what_was_seen_and_leads_to_all_of_it(coordinator: TestClient) -> None:
    path = plantings(coordinator, "Bed 1")["Garlic"]
    page = open_page(coordinator, path)
    assert "13 in tall (The Snails)" in page.text
    everything = next(link for link in page.links if link.startswith("/journal?planting="))
    page = open_page(coordinator, everything)
    assert "Journal: Garlic of 6 Oct" in page.text
    assert all("31 count" not in words for words in entries(page))


def test_divisions_become_plantings_with_their_origin(coordinator: TestClient) -> None:
    path = plantings(coordinator, "Fence strip")["Bee balm"]
    wish: dict[str, Any] = {
        "how": "division",
        "bed": str(bed_id("Herb corner")),
        "squares": "A1",
        "start_on": "2027-04-28",
    }
    page = post(coordinator, f"{path}/new-plants", **wish)
    assert page.status == 200
    assert page.response.url.path != path
    assert "From Fence strip" in page.text
    assert "division" in page.text
    assert "Gave Herb corner" in open_page(coordinator, path).text
    own = post(coordinator, f"{path}/new-plants", **{**wish, "how": "magic"})
    assert own.status == 422
    planned = plantings(coordinator, "Bed 3")["Beet"]
    assert "nothing comes from it" in post(coordinator, f"{planned}/new-plants", **wish).text


def test_faded_flowers_are_decided_on_for_each_planting(coordinator: TestClient) -> None:
    path = plantings(coordinator, "Fence strip")["Aster"]
    post(coordinator, f"{path}/ending", ending="seed")
    assert re.search(r'value="seed" selected', coordinator.get(path).text)
    assert post(coordinator, f"{path}/ending", ending="eat").status == 422


def test_a_week_of_one_class_shows_its_lessons_only(reader: TestClient) -> None:
    ids = dict(re.findall(r'<option value="([0-9a-f-]{36})"[^>]*>([^<]+)', reader.get("/week").text))
    grade_2 = next(key for key, name in ids.items() if name == "Grade 2")
    page = open_page(reader, f"/week?only={grade_2}")
    heads = re.findall(r"<h3><span class=\"at\">[^<]+</span> ([^<]+)</h3>", page.response.text)
    assert set(heads) == {"Grade 2"}
    assert len(re.findall(r"<h3><span class=\"at\">", reader.get("/week").text)) > len(heads)
    assert open_page(reader, "/week?only=nobody").status == 200


def test_week_says_what_waits_and_what_is_made_when_it_rains(reader: TestClient) -> None:
    text = open_page(reader, "/week").text
    assert "If it rains" in text
    assert re.search(r"\d+ jobs? of this week waits? for dry soil", text)
    later = open_page(reader, "/week?day=2027-05-20").text
    assert "Make seed mats indoors: Pumpkin, Bed 4, for 8 Jun" in later
