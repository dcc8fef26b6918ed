"""Temperatures of growth and heights beside those of a crop model.

Source: plant files of STICS (INRAE) as pySTICS 1.2.5 (MIT) carries them, by `tools/stics_figures.py`.
"""

import csv
import tomllib
from importlib.resources import files
from pathlib import Path
from statistics import median

from almanaque.data import catalogue

ROWS = list(csv.DictReader((Path(__file__).parent / "data/stics-figures.csv").read_text(encoding="utf-8").splitlines()))
OTHERS = tomllib.loads((files("almanaque.data") / "other_figures.toml").read_text(encoding="utf-8"))["stics"]
OTHER_USE = {"beet": "height_mm"}  # sugar beet is the same species, and taller
BASES_APART_C = 2.0  # most that our bases may lie from theirs at the median: our own limit
BASE_APART_C = 5.0  # and for any one


def test_what_is_told_beside_the_catalogue_is_what_the_files_have() -> None:
    for name, column, times in (("base_c", "base_c", 1), ("upper_c", "upper_c", 1), ("height_mm", "height_m", 1000)):
        theirs = {row["crop"]: float(row[column]) * times for row in ROWS if OTHER_USE.get(row["crop"]) != name}
        assert OTHERS[name] == theirs


def test_our_bases_lie_near_theirs() -> None:
    crops = catalogue()
    apart = {row["crop"]: abs(crops[row["crop"]].base_c - float(row["base_c"])) for row in ROWS}
    assert median(apart.values()) <= BASES_APART_C
    assert max(apart.values()) <= BASE_APART_C, apart
