import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.crops.crop import Crop
from almanaque.core.crops.crop_fields import ENTRIES, GROUPS
from almanaque.core.crops.crop_form import read, written
from almanaque.core.crops.own_crops import OwnCrop, changed_crop
from almanaque.core.errors import BadInput
from almanaque.core.units import Units
from almanaque.data import catalogue

CROPS = catalogue()
# Not in the form: they follow from others, are published tables, or belong to the file.
NOT_SET = {
    "key",
    "support",
    "emergence",
    "emergence_days",
    "coefficients",
    "water",
    "sources",
    "own",
    "based_on",
    "corrected_days",
}


def test_every_value_of_a_crop_can_be_set_once() -> None:
    fields = [entry.field for _, entries in GROUPS for entry in entries]
    assert len(fields) == len(set(fields))
    assert (set(fields) - {"es"}) | NOT_SET == set(Crop.model_fields)


@pytest.mark.parametrize("units", ["us", "metric"])
def test_what_is_written_is_read_as_the_same_figure_for_every_crop_and_field(units: Units) -> None:
    for crop in CROPS:
        for entry in ENTRIES.values():
            text = written(crop, entry, units)
            if text or entry.optional:
                again = changed_crop(
                    crop, OwnCrop(crop.key, None, {entry.field: read(entry, text, units, crop.methods)})
                )
                assert written(again, entry, units) == text, (crop.key, entry.field)


@pytest.mark.parametrize(
    ("field", "text", "value"),
    [
        ("in_row_mm", "4 in", 101.6),
        ("bears_c", "-2 °C", -2.0),
        ("germination_c", "5 °C, 20 °C, 30 °C", [5.0, 20.0, 30.0]),
        ("germination", "85 %", 0.85),
        ("germination", "0.85", 0.85),
        ("emerges", "4 to 12", [4, 12]),
        ("ph", "6 to 7.5", [6.0, 7.5]),
        ("ph", "6–7.5", [6.0, 7.5]),
        ("nectar", "Yes", True),
        ("blooms", "Apr, may, 6", [4, 5, 6]),
        ("methods", "started indoors, direct", ["indoors", "direct"]),
        ("days", "25 to 30, 40", {"direct": [25, 30], "indoors": [40, 40]}),
        ("degree_days", "", {}),
        ("degree_days", "900", {"direct": 900.0}),
        ("weights_g", "big bunch 150, head 400", {"big bunch": 150.0, "head": 400.0}),
        ("thin_to_mm", "", None),
        ("support_kind", "", ""),
        ("windows", "direct, last freeze, -4 to 6; ", ["direct, last freeze, -4 to 6"]),
        (
            "parts",
            "leaf: big enough to hold | cut the outer ones",
            {"leaf": {"sign": "big enough to hold", "how": "cut the outer ones"}},
        ),
    ],
)
def test_what_people_write_becomes_the_figure(field: str, text: str, value: object) -> None:
    assert read(ENTRIES[field], text, "us", ("direct", "indoors")) == value


@pytest.mark.parametrize(
    ("field", "text", "says"),
    [
        ("in_row_mm", "wide", "wide"),
        ("in_row_mm", "", "Distance in the row is needed"),
        ("bears_c", "cold", "cold"),
        ("germination_c", "5 °C, 20 °C", "Give three"),
        ("germination", "most", "not a number"),
        ("picking_days", "2.5", "whole number"),
        ("emerges", "4 to 12 to 20", "not a range"),
        ("emerges", "1.5 to 2", "whole numbers"),
        ("nectar", "some", "neither yes nor no"),
        ("blooms", "Ju", "not a month"),
        ("blooms", "13", "not a month"),
        ("methods", "thrown", "is none"),
        ("days", "25 to 30", "2 in all"),
        ("degree_days", "1, 2, 3", "2 in all"),
        ("weights_g", "150", "bunch 150"),
        ("parts", "leaf", "Write each as"),
        ("season", "wet", "Choose from: cool, warm"),
        ("care", "x" * 401, "at most 400"),
        ("name", " ", "Name is needed"),
        ("sun_least_h", "1e9", "too large"),
    ],
)
def test_what_cannot_be_read_is_refused_with_its_field_and_what_to_do(field: str, text: str, says: str) -> None:
    with pytest.raises(BadInput, match=says) as refused:
        read(ENTRIES[field], text, "us", ("direct", "indoors"))
    assert refused.value.field == field


@given(st.sets(st.integers(1, 12), min_size=1))
def test_months_south_of_the_equator_are_written_half_a_year_on_and_kept_as_those_of_the_north(
    months: set[int],
) -> None:
    entry = ENTRIES["blooms"]
    crop = CROPS["aster"].model_copy(update={"blooms": tuple(sorted(months))})
    south = written(crop, entry, "metric", southern=True)
    assert read(entry, south, "metric", ["starts"], southern=True) == sorted(months)
    named = read(entry, south, "metric", ["starts"])
    assert {(month + 6 - 1) % 12 + 1 for month in months} == set(named)


@pytest.mark.parametrize(("units", "mm"), [("us", 76.2), ("metric", 30.0)])
def test_a_length_without_its_unit_is_in_the_schools_own(units: Units, mm: float) -> None:
    assert read(ENTRIES["in_row_mm"], "3", units, ["direct"]) == pytest.approx(mm)
