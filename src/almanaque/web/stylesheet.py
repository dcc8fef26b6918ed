"""One stylesheet for every page: Bootstrap without what none of our templates uses, our own files, and what is for paper.

It is put together once, when it is first asked for; its address carries a hash of what is in it.
"""

import hashlib
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path

HERE = Path(__file__).parent
STATIC = HERE / "static"
BOOTSTRAP = "vendor/bootstrap-5.3.9.min.css"
OURS = (
    "tokens",
    "frame",
    "week",
    "garden",
    "year",
    "lists",
    "school",
    "harvest",
    "planting_day",
    "open_garden",
    "class_page",
)
ON_PAPER = (
    "every_page",
    "week",
    "garden",
    "year",
    "crops",
    "place",
    "school",
    "planting_day",
    "open_garden",
    "class_page",
)
ADDRESS = "/static/css/site.css"
COSTLY = {"legend+*"}  # has all that follows looked at anew whenever anything is put in; our legends do not float
_CLASS = re.compile(r"\.(-?[_a-zA-Z][\w-]*)")
_NOT = re.compile(r":not\([^)]*\)")
_WORD = re.compile(r"-?[_a-zA-Z][\w-]*")


@cache
def body() -> bytes:
    """The stylesheet as it is sent."""
    parts = [trimmed((STATIC / BOOTSTRAP).read_text(encoding="utf-8"), used())]
    parts += [(STATIC / f"css/{name}.css").read_text(encoding="utf-8") for name in OURS]
    paper = "\n".join((STATIC / f"css/print/{name}.css").read_text(encoding="utf-8") for name in ON_PAPER)
    return "\n".join([*parts, f"@media print {{\n{paper}\n}}"]).encode()


@cache
def address() -> str:
    return f"{ADDRESS}?v={hashlib.sha256(body()).hexdigest()[:12]}"


@cache
def used() -> frozenset[str]:
    """Every word in our templates, scripts and views that may be a class."""
    files = [*HERE.rglob("*.html"), *(STATIC / "js").glob("*.js"), *HERE.rglob("*.py")]
    return frozenset(word for path in files for word in _WORD.findall(path.read_text(encoding="utf-8")))


def trimmed(css: str, names: frozenset[str]) -> str:
    """A stylesheet without the rules whose every selector asks for a class that is not among these names."""
    return "".join(_kept(css, names))


def _kept(css: str, names: frozenset[str]) -> Iterator[str]:
    for head, inner in _rules(css):
        if inner is None:
            yield head
        elif head.startswith(("@media", "@supports", "@layer")):
            within = "".join(_kept(inner, names))
            if within:
                yield f"{head}{{{within}}}"
        elif head.startswith("@"):
            yield f"{head}{{{inner}}}"
        else:
            selectors = [
                one for one in _selectors(head) if one not in COSTLY and set(_CLASS.findall(_NOT.sub("", one))) <= names
            ]
            if selectors:
                yield f"{','.join(selectors)}{{{inner}}}"


def _rules(css: str) -> Iterator[tuple[str, str | None]]:
    """Each rule as what stands before its braces and within them; a statement without braces as it is."""
    at = 0
    plain = re.sub(r"/\*.*?\*/", "", css, flags=re.S)
    while at < len(plain):
        opens, ends = plain.find("{", at), plain.find(";", at)
        if opens < 0:
            if plain[at:].strip():
                yield plain[at:].strip(), None
            break
        if 0 <= ends < opens:
            yield plain[at : ends + 1].strip(), None
            at = ends + 1
            continue
        depth, close = 1, opens + 1
        while depth and close < len(plain):
            depth += {"{": 1, "}": -1}.get(plain[close], 0)
            close += 1
        yield plain[at:opens].strip(), plain[opens + 1 : close - 1]
        at = close


def _selectors(head: str) -> Iterator[str]:
    """The parts of a list of selectors; commas in brackets belong to their part."""
    depth, start = 0, 0
    for at, sign in enumerate(head):
        depth += {"(": 1, ")": -1}.get(sign, 0)
        if sign == "," and depth == 0:
            yield head[start:at].strip()
            start = at + 1
    yield head[start:].strip()
