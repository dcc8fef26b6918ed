"""Numbers as people type them into forms: thousands set apart, two sides with one unit, volumes by the yard."""

import pytest

from almanaque.web import forms
from tests.refuses import refuses


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("1,200", 1200),
        ("−1,200", -1200),
        ("1.200", 1.2),
        ("1.200,5", 1200.5),
        ("12,5", 12.5),
        ("-1,5", -1.5),
        ("", None),
    ],
)
def test_three_digits_behind_a_comma_are_thousands(text: str, value: float | None) -> None:
    assert forms.number(text, field="x", what="lead_in_ppm") == value


def test_but_decimals_where_only_these_lie_within_the_limits() -> None:
    for text, value in (("48,856", 48.856), ("−48,856", -48.856)):
        assert forms.number(text, field="latitude", what="latitude", within=(-90.0, 90.0)) == value
    for text in ("1.200,5", "91"):
        with refuses("forms.number_out_of_range", field="latitude"):
            forms.number(text, field="latitude", what="latitude", within=(-90.0, 90.0))
    for text in ("-", "--1", "nan", "1 2", "1,2,3"):
        with (
            refuses("forms.not_a_decimal", field="x") if text != "nan" else refuses("forms.number_too_large", field="x")
        ):
            forms.number(text, field="x", what="lead_in_ppm")


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        ("13:10", "13:10"),
        ("9.20", "09:20"),
        ("14:30:00", "14:30"),
        ("1:10 pm", "13:10"),
        ("2 PM", "14:00"),
        ("12 a.m.", "00:00"),
        ("12:15 p.m.", "12:15"),
        ("9", None),
        ("0940", None),
        ("13 pm", None),
        ("0 am", None),
        ("25:00", None),
        ("2:60 pm", None),
        ("noon", None),
    ],
)
def test_a_time_of_day_with_or_without_its_half(text: str, shown: str | None) -> None:
    if shown is None:
        with refuses("forms.not_a_time_of_day", field="x"):
            forms.clock_time(text, field="x")
    else:
        assert f"{forms.clock_time(text, field='x'):%H:%M}" == shown


def test_two_sides_may_share_the_unit_of_the_second() -> None:
    assert forms.pair("4 x 8", "us", field="x") == forms.pair("4 x 8 ft", "us", field="x") == (1219.2, 2438.4)
    assert (
        forms.pair("1.2 × 2.4 m", "metric", field="x") == forms.pair("120 x 240", "metric", field="x") == (1200, 2400)
    )
    assert forms.pair("4 in x 8 ft", "us", field="x") == (101.6, 2438.4)


@pytest.mark.parametrize(
    ("text", "litres"),
    [
        ("2 cubic feet", 56.633693),
        ("1/2 yard", 382.277430),
        ("1 1/2 cu. yd.", 1146.832290),
        ("2 cubic yards", 1529.109720),
        ("1,200 L", 1200),
        ("1,5 l", 1.5),
        ("3 quarts", 2.839059),
        ("1.2 m³", 1200),
    ],
)
def test_soil_and_compost_by_the_yard(text: str, litres: float) -> None:
    assert forms.volume(text, "us", field="volume") == pytest.approx(litres, abs=1e-5)
