import ast
from pathlib import Path

import pytest

import almanaque
from almanaque.core.findings import CODES, Finding, worst_first
from almanaque.core.growth import school_fit
from almanaque.core.harvest import products

SOURCE = Path(almanaque.__file__).parent
TABLES = {
    "school_fit.py": {loss[0] for loss in school_fit._LOSSES.values()},
    "products.py": {caution.code for caution in (*products.CAUTIONS, products.FOR_SALE)},
}


def codes_in_code() -> set[str]:
    found = set()
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "Finding" and node.args:
                if isinstance(node.args[0], ast.Constant):
                    found.add(node.args[0].value)
                else:  # the places that take their code from a table
                    found |= TABLES[path.name]
    return found


def test_every_code_that_is_given_has_words_and_every_code_with_words_is_given() -> None:
    assert codes_in_code() == set(CODES)


def test_an_unknown_code_is_a_mistake() -> None:
    with pytest.raises(ValueError, match="not in findings"):
        Finding("moon", "note", "Kale", "m", "r", "s")


def test_faults_come_first_and_order_stays_otherwise() -> None:
    made = [
        Finding("frost_risk", severity, str(n), "m", "r", "s")
        for n, severity in enumerate(["note", "care", "fault", "care"])
    ]
    assert [f.subject for f in worst_first(made)] == ["2", "1", "3", "0"]
