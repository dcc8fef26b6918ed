from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.errors import BadInput
from almanaque.core.garden.spacing import seeds_needed
from almanaque.core.seeds import seed_lots, seed_saving
from almanaque.core.seeds.seed_lots import Lot, Wanted, cells_needed, life, order, told, wilson
from almanaque.core.seeds.seed_saving import Other, judge
from almanaque.data import catalogue
from almanaque.data import seed_saving as saving_table
from tests.refuses import refuses

CROPS = catalogue()
RADISH, CARROT, GARLIC, PARSNIP = (CROPS[key] for key in ("radish", "carrot", "garlic", "parsnip"))


@given(st.integers(1, 500).flatmap(lambda sown: st.tuples(st.just(sown), st.integers(0, sown))))
def test_the_interval_holds_the_rate_and_narrows_with_more_seeds(counts: tuple[int, int]) -> None:
    sown, up = counts
    rate = wilson(up, sown)
    assert 0 <= rate.low <= rate.rate <= rate.high <= 1
    more = wilson(up * 4, sown * 4)
    assert more.high - more.low < rate.high - rate.low
    assert (rate.low == 0) == (up == 0)
    assert (rate.high == 1) == (up == sown)


@pytest.mark.parametrize(("sown", "up"), [(0, 0), (10, 11), (10, -1), (2_000_000, 1)])
def test_counts_that_cannot_be_are_refused(sown: int, up: int) -> None:
    with pytest.raises(BadInput):
        wilson(up, sown)


@pytest.mark.parametrize(
    ("up", "sown", "advice", "times"),
    [
        (17, 20, "sow as usual", 1.0),
        (20, 20, "sow as usual", 1.0),
        (12, 20, "sow thicker", 1.4),
        (3, 20, "throw away", 3.0),
        (0, 20, "throw away", 3.0),
        (4, 5, "too few sown", 1.0),
        (0, 3, "sow thicker", 3.0),
    ],
)
def test_a_test_says_what_to_do(up: int, sown: int, advice: str, times: float) -> None:
    found = told(wilson(up, sown), 0.85)
    assert (found.advice, found.times) == (advice, times)
    assert f"{up / sown:.0%} came up" in found.sentence


@given(
    st.integers(10, 200).flatmap(lambda sown: st.tuples(st.just(sown), st.integers(0, sown))),
    st.sampled_from([0.3, 0.6, 0.85, 0.95]),
)
def test_more_that_came_up_never_means_thicker(counts: tuple[int, int], usual: float) -> None:
    sown, _ = counts
    times = [told(wilson(up, sown), usual).times for up in range(sown + 1)]
    assert all(earlier >= later for earlier, later in pairwise(times))
    assert all(1 <= t <= 3 for t in times)


def test_seed_ages_by_its_kind_and_by_where_it_is_kept() -> None:
    assert life(RADISH, 2024, 2027).state == "fresh"
    assert life(RADISH, 2023, 2027).state == "near its end"
    assert life(RADISH, 2021, 2027).state == "old"
    assert life(RADISH, 2024, 2027, place="in a room").state == "old"
    assert life(PARSNIP, 2026, 2027).sentence == "a year old; it lives a year. Test it."
    assert life(CARROT, 2025, 2027, pelleted=True).state == "old"
    assert life(GARLIC, 2026, 2027).state == "not known"
    assert life(RADISH, 2028, 2027).sentence.startswith("this year's")


def test_an_order_takes_off_what_is_good_and_leaves_out_what_is_not() -> None:
    box = {
        "radish": [
            Lot("radish", 100, wilson(17, 20), "fresh"),
            Lot("radish", 500, None, "old"),
            Lot("radish", 400, wilson(1, 20), "fresh"),
            Lot("radish", None, None, "fresh"),
        ]
    }
    line, carrot = order(
        [Wanted(RADISH, 100, "2027-05-01"), Wanted(RADISH, 44, "2027-04-01"), Wanted(CARROT, 0)], box, {"radish": 295}
    )
    assert (line.need, line.have, line.buy, line.packets, line.grams, line.price_minor) == (189, 100, 89, 1, 0.89, 295)
    assert line.by == "2027-04-01"
    assert line.why == "2 lots left out: too old or too poor; 1 lot of unknown number left out"
    assert (carrot.buy, carrot.packets, carrot.grams) == (0, 0, 0)


