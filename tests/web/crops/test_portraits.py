"""Portraits on pages: files that anybody may fetch, the life of a crop, beds and map as they look, and weed or seedling."""

import re
from datetime import date, timedelta
from xml.etree import ElementTree

import pytest
from fastapi.testclient import TestClient

from almanaque.core.growth.growth_dates import GrowthDates, forecast
from almanaque.data import catalogue
from almanaque.data import portraits as plant_traits
from almanaque.formats.crops import portraits
from almanaque.web.garden import shown_as
from tests.database import bed_id
from tests.web.pages import Page, open_page


def pictures(page: Page) -> list[str]:
    """Addresses of the portraits on a page."""
    return re.findall(r'(?:src|href)="(/portraits/[^"]+)"', page.html)


def test_a_portrait_is_a_file_for_anybody_and_for_good(client: TestClient) -> None:
    href = portraits.address(catalogue()["radish"], "seedling")
    answer = client.get(href)
    assert (answer.status_code, answer.headers["content-type"]) == (200, "image/svg+xml")
    assert "immutable" in answer.headers["cache-control"]
    assert ElementTree.fromstring(answer.text).tag.endswith("svg")
    assert href.endswith(f"?v={portraits.version()}")


@pytest.mark.parametrize(
    "name",
    [
        "radish/seedling-side-9-0",
        "radish/nothing-side-1-0",
        "radish/grown-side-1-7",
        "nothing/grown-side-1-0",
        "weed-nothing/seedling-side-1-0-line",
        "../../etc/passwd",
        "radish/%00",
    ],
)
def test_what_is_no_portrait_is_not_there(client: TestClient, name: str) -> None:
    assert client.get(f"/portraits/{name}.svg").status_code == 404


def test_every_picture_on_these_pages_is_there(reader: TestClient) -> None:
    for path in (
        "/year/crops",
        "/year/crops/carrot",
        "/year/crops/apple",
        "/garden?show=looks",
        f"/garden/beds/{bed_id('Bed 2')}?show=looks",
        f"/garden/beds/{bed_id('Bed 2')}/seedlings",
        f"/garden/beds/{bed_id('Bed 2')}/seedlings?colour=yes",
    ):
        found = pictures(open_page(reader, path))
        assert found, path
        for href in set(found):
            assert reader.get(href).status_code == 200, href


def test_a_crops_sheet_shows_its_life_and_its_seed_in_true_size(reader: TestClient) -> None:
    page = open_page(reader, "/year/crops/pumpkin")
    assert "Its life, above and below the ground" in page.text
    assert "what is sown or set, 20 mm long" in page.text
    side = int(re.search(r'pumpkin/seed-side-2-0\.svg[^"]*" alt="" width="(\d+)"', page.html)[1])  # type: ignore[index]
    made = 20 * 96 / 25.4
    assert made <= side <= made * 1.2  # the paper has a margin


def test_a_bed_shows_plants_as_they_look_on_the_day(reader: TestClient) -> None:
    bed = bed_id("Bed 2")
    spring = open_page(reader, f"/garden/beds/{bed}?show=looks&day=2027-04-20")
    summer = open_page(reader, f"/garden/beds/{bed}?show=looks&day=2027-06-01")
    assert any("pea/seedling-top" in href for href in pictures(spring))
    assert not any("pea/seedling-top" in href for href in pictures(summer))
    assert len([href for href in pictures(summer) if "/pea/" in href]) == 64


@pytest.mark.parametrize("path", ["/garden", f"/garden/beds/{bed_id('Bed 2')}"])
def test_plants_are_shown_as_they_look_unless_codes_were_chosen_last(reader: TestClient, path: str) -> None:
    june = f"{path}?day=2027-06-01"
    assert pictures(open_page(reader, june))
    assert not pictures(open_page(reader, f"{june}&show=plants"))
    assert not pictures(open_page(reader, june)), "the choice is remembered"
    assert pictures(open_page(reader, f"{june}&show=looks"))
    assert pictures(open_page(reader, june))
    reader.cookies.set(shown_as.COOKIE, "nonsense")
    assert pictures(open_page(reader, june))


