"""Year and the planting's page, through the application, as forms without script."""

import re
from uuid import uuid4

import psycopg
import pytest
from fastapi.testclient import TestClient

from almanaque.data import catalogue
from almanaque.demo import load
from almanaque.host.postgres import Addresses
from tests.database import bed_id
from tests.web.pages import Page, enter, open_page, post

BED_4, BED_6, BED_7 = (bed_id(f"Bed {n}") for n in (4, 6, 7))
SALAD = load.demo_id("Brindlecombe School", "theme", "Salad bowl")


def words_of(page: Page, tag: str, **attrs: str) -> list[dict[str, str]]:
    return [a for t, a in page.tags if t == tag and all(a.get(k.rstrip("_")) == v for k, v in attrs.items())]


def test_the_finder_shows_every_week_with_verdict_years_and_reason(reader: TestClient) -> None:
    page = open_page(reader, "/year/finder?crop=radish")
    assert "When to sow radish" in page.text
    assert "38 years of weather" in page.text or "37 years of weather" in page.text
    weeks = words_of(page, "input", type="radio", name="sow")
    assert len(weeks) == 22
    assert sum("checked" in week for week in weeks) == 1
    assert re.search(r"fits 3\d of 3\d", page.text)
    assert "misses" in page.text
    assert "no class to sow" in page.text
    assert re.search(r"up \d+ – \d+ Apr · first picking \d+ – \d+ May", page.text)


def test_back_from_the_feast_the_latest_and_the_best_day_are_said(reader: TestClient) -> None:
    page = open_page(reader, "/year/finder?crop=kale&method=starts&by=2027-11-17")
    assert re.search(
        r"Set out by \d+ \w+ \(3\d of 3\d years\) at the latest to have it ready for 17 Nov; best on", page.text
    )
    late = open_page(reader, "/year/finder?crop=pumpkin&by=2027-05-01")
    assert "No day from today on makes it ready for 1 May." in late.text
    out = open_page(reader, "/year/finder?crop=pumpkin&method=indoors&aim=set+out&by=2027-06-01")
    assert "big enough to set out by 1 Jun" in out.text


def test_a_finder_opened_from_a_planting_moves_it(coordinator: TestClient) -> None:
    sheet = open_page(coordinator, f"/garden/beds/{BED_4}")
    made = post(coordinator, "/year/finder", crop="radish", method="direct", bed=str(BED_4), sow="2027-04-26")
    address = next(a.partition("?")[0] for a in made.links if "/garden/plantings/" in a and a not in sheet.links)
    planting = address.rpartition("/")[2]
    opened = open_page(coordinator, address)
    finder = next(a for a in opened.links if f"planting={planting}" in a)
    asked = open_page(coordinator, f"{finder}&sow=2027-05-10")
    assert "You are moving a planting" in asked.text
    assert "Move the planting to" in asked.text
    assert "Pencil in" not in asked.text
    other = post(
        coordinator, "/year/finder", crop="kale", method="direct", bed=str(BED_4), sow="2027-05-10", planting=planting
    )
    assert (other.status, "its own weeks" in other.text) == (422, True)
    moved = post(
        coordinator,
        "/year/finder",
        crop="radish",
        method="direct",
        bed=str(BED_4),
        sow="2027-05-10",
        planting=planting,
        cover="row cover",
    )
    assert moved.response.url.path == f"/garden/beds/{BED_4}"
    page = open_page(coordinator, address)
    assert "10 May" in page.text
    assert '<option value="row cover" selected>' in page.html


def test_a_planting_out_of_season_offers_the_finder_with_all_that_was_asked(coordinator: TestClient) -> None:
    made = post(coordinator, "/year/finder", crop="tomato", method="starts", bed=str(BED_4), sow="2027-03-01")
    finders = [a for a in made.links if a.startswith("/year/finder?crop=tomato&method=starts&bed=")]
    assert finders, made.text
    opened = open_page(coordinator, finders[0])
    assert opened.status == 200
    assert "You are moving a planting" in opened.text


