"""Reference tables that ship with the code, each row with its source. Reading the files happens here, once."""

from functools import cache
from importlib.resources import files

from almanaque.core import crops


@cache
def catalogue() -> crops.Catalogue:
    """The crops of `crops.toml`, checked."""
    return crops.parse((files("almanaque.data") / "crops.toml").read_text(encoding="utf-8"))
