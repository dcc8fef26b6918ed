from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.errors import BadInput
from almanaque.core.units import (
    format_area,
    format_distance,
    format_length,
    format_mass,
    format_mass_range,
    format_temperature,
    format_yield,
    parse_length,
    parse_mass,
    parse_size,
    parse_temperature,
)
from tests.refuses import refuses


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("4 ft 6 in", "1371.6"),
        ("4'6\"", "1371.6"),
        ("4′6″", "1371.6"),
        ('54"', "1371.6"),
        ("1.37 m", "1370"),
        ("137 cm", "1370"),
        ("1/4 in", "6.35"),
        ("4 1/2 in", "114.3"),
        ("½ in", "12.7"),
        ("2½ in", "63.5"),
        ("0,3 m", "300"),
        ("1/16 in", "1.5875"),
        ("4 FEET", "1219.2"),
        ("1 m 37 cm", "1370"),
        ("1,370 mm", "1370"),
        ("1,370.5 mm", "1370.5"),
        ("1.370,5 mm", "1370.5"),
        ("1 370 mm", "1370"),
        ("1,370 m", "1370"),
        ("1.370 m", "1370"),
        ("0,125 in", "3.175"),
        ("1,200 ft", "365760"),
        ("18 in.", "457.2"),
        ("4 ft. 6 in.", "1371.6"),
        ("4-1/2 ft", "1371.6"),
        ("2 yd", "1828.8"),
    ],
)
def test_lengths_are_read_as_people_write_them(text: str, mm: str) -> None:
    assert parse_length(text) == Decimal(mm)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("-3 ft", "units.below_zero"),
        ("4 ft x", "units.not_a_quantity"),
        ("", "units.quantity_missing"),
        ("12", "units.unit_unsaid"),
        ("12 stone", "units.unit_unknown"),
        ("6 in 4 ft", "units.units_out_of_order"),
        ("4 ft 4 ft", "units.units_out_of_order"),
        ("9999999 m", "units.too_large"),
        ("x" * 200, "units.quantity_too_long"),
        ("∞ ft", "units.not_a_quantity"),
        ("1,2,3 m", "units.unit_unsaid"),
        ("1.2.3 m", "units.unit_unsaid"),
        ("1 1000 mm", "units.unit_unsaid"),
    ],
)
def test_a_length_that_cannot_be_read_says_why_and_how_to_write_it(text: str, says: str) -> None:
    with refuses(says) as refused:
        parse_length(text)
    assert "4 ft 6 in" in refused.value.message


def test_a_fraction_over_nothing_is_refused() -> None:
    with refuses("units.divides_by_nothing"):
        parse_length("1/0 in")


def test_a_bare_number_takes_the_unit_of_its_field() -> None:
    assert parse_length("12", bare_unit="in") == Decimal("304.8")


@given(st.integers(min_value=0, max_value=16 * 12 * 400))
def test_whole_sixteenths_survive_writing_and_reading(sixteenths: int) -> None:
    mm = Decimal(sixteenths) * Decimal("1.5875")
    assert parse_length(format_length(mm, "us")) == mm
    assert parse_length(format_length(mm, "us", feet=False)) == mm


@given(st.integers(min_value=0, max_value=200_000))
def test_whole_millimetres_survive_writing_and_reading(mm: int) -> None:
    assert parse_length(format_length(mm, "metric")) == mm


@given(st.text(max_size=80))
def test_any_text_is_a_length_or_a_plain_refusal(text: str) -> None:
    try:
        outcome: object = parse_length(text)
    except BadInput as error:
        outcome = error.message
    assert outcome.endswith(".") if isinstance(outcome, str) else outcome >= 0


def test_a_size_needs_two_sides_longer_than_nothing() -> None:
    assert parse_size("4 ft x 3 ft") == (Decimal("1219.2"), Decimal("914.4"))
    assert parse_size("1.2 m × 80 cm") == (Decimal(1200), Decimal(800))
    assert parse_size("1,2 x 2,4 m") == (Decimal(1200), Decimal(2400))
    for text in ("4 ½ x 8 ft", "4½ by 8'", "4-1/2 x 8 ft 0 in", "4.5 × 8 feet"):
        assert parse_size(text) == (Decimal("1371.6"), Decimal("2438.4")), text
    for text in ("4 ft x", "4 ft", "4 ft x 3 ft x 2 ft", "0 ft x 3 ft"):
        with pytest.raises(BadInput):
            parse_size(text)


def test_masses_and_temperatures() -> None:
    assert parse_mass("2 lb 3 oz") == Decimal("992.2333")
    assert parse_temperature("32 °F") == 0
    assert parse_temperature("−2.5 °C") == Decimal("-2.5")
    for text in ("30", "-500 °C", "warm"):
        with pytest.raises(BadInput):
            parse_temperature(text)


def test_what_is_shown_carries_its_unit() -> None:
    assert format_length(Decimal("609.6"), "us", feet=False) == "24 in"
    assert format_mass(450, "us") == "15.9 oz"
    assert format_mass(999, "metric") == "999 g"
    assert format_temperature(-2, "metric") == "−2 °C"
    assert format_temperature(-40, "us") == "−40 °F"
    assert format_area(2.97289728, "us") == "32.0 sq ft"
    assert format_yield(4882.428, "us") == "1.00 lb per sq ft"


@pytest.mark.parametrize(
    ("low", "high", "us", "metric"),
    [
        (0, 1224, "up to 2.7 lb", "up to 1.22 kg"),
        (680, 2540, "1.5 to 5.6 lb", "0.68 to 2.54 kg"),
        (300, 300.1, "10.6 oz", "300 g"),
        (100, 300, "3.5 to 10.6 oz", "100 to 300 g"),
        (453.59, 907.18, "1.0 to 2.0 lb", "454 to 907 g"),
    ],
)
def test_a_range_of_masses_is_told_in_one_unit(low: float, high: float, us: str, metric: str) -> None:
    assert (format_mass_range(low, high, "us"), format_mass_range(low, high, "metric")) == (us, metric)


def test_sixteen_ounces_are_a_pound_and_a_thousand_grams_a_kilogram() -> None:
    assert (format_mass(453.59, "us"), format_mass(999.6, "metric")) == ("1.0 lb", "1.00 kg")


def test_a_way_over_land_is_told_in_the_schools_units() -> None:
    assert (format_distance(60, "us"), format_distance(60, "metric")) == ("37 miles", "60 km")


def test_what_is_hotter_than_any_garden_is_refused() -> None:
    with refuses("units.too_hot"):
        parse_temperature("10001 °C")


def test_a_range_of_kilograms_is_told_in_kilograms() -> None:
    assert format_mass_range(1500, 2500, "metric") == "1.50 to 2.50 kg"
