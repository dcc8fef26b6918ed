"""Crop coefficients against FAO-56 as another package carries it.

Source: Allen, Pereira, Raes & Smith (1998), FAO Irrigation and Drainage Paper 56, tables 11 and 12, from pyfao56 1.4.3 (public
domain) by `tools/fao_tables.py`. Where the paper gives a range, the package has one figure of it, and so have we.
"""

import csv
import tomllib
from importlib.resources import files
from pathlib import Path

import pytest

from almanaque.data import catalogue

TABLES = list(
    csv.DictReader((Path(__file__).parent / "data/fao56-tables.csv").read_text(encoding="utf-8").splitlines())
)
OTHERS = tomllib.loads((files("almanaque.data") / "other_figures.toml").read_text(encoding="utf-8"))
OURS = tomllib.loads((files("almanaque.data") / "coefficients.toml").read_text(encoding="utf-8"))
FIGURES = ("first", "second", "third", "fourth")


@pytest.mark.parametrize("row", [row for row in TABLES if row["table"] == "12"], ids=lambda row: row["row"])
def test_single_coefficients_are_those_of_table_12(row: dict[str, str]) -> None:
    expected = [float(row[name]) for name in FIGURES[:3]]
    assert OURS[row["row"]]["kc"] == pytest.approx(expected)


@pytest.mark.parametrize("name", sorted({row["row"] for row in TABLES if row["table"] == "11"}))
def test_stages_are_one_of_the_rows_of_table_11(name: str) -> None:
    rows = [[int(row[figure]) for figure in FIGURES] for row in TABLES if (row["row"], row["table"]) == (name, "11")]
    assert OURS[name]["stages"] in rows


def test_heights_of_other_sources_are_those_of_table_12() -> None:
    heights = OTHERS["fao56-heights"]["height_mm"]
    known = {crop.key: crop.coefficients for crop in catalogue()}
    table = {row["row"]: row["fourth"] for row in TABLES if row["table"] == "12"}
    assert {crop: height / 1000 for crop, height in heights.items()} == {
        crop: float(table[known[crop]]) for crop in heights
    }
