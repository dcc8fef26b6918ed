"""Garden: the form of what stands on the map besides beds, read and shown."""

from typing import Literal
from uuid import UUID

from pydantic import BaseModel

from almanaque.core.errors import BadInput
from almanaque.core.garden.outline import Shape
from almanaque.core.garden.site import KINDS, Feature
from almanaque.core.units import Units, format_length
from almanaque.store.garden.garden import Site
from almanaque.store.garden.site_features import FeatureRow
from almanaque.web import forms

MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"]


class FeatureForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    kind: str = ""
    name: str = ""
    size: str = ""
    at: str = ""
    turn: str = ""
    height: str = ""
    base: str = ""
    months: str = ""
    hose: str = ""
    outline: str = ""
    from_day: str = ""
    to_day: str = ""
    action: Literal["save", "delete"] = "save"


def read(form: FeatureForm, row_id: UUID, known: FeatureRow | None, site_id: UUID, units: Units) -> FeatureRow:
    """The thing that the form describes; raises BadInput at the field that cannot be.

    A box that comes back as it was shown keeps its exact value.
    """
    shown = shown_fields(known, units) if known else {}
    shape = known.feature.shape if known else Shape(0, 0, 0, 0)
    length, width = (
        (shape.length_mm, shape.width_mm)
        if form.size == shown.get("size")
        else forms.pair(form.size, units, field="size")
    )
    x, y = (shape.x_mm, shape.y_mm) if form.at == shown.get("at") else forms.pair(form.at, units, field="at")
    unchanged = known is not None and form.outline.split() == shown["outline"].split() and form.size == shown["size"]
    corners = shape.corners_mm if unchanged else forms.outline(form.outline, length, width, units)
    named = forms.name(form.name, what="name_of_feature")
    turned = (forms.number(form.turn, field="turn", what="turn") or 0.0) % 360
    feature = Feature(
        forms.one_of(form.kind, list(KINDS), field="kind"),
        named,
        Shape(x, y, length, width, turned, corners, named),
        _kept(form.height, known.feature.height_mm if known else None, units, "height"),
        _kept(form.base, known.feature.base_mm if known else None, units, "base") or 0.0,
        _months(form.months),
        _kept(form.hose, known.feature.hose_mm if known else None, units, "hose"),
    )
    return FeatureRow(
        row_id,
        site_id,
        feature,
        forms.optional_day(form.from_day, field="from_day"),
        forms.optional_day(form.to_day, field="to_day"),
    )


def blank(site: Site, kind: str, units: Units) -> dict[str, str]:
    """What the form begins with for a new thing of a kind, in the middle of the ground."""
    middle = both(
        round(site.width_mm / 2, -2) if units == "metric" else round(site.width_mm / 609.6) * 304.8,
        round(site.depth_mm / 2, -2) if units == "metric" else round(site.depth_mm / 609.6) * 304.8,
        units,
    )
    sizes = {
        "path": ("10 ft x 4 ft", "3 m x 1.2 m"),
        "tree": ("8 ft x 8 ft", "2.5 m x 2.5 m"),
        "tap": ("8 in x 8 in", "20 cm x 20 cm"),
        "fence": ("10 ft x 2 in", "3 m x 5 cm"),
        "gate": ("4 ft x 4 in", "1.2 m x 10 cm"),
    }
    size = sizes.get(kind, ("4 ft x 4 ft", "1.2 m x 1.2 m"))[units == "metric"]
    return {
        "kind": kind,
        "name": "",
        "size": size,
        "at": middle,
        "turn": "0",
        "height": "",
        "base": "",
        "months": "",
        "hose": "",
        "outline": "",
        "from_day": "",
        "to_day": "",
    }


def shown_fields(row: FeatureRow, units: Units) -> dict[str, str]:
    """What the form shows of a thing that stands there."""
    thing, shape = row.feature, row.feature.shape
    return {
        "kind": thing.kind,
        "name": thing.name,
        "size": both(shape.length_mm, shape.width_mm, units),
        "at": both(shape.x_mm, shape.y_mm, units),
        "turn": f"{shape.turn_deg:g}",
        "height": format_length(thing.height_mm, units) if thing.height_mm else "",
        "base": format_length(thing.base_mm, units) if thing.base_mm else "",
        "months": ", ".join(MONTHS[m - 1] for m in sorted(thing.months_bare)),
        "hose": format_length(thing.hose_mm, units) if thing.hose_mm else "",
        "outline": "; ".join(both(x, y, units) for x, y in shape.corners_mm),
        "from_day": row.from_day.isoformat() if row.from_day else "",
        "to_day": row.to_day.isoformat() if row.to_day else "",
    }


def both(first: float, second: float, units: Units) -> str:
    """`8 ft x 4 ft`."""
    return f"{format_length(first, units)} x {format_length(second, units)}"


def _kept(text: str, known: float | None, units: Units, field: str) -> float | None:
    """A length as typed, or none; what comes back as it was shown keeps its exact value."""
    return forms.length_again(text, known or 0.0, units, field=field) if text.strip() else None


def _months(text: str) -> frozenset[int]:
    """`Nov, Dec, Jan` or `11, 12, 1`."""
    found = set()
    for word in text.replace(",", " ").split():
        month = next((n for n, name in enumerate(MONTHS, start=1) if name.lower() == word[:3].lower()), None)
        if month is None and word.isascii() and word.isdigit() and 1 <= int(word[:3]) <= 12:
            month = int(word)
        if month is None:
            raise BadInput("garden.not_a_month_name", field="months", word=word[:12])
        found.add(month)
    return frozenset(found)
