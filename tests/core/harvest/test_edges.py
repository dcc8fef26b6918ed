"""The edges of the harvest's rules: the first value that is taken and the last, each word that is said, each order."""

from datetime import date, timedelta
from decimal import Decimal

import pytest

from almanaque.core.harvest import forecast_error, money, picking, products, what_worked, yields
from almanaque.core.harvest.forecast_error import Error, ForecastOutcome
from almanaque.core.harvest.picking import Weighing
from almanaque.core.harvest.what_worked import CropSeason
from almanaque.core.harvest.yields import Total
from almanaque.core.school.school_year import Calendar, SchoolYear, Span
from almanaque.data import catalogue
from tests.refuses import refuses

CROPS = catalogue()
RADISH, KALE, POTATO = CROPS["radish"], CROPS["kale"], CROPS["potato"]
JUNE = date(2027, 6, 16)
CALENDAR = Calendar(
    [
        SchoolYear(
            "2026–27",
            date(2026, 8, 26),
            date(2027, 8, 24),
            (Span("All of it", date(2026, 8, 26), JUNE),),
            (
                Span("Ten days, weekends included", date(2027, 4, 5), date(2027, 4, 12)),
                Span("Nine days", date(2027, 5, 3), date(2027, 5, 7)),
            ),
        )
    ],
    [],
)


def total(grams: int, area: float = 1.0, *, missing: int = 0) -> Total:
    day = date(2027, 5, 1)
    none = Decimal(0)
    return Total(1 + missing, Decimal(grams), none, none, none, missing, area, 10, area, day, day)


@pytest.mark.parametrize(
    ("text", "minor"),
    [("12\u00a0345.60\u00a0USD", None), ("1\u00a0USD", 100), ("0.01", 1), ("100000000", 10_000_000_000)],
)
def test_the_least_and_the_most_money_are_taken(text: str, minor: int | None) -> None:
    if minor is None:
        with refuses("harvest.not_money", field="amount"):
            money.parse(text, "USD")
    else:
        assert money.parse(text, "USD") == minor


@pytest.mark.parametrize(
    ("text", "code"), [("0", "money_out_of_range"), ("100000000.01", "money_out_of_range"), ("٣", "not_money")]
)
def test_money_beyond_that_is_refused_at_its_own_field(text: str, code: str) -> None:
    with refuses(f"harvest.{code}", field="goal"):
        money.parse(text, "USD", field="goal")


def test_money_is_written_with_a_minus_only_below_nothing() -> None:
    assert [money.write(minor, "USD") for minor in (-1250, -1, 0, 1, 123456789)] == [
        "−12.50 USD",
        "−0.01 USD",
        "0.00 USD",
        "0.01 USD",
        "1,234,567.89 USD",
    ]


@pytest.mark.parametrize("kind", products.KINDS)
def test_a_caution_is_about_its_kind_and_names_its_source_and_what_to_do(kind: products.Kind) -> None:
    for caution in products.cautions(kind, for_sale=True):
        assert caution.subject == kind
        assert caution.source == products.PRACTICE
        assert [fix.label for fix in caution.fixes] != []


@pytest.mark.parametrize(
    ("text", "amount"),
    [
        ("½", "0.5"),
        ("¼", "0.25"),
        ("¾", "0.75"),
        ("2 ¾", "2.75"),
        ("1.5/3", "0.5"),
        ("12345678901234567/8e9"[:17] + "/9000000000"[:3], None),
        ("999999999", "999999999"),
        ("1000000000", None),
        ("0.0001", "0.001"),
        ("1.2.3", None),
        ("٣", None),
        ("1,200", "1200"),
        ("1,200.5", "1200.5"),
        ("1.200,5", "1200.5"),
        ("1 200", "1200"),
        ("0,125", "0.125"),
        ("2 3", None),
    ],
)
def test_amounts_as_people_write_them(text: str, amount: str | None) -> None:
    if amount is None:
        with pytest.raises(picking.BadInput):
            picking.parse_amount(text, "count")
    else:
        assert picking.parse_amount(text, "count") == Decimal(amount)


def test_three_digits_behind_a_comma_are_thousands_but_of_kilograms() -> None:
    assert {unit: picking.parse_amount("1,250", unit) for unit in ("lb", "g", "kg")} == {
        "lb": 1250,
        "g": 1250,
        "kg": Decimal("1.25"),
    }


def test_an_amount_has_at_most_twenty_characters_and_two_words() -> None:
    assert picking.parse_amount("1" + " " * 16 + "1/1", "count") == 2
    for text in ("1" + " " * 17 + "1/1", "1 1 1/2", ""):
        with refuses("harvest.amount_not_a_number", field="amount"):
            picking.parse_amount(text, "count")


def test_a_unit_has_at_most_twenty_letters_blanks_hyphens_and_apostrophes() -> None:
    assert picking.read_unit("o'clock hand-full xx") == "o'clock hand-full xx"
    for text in ("o'clock hand-full xxx", "sack2", ""):
        with refuses("harvest.unit_too_long", field="unit"):
            picking.read_unit(text)


