"""Views are typed: what a template is given has names that a checker reads."""

import ast
from dataclasses import FrozenInstanceError, is_dataclass
from pathlib import Path

import pytest

from almanaque.web import view
from almanaque.web.week.rain_plan import RainyView

WEB = Path(view.__file__).parent
# What every page shares, the specification of a chart, and a form as it was typed.
OPEN = {("frame.py", "_shared"), ("pictures/charts.py", "_frame"), ("harvest/picking_form.py", "typed")}


def test_no_function_of_the_pages_returns_an_open_dict() -> None:
    found = {
        (path.relative_to(WEB).as_posix(), node.name)
        for path in WEB.rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.FunctionDef)
        and node.returns is not None
        and "dict[str, Any]" in ast.unparse(node.returns)
    }
    assert found == OPEN


def test_no_field_of_a_view_is_open() -> None:
    """But for the form of a picking, which is given back as it was typed."""
    found = {
        f"{node.name}.{ast.unparse(field.target)}"
        for path in WEB.rglob("*.py")
        for node in ast.parse(path.read_text(encoding="utf-8")).body
        if isinstance(node, ast.ClassDef) and "View" in {ast.unparse(base) for base in node.bases}
        for field in node.body
        if isinstance(field, ast.AnnAssign) and "Any" in ast.unparse(field.annotation)
    }
    assert found == {"PickingFormView.form"}


def test_a_view_is_spread_by_its_fields_and_cannot_be_changed() -> None:
    rainy = RainyView(waits="2 jobs", mats=[("Radish", "/x")])
    assert is_dataclass(rainy)
    assert {**rainy} == {"waits": "2 jobs", "mats": [("Radish", "/x")]}
    with pytest.raises(FrozenInstanceError):
        rainy.waits = "1 job"  # type: ignore[misc]
