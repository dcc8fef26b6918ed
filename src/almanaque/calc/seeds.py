"""`calc germination` and `calc order`: what a test of seed says, and what to buy for so many plants."""

import argparse
from typing import Any

from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.core.seeds import seed_lots
from almanaque.data import catalogue


def germination(given: argparse.Namespace) -> dict[str, Any]:
    """Share that came up with its 95 % interval by Wilson, to four digits."""
    found = seed_lots.wilson(_whole(given.up, "up"), _whole(given.sown, "sown"))
    return {"rate": round(found.rate, 4), "low": round(found.low, 4), "high": round(found.high, 4)}


def order(given: argparse.Namespace) -> dict[str, Any]:
    """Seeds, packets and grams to buy for plants, less good seed that is there; `--tested` says how much of it is good."""
    tested = {crop.key: _rate(value) for crop, value in map(_pair("tested"), given.tested or [])}
    lots: dict[str, list[seed_lots.Lot]] = {}
    for crop, value in map(_pair("have"), given.have or []):
        lots.setdefault(crop.key, []).append(
            seed_lots.Lot(crop.key, _whole(value, "have"), tested.get(crop.key), "fresh")
        )
    wanted = [seed_lots.Wanted(crop, _whole(value, "plants")) for crop, value in map(_pair("plants"), given.plants)]
    return {
        "lines": [
            {
                "crop": line.crop.key,
                "plants": line.plants,
                "seeds": line.need,
                "have": line.have,
                "buy": line.buy,
                "packets": line.packets,
                "grams": line.grams,
            }
            for line in seed_lots.order(wanted, lots)
        ]
    }


def _pair(option: str) -> Any:
    def read(text: str) -> tuple[Crop, str]:
        key, equals, value = text.partition("=")
        if not equals:
            raise BadInput("calc.crop_number_form", field=option, option=option)
        return catalogue()[key.strip()], value.strip()

    return read


def _rate(text: str) -> seed_lots.Rate:
    up, slash, sown = text.partition("/")
    if not slash:
        raise BadInput("calc.tested_form", field="tested")
    return seed_lots.wilson(_whole(up, "tested"), _whole(sown, "tested"))


def _whole(text: str, name: str) -> int:
    plain = text.strip()
    if not (plain.isascii() and plain.isdigit()) or len(plain) > 9:
        raise BadInput("calc.not_whole_numbers", field=name, name=name, text=text[:20])
    return int(plain)