def test_units_and_taps_begin_with_what_the_school_weighs_in() -> None:
    assert picking.unit_choices([], "us")[:4] == ["lb", "oz", "kg", "g"]
    assert picking.unit_choices([], "metric")[:4] == ["kg", "g", "lb", "oz"]
    assert picking.at_a_tap(RADISH, "us")[:3] == [("1/2", "lb"), ("1", "lb"), ("2", "lb")]
    assert picking.at_a_tap(RADISH, "metric")[:3] == [("250", "g"), ("500", "g"), ("1", "kg")]
    bare = RADISH.model_copy(update={"weights_g": {}})
    assert picking.at_a_tap(bare, "us")[3:] == [("1", "count"), ("2", "count"), ("5", "count")]


def test_how_often_a_unit_was_weighed_is_said() -> None:
    def said(times: int) -> str:
        found = picking.unit_weight(
            RADISH, "bunch", [Weighing("bunch", Decimal(1), Decimal(200 + n)) for n in range(times)]
        )
        assert found is not None
        return found.source

    assert [said(n) for n in (1, 2, 3)] == ["weighed once here", "weighed twice here", "weighed 3 times here"]


def test_where_a_weight_comes_from_is_said() -> None:
    unit, grams = next(iter(RADISH.weights_g.items()))
    own = picking.unit_weight(RADISH, unit)
    assert own is not None
    assert (own.grams, own.source) == (grams, "a rough figure of the catalogue")
    in_pecks = POTATO.model_copy(update={"weights_g": {"peck": 6800.0}})
    bushel = picking.unit_weight(in_pecks, "bushel")
    assert bushel is not None
    assert (bushel.grams, bushel.source) == (4 * 6800, "from the catalogue's peck")
    bare = POTATO.model_copy(update={"weights_g": {}})
    by_law = picking.unit_weight(bare, "peck", bushel_lb={bare.kind: 60.0})
    assert by_law is not None
    assert by_law.grams == pytest.approx(60 * 453.59237 / 4)
    assert by_law.source == "from the bushel of 60 lb"
    assert picking.weigh(bare, Decimal(1), "peck", bushel_lb={bare.kind: 60.0}).grams == Decimal("6803.89")


def test_two_tonnes_and_a_hundredth_of_a_gram_are_the_last_that_are_taken() -> None:
    assert picking.weigh(RADISH, Decimal(2000), "kg").grams == 2_000_000
    assert picking.weigh(RADISH, Decimal("0.01"), "g").grams == Decimal("0.01")
    with refuses("harvest.picking_over_two_tonnes", field="amount"):
        picking.weigh(RADISH, Decimal("2000.00001"), "kg")
    with refuses("harvest.picking_too_light", field="amount"):
        picking.weigh(RADISH, Decimal("0.001"), "g")


def test_doubt_begins_above_three_times_the_usual_and_half_a_kilogram() -> None:
    usual = RADISH.yield_g_m2[1] * 10
    plain = RADISH.model_copy(update={"yield_plant_g": None})
    at = Decimal(str(3 * usual))
    assert picking.doubt(plain, at, area_m2=10, plants=0) is None
    assert picking.doubt(plain, at + 1, area_m2=10, plants=0) == pytest.approx(3 + 1 / usual)
    assert picking.doubt(plain, Decimal(1), area_m2=10, plants=0, before=at) == pytest.approx(3 + 1 / usual)
    assert picking.most_believed(plain, area_m2=0, plants=50) is None
    assert picking.most_believed(plain, area_m2=1, plants=50) == RADISH.yield_g_m2[1]


def test_curing_and_tasting_at_their_edges() -> None:
    assert picking.curing_loss(Decimal(100), Decimal(100)) == 0
    assert picking.tasted(1, 1) == "1 of 1 liked it"
    assert picking.tasted(1, 0) == "0 of 1 liked it"
    with refuses("harvest.cured_heavier", field="cured"):
        picking.curing_loss(Decimal(100), Decimal("100.01"))
    with refuses("harvest.nobody_tried", field="tried"):
        picking.tasted(0, 0)
    for liked in (-1, 2):
        with refuses("harvest.more_liked_than_tried", field="liked", liked=liked, tried=1):
            picking.tasted(1, liked)


def test_the_usual_range_takes_its_ends_in() -> None:
    low, high = (int(g) for g in KALE.yield_g_m2)
    assert [yields.against_usual(KALE, total(g), KALE.part) for g in (low - 1, low, high, high + 1)] == [
        "below",
        "within",
        "within",
        "above",
    ]
    assert yields.against_usual(KALE, total(low - 1, missing=1), KALE.part) == ""
    assert yields.against_usual(KALE, total(low), "root") == ""


def test_servings_are_whole_ones() -> None:
    assert [yields.servings(KALE, Decimal(g)) for g in (79, 80, 159, 160)] == [0, 1, 1, 2]


def words_of(values: list[tuple[str, Total]]) -> str:
    return yields.across_seasons(values, lambda number: f"{number:g}")


