"""Pages of every section, through the application, as forms without script."""

import csv
import io
import re
from uuid import uuid4

import psycopg
import pytest
from fastapi.testclient import TestClient

from almanaque.host.postgres import Addresses
from tests.database import bed_id
from tests.web.pages import Page, enter, open_page, post

BED_4, BARREL = bed_id("Bed 4"), bed_id("Half barrel")
PENCIL = {"command": "pencil", "squares": "A4-B4", "crop": "radish", "method": "direct", "start_on": "2027-04-14"}


def bed(client: TestClient, name: str = "Bed 4") -> Page:
    return open_page(client, f"/garden/beds/{bed_id(name)}")


def version(page: Page) -> str:
    return next(a["value"] for tag, a in page.tags if tag == "input" and a.get("name") == "version")


def test_the_ribbon_says_the_day_and_the_school_days_left(reader: TestClient) -> None:
    assert "Spring term · Wed 14 Apr · 45 school days left" in open_page(reader, "/week").text
    assert "Summer break · Thu 1 Jul" in open_page(reader, "/week?day=2027-07-01").text


def test_the_day_stays_in_every_link_until_it_is_today_again(reader: TestClient) -> None:
    moved = open_page(reader, "/week?day=2027-05-05")
    links = [link for link in moved.links if link.startswith(("/garden", "/year", "/journal"))]
    assert links
    assert all("day=2027-05-05" in link for link in links)
    # The steps from season to season carry a day of their own.
    assert not any("day=" in link for link in open_page(reader, "/journal").links)


@pytest.mark.parametrize("day", ["2027-02-31", "yesterday", "9999-01-01", "2027-13-01", "%00"])
def test_a_day_that_is_none_is_said_and_today_is_shown(reader: TestClient, day: str) -> None:
    page = open_page(reader, f"/week?day={day}")
    assert page.status == 200
    assert "Today is shown." in page.text
    assert "Wed 14 Apr" in page.text


def test_the_week_shows_lessons_jobs_weather_and_what_to_come_back_to(reader: TestClient) -> None:
    page = open_page(reader, "/week")
    for words in (
        "9:40 Grade 2",
        "Keep the radish seedbed moist",
        "Coldest night",
        "Last call",
        "Drip line blocked",
        "Before the summer break",
        "Ready to pick",
    ):
        assert words in page.text, words


def test_a_job_is_ticked_off_and_opened_again(coordinator: TestClient) -> None:
    page = open_page(coordinator, "/week")
    job = next(
        form.action for form in page.forms if form.action.startswith("/tasks/") and form.fields["status"] == "done"
    )
    part = post(coordinator, job, part=True, status="done")
    assert part.text.startswith("Keep") or "min" in part.text
    assert part.forms[0].fields["status"] == "open"
    assert len(part.forms) == 1
    assert part.response.headers.get("content-type", "").startswith("text/html")
    whole = post(coordinator, job, status="open")
    assert "This week in the garden" in whole.text
    assert post(coordinator, job, status="finished").status == 422


def test_a_job_that_nobody_did_is_still_there_the_week_after(reader: TestClient) -> None:
    assert "Left from earlier weeks" not in open_page(reader, "/week").text
    later = open_page(reader, "/week?day=2027-04-28")
    assert "Put up support for pea" in later.text.split("Left from earlier weeks")[1]
    assert "Keep the radish seedbed moist" not in later.text.split("Left from earlier weeks")[1]


def test_a_tick_on_a_future_day_is_refused(coordinator: TestClient) -> None:
    job = next(f.action for f in open_page(coordinator, "/week").forms if f.action.startswith("/tasks/"))
    page = post(coordinator, job, status="done", day="2027-06-01")
    assert page.status == 422
    assert "ticked off from its day on" in page.text


def test_the_bed_sheet_draws_every_plant_once(reader: TestClient) -> None:
    page = bed(reader, "Bed 5")
    circles = [a for tag, a in page.tags if tag == "circle" and a.get("class") in ("plant", "sown-place")]
    assert len(circles) == 12 * 16 + 8
    assert "192 plants · 12 squares · 4 along, 16 in the square" in page.text
    assert "8 plants · 8 squares · 1 along, 1 in the square" in page.text
    cells = [a for tag, a in page.tags if a.get("role") == "gridcell"]
    assert len(cells) == 24
    assert cells[0]["aria-label"] == "A1: carrot, in the ground"


