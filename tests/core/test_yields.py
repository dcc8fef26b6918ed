from datetime import date
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.errors import BadInput
from almanaque.core.yields import Picking, against_usual, check_shares, parse_amount, total, totals_by, units_of, weigh
from almanaque.data import catalogue

RADISH = catalogue()["radish"]


def picking(
    grams: str | None, *, planting: str = "p", estimated: bool = False, bed: str = "Bed 1", season: str = "y"
) -> Picking:
    mass = Decimal(grams) if grams is not None else None
    return Picking(planting, bed, "Radish", date(2027, 5, 1), season, mass, estimated, 0.5, 40)


def test_weights_are_exact_and_counts_are_estimates() -> None:
    assert weigh(RADISH, Decimal(2), "lb").grams == Decimal("907.18")
    assert not weigh(RADISH, Decimal(2), "lb").estimated
    assert weigh(RADISH, Decimal(10), "count") == weigh(RADISH, Decimal(1), "bunch")
    assert weigh(RADISH, Decimal(10), "count").estimated


@pytest.mark.parametrize(
    ("amount", "unit", "says"),
    [("0", "lb", "more than nothing"), ("-1", "lb", "more than nothing"), ("NaN", "lb", "more than nothing"),
     ("1", "wheelbarrow", "Use one of: lb, oz, kg, g, count, bunch"), ("1e9", "kg", "two tonnes")],
)  # fmt: skip
def test_an_amount_that_cannot_be_is_refused(amount: str, unit: str, says: str) -> None:
    with pytest.raises(BadInput, match=says):
        weigh(RADISH, Decimal(amount), unit)


@pytest.mark.parametrize(
    ("text", "amount"), [("3", "3"), ("2.5", "2.5"), ("2,5", "2.5"), ("1/2", "0.5"), ("1 1/2", "1.5"), ("1½", "1.5")]
)
def test_amounts_are_read_as_people_type_them(text: str, amount: str) -> None:
    assert parse_amount(text) == Decimal(amount)


@pytest.mark.parametrize("text", ["", "-3", "three", "1/0", "1 2 3", "1e5", "nan", "0", "½½½½½½½½½½½½", "٣"])
def test_other_amounts_are_refused(text: str) -> None:
    with pytest.raises(BadInput):
        parse_amount(text)


@given(st.lists(st.one_of(st.none(), st.integers(1, 5000)), min_size=1, max_size=20), st.data())
def test_a_missing_weight_is_never_counted_as_nothing(grams: list[int | None], data: st.DataObject) -> None:
    group = [picking(None if g is None else str(g), estimated=data.draw(st.booleans())) for g in grams]
    found = total(group)
    assert found.grams == sum(g for g in grams if g is not None)
    assert found.without_weight == grams.count(None)
    assert (found.per_square_metre is None) == all(g is None for g in grams)


def test_a_plantings_ground_counts_once_however_often_it_is_picked() -> None:
    found = total([picking("100"), picking("300"), picking("200", planting="q", estimated=True)])
    assert (found.area_m2, found.plants, found.weighed_g, found.estimated_g) == (1.0, 80, 400, 200)
    assert (found.per_square_metre, found.per_plant_g) == (600.0, 7.5)


def test_totals_are_kept_apart_by_their_key() -> None:
    groups = totals_by(
        [picking("100"), picking("50", bed="Bed 2"), picking("25", season="z")], lambda p: (p.bed, p.season)
    )
    assert {key: t.grams for key, t in groups.items()} == {("Bed 1", "y"): 100, ("Bed 2", "y"): 50, ("Bed 1", "z"): 25}
    with pytest.raises(ValueError, match="nothing to add up"):
        total([])


def test_uses_must_be_known_and_add_up_to_the_picking() -> None:
    check_shares({"kitchen": Decimal("0.25"), "sold": Decimal("0.75")})
    for shares in (
        {"kitchen": Decimal("0.5")},
        {"juggled": Decimal(1)},
        {"sold": Decimal("1.5"), "lost": Decimal("-0.5")},
        {},
    ):
        with pytest.raises(BadInput):
            check_shares(shares)


def test_weights_come_before_counts() -> None:
    assert units_of(RADISH) == ["lb", "oz", "kg", "g", "count", "bunch"]


@pytest.mark.parametrize(
    ("grams", "word"), [("740", "below"), ("760", "within"), ("1750", "within"), ("1760", "above"), (None, "")]
)
def test_a_yield_is_held_against_the_usual_range(grams: str | None, word: str) -> None:
    assert RADISH.yield_g_m2 == (1500, 3500)
    assert against_usual(RADISH, total([picking(grams)])) == word  # from half a square metre
