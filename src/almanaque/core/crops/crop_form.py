"""Every value of a crop as people write and read it, for a school's own figures; `crop_fields` lists them.

`written` and `read` are each other's inverse up to the digits shown.
"""

import re
from collections.abc import Callable, Sequence
from typing import Any

from almanaque.core.crops.crop import METHODS, Crop, Method, turned
from almanaque.core.crops.crop_fields import CropField, Kind
from almanaque.core.errors import BadInput
from almanaque.core.units import Units, format_length, format_temperature, parse_length, parse_temperature, plain_number
from almanaque.core.words import terms
from almanaque.core.words.days import MONTH_NAMES

LETTERS, NAME_LETTERS = {"text": 120, "long": 400}, 60


def written(crop: Crop, entry: CropField, units: Units, *, southern: bool = False) -> str:
    """A value of a crop as its form shows it; empty where there is none. Months are kept as those of the north."""
    value = {"name": crop.name.en, "es": crop.name.es}.get(entry.field) or getattr(crop, entry.field, None)
    if value is None or value == ():
        return ""
    if entry.kind == "months" and not isinstance(value, str):
        value = sorted(turned(value, southern=southern))
    return _WRITTEN[entry.kind](value, crop, units)


def _plain(value: float) -> str:
    return f"{value:.10g}"


def _pair(value: Sequence[float]) -> str:
    return _plain(value[0]) if value[0] == value[1] else f"{_plain(value[0])} to {_plain(value[1])}"


_WRITTEN: dict[Kind, Callable[[Any, Crop, Units], str]] = {
    "text": lambda v, c, u: str(v),
    "long": lambda v, c, u: str(v),
    "choice": lambda v, c, u: str(v),
    "length": lambda v, c, u: format_length(v, u, feet=False),
    "warmth": lambda v, c, u: format_temperature(v, u),
    "warmths": lambda v, c, u: ", ".join(format_temperature(t, u) for t in v),
    "number": lambda v, c, u: _plain(v),
    "whole": lambda v, c, u: str(v),
    "range": lambda v, c, u: f"{v[0]} to {v[1]}",
    "span": lambda v, c, u: _pair(v),
    "yes": lambda v, c, u: "yes" if v else "no",
    "months": lambda v, c, u: ", ".join(MONTH_NAMES[m - 1] for m in v),
    "methods": lambda v, c, u: ", ".join(terms("method")[m] for m in v),
    "ways": lambda v, c, u: ", ".join(f"{v[m][0]} to {v[m][1]}" for m in c.methods),
    "amounts": lambda v, c, u: ", ".join(_plain(v[m]) for m in c.methods if m in v),
    "windows": lambda v, c, u: "; ".join(f"{w.method}, {w.anchor}, {w.weeks[0]} to {w.weeks[1]}" for w in v),
    "parts": lambda v, c, u: " || ".join(f"{name}: {part.sign} | {part.how}" for name, part in v.items()),
    "weights": lambda v, c, u: ", ".join(f"{name} {_plain(grams)}" for name, grams in v.items()),
}


def read(entry: CropField, text: str, units: Units, methods: Sequence[Method], *, southern: bool = False) -> Any:
    """What was written, as a figure. Raises BadInput, with the field, for what cannot be read.

    `methods` are the ways of starting of the same form, in whose order days and warmth are written.
    """
    text = " ".join(text.split())
    if not text:
        if entry.optional:
            return _EMPTY.get(entry.kind)
        if entry.kind != "choice" or "" not in entry.choices:
            raise _no(entry, "missing")
    found = _READ[entry.kind](entry, text, units, methods)
    return sorted(turned(tuple(found), southern=southern)) if entry.kind == "months" else found


_EMPTY: dict[Kind, Any] = {"text": "", "long": "", "months": [], "amounts": {}, "windows": [], "parts": {}}


def _no(entry: CropField, code: str, **params: object) -> BadInput:
    return BadInput(f"crops.figure_{code}", field=entry.field, figure=entry.label, **params)


def _read_text(entry: CropField, text: str, units: Units, methods: Sequence[Method]) -> str:
    most = NAME_LETTERS if entry.field in ("name", "es") else LETTERS[entry.kind]
    if len(text) > most:
        raise _no(entry, "too_long", most=most)
    return text


def _read_choice(entry: CropField, text: str, units: Units, methods: Sequence[Method]) -> str:
    if text not in entry.choices:
        allowed = ", ".join(choice or "none" for choice in entry.choices)
        raise _no(entry, "no_choice", text=text[:20], choices=allowed)
    return text


def _read_yes(entry: CropField, text: str, units: Units, methods: Sequence[Method]) -> bool:
    if text.lower() not in ("yes", "no"):
        raise _no(entry, "not_yes_or_no", text=text[:20])
    return text.lower() == "yes"


def _read_length(entry: CropField, text: str, units: Units, methods: Sequence[Method]) -> float:
    try:
        return float(parse_length(text, bare_unit="in" if units == "us" else "cm"))
    except BadInput as error:
        raise error.at(entry.field) from None


def _read_warmth(entry: CropField, text: str, units: Units, methods: Sequence[Method]) -> float:
    try:
        return round(float(parse_temperature(text, bare_unit="F" if units == "us" else "C")), 2)
    except BadInput as error:
        raise error.at(entry.field) from None


