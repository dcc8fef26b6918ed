"""The two demo schools, read from their tables: Brindlecombe in the north with three years, Tallowbank in the south."""

import tomllib
from importlib.resources import files

from pydantic import TypeAdapter

from almanaque.demo.shapes import DemoSchool


def _read(name: str) -> DemoSchool:
    text = (files("almanaque.demo") / f"{name}.toml").read_text(encoding="utf-8")
    return TypeAdapter(DemoSchool).validate_python(tomllib.loads(text))


BRINDLECOMBE = _read("brindlecombe")
TALLOWBANK = _read("tallowbank")
ALL = (BRINDLECOMBE, TALLOWBANK)
