"""Reference tables that ship with the code, each row with its source. Reading the files happens here, once."""

import tomllib
from functools import cache
from importlib.resources import files
from typing import Any

import almanaque.data.words  # noqa: F401  the words of this floor's codes
from almanaque.core.crops import catalogue as catalogue_files
from almanaque.core.crops import native_range as ranges
from almanaque.core.garden.companions import Pair
from almanaque.core.place.kinds_of_place import KindOfPlace
from almanaque.core.portrait import traits as portrait_traits
from almanaque.core.school.project_plans import Template
from almanaque.core.seeds.planting_stock import Multiplies
from almanaque.core.seeds.seed_saving import Saving
from almanaque.core.week import lesson_outlines as lesson_files
from almanaque.core.week.stations import Routine, StationKind, StationReading
from almanaque.core.year import tending as tending_rules


@cache
def catalogue() -> catalogue_files.Catalogue:
    """The crops of `crops.toml` and `natives.toml`, checked, with the rows of published tables that they name."""
    return catalogue_files.parse(
        "\n".join((_text("crops.toml"), _text("natives.toml"))),
        catalogue_files.tables(_text("emergence.toml"), _text("coefficients.toml"), _text("other_figures.toml")),
    )


@cache
def native_range() -> ranges.NativeRange:
    """Regions of the earth in which the crops are native, and where they are fought."""
    return ranges.read(_text("native_range.toml"))


@cache
def portraits() -> portrait_traits.Portraits:
    """What the crops look like. Raises ValueError for a crop of the catalogue without a row."""
    found = portrait_traits.read("\n".join((_text("portraits.toml"), _text("native_portraits.toml"))))
    missing = [crop.key for crop in catalogue() if crop.key not in found]
    if missing:
        raise ValueError(f"portraits.toml lacks {', '.join(missing)}")
    return found


@cache
def code_words() -> tuple[str, ...]:
    """Words for codes that children type: no two differ by one letter only."""
    return tuple(_text("code_words.txt").split())


@cache
def plan_templates() -> dict[str, Template]:
    """Plans of stages to begin from, by key."""
    return {found.key: found for found in (Template(**row) for row in tomllib.loads(_text("stages.toml"))["template"])}


@cache
def lessons() -> dict[str, lesson_files.LessonOutline]:
    """Lesson outlines by key. Raises BadInput for one that cannot be, ValueError for a crop that the catalogue lacks."""
    found = lesson_files.read(_text("lessons.toml"), _text("lesson_pages.toml"))
    strange = {crop for lesson in found.values() for crop in lesson.crops} - set(catalogue().crops)
    if strange:
        raise ValueError(f"lessons.toml names {', '.join(sorted(strange))}, which the catalogue does not have")
    return found


@cache
def kinds_of_place() -> dict[str, KindOfPlace]:
    """Kinds of place for a garden, by key."""
    return {row["key"]: KindOfPlace(**row) for row in tomllib.loads(_text("kinds_of_place.toml"))["kind"]}


@cache
def station_kinds() -> dict[str, StationKind]:
    """Kinds of station, by key."""
    return {row["key"]: _kind(row) for row in tomllib.loads(_text("stations.toml"))["kind"]}


def _kind(row: dict[str, Any]) -> StationKind:
    readings = tuple(StationReading(**{**r, "choices": tuple(r.get("choices", ()))}) for r in row.pop("readings", ()))
    routines = tuple(Routine(**r) for r in row.pop("routine", ()))
    return StationKind(
        **{
            **row,
            "readings": readings,
            "routines": routines,
            "supplies": tuple(row.get("supplies", ())),
            "asleep": tuple(row.get("asleep", ())),
        }
    )


@cache
def neighbour_pairs() -> tuple[Pair, ...]:
    """What is said of crops side by side, each with whose word it is. Raises ValueError for a name no crop or family has."""
    pairs = tuple(Pair(**row) for row in tomllib.loads(_text("neighbours.toml"))["pair"])
    known = {name for crop in catalogue() for name in (crop.key, f"family:{crop.family}")}
    strange = {name for pair in pairs for name in (pair.a, pair.b)} - known
    if strange:
        raise ValueError(f"neighbours.toml names {', '.join(sorted(strange))}, which the catalogue does not have")
    return pairs


@cache
def bushels_lb() -> dict[str, float]:
    """Pounds in a bushel, by crop. Raises ValueError for a crop that the catalogue lacks."""
    found = {crop: float(pounds) for crop, pounds in tomllib.loads(_text("bushels.toml"))["pounds"].items()}
    if strange := set(found) - set(catalogue().crops):
        raise ValueError(f"bushels.toml names {', '.join(sorted(strange))}, which the catalogue does not have")
    return found


@cache
def seed_saving() -> dict[str, Saving]:
    """How seed is saved, by crop. Raises ValueError for a crop that the catalogue lacks, or one that is named twice."""
    found: dict[str, Saving] = {}
    for crop, row in tomllib.loads(_text("seed_saving.toml")).items():
        saving = Saving(row["pollinated"], row["plants"], row.get("second_year", False), row["sign"], row["how"])
        for name in (crop, *row.get("also", ())):
            if name in found or name not in catalogue():
                raise ValueError(f"seed_saving.toml names {name}, which is there already or not in the catalogue")
            found[name] = saving
    return found


@cache
def ways_to_eat() -> dict[str, dict[str, str]]:
    """Ways to eat the parts of crops, `main` the one it is grown for. Raises ValueError for a crop or part that is not there."""
    found: dict[str, dict[str, str]] = tomllib.loads(_text("ways_to_eat.toml"))
    for crop, ways in found.items():
        if crop not in catalogue() or set(ways) - {"main"} - set(catalogue()[crop].parts):
            raise ValueError(f"ways_to_eat.toml names {crop} with {', '.join(ways)}")
    return found


@cache
def crop_names() -> dict[str, tuple[str, ...]]:
    """Other names of crops in English. Raises ValueError for a crop that the catalogue lacks."""
    found = {crop: tuple(names) for crop, names in tomllib.loads(_text("crop_names.toml")).items()}
    if strange := set(found) - set(catalogue().crops):
        raise ValueError(f"crop_names.toml names {', '.join(sorted(strange))}, which the catalogue does not have")
    return found


@cache
def tending() -> tuple[tending_rules.Practice, ...]:
    """What plantings want between sowing and clearing. Raises ValueError for a crop that the catalogue lacks."""
    found = tending_rules.read(_text("tending.toml"))
    if strange := {crop for one in found for crop in one.crops} - set(catalogue().crops):
        raise ValueError(f"tending.toml names {', '.join(sorted(strange))}, which the catalogue does not have")
    return found


@cache
def planting_stock() -> dict[str, Multiplies]:
    """How crops that are set in the ground multiply. Raises ValueError for a crop that the catalogue lacks."""
    rows = tomllib.loads(_text("planting_stock.toml"))
    if strange := set(rows) - set(catalogue().crops):
        raise ValueError(f"planting_stock.toml names {', '.join(sorted(strange))}, which the catalogue does not have")
    return {
        crop: Multiplies(row["unit"], row["piece"], tuple(row["pieces"]), tuple(row.get("harvested", (1, 1))))
        for crop, row in rows.items()
    }


def _text(name: str) -> str:
    return (files("almanaque.data") / name).read_text(encoding="utf-8")
