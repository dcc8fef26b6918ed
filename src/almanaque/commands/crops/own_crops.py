"""A school's own figures, varieties and crops: read from a form, checked, kept, and every plan brought up to date."""

from collections.abc import Mapping
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context, load
from almanaque.commands.garden import renewal
from almanaque.core.crops.crop import Crop
from almanaque.core.crops.crop_fields import ENTRIES
from almanaque.core.crops.crop_form import read, written
from almanaque.core.crops.own_crops import OwnCrop, changed_crop, key_of
from almanaque.core.errors import BadInput
from almanaque.core.units import Units
from almanaque.data import catalogue
from almanaque.store.crops import own_crops


def save(
    connection: Connection[Any],
    context: Context,
    key: str,
    typed: Mapping[str, str],
    *,
    new: bool,
    row_id: UUID,
    today: date,
) -> str:
    """Keep the figures that differ from the crop's, or begin a variety with them; return the key of the crop.

    Raises BadInput, naming the field, for a figure that cannot be read or cannot be, and for a variety without a name of its own.
    """
    crop, units = context.crops[key], context.school.units
    root = crop.based_on or crop.key
    kept = {row.crop: row for row in own_crops.rows(connection)}
    before = dict(kept[key].figures) if key in kept and (crop.based_on or not new) else {}
    figures = before | _typed(crop, typed, units, southern=context.school.southern)
    note = " ".join(typed.get("note", "").split())[:200]
    if new:
        if str(figures.get("name", crop.name.en)).lower() == crop.name.en.lower():
            raise BadInput("crops.own_name_missing", field="name")
        row = own_crops.OwnCropRow(row_id, key_of(str(figures["name"]), context.crops), root, figures, note)
    else:
        row = own_crops.OwnCropRow(row_id, key, crop.based_on or None, figures, note)
    # Refused here, before anything is written.
    changed_crop(
        catalogue()[root] if not row.based_on else context.crops[root], OwnCrop(row.crop, row.based_on, figures)
    )
    own_crops.save(connection, context.school.id, row)
    _refresh(connection, row.crop, today)
    return row.crop


def forget(connection: Connection[Any], context: Context, key: str, *, today: date) -> None:
    """Go back to the catalogue's figures, or take out a crop of the school's own that nothing grows by."""
    own_crops.forget(connection, context.crops[key].key)
    _refresh(connection, key, today)


def _refresh(connection: Connection[Any], key: str, today: date) -> None:
    """Bring the plantings of a crop, and of varieties that begin from it, up to date."""
    changed = load(connection)
    kin = {crop.key for crop in changed.crops if key in (crop.key, crop.based_on)}
    renewal.renew(connection, changed, today=today, crops=kin)


def _typed(crop: Crop, typed: Mapping[str, str], units: Units, *, southern: bool) -> dict[str, Any]:
    """The figures of a form that differ from the crop's. The ways of starting are read first: days and warmth go by them."""
    methods, found = list(crop.methods), {}
    for field in sorted(ENTRIES, key=lambda name: name != "methods"):
        entry, text = ENTRIES[field], typed.get(field)
        if text is None or " ".join(text.split()) == " ".join(written(crop, entry, units, southern=southern).split()):
            continue
        found[field] = read(entry, text, units, methods, southern=southern)
        if field == "methods":
            methods = found[field]
    return found
