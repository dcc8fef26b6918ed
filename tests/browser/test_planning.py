"""Planning a season: from the ballot's wishes to three plans, why not, one forbidden and planned again, to a draft and to ink."""

import re
from typing import Any
from uuid import UUID

import psycopg
from playwright.sync_api import Browser, Locator, Page, expect

from almanaque.clock import Clock
from almanaque.demo import DEMO_DAY
from almanaque.demo.season_to_plan import PLAN as SEASON
from almanaque.host.postgres import Addresses
from almanaque.store.db import Database
from almanaque.store.planner import season_plans
from almanaque.worker import planning
from tests.browser.conftest import PHONE
from tests.database import NORTH, bed_id


def work(demo: Addresses, plan: UUID) -> None:
    """Do what the worker does with the three plans that were asked for."""
    database = Database(demo.app, max_size=1)
    database.open()
    try:
        with database.school(NORTH) as connection:
            rows = season_plans.proposals(connection, plan)
        for row in rows:
            planning.make(database, Clock(DEMO_DAY), NORTH, plan, row.which, row.asked)
    finally:
        database.close()


def plan_in(page: Page) -> UUID:
    return UUID(page.url.split("/plans/")[1].split("?")[0].split("/")[0])


def test_from_ballots_to_three_plans_to_a_draft_to_ink(working: Any, demo: Addresses) -> None:
    page = working.go("/year/plans")
    page.get_by_text("Other days, a name of its own").click()
    page.get_by_label("Name").fill("Back to school")
    page.get_by_label("From").fill("2027-08-25")
    page.get_by_label("Until").fill("2027-11-30")
    page.get_by_role("button", name="Begin").click()
    page.get_by_role("button", name="What we sow after the summer").click()
    expect(page.locator(".wish-list li")).to_have_count(9)
    # Typed wishes: one that nothing can grant, one that has to be.
    page.get_by_role("combobox", name="Crop", exact=True).fill("pumpk")
    page.keyboard.press("Enter")
    page.get_by_label("Ready by").fill("2027-10-20")
    page.get_by_role("button", name="Add it").click()
    expect(page.locator(".wish-list li")).to_have_count(10)
    assert working.axe() == []
    page.get_by_role("button", name="Plan it").click()
    expect(page.get_by_text("A first plan; better ones are looked for.")).to_be_visible()
    plan = plan_in(page)
    work(demo, plan)
    expect(page.locator(".proposal-card").get_by_text("The best there is.")).to_have_count(3)
    assert working.axe() == []
    # One plan on the map; why not for what is left out.
    page.get_by_role("link", name="The surest", exact=True).click()
    left = page.locator(".left-list > li").filter(has_text="Pumpkin")
    expect(left).to_contain_text("No day in this time suits pumpkin.")
    assert working.axe() == []
    # Forbid one: it is planned again, and not so again.
    radish = page.locator(".placed-list > li").filter(has_text="Radish")
    expect(radish).to_have_count(1)
    radish.get_by_role("button", name="Rub out").click()
    expect(page.get_by_text("It is taken out of the plan.")).to_be_visible()
    work(demo, plan)
    expect(page.get_by_text("It is being worked at")).to_have_count(0)
    expect(page.locator(".placed-list > li").filter(has_text="Radish")).to_have_count(0)
    expect(page.locator(".left-list > li").filter(has_text="Radish")).to_contain_text("You took it out of the plan.")
    page.locator(".left-list > li").filter(has_text="Radish").get_by_role("button", name="Ask for it again").click()
    expect(page.get_by_text("What was decided of it is taken back.")).to_be_visible()
    work(demo, plan)
    expect(page.locator(".placed-list > li").filter(has_text="Radish")).to_have_count(1)
    page.get_by_role("group", name="Day of the map").get_by_role("link", name="Sep").click()
    # By the hand: taken off the map and dropped on another bed; by keys the map shows what the list says.
    piece = page.get_by_role("button", name=re.compile("^Radish in"))
    piece.focus()
    page.keyboard.press("Enter")
    expect(page.locator(".placed-list > li.is-shown")).to_contain_text("Radish")
    expect(page.locator(".placed-list > li.is-shown")).to_be_focused()
    target = page.locator('[data-name="Bed 2"] .bed-body')
    page.get_by_role("heading", level=1).scroll_into_view_if_needed()
    grabbed, onto = piece.locator("rect").first.bounding_box(), target.bounding_box()
    page.mouse.move(grabbed["x"] + grabbed["width"] / 2, grabbed["y"] + grabbed["height"] / 2)
    page.mouse.down()
    page.mouse.move(onto["x"] + 30, onto["y"] + 12, steps=5)
    expect(page.locator("#moving-words")).to_have_text("Into Bed 2.")
    page.mouse.up()
    expect(page.get_by_text("The plan is made again around it.")).to_be_visible()
    work(demo, plan)
    expect(page.get_by_text("It is being worked at")).to_have_count(0)
    moved = page.locator(".placed-list > li").filter(has_text="Radish")
    expect(moved).to_contain_text("put there")
    assert moved.locator("xpath=ancestor::ul/preceding-sibling::h3[1]").inner_text() == "Bed 2"
    assert working.axe() == []
    # Into a draft, and from there to ink.
    bed = page.locator(".placed-list:has(b:text-is('Radish'))").locator("xpath=preceding-sibling::h3[1]").inner_text()
    page.get_by_role("button", name="Pencil it into a draft").click()
    expect(page.get_by_text("pencilled. Choose from them here")).to_be_visible()
    expect(page.locator(".draft-list li").filter(has_text="Back to school: surest")).to_have_count(1)
    page.locator(".bed-steps a").filter(has_text=bed).click()
    mine = page.get_by_role("region", name="Back to school: surest")
    mine.get_by_role("checkbox", name="Radish").check()
    page.get_by_role("button", name="Plan what is ticked in ink").click()
    page.wait_for_url("**/garden/beds/*")
    with psycopg.connect(demo.owner) as connection:
        inked = connection.execute(
            """SELECT p.status FROM season_planting s JOIN planting p ON p.school_id = s.school_id AND p.id = s.planting_id
               WHERE s.plan_id = %s AND p.crop = 'radish'""",
            [plan],
        ).fetchall()
    assert inked == [("planned",)]
    # What is in ink is not planned again.
    working.go(f"/year/plans/{plan}")
    page.get_by_role("button", name="Plan it again").click()
    expect(page.get_by_text("A first plan; better ones are looked for.")).to_be_visible()
    work(demo, plan)
    page.get_by_role("link", name="The surest", exact=True).click()
    expect(page.locator(".placed-list > li").filter(has_text="Kale").first).to_be_visible()
    expect(page.locator(".placed-list > li").filter(has_text="Radish")).to_have_count(0)