def test_painting_shows_count_dates_and_verdict(coordinator: TestClient) -> None:
    page = post(coordinator, f"/garden/beds/{BED_4}", **PENCIL)
    assert "Radish pencilled · 32 plants · 2 squares · 4 along, 16 in the square" in page.text
    assert "fits the school year" in page.text
    assert re.search(r"first picking \d+ – \d+ May", page.text)


def test_painting_by_htmx_answers_the_sheet_alone(coordinator: TestClient) -> None:
    part = post(coordinator, f"/garden/beds/{BED_4}", part=True, version=version(bed(coordinator)), **PENCIL)
    assert "Radish pencilled in: 32 plants in 2 squares; fits the school year." in part.text
    assert "<html" not in part.response.text
    assert "HX-Request" in part.response.headers["vary"]


def test_ink_rub_out_and_undo(coordinator: TestClient) -> None:
    address = f"/garden/beds/{BED_4}"
    post(coordinator, address, **PENCIL)
    assert "Radish planned" in post(coordinator, address, command="to-ink", squares="A4").text
    assert "14 planted" not in post(coordinator, address, command="rub", squares="A4-B4").text
    assert "Radish planned" in post(coordinator, address, command="undo").text
    assert "Radish pencilled" in post(coordinator, address, command="undo").text


def test_two_people_on_one_bed_neither_loses_work(coordinator: TestClient) -> None:
    seen = version(bed(coordinator))
    post(coordinator, f"/garden/beds/{BED_4}", version=seen, **PENCIL)
    second = post(coordinator, f"/garden/beds/{BED_4}", version=seen, **{**PENCIL, "squares": "C4", "crop": "lettuce"})
    assert second.status == 409
    assert "Someone else changed this bed" in second.text
    assert "Radish pencilled" in second.text
    assert "Leaf lettuce" not in second.text.split("Notes in the margin")[0].split("Paint squares")[0]


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"squares": "Z9"}, "outside this bed; its last square is F4"),
        ({"squares": ""}, "No square was chosen"),
        ({"start_on": "2027-02-31"}, "not a day in the calendar"),
        ({"per_square": "-3"}, "a whole number from 1 to 400"),
        ({"per_square": "9" * 30}, "a whole number from 1 to 400"),
        ({"crop": "moonflower"}, "no crop “moonflower”"),
        ({"method": "magic"}, "Choose how it is started"),
        ({"command": "ink", "start_on": "2027-04-01"}, "begins today or later"),
    ],
)
def test_what_cannot_be_painted_is_said_and_nothing_changes(coordinator: TestClient, change: dict, says: str) -> None:
    before = version(bed(coordinator))
    page = post(coordinator, f"/garden/beds/{BED_4}", **{**PENCIL, **change})
    assert page.status == 422
    assert says in page.text
    part = post(coordinator, f"/garden/beds/{BED_4}", part=True, **{**PENCIL, **change})
    assert (part.status, says in part.text) == (422, True)  # beside the sheet, which is drawn as it stands
    assert version(bed(coordinator)) == before


def test_on_a_day_to_come_only_pencil_is_allowed(coordinator: TestClient) -> None:
    address = f"/garden/beds/{BED_4}?day=2027-05-20"
    refused = post(coordinator, address, **{**PENCIL, "command": "ink", "start_on": "2027-05-20"})
    assert refused.status == 422
    assert "only pencil is allowed" in refused.text
    assert "only pencil is allowed" in open_page(coordinator, address).text
    taken = post(coordinator, address, **{**PENCIL, "start_on": "2027-05-20"})
    assert "Radish pencilled · 32 plants" in taken.text


