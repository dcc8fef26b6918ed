"""Harvest: log a picking, see what is ready and what is to come, and every picking as CSV."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from typing import Annotated, Any
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Response

from almanaque.commands.harvest import harvest_book, pickings
from almanaque.commands.harvest.pickings import PickingWish
from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.core.harvest import picking
from almanaque.core.school.school_year import week_of
from almanaque.core.units import format_mass, format_mass_range, format_yield
from almanaque.formats import csv_table
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.harvest import pickings as picking_rows
from almanaque.store.harvest.pickings import Picked
from almanaque.web import forms, frame, words
from almanaque.web.pictures import compared_with
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Pick = Annotated[RequestScope, Depends(may("pick"))]
SHOWN_PICKINGS = 12
WEEKS_AHEAD = 8
FIELDS = (
    "id",
    "planting",
    "amount",
    "unit",
    "use",
    "day",
    "note",
    "part",
    "group",
    "team",
    "quality",
    "lost_to",
    "last",
    "sure",
)


@router.get("/harvest")
def page(scope: Look, planting: str = "") -> Response:
    with scope.open() as work:
        return _page(work, {"id": str(uuid4()), "planting": planting})


@router.post("/harvest")
def pick(scope: Pick) -> Response:
    """Keep a picking. What cannot be kept stays in the form with the reason."""
    form = typed(scope)
    try:
        with scope.open() as work:
            kept = pickings.pick(work.connection, work.context, wish(work, form), work.actor())
            return frame.go(work, "/harvest", kept=str(kept.id))
    except BadInput as error:
        with scope.open() as work:
            return _page(work, form, error=error, status=422)


@router.get("/harvest.csv")
def all_as_csv(scope: Look) -> Response:
    """Every picking up to the ribbon's day, with units in the header."""
    with scope.open() as work:
        names = work.context.group_names(work.today)
        header = [
            "day",
            "bed",
            "crop",
            "variety",
            "part",
            "amount",
            "unit",
            "mass_g",
            "mass_low_g",
            "mass_high_g",
            "estimated",
            "quality",
            "class",
            "team",
            "uses",
            "cured_g",
            "note",
        ]
        rows = [
            [
                row.picked_on.isoformat(),
                row.bed_name,
                crop_name(work, row),
                row.variety,
                row.part,
                row.amount,
                row.unit,
                row.grams,
                row.low_g,
                row.high_g,
                "yes" if row.estimated else "no",
                row.quality,
                names.get(str(row.class_group_id), ""),
                row.team,
                uses_words(row),
                row.cured_g,
                row.note,
            ]
            for row in picking_rows.recent(work.connection, until=work.day, limit=1_000_000)
        ]
        headers = {"Content-Disposition": "attachment; filename=harvest.csv"}
        return Response(csv_table.write(header, rows), media_type="text/csv; charset=utf-8", headers=headers)


def typed(scope: RequestScope) -> dict[str, Any]:
    """What the form of a picking sent: its fields, amounts of other uses, and plantings in the same basket."""
    sent = scope.request.state.form
    form: dict[str, Any] = {name: str(sent.get(name, "")) for name in FIELDS}
    form["parts"] = {use: str(sent.get(f"use-{n}", "")) for n, use in enumerate(picking.USES)}
    form["others"] = [str(value) for value in sent.getlist("others")]
    return form


def wish(work: UnitOfWork, form: Mapping[str, Any]) -> PickingWish:
    """A picking from its form. Raises BadInput."""
    if not forms.is_id(form["planting"]):
        raise BadInput("harvest.what_was_picked_missing", field="planting")
    return PickingWish(
        forms.row_id(form["id"]),
        UUID(form["planting"]),
        form["amount"],
        form["unit"],
        form["use"],
        parse_day(form["day"]) if form["day"] else work.today,
        group_of(work, form["group"]),
        form["note"],
        form["part"],
        form["quality"],
        form["team"],
        form["lost_to"],
        form["parts"],
        form["sure"] == "1",
        form["last"] == "1",
        tuple(UUID(other) for other in form["others"] if forms.is_id(other)),
    )


def group_of(work: UnitOfWork, text: str) -> UUID | None:
    """A class of this school, or none. Raises BadInput."""
    found = forms.optional_id(text)
    if found is not None and found not in {group.id for group in work.context.groups}:
        raise BadInput("harvest.no_such_class", field="group")
    return found