def test_one_season_two_and_those_left_out_are_each_named() -> None:
    assert words_of([("2025", total(100))]) == "100 in 2025, the only season with all its weights (n = 1)."
    assert words_of([("2025", total(100)), ("2026", total(200))]) == (
        "100 in 2025, 200 in 2026 (n = 2): two seasons are no trend."
    )
    said = words_of([("2024", total(50, missing=1)), ("2025", total(100)), ("2026", total(70, area=0.0))])
    assert said == (
        "100 in 2025, the only season with all its weights (n = 1). Left out for want of weights: 2024, 2026."
    )


@pytest.mark.parametrize(
    ("grams", "said"),
    [
        ([1, 2, 3, 4], "1 to 4, in the middle 2.5 (n = 4 seasons); more each season."),
        ([4, 3, 2, 1], "1 to 4, in the middle 2.5 (n = 4 seasons); less each season."),
        ([1, 2, 2, 3], "1 to 3, in the middle 2 (n = 4 seasons); no steady rise or fall."),
        ([3, 2, 2, 1], "1 to 3, in the middle 2 (n = 4 seasons); no steady rise or fall."),
        ([1, 2, 3], "1 to 3, in the middle 2 (n = 3 seasons); no steady rise or fall."),
    ],
)
def test_a_trend_rises_or_falls_in_each_of_four_seasons(grams: list[int], said: str) -> None:
    assert words_of([(str(2020 + n), total(gram)) for n, gram in enumerate(grams)]) == said


def outcome(error: int, season: str, crop: str = "kale", corrected: int = 0) -> ForecastOutcome:
    day, ends = date(2027, 5, 1), date(2027, 7, 1)
    return ForecastOutcome(
        crop, "Bed 1", season, "direct", day, day, day, day, ends, day + timedelta(error), ends, corrected
    )


def test_errors_stand_by_seasons_and_then_by_name_with_their_extremes() -> None:
    found = forecast_error.errors(
        [outcome(1, "a", "pea"), outcome(-3, "a"), outcome(5, "b"), outcome(9, "a", "beet"), outcome(2, "b", "beet", 4)]
    )
    assert [(e.crop, e.seasons, e.least, e.most) for e in found] == [
        ("beet", 2, 2, 9),
        ("kale", 2, -3, 5),
        ("pea", 1, 1, 1),
    ]
    assert found[0].learned > found[2].learned


@pytest.mark.parametrize(
    ("days", "plantings", "seasons", "said"),
    [
        (0, 1, 1, "on the day forecast, in the middle of 1 planting in 1 season; 1 of 1 within the range given"),
        (1, 2, 1, "1 day later than forecast, in the middle of 2 plantings in 1 season; 1 of 2 within the range given"),
        (
            -1,
            3,
            2,
            "1 day earlier than forecast, in the middle of 3 plantings in 2 seasons; 1 of 3 within the range given",
        ),
        (
            -2,
            3,
            2,
            "2 days earlier than forecast, in the middle of 3 plantings in 2 seasons; 1 of 3 within the range given",
        ),
    ],
)
def test_an_error_in_words(days: int, plantings: int, seasons: int, said: str) -> None:
    assert forecast_error.words(Error("kale", plantings, seasons, days, days, days, 1, days, 3.0)) == said


def season(first: date | None, **more: bool) -> CropSeason:
    return CropSeason("2026–27", "Bed 1", date(2027, 3, 1), first, first, **more)


def test_a_break_of_ten_days_is_one_and_a_shorter_one_is_not() -> None:
    assert what_worked.met(season(date(2027, 4, 10)), CALENDAR) == "in a break"
    assert what_worked.met(season(date(2027, 5, 5)), CALENDAR) == "before"


@pytest.mark.parametrize(("into", "step"), [(0, 5), (4, 5), (5, 10), (59, 60)])
def test_fives_of_days_earlier_until_the_last_one_comes_before_the_break(into: int, step: int) -> None:
    begins = next(gap.starts for gap in CALENDAR.breaks_between(JUNE + timedelta(9), JUNE + timedelta(9)))
    found = what_worked.propose([season(begins + timedelta(into)), season(date(2027, 5, 20))], CALENDAR)
    assert found is not None
    assert (found.days_earlier, found.helped, found.of) == (step, 2, 2)
    assert found.sentence == (f"Sow {step} days earlier: ready before the break in 2 of 2 plantings, by calendar days.")


def test_more_than_eight_weeks_want_another_crop() -> None:
    begins = next(gap.starts for gap in CALENDAR.breaks_between(JUNE + timedelta(9), JUNE + timedelta(9)))
    found = what_worked.propose([season(begins + timedelta(60)), season(date(2027, 5, 20))], CALENDAR)
    assert found == what_worked.Proposal(
        "Ready in a break in 1 of 2 plantings, by more than eight weeks: "
        "choose a faster variety, another season or a summer programme.",
        0,
        0,
        2,
    )


def test_a_season_that_still_grows_says_so() -> None:
    assert what_worked.sown_words([season(None, growing=True)]) == "1 Mar 2027, growing"
