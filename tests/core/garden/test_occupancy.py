from datetime import date, timedelta

import pytest

from almanaque.core.garden.bed import grid_of
from almanaque.core.garden.occupancy import Occupancy, bed_taken
from almanaque.core.garden.spacing import left_over, place_in_squares

D = date.fromisoformat
PEA = Occupancy("Pea", frozenset({(0, 0), (1, 0)}), D("2027-03-30"), D("2027-06-24"))


def plan(start: str, days: int = 40, cells: set | None = None) -> Occupancy:
    return Occupancy("Kale", frozenset(cells or {(1, 0), (2, 0)}), D(start), D(start) + timedelta(days=days))


@pytest.mark.parametrize(
    ("start", "taken"), [("2027-02-17", False), ("2027-02-18", True), ("2027-06-24", True), ("2027-06-25", False)]
)
def test_squares_are_taken_to_the_last_day_and_free_the_day_after(start: str, taken: bool) -> None:
    assert bool(bed_taken(plan(start), "direct", D(start), [PEA])) == taken


def test_other_squares_at_the_same_time_are_free() -> None:
    assert bed_taken(plan("2027-05-01", cells={(3, 0)}), "direct", D("2027-05-01"), [PEA]) == []


@pytest.mark.parametrize("weeks_indoors", [0, 5])
def test_the_start_that_is_offered_really_mends_it(weeks_indoors: int) -> None:
    start = D("2027-05-01")
    mine = plan((start + timedelta(weeks=weeks_indoors)).isoformat())
    found = bed_taken(mine, "indoors", start, [PEA])[0]
    assert found.message == "The pea still stands in 1 of these squares."
    offered = D(found.fixes[0].value)
    moved = plan((offered + timedelta(weeks=weeks_indoors)).isoformat())
    assert moved.bed_from == D("2027-06-25")
    assert bed_taken(moved, "indoors", offered, [PEA]) == []


def test_left_over_squares_are_counted_in_words() -> None:
    grid = grid_of(3 * 304.8, 2 * 304.8, 304.8)
    layout = place_in_squares(grid.cells, grid, spacing_mm=600)
    assert left_over("Kale", layout)[0].message == "2 squares hold no plant."
    one = place_in_squares({(0, 0)}, grid, spacing_mm=600)
    assert left_over("Kale", one)[0].message == "1 square holds no plant."
    assert left_over("Beet", place_in_squares(grid.cells, grid, spacing_mm=100)) == []