def test_the_ribbon_shows_the_garden_as_it_stood_and_will_stand(reader: TestClient) -> None:
    last_autumn = open_page(reader, f"/garden/beds/{bed_id('Bed 2')}?day=2026-10-01")
    assert "Spinach in the ground then" in last_autumn.text
    assert "Pea" not in last_autumn.text.split("Notes in the margin")[0].split("One square")[1].split("Spinach")[0]
    summer = open_page(reader, "/garden?day=2027-06-01")
    assert "Beds on 1 Jun" in summer.text


def test_the_preview_counts_before_anything_is_painted(reader: TestClient) -> None:
    query = "crop=kale&method=starts&start_on=2027-04-20&squares=A3-B4&only=preview"
    page = open_page(reader, f"/garden/beds/{BED_4}/choice?{query}")
    assert "1 plant in 4 squares" in page.text
    assert "1 in every block of 2 × 2 squares" in page.text
    wrong = open_page(reader, f"/garden/beds/{BED_4}/choice?crop=kale&squares=Q9&only=preview")
    assert "outside this bed" in wrong.text


def test_the_margin_offers_a_day_that_fits_and_takes_it(coordinator: TestClient) -> None:
    page = bed(coordinator, "Bed 5")
    assert re.search(r"Cabbage: ready \d+ Jun to \d+ Jul, when nobody is at school in \d+ of \d+ years", page.text)
    late = post(coordinator, f"/garden/beds/{BED_4}", **{**PENCIL, "start_on": "2027-06-02"})
    assert "when nobody is at school" in late.text
    fix = next(form for form in late.forms if form.action.endswith("/start"))
    after = post(coordinator, fix.action, method=fix.fields["method"], start_on=fix.fields["start_on"])
    assert "Radish: ready" not in after.text


def test_a_clash_with_what_still_stands_is_a_note_with_a_fix(coordinator: TestClient) -> None:
    page = post(coordinator, f"/garden/beds/{BED_4}", **{**PENCIL, "squares": "A1", "crop": "spinach"})
    assert "the radish still stands in 1 of these squares" in page.text


def test_what_happened_moves_a_planting_on(coordinator: TestClient) -> None:
    page = bed(coordinator, "Half barrel")
    planting = next(form.action for form in page.forms if form.action.endswith("/happened"))
    after = post(coordinator, planting, kind="cleared")
    assert "Radish in the ground" not in after.text
    again = post(coordinator, planting, kind="cleared")
    assert again.status == 409
    assert "already noted for this planting" in again.text
    assert post(coordinator, planting, kind="eaten").status == 422


def test_the_year_shows_every_planting_in_words_too(reader: TestClient) -> None:
    page = open_page(reader, "/year")
    assert "School year 2026–27" in page.text
    assert re.search(r"Garlic, in the ground: starts 6 Oct, picking \d+[^;]* Jul; (misses|with care)", page.text)
    assert "In a break, or lost" in page.text
    earlier = open_page(reader, "/year?day=2025-01-10")
    assert "School year 2024–25" in earlier.text
    assert "Winter wheat" not in earlier.text


def test_a_note_is_kept_with_todays_date(coordinator: TestClient) -> None:
    page = post(
        coordinator, "/journal", id=str(uuid4()), bed=str(BED_4), body="Radish is up.", come_back_on="2027-04-20"
    )
    assert "Wed 14 Apr 2027 Bed 4 Radish is up. Come back 20 Apr" in page.text


def test_a_note_that_is_too_long_stays_in_the_form(coordinator: TestClient) -> None:
    long = "bees " * 2000
    page = post(coordinator, "/journal", id=str(uuid4()), body=long)
    assert page.status == 422
    assert "A note has 1 to 4,000 characters." in page.text
    assert "It has 10,000 now." in page.text
    assert page.form("/journal").fields["body"].strip() == long.strip()


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"body": "  "}, "The note is empty"),
        ({"come_back_on": "2027-04-14"}, "must be after the day of the note"),
        ({"come_back_on": "2027-02-31"}, "not a day in the calendar"),
        ({"id": "7"}, "The form was incomplete"),
    ],
)
def test_a_note_that_cannot_be_kept_says_why_and_stays(coordinator: TestClient, change: dict, says: str) -> None:
    page = post(coordinator, "/journal", **{"id": str(uuid4()), "body": "Half a page", **change})
    assert page.status == 422
    assert says in page.text
    assert page.form("/journal").fields["body"] == change.get("body", "Half a page")


