"""The numbers of a bed that is chosen on the map: one box each, shown and read back to the same shape."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from almanaque.core.errors import BadInput
from almanaque.core.garden import drawing
from almanaque.core.garden.outline import CORNERS, Point, l_shape
from almanaque.core.units import Units, format_length
from almanaque.store.garden.garden import Bed
from almanaque.web import forms, words
from almanaque.web.garden.bed_form import KINDS
from almanaque.web.view import View

BOXES = ("name", "length", "width", "notch_length", "notch_width", "x", "y", "turn", "depth", "cell", "count", "gap")


@dataclass(frozen=True)
class MapBedView(View):
    """A bed as its form on the map shows it. `form` is its shape: whole, round, an L, or another outline."""

    id: str
    version: int
    name: str
    kind: str
    kinds: tuple[tuple[str, str], ...]
    form: str
    notch: str
    corner_words: tuple[str, ...]
    squares: str
    fields: dict[str, str]


def view(bed: Bed, units: Units, typed: Mapping[str, Any] | None = None) -> MapBedView:
    """A bed's boxes; with what was typed and refused in their place."""
    shape, notch = bed.shape, drawing.notch_of(bed.shape)
    form = "round" if drawing.is_round(shape) else "L" if notch else "outline" if bed.outline_mm else "whole"
    fields = {
        "name": bed.name,
        "length": format_length(bed.length_mm, units),
        "width": format_length(bed.width_mm, units),
        "notch_length": format_length(notch[0], units) if notch else "",
        "notch_width": format_length(notch[1], units) if notch else "",
        "x": format_length(bed.x_mm, units),
        "y": format_length(bed.y_mm, units),
        "turn": f"{bed.turn_deg:g}",
        "depth": format_length(bed.depth_mm, units),
        "cell": format_length(bed.cell_mm, units),
        "count": "6",
        "gap": "3 ft" if units == "us" else "90 cm",
        "way": "right",
    }
    fields |= {key: str(value) for key, value in (typed or {}).items() if key in fields}
    grid = bed.grid()
    return MapBedView(
        id=str(bed.id),
        version=bed.version,
        name=bed.name,
        kind=bed.kind,
        kinds=KINDS,
        form=form,
        notch=notch[2] if notch else "",
        corner_words=CORNERS,
        squares=words.count(len(grid.cells), "whole square"),
        fields=fields,
    )


def bed_from(bed: Bed, form: Mapping[str, Any], units: Units) -> Bed:
    """The bed as its boxes say now; what comes back as it was shown keeps its exact value.

    Raises BadInput that names the box.
    """

    def length(name: str, known: float) -> float:
        return forms.length_again(str(form[name]), known, units, field=name)

    long, wide = length("length", bed.length_mm), length("width", bed.width_mm)
    if drawing.is_round(bed.shape) and long != bed.length_mm:
        wide = long
    depth, cell = (
        known if form[name] == format_length(known, units) else forms.length(str(form[name]), units, field=name)
        for name, known in (("depth", bed.depth_mm), ("cell", bed.cell_mm))
    )  # a bare number is in inches in both
    for name, value in (("length", long), ("width", wide), ("depth", depth), ("cell", cell)):
        if value <= 0:
            raise BadInput("garden.bed_without_size", field=name)
    return replace(
        bed,
        name=forms.name(str(form["name"]), what="name_of_bed"),
        kind=forms.one_of(str(form["kind"]), [key for key, _ in KINDS], field="kind"),
        x_mm=length("x", bed.x_mm),
        y_mm=length("y", bed.y_mm),
        length_mm=long,
        width_mm=wide,
        turn_deg=(forms.number(str(form["turn"]), field="turn", what="turn") or 0.0) % 360,
        depth_mm=depth,
        cell_mm=cell,
        outline_mm=_outline(bed, form, units, long, wide),
    )


def size_words(bed: Bed, units: Units) -> str:
    return f"{format_length(bed.length_mm, units)} × {format_length(bed.width_mm, units)}"


def _outline(bed: Bed, form: Mapping[str, Any], units: Units, long: float, wide: float) -> tuple[Point, ...]:
    """The corners for the new length and width: an L keeps its notch, any other outline is stretched."""
    notch = drawing.notch_of(bed.shape)
    if form.get("top") == "whole":
        return ()
    if notch is not None:
        at = str(form["notch"] or notch[2])
        if at not in CORNERS:
            raise BadInput("forms.none_of_the_choices", field="notch", text=at[:30], allowed=", ".join(CORNERS))
        m = forms.length_again(str(form["notch_length"]), notch[0], units, field="notch_length")
        n = forms.length_again(str(form["notch_width"]), notch[1], units, field="notch_width")
        try:
            return l_shape(long, wide, m, n, at)
        except BadInput as error:
            raise error.at("notch_length") from None
    return drawing.stretched(bed.shape, long, wide)
