import pytest

from almanaque.core.crops import catalogue as catalogue_file
from almanaque.core.crops.catalogue import OtherFigure, parse, tables
from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.data import catalogue
from tests.refuses import refuses

CROPS = catalogue()
EMPTY = ("temperatures_c = []\n[days]\n", "")  # tables without rows
TEXT = """
[sources]
memory = "from memory"
[kale]
is.code = "Ka"
is.name = { en = "Kale", es = "Col" }
is.botanical = "Brassica oleracea"
is.family = "Brassicaceae"
is.group = "cabbages"
is.life = "biennial"
season = "cool"
bears_c = -12
heat_c = 32
germination_c = [5, 25, 35]
base_c = 4
methods = ["direct"]
windows = ["direct, last freeze, -4 to 6"]
emerges = [5, 10]
days = { direct = [55, 65] }
picking_days = 110
picked = "many"
part = "leaf"
ready_sign = "leaves as long as a hand"
how_to_pick = "lowest first"
depth_mm = "1/2 in"
in_row_mm = "24 in"
row_mm = "24 in"
height_mm = "24 in"
width_mm = "24 in"
sun_least_h = 5
soil_least_mm = "12 in"
ph = [6.0, 7.5]
feeding = "middling"
germination = 0.85
pollination = "not needed"
care = "Pick from below, often."
ages_from = 4
food_group = "dark green vegetables"
weights_g = { bunch = 250 }
yield_g_m2 = [1500, 4500]
sources = { default = "memory" }
"""
ROWS = tables('temperatures_c = [0, 5]\n[days]\nradish = ["none", 29]', "carrot = { kc = [0.7, 1.05, 0.95] }")
FILLED_IN = {"key", "emergence_days", "water", "own", "based_on", "corrected_days", "sources"}


def test_the_catalogue_has_the_crops_of_a_school_garden_with_codes_of_their_own() -> None:
    assert len(CROPS) >= 95
    assert len({crop.code for crop in CROPS}) == len(CROPS)


OF_WOODLAND = ("zigzag-goldenrod", "spicebush", "spring-beauty", "trout-lily", "ivy")  # they want little sun


@pytest.mark.parametrize("crop", list(CROPS), ids=lambda crop: crop.key)
def test_every_value_has_a_source_and_stands_in_a_sane_range(crop: Crop) -> None:
    for field in type(crop).model_fields.keys() - FILLED_IN:
        assert CROPS.sources[crop.source_of(field)]
    assert set(crop.sources) - {"default"} <= set(type(crop).model_fields)
    assert 1 <= crop.depth_mm <= 320
    assert 35 <= crop.in_row_mm <= crop.row_mm <= 4500
    longest = 1500 if crop.life == "perennial" else 300
    assert all(20 <= least <= most <= longest for least, most in crop.days.values())
    assert crop.per_square is None or crop.per_square in (1, 4, 8, 9, 16)
    assert crop.weights_g
    assert crop.botanical.split()[0].istitle()
    assert (1 if crop.key in OF_WOODLAND else 3) <= crop.sun_least_h <= 8
    assert 120 <= crop.soil_least_mm <= 620
    assert 4 <= crop.ph[0] < crop.ph[1] <= 8
    assert crop.seeds_per_gram is None or 0.5 <= crop.seeds_per_gram <= 10_000
    assert crop.bears_c < crop.heat_c
    assert crop.base_c <= crop.germination_c[1]


GROUPS = {
    "roots": 6,
    "leaves": 7,
    "cabbages": 8,
    "onions": 4,
    "legumes": 8,
    "gourds": 5,
    "nightshades": 5,
    "grains": 3,
    "cover crops": 5,
    "herbs": 15,
    "flowers": 15,
    "berries": 4,
    "perennials": 2,
    "trees": 3,
}


def test_every_kind_of_crop_is_there_and_named_in_two_languages() -> None:
    found = [crop.group for crop in CROPS]
    assert all(found.count(group) >= least for group, least in GROUPS.items())
    assert len({crop.name.en for crop in CROPS}) == len({crop.name.es for crop in CROPS}) == len(CROPS)


def test_every_crop_can_be_planned_without_weather_too() -> None:
    for crop in CROPS:
        for method in crop.methods:
            assert any(window.method == method for window in crop.windows) or crop.methods[0] != method, crop.key
        assert crop.pollination != "insects" or crop.blooms or crop.bloom_days, crop.key
        assert not crop.nectar or crop.blooms or crop.bloom_days or crop.life != "annual", crop.key


def test_what_is_poisonous_says_so_where_it_is_planned() -> None:
    assert {crop.key for crop in CROPS if crop.poisonous} >= {"potato", "rhubarb", "milkweed", "lima-bean", "asparagus"}
    assert all(crop.caution for crop in CROPS if crop.poisonous)