def test_a_rested_bed_is_a_link_to_that_bed_with_the_crop_chosen(coordinator: TestClient) -> None:
    made = post(coordinator, "/year/finder", crop="potato", method="sets", bed=str(BED_6), sow="2027-04-26")
    (rested, *_) = [a for a in made.links if "crop=potato&start_on=2027-04-26" in a]
    sheet = open_page(coordinator, rested)
    assert str(BED_6) not in rested
    assert sheet.response.url.path.startswith("/garden/beds/")
    assert [a["value"] for t, a in sheet.tags if t == "input" and a.get("name") == "start_on"] == ["2027-04-26"]


def test_a_crop_that_never_ripens_here_says_so_and_why(coordinator: TestClient) -> None:
    post(coordinator, "/year/crops/melon", action="own", degree_days="3900, 3900")
    page = open_page(coordinator, "/year/finder?crop=melon")
    assert "No week of the coming year lets it ripen here." in page.text
    assert "by your own figures" in page.text


def test_a_chosen_week_is_pencilled_into_free_squares(coordinator: TestClient) -> None:
    page = post(coordinator, "/year/finder", crop="radish", method="direct", bed=str(BED_4), sow="2027-04-26")
    assert "Bed 4" in page.text
    assert "Radish pencilled from 26 Apr" in page.text or "Radish pencilled" in page.text
    assert "first picking" in page.text
    full = post(coordinator, "/year/finder", crop="apple", method="starts", bed=str(bed_id("Trough")), sow="2027-04-26")
    assert full.status == 422
    assert "no room for apple" in full.text


@pytest.mark.parametrize(
    ("data", "says"),
    [
        ({"sow": "2027-04-26"}, "Choose the bed"),
        ({"bed": str(BED_4)}, "Choose a week first"),
        ({"bed": str(BED_4), "sow": "soon"}, "not a day"),
        ({"bed": str(BED_4), "sow": "2027-04-26", "cover": "tent"}, "none of the choices"),
    ],
)
def test_the_finder_refuses_in_a_sentence(coordinator: TestClient, data: dict[str, str], says: str) -> None:
    page = post(coordinator, "/year/finder", crop="radish", method="direct", **data)
    assert page.status == 422
    assert says in page.text


def test_a_tunnel_changes_the_finder(reader: TestClient) -> None:
    bare, covered = (
        open_page(reader, f"/year/finder?crop=lettuce&sow=2027-04-19&cover={cover}").text for cover in ("", "tunnel")
    )
    assert "under a tunnel" in covered
    first = [re.search(r"First picking (\d+ \w+|\d+) –", text) for text in (bare, covered)]
    assert first[0] is not None
    assert first[1] is not None
    assert first[0][0] != first[1][0]


def test_what_fits_a_bed_names_one_reason_against_each_other_crop(reader: TestClient) -> None:
    page = open_page(reader, f"/garden/beds/{BED_4}/fits?squares=A4-B4")
    assert "2 squares · from 14 Apr · free until 7 Jun" in page.text
    assert "Does not fit here" in page.text
    assert "the space is free until 7 Jun." in page.text
    listed = [a for a in page.links if "/year/finder" in a]
    assert len(listed) == len(catalogue())
    shelf = reader.get(f"/garden/beds/{BED_4}/fits?shelf=1&squares=A4-B4", headers={"HX-Request": "true"}).text
    assert f"All {len(catalogue())} crops" in shelf
    assert "<html" not in shelf


def test_what_to_sow_this_month_and_by_kind(reader: TestClient) -> None:
    page = open_page(reader, "/year/sow")
    assert "What to sow in April" in page.text
    assert f" of {len(catalogue())} crops" in page.text
    assert re.search(r"Does not fit now: \d+ .*Garlic It misses the cold it needs in", page.text)
    herbs = open_page(reader, "/year/sow?show=herbs")
    assert "Radish" not in herbs.text
    assert "Chives" in herbs.text
    assert "Nobody is at school in this month." in open_page(reader, "/year/sow?month=2027-07").text
    assert open_page(reader, "/year/sow?month=spring").status == 422


