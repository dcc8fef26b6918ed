"""Garden: adding a bed, changing it, and the size of the ground."""

from typing import Annotated, Any, Literal
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response

from almanaque.commands import beds as commands
from almanaque.commands.beds import BedWish
from almanaque.core.bed import Rectangle
from almanaque.core.errors import BadInput
from almanaque.core.units import Units, format_length, parse_length
from almanaque.store import garden
from almanaque.store.garden import Bed
from almanaque.web import forms, frame
from almanaque.web.desk import Desk, Room, may

router = APIRouter()
Plan = Annotated[Desk, Depends(may("plan"))]
KINDS = (("raised", "raised bed"), ("container", "container or pot"), ("ground", "level with the ground"))
MOST_KEPT = 8
USUAL = {
    "us": {"size": "8 ft x 4 ft", "depth": "11 in", "cell": "12 in", "at": "2 ft x 2 ft", "kept_part": "Rosemary: 2 ft x 2 ft at 6 ft x 0 ft"},
    "metric": {"size": "2.4 m x 1.2 m", "depth": "30 cm", "cell": "30 cm", "at": "1 m x 1 m", "kept_part": "Rosemary: 60 cm x 60 cm at 1.8 m x 0 m"},
}  # fmt: skip


@router.get("/garden/beds/new")
def new(desk: Plan) -> Response:
    with desk.open() as room:
        return _page(room, None)


@router.get("/garden/beds/{bed_id}/edit")
def edit(desk: Plan, bed_id: UUID) -> Response:
    with desk.open() as room:
        return _page(room, garden.bed(room.connection, bed_id))


@router.post("/garden/beds")
def save(
    desk: Plan,
    id: Annotated[str, Form()] = "",
    name: Annotated[str, Form()] = "",
    purpose: Annotated[str, Form()] = "",
    kind: Annotated[str, Form()] = "raised",
    size: Annotated[str, Form()] = "",
    depth: Annotated[str, Form()] = "",
    cell: Annotated[str, Form()] = "",
    at: Annotated[str, Form()] = "",
    material: Annotated[str, Form()] = "",
    built_year: Annotated[str, Form()] = "",
    group: Annotated[str, Form()] = "",
    kept: Annotated[str, Form()] = "",
    version: Annotated[int | None, Form()] = None,
    action: Annotated[Literal["save", "delete"], Form()] = "save",
) -> Response:
    """Add, change or delete a bed."""
    with desk.open() as room:
        bed_id = forms.row_id(id)
        if action == "delete":
            garden.delete_bed(room.connection, bed_id)
            return frame.go(room, "/garden")
        units = room.context.school.units
        group_id = forms.optional_id(group)
        if group_id is not None and group_id not in {g.id for g in room.context.groups}:
            raise BadInput("There is no such group. Choose one from the list.", field="group")
        known = next((b for b in garden.beds(room.connection) if b.id == bed_id), None)
        shown = _shown(known, units) if known else {}
        length, width = (
            (known.length_mm, known.width_mm) if known and size == shown["size"] else _pair(size, units, "size")
        )
        x, y = (known.x_mm, known.y_mm) if known and at == shown["at"] else _pair(at, units, "at")
        deep = known.depth_mm if known and depth == shown["depth"] else _length(depth, units, "depth")
        square = known.cell_mm if known and cell == shown["cell"] else _length(cell, units, "cell")
        parts = tuple(known.kept) if known and kept.split() == shown["kept"].split() else _kept(kept, units)
        year = (
            forms.whole(built_year, field="built_year", least=1800, most=2150, what="The year it was built")
            if built_year.strip()
            else None
        )
        wish = BedWish(
            forms.name(name, what="a name, such as Bed 1"), forms.optional_name(purpose, field="purpose"), forms.one_of(kind, [k for k, _ in KINDS], field="kind"),
            x, y, length, width, deep, square, forms.optional_name(material, field="material"), year, group_id,
            parts,
        )  # fmt: skip
        commands.save(room.connection, room.context, bed_id, wish, room.hand(version))
        return frame.go(room, f"/garden/beds/{bed_id}")


