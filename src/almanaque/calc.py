"""`almanaque calc`: the rules without server or database. Arguments in, one JSON object out; docs/calc.md has the schemas."""

import argparse
from collections.abc import Sequence
from typing import Any, NoReturn

from almanaque.core import spacing
from almanaque.core.errors import BadInput
from almanaque.core.units import parse_length, parse_size
from almanaque.data import catalogue


class _Parser(argparse.ArgumentParser):
    """Says what is wrong as one sentence instead of printing its usage."""

    def error(self, message: str) -> NoReturn:
        raise BadInput(f"calc: {message}. See docs/calc.md for what it takes.")


def answer(arguments: Sequence[str]) -> dict[str, Any]:
    """The answer to one call, ready for JSON. Raises BadInput."""
    parser = _Parser(prog="almanaque calc", allow_abbrev=False)
    kinds = parser.add_subparsers(dest="kind", required=True, parser_class=_Parser)
    count = kinds.add_parser("spacing", allow_abbrev=False)
    count.add_argument("--bed", required=True)
    count.add_argument("--spacing", required=True)
    count.add_argument("--method", choices=["squares"], default="squares")
    count.add_argument("--cell", default="12 in")
    kinds.add_parser("crops", allow_abbrev=False)
    # A length below zero starts like an option, so it is bound to the option before it.
    given = parser.parse_args(_bind_values(arguments))
    return _spacing(given) if given.kind == "spacing" else _crops()


def _spacing(given: argparse.Namespace) -> dict[str, Any]:
    length, width = parse_size(given.bed)
    layout = spacing.count_in_bed(
        float(length), float(width),
        spacing_mm=float(parse_length(given.spacing)), cell_mm=float(parse_length(given.cell)),
    )  # fmt: skip
    return {
        "plants": layout.plants,
        "per_square": layout.reading.per_square,
        "along": layout.reading.along,
        "block": layout.reading.block,
        "squares": layout.squares,
        "left_over_squares": len(layout.left_over),
        "positions_mm": [[round(x, 1), round(y, 1)] for x, y in layout.positions_mm],
    }


def _crops() -> dict[str, Any]:
    crops = catalogue()
    return {"sources": crops.sources, "crops": [crop.model_dump(mode="json") for crop in crops]}


def _bind_values(arguments: Sequence[str]) -> list[str]:
    bound: list[str] = []
    for word in arguments:
        if bound and bound[-1] in ("--bed", "--spacing", "--cell", "--method"):
            bound[-1] = f"{bound[-1]}={word}"
        else:
            bound.append(word)
    return bound
