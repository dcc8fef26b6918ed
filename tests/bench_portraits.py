"""Figures of portraits for `./almanaque bench`: time and size of a drawing by detail, and the map that is played on a slow processor."""

import statistics
import time

from playwright.sync_api import sync_playwright

from almanaque.core.portrait.drawing import STAGES, portrait
from almanaque.core.portrait.picture import svg
from almanaque.data import catalogue, portraits
from almanaque.host.postgres import Addresses
from tests.bench_fit import row
from tests.browser.conftest import CHROMIUM, DESK, FLAGS, enter, serve

SIZES = ((0, 24), (1, 48), (2, 150))  # detail, and the pixels at which it is used
SLOWER, WATCHED_S = 4, 4
FRAMES = """seconds => new Promise(done => { let frames = 0, began = performance.now();
  function frame() { frames += 1; performance.now() - began < seconds * 1000 ? requestAnimationFrame(frame) : done(frames / seconds); }
  requestAnimationFrame(frame); })"""


def drawings() -> None:
    """Every crop at every stage, drawn and written anew."""
    for detail, px in SIZES:
        took, sizes = [], []
        for crop in catalogue():
            traits = portraits()[crop.key]
            for stage in STAGES:
                began = time.perf_counter()
                made = portrait(traits, stage, "side", height_mm=crop.height_mm, width_mm=crop.width_mm, detail=detail)
                text = svg(made, size_px=px)
                took.append(time.perf_counter() - began)
                sizes.append(len(text) / 1000)
        few = sum(size <= 5 for size in sizes) / len(sizes)
        row(
            f"a portrait at {px} px, median of {len(took)}",
            statistics.median(took),
            f"worst {1000 * max(took):.0f} ms; {statistics.median(sizes):.1f} kB, worst {max(sizes):.1f}; {100 * few:.0f} % of 5 kB or less",
        )


def played(addresses: Addresses) -> None:
    """Frames a second of the year that is played, four times slower, beside an idle page of the same browser."""
    for base in serve(addresses):
        with sync_playwright() as driver:
            browser = driver.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
            page = enter(browser, base, "coordinator", DESK).new_page()
            page.context.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": SLOWER})
            answer = page.request.get(f"{base}/garden/year.json")
            page.goto(f"{base}/garden?show=looks")
            page.wait_for_function("() => document.querySelector('#garden-play[data-ready]') !== null")
            idle = float(page.evaluate(FRAMES, WATCHED_S))
            page.get_by_role("slider", name="Day of the year").fill("200")
            page.get_by_role("button", name="Play the year").click()
            seen = float(page.evaluate(FRAMES, WATCHED_S))
            row(
                "a frame of the played year, slow processor",
                1 / seen,
                f"{seen:.0f} frames a second, {idle:.0f} when nothing plays; {len(answer.body()) / 1000:.0f} kB for the year",
            )
            browser.close()
