import doctest
import importlib
import pkgutil

import pytest

import almanaque.core

MODULES = [module.name for module in pkgutil.walk_packages(almanaque.core.__path__, "almanaque.core.")]


@pytest.mark.parametrize("name", MODULES)
def test_examples_in_docstrings_hold(name: str) -> None:
    result = doctest.testmod(importlib.import_module(name))
    assert result.failed == 0


def test_there_are_examples_at_all() -> None:
    assert sum(doctest.testmod(importlib.import_module(name)).attempted for name in MODULES) >= 6