def test_what_is_sown_and_not_up_is_a_place_in_the_ground(reader: TestClient) -> None:
    page = open_page(reader, f"/garden/beds/{bed_id('Bed 4')}?day=2027-04-14")
    assert page.html.count('class="sown-place"') == 96


def test_a_look_grows_from_nothing_to_the_grown_plant() -> None:
    crop = catalogue()["lettuce"]
    dates = forecast(crop, "direct", date(2027, 4, 6))
    assert portraits.look_on(crop, date(2027, 4, 6), dates, 0.3) is None
    sides = []
    for day in (dates.emerge_to, dates.first_pick):
        look = portraits.look_on(crop, date.fromordinal((day or dates.first_pick).toordinal() + 2), dates, 0.3)
        assert look is not None
        sides.append(look.side_mm)
    assert sides[0] < sides[1] < crop.width_mm * 1.4
    full = portraits.look_on(crop, dates.first_pick, dates, 0.3)
    assert full is not None
    assert full.side_mm >= crop.width_mm


def stage_of(key: str, day: str, dates: GrowthDates | None, *, southern: bool = False) -> str:
    """The stage that is drawn of a crop on a day."""
    found = portraits.look_on(catalogue()[key], date.fromisoformat(day), dates, 0.3, southern=southern)
    return found.href.split("/")[3].split("-top")[0] if found else ""


def test_what_is_seen_is_what_a_gardener_would_see() -> None:
    calendula = forecast(catalogue()["calendula"], "direct", date(2027, 4, 10))
    assert (
        stage_of("calendula", calendula.first_pick.isoformat(), calendula) == "flower"
    )  # its flowers are what is picked
    apple = forecast(catalogue()["apple"], "starts", date(2024, 4, 1))
    picked = apple.first_pick
    assert stage_of("apple", picked.isoformat(), apple) == "ripe"
    assert stage_of("apple", f"{picked.year + 1}-01-15", apple) == "dead"  # bare in winter
    assert stage_of("apple", f"{picked.year + 1}-06-01", apple) == "grown"
    assert stage_of("apple", "2027-01-15", None, southern=True) == "grown"
    assert stage_of("apple", "2027-07-15", None, southern=True) == "dead"


def test_what_stands_beyond_its_time_is_drawn_as_gone_to_seed_or_dead() -> None:
    for key, stage in (("radish", "gone-to-seed"), ("bush-bean", "dead"), ("calendula", "gone-to-seed")):
        crop = catalogue()[key]
        dates = forecast(crop, "direct", date(2027, 4, 1))
        over = max(dates.last_pick, dates.stands_until or dates.last_pick) + timedelta(days=1)
        assert stage_of(key, over.isoformat(), dates) == stage
        assert stage_of(key, (over - timedelta(days=2)).isoformat(), dates) != stage


def test_a_crop_of_ones_own_is_drawn_by_what_it_was_based_on() -> None:
    own = catalogue()["tomato"].model_copy(update={"key": "our-tomato", "based_on": "tomato"})
    assert portraits.key_of(own) == "tomato"
    strange = own.model_copy(update={"based_on": "", "family": "Nowhereae"})
    assert portraits.key_of(strange) in plant_traits()


def test_weed_or_seedling_names_what_comes_up_and_ten_weeds(reader: TestClient) -> None:
    page = open_page(reader, f"/garden/beds/{bed_id('Bed 2')}/seedlings")
    assert "Pea 64 plants" in page.text
    assert "No seed leaves show" in page.text
    assert page.html.count('alt="Seedling of ') == 12
    assert "taken for pea" in page.text
    assert "somebody who knows it" in page.text
    weeds = [href for href in pictures(page) if "weed-" in href]
    assert len(weeds) == 10
    assert all("-line" in href for href in weeds)
    assert all(
        "-line" in href for href in pictures(open_page(reader, f"/garden/beds/{bed_id('Bed 2')}/seedlings?colour=yes"))
    )
    empty = open_page(reader, f"/garden/beds/{bed_id('Bed 8')}/seedlings")
    assert "Nothing that was sown here is to come up around this day." in empty.text