def _read_warmths(entry: CropField, text: str, units: Units, methods: Sequence[Method]) -> list[float]:
    parts = _parts(text)
    if len(parts) != 3:
        raise _no(entry, "not_three", count=len(parts))
    return [_read_warmth(entry, part, units, methods) for part in parts]


def _read_number(entry: CropField, text: str, units: Units, methods: Sequence[Method]) -> float:
    share = text.endswith("%")
    try:
        value = float(plain_number(text.removesuffix("%")).replace("−", "-"))
    except ValueError:
        raise _no(entry, "not_a_number", text=text[:20]) from None
    if not abs(value) < 1e6:
        raise _no(entry, "too_large")
    return value / 100 if share else value


def _read_whole(entry: CropField, text: str, units: Units, methods: Sequence[Method]) -> int:
    value = _read_number(entry, text, units, methods)
    if value != int(value):
        raise _no(entry, "not_whole")
    return int(value)


def _read_span(entry: CropField, text: str, units: Units, methods: Sequence[Method]) -> list[float]:
    parts = [part.strip() for part in re.split(r"\bto\b|–", text)]
    if not 1 <= len(parts) <= 2:
        raise _no(entry, "not_a_range", text=text[:30])
    numbers = [_read_number(entry, part, units, methods) for part in parts]
    return [numbers[0], numbers[-1]]


def _read_range(entry: CropField, text: str, units: Units, methods: Sequence[Method]) -> list[int]:
    found = _read_span(entry, text, units, methods)
    if any(value != int(value) for value in found):
        raise _no(entry, "not_whole_numbers")
    return [int(value) for value in found]


def _read_months(entry: CropField, text: str, units: Units, methods: Sequence[Method]) -> list[int]:
    found = []
    for part in _parts(text):
        named = [
            n
            for n, month in enumerate(MONTH_NAMES, start=1)
            if len(part) >= 3 and month.lower().startswith(part.lower())
        ]
        number = int(part) if part.isdigit() and 1 <= int(part) <= 12 else named[0] if len(named) == 1 else None
        if number is None:
            raise _no(entry, "not_a_month", text=part[:20])
        found.append(number)
    return found


def _read_methods(entry: CropField, text: str, units: Units, methods: Sequence[Method]) -> list[Method]:
    ways = terms("method")
    known = {ways[method]: method for method in METHODS} | {str(method): method for method in METHODS}
    for part in _parts(text):
        if part.lower() not in known:
            raise _no(entry, "no_way_of_starting", text=part[:30], ways=", ".join(ways.values()))
    return list(dict.fromkeys(known[part.lower()] for part in _parts(text)))


def _read_ways(entry: CropField, text: str, units: Units, methods: Sequence[Method]) -> dict[Method, list[int]]:
    parts = _parts(text)
    if len(parts) != len(methods):
        raise _no(entry, "not_a_range_each", count=len(parts), ways=len(methods))
    return {method: _read_range(entry, part, units, methods) for method, part in zip(methods, parts, strict=True)}


def _read_amounts(entry: CropField, text: str, units: Units, methods: Sequence[Method]) -> dict[Method, float]:
    parts = _parts(text)
    if len(parts) > len(methods):
        raise _no(entry, "not_one_each", count=len(parts), ways=len(methods))
    return {method: _read_number(entry, part, units, methods) for method, part in zip(methods, parts, strict=False)}


def _read_windows(entry: CropField, text: str, units: Units, methods: Sequence[Method]) -> list[str]:
    return [part.strip() for part in text.split(";") if part.strip()]  # the crop's own check reads them


def _read_parts(entry: CropField, text: str, units: Units, methods: Sequence[Method]) -> dict[str, dict[str, str]]:
    found = {}
    for part in (piece.strip() for piece in text.split("||") if piece.strip()):
        match = re.fullmatch(r"([^:|]{1,30}):\s*([^|]{8,200})\|\s*([^|]{8,200})", part)
        if match is None:
            raise _no(entry, "not_a_part", text=part[:30])
        name, sign, how = (group.strip() for group in match.groups())
        found[name] = {"sign": sign, "how": how}
    return found


def _read_weights(entry: CropField, text: str, units: Units, methods: Sequence[Method]) -> dict[str, float]:
    found = {}
    for part in _parts(text):
        name, _, number = part.rpartition(" ")
        if not name.strip():
            raise _no(entry, "not_a_weight", text=part[:30])
        found[name.strip()] = _read_number(entry, number, units, methods)
    return found


def _parts(text: str) -> list[str]:
    return [part.strip() for part in text.split(",") if part.strip()]


_READ: dict[Kind, Callable[[CropField, str, Units, Sequence[Method]], Any]] = {
    "text": _read_text,
    "long": _read_text,
    "choice": _read_choice,
    "yes": _read_yes,
    "length": _read_length,
    "warmth": _read_warmth,
    "warmths": _read_warmths,
    "number": _read_number,
    "whole": _read_whole,
    "range": _read_range,
    "span": _read_span,
    "months": _read_months,
    "methods": _read_methods,
    "ways": _read_ways,
    "amounts": _read_amounts,
    "windows": _read_windows,
    "parts": _read_parts,
    "weights": _read_weights,
}
