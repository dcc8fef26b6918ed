import math
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.garden import bed_rebuild, needs
from almanaque.core.garden.bed import Rectangle, grid_of
from almanaque.core.garden.bed_strings import stringing
from almanaque.core.garden.needs import MaterialNeed
from almanaque.data import catalogue
from tests.refuses import refuses

FT = 304.8
CROPS = catalogue()


def test_a_bed_of_eight_by_four_feet_takes_ten_strings() -> None:
    strung = stringing(8 * FT, 4 * FT, grid_of(8 * FT, 4 * FT, FT))
    assert [round(mark / FT) for mark in strung.along_mm] == [1, 2, 3, 4, 5, 6, 7]
    assert [round(mark / FT) for mark in strung.down_mm] == [1, 2, 3]
    assert (strung.strings, strung.sticks) == (10, 20)
    assert strung.string_mm == pytest.approx((7 * 4 + 3 * 8) * FT)
    assert strung.with_knots_mm == pytest.approx(strung.string_mm + 10 * 300)


def test_strings_run_between_free_squares_only() -> None:
    """A bed of 8 × 4 ft with its right half kept: strings as in 4 × 4 ft; one kept square in the middle cuts four of them."""
    half = grid_of(8 * FT, 4 * FT, FT, (Rectangle(4 * FT, 0, 4 * FT, 4 * FT),))
    strung = stringing(8 * FT, 4 * FT, half)
    assert [round(mark / FT) for mark in strung.along_mm] == [1, 2, 3]
    assert (strung.strings, round(strung.string_mm / FT)) == (6, 3 * 4 + 3 * 4)
    assert max(run.to_mm for run in strung.runs if not run.upright) == pytest.approx(4 * FT)
    hole = grid_of(8 * FT, 4 * FT, FT, (Rectangle(3 * FT, 1 * FT, FT, FT),))
    cut = stringing(8 * FT, 4 * FT, hole)
    assert cut.strings == 10 + 4
    assert cut.string_mm == pytest.approx((7 * 4 + 3 * 8 - 4) * FT)


def test_what_moves_from_bed_to_bed_is_counted_once() -> None:
    def sticks(amount: float, bed: str, first: date, last: date) -> MaterialNeed:
        return MaterialNeed("string", "stick", amount, "", bed, stands=(first, last))

    april, june, august = date(2027, 4, 1), date(2027, 6, 4), date(2027, 8, 20)
    in_turn = [sticks(20, "Bed 2", april, june), sticks(12, "Bed 5", date(2027, 6, 5), august)]
    (line,) = needs.gathered(in_turn, {})
    assert (line.amount, line.why) == (20, "one set that moves: Bed 2 until 4 Jun, Bed 5 until 20 Aug")
    (both,) = needs.gathered([*in_turn, sticks(6, "Bed 7", june, june)], {})
    assert both.amount == 26
    (together,) = needs.gathered([sticks(20, "Bed 2", april, june), sticks(12, "Bed 5", june, august)], {})
    assert (together.amount, together.why) == (32, "Bed 2; Bed 5")


def test_three_inches_of_compost_on_thirty_two_square_feet_are_four_bags() -> None:
    """8 cu ft, in bags of 2; 3 wheelbarrows of 3 cu ft."""
    (line,) = needs.layer("compost", 8 * needs.LITRES_PER_CUBIC_FOOT, "us", "Bed 3")
    assert (line.what, math.ceil(line.amount - 1e-9), line.unit) == ("compost, bag of 2.0 cu ft", 4, "bags")
    assert needs.barrows(line.litres, "us") == 3
    (metric,) = needs.layer("compost", 100, "metric", "Bed 3")
    assert (metric.what, metric.amount) == ("compost, bag of 40 L", 2.5)
    assert needs.layer("compost", 0, "us", "Bed 3") == []


@given(st.integers(1, 500))
def test_trays_hold_all_starts(starts: int) -> None:
    cells, trays = needs.tray_for(starts)
    assert cells in needs.TRAYS
    assert cells * trays >= starts
    assert cells * (trays - 1) < starts


def test_a_class_of_26_and_a_tray_of_its_size() -> None:
    assert needs.tray_for(26) == (36, 1)
    assert needs.tray_for(144) == (144, 1)
    assert needs.tray_for(6) == (6, 1)


