"""What to do about a finding leads to where it is done."""

import tomllib
from datetime import date
from importlib.resources import files
from urllib.parse import urlsplit

from fastapi.testclient import TestClient

from almanaque.core.findings import AS_WRITTEN, Fix
from almanaque.core.words import places
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Planting
from almanaque.web import fix_links
from tests.database import NORTH
from tests.web.pages import open_page, post

# Done with hands, with eyes, by talking to somebody, or on the page on which it is read.
BY_HAND = frozenset(
    [
        "ask_before_planting",
        "ask_the_neighbours",
        "buy_some",
        "carry_pollen",
        "carry_pollen_to_female",
        "cover_before_evening",
        "feed_with_compost",
        "feed_with_fertiliser",
        "fill_the_gaps",
        "for_product_allergy",
        "for_product_dry",
        "for_product_kitchen",
        "for_product_licence",
        "for_product_oil",
        "for_product_recipe",
        "for_the_curious",
        "garden_early",
        "in_a_pot",
        "keep_off_the_beds",
        "keep_seedbed_moist",
        "keep_the_path_clear",
        "later_day_or_quicker",
        "laboratory_first",
        "leave_a_square_between",
        "let_one_flower",
        "look_at_hardening_off",
        "look_at_its_battery",
        "look_at_the_rows",
        "look_at_the_station",
        "look_for_black_leaves",
        "look_for_them",
        "middle_or_back",
        "mix_with_others",
        "pick_and_shade",
        "seed_of_last_to_bolt",
        "tall_one_to_the_side",
        "tell",
        "thin_in_time",
        "thin_to_distance",
        "water_at_the_root",
        "prepare_before",
        "half_the_class",
        "fewer_squares",
        "split_over_lessons",
        "or_together_on_purpose",
        "rub_one_out",
        "move_or_clear",
        "or_move_the_work",
        "deeper_bed",
        "make_a_backup",
        "make_the_pdf_again",
        "start_the_server_anew",
    ]
)
# A button or a page by what the rule found: tried where they are given.
BY_VALUE = frozenset(
    [
        "deep_enough",
        "offer_mail_again",
        "over_winter_on",
        "plan_the_rebuild",
        "plan_the_season_again",
        "recompute_now",
        "rested",
        "same_day_covered",
        "see_forecast_and_fact",
        "see_what_stands_there",
        "start_on",
        "way_on",
        "what_may_stand_before",
    ]
)


def fix_codes() -> set[str]:
    words = tomllib.loads((files("almanaque.core") / "words/en/findings.toml").read_text(encoding="utf-8"))
    return set(words["fix"]) - {AS_WRITTEN}


def fix(code: str) -> Fix:
    """A fix with something in each place of its words."""
    filled: dict[str, object] = {"day": date(2027, 5, 1), "tender": ["basil"], "days": 60, "lessons": 2}
    return Fix(code, params={name: filled.get(name, "some") for name in places(f"findings.fix.{code}")})


def a_planting(client: TestClient) -> Planting:
    with client.app.state.database.school(NORTH) as connection:  # type: ignore[attr-defined]
        return next(p for p in garden.plantings(connection) if p.status == "planned")


def test_every_fix_leads_somewhere_or_is_done_by_hand(coordinator: TestClient) -> None:
    planting = a_planting(coordinator)
    codes = fix_codes()
    led = {code for code in codes if fix_links.link(fix(code), planting).href}
    assert codes == led | BY_HAND | BY_VALUE
    assert not led & BY_HAND
    assert not led & BY_VALUE


def test_every_page_to_which_a_fix_leads_is_there(coordinator: TestClient) -> None:
    planting = a_planting(coordinator)
    wanted = {fix_links.link(fix(code), planting).href for code in fix_codes()} | set(fix_links.PAGES.values())
    for path in sorted(wanted - {""}):
        page = open_page(coordinator, path)
        assert page.status == 200, path
        fragment = urlsplit(path).fragment
        assert not fragment or f'id="{fragment}"' in page.html


def test_another_class_grows_it(coordinator: TestClient) -> None:
    planting = a_planting(coordinator)
    path = f"/garden/plantings/{planting.id}"
    page = open_page(coordinator, path)
    groups = [a["value"] for tag, a in page.tags if tag == "option" and len(a.get("value", "")) == 36]
    other = next(group for group in groups if group != str(planting.class_group_id))
    post(coordinator, f"{path}/group", group=other)
    assert str(a_planting(coordinator).class_group_id) == other
    post(coordinator, f"{path}/group", group="")
    assert a_planting(coordinator).class_group_id is None
    refused = post(coordinator, f"{path}/group", group="00000000-0000-0000-0000-000000000009")
    assert (refused.status, "no such group" in refused.text) == (422, True)
