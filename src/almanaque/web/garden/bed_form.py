"""Garden: adding a bed, changing it, and the size of the ground."""

from datetime import date
from typing import Annotated, Any, Literal
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.garden import beds as commands
from almanaque.commands.garden.beds import BedWish
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import Rectangle
from almanaque.core.units import (
    Units,
    format_length,
    format_temperature,
    format_volume,
    format_water,
    parse_temperature,
)
from almanaque.store.garden import bed_sections, garden
from almanaque.store.garden.bed_sections import Section
from almanaque.store.garden.garden import Bed
from almanaque.web import forms, frame
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day

router = APIRouter()
Plan = Annotated[RequestScope, Depends(may("plan"))]
KINDS = (
    ("raised", "raised bed"),
    ("sunken", "sunken bed"),
    ("ground", "level with the ground"),
    ("plot", "open plot"),
    ("container", "container or pot"),
    ("fabric pot", "fabric pot"),
    ("planter", "planter with pockets"),
    ("sill", "indoor sill"),
)
USUAL = {
    "us": {
        "notch": "4 ft x 2 ft",
        "size": "8 ft x 4 ft",
        "depth": "11 in",
        "cell": "12 in",
        "at": "2 ft x 2 ft",
        "kept_part": "Rosemary: 2 ft x 2 ft at 6 ft x 0 ft",
    },
    "metric": {
        "notch": "1.2 m x 60 cm",
        "size": "2.4 m x 1.2 m",
        "depth": "30 cm",
        "cell": "30 cm",
        "at": "1 m x 1 m",
        "kept_part": "Rosemary: 60 cm x 60 cm at 1.8 m x 0 m",
    },
}


@router.get("/garden/beds/new")
def new(scope: Plan) -> Response:
    with scope.open() as work:
        return _page(work, None)


@router.get("/garden/beds/{bed_id}/edit")
def edit(scope: Plan, bed_id: UUID) -> Response:
    with scope.open() as work:
        return _page(work, garden.bed(work.connection, bed_id))


class BedForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    name: str = ""
    purpose: str = ""
    kind: str = "raised"
    size: str = ""
    depth: str = ""
    cell: str = ""
    at: str = ""
    material: str = ""
    built_year: str = ""
    group: str = ""
    kept: str = ""
    turn: str = ""
    outline: str = ""
    volume: str = ""
    pockets: str = ""
    light: str = ""
    warmth: str = ""
    drip: str = ""
    sections: str = ""
    version: int | None = None
    action: Literal["save", "delete"] = "save"


@router.post("/garden/beds")
def save(scope: Plan, form: Annotated[BedForm, Form()]) -> Response:
    """Add, change or delete a bed."""
    with scope.open() as work:
        bed_id = forms.row_id(form.id)
        if form.action == "delete":
            garden.delete_bed(work.connection, bed_id)
            return frame.go(work, "/garden")
        units = work.context.school.units
        group_id = forms.group(form.group, {g.id for g in work.context.groups})
        known = next((b for b in garden.beds(work.connection) if b.id == bed_id), None)
        shown = _shown(work, known) if known else {}
        length, width = (
            (known.length_mm, known.width_mm)
            if known and form.size == shown["size"]
            else forms.pair(form.size, units, field="size")
        )
        x, y = (known.x_mm, known.y_mm) if known and form.at == shown["at"] else forms.pair(form.at, units, field="at")
        deep = (
            known.depth_mm if known and form.depth == shown["depth"] else forms.length(form.depth, units, field="depth")
        )
        square = known.cell_mm if known and form.cell == shown["cell"] else forms.length(form.cell, units, field="cell")
        parts = tuple(known.kept) if known and form.kept.split() == shown["kept"].split() else _kept(form.kept, units)
        year = (
            forms.whole(form.built_year, field="built_year", least=1800, most=2150, what="year_built")
            if form.built_year.strip()
            else None
        )
        wish = BedWish(
            forms.name(form.name, what="name_of_bed"),
            forms.optional_name(form.purpose, field="purpose"),
            forms.one_of(form.kind, [k for k, _ in KINDS], field="kind"),
            x,
            y,
            length,
            width,
            deep,
            square,
            forms.optional_name(form.material, field="material"),
            year,
            group_id,
            parts,
            turn_deg=(forms.number(form.turn, field="turn", what="turn") or 0.0) % 360,
            outline_mm=known.outline_mm
            if known
            and form.outline.split() == shown["outline"].split()
            and (length, width) == (known.length_mm, known.width_mm)
            else forms.outline(form.outline, length, width, units),
            volume_l=known.volume_l
            if known and form.volume == shown["volume"]
            else forms.volume(form.volume, units, field="volume"),
            pockets=forms.whole(form.pockets, field="pockets", least=1, most=200, what="pockets")
            if form.pockets.strip()
            else None,
            light_h=forms.number(form.light, field="light", what="hours_of_light", within=(0, 24)),
            warmth_c=_warmth(form.warmth, units),
            drip_l_h=known.drip_l_h
            if known and form.drip == shown["drip"]
            else forms.volume(form.drip, units, field="drip"),
            sections=_sections(work, form.sections),
        )
        commands.save(work.connection, work.context, bed_id, wish, work.actor(form.version))
        return frame.leave(work, f"/garden/beds/{bed_id}")


