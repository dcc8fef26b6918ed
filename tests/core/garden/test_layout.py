import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.garden.bed import Rectangle, grid_of
from almanaque.core.garden.layout import (
    LayoutWish,
    beside,
    by_hand,
    figures,
    lay_out,
    number_words,
    other_readings,
    own_count,
    pitch,
    spans,
    square_count,
    squares_needed,
    too_few_places,
)
from almanaque.core.garden.outline import inside, l_shape
from almanaque.data import catalogue
from tests.refuses import refuses

FT, IN = 304.8, 25.4
CROPS = catalogue()
BED = grid_of(8 * FT, 4 * FT, FT)


def test_carrots_in_thirty_two_squares_are_five_hundred_and_twelve() -> None:
    laid = lay_out(BED.cells, BED, CROPS["carrot"], LayoutWish())
    assert laid.plants == 512
    assert laid.words == "4 along, 16 in the square"


def test_a_published_count_holds_for_the_foot_and_thirty_centimetres_only() -> None:
    assert square_count(CROPS["carrot"], FT) == square_count(CROPS["carrot"], 300) == 16
    assert square_count(CROPS["carrot"], 1000) is None
    metre = grid_of(2000, 1000, 1000)
    assert (
        lay_out(metre.cells, metre, CROPS["carrot"], LayoutWish()).reading.along == 13
    )  # 3 in apart in a metre, not 16 in all


def test_the_figure_that_is_followed_is_named_and_the_others_are_told() -> None:
    carrot, cells = CROPS["carrot"], BED.cells[:1]
    assert figures(carrot, LayoutWish(), FT).whose == "the usual square count"
    packet = LayoutWish(follows="packet", in_row_mm=4 * IN)
    assert lay_out(cells, BED, carrot, packet).plants == 9
    told = other_readings(cells, BED, carrot, packet, units="us", hand_span_mm=8 * IN)
    assert [sentence.split(":")[0] for sentence in told] == [
        "The usual square count",
        "The catalogue's distances (3 in)",
        "Your own hand (4 in)",
    ]
    assert "16 plants, 4 along, 16 in the square" in told[0]
    assert figures(carrot, LayoutWish(per_square=12), FT).whose == "your own count"


def test_a_packet_without_its_distance_is_asked_for() -> None:
    with refuses("garden.packet_distance_unsaid") as refused:
        lay_out(BED.cells, BED, CROPS["carrot"], LayoutWish(follows="packet"))
    assert refused.value.field == "in_row"


def test_a_distance_in_spans_is_never_less_than_half_a_span() -> None:
    assert (spans(300, 200), spans(50, 200), spans(610, 200)) == (1.5, 0.5, 3.0)


