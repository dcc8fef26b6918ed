"""The catalogue read from its file: crops by key, the published tables they name rows of, and errors with line and field.

A crop's values stand in small tables by theme (`warmth`, `start`, `stand`, `pick`, `seed`, `nature`, `people`) which only serve the
reader of the file: a crop is flat. Published tables of their own (emergence by soil temperature, crop coefficients) stand beside
it, and a crop names its row. A crop that is `like` another takes from it what it does not say itself.
"""

import re
import tomllib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

from pydantic import ValidationError

from almanaque.core.crops.crop import Coefficients, Crop
from almanaque.core.errors import BadInput

PUBLISHED_IN = {"emergence": "harrington-minges", "coefficients": "fao-56"}  # keys of the sources of those tables
PUBLISHED = {
    "harrington-minges": "Harrington & Minges (1954), days to emergence by soil temperature",
    "fao-56": "Allen, Pereira, Raes & Smith (1998), FAO-56, tables 11 and 12",
}
THEMES = ("is", "warmth", "start", "stand", "pick", "seed", "nature", "people")


@dataclass(frozen=True)
class Tables:
    """Published tables that crops name rows of: days to emergence (None: no emergence) by temperature, and coefficients."""

    temperatures_c: tuple[float, ...] = ()
    emergence: Mapping[str, tuple[float | None, ...]] = field(default_factory=dict)
    coefficients: Mapping[str, Coefficients] = field(default_factory=dict)
    others: Mapping[tuple[str, str], tuple["OtherFigure", ...]] = field(default_factory=dict)


@dataclass(frozen=True)
class OtherFigure:
    """What another source has for a field of a crop, in the unit of that field, and which source that is."""

    value: float
    source: str


def tables(emergence: str, coefficients: str, others: str = "") -> Tables:
    """The tables from their TOML. An entry that was not tried counts as no emergence at the ends of a row.

    Raises ValueError for a row whose length is not that of the temperatures.
    """
    raw = tomllib.loads(emergence)
    rows: dict[str, tuple[float | None, ...]] = {}
    for name, row in raw["days"].items():
        if len(row) != len(raw["temperatures_c"]):
            raise ValueError(f"the row of {name} has {len(row)} entries")
        rows[name] = tuple(None if isinstance(value, str) else float(value) for value in row)
    kept = {name: Coefficients(**row) for name, row in tomllib.loads(coefficients).items()}
    told: dict[tuple[str, str], tuple[OtherFigure, ...]] = {}
    for table in tomllib.loads(others).values():
        source = table.pop("source")
        for name, figures in table.items():
            for crop, value in figures.items():
                told[crop, name] = (*told.get((crop, name), ()), OtherFigure(float(value), source))
    return Tables(tuple(float(t) for t in raw["temperatures_c"]), rows, kept, told)


@dataclass(frozen=True)
class Catalogue:
    """All crops by key, in the order of the file, and the sources their values name."""

    crops: dict[str, Crop]
    sources: dict[str, str]
    tables: Tables = field(default_factory=Tables)

    def __getitem__(self, key: str) -> Crop:
        """The crop of that key. Raises BadInput for one that is not in the catalogue."""
        try:
            return self.crops[key]
        except KeyError:
            raise BadInput("crops.no_such_crop", key=key[:40]) from None

    def __contains__(self, key: str) -> bool:
        return key in self.crops

    def __iter__(self) -> Iterator[Crop]:
        return iter(self.crops.values())

    def __len__(self) -> int:
        return len(self.crops)


def parse(text: str, published: Tables | None = None) -> Catalogue:
    """Read the catalogue from TOML. Raises BadInput naming crop, field, line and what would be allowed."""
    published = published or Tables()
    try:
        raw = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise BadInput("crops.catalogue_not_toml", problem=error) from None
    sources = {**PUBLISHED, **raw.pop("sources", {})}
    crops: dict[str, Crop] = {}
    codes: dict[str, str] = {}
    for key in raw:
        try:
            crop = Crop(key=key, **_with_rows(_whole(raw, key, ()), published))
        except ValidationError as error:
            first = error.errors()[0]
            name = ".".join(str(part) for part in first["loc"]) or "the crop"
            at = _line(text, key, str(first["loc"][0]) if first["loc"] else first["msg"].removeprefix("Value error, "))
            raise BadInput(
                "crops.catalogue_field", field=name, line=at, key=key, name=name, problem=first["msg"]
            ) from None
        except ValueError as error:
            raise BadInput("crops.catalogue_crop", line=_line(text, key, ""), key=key, problem=error) from None
        for source in crop.sources.values():
            if source not in sources:
                raise BadInput("crops.catalogue_source", key=key, source=source)
        if crop.code in codes:
            raise BadInput("crops.catalogue_code_twice", key=key, other=codes[crop.code], shared=crop.code)
        codes[crop.code] = key
        crops[key] = crop
    for key, name in published.others:
        if key not in crops or name not in Crop.model_fields:
            raise BadInput("crops.catalogue_other_figure", key=key, figure=name)
    return Catalogue(crops, sources, published)


def _whole(raw: Mapping[str, dict[str, Any]], key: str, seen: tuple[str, ...]) -> dict[str, Any]:
    """A crop's values with those of the crop that it is `like`, where it has none of its own.

    Raises ValueError for one that is like nothing, or like itself.
    """
    own = _flat(raw[key])
    like = own.pop("like", "")
    if not like:
        return own
    if like not in raw or like in (key, *seen):
        raise ValueError(f"it is like “{like}”, which is not there, or goes round in a circle")
    return {**_whole(raw, like, (key, *seen)), **own}


def _flat(table: dict[str, Any]) -> dict[str, Any]:
    """A crop's values without the small tables they are written in. Raises ValueError for a value written twice."""
    found: dict[str, Any] = {}
    for name, value in table.items():
        for inner, kept in value.items() if name in THEMES and isinstance(value, dict) else ((name, value),):
            if inner in found:
                raise ValueError(f"{inner} is written twice")
            found[inner] = kept
    return found


def _with_rows(values: dict[str, Any], published: Tables) -> dict[str, Any]:
    """The values with the rows of published tables that they name. Raises ValueError for a row that is not there."""
    found = dict(values)
    for name, rows, into in (
        ("emergence", published.emergence, "emergence_days"),
        ("coefficients", published.coefficients, "water"),
    ):
        row = values.get(name, "")
        if row and row not in rows:
            raise ValueError(f"{name} names the row “{row}”, which the table does not have")
        if row:
            found[into] = rows[row]
            found["sources"] = {**found["sources"], name: PUBLISHED_IN[name], into: PUBLISHED_IN[name]}
    return found


def _line(text: str, key: str, name: str) -> int:
    """The line, from 1, on which a crop writes a field; that of its heading when it does not."""
    word = re.match(r"\w+", name)
    heading = 1
    inside = False
    for number, line in enumerate(text.splitlines(), start=1):
        if re.match(r"\s*\[", line):
            inside = line.strip() in (f"[{key}]", f'["{key}"]') or (inside and line.strip().startswith(f"[{key}."))
            heading = number if line.strip() in (f"[{key}]", f'["{key}"]') else heading
        if inside and word and re.search(rf"\b{re.escape(word.group())}\s*=", line):
            return number
    return heading
