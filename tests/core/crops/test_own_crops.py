import pytest

from almanaque.core.crops.own_crops import OwnCrop, key_of, with_own
from almanaque.data import catalogue
from tests.refuses import refuses

CROPS = catalogue()


def test_own_figures_go_before_the_catalogues_and_say_whose_they_are() -> None:
    mine = with_own(CROPS, [OwnCrop("radish", None, {"days": {"direct": [20, 24]}, "in_row_mm": 60.0})])
    radish = mine["radish"]
    assert radish.days["direct"] == (20, 24)
    assert radish.own == {"days", "in_row_mm"}
    assert mine.sources[radish.source_of("days")] == "the school's own figure"
    assert radish.row_mm == CROPS["radish"].row_mm
    assert mine["carrot"] is CROPS["carrot"]
    assert CROPS["radish"].own == frozenset()


def test_a_variety_is_a_crop_of_its_own_that_stays_of_its_kind() -> None:
    mine = with_own(
        CROPS, [OwnCrop("early-pumpkin", "pumpkin", {"name": "Early pumpkin", "days": {"direct": [80, 90]}})]
    )
    early = mine["early-pumpkin"]
    assert (early.name.en, early.kind, early.family) == ("Early pumpkin", "pumpkin", "Cucurbitaceae")
    assert early.days["direct"] == (80, 90)
    assert early.days["starts"] == CROPS["pumpkin"].days["starts"]
    keys = [crop.key for crop in mine]
    assert keys.index("early-pumpkin") == keys.index("pumpkin") + 1
    assert early.digest != CROPS["pumpkin"].digest


def test_days_of_ones_own_go_before_a_catalogues_figure_in_warmth() -> None:
    mine = with_own(CROPS, [OwnCrop("pea", None, {"days": {"direct": [50, 55]}})])
    assert "direct" not in mine["pea"].degree_days
    both = with_own(CROPS, [OwnCrop("pea", None, {"days": {"direct": [50, 55]}, "degree_days": {"direct": 600.0}})])
    assert both["pea"].degree_days == {"direct": 600.0}


@pytest.mark.parametrize(
    ("figures", "says"),
    [
        ({"days": {"direct": [30, 20]}}, "crops.figure_of_crop"),
        ({"in_row_mm": -3.0}, "crops.figure_of_crop"),
        ({"bears_c": 99.0}, "crops.figure_of_crop"),
        ({"key": "xx"}, "crops.figure_not_settable"),
        ({"germination": 4.0}, "crops.figure_of_crop"),
    ],
)
def test_a_figure_that_cannot_be_is_refused_with_crop_and_field(figures: dict[str, object], says: str) -> None:
    with refuses(says):
        with_own(CROPS, [OwnCrop("radish", None, figures)])


def test_keys_are_made_from_names_and_never_twice() -> None:
    assert key_of("Red Ball, early!", CROPS) == "red-ball-early"
    assert key_of("Radish", CROPS) == "radish-2"
    with refuses("crops.name_without_letters"):
        key_of("?!", CROPS)
    with refuses("crops.name_without_letters", field="name"):
        key_of("ñ y", CROPS)
    assert key_of("Ox", CROPS) == "ox"
    assert key_of("w" * 51, CROPS) == "w" * 50
    three = with_own(CROPS, [OwnCrop("radish-2", "radish", {}), OwnCrop("radish-3", "radish", {})])
    assert key_of("Radish", three) == "radish-4"


def test_a_crop_of_ones_own_with_a_botanical_name_of_its_own_is_no_variety() -> None:
    figures = {"name": "Oca", "es": "Oca", "botanical": "Oxalis tuberosa", "family": "Oxalidaceae"}
    mine = with_own(CROPS, [OwnCrop("oca", "potato", figures)])["oca"]
    assert (mine.kind, mine.family, mine.name.es) == ("oca", "Oxalidaceae", "Oca")
    assert mine.days == CROPS["potato"].days


def test_ways_of_starting_that_are_given_up_take_their_figures_with_them() -> None:
    mine = with_own(CROPS, [OwnCrop("beet", None, {"methods": ["direct"]})])["beet"]
    assert (mine.methods, set(mine.days)) == (("direct",), {"direct"})
    assert {window.method for window in mine.windows} == {"direct"}
    with refuses("crops.figure_of_crop"):
        with_own(CROPS, [OwnCrop("radish", None, {"methods": ["direct", "indoors"]})])


def test_a_figure_that_cannot_be_is_named_as_the_form_names_it() -> None:
    with refuses("crops.figure_of_crop", field="in_row_mm", crop="Radish", label="distance in the row") as refused:
        with_own(CROPS, [OwnCrop("radish", None, {"in_row_mm": -3.0})])
    assert not str(refused.value.params["problem"]).startswith("Value error")
    # What two figures say together is no one field's.
    with refuses("crops.figure_of_crop", field="", label="its figures") as refused:
        with_own(CROPS, [OwnCrop("radish", None, {"methods": ["direct", "indoors"]})])
    assert not str(refused.value.params["problem"]).startswith("Value error")


def test_warmth_of_ones_own_adds_to_the_catalogues_and_none_takes_it_away() -> None:
    corn = CROPS["sweet-corn"]
    first = next(iter(corn.degree_days))
    mine = with_own(CROPS, [OwnCrop(corn.key, None, {"degree_days": {first: 777.0}})])[corn.key]
    assert mine.degree_days == {**corn.degree_days, first: 777.0}
    assert with_own(CROPS, [OwnCrop(corn.key, None, {"degree_days": {}})])[corn.key].degree_days == {}


@pytest.mark.parametrize("figures", [{"emerges": [5, 20]}, {"germination_c": [4.0, 20.0, 33.0]}])
def test_each_figure_of_coming_up_goes_before_the_published_table(figures: dict[str, object]) -> None:
    mine = with_own(CROPS, [OwnCrop("radish", None, figures)])["radish"]
    assert (mine.emergence, mine.emergence_days) == ("", ())


def test_figures_of_the_seed_go_before_the_published_table() -> None:
    mine = with_own(CROPS, [OwnCrop("radish", None, {"emerges": [5, 20]})])["radish"]
    assert (mine.emergence, mine.emergence_days) == ("", ())
    assert CROPS["radish"].emergence_days


def test_support_follows_its_kind() -> None:
    mine = with_own(
        CROPS, [OwnCrop("radish", None, {"support_kind": "stake"}), OwnCrop("pea", None, {"support_kind": ""})]
    )
    assert (mine["radish"].support, mine["pea"].support) == (True, False)


def test_figures_of_seed_put_the_published_table_aside_and_others_leave_it() -> None:
    tabled = next(crop for crop in CROPS if crop.emergence)
    wider = with_own(CROPS, [OwnCrop(tabled.key, None, {"in_row_mm": 99.0})])
    assert wider[tabled.key].emergence == tabled.emergence
    assert wider.tables == CROPS.tables
    seed = with_own(CROPS, [OwnCrop(tabled.key, None, {"emerges": [4, 9]})])
    assert seed[tabled.key].emergence == ""


def test_a_name_of_ones_own_stands_in_both_languages_until_the_other_is_given() -> None:
    named = with_own(CROPS, [OwnCrop("radish", None, {"name": "Red globe"})])["radish"]
    assert (named.name.en, named.name.es) == ("Red globe", "Red globe")
    spanish = with_own(CROPS, [OwnCrop("radish", None, {"es": "Rabanito"})])["radish"]
    assert (spanish.name.en, spanish.name.es) == (CROPS["radish"].name.en, "Rabanito")
