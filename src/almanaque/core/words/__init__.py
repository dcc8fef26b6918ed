"""Every sentence that refuses or judges, by code and language, so that no sentence stands in the rules.

In come a code such as `garden.draft_closed` and its parameters; out comes the sentence. Each floor keeps the words of its
own codes in `words/<language>/*.toml`, a file a package, and adds them when it is imported. Begin with `Phrase`.
"""

import string
import tomllib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from functools import cache
from importlib.resources import files
from typing import Any

from almanaque.core.words.days import MONTH_NAMES, day_of, short_day

LANGUAGE = "en"
MISSING = "…"  # stands where a parameter should, in a sentence that was stored without it

_floors: list[str] = []


def add(floor: str) -> None:
    """Take in the words of a floor: the name of a package that holds `en/*.toml`."""
    if floor not in _floors:
        _floors.append(floor)
        sentences.cache_clear()
        terms.cache_clear()


@cache
def sentences(language: str = LANGUAGE) -> Mapping[str, str]:
    """Sentences with places for parameters, by code. Raises ValueError for a code that stands twice."""
    found: dict[str, str] = {}
    for floor in _floors:
        for file in sorted((files(floor) / language).iterdir(), key=lambda entry: entry.name):
            package = file.name.removesuffix(".toml")
            for code, sentence in _flat(package, tomllib.loads(file.read_text(encoding="utf-8"))):
                if code in found:
                    raise ValueError(f"{code} stands twice in the words")
                found[code] = sentence
    return found


def _flat(prefix: str, table: Mapping[str, Any]) -> list[tuple[str, str]]:
    """`[crowded] message = …` in findings.toml becomes `findings.crowded.message`."""
    found = []
    for key, value in table.items():
        code = f"{prefix}.{key}"
        found += _flat(code, value) if isinstance(value, dict) else [(code, str(value))]
    return found


@dataclass(frozen=True)
class Phrase:
    """A code with its parameters; `str` makes the sentence. A parameter may be a phrase itself."""

    code: str
    params: Mapping[str, object] = field(default_factory=dict, hash=False)

    def __str__(self) -> str:
        return say(self.code, self.params)


def say(code: str, params: Mapping[str, object], *, language: str = LANGUAGE) -> str:
    """The sentence of a code, its places filled. Raises KeyError for a code without words."""
    return _FILLER.vformat(sentences(language)[code], (), params)


def term(kind: str, key: str) -> Phrase:
    """The word for a key that the rules count in, to stand in a sentence: `term("method", "direct")`."""
    return Phrase(f"terms.{kind}.{key}")


@cache
def terms(kind: str) -> Mapping[str, str]:
    """Every word of a kind by its key, in the order in which a list offers them. Empty for a kind that is none."""
    start = f"terms.{kind}."
    return {code.removeprefix(start): word for code, word in sentences().items() if code.startswith(start)}


def places(code: str) -> frozenset[str]:
    """The parameters that the words of a code have a place for."""
    return frozenset(name for _, name, _, _ in string.Formatter().parse(sentences()[code]) if name)


class _Filler(string.Formatter):
    """What Python's own formatting has, and the forms that sentences need:

    `{on:day}` 14 Apr · `{on:month}` April · `{on:month_year}` April 2027 · `{n:week|weeks}` the word by number ·
    `{names:and}` a, b and c · `{names:or}` a, b or c · `{numbers:months}` April, May
    `{said:capital}` its first letter large · `{said:small}` its first letter small
    """

    def get_value(self, key: int | str, args: Sequence[Any], kwargs: Mapping[str, Any]) -> Any:
        # What was stored before a sentence was reworded may lack a place that the new words have.
        return kwargs.get(str(key), MISSING)

    def format_field(self, value: Any, format_spec: str) -> str:
        if value is MISSING:
            return str(value)
        value = _unstored(value)
        if "|" in format_spec:
            one, many = format_spec.split("|")
            return one if value == 1 else many
        form = _FORMS.get(format_spec)
        if form is not None:
            return form(value)
        return str(value) if isinstance(value, Phrase | str) else format(value, format_spec)


def _unstored(value: Any) -> Any:
    """A phrase as it is stored is a phrase again."""
    return Phrase(value["code"], value["params"]) if isinstance(value, Mapping) else value


def _month(value: date | str | int) -> str:
    return MONTH_NAMES[(value if isinstance(value, int) else day_of(value).month) - 1]


def _months(value: Sequence[int] | str) -> str:
    return value if isinstance(value, str) else ", ".join(_month(number) for number in value)


def listed(values: Sequence[object], joined_by: str = "and") -> str:
    """`a, b and c`"""
    names = [str(_unstored(value)) for value in values]
    return ", ".join(names) if len(names) < 2 else f"{', '.join(names[:-1])} {joined_by} {names[-1]}"


_FORMS: dict[str, Callable[[Any], str]] = {
    "day": lambda value: short_day(day_of(value)),
    "month": _month,
    "month_year": lambda value: f"{_month(value)} {day_of(value).year}",
    "and": listed,
    "or": lambda values: listed(values, "or"),
    "months": _months,
    "capital": lambda value: str(value)[:1].upper() + str(value)[1:],
    "small": lambda value: str(value)[:1].lower() + str(value)[1:],
}

_FILLER = _Filler()

add(__name__)
