#!/usr/bin/env python3
"""Write the rows of FAO-56 that the catalogue uses, as a package carries them, for the tests: tools/fao_tables.py FOLDER

FOLDER is an unpacked pyfao56 (development only; nothing of it ships). It writes `tests/reference/data/fao56-tables.csv`: of table 12
the three single crop coefficients and the greatest height [m], of table 11 every row of lengths of the four stages [d].
"""

import csv
import re
import sys
from pathlib import Path

OUT = Path(__file__).resolve().parents[1] / "tests/reference/data/fao56-tables.csv"
# Our row of coefficients: the crop in table 12, and in table 11 where it has stages there.
ROWS = {
    "broccoli": ("broccoli", "broccoli"),
    "cabbage": ("cabbage", "cabbage"),
    "carrot": ("carrots", "carrots"),
    "cauliflower": ("cauliflower", "cauliflower"),
    "celery": ("celery", "celery"),
    "crucifers": ("cabbage", "crucifers"),
    "garlic": ("garlic", ""),
    "lettuce": ("lettuce", "lettuce"),
    "onion-dry": ("onions dry", "onion dry"),
    "onion-green": ("onions green", "onion green"),
    "spinach": ("spinach", "spinach"),
    "radish": ("radish", "radish"),
    "eggplant": ("eggplant", "eggplant"),
    "sweet-pepper": ("sweet peppers bell", "sweet peppers bell"),
    "tomato": ("tomato", "tomato"),
    "cantaloupe": ("cantaloupe", "cantaloupe"),
    "cucumber": ("cucumber fresh market", "cucumber"),
    "pumpkin": ("pumpkin winter squash", "pumpkin winter squash"),
    "squash": ("squash zucchini", "squash zucchini"),
    "sweet-melon": ("sweet melons", "sweet melons"),
    "watermelon": ("watermelon", "water melons"),
    "table-beet": ("beets table", "beets table"),
    "parsnip": ("parsnip", ""),
    "potato": ("potato", "potato"),
    "sweet-potato": ("sweet potato", "sweet potato"),
    "turnip": ("turnip rutabaga", ""),
    "bean-green": ("beans green", "beans green"),
    "bean-dry": ("beans dry pulses", "beans dry"),
    "fababean": ("faba bean broad fresh", "faba bean broad"),
    "cowpea": ("green gram cowpeas harvested fresh", "green gram cowpeas"),
    "groundnut": ("groundnut peanut", "groundnut"),
    "pea": ("peas fresh", "peas"),
    "soybean": ("soybeans", "soybeans"),
    "artichoke": ("artichokes", "artichoke"),
    "asparagus": ("asparagus", "asparagus"),
    "mint": ("mint", ""),
    "strawberry": ("strawberries", ""),
    "flax": ("flax", "flax"),
    "sunflower": ("sunflower", "sunflower"),
    "oats": ("oats", ""),
    "winter-wheat": ("winter wheat non-frozen soils", ""),
    "maize-sweet": ("maize sweet corn fresh", ""),
    "maize-grain": ("maize field grain corn 18% moisture", ""),
    "berry-bush": ("berries bushes", ""),
    "grape": ("grapes table raisin", ""),
    "apple-pear": ("apples cherries pears no ground cover killing frost", ""),
    "stone-fruit": ("apricots peaches stone fruit no ground cover killing frost", ""),
}


def main(folder: Path) -> None:
    text = (folder / "pyfao56/tools/tables.py").read_text(encoding="utf-8")
    twelve = {row[0]: row[1:] for row in table(text, 12)}
    eleven: dict[str, list[list[str]]] = {}
    for row in table(text, 11):
        eleven.setdefault(row[0], []).append(row[1:])
    with OUT.open("w", encoding="utf-8", newline="") as file:
        out = csv.writer(file, lineterminator="\n")
        out.writerow(["row", "table", "crop", "first", "second", "third", "fourth", "when", "where"])
        for key, (of_twelve, of_eleven) in ROWS.items():
            out.writerow([key, 12, of_twelve, *twelve[of_twelve], "", ""])
            for row in eleven.get(of_eleven, []):
                out.writerow([key, 11, of_eleven, *row[:4], row[5], row[6]])


def table(text: str, number: int) -> list[list[str]]:
    found = re.search(rf'table{number}data = """(.*?)"""', text, re.DOTALL)
    assert found, f"table {number} is not in that file"
    return [[cell.strip() for cell in line.split(",")] for line in found[1].splitlines() if line.strip()]


main(Path(sys.argv[1]))