def test_published_rows_are_filled_in_and_those_that_are_not_there_refused() -> None:
    named = TEXT.replace("base_c = 4", 'base_c = 4\nemergence = "radish"\ncoefficients = "carrot"')
    kale = parse(named, ROWS)["kale"]
    assert kale.emergence_days == (None, 29.0)
    assert kale.water is not None
    assert kale.water.kc == (0.7, 1.05, 0.95)
    with pytest.raises(BadInput, match="the row “turnip”, which the table does not have"):
        parse(named.replace('"radish"', '"turnip"'), ROWS)
    with pytest.raises(ValueError, match="has 3 entries"):
        tables("temperatures_c = [0, 5]\n[days]\nradish = [1, 2, 3]", "")


def test_a_refusal_names_the_line_of_the_field_and_of_a_value_written_twice() -> None:
    wrong = TEXT.replace('row_mm = "24 in"\nheight', 'row_mm = "24 parsecs"\nheight')
    line = next(n for n, text in enumerate(wrong.splitlines(), start=1) if "parsecs" in text)
    with pytest.raises(BadInput, match=f"^Line {line}, crop “kale”, row_mm"):
        parse(wrong)
    with pytest.raises(BadInput, match="season is written twice"):
        parse(TEXT.replace('season = "cool"', 'season = "cool"\nwarmth = { season = "warm" }'))


@pytest.mark.parametrize(
    ("old", "new", "says"),
    [
        ('in_row_mm = "24 in"', 'in_row_mm = "24 inchs"', "in_row_mm.*not a unit"),
        ('in_row_mm = "24 in"', "in_row_mm = 24", "in_row_mm.*with its unit"),
        ("emerges = [5, 10]", "emerges = [10, 5]", "emerges must be two whole numbers in order"),
        ('methods = ["direct"]', 'methods = ["direct", "starts"]', "no range for “starts”"),
        ('methods = ["direct"]', 'methods = ["cloves"]', "days has no range|stock"),
        ("germination = 0.85", "germination = 85", "germination"),
        ('default = "memory"', 'default = "hearsay"', "names the source “hearsay”"),
        ('code = "Ka"', 'code = "kale"', "code"),
        ('season = "cool"', 'season = "cool"\ncolour = "green"', "colour"),
        ("-4 to 6", "soon", "write a window like"),
        ("-4 to 6", "6 to -4", "two whole numbers in order"),
        ("germination_c = [5, 25, 35]", "germination_c = [25, 5, 35]", "least, best, most"),
        ("base_c = 4", "base_c = 4\ncold_days = 40", "without_cold must be given"),
        ("base_c = 4", "base_c = 4\nblooms = [13]", "numbers from 1 to 12"),
        ("yield_g_m2 = [1500, 4500]", "yield_g_m2 = [0, 4500]", "yield_g_m2"),
        ("[kale]", "[kale", "not TOML"),
    ],
)
def test_a_wrong_value_is_refused_with_crop_and_field(old: str, new: str, says: str) -> None:
    assert old in TEXT
    with pytest.raises(BadInput, match=says):
        parse(TEXT.replace(old, new))


def test_a_crop_that_is_not_there_is_refused_in_words() -> None:
    assert parse(TEXT)["kale"].spacing_mm == pytest.approx(609.6)
    with pytest.raises(BadInput, match="no crop “moonflower”"):
        CROPS["moonflower"]


def test_two_crops_cannot_share_a_code() -> None:
    twice = TEXT + TEXT.split("[sources]")[1].split('"from memory"')[1].replace("[kale]", "[collard]")
    with pytest.raises(BadInput, match="share the code"):
        parse(twice)


def test_months_without_leaves_turn_round_south_of_the_equator() -> None:
    apple = CROPS["apple"]
    assert apple.bare_in(southern=False) == {11, 12, 1, 2, 3}
    assert apple.bare_in(southern=True) == {5, 6, 7, 8, 9}


def test_what_comes_from_a_published_table_names_it() -> None:
    radish = CROPS["radish"]
    assert (radish.source_of("emergence_days"), radish.source_of("water")) == ("harrington-minges", "fao-56")
    assert CROPS["mizuna"].source_of("emergence") in CROPS.sources
    assert {source for crop in CROPS for source in crop.sources.values()} <= set(CROPS.sources)


def test_a_figure_of_another_source_names_a_crop_and_a_field() -> None:
    other = '[tall]\nsource = "a book"\n[tall.height_mm]\n{} = 400\n'
    assert tables(*EMPTY, other.format("kale")).others["kale", "height_mm"] == (OtherFigure(400, "a book"),)
    both = other.format("kale") + '[low]\nsource = "a chart"\n[low.height_mm]\nkale = 300\n'
    assert [one.source for one in tables(*EMPTY, both).others["kale", "height_mm"]] == ["a book", "a chart"]
    assert parse(TEXT, tables(*EMPTY, other.format("kale")))["kale"].height_mm > 0
    for wrong in (other.format("moon"), other.format("kale").replace("height_mm", "hight_mm")):
        with refuses("crops.catalogue_other_figure"):
            parse(TEXT, tables(*EMPTY, wrong))