@dataclass(frozen=True)
class PickingFormView(View):
    """Filled by `form_values`, read by its template."""

    form: dict[str, Any]
    error: str
    error_field: str
    dated: str
    uses: tuple[str, ...]
    parts: tuple[str, ...]
    split: list[tuple[int, str, str]]
    splitting: bool
    unit_choices: list[str]
    groups: list[tuple[str, str]]
    teams: list[str]


def form_values(work: UnitOfWork, form: Mapping[str, Any], *, error: BadInput | None = None) -> PickingFormView:
    """What the fields of a picking need: what was typed, and the choices."""
    filled = {**dict.fromkeys(FIELDS, ""), "parts": {}, "others": [], **form}
    weighings = picking_rows.weighings(work.connection)
    own = {w.unit for known in weighings.values() for w in known}
    return PickingFormView(
        form=filled,
        error=error.message if error else "",
        error_field=error.field if error else "",
        dated=frame.later_than_today(work),
        uses=picking.USES,
        parts=picking.PARTS,
        split=[(n, use, filled["parts"].get(use, "")) for n, use in enumerate(picking.USES)],
        splitting=any(filled["parts"].values()) or bool(filled["lost_to"]),
        unit_choices=picking.unit_choices(work.context.crops, work.context.school.units, sorted(own)),
        groups=[("", "whoever grows it"), *work.context.group_names(work.today).items()],
        teams=sorted({team.name for group in work.context.groups_on(work.today) for team in group.teams}),
    )


def _page(work: UnitOfWork, form: Mapping[str, Any], *, error: BadInput | None = None, status: int = 200) -> Response:
    recent = picking_rows.recent(work.connection, until=work.day, limit=SHOWN_PICKINGS)
    standing = garden.plantings(work.connection, since=work.today, until=work.today)
    ready = pickings.ready(work.connection, work.context, work.today, standing)
    values = {
        **form_values(work, form, error=error),
        "choices": _choices(work, standing, {p.id for p, _, _ in ready}),
        "kept": _kept(work),
        "recent": [line(work, row) for row in recent],
        "ready": _ready(ready),
        "weeks": _weeks(work),
    }
    return frame.page(work, "harvest", "Harvest", values, status=status)


def _choices(work: UnitOfWork, standing: Sequence[Planting], ready: set[UUID]) -> list[dict[str, str]]:
    """Plantings that can be picked today with the units they may be noted in; those that are ready first."""
    beds = {bed.id: bed.name for bed in garden.beds(work.connection)}
    weighings = picking_rows.weighings(work.connection)
    found = []
    for planting in standing:
        if planting.status == "in the ground":
            crop = work.context.crops[planting.crop]
            found.append(
                {
                    "id": str(planting.id),
                    "label": f"{crop.name.en}, {beds[planting.bed_id]}, since {words.short_day(planting.bed_from)}",
                    "units": "|".join(picking.units_of(crop, weighings.get(crop.kind, ()))),
                    "part": crop.part,
                    "ready": "1" if planting.id in ready else "",
                }
            )
    return sorted(found, key=lambda choice: (not choice["ready"], choice["label"]))


@dataclass(frozen=True)
class ReadyToPickView(View):
    """Filled by `_ready`, read by its template."""

    id: str
    crop: str
    bed: str
    sign: str
    how: str
    parts: list[tuple[str, ...]]
    cure: int
    caution: str
    drawings: list[tuple[str, str]]


def _ready(ready: Sequence[tuple[Planting, Crop, Bed]]) -> list[ReadyToPickView]:
    return [
        ReadyToPickView(
            id=str(planting.id),
            crop=crop.name.en,
            bed=bed.name,
            sign=crop.ready_sign,
            how=crop.how_to_pick,
            parts=[(part, other.sign, other.how) for part, other in crop.parts.items()],
            cure=crop.cure_days,
            caution=crop.caution or crop.poisonous,
            drawings=compared_with.ripe_or_not(crop),
        )
        for planting, crop, bed in ready
    ]


@dataclass(frozen=True)
class ComingShareView(View):
    """A row of `ComingWeekView`."""

    crop: str
    amount: str
    beds: str
    sure: str
    counted: str