def test_rows_stand_within_the_painted_squares_and_away_from_the_others() -> None:
    grid = grid_of(6 * FT, 4 * FT, FT)
    mine = {(c, r) for c in range(4) for r in range(3)} - {(3, 0)}
    laid = lay_out(mine, grid, CROPS["lettuce"], LayoutWish("rows", "packet", in_row_mm=6 * IN, row_mm=12 * IN))
    assert laid.plants > 0
    for x, y in laid.positions_mm:
        assert (int(x // FT), int(y // FT)) in mine
    others = np.array([((c + 0.5) * FT, (r + 0.5) * FT) for c, r in set(grid.cells) - mine])
    assert min(np.hypot(*(np.array(laid.positions_mm)[:, None] - others).reshape(-1, 2).T)) > 6 * IN
    assert laid.words.startswith("3 rows, 12 in apart, 6 in in the row")


def test_staggered_plants_keep_out_of_a_kept_part_and_within_an_l() -> None:
    outline = l_shape(6 * FT, 4 * FT, 2 * FT, 2 * FT, "top right")
    kept = Rectangle(0, 0, FT, FT, "Currant")
    grid = grid_of(6 * FT, 4 * FT, FT, (kept,), outline)
    laid = lay_out(
        grid.cells,
        grid,
        CROPS["lettuce"],
        LayoutWish("staggered", "packet", in_row_mm=8 * IN),
        kept=[kept],
        outline_mm=outline,
    )
    places = np.array(laid.positions_mm)
    assert inside(places, outline, free_mm=4 * IN * 0.97).all()
    assert not ((places[:, 0] < FT) & (places[:, 1] < FT)).any()


@given(st.integers(1, 60))
def test_of_the_starts_in_hand_all_are_placed_or_the_missing_are_counted(wanted: int) -> None:
    cells = {(c, r) for c in range(3) for r in range(2)}
    wish = LayoutWish(wanted=wanted)
    needed = squares_needed(cells, BED, CROPS["lettuce"], wish)
    fit_in = len(cells) * (CROPS["lettuce"].per_square or 0)
    laid = lay_out(needed, BED, CROPS["lettuce"], wish)
    assert laid.plants == min(wanted, fit_in)
    assert needed <= cells
    assert len(needed) == min(6, -(-wanted // (CROPS["lettuce"].per_square or 1)))
    words = number_words(laid, wanted)
    assert ("missing" in words) == (wanted > fit_in)


def test_one_each_for_a_class_says_how_many_are_missing() -> None:
    laid = lay_out(BED.cells[:24], BED, CROPS["cabbage"], LayoutWish(wanted=26))
    assert (
        number_words(laid, 26, per_head="26 children of Grade 2")
        == "24 of 26 places for 26 children of Grade 2; 2 are missing"
    )
    enough = lay_out(BED.cells[:30], BED, CROPS["cabbage"], LayoutWish(wanted=26))
    assert number_words(enough, 26) == "26 places; room for 4 more stays open"


def test_what_stands_among_others_moves_out_of_their_places() -> None:
    corn = lay_out([(0, 0)], BED, CROPS["sweet-corn"], LayoutWish())
    beans = lay_out([(0, 0)], BED, CROPS["bush-bean"], LayoutWish())
    assert any(np.hypot(x - 6 * IN, y - 6 * IN) < 1e-6 for x, y in beans.positions_mm)
    moved = beside(beans, corn.positions_mm, 4 * IN, 4 * IN)
    assert moved.plants == beans.plants
    gap = min(np.hypot(x - 6 * IN, y - 6 * IN) for x, y in moved.positions_mm)
    assert gap == pytest.approx(np.hypot(2, 2) * IN)
    assert beside(beans, [], 4 * IN, 4 * IN) == beans


def test_a_spacing_wider_than_the_part_leaves_nothing_but_says_so() -> None:
    laid = lay_out([(0, 0)], BED, CROPS["zucchini"], LayoutWish())
    assert (laid.plants, laid.left_over) == (0, ((0, 0),))


def test_two_large_starts_take_two_blocks_and_leave_the_rest_open() -> None:
    cells = [(c, r) for c in range(6) for r in range(4)]
    needed = squares_needed(cells, BED, CROPS["kale"], LayoutWish(wanted=2))
    assert len(needed) == 8
    assert lay_out(needed, BED, CROPS["kale"], LayoutWish(wanted=2)).plants == 2


def test_a_figure_that_does_not_fit_is_left_out_of_the_others() -> None:
    packet = LayoutWish("rows", "packet", in_row_mm=6 * IN)
    assert other_readings([(0, 0)], BED, CROPS["zucchini"], packet, units="us") == []


def test_rows_are_told_in_the_schools_units() -> None:
    laid = lay_out(
        [(c, 0) for c in range(4)],
        BED,
        CROPS["lettuce"],
        LayoutWish("rows", "packet", in_row_mm=150, row_mm=300),
        units="metric",
    )
    assert laid.words == "1 row, 30 cm apart, 15 cm in the row"


def test_fewer_places_than_wanted_ask_for_care() -> None:
    laid = lay_out(BED.cells[:24], BED, CROPS["cabbage"], LayoutWish(wanted=26))
    (found,) = too_few_places("Cabbage", laid, 26)
    assert found.message == "24 of 26 places; 2 are missing."
    assert too_few_places("Cabbage", laid, 24) == too_few_places("Cabbage", laid, None) == []


@pytest.mark.parametrize(("text", "count"), [("1", 1), ("400", 400), ("000016", 16)])
def test_an_own_count_is_a_whole_number_up_to_four_hundred(text: str, count: int) -> None:
    assert own_count(text) == count


@pytest.mark.parametrize("text", ["", "0", "401", "-1", "2.5", "٣", "00000199999999", "9" * 400])
def test_an_own_count_beyond_that_is_refused_however_it_is_written(text: str) -> None:
    with refuses("garden.own_count_out_of_range", field="per_square"):
        own_count(text)


def test_a_distance_by_hand_is_one_span_where_nobody_says_how_many() -> None:
    assert [by_hand(160.0, spans) for spans in (None, 0.5, 2.0)] == [160.0, 80.0, 320.0]
    with refuses("garden.hand_span_missing", field="follows"):
        by_hand(None, 2.0)


def test_the_pitch_is_that_in_the_square_and_the_spacing_over_rows_and_blocks() -> None:
    cells, grid = [(c, r) for c in range(3) for r in range(3)], grid_of(3 * FT, 3 * FT, FT)
    for crop, wish, expected in (
        ("carrot", LayoutWish(), FT / 4),
        ("kale", LayoutWish(), CROPS["kale"].in_row_mm),
        ("carrot", LayoutWish("rows", "figures"), CROPS["carrot"].in_row_mm),
    ):
        laid = lay_out(cells, grid, CROPS[crop], wish)
        assert pitch(laid, grid, figures(CROPS[crop], wish, FT)) == pytest.approx(expected)