def test_a_note_is_settled(coordinator: TestClient) -> None:
    page = open_page(coordinator, "/week")
    close = next(form.action for form in page.forms if form.action.endswith("/close"))
    assert "Drip line" not in post(coordinator, close, to="week").text


def picking(client: TestClient) -> dict[str, str]:
    page = open_page(client, "/harvest")
    value = next(
        a["value"]
        for tag, a in page.tags
        if tag == "option" and a.get("data-units", "").startswith("lb|oz|kg|g|count|bunch")
    )
    return {
        "id": page.form("/harvest").fields["id"],
        "planting": value,
        "amount": "1 1/2",
        "unit": "lb",
        "use": "kitchen",
        "day": "2027-04-14",
    }


def test_a_picking_is_kept_and_the_book_says_what_the_bed_gave(coordinator: TestClient) -> None:
    wish = picking(coordinator)
    page = post(coordinator, "/harvest", **wish)
    assert "Kept: 1.5 lb of" in page.text
    assert "lb per sq ft" in page.text
    again = post(coordinator, "/harvest", **wish)
    assert again.text.count("1.5 lb") == page.text.count("1.5 lb")


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"amount": "-2"}, "not a number"),
        ({"amount": "lots"}, "not a number"),
        ({"unit": "=pint"}, "a word of at most 20 letters"),
        ({"day": "2027-04-15"}, "future"),
        ({"planting": ""}, "Choose what was picked"),
        ({"use": "x"}, "not a use"),
        ({"note": "n" * 1001}, "at most 1,000 characters"),
    ],
)
def test_a_picking_that_cannot_be_kept_stays_in_the_form(coordinator: TestClient, change: dict, says: str) -> None:
    page = post(coordinator, "/harvest", **{**picking(coordinator), **change})
    assert page.status == 422
    assert says in page.text
    assert page.form("/harvest").fields["amount"] == change.get("amount", "1 1/2")


def test_the_book_as_csv_reads_back_and_defuses_formulas(coordinator: TestClient) -> None:
    post(coordinator, "/harvest", **picking(coordinator), note="=1+1")
    answer = coordinator.get("/harvest.csv")
    rows = list(csv.DictReader(io.StringIO(answer.text.removeprefix("\ufeff"))))
    assert len(rows) > 30
    assert {row["note"] for row in rows} == {"", "'=1+1"}
    assert all(float(row["mass_g"]) > 0 for row in rows if row["mass_g"])
    assert [row["unit"] for row in rows if not row["mass_g"]] == ["apron full"]
    assert answer.headers["content-type"].startswith("text/csv")


def test_the_chart_has_a_name_and_its_table(reader: TestClient) -> None:
    page = open_page(reader, "/harvest/book")
    chart = next(a for tag, a in page.tags if a.get("class") == "chart")
    assert chart["role"] == "img"
    assert "Yield of the ground that was picked" in chart["aria-label"]
    assert re.search(r"2025–26 \d+ [\d.]+ lb", page.text)


def test_seeds_are_counted_from_the_plans(reader: TestClient) -> None:
    page = open_page(reader, "/seeds")
    assert "144 189 seeds 85% come up, 90% of those stay" in page.text
    assert "16 seed potatoes" in page.text


def spans(page: Page) -> list[dict[str, str]]:
    return [form.fields for form in page.forms if form.action.startswith("/school/spans") and form.method == "post"]