def test_what_to_sow_names_the_beds_that_can_take_it_and_can_be_asked_for_one_bed(reader: TestClient) -> None:
    everywhere = open_page(reader, "/year/sow")
    assert re.search(r"Radish sown in place any bed with room", everywhere.text)
    assert re.search(r"Arugula sown in place Bed 5, Bed 6, Herb corner", everywhere.text)
    assert re.search(r"Dill sown in place Bed 6, Herb corner", everywhere.text)  # carrots stood in Bed 5
    assert re.search(r"Asparagus \S.{0,12}: Wants \d+ in of soil; here are \d+ in", everywhere.text)
    one = open_page(reader, f"/year/sow?bed={BED_4}")
    assert "Bed 4" in one.text
    assert "Cabbage kin stood there" in one.text or "the space is free until" in one.text
    here, anywhere = (re.search(r"(\d+) of \d+ crops", page.text) for page in (one, everywhere))
    assert here is not None
    assert anywhere is not None
    assert int(here[1]) < int(anywhere[1])
    assert open_page(reader, f"/year/sow?bed={uuid4()}").status == 404
    assert open_page(reader, "/year/sow?bed=x").status in (404, 422)


def test_the_steps_of_a_planting_are_shown_and_set_by_hand(coordinator: TestClient) -> None:
    listed = open_page(coordinator, "/year?crop=tomato&verdict=with+care").response.text
    pages = (
        open_page(coordinator, href) for href in re.findall(r"<td><a href=\"(/garden/plantings/[0-9a-f-]+)", listed)
    )
    page = next(found for found in pages if "By hand" in found.text)
    path = page.response.url.path
    for words in (
        "sow indoors",
        "done 30 Mar",
        "pot up",
        "harden off",
        "Stakes and canes at eye height",
        "What fits there afterwards",
    ):
        assert words in page.text, words
    after = post(coordinator, f"{path}/steps", step="transplant", day="2027-05-25")
    assert "set by hand" in after.text
    assert "25 – 31 May" in after.text
    assert "by the rules again" in after.text
    again = post(coordinator, f"{path}/steps", step="transplant", day="")
    assert "set by hand" not in again.text
    days = coordinator.get(f"{path}/days?step=transplant").json()
    assert {"day", "verdict", "first", "last", "words"} == set(days[0])
    assert "years" in days[0]["words"]


def test_sowings_that_follow_are_shown_before_they_are_pencilled(coordinator: TestClient) -> None:
    made = post(
        coordinator,
        "/year/finder",
        crop="radish",
        method="direct",
        bed=str(bed_id("Trough")),
        sow="2027-08-26",
        squares="A1-B1",
    )
    assert made.status == 200
    page = open_page(coordinator, "/year?day=2027-09-01&crop=radish")
    href = next(h for h in re.findall(r"href=\"(/garden/plantings/[0-9a-f-]+)", page.response.text))
    shown = open_page(coordinator, f"{href}?rhythm=every&every=14")
    assert "Pencil these in" in shown.text
    after = post(coordinator, f"{href}/series", rhythm="every", every="14")
    assert "One of " in after.text
    assert open_page(coordinator, f"{href}?rhythm=every&every=1").status == 422


def test_the_year_zooms_filters_and_names_what_is_in_a_break(reader: TestClient) -> None:
    whole, term = open_page(reader, "/year"), open_page(reader, "/year?term=3")
    assert "School year 2026–27, spring term" in term.text
    assert "week 1" in whole.text
    assert "In a break, or lost" in whole.text
    only = open_page(reader, "/year?crop=garlic")
    assert "1 planting" in only.text
    group = load.demo_id("Brindlecombe School", "group", "Elders")
    mine = open_page(reader, f"/year?group={group}")
    assert "Bed 7" in mine.text
    assert "Bed 6" not in mine.text
    misses = open_page(reader, "/year?verdict=misses")
    assert "Leaf lettuce, in the ground" not in misses.text
    assert "free from 8 Jun for pumpkins" in whole.text
    assert "closed: Rebuild in larch" in whole.text


def test_those_who_plan_are_offered_handles(coordinator: TestClient) -> None:
    handles = words_of(open_page(coordinator, "/year"), "circle", class_="drag")
    assert {handle["data-step"] for handle in handles} == {"start", "transplant"}


def test_those_who_look_are_offered_none(viewer: TestClient) -> None:
    assert not words_of(open_page(viewer, "/year"), "circle", class_="drag")
    assert "Pencil in" not in open_page(viewer, "/year/finder").response.text