class SiteForm(BaseModel):
    """What the form sends, as it was typed."""

    name: str = ""
    size: str = ""
    north: str = ""
    corner: str = ""


@router.post("/garden/site")
def save_site(scope: Plan, form: Annotated[SiteForm, Form()]) -> Response:
    """Name the ground, say how large it is, where north lies, and where in the world its corner is."""
    with scope.open() as work:
        width, depth = forms.pair(form.size, work.context.school.units, field="size")
        commands.save_site(
            work.connection,
            work.context,
            name=forms.name(form.name),
            width_mm=width,
            depth_mm=depth,
            north_deg=forms.number(form.north, field="north", what="north") or 0.0,
            corner=_corner(form.corner),
        )
        return frame.go(work, "/garden/map")


def _page(work: UnitOfWork, bed: Bed | None) -> Response:
    units = work.context.school.units
    usual = USUAL[units]
    names = work.context.group_names(work.day)
    values: dict[str, Any] = {
        "bed": bed,
        "bed_id": str(bed.id if bed else uuid4()),
        "kinds": KINDS,
        **(_shown(work, bed) if bed else {**usual, **BLANK}),
        "groups": [("", "nobody")] + [(str(g.id), names[str(g.id)]) for g in work.context.groups_on(work.day)],
        "example": usual,
    }
    return frame.page(work, "garden", bed.name if bed else "A new bed", values, template="garden/bed_form.html")


BLANK = {
    "kept": "",
    "turn": "0",
    "outline": "",
    "volume": "",
    "pockets": "",
    "light": "",
    "warmth": "",
    "drip": "",
    "sections": "",
}


def _shown(work: UnitOfWork, bed: Bed) -> dict[str, str]:
    """The bed's lengths as the form shows them; what comes back the same keeps its exact value, not the rounded one."""
    units = work.context.school.units
    names = {str(g.id): g.name for g in work.context.groups}
    return {
        "size": _both(bed.length_mm, bed.width_mm, units),
        "at": _both(bed.x_mm, bed.y_mm, units),
        "depth": _written(bed.depth_mm, units),
        "cell": _written(bed.cell_mm, units),
        "kept": "\n".join(
            f"{k.label}: {_both(k.length_mm, k.width_mm, units)} at {_both(k.x_mm, k.y_mm, units)}{_days(k)}"
            for k in bed.kept
        ),
        "turn": f"{bed.turn_deg:g}",
        "outline": "; ".join(_both(x, y, units) for x, y in bed.outline_mm),
        "volume": format_volume(bed.volume_l, units) if bed.volume_l else "",
        "pockets": str(bed.pockets or ""),
        "light": f"{bed.light_h:g}" if bed.light_h is not None else "",
        "warmth": format_temperature(bed.warmth_c, units) if bed.warmth_c is not None else "",
        "drip": format_water(bed.drip_l_h, units) if bed.drip_l_h else "",
        "sections": "\n".join(
            f"{s.purpose}: {_both(s.length_mm, s.width_mm, units)} at {_both(s.x_mm, s.y_mm, units)}"
            + (f", {names[str(s.class_group_id)]}" if str(s.class_group_id) in names else "")
            for s in bed_sections.sections(work.connection, bed.id)
        ),
    }


