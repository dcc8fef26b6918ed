"""Measured in the browser: strokes on a large bed and first paints, also on a processor four times slower. Run by `./almanaque bench`.

The baseline is a page with one square on which a press draws another, pressed in the same way in the same run.
"""

import statistics
from collections.abc import Callable

from playwright.sync_api import Browser, Page, sync_playwright

from almanaque.host.postgres import Addresses
from tests.bench_fit import row
from tests.browser.conftest import CHROMIUM, DESK, FLAGS, enter, serve, settle
from tests.browser.large_bed import draw_large_bed, paint
from tests.database import bed_id

STROKES, EVERY_MS = 20, 1000  # sixty a minute
SLOWER = (1, 4)
PLAIN = """<!doctype html><svg width="600" height="600"><rect width="600" height="600" fill="#eee"/></svg><script>
addEventListener('pointerup', event => {
  const one = document.createElementNS('http://www.w3.org/2000/svg', 'rect');
  for (const [key, value] of Object.entries({x: event.clientX, y: event.clientY, width: 20, height: 20})) { one.setAttribute(key, value); }
  document.querySelector('svg').append(one);
});</script>"""
WATCH = """() => {
  window.seen = []; window.long = [];
  new PerformanceObserver(list => list.getEntries().forEach(e => { if (e.name === 'pointerup') { seen.push(e.duration); } }))
    .observe({type: 'event', durationThreshold: 16});
  new PerformanceObserver(list => list.getEntries().forEach(e => long.push(e.duration))).observe({type: 'longtask'});
}"""

SLOW_LINE = {
    "offline": False,
    "latency": 150,
    "downloadThroughput": 200_000,
    "uploadThroughput": 90_000,
}  # ms, bytes a second
SHIFTS = """window.shifted = 0; new PerformanceObserver(list => list.getEntries().forEach(e => {
  if (!e.hadRecentInput) { shifted += e.value; } })).observe({type: 'layout-shift', buffered: true});"""


def strokes(addresses: Addresses) -> None:
    """From the release of a square to the picture that shows it, and the longest task, empty and with over 900 plants."""
    for base in serve(addresses):
        with sync_playwright() as driver:
            browser = driver.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
            plain = {slower: _plain(browser, slower) for slower in SLOWER}
            page = enter(browser, base, "educator", DESK).new_page()
            bed = f"{base}/garden/beds/{draw_large_bed(page, base)}"
            for words, filled in (("1,020 squares", ""), ("1,020 squares, 900 plants", "A1-AD30")):
                if filled:
                    paint(page, bed, "ink", filled)
                for slower in SLOWER:
                    page.goto(bed)
                    settle(page)
                    page.get_by_text("pencils", exact=True).click()
                    places = [_middle(page, f"{chr(65 + n)}{33 if slower > 1 else 31}") for n in range(STROKES)]
                    shown, longest = _pressed(page, slower, lambda n, places=places: places[n])
                    row(
                        f"a stroke shown: {words}, {slower} times slower",
                        shown / 1000,
                        f"{shown / plain[slower]:.1f} times one square on an empty page; longest task {longest:.0f} ms (0: none over 50)",
                    )
            browser.close()


def _plain(browser: Browser, slower: int) -> float:
    page = browser.new_page()
    page.set_content(PLAIN)
    shown, _ = _pressed(page, slower, lambda n: (20 + 25 * n, 300))
    page.close()
    return shown


def _pressed(page: Page, slower: int, place: Callable[[int], tuple[float, float]]) -> tuple[float, float]:
    """Median of release to picture [ms] and the longest task [ms] over some presses, one a second."""
    cdp = page.context.new_cdp_session(page)
    cdp.send("Emulation.setCPUThrottlingRate", {"rate": slower})
    page.evaluate(WATCH)
    for n in range(STROKES):
        page.mouse.click(*place(n))
        page.wait_for_timeout(EVERY_MS)
    page.wait_for_timeout(2 * EVERY_MS)
    seen, tasks = page.evaluate("[seen, long]")
    cdp.send("Emulation.setCPUThrottlingRate", {"rate": 1})
    # What took less than 16 ms is not told of.
    shown = statistics.median([*seen, *[16.0] * (STROKES - len(seen))])
    return shown, max(tasks, default=0.0)


def _middle(page: Page, square: str) -> tuple[float, float]:
    box = page.locator(f"[data-cell={square}]").bounding_box()
    if box is None:
        raise LookupError(f"no square {square} is shown")
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def first_paint(addresses: Addresses) -> None:
    """First paint of a first visit, four times slower and over a slow mobile line, and how far things shift while it loads."""
    for base in serve(addresses):
        with sync_playwright() as driver:
            browser = driver.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
            empty, _ = _visited(browser, base, "/empty")
            for name, path in (
                ("Week", "/week"),
                ("bed sheet", f"/garden/beds/{bed_id('Bed 3')}"),
                ("map", "/garden/map"),
            ):
                painted, shifted = _visited(browser, base, path)
                row(
                    f"first paint of the {name}, slow line and processor",
                    painted / 1000,
                    f"{painted / empty:.1f} times an empty page; layout shift {shifted:.3f}",
                )
            browser.close()


def _visited(browser: Browser, base: str, path: str) -> tuple[float, float]:
    """Median first paint [ms] and the worst layout shift of three visits that know nothing yet."""
    painted, shifted = [], []
    for _ in range(3):
        context = enter(browser, base, "coordinator", DESK)
        page = context.new_page()
        cdp = context.new_cdp_session(page)
        cdp.send("Network.enable")
        cdp.send("Network.emulateNetworkConditions", SLOW_LINE)
        cdp.send("Emulation.setCPUThrottlingRate", {"rate": max(SLOWER)})
        page.add_init_script(SHIFTS)
        page.goto(base + path)
        settle(page)
        page.wait_for_timeout(EVERY_MS)
        first, shift = page.evaluate("[performance.getEntriesByName('first-contentful-paint')[0].startTime, shifted]")
        painted.append(first)
        shifted.append(shift)
        context.close()
    return statistics.median(painted), max(shifted)
