"""Parts of a bed as drawn and typed: an old fig that shades and drinks, sections, edges; what is outside is refused where it is drawn."""

import re
from uuid import UUID

import pytest
from fastapi.testclient import TestClient

from tests.web.pages import Page, open_page, post

BED = UUID(int=77)
HERE = f"/garden/beds/{BED}/parts"
FT = 304.8


@pytest.fixture(autouse=True)
def new_bed(coordinator: TestClient) -> None:
    """A bed of 8 × 3 ft with nothing in it."""
    box = {"x": 31 * FT, "y": FT, "length": 8 * FT, "width": 3 * FT, "turn": 0}
    post(coordinator, "/garden/map/add", id=str(BED), what="bed", kind="raised", **{k: str(v) for k, v in box.items()})


def drawn(client: TestClient, kind: str, x: float, y: float, length: float, width: float) -> Page:
    place = {"x": x * FT, "y": y * FT, "length": length * FT, "width": width * FT}
    return post(client, f"{HERE}/add", part=True, kind=kind, **{key: str(value) for key, value in place.items()})


def boxes(page: Page) -> dict[str, str]:
    return {key: value for key, value in page.form(HERE).fields.items() if key != "action"}


def test_an_old_fig_is_drawn_named_and_takes_its_squares(coordinator: TestClient) -> None:
    page = drawn(coordinator, "kept", 6, 0, 2, 2)
    assert "Kept part drawn, 2 ft × 2 ft." in page.text
    assert "20 free squares" in page.text
    wish = {**boxes(page), "label": "Old fig", "height": "8 ft", "spread": "5 ft"}
    page = post(coordinator, HERE, part=True, **wish)
    assert "Saved: Old fig." in page.text
    assert 'class="kept-crown"' in page.html
    sheet = open_page(coordinator, f"/garden/beds/{BED}").html
    assert "Old fig" in sheet
    assert 'class="kept-crown"' in sheet
    # The string runs in the free part only: 7 upright lines, two of them cut, and the level ones end at the fig.
    assert re.search(r"\d+ strings", page.text)
    page = post(coordinator, f"{HERE}/undo", part=True)
    assert "Taken back: change Bed 9." in page.text


def test_a_part_outside_the_bed_is_refused_where_it_is_drawn_and_nothing_is_lost(coordinator: TestClient) -> None:
    page = drawn(coordinator, "section", 7, 0, 2, 2)
    assert page.status == 422
    assert "lies outside" in page.text or "lie in the bed" in page.text
    assert 'role="alert"' in page.html
    page = drawn(coordinator, "section", 0, 0, 3, 3)
    wish = {**boxes(page), "label": "Salad", "length": "nine"}
    page = post(coordinator, HERE, part=True, **wish)
    assert page.status == 422
    field = next(a for tag, a in page.tags if tag == "input" and a.get("id") == "b-length")
    assert (field["value"], field["aria-invalid"]) == ("nine", "true")


def test_a_part_drawn_over_by_somebody_else_meanwhile_is_not_written(coordinator: TestClient) -> None:
    page = drawn(coordinator, "edge", 0, 0, 1, 3)
    stale = {**boxes(page), "version": "1", "label": "West edge"}
    again = post(coordinator, HERE, part=True, **stale)
    assert (again.status, "Someone else changed this bed" in again.text) == (409, True)
    assert "West edge" not in open_page(coordinator, HERE).text
