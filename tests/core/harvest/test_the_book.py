"""Forecast and fact, what is to come, what worked, planting stock, money and made products."""

from datetime import date, timedelta
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.errors import BadInput
from almanaque.core.growth.growth_dates import forecast
from almanaque.core.harvest import coming_harvest, forecast_error, money, products, what_worked
from almanaque.core.harvest.coming_harvest import GrowingCrop
from almanaque.core.harvest.forecast_error import ForecastOutcome
from almanaque.core.harvest.learned_shift import Nearby
from almanaque.core.harvest.what_worked import CropSeason
from almanaque.core.school.school_year import Calendar, SchoolYear, Span
from almanaque.core.seeds import planting_stock
from almanaque.data import bushels_lb, catalogue
from almanaque.data import planting_stock as stock_table
from tests.refuses import refuses

CROPS = catalogue()
KALE, RADISH, GARLIC = CROPS["kale"], CROPS["radish"], CROPS["garlic"]


def fact(error: int, season: str, *, corrected: int = 0, crop: str = "kale") -> ForecastOutcome:
    day = date(2027, 5, 1)
    return ForecastOutcome(
        crop,
        "Bed 1",
        season,
        "starts",
        day,
        day + timedelta(days=25),
        day + timedelta(days=30),
        day + timedelta(days=35),
        day + timedelta(days=60),
        day + timedelta(days=30 + error),
        day + timedelta(days=50),
        corrected,
    )


def test_an_error_is_told_with_its_number_of_plantings_and_seasons() -> None:
    (error,) = forecast_error.errors([fact(6, "a"), fact(8, "b"), fact(4, "b")])
    assert forecast_error.words(error) == (
        "6 days later than forecast, in the middle of 3 plantings in 2 seasons; 1 of 3 within the range given"
    )


def test_the_first_season_already_teaches_and_more_of_them_teach_more() -> None:
    (one,) = forecast_error.errors([fact(9, "a")])
    (three,) = forecast_error.errors([fact(9, "a"), fact(9, "b"), fact(9, "c")])
    (small,) = forecast_error.errors([fact(4, "a"), fact(4, "b"), fact(4, "c")])
    # People usually come three days after it is ready: that teaches nothing.
    assert 0 < one.learned < three.learned < 6
    assert three.usable == round(three.learned) >= 2
    assert three.unsure < one.unsure
    assert small.usable == 0


def test_one_odd_season_does_not_decide() -> None:
    (steady,) = forecast_error.errors([fact(3, "a"), fact(3, "b"), fact(3, "d")])
    (odd,) = forecast_error.errors([fact(3, "a"), fact(3, "b"), fact(3, "d"), fact(40, "c")])
    assert abs(odd.learned - steady.learned) < 3


def test_a_correction_in_use_is_not_applied_twice() -> None:
    (bare,) = forecast_error.errors([fact(9, "a"), fact(9, "b"), fact(9, "c")])
    (used,) = forecast_error.errors([fact(9, "a"), fact(9, "b"), fact(3, "c", corrected=6)])
    assert used.learned == pytest.approx(bare.learned, abs=0.6)


@given(st.integers(-60, 60))
def test_a_corrected_crop_ripens_so_many_days_later_and_never_at_once(days: int) -> None:
    moved = forecast_error.corrected(RADISH, days)
    least, most = moved.days["direct"]
    assert 1 <= least <= most
    middle = sum(RADISH.days["direct"]) / 2
    assert (least + most) / 2 >= middle / 2 - 2
    if days >= 0:
        assert least == RADISH.days["direct"][0] + days
    assert moved.digest != RADISH.digest or days == 0
    assert moved.corrected_days == days


def test_plants_that_come_again_are_not_corrected() -> None:
    assert forecast_error.corrected(CROPS["strawberry"], 9) is CROPS["strawberry"]


def standing(crop_key: str = "kale", *, picked: float = 0.0, sure: bool = True) -> GrowingCrop:
    crop = CROPS[crop_key]
    return GrowingCrop(
        "p", "Bed 5", crop, forecast(crop, crop.methods[0], date(2027, 4, 1)), 1.0, 4, picked, None, sure
    )


@given(st.integers(0, 400), st.floats(0, 20_000))
def test_what_is_to_come_is_never_more_than_is_usual_and_less_what_was_picked(ahead: int, picked: float) -> None:
    today = date(2027, 4, 1) + timedelta(days=ahead)
    one = standing(picked=picked)
    low, high, _ = coming_harvest.usual_yield(KALE, area_m2=1.0, plants=4)
    shares = coming_harvest.by_week(one, today=today, until=today + timedelta(days=400))
    assert sum(s.high_g for s in shares) <= max(0.0, high - picked) + 1e-6
    assert all(0 <= s.low_g <= s.high_g + 1e-9 for s in shares)
    assert all(s.monday.weekday() == 0 and s.monday + timedelta(days=6) >= today for s in shares)
    assert low < high