def test_a_term_is_changed_added_and_deleted(coordinator: TestClient) -> None:
    spring = next(fields for fields in spans(open_page(coordinator, "/school")) if fields["name"] == "Spring term")
    page = post(coordinator, "/school/spans", **{**spring, "ends": "2027-06-11"})
    assert "worked out again in the background" in page.text
    assert next(f for f in spans(page) if f["name"] == "Spring term")["ends"] == "2027-06-11"
    new = [f for f in spans(page) if f["kind"] == "closure"][-1]
    page = post(coordinator, "/school/spans", **{**new, "name": "Heat day", "starts": "2027-06-03"})
    heat = next(f for f in spans(page) if f["name"] == "Heat day")
    assert heat["ends"] == "2027-06-03"
    page = post(coordinator, "/school/spans", **heat, action="delete")
    assert "Heat day" not in [f["name"] for f in spans(page)]


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"ends": "2027-03-01"}, "ends before it starts"),
        ({"ends": "2027-02-31"}, "not a day in the calendar"),
        ({"starts": "2027-03-01"}, "starts before “Winter term” ends"),
        ({"ends": "2027-12-01"}, "outside the school year"),
        ({"name": "  "}, "Give it a name"),
        ({"starts": ""}, "not a day"),
    ],
)
def test_a_term_that_cannot_be_stays_in_the_form(coordinator: TestClient, change: dict, says: str) -> None:
    spring = next(fields for fields in spans(open_page(coordinator, "/school")) if fields["name"] == "Spring term")
    page = post(coordinator, "/school/spans", **{**spring, **change})
    assert page.status == 422
    assert says in page.text
    kept = next(f for f in spans(page) if f["id"] == spring["id"])
    assert {key: kept[key] for key in change} == change
    assert (
        next(f for f in spans(open_page(coordinator, "/school")) if f["id"] == spring["id"])["ends"] == spring["ends"]
    )


def test_the_place_says_when_it_freezes(reader: TestClient) -> None:
    page = open_page(reader, "/school/climate")
    assert re.search(r"One year in ten still froze after \d+ (Apr|May)\.", page.text)
    assert "made up from a seed" in page.text


def test_only_made_up_weather_is_called_made_up(demo: Addresses, coordinator: TestClient) -> None:
    with psycopg.connect(demo.owner) as owner:
        owner.execute("UPDATE weather_source SET name = 'regional record', kind = 'region' WHERE kind = 'simulated'")
        owner.execute("UPDATE school SET weather_source = 'regional record'")
    page = open_page(coordinator, "/school/climate")
    assert "Climate from the regional record." in page.text
    assert "made up" not in page.text


def test_a_class_is_called_by_its_grade_of_the_year_shown(reader: TestClient) -> None:
    assert "Grade 5 Alders" in open_page(reader, "/school/groups").text
    assert "Grade 3 Alders" in open_page(reader, "/school/groups?day=2025-01-10").text


def test_the_southern_school_reads_in_metric(client: TestClient) -> None:
    enter(client, "educator")
    post(client, "/schools", school=open_page(client, "/schools").form("/schools").fields["school"])
    page = open_page(client, f"/garden/beds/{bed_id('Bed A', 'Tallowbank School')}")
    assert "2.4 m × 1.2 m inside (2.9 m²)" in page.text
    assert "One square is 30 cm." in page.text
    assert "°F" not in page.text


def test_the_week_says_by_when_a_promised_bed_must_be_clear(coordinator: TestClient) -> None:
    page = open_page(coordinator, "/week")
    assert "clear by Sun 6 Jun for pumpkins" in page.text
    assert "clear by" not in open_page(coordinator, "/week?day=2027-06-08").text
    assert "clear by" not in open_page(coordinator, "/week?day=2027-03-10").text  # another break comes first
    late = {**PENCIL, "command": "ink", "crop": "chard", "method": "direct", "start_on": "2027-04-28"}
    post(coordinator, f"/garden/beds/{BED_4}", **late)
    assert "clear by Sun 6 Jun for pumpkins; chard would still stand there" in open_page(coordinator, "/week").text


def test_the_week_says_what_the_weather_means_for_what_stands_there(reader: TestClient) -> None:
    page = open_page(reader, "/week")
    said = re.search(r"No rain in 4 days, and not up yet: ([^.]+)\.", page.text)
    assert said
    assert "Bed" in said[1]
    assert "Water gently every day until it is up" in page.text
    assert "Sill" not in said[1]


def test_days_to_come_have_no_weather_that_was_seen(reader: TestClient) -> None:
    assert "not up yet" not in open_page(reader, "/week?day=2027-07-20").text