def test_seed_is_counted_with_what_fails_in_packets_and_grams() -> None:
    """36 carrots at 70 % up and 90 % living take 58 seeds; at 700 a gram that is under a gram."""
    (line,) = needs.planting(CROPS["carrot"], "direct", 36, germination=None, sow_factor=1.0, units="us", why="Bed 5")
    assert line.what == "Carrot seed, packet of 1000"
    assert "36 plants from 58 seeds, under 1 g" in line.why
    assert line.amount == pytest.approx(0.058)
    (close,) = needs.planting(CROPS["carrot"], "direct", 36, germination=None, sow_factor=3.0, units="us", why="Bed 5")
    assert close.amount == pytest.approx(0.174)


def test_indoors_also_takes_a_tray_and_starts_take_one_in_twenty_more() -> None:
    found = needs.planting(CROPS["tomato"], "indoors", 10, germination=None, sow_factor=1.0, units="us", why="Bed 6")
    assert [need.kind for need in found] == ["seed", "trays"]
    (starts,) = needs.planting(CROPS["tomato"], "starts", 40, germination=None, sow_factor=1.0, units="us", why="Bed 6")
    assert starts.amount == 42
    (cloves,) = needs.planting(CROPS["garlic"], "cloves", 40, germination=None, sow_factor=1.0, units="us", why="Bed 1")
    assert (cloves.what, cloves.amount) == ("Garlic cloves", 40)
    assert needs.planting(CROPS["tomato"], "starts", 0, germination=None, sow_factor=1.0, units="us", why="") == []


def test_lines_of_one_thing_add_up_before_they_are_rounded_and_take_the_shed_into_account() -> None:
    found = needs.gathered(
        [
            MaterialNeed("seed", "Carrot seed", 0.4, "packets", "Bed 1"),
            MaterialNeed("seed", "Carrot seed", 0.5, "packets", "Bed 2"),
            MaterialNeed("tool", "rake", 2, "", ""),
            MaterialNeed("tool", "rake", 3, "", ""),
            MaterialNeed("soil", "compost", 3.2, "bags", "Bed 1", 100.0),
        ],
        {"compost": (1.0, 650), "Carrot seed": (0.0, 295)},
    )
    by_name = {need.what: need for need in found}
    assert [need.what for need in found] == ["compost", "Carrot seed", "rake"]
    assert (by_name["Carrot seed"].amount, by_name["Carrot seed"].cost_minor) == (1, 295)
    assert (by_name["compost"].amount, by_name["compost"].to_get, by_name["compost"].cost_minor) == (4, 3, 1950)
    assert by_name["rake"].amount == 3
    assert needs.total_minor(found) == (2245, 1)


def test_tools_are_counted_by_children() -> None:
    tools = {need.what: need.amount for need in needs.tools(24)}
    assert (tools["hand trowel"], tools["watering can"], tools["pair of gloves"]) == (8, 4, 24)


def test_a_bed_built_of_softwood_lasts_eight_to_ten_years() -> None:
    assert bed_rebuild.likely_end("pine boards", 2019) == (2027, 2029, bed_rebuild.life("pine"))
    assert bed_rebuild.likely_end("larch boards", 2021)[:2] == (2031, 2036)  # type: ignore[index]
    assert bed_rebuild.likely_end("unobtainium", 2019) is None
    assert bed_rebuild.likely_end("pine", None) is None


def test_boards_for_eight_by_four_feet_and_eleven_inches() -> None:
    """Two courses of 2 × 6 boards: two sides of 8 ft 3 in and two of 4 ft, from stock of 8 to 16 ft."""
    board = bed_rebuild.best_board(11 * 25.4, "us")
    assert board.name == "2 × 6 board"
    cut = bed_rebuild.boards([8 * FT, 4 * FT, 8 * FT, 4 * FT], 11 * 25.4, board)
    assert cut.courses == 2
    bought = sum(stock * number for stock, number in cut.bought)
    wanted = 4 * (8 * FT + 2 * board.thick_mm) + 4 * 4 * FT
    assert bought == pytest.approx(wanted + cut.waste_mm)
    assert bought >= wanted
    assert cut.waste_mm == pytest.approx(4 * (10 * FT - 8 * FT - 2 * board.thick_mm))
    assert (10 * FT, 4) in cut.bought