def test_what_is_picked_once_comes_in_one_week() -> None:
    shares = coming_harvest.by_week(standing("radish"), today=date(2027, 4, 1), until=date(2027, 12, 1))
    assert len(shares) == 1
    assert shares[0].monday <= standing("radish").dates.first_pick <= shares[0].monday + timedelta(days=6)


def test_three_seasons_of_ones_own_replace_the_catalogue() -> None:
    assert coming_harvest.usual_yield(KALE, area_m2=2.0, plants=8, own=[900, 1100])[2].startswith("the catalogue")
    assert coming_harvest.usual_yield(KALE, area_m2=2.0, plants=8, own=[900, 1100, 1000]) == (
        1800,
        2200,
        "your own 3 seasons",
    )


def test_the_same_crop_of_a_week_is_told_once_with_all_its_beds() -> None:
    shares = coming_harvest.by_week(standing("radish"), today=date(2027, 4, 1), until=date(2027, 12, 1))
    (both,) = coming_harvest.together(
        [*shares, *[s.__class__(**{**vars(s), "bed": "Bed 2", "sure": False}) for s in shares]]
    )
    assert both.bed == "Bed 5, Bed 2"
    assert both.high_g == pytest.approx(2 * shares[0].high_g)
    assert not both.sure


YEAR = SchoolYear(
    "2026–27",
    date(2026, 9, 1),
    date(2027, 8, 31),
    (Span("All", date(2026, 9, 1), date(2027, 6, 16)),),
    (Span("Spring break", date(2027, 4, 5), date(2027, 4, 18)),),
)
CALENDAR = Calendar((YEAR,))


def season(first: date | None, *, lost: bool = False) -> CropSeason:
    return CropSeason("2026–27", "Bed 1", date(2027, 3, 1), first, first, lost)


def test_pickings_that_fell_into_a_break_propose_to_sow_earlier() -> None:
    found = what_worked.propose(
        [season(date(2027, 6, 23)), season(date(2027, 6, 25)), season(date(2027, 6, 10))], CALENDAR
    )
    assert found
    assert (found.days_earlier, found.helped, found.of) == (10, 3, 3)
    assert found.sentence == "Sow 10 days earlier: ready before the break in 3 of 3 plantings, by calendar days."
    assert what_worked.met(season(date(2027, 6, 23)), CALENDAR) == "in a break"


def test_no_proposal_while_children_were_there_or_nothing_was_picked() -> None:
    assert (
        what_worked.propose([season(date(2027, 5, 10)), season(None), season(date(2027, 6, 20), lost=True)], CALENDAR)
        is None
    )
    assert what_worked.met(season(date(2027, 5, 10)), CALENDAR) == "before"
    assert what_worked.met(season(None), CALENDAR) == "not picked"


def test_weeks_too_late_want_another_season() -> None:
    found = what_worked.propose([season(date(2027, 8, 30))], CALENDAR)
    assert found
    assert found.days_earlier == 0
    assert "choose a faster variety" in found.sentence


def test_sowing_days_are_told_with_what_came_of_them() -> None:
    said = what_worked.sown_words([season(date(2027, 5, 10)), season(None, lost=True), season(None)])
    assert said == "1 Mar 2027, picked from 10 May; 1 Mar 2027, lost; 1 Mar 2027, not picked"


def test_a_bulb_of_so_many_cloves_serves_so_many_children() -> None:
    assert planting_stock.keep(24, per_unit=8, survival=0.9) == planting_stock.Keep(27, 4, 8)
    assert planting_stock.keep(24, per_unit=8, survival=1) == planting_stock.Keep(24, 3, 8)
    assert planting_stock.from_pieces(10, stock_table(), "garlic") == (50, 120)
    assert planting_stock.from_pieces(10, stock_table(), "radish") is None


@given(st.integers(1, 5000), st.integers(1, 40), st.floats(0.05, 1.0))
def test_what_is_kept_is_enough_and_one_unit_less_is_not(wanted: int, per_unit: int, survival: float) -> None:
    kept = planting_stock.keep(wanted, per_unit=per_unit, survival=survival)
    assert kept.pieces * survival >= wanted - 1e-9
    assert kept.units * per_unit >= kept.pieces
    assert (kept.units - 1) * per_unit < kept.pieces


