from datetime import date
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.harvest.coming_harvest import ComingShare, together
from almanaque.core.harvest.yields import (
    GrownPlanting,
    PickedSum,
    Total,
    across_seasons,
    against_usual,
    days_held,
    servings,
    total,
    totals_by,
)
from almanaque.data import catalogue

CROPS = catalogue()
RADISH = CROPS["radish"]
SEASONS = {"2025–26": (date(2025, 9, 1), date(2026, 8, 31)), "2026–27": (date(2026, 9, 1), date(2027, 8, 31))}


def grown(planting: str = "p", bed: str = "Bed 1", area: float = 0.5, plants: int = 40) -> GrownPlanting:
    return GrownPlanting(planting, bed, "radish", "", area, plants, date(2027, 4, 1), date(2027, 5, 10))


def row(
    grams: str | None,
    *,
    planting: str = "p",
    estimated: bool = False,
    season: str = "2026–27",
    part: str = "root",
    group: str = "",
) -> PickedSum:
    mass = Decimal(grams or 0)
    zero = Decimal(0)
    return PickedSum(
        planting,
        season,
        part,
        group,
        "",
        1,
        zero if estimated else mass,
        mass if estimated else zero,
        mass / 2 if estimated else zero,
        mass * 2 if estimated else zero,
        int(grams is None),
        date(2027, 5, 1),
        date(2027, 5, 1),
    )


def summed(*rows: PickedSum, plantings: tuple[GrownPlanting, ...] = (grown(),)) -> Total:
    return total(rows, {p.planting: p for p in plantings}, SEASONS)


@given(st.lists(st.one_of(st.none(), st.integers(1, 5000)), min_size=1, max_size=20), st.data())
def test_a_missing_weight_is_never_counted_as_nothing(grams: list[int | None], data: st.DataObject) -> None:
    found = summed(*(row(None if g is None else str(g), estimated=data.draw(st.booleans())) for g in grams))
    assert found.grams == sum(g for g in grams if g is not None)
    assert found.without_weight == grams.count(None)
    assert found.complete == (None not in grams)
    assert (found.per_square_metre is None) == all(g is None for g in grams)


def test_weighed_and_estimated_stay_apart_and_the_range_is_of_the_estimate_alone() -> None:
    found = summed(row("300"), row("100", estimated=True))
    assert (found.weighed_g, found.estimated_g) == (300, 100)
    assert found.range_g == (350, 500)


def test_a_plantings_ground_counts_once_however_often_it_was_picked() -> None:
    found = summed(row("200"), row("300"), row("100", part="leaf"))
    assert found.area_m2 == 0.5
    assert found.per_square_metre == 1200
    assert found.per_plant_g == 15


def test_ground_picked_in_two_seasons_counts_once_but_its_days_in_each() -> None:
    stays = GrownPlanting("p", "Bed 1", "radish", "", 2.0, 10, date(2026, 8, 1), date(2026, 9, 30))
    found = summed(row("200"), row("300", season="2025–26"), plantings=(stays,))
    assert found.area_m2 == 2.0
    assert found.area_days == 2.0 * (31 + 30)


def test_days_held_are_counted_within_a_season() -> None:
    planting = grown()
    assert days_held(planting, None) == 40
    assert days_held(planting, (date(2027, 5, 1), date(2027, 8, 1))) == 10
    assert days_held(planting, (date(2028, 1, 1), date(2028, 8, 1))) == 0


def test_totals_by_group_are_those_of_their_own_rows() -> None:
    plantings = {"p": grown(), "q": grown("q", "Bed 2", 1.0)}
    rows = [row("200"), row("300", planting="q"), row("100", planting="q", part="leaf")]
    by_bed = totals_by(rows, plantings, lambda s: plantings[s.planting].bed, SEASONS)
    assert {bed: t.grams for bed, t in by_bed.items()} == {"Bed 1": 200, "Bed 2": 400}
    assert by_bed["Bed 2"].area_m2 == 1.0


def test_no_picking_is_not_a_harvest_of_nothing() -> None:
    with pytest.raises(ValueError, match="nothing to add up"):
        summed()


def test_the_usual_range_is_only_for_the_main_part_and_below_only_with_all_weights() -> None:
    low, high = RADISH.yield_g_m2
    half = 0.5
    assert against_usual(RADISH, summed(row(str(low * half - 1))), "root") == "below"
    assert against_usual(RADISH, summed(row(str(low * half - 1)), row(None)), "root") == ""
    assert against_usual(RADISH, summed(row(str(low * half + 1))), "root") == "within"
    assert against_usual(RADISH, summed(row(str(high * half + 1)), row(None)), "root") == "above"
    assert against_usual(RADISH, summed(row(str(high))), "leaf") == ""
    assert against_usual(RADISH, summed(row(None)), "root") == ""


def seasons(*values: str | None) -> list[tuple[str, Total]]:
    return [(f"y{n}", summed(row(value))) for n, value in enumerate(values)]


def words(value: float) -> str:
    return f"{value:.0f}"


@pytest.mark.parametrize(
    ("values", "says", "silent"),
    [
        ((), "nothing to compare", "(n"),
        (("100",), "n = 1", "trend"),
        (("100", "200"), "two seasons are no trend", "more"),
        (("100", "200", "300"), "n = 3", "more each season"),
        (("100", "200", "300", "400"), "more each season", "no steady"),
        (("400", "300", "200", "100"), "less each season", "no steady"),
        (("100", "300", "200", "400"), "no steady rise or fall", "each season"),
        (("100", None, "300"), "Left out for want of weights: y1", "n = 3"),
    ],
)
def test_seasons_are_compared_with_their_number_and_no_trend_from_two(
    values: tuple[str | None, ...], says: str, silent: str
) -> None:
    said = across_seasons(seasons(*values), words)
    assert says in said
    assert silent not in said


def test_servings_are_of_vegetables_and_fruit_only() -> None:
    assert servings(RADISH, 239.9) == 2
    assert servings(CROPS["strawberry"], Decimal(80)) == 1
    for crop in ("potato", "basil", "winter-wheat", "zinnia"):
        assert servings(CROPS[crop], 1000) is None


def test_shares_of_one_crop_and_week_add_up_and_name_each_bed_once() -> None:
    crop, monday = catalogue()["kale"], date(2027, 5, 3)
    shares = [
        ComingShare(monday, "p", "Bed 1", crop, 100.0, 300.0, True, "", monday),
        ComingShare(monday, "q", "Bed 2", crop, 50.0, 70.0, False, "", monday),
        ComingShare(monday, "r", "Bed 1", crop, 1.0, 2.0, True, "", monday),
    ]
    (found,) = together(shares)
    assert (found.bed, found.low_g, found.high_g, found.sure) == ("Bed 1, Bed 2", 151.0, 372.0, False)
