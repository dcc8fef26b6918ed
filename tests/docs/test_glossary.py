"""The glossary and the code use the same words, and a word names one thing."""

import ast
import re
from collections import defaultdict
from pathlib import Path

import almanaque

SOURCE = Path(almanaque.__file__).parent
GLOSSARY = (SOURCE.parents[1] / "docs/glossary.md").read_text(encoding="utf-8")
CODE = {path: path.read_text(encoding="utf-8") for path in SOURCE.rglob("*.py")}
# Words that meant several things, or nothing to a newcomer; none may come back as the name of a module.
GIVEN_UP = {
    "desk",
    "shown",
    "found",
    "together",
    "descent",
    "given",
    "able",
    "past",
    "so_far",
    "whole",
    "moved",
    "nearest",
    "rooms",
    "room_to_grow",
    "standing",
    "standing_place",
    "hand",
}
FLOORS = ("core", "store", "commands", "web")


def entries() -> list[tuple[str, list[str]]]:
    """Each line's words and the names it says they have in the code."""
    found = []
    for line in GLOSSARY.splitlines():
        if line.startswith("- **"):
            words, _, _ = line.partition(":")
            found.append((words, re.findall(r"`([\w/.]+)`", words)))
    return found


def test_every_name_in_the_glossary_is_in_the_code() -> None:
    everything = "\n".join(CODE.values())
    modules = {path.stem for path in CODE}
    assert len(entries()) >= 70
    for words, names in entries():
        for name in names:
            known = name in modules or re.search(rf"(?:class|def) {name}\b|^{name}\b.* =|\b{name}\b", everything, re.M)
            assert known, f"{words}: {name} is not in the code"


def test_every_word_stands_once() -> None:
    words = [word for line, _ in entries() for word in re.findall(r"\*\*(.+?)\*\*", line)]
    assert sorted(words) == sorted(set(words))


def test_no_class_has_the_name_of_another() -> None:
    where = defaultdict(list)
    for path, text in CODE.items():
        for node in ast.parse(text).body:
            if isinstance(node, ast.ClassDef):
                where[node.name].append(str(path.relative_to(SOURCE)))
    assert {name: paths for name, paths in where.items() if len(paths) > 1} == {}


def test_words_that_were_given_up_name_no_module() -> None:
    assert {path.stem for path in CODE} & GIVEN_UP == set()


def packages(floor: str) -> set[str]:
    return {path.parent.name for path in (SOURCE / floor).glob("*/__init__.py")} - {"pictures", "words"}


def test_packages_have_the_same_names_on_every_floor_and_say_what_they_are() -> None:
    every = set().union(*(packages(floor) for floor in FLOORS))
    assert len(every) <= 13
    # Growth has no rows or pages of its own, and a portrait is a value of the core that every page places.
    assert {name for name in every if any(name not in packages(floor) for floor in FLOORS)} == {"growth", "portrait"}
    for floor in FLOORS:
        for name in packages(floor):
            words = ast.get_docstring(ast.parse(CODE[SOURCE / floor / name / "__init__.py"])) or ""
            assert words.count(".") >= 2, f"{floor}/{name} does not say what comes in, what goes out and where to begin"


def test_templates_and_tests_lie_in_the_same_packages() -> None:
    every = set().union(*(packages(floor) for floor in FLOORS))
    folders = {path.name for path in (SOURCE / "web/templates").iterdir() if path.is_dir()} - {"parts", "paper"}
    assert folders <= every
    tests = SOURCE.parents[1] / "tests"
    for floor in FLOORS:
        there = {path.parent.name for path in (tests / floor).glob("*/__init__.py")}
        assert there <= packages(floor) | {"growth"}, floor