def test_a_finger_held_on_a_crop_takes_it_along(browser: Browser, site: str, working: Any, demo: Addresses) -> None:
    context = browser.new_context(
        viewport=PHONE, has_touch=True, is_mobile=True, storage_state=working.context.storage_state()
    )
    page = context.new_page()
    page.goto(f"{site}/year/plans/{SEASON}/surest")
    piece = page.locator(".proposed").first
    piece.scroll_into_view_if_needed()
    taken = piece.get_attribute("data-wish")
    touch = context.new_cdp_session(page)

    def finger(kind: str, *points: tuple[float, float]) -> None:
        touch.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": [{"x": x, "y": y} for x, y in points]})

    def middle(of: Locator) -> tuple[float, float]:
        box = of.bounding_box()
        assert box is not None
        return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    x, y = middle(piece.locator("rect").first)
    onto = middle(page.locator('[data-name="Bed 4"] .bed-body'))
    finger("touchStart", (x, y))
    expect(page.locator(".is-lifted")).to_have_count(1)
    finger("touchMove", ((x + onto[0]) / 2, (y + onto[1]) / 2))
    finger("touchMove", onto)
    expect(page.locator("#moving-words")).to_have_text("Into Bed 4.")
    finger("touchEnd")
    expect(page.get_by_text("The plan is made again around it.")).to_be_visible()
    with psycopg.connect(demo.owner) as connection:
        rows = connection.execute(
            "SELECT what, way FROM season_decision WHERE plan_id = %s AND wish = %s", [SEASON, taken]
        ).fetchall()
    assert rows == [("there", str(bed_id("Bed 4")))]
    context.close()
