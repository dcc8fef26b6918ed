"""Garden: the boxes of a part of a bed, read back to what is kept or to a section."""

from collections.abc import Collection
from typing import Literal
from uuid import UUID

from pydantic import BaseModel

from almanaque.core.garden.bed import Rectangle
from almanaque.core.units import Units
from almanaque.store.garden.bed_sections import Section
from almanaque.web import forms


class PartForm(BaseModel):
    """What the form sends, as it was typed: one box for each number."""

    id: str = ""
    version: int | None = None
    label: str = ""
    crop: str = ""
    height: str = ""
    spread: str = ""
    from_day: str = ""
    to_day: str = ""
    group: str = ""
    x: str = ""
    y: str = ""
    length: str = ""
    width: str = ""
    action: Literal["save", "remove"] = "save"


def kept(form: PartForm, known: Rectangle, units: Units) -> Rectangle:
    """The kept part as its boxes say now. Raises BadInput that names the box."""
    return Rectangle(
        *_box(form, known, units),
        forms.name(form.label, field="label"),
        forms.optional_day(form.from_day, field="from_day"),
        forms.optional_day(form.to_day, field="to_day"),
        form.crop or None,
        forms.length_again(form.height, known.height_mm or 0.0, units, field="height") if form.height.strip() else None,
        forms.length_again(form.spread, known.spread_mm or 0.0, units, field="spread") if form.spread.strip() else None,
    )


def section(form: PartForm, known: Section, units: Units, groups: Collection[UUID]) -> Section:
    """The section as its boxes say now, looked after by one of these groups or nobody. Raises BadInput that names the box."""
    group = forms.group(form.group, groups)
    return Section(forms.name(form.label, field="label"), group, *_box(form, known, units))


def _box(form: PartForm, known: Rectangle | Section, units: Units) -> tuple[float, float, float, float]:
    """Place and size [mm] as the boxes say."""
    return (
        forms.length_again(form.x, known.x_mm, units, field="x"),
        forms.length_again(form.y, known.y_mm, units, field="y"),
        forms.length_again(form.length, known.length_mm, units, field="length"),
        forms.length_again(form.width, known.width_mm, units, field="width"),
    )
