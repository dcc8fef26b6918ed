"""A bed of a thousand squares, for what must stay quick and exact on the largest one."""

from playwright.sync_api import Page

from tests.browser.conftest import settle
from tests.browser.test_map_drawing import FT

ID = "00000000-0000-0000-0000-00000000abcd"
POST = """async ([formId, path, values]) => {
  const body = new URLSearchParams(new FormData(document.getElementById(formId)));
  for (const [key, value] of Object.entries(values)) { body.set(key, value); }
  const answer = await fetch(path, {method: 'POST', body, headers: {'HX-Request': 'true'}});
  if (!answer.ok) { throw new Error(await answer.text()); }
}"""


def draw_large_bed(page: Page, base: str) -> str:
    """Draw a bed of 30 × 34 ft, 1,020 squares, with nothing in it; its id."""
    page.goto(f"{base}/garden/map")
    settle(page)
    page.locator("summary", has_text="The ground, north").click()
    page.get_by_label("Width x depth").fill("100 ft x 100 ft")
    page.get_by_role("button", name="Save the ground").click()
    settle(page)
    box = {"x": 60 * FT, "y": 2 * FT, "length": 30 * FT, "width": 34 * FT}
    page.evaluate(POST, ["draw", "/garden/map/add", {**box, "what": "bed", "kind": "raised", "id": ID, "turn": 0}])
    return ID


def paint(page: Page, bed: str, command: str, squares: str) -> None:
    """One command on the sheet at this address, by its form: squares as they are typed."""
    page.goto(bed)
    settle(page)
    page.evaluate(POST, ["paint", bed, {"command": command, "squares": squares}])
