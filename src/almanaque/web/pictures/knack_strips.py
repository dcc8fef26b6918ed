"""Strips of small pictures that show how a thing is done by hand, with the words under each."""

from collections.abc import Collection
from dataclasses import dataclass

from almanaque.core.week import knacks
from almanaque.web import frame


@dataclass(frozen=True)
class KnackStrip:
    """A strip with its title; `words` are read below the pictures and told to those who do not see them."""

    title: str
    href: str
    words: tuple[str, ...]


def strips(steps: Collection[str], groups: Collection[str] = ()) -> list[KnackStrip]:
    """Strips for some steps, and groups of crops."""
    return [
        KnackStrip(one.title, frame.static(f"knacks/{one.name}.svg"), one.words) for one in knacks.of(steps, groups)
    ]
