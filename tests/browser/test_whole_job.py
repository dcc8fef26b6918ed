"""The whole job once, in the real browser: calendar, bed, count, verdict, job, picking, yield."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import Visit, middle_of
from tests.database import bed_id


def drag(page: Page, first: str, last: str) -> None:
    (x1, y1), (x2, y2) = (middle_of(page, f"[data-cell={name}]") for name in (first, last))
    page.mouse.move(x1, y1)
    page.mouse.down()
    page.mouse.move((x1 + x2) / 2, (y1 + y2) / 2, steps=4)
    page.mouse.move(x2, y2, steps=4)
    page.mouse.up()


def move_day(page: Page, day: str, shown: str) -> None:
    page.locator(".demo-day summary").click()
    page.get_by_label("Let the demo stand on").fill(day)
    page.get_by_role("button", name="Move the day").click()
    expect(page.get_by_text(f"Demo day {shown}")).to_be_visible()


def test_one_person_does_the_whole_job(working: Visit) -> None:
    # The school year with its terms and breaks.
    page = working.go("/school")
    expect(page.get_by_role("heading", name="School year 2026–27")).to_be_visible()
    expect(page.locator(".ribbon-sentence")).to_have_text("Spring term · Wed 14 Apr · 45 school days left")

    # A bed; the crop's count, dates and verdict before anything is painted.
    page.get_by_role("link", name="Garden").click()
    page.get_by_role("link", name=re.compile("Bed 4, Summer")).first.click()
    expect(page.get_by_role("heading", name="Bed 4 · Summer")).to_be_visible()
    page.locator("select[name=crop]").select_option("radish")
    expect(page.locator("#preview")).to_contain_text("4 along, 16 in the square")
    expect(page.locator("#preview")).to_contain_text(re.compile(r"first picking \d+ – \d+ May"))
    expect(page.locator("#preview .verdict")).to_have_text("Radish fits the school year")

    # Paint squares in pencil by dragging: plants at their true places.
    before = page.locator(".planting circle.plant, .planting .sown-place, .planting image").count()
    drag(page, "A4", "C4")
    expect(page.locator("#said")).to_have_text("Radish pencilled in: 48 plants in 3 squares; fits the school year.")
    assert page.locator(".planting circle.plant, .planting .sown-place, .planting image").count() - before == 48
    page.get_by_text("inks").click()
    page.locator("#crop").select_option("radish")
    drag(page, "A4", "C4")
    expect(page.locator("#said")).to_have_text("Radish planned in ink: 48 plants in 3 squares; fits the school year.")

    # The jobs that follow are in the week, in a lesson that has time; the sowing is ticked off.
    working.go("/week?day=2027-04-20")
    sow = page.locator(".job", has_text="Sow radish: 48 plants, 1/2 in deep")
    expect(sow).to_be_visible()
    sow.get_by_role("button").click()
    expect(page.locator(".job.is-done", has_text="Sow radish: 48 plants")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("Done: Sow radish"))).to_be_focused()

    # Five weeks later the radishes are picked.
    move_day(page, "2027-05-20", "20 May")
    expect(page.locator(".week-ready")).to_contain_text("Radish, Bed 4")
    page.get_by_role("link", name="Log a picking").click()
    page.locator("#pick-planting").select_option(label="Radish, Bed 4, since 14 Apr, ready")
    units = page.locator("#pick-units option").evaluate_all("options => options.slice(0, 6).map(one => one.value)")
    assert units == ["lb", "oz", "kg", "g", "count", "bunch"]
    page.locator("#pick-amount").fill("4 1/2")
    page.locator("#pick-use").select_option("eaten in class")
    page.get_by_role("button", name="Keep the picking").click()

    # What it gave per square foot: 4.5 lb from three squares of a foot.
    kept = page.locator(".message.is-good")
    expect(kept).to_contain_text("Kept: 4.5 lb of radish. This planting has given 4.5 lb, 1.50 lb per sq ft.")
    page.get_by_role("link", name="The book", exact=True).click()
    row = page.locator("table tr", has_text="Bed 4").filter(has_text="2026–27")
    expect(row).to_contain_text("lb per sq ft")
    expect(page.locator(".chart svg")).to_be_visible()


def test_a_form_works_without_script(browser, site: str) -> None:
    context = browser.new_context(java_script_enabled=False, viewport={"width": 1280, "height": 800})
    page = context.new_page()
    page.goto(site + "/login")
    page.fill("#login", "educator")
    page.fill("#password", "soup-day-2026")
    page.click("button:has-text('Log in')")
    page.goto(f"{site}/garden/beds/{bed_id('Bed 7')}")
    page.fill("#squares", "A3-B3")
    page.select_option("#crop", "radish")
    page.click("button:has-text('Pencil in')")
    expect(page.locator(".standing")).to_contain_text("32 plants · 2 squares")
    page.goto(site + "/week?day=2027-04-14")
    tick = page.get_by_role("button", name=re.compile("^Tick off")).first
    name = tick.get_attribute("aria-label").removeprefix("Tick off: ")
    tick.click()
    expect(page.get_by_role("button", name=f"Done: {name}")).to_be_visible()
    context.close()
