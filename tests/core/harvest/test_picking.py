from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.errors import BadInput
from almanaque.core.harvest import picking
from almanaque.core.harvest.picking import (
    SHARE,
    USES,
    Weighing,
    curing_loss,
    doubt,
    parse_amount,
    parts_of,
    read_unit,
    split,
    tasted,
    unit_choices,
    unit_weight,
    units_of,
    weigh,
)
from almanaque.data import bushels_lb, catalogue
from tests.refuses import refuses

CROPS = catalogue()
RADISH, KALE, POTATO, LETTUCE = (CROPS[key] for key in ("radish", "kale", "potato", "lettuce"))


def test_weights_are_exact_and_counts_are_estimates_with_a_range() -> None:
    assert weigh(RADISH, Decimal(2), "lb") == picking.Weight(Decimal("907.18"), False)
    counted = weigh(RADISH, Decimal(10), "count")
    assert (counted.grams, counted.estimated, counted.low, counted.high) == (150, True, 105, 195)
    assert counted == weigh(RADISH, Decimal(1), "bunch")


def test_a_unit_nobody_has_weighed_is_kept_without_a_weight() -> None:
    assert weigh(LETTUCE, Decimal(2), "basket") == picking.Weight(None, True)
    assert weigh(LETTUCE, Decimal(2), "apron full").grams is None


@pytest.mark.parametrize(
    ("amount", "unit", "says"),
    [
        ("0", "lb", "harvest.picking_of_nothing"),
        ("-1", "lb", "harvest.picking_of_nothing"),
        ("NaN", "lb", "harvest.picking_of_nothing"),
        ("1e9", "kg", "harvest.picking_over_two_tonnes"),
        ("1", "", "harvest.unit_too_long"),
        ("1", "=cmd()", "harvest.unit_too_long"),
        ("1", "x" * 21, "harvest.unit_too_long"),
        ("0.00001", "g", "harvest.picking_too_light"),
    ],
)
def test_an_amount_that_cannot_be_is_refused(amount: str, unit: str, says: str) -> None:
    with refuses(says):
        weigh(RADISH, Decimal(amount), unit)


def test_units_are_read_whatever_their_capitals() -> None:
    assert (read_unit(" LB "), read_unit("Bunch"), read_unit("Apron  full")) == ("lb", "bunch", "Apron full")


def test_one_weighing_narrows_the_range_and_more_take_their_spread() -> None:
    by_catalogue = unit_weight(KALE, "bunch")
    once = unit_weight(KALE, "bunch", [Weighing("bunch", Decimal(2), Decimal(500))])
    often = unit_weight(KALE, "bunch", [Weighing("bunch", Decimal(1), Decimal(g)) for g in (240, 250, 260)])
    assert by_catalogue
    assert once
    assert often
    assert once.grams == 250
    assert (once.low, once.high) == pytest.approx((212.5, 287.5))
    assert "weighed once here" in once.source
    assert (often.low, often.high) == pytest.approx((230, 270))
    assert (by_catalogue.high - by_catalogue.low) / by_catalogue.grams == pytest.approx(0.6)


def test_weighings_that_agree_still_leave_five_per_cent() -> None:
    same = unit_weight(KALE, "bunch", [Weighing("bunch", Decimal(1), Decimal(200))] * 4)
    assert same
    assert (same.low, same.high) == pytest.approx((190, 210))


def test_a_quart_is_two_pints_and_a_peck_a_quarter_of_the_bushel() -> None:
    pea = CROPS["pea"]
    quart, pint = unit_weight(pea, "quart"), unit_weight(pea, "pint")
    assert quart
    assert pint
    assert quart.grams == pytest.approx(2 * pint.grams)
    peck = unit_weight(POTATO, "peck", (), bushels_lb())
    assert peck
    assert peck.grams == pytest.approx(15 * 453.59237)
    assert unit_weight(LETTUCE, "peck", (), bushels_lb()) is None


@pytest.mark.parametrize(
    ("text", "amount"),
    [("3", "3"), ("2.5", "2.5"), ("2,5", "2.5"), ("1/2", "0.5"), ("1 1/2", "1.5"), ("1½", "1.5"), ("0.0001", "0.001")],
)
def test_amounts_are_read_as_people_type_them(text: str, amount: str) -> None:
    assert parse_amount(text, "count") == Decimal(amount)


