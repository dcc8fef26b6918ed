"""A school's own figures: values of its own for a crop of the catalogue, varieties, and crops that the catalogue lacks.

A variety is a crop of its own that begins from another's values, so every rule reads it like any other.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from almanaque.core.crops.catalogue import Catalogue
from almanaque.core.crops.crop import Crop
from almanaque.core.crops.crop_fields import ENTRIES
from almanaque.core.errors import BadInput

OWN = "own"  # key of the source of the school's figures
OWN_WORDS = "the school's own figure"


@dataclass(frozen=True)
class OwnCrop:
    """Figures for `crop`: a key of the catalogue, or with `based_on` a new key that begins from that crop's values."""

    crop: str
    based_on: str | None
    figures: Mapping[str, Any]


def with_own(catalogue: Catalogue, own: Sequence[OwnCrop]) -> Catalogue:
    """The catalogue as the school sees it: its own figures in, its own crops and varieties after the one they begin from.

    Raises BadInput, naming crop and field, for a figure that cannot be.
    """
    changed = {row.crop: row for row in own if row.based_on is None}
    added: dict[str, list[OwnCrop]] = {}
    for row in own:
        if row.based_on is not None:
            added.setdefault(row.based_on, []).append(row)
    crops: dict[str, Crop] = {}
    for crop in catalogue:
        crops[crop.key] = changed_crop(crop, changed[crop.key]) if crop.key in changed else crop
        for row in added.get(crop.key, ()):
            crops[row.crop] = changed_crop(crops[crop.key], row)
    return Catalogue(crops, {**catalogue.sources, OWN: OWN_WORDS}, catalogue.tables)


def changed_crop(crop: Crop, row: OwnCrop) -> Crop:
    """A crop with the school's figures, checked as the catalogue is. Raises BadInput for a field that may not be set.

    A figure in days goes before the catalogue's in warmth, and one of its seed before a published table: those belong to another kind.
    """
    own = dict(row.figures)
    if strange := set(own) - set(ENTRIES):
        raise BadInput(
            "crops.figure_not_settable", figure=min(strange), figures=", ".join(e.label for e in ENTRIES.values())
        )
    values = crop.model_dump()
    figures = {name: value for name, value in own.items() if name not in ("name", "es")}
    if "name" in own or "es" in own:
        english = str(own.get("name", crop.name.en))
        figures["name"] = {"en": english, "es": str(own.get("es", english if "name" in own else crop.name.es))}
    for name in ("days", "degree_days"):
        if name in figures:
            figures[name] = {**values[name], **figures[name]} if figures[name] else {}
    if "days" in figures and "degree_days" not in figures:
        figures["degree_days"] = {m: v for m, v in values["degree_days"].items() if m not in own["days"]}
    if "methods" in figures:  # figures of ways that it is not started in any more say nothing
        for name in ("days", "degree_days"):
            kept = figures.get(name, values[name])
            figures[name] = {m: v for m, v in kept.items() if m in figures["methods"]}
        figures.setdefault("windows", [w for w in values["windows"] if w["method"] in figures["methods"]])
    if {"germination_c", "emerges"} & set(figures):
        figures |= {"emergence": "", "emergence_days": ()}
    if "support_kind" in figures:
        figures["support"] = bool(figures["support_kind"])
    values.update(figures)
    values["own"] = frozenset(crop.own | set(own))
    values["sources"] = {**values["sources"], **dict.fromkeys(own, OWN)}
    if row.based_on is not None:
        values |= {"key": row.crop, "based_on": row.based_on}
    try:
        return Crop.model_validate(values, context={"mm": True})
    except ValidationError as error:
        first = error.errors()[0]
        field = str(first["loc"][0]) if first["loc"] else ""
        said = first["msg"].removeprefix("Value error, ")
        label = ENTRIES[field].label.lower() if field in ENTRIES else field or "its figures"
        raise BadInput("crops.figure_of_crop", field=field, crop=crop.name.en, label=label, problem=said) from None


def key_of(name: str, taken: Catalogue) -> str:
    """A key for a crop of the school's own, made from its name. Raises BadInput when nothing of it can be kept."""
    plain = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:50]
    if len(plain) < 2:
        raise BadInput("crops.name_without_letters", field="name")
    key, n = plain, 2
    while key in taken:
        key, n = f"{plain}-{n}", n + 1
    return key