@pytest.mark.parametrize(("wanted", "per_unit", "survival"), [(0, 8, 0.9), (10, 0, 0.9), (10, 8, 0), (10, 8, 1.5)])
def test_planting_stock_that_cannot_be_is_refused(wanted: int, per_unit: int, survival: float) -> None:
    with pytest.raises(BadInput):
        planting_stock.keep(wanted, per_unit=per_unit, survival=survival)


@pytest.mark.parametrize(
    ("text", "minor"),
    [
        ("12", 1200),
        ("12.5", 1250),
        ("12,50", 1250),
        ("$12.50", 1250),
        ("12.50 USD", 1250),
        ("usd 3", 300),
        ("1,250.00", 125000),
    ],
)
def test_money_is_read_as_people_type_it(text: str, minor: int) -> None:
    assert money.parse(text, "USD") == minor


@pytest.mark.parametrize("text", ["12 EUR", "€12", "£5", "12 CAD"])
def test_a_price_in_another_currency_is_refused_in_words(text: str) -> None:
    with refuses("harvest.other_currency"):
        money.parse(text, "USD")


@pytest.mark.parametrize("text", ["", "abc", "-5", "0", "1.234", "=1+1", "$5 USD", "99999999999999"])
def test_what_is_no_money_is_refused(text: str) -> None:
    with pytest.raises(BadInput):
        money.parse(text, "USD")


@given(
    st.lists(
        st.tuples(st.sampled_from(money.KINDS), st.integers(1, 10_000), st.sampled_from(["", "Barrel", "Seed"])),
        max_size=30,
    )
)
def test_balances_together_are_the_whole_ledger(rows: list[tuple[money.Kind, int, str]]) -> None:
    entries = [money.MoneyEntry(*row) for row in rows]
    found = money.balances(entries, {"Barrel": 5000})
    assert sum(b.left for b in found.values()) == sum(-e.minor if e.kind == "purchase" else e.minor for e in entries)
    assert "Barrel" in found
    share = found["Barrel"].share
    assert share is not None
    assert 0 <= share <= 1


def test_money_is_written_with_its_currency_and_worth_by_the_unit() -> None:
    assert money.write(-123456, "EUR") == "−1,234.56 EUR"
    assert money.worth(Decimal(907), price_minor=350, grams_per_unit=453.59237) == 700


@pytest.mark.parametrize("kind", products.KINDS)
def test_every_product_that_is_eaten_has_a_caution_and_selling_a_licence(kind: products.Kind) -> None:
    codes = {f.code for f in products.cautions(kind, for_sale=True)}
    assert "product_licence" in codes
    assert (len(products.cautions(kind, for_sale=False)) > 0) == (kind != "seedlings")


def test_oil_is_the_one_that_is_a_fault() -> None:
    faults = {kind for kind in products.KINDS for f in products.cautions(kind, for_sale=True) if f.severity == "fault"}
    assert faults == {"in oil"}


def test_tables_name_crops_of_the_catalogue_and_sane_amounts() -> None:
    assert all(10 <= pounds <= 80 for pounds in bushels_lb().values())
    assert all(
        1 <= m.pieces[0] <= m.pieces[1] and 1 <= m.harvested[0] <= m.harvested[1] for m in stock_table().values()
    )


def test_a_goal_is_reached_by_what_came_in_and_by_no_more_than_all_of_it() -> None:
    assert money.Balance(2500, 900, 10_000).share == 0.25
    assert money.Balance(12_000, 0, 10_000).share == 1.0
    assert money.Balance(2500, 900, None).share is None
    assert money.Balance(2500, 900, 10_000).left == 1600


def test_what_a_school_may_tell_others_is_a_share_for_each_crop() -> None:
    facts = [fact(9, "a"), fact(9, "b"), fact(0, "a", crop="radish")]
    told = forecast_error.own_shares(facts)
    assert list(told) == ["kale", "radish"]
    assert told["kale"].share > told["radish"].share
    assert 0 < told["kale"].unsure < told["radish"].unsure
    assert forecast_error.own_shares([]) == {}


def test_what_neighbours_found_moves_a_crop_that_was_never_measured_here() -> None:
    nearby = [Nearby("kale", 0.2, 0.03, 4), Nearby("radish", -0.2, 0.03, 4)]
    days = forecast_error.of_neighbours(KALE, nearby)
    least, most = KALE.days[KALE.methods[0]]
    assert 0 < days < 0.2 * (least + most) / 2
    assert forecast_error.of_neighbours(RADISH, nearby) < 0
    assert forecast_error.of_neighbours(GARLIC, nearby) == 0
    moved = forecast_error.corrected(KALE, 10)
    assert forecast_error.of_neighbours(moved, nearby) == days, "a correction in use does not count twice"