@dataclass(frozen=True)
class ComingWeekView(View):
    """Filled by `_weeks`, read by its template."""

    days: str
    rows: list[ComingShareView]
    here: bool


def _weeks(work: UnitOfWork) -> list[ComingWeekView]:
    """What is to come, a week each, for kitchen and stall."""
    until = work.today + timedelta(weeks=WEEKS_AHEAD)
    found = harvest_book.read(work.connection, work.context, today=work.today, until=work.today)
    weeks: dict[date, list[ComingShareView]] = {}
    for share in harvest_book.coming(work.connection, work.context, found, today=work.today, until=until):
        weeks.setdefault(share.monday, []).append(
            ComingShareView(
                crop=share.crop.name.en,
                amount=mass_range(share.low_g, share.high_g, work),
                beds=share.bed,
                sure="" if share.sure else "partly still planned",
                counted=share.counted,
            )
        )
    return [
        ComingWeekView(
            days=words.span(monday, week_of(monday)[6]),
            rows=rows,
            here=work.context.calendar.children_here(monday)
            or bool(work.context.calendar.days_here_between(monday, week_of(monday)[6])),
        )
        for monday, rows in sorted(weeks.items())
    ]


def mass_range(low: float, high: float, work: UnitOfWork) -> str:
    return format_mass_range(low, high, work.context.school.units)


def crop_name(work: UnitOfWork, row: Picked) -> str:
    return work.context.crops[row.crop].name.en if row.crop in work.context.crops else row.crop


def uses_words(row: Picked) -> str:
    """`kitchen`, or with shares `kitchen 60 %, lost 40 % to slugs`."""
    return ", ".join(
        (u.use if len(row.uses) == 1 else f"{u.use} {float(u.share):.0%}") + (f" to {u.to_what}" if u.to_what else "")
        for u in row.uses
    )


def weight_words(row: Picked, work: UnitOfWork) -> str:
    """The weight beside an amount: nothing beside one that is a weight, about and a range for an estimate."""
    units = work.context.school.units
    if row.grams is None:
        return "no weight yet"
    if not row.estimated:
        return "" if row.unit in ("lb", "kg") else format_mass(row.grams, units)
    if row.low_g is None or row.high_g is None:
        return f"about {format_mass(row.grams, units)}"
    return f"about {format_mass(row.grams, units)} ({mass_range(float(row.low_g), float(row.high_g), work)})"


def line(work: UnitOfWork, row: Picked) -> dict[str, str]:
    """A picking in a list."""
    part = "" if row.crop in work.context.crops and row.part == work.context.crops[row.crop].part else row.part
    return {
        "id": str(row.id),
        "day": words.short_day(row.picked_on),
        "crop": crop_name(work, row),
        "bed": row.bed_name,
        "part": part,
        "amount": f"{plain(row.amount)} {row.unit}",
        "weight": weight_words(row, work),
        "facts": words.joined([uses_words(row), row.quality, row.team, row.note]),
    }


def _kept(work: UnitOfWork) -> dict[str, str]:
    """What is said of the picking that was just kept: what its planting has given, and what fits the space it leaves."""
    wanted = work.scope.request.query_params.get("kept", "")
    if not forms.is_id(wanted):
        return {}
    row = picking_rows.one(work.connection, UUID(wanted))
    planting = garden.planting(work.connection, row.planting_id)
    bed = garden.bed(work.connection, row.bed_id)
    units = work.context.school.units
    given = picking_rows.given(work.connection, [row.planting_id]).get(row.planting_id)
    area = planting.area_m2(bed)
    rate = f", {format_yield(float(given) / area, units)}" if given and area else ""
    given_words = (
        f" This planting has given {format_mass(given, units)}{rate}."
        if given
        else " Nobody has weighed it yet, so its weight is open."
    )
    crop = work.context.crops[row.crop]
    cure = (
        f"It cures for about {crop.cure_days} days: say where it hangs."
        if crop.cure_days and row.hung_on is None
        else ""
    )
    fits = f"/garden/beds/{bed.id}/fits" if planting.status == "finished" else ""
    return {
        "words": f"Kept: {plain(row.amount)} {row.unit} of {crop.name.en.lower()}.{given_words}",
        "id": wanted,
        "cure": cure,
        "fits": fits,
        "bed": bed.name,
    }


def plain(amount: Decimal) -> str:
    return f"{amount.normalize():f}"