@router.post("/garden/site")
def save_site(desk: Plan, name: Annotated[str, Form()] = "", size: Annotated[str, Form()] = "") -> Response:
    """Name the ground and say how large it is."""
    with desk.open() as room:
        width, depth = _pair(size, room.context.school.units, "size")
        commands.save_site(room.connection, room.context, name=forms.name(name), width_mm=width, depth_mm=depth)
        return frame.go(room, "/garden")


def _page(room: Room, bed: Bed | None) -> Response:
    units = room.context.school.units
    usual = USUAL[units]
    site = next(iter(garden.sites(room.connection)), None)
    names = room.context.group_names(room.day)
    values: dict[str, Any] = {
        "bed": bed, "bed_id": str(bed.id if bed else uuid4()), "kinds": KINDS, **(_shown(bed, units) if bed else {**usual, "kept": ""}),
        "groups": [("", "nobody")] + [(str(g.id), names[str(g.id)]) for g in room.context.groups_on(room.day)],
        "site_name": site.name if site else "School garden", "site_size": _both(site.width_mm, site.depth_mm, units) if site else "",
        "example": usual,
    }  # fmt: skip
    return frame.page(room, "garden", bed.name if bed else "A new bed", values, template="garden/bed_form.html")


def _shown(bed: Bed, units: Units) -> dict[str, str]:
    """The bed's lengths as the form shows them; what comes back the same keeps its exact value, not the rounded one."""
    return {
        "size": _both(bed.length_mm, bed.width_mm, units), "at": _both(bed.x_mm, bed.y_mm, units), "depth": _written(bed.depth_mm, units),
        "cell": _written(bed.cell_mm, units),
        "kept": "\n".join(f"{k.label}: {_both(k.length_mm, k.width_mm, units)} at {_both(k.x_mm, k.y_mm, units)}" for k in bed.kept),
    }  # fmt: skip


def _pair(text: str, units: Units, field: str) -> tuple[float, float]:
    """Two lengths with an x between them; a corner may lie at 0."""
    parts = text.lower().replace("×", "x").split("x")
    if len(parts) != 2:
        raise BadInput(f"Write two lengths with an x between them, like {USUAL[units]['size']}.", field=field)
    return _length(parts[0], units, field, us="ft"), _length(parts[1], units, field, us="ft")


def _length(text: str, units: Units, field: str, *, us: Literal["ft", "in"] = "in") -> float:
    """A length [mm]; a bare number is in centimetres, or in a US school in `us`."""
    try:
        return float(parse_length(text, bare_unit=us if units == "us" else "cm"))
    except BadInput as error:
        raise error.at(field) from None


def _kept(text: str, units: Units) -> tuple[Rectangle, ...]:
    """Kept parts, one to a line: `Rosemary: 2 ft x 2 ft at 6 ft x 0 ft`."""
    found = []
    for line in filter(None, (line.strip() for line in text.splitlines())):
        label, colon, rest = line.partition(":")
        size, word, at = rest.partition(" at ")
        if not (label.strip() and colon and word):
            raise BadInput(
                f"“{line[:40]}” is not a kept part. Write it like {USUAL[units]['kept_part']}.", field="kept"
            )
        (length, width), (x, y) = _pair(size, units, "kept"), _pair(at, units, "kept")
        found.append(Rectangle(x, y, length, width, forms.name(label, field="kept")))
    if len(found) > MOST_KEPT:
        raise BadInput(f"A bed keeps at most {MOST_KEPT} parts.", field="kept")
    return tuple(found)


def _both(first: float, second: float, units: Units) -> str:
    return f"{_written(first, units)} x {_written(second, units)}"


def _written(mm: float, units: Units) -> str:
    """A length in words that are read back."""
    return format_length(mm, units)
