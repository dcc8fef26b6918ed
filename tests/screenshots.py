"""Take the pictures of docs/screenshots from a fresh demo: `./almanaque screenshots`."""

import sys
import time
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from almanaque.demo import load
from almanaque.demo.season_to_plan import PLAN as SEASON
from tests.browser.conftest import CHROMIUM, DESK, FLAGS, PATIENCE_MS, PHONE, serve
from tests.database import DEMO, bed_id, enter_cluster, fresh_copy, leave_cluster

FOLDER = Path(__file__).parents[1] / "docs/screenshots"
BED_3 = f"/garden/beds/{bed_id('Bed 3')}"
OPEN = "/journal/open"  # a link is made there and followed
DRAW, BOARD = "/class/draw", "/class/board"  # a class page is opened, and teams work on it
GALLERY = f"/journal/classes/{load.demo_id('Brindlecombe School', 'class page', '2027-04-07')}"
PLAN = (("radish", 0, 2), ("carrot", 3, 5), ("viola", 6, 7), ("pea", 8, 11), ("mesclun", 16, 19), ("calendula", 22, 23))
COUNTED = (("The Wrens", "6", "10"), ("The Newts", "4", "5"), ("The Badgers", "6", "10"), ("The Swifts", "5", "5"))
SHOTS = (
    ("week", "/week", DESK),
    ("beginning", "/beginning?step=garden", DESK),
    ("garden", "/garden?show=looks&day=2027-06-08", DESK),
    ("map-drawing", f"/garden/map?thing={bed_id('Bed 3')}", DESK),
    ("planting-day", f"/garden/beds/{bed_id('Bed 7')}/planting-day", DESK),
    ("bed-sheet", f"{BED_3}?crop=bush-bean", DESK),
    ("year", "/year", DESK),
    ("plan", f"/year/plans/{SEASON}/surest", DESK),
    ("finder", "/year/finder?crop=kale&method=starts&by=2027-11-17", DESK),
    ("journal", "/journal", DESK),
    ("harvest", "/harvest", DESK),
    ("seeds", "/seeds/box", DESK),
    ("school", "/school", DESK),
    ("class-drawing", DRAW, DESK),
    ("class-board", BOARD, DESK),
    ("class-gallery", f"{GALLERY}#plans-title", DESK),
    ("pupil-page", f"/week/lessons/measuring-growth/pupil?bed={bed_id('Bed 2')}", DESK),
    ("phone-tour", "/field/#tour", PHONE),
    ("phone-open-garden", OPEN, PHONE),
)


def main() -> int:
    cluster = enter_cluster()
    FOLDER.mkdir(parents=True, exist_ok=True)
    for addresses in fresh_copy(cluster, DEMO):
        for base in serve(addresses):
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
                for name, path, viewport in SHOTS:
                    context = browser.new_context(viewport=viewport, locale="en-GB")
                    shoot(context.new_page(), base, path, FOLDER / f"{name}.png")
                    context.close()
                browser.close()
    leave_cluster()
    print(f"{len(SHOTS)} pictures in {FOLDER.name}/")
    return 0


def shoot(page: Page, base: str, path: str, file: Path) -> None:
    page.set_default_timeout(PATIENCE_MS)  # a busy machine is no fault
    page.goto(f"{base}/login")
    page.fill("#login", "coordinator" if path.startswith("/beginning") else "educator")
    page.fill("#password", load.PASSWORD)
    page.click("button:has-text('Log in')")
    if path in (DRAW, BOARD):
        at_work(page, base, path)
        page.screenshot(path=file)
        return
    page.goto(base + path)
    page.wait_for_load_state("networkidle")
    if path.endswith("#tour"):
        page.get_by_role("button", name="Start the tour").click()
        page.get_by_role("group", name="Leaf lettuce up?").get_by_role("button", name="Some").click()
    if path == OPEN:
        page.get_by_label("For", exact=True).select_option(label="Grade 2")
        page.get_by_role("button", name="Make the link").click()
        page.goto(page.locator("#made").input_value() + f"#bed-{bed_id('Bed 2')}")
        page.wait_for_load_state("networkidle")
    time.sleep(0.4)
    page.screenshot(path=file)


def at_work(page: Page, base: str, path: str) -> None:
    """Open a class page as an educator, come in by its words, and draw or count as teams do."""
    page.goto(f"{base}/journal/classes")
    page.locator("summary", has_text="For voting").click()
    page.check("input[name=does][value=count]")
    page.uncheck("input[name=counts][value=height]")
    page.select_option("#bed", str(bed_id("Bed 2")))
    page.fill("#teams", "\n".join(team for team, *_ in COUNTED))
    page.get_by_role("button", name="Open it").click()
    page.wait_for_url("**/journal/classes/*-*")
    words = " ".join(page.locator(".class-words span").all_inner_texts())
    page.goto(f"{base}/class")
    page.fill("#code", words)
    page.get_by_role("button", name="Come in").click()
    for team, visitors, minutes in COUNTED if path == BOARD else COUNTED[:1]:
        page.goto(f"{base}/class/team")
        page.get_by_role("button", name=team).click()
        page.wait_for_url("**/class/draw")
        if path == BOARD:
            page.goto(f"{base}/class/count")
            page.fill("#amount-1", visitors)
            page.fill("#of-1", minutes)
            page.get_by_role("button", name="Write it down").click()
            page.get_by_text("Visitors: ").first.wait_for()
    if path == DRAW:
        for crop, first, last in PLAN:
            if page.locator(f".class-pick[data-what='{crop}']").count():
                page.locator(f".class-pick[data-what='{crop}']").click()
                for square in range(first, last + 1):
                    page.locator(".class-square").nth(square).click()
        page.locator("#class-counts li").nth(2).wait_for()
        page.locator(".class-note").first.wait_for()
    else:
        page.goto(base + path)
    page.wait_for_load_state("networkidle")
    time.sleep(1.0)


if __name__ == "__main__":
    sys.exit(main())
