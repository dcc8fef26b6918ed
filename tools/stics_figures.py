#!/usr/bin/env python3
"""Write what the plant files of a crop model have for crops of the catalogue, for the tests: tools/stics_figures.py FOLDER

FOLDER is an unpacked pystics (development only; nothing of it ships). It writes `tests/reference/data/stics-figures.csv`: for each crop
of the same species the temperatures between which its development follows a straight line, `tdmin` and `tdmax` [°C], and the greatest
height of its stand, `hautmax` [m], of the first variety in the file.
"""

import csv
import re
import sys
from pathlib import Path

OUT = Path(__file__).resolve().parents[1] / "tests/reference/data/stics-figures.csv"
# Our crop: its plant file. Left out are other species under a like name (fodder radish, bristle oat) and, but for the
# temperatures of beet, other uses of one (sugar beet).
FILES = {
    "beet": "sugarbeet",
    "crimson-clover": "CrimsonClover_CoverCrop",
    "flax": "proto_flax",
    "lettuce": "proto_lettuce",
    "pea": "pea",
    "potato": "proto_potato",
    "soybean": "proto_soybean",
    "strawberry": "proto_strawberry",
    "sunflower": "proto_sunflower",
    "sweet-corn": "corn",
    "tomato": "proto_tomato",
    "winter-wheat": "wheat",
}
FIGURES = {"tdmin": "base_c", "tdmax": "upper_c", "hautmax": "height_m"}


def main(folder: Path) -> None:
    with OUT.open("w", encoding="utf-8", newline="") as file:
        out = csv.writer(file, lineterminator="\n")
        out.writerow(["crop", "file", *FIGURES.values()])
        for crop, name in FILES.items():
            plant = folder / "pystics/parametrization_files/plant" / f"{name}_plt.xml"
            text = plant.read_text(encoding="latin-1")
            out.writerow([crop, plant.name, *(figure(text, key) for key in FIGURES)])


def figure(text: str, key: str) -> float:
    found = re.search(rf'nom="{key}">([^<]+)<', text)
    assert found, f"{key} is not in that file"
    return float(found[1])


main(Path(sys.argv[1]))