def _days(part: Rectangle) -> str:
    first = f" from {part.from_day.isoformat()}" if part.from_day else ""
    return first + (f" until {part.to_day.isoformat()}" if part.to_day else "")


def _warmth(text: str, units: Units) -> float | None:
    if not text.strip():
        return None
    try:
        return float(parse_temperature(text, bare_unit="F" if units == "us" else "C"))
    except BadInput as error:
        raise error.at("warmth") from None


def _corner(text: str) -> tuple[float, float] | None:
    """`46.2104, 7.3581`: latitude and longitude of the map's top-left corner."""
    if not text.strip():
        return None
    parts = text.replace("−", "-").split(",")
    if len(parts) != 2:
        raise BadInput("garden.not_a_corner", field="corner")
    latitude = forms.number(parts[0], field="corner", what="latitude")
    longitude = forms.number(parts[1], field="corner", what="longitude")
    if latitude is None or longitude is None:
        raise BadInput("garden.not_a_corner", field="corner")
    return latitude, longitude


def _sections(work: UnitOfWork, text: str) -> tuple[Section, ...]:
    """Sections, one to a line: `Salad: 4 ft x 2 ft at 0 x 0, Birches`, the group left out where nobody looks after it."""
    units, found = work.context.school.units, []
    groups = {group.name.lower(): group.id for group in work.context.groups}
    for line in filter(None, (line.strip() for line in text.splitlines())):
        purpose, colon, rest = line.partition(":")
        size, word, where = rest.partition(" at ")
        at, comma, group = where.partition(",")
        if not (purpose.strip() and colon and word):
            raise BadInput("garden.not_a_section", field="sections", line=line[:40], example=USUAL[units]["size"])
        if comma and group.strip().lower() not in groups:
            raise BadInput("garden.no_group_of_that_name", field="sections", group=group.strip()[:40])
        (length, width), (x, y) = forms.pair(size, units, field="sections"), forms.pair(at, units, field="sections")
        found.append(
            Section(forms.name(purpose, field="sections"), groups.get(group.strip().lower()), x, y, length, width)
        )
    return tuple(found)


def _kept(text: str, units: Units) -> tuple[Rectangle, ...]:
    """Kept parts, one to a line: `Rosemary: 2 ft x 2 ft at 6 ft x 0 ft`."""
    found = []
    for line in filter(None, (line.strip() for line in text.splitlines())):
        label, colon, rest = line.partition(":")
        size, word, at = rest.partition(" at ")
        at, first, last = _kept_days(at)
        if not (label.strip() and colon and word):
            raise BadInput("garden.not_a_kept_part", field="kept", line=line[:40], example=USUAL[units]["kept_part"])
        (length, width), (x, y) = forms.pair(size, units, field="kept"), forms.pair(at, units, field="kept")
        found.append(Rectangle(x, y, length, width, forms.name(label, field="kept"), first, last))
    return tuple(found)


def _kept_days(text: str) -> tuple[str, date | None, date | None]:
    """The place of a kept part, and its days: `6 ft x 0 ft from 2027-03-01 until 2027-09-30`."""
    at, _, last = text.partition(" until ")
    at, _, first = at.partition(" from ")
    days = [parse_day(day, field="kept") if day.strip() else None for day in (first, last)]
    return at, days[0], days[1]


def _both(first: float, second: float, units: Units) -> str:
    return f"{_written(first, units)} x {_written(second, units)}"


def _written(mm: float, units: Units) -> str:
    """A length in words that are read back."""
    return format_length(mm, units)