def test_the_moon_is_off_at_first_and_a_line_when_it_is_wanted(coordinator: TestClient) -> None:
    assert not words_of(open_page(coordinator, "/year"), "g", class_="year-moon")
    post(coordinator, "/garden/practice", moon="yes", ready_by="warmth")
    moons = [a["aria-label"] for a in words_of(open_page(coordinator, "/year"), "g", class_="year-moon")]
    assert moons.count("full moon") in (12, 13)
    assert moons.count("new moon") in (12, 13)


def test_months_are_those_of_the_hemisphere(client: TestClient) -> None:
    enter(client, "educator")
    north = open_page(client, "/year/crops/raspberry").text
    post(client, "/schools", school=open_page(client, "/schools").form("/schools").fields["school"])
    south = open_page(client, "/year/crops/raspberry").text
    months = [re.search(r"Cut back ((?:\w+, )*\w+)", page) for page in (north, south)]
    assert all(months)
    assert months[0][1] != months[1][1]  # type: ignore[index]


def test_the_school_says_whether_the_local_chart_leads(coordinator: TestClient) -> None:
    finder = "/year/finder?crop=radish&sow=2027-06-15"
    office = words_of(open_page(coordinator, finder), "rect", class_="finder-office")
    assert office, "the months of the chart are drawn"
    assert not words_of(open_page(coordinator, "/year/finder?crop=okra"), "rect", class_="finder-office")
    assert "The local chart does not have it in June." in open_page(coordinator, finder).text
    refused = post(coordinator, "/garden/practice", leads="the moon")
    assert refused.status == 422
    post(coordinator, "/garden/practice", leads="chart")
    assert "The local chart, which you follow, does not have it in June." in open_page(coordinator, finder).text
    shed = open_page(coordinator, "/garden/shed").response.text
    assert re.search(r'value="chart"\s+selected', shed)


def test_the_finder_tells_in_how_many_years_the_chart_begins_too_early(coordinator: TestClient) -> None:
    early = open_page(coordinator, "/year/finder?crop=pumpkin&starts=2027-03-01").text
    assert (
        "The local chart has it from 1 May; started on that day, in 4 of 37 years on file the ground was still" in early
    )
    assert "The local chart has it from" not in open_page(coordinator, "/year/finder?crop=okra").text


def test_a_crops_sheet_tells_its_planting_season_and_what_other_sources_say(reader: TestClient) -> None:
    tomato = open_page(reader, "/year/crops/tomato").text
    assert "Else 24 in high by FAO-56 (Allen et al. 1998), table 12" in tomato
    assert "best from 82 °F by AquaCrop" in tomato
    # Each source with what it has of its own: one agrees on the least warmth and not on the best, the other on neither.
    assert "; else above 50 °F; best from 86 °F by STICS" in tomato
    assert "Else" not in open_page(reader, "/year/crops/kale").text
    assert "Nights below 55 °F or above 75 °F, days above 90 °F: tap the flowers at noon." in tomato
    assert "Other tomatoes, seldom, 30 ft apart for pure seed" in tomato
    # Weeks of the next year say so.
    assert re.search(r"started indoors : 12 – 18 Apr, \d+ – \d+ Mar 2028, ", tomato)
    garlic = open_page(reader, "/year/crops/garlic").text
    assert "When usual days fall below 55 °F; 3 weeks to root before winter" in garlic
    assert "While it rests; 5 weeks to root before the ground freezes" in open_page(reader, "/year/crops/apple").text
    assert "Introduced; native to South America" in tomato
    assert "Native to North America" in open_page(reader, "/year/crops/sunflower").text
    assert "In days of 11 hours" in open_page(reader, "/year/crops/short-day-onion").text


def test_a_bed_is_promised_and_what_stands_in_the_way_is_named(coordinator: TestClient) -> None:
    page = open_page(coordinator, "/year/summer")
    assert "Bed 4 for pumpkins" in page.text
    assert re.search(r"Last day to clear it: Sun 6 Jun ?, when nobody is at school", page.text)
    promise = str(uuid4())
    after = post(coordinator, "/year/summer", id=promise, bed=str(BED_7), from_day="2027-06-01", what_for="melons")
    assert "Bed 7 for melons" in after.text
    assert re.search(r"Spinach ?, there until", after.text)
    assert "May stand there before" in after.text
    twice = post(coordinator, "/year/summer", id=str(uuid4()), bed=str(BED_7), from_day="2027-06-01", what_for="beans")
    assert twice.status in (409, 422)
    assert "already promised from that day" in twice.text
    gone = post(coordinator, "/year/summer", id=promise, action="delete")
    assert "Bed 7 for melons" not in gone.text
    assert (
        post(coordinator, "/year/summer", id=promise, bed=str(BED_7), from_day="2027-04-01", what_for="x").status == 422
    )


