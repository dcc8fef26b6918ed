import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.crops import crop_fields
from almanaque.core.crops.crop import Crop
from almanaque.core.crops.crop_fields import ENTRIES, GROUPS, CropField
from almanaque.core.crops.crop_form import read, written
from almanaque.core.crops.own_crops import OwnCrop, changed_crop
from almanaque.core.errors import BadInput
from almanaque.core.units import Units
from almanaque.core.words import terms
from almanaque.data import catalogue
from tests.refuses import refuses

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


def at_most(letters: int) -> str:
    return "y" * letters


@pytest.mark.parametrize(("field", "most"), [("name", 60), ("es", 60), ("botanical", 120), ("care", 400)])
def test_words_may_be_so_long_and_no_longer(field: str, most: int) -> None:
    assert read(ENTRIES[field], at_most(most), "us", ["direct"]) == at_most(most)
    with refuses("crops.figure_too_long", field=field, most=most, figure=ENTRIES[field].label):
        read(ENTRIES[field], at_most(most + 1), "us", ["direct"])


@pytest.mark.parametrize(
    ("field", "text", "code", "shown"),
    [
        ("season", "w" * 30, "no_choice", 20),
        ("nectar", "w" * 30, "not_yes_or_no", 20),
        ("germination", "w" * 30, "not_a_number", 20),
        ("emerges", "1 to 2 to " + "3" * 40, "not_a_range", 30),
        ("blooms", "w" * 30, "not_a_month", 20),
        ("methods", "w" * 40, "no_way_of_starting", 30),
        ("parts", "w" * 40, "not_a_part", 30),
        ("weights_g", "w" * 40, "not_a_weight", 30),
    ],
)
def test_what_was_written_is_told_back_as_far_as_it_can_be_read(field: str, text: str, code: str, shown: int) -> None:
    with refuses(f"crops.figure_{code}", field=field, text=text[:shown]):
        read(ENTRIES[field], text, "us", ["direct"])


def test_a_choice_that_may_be_none_says_so() -> None:
    with refuses("crops.figure_no_choice", choices="none, dormant, before winter"):
        read(ENTRIES["set_when"], "in spring", "us", ["direct"])
    assert read(ENTRIES["set_when"], "dormant", "us", ["direct"]) == "dormant"


@pytest.mark.parametrize(
    ("field", "text", "us", "metric"),
    [
        ("bears_c", "50", 10.0, 50.0),
        ("germination_c", "41, 50, 59", [5.0, 10.0, 15.0], [41.0, 50.0, 59.0]),
        ("in_row_mm", "2", 50.8, 20.0),
    ],
)
def test_figures_without_a_unit_are_in_the_schools_own(field: str, text: str, us: object, metric: object) -> None:
    assert read(ENTRIES[field], text, "us", ["direct"]) == pytest.approx(us)
    assert read(ENTRIES[field], text, "metric", ["direct"]) == pytest.approx(metric)


@pytest.mark.parametrize(
    ("field", "text", "value"),
    [
        ("blooms", "1, 12", [1, 12]),
        ("blooms", "jun, December", [6, 12]),
        ("germination", "−0,5", -0.5),
        ("picking_days", "12", 12),
        ("picking_days", "999999", 999999),
        ("emerges", "7", [7, 7]),
        ("ph", "6.5", [6.5, 6.5]),
        ("nectar", "NO", False),
        ("methods", "direct, Direct, indoors", ["direct", "indoors"]),
        ("degree_days", "900, 800", {"direct": 900.0, "indoors": 800.0}),
        ("weights_g", "head 400.5", {"head": 400.5}),
    ],
)
def test_the_ends_of_what_can_be_written_are_read(field: str, text: str, value: object) -> None:
    assert read(ENTRIES[field], text, "metric", ("direct", "indoors")) == value


@pytest.mark.parametrize("text", ["0", "13", "ju", "ma"])
def test_what_is_no_one_month_is_refused(text: str) -> None:
    with refuses("crops.figure_not_a_month", field="blooms", text=text):
        read(ENTRIES["blooms"], text, "us", ["direct"])


def test_a_million_is_too_large_and_a_little_less_is_not() -> None:
    assert read(ENTRIES["picking_days"], "999999", "us", ["direct"]) == 999_999
    with refuses("crops.figure_too_large", field="picking_days"):
        read(ENTRIES["picking_days"], "1000000", "us", ["direct"])


def test_nothing_written_is_nothing_kept_by_its_kind() -> None:
    empty = {"caution": "", "botanical": None, "blooms": [], "degree_days": {}, "parts": {}, "thin_to_mm": None}
    for field, value in empty.items():
        if ENTRIES[field].optional:
            assert read(ENTRIES[field], " \n ", "us", ["direct"]) == value
        else:
            with refuses("crops.figure_missing", field=field):
                read(ENTRIES[field], " \n ", "us", ["direct"])


def test_a_field_of_the_form_is_made_as_it_is_asked() -> None:
    assert crop_fields._text("a", "A") == CropField("a", "A", "text", "", True)
    assert crop_fields._text("a", "A", "say", long=True, optional=False) == CropField("a", "A", "long", "say", False)
    assert crop_fields._choice("a", "A", "x", "y") == CropField("a", "A", "choice", "", False, ("x", "y"))


@pytest.mark.parametrize(("units", "bears", "apart"), [("us", "25 °F", "3 in"), ("metric", "−4 °C", "7.6 cm")])
def test_written_figures_are_in_the_schools_units(units: Units, bears: str, apart: str) -> None:
    radish = CROPS["radish"]
    assert (written(radish, ENTRIES["bears_c"], units), written(radish, ENTRIES["in_row_mm"], units)) == (bears, apart)


def test_a_span_of_one_figure_is_written_as_that_figure() -> None:
    radish = CROPS["radish"].model_copy(update={"ph": (6.5, 6.5)})
    assert written(radish, ENTRIES["ph"], "us") == "6.5"
    assert written(CROPS["radish"], ENTRIES["ph"], "us") == "6 to 7"


def test_a_way_of_starting_that_is_none_is_told_the_ways_there_are() -> None:
    with refuses("crops.figure_no_way_of_starting", ways=", ".join(terms("method").values())):
        read(ENTRIES["methods"], "thrown", "us", ["direct"])


def test_part_of_a_span_that_is_no_number_is_named_with_its_field() -> None:
    for field in ("ph", "emerges"):
        with refuses("crops.figure_not_a_number", field=field, text="many"):
            read(ENTRIES[field], "4 to many", "us", ["direct"])
