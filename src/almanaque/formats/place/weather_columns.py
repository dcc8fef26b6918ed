"""What a column of daily weather holds, and in which unit, by its name as stations and offices of several countries write it.

A name is understood when every word of it is; what is left over (humidity, indoor, gust) makes it a column of something else.
The words lie in `weather_columns.toml`.
"""

import re
import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from importlib.resources import files
from typing import Literal, get_args

from almanaque.core.words.plain_words import plain

Meaning = Literal["date", "year", "month", "day", "tmin", "tmax", "rain", "wind", "soil", "ignored"]
MEANINGS: tuple[Meaning, ...] = get_args(Meaning)
Unit = Literal["C", "F", "mm", "in", "ms", "kmh", "mph", ""]
UNITS: dict[Meaning, tuple[Unit, ...]] = {
    "tmin": ("C", "F"),
    "tmax": ("C", "F"),
    "soil": ("C", "F"),
    "rain": ("mm", "in"),
    "wind": ("ms", "kmh", "mph"),
}
UNIT_SIGNS: tuple[tuple[str, Unit], ...] = (
    (r"[°º]\s*f\b|℉|\bf\)|\[f\]|fahrenheit|[_ ]f$|\bdegf\b", "F"),
    (r"[°º]\s*c\b|℃|\bc\)|\[c\]|celsius|\bdeg(?:ree)?s? c\b|[_ ]c$|\bdegc\b", "C"),
    (r"\(in\)|\binch(?:es)?\b|_in$|\[in\]", "in"),
    (r"\bmm\b|_mm$|millimet", "mm"),
    (r"km/?h|kph", "kmh"),
    (r"\bmph\b", "mph"),
    (r"\bm/s\b|_ms$", "ms"),
)
BRACKETS = re.compile(r"\([^()]*\)|\[[^\[\]]*\]")
LONGEST_HEADER = 200  # characters of the name of a column: our own rule


@dataclass(frozen=True)
class WeatherColumn:
    """What one column is taken for. `unit` is empty where there is none; `stated` when the header named it."""

    header: str
    meaning: Meaning
    unit: Unit = ""
    stated: bool = False


def guess(headers: Sequence[str]) -> list[WeatherColumn]:
    """What each column of a table is taken for; of several for one thing the first is, or that of all precipitation."""
    columns = [guessed(header) for header in headers]
    for meaning in MEANINGS[:-1]:
        same = [n for n, column in enumerate(columns) if column.meaning == meaning]
        chosen = next((n for n in same if meaning == "rain" and "rain" not in columns[n].header.casefold()), None)
        for n in same[1:] if chosen is None else same:
            if n != chosen:
                columns[n] = replace(columns[n], meaning="ignored", unit="", stated=False)
    return columns


def guessed(header: str) -> WeatherColumn:
    """What one column is taken for by its name alone: first without what stands in brackets, such as a place."""
    header = " ".join(header[:LONGEST_HEADER].split())
    unit, stated = _unit_in(header)
    meaning = _meaning(_words(BRACKETS.sub(" ", header)))
    meaning = _meaning(_words(header)) if meaning == "ignored" else meaning
    fits: bool = unit in UNITS.get(meaning, ())
    return WeatherColumn(header, meaning, unit if fits else "", stated and fits)


@cache
def _table() -> tuple[Mapping[str, Meaning], Mapping[str, frozenset[str]]]:
    """Meanings by whole name, and words by what they say."""
    table = tomllib.loads((files("almanaque.formats.place") / "weather_columns.toml").read_text(encoding="utf-8"))
    names = {name: meaning for meaning, names in table["names"].items() for name in names}
    return names, {kind: frozenset(words) for kind, words in table["words"].items()}


def _words(header: str) -> list[str]:
    """The words of a name in small letters without accents."""
    bare = re.sub(r"[°º℃℉] ?[CFcf]?(?![a-z])", " ", header)
    bare = re.sub(r"(?<=[a-z])(?=[CF]$)", " ", bare)  # Max TemperatureF
    return re.findall(r"[a-z0-9]+", plain(bare))


def _meaning(words: Sequence[str]) -> Meaning:
    names, of = _table()
    weighty = [word for word in words if word not in of["of_no_weight"]]
    for name in (" ".join(words), " ".join(weighty)):
        if name in names:
            return names[name]
    said = set(weighty)
    kinds: tuple[tuple[Meaning, str, frozenset[str]], ...] = (
        ("tmax", "greatest", of["warmth"]),
        ("tmin", "least", of["warmth"]),
        ("rain", "rain", frozenset()),
        ("wind", "wind", of["speed"]),
        ("soil", "soil", of["warmth"] | of["mean"]),
    )
    return next((meaning for meaning, kind, more in kinds if said & of[kind] and said <= of[kind] | more), "ignored")


def _unit_in(header: str) -> tuple[Unit, bool]:
    glued = re.search(r"[a-z]([CF])$", header)
    found: Unit | None = next((unit for sign, unit in UNIT_SIGNS if re.search(sign, header.casefold())), None)
    if glued is not None:
        return ("C" if glued[1] == "C" else "F"), True
    return found or "", found is not None
