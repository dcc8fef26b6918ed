import json
import re
from pathlib import Path

import pytest

from almanaque.calc import answer
from almanaque.cli import main
from almanaque.core.errors import BadInput

DOC = Path(__file__).parents[2] / "docs/calc.md"


@pytest.mark.parametrize(("spacing", "plants", "along", "per_square", "left_over"), [
    ("12 in", 12, 1, 1, 0), ("4 in", 108, 3, 9, 0), ("3 in", 192, 4, 16, 0), ("24 in", 2, 0, 0, 4),
])  # fmt: skip
@pytest.mark.parametrize("cell", ["12 in", "30 cm"])
def test_spacing_counts_a_bed_of_four_by_three_feet(
    spacing: str, plants: int, along: int, per_square: int, left_over: int, cell: str
) -> None:
    found = answer(["spacing", "--bed", "4 ft x 3 ft", "--spacing", spacing, "--method", "squares", "--cell", cell])
    assert (found["plants"], found["along"], found["per_square"], found["left_over_squares"]) == (
        plants, along, per_square, left_over,
    )  # fmt: skip
    assert (found["squares"], len(found["positions_mm"])) == (12, plants)


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["spacing", "--bed", "4 ft x", "--spacing", "4 in"], "two lengths"),
        (["spacing", "--bed", "4 ft x 3 ft", "--spacing", "-3 ft"], "below zero"),
        (["spacing", "--bed", "4 ft x 3 ft"], "--spacing"),
        (["spacing", "--bed", "4 ft x 3 ft", "--spacing", "0 in"], "more than 0"),
        (["spacing", "--bed", "4 ft x 3 ft", "--spacing", "4 in", "--method", "spiral"], "spiral"),
        (["moon"], "moon"),
        ([], "required"),
    ],
)
def test_bad_input_is_one_sentence_and_exit_two(
    arguments: list[str], says: str, capsys: pytest.CaptureFixture[str]
) -> None:
    with pytest.raises(BadInput, match=says):
        answer(arguments)
    assert main(["calc", *arguments]) == 2
    said = capsys.readouterr()
    assert said.out == ""
    assert len(said.err.strip().splitlines()) == 1


def test_crops_prints_the_whole_catalogue() -> None:
    found = answer(["crops"])
    assert len(found["crops"]) >= 20
    assert all(crop["sources"]["default"] in found["sources"] for crop in found["crops"])


def examples() -> list[tuple[str, dict]]:
    text = DOC.read_text(encoding="utf-8")
    return [(call, json.loads(reply)) for call, reply in re.findall(r"\$ \./almanaque calc (.+)\n(\{.*\})\n", text)]


def test_the_documented_examples_are_what_it_answers() -> None:
    import shlex

    assert len(examples()) >= 2
    for call, reply in examples():
        found = answer(shlex.split(call))
        for key, value in reply.items():
            if value == "…":
                assert found[key]
            else:
                assert found[key] == value, (call, key)


def test_every_key_of_every_answer_is_documented() -> None:
    text = DOC.read_text(encoding="utf-8")
    spacing = answer(["spacing", "--bed", "1 m x 1 m", "--spacing", "10 cm"])
    for key in (*spacing, *answer(["crops"]), *answer(["crops"])["crops"][0]):
        assert f"`{key}`" in text, key