@given(
    st.integers(0, 2000),
    st.integers(0, 3000),
    st.integers(1, 20).flatmap(lambda s: st.tuples(st.integers(0, s), st.just(s))),
)
def test_what_is_there_and_what_is_bought_are_always_enough(plants: int, have: int, test: tuple[int, int]) -> None:
    (line,) = order([Wanted(RADISH, plants)], {"radish": [Lot("radish", have, wilson(*test), "fresh")]})
    assert line.have + line.buy >= line.need
    assert line.have <= have
    assert line.packets is None or line.packets * (RADISH.packet_seeds or 0) >= line.buy


def test_seeds_are_counted_or_reckoned_from_their_weight() -> None:
    assert seed_lots.seeds_in(RADISH, grams=2.0, seeds=None) == 200
    assert seed_lots.seeds_in(RADISH, grams=2.0, seeds=150) == 150
    assert seed_lots.seeds_in(GARLIC, grams=2.0, seeds=None) is None


def test_two_seeds_in_a_cell_need_fewer_cells() -> None:
    one, two = cells_needed(24, RADISH), cells_needed(24, RADISH, per_cell=2)
    assert (one, two) == (32, 28)
    with refuses("seeds.none_came_up"):
        cells_needed(24, RADISH, rate=0.0)


def codes(crop: str, **change: object) -> list[str]:
    values: dict[str, object] = {"plants": 200, "others": (), "hybrid": False, "units": "us", **change}
    return [f.code for f in judge(CROPS[crop], saving_table()[crop], **values)]  # type: ignore[arg-type]


def test_what_pollinates_itself_is_good_and_what_crosses_wants_room() -> None:
    assert codes("pea") == ["seed_selfs"]
    assert codes("radish") == ["seed_isolation"]
    assert codes("radish", others=[Other("Radish Long", "Bed 2")]) == ["seed_crosses"]
    assert codes("pea", others=[Other("Snow pea", "Bed 2")]) == ["seed_selfs"]


def test_hybrids_few_plants_bolters_and_second_years_are_told() -> None:
    assert codes("sweet-corn", hybrid=True)[0] == "seed_hybrid"
    assert "seed_few_plants" in codes("radish", plants=12)
    assert "seed_bolted" in codes("spinach", bolted=True)
    assert "seed_second_year" in codes("carrot")


def test_distances_are_told_in_the_schools_units() -> None:
    (us,) = judge(RADISH, saving_table()["radish"], plants=99, others=(), hybrid=False, units="us")
    (metric,) = judge(RADISH, saving_table()["radish"], plants=99, others=(), hybrid=False, units="metric")
    assert "0.5 miles" in us.message
    assert "800 m" in metric.message


def test_every_row_of_the_table_of_saving_is_sane_and_says_how() -> None:
    table = saving_table()
    assert len(table) > 50
    for crop, row in table.items():
        assert row.pollinated in ("self", "insects", "wind"), crop
        assert 1 <= row.plants <= 200
        assert len(row.sign) > 8
        assert row.how.endswith(".")
        biennial = CROPS[crop].life == "biennial" and CROPS[crop].bolts_after_cold_days > 0
        assert not row.second_year or CROPS[crop].life in ("biennial", "annual", "perennial") or biennial
    assert seed_saving.species(CROPS["snow-pea"]) == seed_saving.species(CROPS["pea"])


def test_how_seed_was_kept_is_told_where_it_is_not_cool_and_dry() -> None:
    assert "kept" not in life(CARROT, 2027, 2027).sentence
    assert ", kept in a room" in life(CARROT, 2027, 2027, place="in a room").sentence
    assert ", pelleted" in life(CARROT, 2027, 2027, place="in a room", pelleted=True).sentence


def test_lots_that_cannot_be_counted_are_told_in_their_number() -> None:
    for count, said in ((1, "1 lot of unknown"), (2, "2 lots of unknown")):
        lots = [Lot("radish", None, None, "fresh")] * count
        (line,) = order([Wanted(RADISH, 20, "2027-04-01")], {"radish": lots})
        assert said in line.why


def test_the_largest_count_is_counted_and_the_least_that_is_sure_says_no_more() -> None:
    assert wilson(500_000, 1_000_000).rate == 0.5
    with refuses("seeds.sown_missing", field="sown"):
        wilson(1, 1_000_001)
    few, enough = (told(wilson(9 * n // 10, n), 0.9) for n in (seed_lots.LEAST_SOWN - 1, seed_lots.LEAST_SOWN))
    assert "surer answer" in few.sentence
    assert "surer answer" not in enough.sentence


def test_no_more_seedlings_live_than_come_up() -> None:
    with pytest.raises(BadInput):
        seeds_needed(10, germination=0.9, survival=1.5)
    assert seeds_needed(10, germination=1.0, survival=1.0) == 10