def test_a_theme_finds_the_sowing_day_for_its_day(coordinator: TestClient) -> None:
    theme = str(uuid4())
    page = post(coordinator, "/year/themes", id=theme, name="Soup", ready_on="2027-11-17")
    assert "Not there yet: carrot, potato, onion, celery, kale." in page.text
    after = post(coordinator, f"/year/themes/{theme}/parts", crop="kale", bed=str(bed_id("Bed 2")))
    assert "1 ready on the day in the middle year" in after.text
    assert re.search(r"ready 3\d of 3\d years", after.text)
    late = post(coordinator, f"/year/themes/{SALAD}/parts", crop="asparagus", bed=str(BED_6))
    assert late.status == 422
    assert "cannot be ready by 11 Jun" in late.text
    assert "Every class brings" in open_page(coordinator, f"/year/themes/{SALAD}").response.text


def test_the_bloom_calendar_names_gaps_hosts_and_what_would_fill_them(reader: TestClient) -> None:
    page = open_page(reader, "/year/bloom")
    assert "Milkweed flowers 1 Jun – 31 Aug" in page.response.text
    assert "nothing with nectar flowers from" in page.text
    assert "Milkweed: monarchs" in page.text
    assert "all beds" in open_page(reader, "/year/bloom?beds=all").text


def test_without_a_weather_record_everything_still_answers_and_says_that_it_is_rougher(
    coordinator: TestClient, demo: Addresses
) -> None:
    with psycopg.connect(demo.owner) as owner:
        owner.execute("UPDATE school SET weather_source = '' WHERE name = 'Brindlecombe School'")
    page = open_page(coordinator, "/year/finder?crop=radish")
    assert "no weather on file, so rougher" in page.text
    assert "There is no weather record for this place" in page.text
    for path in (
        "/year",
        "/year/sow",
        "/year/bloom",
        "/year/summer",
        f"/garden/beds/{BED_4}/fits",
        "/year/crops/tomato",
        f"/year/themes/{SALAD}",
    ):
        assert open_page(coordinator, path).status == 200, path
    assert (
        "The local chart does not have it in May."
        in open_page(coordinator, "/year/finder/day?crop=spinach&sow=2027-05-03").text
    )
    made = post(coordinator, "/year/finder", crop="radish", method="direct", bed=str(BED_4), sow="2027-04-26")
    assert made.status == 200


def test_every_crop_has_a_sheet_with_sources_and_cautions(reader: TestClient) -> None:
    page = open_page(reader, "/year/crops/winter-wheat")
    for words in (
        "Trigo de invierno",
        "Wheat allergy",
        "When to start it here",
        "FAO-56, table 12",
        "Where no source is named: from memory",
        "20 days at or below 50 °F",
        "Height over time",
    ):
        assert words in page.text, words
    assert "Harrington & Minges 1954" in open_page(reader, "/year/crops/radish").text
    assert "Milky sap is poisonous" in open_page(reader, "/year/crops/milkweed").text
    assert open_page(reader, "/year/crops/moonflower").status == 422
    found = open_page(reader, "/year/crops?find=haba")
    assert "Broad bean" in found.text
    assert "Radish" not in found.text


def test_own_figures_are_kept_said_and_taken_back(coordinator: TestClient) -> None:
    after = post(coordinator, "/year/crops/radish", action="own", days="40 to 45", note="Cold beds")
    assert "Set by the school: days to the first picking. Cold beds" in after.text
    assert "Your own figure." in after.text
    assert "by your own figures" in open_page(coordinator, "/year/finder?crop=radish").text
    back = post(coordinator, "/year/crops/radish", action="forget")
    assert "The catalogue speaks." in back.text
    variety = post(coordinator, "/year/crops/radish", action="variety", name="Long white", days="40 to 45")
    assert "Long white" in variety.text
    assert "Begins from radish" in variety.text
    assert "Long white" in open_page(coordinator, f"/garden/beds/{BED_4}").text


