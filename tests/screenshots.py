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
SHOTS = (
    ("week", "/week", DESK),
    ("beginning", "/beginning?step=garden", DESK),
    ("garden", "/garden?show=looks&day=2027-06-08", DESK),
    ("map-drawing", f"/garden/map?thing={bed_id('Bed 3')}", DESK),
    ("planting-day", f"/garden/beds/{bed_id('Bed 7')}/planting-day", DESK),
    ("bed-sheet", f"{BED_3}?crop=bush-bean", DESK),
    ("year", "/year", DESK),
    ("plans", f"/year/plans/{SEASON}", DESK),
    ("plan", f"/year/plans/{SEASON}/surest", DESK),
    ("finder", "/year/finder?crop=kale&method=starts&by=2027-11-17", DESK),
    ("journal", "/journal", DESK),
    ("harvest", "/harvest", DESK),
    ("book", "/harvest/book", DESK),
    ("seeds", "/seeds/box", DESK),
    ("school", "/school", DESK),
    ("crop", "/year/crops/carrot", DESK),
    ("seedlings", f"/garden/beds/{bed_id('Bed 2')}/seedlings", DESK),
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


if __name__ == "__main__":
    sys.exit(main())