@given(st.lists(st.floats(300, 12_000), min_size=3, max_size=8), st.floats(100, 600))
def test_boards_bought_always_cover_the_wall(sides: list[float], depth: float) -> None:
    for units in ("us", "metric"):
        board = bed_rebuild.best_board(depth, units)
        cut = bed_rebuild.boards(sides, depth, board)
        assert cut.courses * board.high_mm >= depth - 0.02 * board.high_mm - 1e-6
        assert sum(stock * number for stock, number in cut.bought) >= sum(sides) * cut.courses


def test_bricks_for_a_wall_of_eight_feet_and_eight_inches() -> None:
    """12 bricks a course at 8 in, 3 courses to 8 in: 36, and 5 % to spare are 38."""
    brick, count = bed_rebuild.bricks(8 * FT, 8 * 25.4, "us")
    assert (brick.name, count) == ("modular brick", 38)


def test_sides_of_an_l_are_its_six_walls() -> None:
    corners = ((0, 0), (3, 0), (3, 1), (4, 1), (4, 5), (0, 5))
    assert bed_rebuild.sides(corners) == [3, 1, 1, 4, 4, 5]


def test_every_life_and_size_names_its_source() -> None:
    assert all(row.source for row in bed_rebuild.LIVES)
    assert all(board.source for boards in bed_rebuild.BOARDS.values() for board in boards)
    assert all(row.least < row.most for row in bed_rebuild.LIVES)


@pytest.mark.parametrize(("year", "severity"), [(2026, None), (2027, "note"), (2028, "note"), (2029, "care")])
def test_a_bed_near_its_end_is_a_note_and_then_care(year: int, severity: str | None) -> None:
    found = bed_rebuild.near_end("Bed 1", "pine boards", 2019, year=year, page="/x")
    assert [finding.severity for finding in found] == ([severity] if severity else [])


def test_string_is_bought_by_the_whole_yard_or_metre_and_sticks_come_with_it() -> None:
    for units, mm, amount, word in (("us", 914.5, 2, "yd"), ("us", 914.4, 1, "yd"), ("metric", 2000.0, 2, "m")):
        string, sticks = needs.string(mm, 6, units, "Bed 1")  # type: ignore[arg-type]
        assert (string.kind, string.what, string.amount, string.unit, string.why) == (
            "string",
            "string",
            amount,
            word,
            "Bed 1",
        )
        assert (sticks.kind, sticks.what, sticks.amount, sticks.unit, sticks.why) == ("string", "stick", 6, "", "Bed 1")
    assert needs.string(900.0, 0, "us", "Bed 1") == []


@pytest.mark.parametrize(
    ("starts", "tray"),
    [(1, (6, 1)), (7, (12, 1)), (13, (24, 1)), (24, (24, 1)), (37, (50, 1)), (210, (72, 3)), (201, (72, 3))],
)
def test_a_tray_is_chosen_by_the_cells_to_spare_and_the_trays_to_carry(starts: int, tray: tuple[int, int]) -> None:
    assert needs.tray_for(starts) == tray


def test_no_start_needs_no_tray() -> None:
    with refuses("garden.no_start_in_tray"):
        needs.tray_for(0)


def test_litres_of_one_thing_add_up_and_tools_for_one_child_each_say_so() -> None:
    soil = MaterialNeed("soil", "compost", 1.4, "bags", "Bed 1", litres=80.0)
    (line,) = needs.gathered([soil, MaterialNeed("soil", "compost", 1.4, "bags", "Bed 2", litres=85.0)], {})
    assert (line.amount, line.litres, line.why) == (3.0, 165.0, "Bed 1; Bed 2")
    said = {need.what: need.why for need in needs.tools(26)}
    assert "one each" in said.values()
    assert any(why.startswith("one for ") for why in said.values())
    assert "one for 1" not in said.values()


def test_packets_are_counted_from_the_seeds_that_are_sown() -> None:
    found = needs.planting(CROPS["radish"], "direct", 500, germination=None, sow_factor=1.0, units="us", why="Bed 1")
    (line,) = found
    assert (line.unit, line.why) == ("packets", "Bed 1: 500 plants from 654 seeds, 7 g")
    assert line.amount == pytest.approx(654 / 300)