def test_every_value_of_a_crop_can_be_changed_and_a_crop_of_ones_own_begun(coordinator: TestClient) -> None:
    form = open_page(coordinator, "/year/crops/radish/figures")
    names = {a["name"] for t, a in form.tags if t in ("input", "select", "textarea") and "name" in a}
    assert {"botanical", "ready_sign", "windows", "parts", "germination_c", "allergy"} <= names
    unchanged = {
        a["name"]: a.get("value", "") for a in words_of(form, "input", class_="form-control") if a["name"] != "note"
    }
    after = post(coordinator, "/year/crops/radish", action="own", **unchanged)
    assert "Set by the school" not in after.text
    begin = open_page(coordinator, "/year/crops/new")
    assert "Most like" in begin.text
    named = open_page(coordinator, "/year/crops/new?name=Oca&like=potato")
    assert "Keep Oca as a crop of our own" in named.text
    oca = post(
        coordinator,
        "/year/crops/potato",
        action="variety",
        name="Oca",
        es="Oca",
        botanical="Oxalis tuberosa",
        family="Oxalidaceae",
        ready_sign="frost has cut the tops",
        code="Oc",
    )
    assert oca.response.url.path == "/year/crops/oca"
    for words in ("Oxalis tuberosa", "Frost has cut the tops", "Your own figure."):
        assert words in oca.text, words
    again = post(coordinator, "/year/crops/oca", action="own", days="150 to 180")
    assert "Oxalis tuberosa" in again.text
    assert "150 to 180" in again.text
    white = post(coordinator, "/year/crops/oca", action="variety", name="White oca")
    assert "150 to 180" in white.text
    for field, text, says in (
        ("season", "wet", "Choose from: cool, warm"),
        ("germination_c", "5", "Give three"),
        ("bears_c", "90 °C", "coldest night it bears"),
    ):
        refused = post(coordinator, "/year/crops/oca", action="own", **{field: text})
        assert (refused.status, says in refused.text) == (422, True), refused.text
    assert open_page(coordinator, "/year/crops/nothing/figures").status == 422


def test_who_only_looks_may_not_change_a_crop(viewer: TestClient) -> None:
    for path in ("/year/crops/new", "/year/crops/radish/figures"):
        assert open_page(viewer, path).status == 403, path
    assert "Change figures" not in open_page(viewer, "/year/crops/radish").text


def test_what_comes_again_holds_its_squares_for_years_until_it_is_taken_out(coordinator: TestClient) -> None:
    bed = f"/garden/beds/{bed_id('Bed 8')}"
    for day in ("2027-04-14", "2027-06-10", "2029-06-10"):
        page = open_page(coordinator, f"{bed}?day={day}")
        assert "A1: strawberry, in the ground" in [
            a.get("aria-label") for t, a in page.tags if a.get("role") == "gridcell"
        ], day
    radish = {"squares": "A1", "crop": "radish", "method": "direct", "start_on": "2027-06-01"}
    post(coordinator, bed, command="pencil", **radish)
    taken = open_page(coordinator, f"{bed}?day=2027-06-02")
    assert "It is there for years." in taken.text
    assert "Choose other squares" in taken.text
    listed = open_page(coordinator, "/year?crop=strawberry").response.text
    found = re.search(r"<td><a href=\"(/garden/plantings/[0-9a-f-]+)", listed)
    assert found is not None
    planting = open_page(coordinator, found[1])
    assert "It stays and comes again each year." in planting.text
    assert re.search(r"By this season's weather until 13 Apr: \d+% of the warmth to its first picking", planting.text)
    out = post(coordinator, f"{found[1]}/steps", step="clear", day="2027-07-01")
    assert "Take the strawberry out, roots and all" in out.text
    assert "until it is taken out" in out.text
    later = open_page(coordinator, f"{bed}?day=2027-07-15")
    assert "A1: strawberry, in the ground" not in [
        a.get("aria-label") for t, a in later.tags if a.get("role") == "gridcell"
    ]