def test_tables_are_read_row_by_row() -> None:
    found = tables('temperatures_c = [0, 5, 10]\n[days]\npea = ["", "none", 36]', "pea = { kc = [0.5, 1.15, 1.1] }")
    assert found.temperatures_c == (0.0, 5.0, 10.0)
    assert found.emergence == {"pea": (None, None, 36.0)}
    assert found.coefficients["pea"].kc == (0.5, 1.15, 1.1)
    assert found.others == {}
    with pytest.raises(ValueError, match="the row of pea has 1 entries"):
        tables("temperatures_c = [0, 5]\n[days]\npea = [3]", "")


RED = '\n[red-kale]\nlike = "LIKE"\nis.code = "Rk"\nis.name = { en = "Red kale", es = "Col roja" }\n'


def with_red_kale(like: str) -> str:
    return TEXT + RED.replace("LIKE", like)


def test_a_crop_has_the_values_of_the_one_it_is_like_and_of_that_ones_own() -> None:
    third = (
        '[black-kale]\nlike = "red-kale"\nis.code = "Bk"\nheat_c = 30\nis.name = { en = "Black kale", es = "Col" }\n'
    )
    found = parse(with_red_kale("kale").replace("[red-kale]", "[red-kale]\nbears_c = -15") + third)
    assert (found["red-kale"].bears_c, found["red-kale"].heat_c, found["red-kale"].code) == (-15, 32, "Rk")
    assert (found["black-kale"].bears_c, found["black-kale"].heat_c, found["kale"].heat_c) == (-15, 30, 32)


def test_a_crop_that_is_like_nothing_or_goes_round_is_refused_at_its_line() -> None:
    heading = 1 + with_red_kale("").splitlines().index("[red-kale]")
    for like in ("moon", "red-kale"):
        with refuses("crops.catalogue_crop", key="red-kale", line=heading):
            parse(with_red_kale(like))
    circle = with_red_kale("blue-kale") + '[blue-kale]\nlike = "red-kale"\nis.code = "Bl"\n'
    with refuses("crops.catalogue_crop", key="red-kale") as refused:
        parse(circle)
    assert "goes round in a circle" in str(refused.value.params["problem"])


@pytest.mark.parametrize(
    ("text", "key", "name", "line"),
    [
        ("[kale]\nheat_c = 1\n", "kale", "heat_c", 2),
        ("[kale]\nheat_c = 1\n", "kale", "bears_c", 1),
        ("[pea]\nheat_c = 1\n[kale]\nheat_c = 2\n", "kale", "heat_c", 4),
        ('[pea]\n["red kale"]\nbears_c = 2\n', "red kale", "heat_c", 2),
        ('[pea]\n["red kale"]\nbears_c = 2\n', "red kale", "bears_c", 3),
        ("[kale]\n[kale.warmth]\nheat_c = 2\n[pea]\nbears_c = 1\n", "kale", "heat_c", 3),
        ("[kale]\n[kale.warmth]\n[pea]\nheat_c = 1\n", "kale", "heat_c", 1),
        ("[kale]\nwarmth = { heat_c = 2 }\n", "kale", "heat_c is too low", 2),
        ("[kale]\nwarmth = { heat_cold = 2 }\n", "kale", "heat_c", 1),
        ("[kale]\nheat_c = 1\n", "kale", "", 1),
        ("[pea]\n", "kale", "heat_c", 1),
    ],
)
def test_a_mistake_is_named_with_the_line_of_its_field_or_of_its_crop(
    text: str, key: str, name: str, line: int
) -> None:
    assert catalogue_file._line(text, key, name) == line


def test_a_catalogue_needs_no_sources_of_its_own() -> None:
    bare = TEXT.replace('[sources]\nmemory = "from memory"\n', "").replace('default = "memory"', 'default = "fao-56"')
    assert set(parse(bare).sources) == set(catalogue_file.PUBLISHED)


def test_what_two_values_say_together_is_named_with_the_line_of_the_first_of_them() -> None:
    wrong = TEXT.replace('methods = ["direct"]', 'methods = ["direct", "indoors"]')
    with refuses("crops.catalogue_field", key="kale") as refused:
        parse(wrong)
    assert "Value error" not in str(refused.value.params["name"])
    lines = wrong.splitlines()
    assert str(refused.value.params["line"]) in {
        str(1 + at) for at, line in enumerate(lines) if line.startswith(("[kale]", "methods", "days", "weeks_indoors"))
    }


def test_a_crop_that_is_not_there_is_named_as_far_as_it_can_be_read() -> None:
    with refuses("crops.no_such_crop", key="x" * 40):
        CROPS["x" * 41]
