"""The words of codes, read from the source: every code has words, every word a code, and each place its parameter."""

import ast
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from typing import get_args

import almanaque.calc
import almanaque.data
import almanaque.formats
import almanaque.web
from almanaque.core import words
from almanaque.core.accounts import permissions
from almanaque.core.crops import crop, native_range
from almanaque.core.findings import said_by
from almanaque.core.garden import companions, layout, needs
from almanaque.core.growth import covers, crop_runs, sowing_days
from almanaque.core.planner import problem
from almanaque.core.week import stations
from almanaque.core.words import places, sentences

SOURCE = Path(almanaque.calc.__file__).parents[1]
# Made from a part of its name: where the code is an f-string, every ending that it can have.
BY_CONSTRAINT = "constraints."
# Here a code comes from somewhere else, where it is read.
PASSED_ON = {
    "core/errors.py",
    "core/findings.py",
    "core/words/__init__.py",
    "formats/table_in.py",
    "store/constraints.py",
    "web/garden/bed_sheet.py",
}


@cache
def raised() -> list[tuple[str, list[str], set[str], bool]]:
    return list(_raised())


def _raised() -> Iterator[tuple[str, list[str], set[str], bool]]:
    """Of each BadInput and Phrase in the source: where, its codes, its parameters, whether they are all written there."""
    for path in sorted(SOURCE.rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if not isinstance(node, ast.Call) or not isinstance(node.func, ast.Name) or not node.args:
                continue
            where = f"{path.relative_to(SOURCE)}:{node.lineno}"
            if node.func.id == "BadInput":
                names = {k.arg for k in node.keywords if k.arg} - {"field"}
                yield where, codes_of(node.args[0]), names, all(k.arg for k in node.keywords)
            if node.func.id == "Phrase":
                given = node.args[1] if len(node.args) > 1 else ast.Dict([], [])
                keys = given.keys if isinstance(given, ast.Dict) else []
                names = {str(key.value) for key in keys if isinstance(key, ast.Constant)}
                yield where, codes_of(node.args[0]), names, isinstance(given, ast.Dict)


def codes_of(node: ast.expr) -> list[str]:
    """The codes an expression can be: a constant, one of two, or every code that an f-string matches."""
    if isinstance(node, ast.Constant):
        return [str(node.value)]
    if isinstance(node, ast.IfExp):
        return [*codes_of(node.body), *codes_of(node.orelse)]
    if isinstance(node, ast.JoinedStr):
        first, last = node.values[0], node.values[-1]
        start = str(first.value) if isinstance(first, ast.Constant) else ""
        end = str(last.value) if isinstance(last, ast.Constant) and last is not first else ""
        return [code for code in sentences() if code.startswith(start) and code.endswith(end)] if start else []
    return []


def test_every_code_that_is_raised_has_words_and_gives_them_what_they_have_places_for() -> None:
    wrong = []
    for where, codes, names, complete in raised():
        if not codes and where.split(":")[0] not in PASSED_ON:
            wrong.append(f"{where}: no words fit the code that is made there")
        for code in codes:
            if code not in sentences():
                wrong.append(f"{where}: {code} has no words")
            elif complete and len(codes) == 1 and names != places(code):
                wrong.append(f"{where}: {code} is given {sorted(names)}, has places for {sorted(places(code))}")
            elif complete and len(codes) == 2 and not places(code) <= names:
                wrong.append(f"{where}: {code} lacks {sorted(places(code) - names)}")
    assert not wrong, "\n".join(wrong)


@cache
def literals() -> set[str]:
    """Every string that is written in the source."""
    return {
        node.value
        for path in SOURCE.rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.Constant) and isinstance(node.value, str)
    }


def test_every_word_has_a_code_that_is_raised() -> None:
    said = {code for _, codes, _, _ in raised() for code in codes} | literals()
    unsaid = [
        code
        for code in sentences()
        if code not in said and not code.startswith(("findings.", "terms.", "sources.", BY_CONSTRAINT))
    ]
    assert not unsaid


def test_every_key_that_the_rules_count_in_has_its_word() -> None:
    keys = {
        "method": crop.Method,
        "work": crop.Method,
        "evidence": companions.Evidence,
        "cover": covers.CoverKey,
        "verdict": sowing_days.Verdict,
        "ready_by": crop_runs.ReadyBy,
        "arrangement": layout.Arrangement,
        "every": stations.Every,
        "need": needs.Kind,
        "region": native_range.Region,
        "right": permissions.Right,
        "aim": problem.Aim,
        "limit": problem.LimitName,
        "origin": problem.Origin,
        "which": problem.Which,
    }
    for kind, counted in keys.items():
        assert set(words.terms(kind)) == set(get_args(counted)), kind
    assert set(words.terms("follows")) == {*get_args(layout.Follows), "own_count"}
    kinds = {code.split(".")[1] for code in sentences() if code.startswith("terms.")}
    assert kinds == {*keys, "follows"}
    assert words.terms("nothing") == {}


def test_every_source_is_named_by_a_rule() -> None:
    named = {code.removeprefix("sources.") for code in sentences() if code.startswith("sources.")}
    assert named <= literals()
    assert said_by("weather") == "the weather on file"
    assert said_by("Harrington and Minges 1954") == "Harrington and Minges 1954"


def test_sentences_end_and_say_what_to_do() -> None:
    whole = [
        code
        for _, codes, _, _ in raised()
        for code in codes
        if " " in sentences()[code] and not code.startswith(("labels.", "terms."))
    ]
    assert [code for code in whole if sentences()[code][0].isupper() and sentences()[code][-1] not in ".?”}"] == []


READERS = ("forms.whole", "forms.number", "forms.name")


def reads_a_field(node: ast.AST) -> bool:
    """Whether a call reads a field that is named in refusals: by itself, or for a form that tells all its refusals."""
    if not isinstance(node, ast.Call):
        return False
    by_another = isinstance(node.func, ast.Attribute) and node.func.attr == "read" and node.args
    return ast.unparse(node.args[0] if by_another else node.func) in READERS


def test_every_field_that_is_named_has_a_label_and_every_label_a_field() -> None:
    named = {
        keyword.value.value
        for path in (SOURCE / "web").rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if reads_a_field(node)
        for keyword in node.keywords
        if keyword.arg == "what" and isinstance(keyword.value, ast.Constant)
    }
    passed_on = {"name", "least_temperature", "greatest_temperature", "soil_temperature"}
    labels = {code.removeprefix("labels.") for code in sentences() if code.startswith("labels.")}
    assert named | passed_on == labels