@pytest.mark.parametrize("text", ["", "-3", "three", "1/0", "1 2 3", "1e5", "nan", "0", "½½½½½½½½½½½½", "٣", "9" * 15])
def test_other_amounts_are_refused(text: str) -> None:
    with pytest.raises(BadInput):
        parse_amount(text, "count")


def test_units_and_parts_begin_with_the_crops_own() -> None:
    assert units_of(RADISH, [Weighing("crate", Decimal(1), Decimal(9000))])[:7] == [
        "lb",
        "oz",
        "kg",
        "g",
        "count",
        "bunch",
        "crate",
    ]
    assert parts_of(RADISH)[:3] == ["root", "leaf", "pod"]
    assert unit_choices(CROPS, "us")[0] == "lb"
    assert unit_choices(CROPS, "metric", ["crate"])[0] == "kg"
    assert "crate" in unit_choices(CROPS, "metric", ["crate"])


AMOUNTS = st.decimals("0.001", "5000", places=3)


@given(AMOUNTS, st.lists(st.tuples(st.sampled_from(USES), st.integers(0, 100)), max_size=8), st.sampled_from(USES))
def test_uses_always_add_up_to_the_whole_picking(amount: Decimal, wanted: list[tuple[str, int]], rest: str) -> None:
    """Mass balance: whatever is named, shares come to 1 exactly, and each use gets what was typed for it."""
    total = sum(share for _, share in dict(wanted).items())
    parts = {use: (amount * share / max(total, 100)).quantize(Decimal("0.001")) for use, share in dict(wanted).items()}
    while sum(parts.values()) > amount:
        largest = max(parts, key=lambda use: parts[use])
        parts[largest] -= Decimal("0.001")
    shares = split(amount, parts, rest)
    assert sum(shares.values()) == 1
    assert all(share > 0 for share in shares.values())
    for use, part in parts.items():
        if use != rest:
            assert shares.get(use, Decimal(0)) * amount == pytest.approx(part, abs=amount * len(parts) * SHARE)


def test_uses_beyond_the_picking_are_refused_with_the_difference() -> None:
    with pytest.raises(BadInput, match=r"come to 6, but 5 was picked. Lower them by 1\."):
        split(Decimal(5), {"kitchen": Decimal(4), "sold": Decimal(2)}, "compost")
    with refuses("harvest.use_unknown"):
        split(Decimal(5), {"eaten by the cat": Decimal(1)}, "kitchen")
    with refuses("harvest.use_below_nothing"):
        split(Decimal(5), {"sold": Decimal(-1)}, "kitchen")


def test_thirds_come_to_the_whole() -> None:
    shares = split(Decimal(3), {"kitchen": Decimal(1), "sold": Decimal(1)}, "compost")
    assert sum(shares.values()) == 1
    assert set(shares) == {"kitchen", "sold", "compost"}


def test_a_tonne_of_radish_is_asked_about_and_a_good_harvest_is_not() -> None:
    assert doubt(RADISH, Decimal(1_000_000), area_m2=0.5, plants=80) == pytest.approx(
        1_000_000 / (RADISH.yield_plant_g[1] * 80)
    )
    assert doubt(RADISH, Decimal(2500), area_m2=0.5, plants=80) is None
    assert doubt(RADISH, Decimal(2500), area_m2=0.5, plants=80, before=Decimal(9000)) is not None
    assert doubt(RADISH, Decimal(400), area_m2=0.01, plants=1) is None
    assert doubt(RADISH, None, area_m2=0.5, plants=80) is None


def test_curing_loses_weight_and_never_gains_it() -> None:
    assert curing_loss(Decimal(1000), Decimal(650)) == pytest.approx(0.35)
    with refuses("harvest.cured_heavier"):
        curing_loss(Decimal(1000), Decimal(1001))


def test_no_more_like_it_than_tried_it() -> None:
    assert tasted(20, 13) == "13 of 20 liked it"
    for tried, liked in ((0, 0), (5, 6), (5, -1)):
        with pytest.raises(BadInput):
            tasted(tried, liked)


@pytest.mark.parametrize("crop", ["radish", "kale", "tomato"])
def test_amounts_at_a_tap_can_all_be_weighed(crop: str) -> None:
    for units in ("us", "metric"):
        for amount, unit in picking.at_a_tap(CROPS[crop], units):
            assert weigh(CROPS[crop], parse_amount(amount, "count"), unit).grams is not None
