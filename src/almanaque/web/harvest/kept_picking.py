"""Harvest: one picking, changed, taken back or hung up to cure; what hangs; what was tasted; what a unit weighs."""

from decimal import Decimal
from typing import Annotated, Any
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.harvest import pickings, tastings
from almanaque.core.errors import BadInput
from almanaque.core.harvest import picking
from almanaque.core.units import Units, format_mass, parse_mass
from almanaque.data import bushels_lb, planting_stock
from almanaque.store.harvest import pickings as picking_rows
from almanaque.store.harvest import tasting
from almanaque.store.harvest.pickings import Picked
from almanaque.store.harvest.tasting import Tasting
from almanaque.web import forms, frame, words
from almanaque.web.harvest import picking_form as room_of_pickings
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Pick = Annotated[RequestScope, Depends(may("pick"))]


@router.get("/harvest/pickings/{picking_id}")
def one(scope: Look, picking_id: UUID) -> Response:
    with scope.open() as work:
        return _page(work, picking_rows.one(work.connection, picking_id))


@router.post("/harvest/pickings/{picking_id}")
def change(scope: Pick, picking_id: UUID) -> Response:
    """Write what is right, take it back, or bring it in again."""
    form = {**room_of_pickings.typed(scope), "id": str(picking_id)}
    action = str(scope.request.state.form.get("action", ""))
    try:
        with scope.open() as work:
            known = picking_rows.one(work.connection, picking_id)
            if action in ("take back", "bring in"):
                pickings.take_back(work.connection, work.context, picking_id, work.actor(), back=action == "take back")
            else:
                wish = room_of_pickings.wish(work, {**form, "planting": str(known.planting_id)})
                pickings.change(work.connection, work.context, wish, work.actor())
            return frame.go(work, f"/harvest/pickings/{picking_id}")
    except BadInput as error:
        with scope.open() as work:
            return _page(work, picking_rows.one(work.connection, picking_id), form=form, error=error, status=422)


class CuringForm(BaseModel):
    """What the form sends, as it was typed."""

    day: str = ""
    place: str = ""
    days: str = ""
    cured_on: str = ""
    weight: str = ""


@router.post("/harvest/pickings/{picking_id}/curing")
def cure(scope: Pick, picking_id: UUID, form: Annotated[CuringForm, Form()]) -> Response:
    """Say where it hangs and since when, or what it weighs now that it is cured."""
    try:
        with scope.open() as work:
            if form.cured_on:
                grams = mass(form.weight, work.context.school.units) if form.weight.strip() else None
                pickings.cured(
                    work.connection,
                    picking_id,
                    day=parse_day(form.cured_on, field="cured_on"),
                    grams=grams,
                    actor=work.actor(),
                )
            else:
                wait = (
                    forms.whole(form.days, field="days", least=0, most=200, what="days") if form.days.strip() else None
                )
                pickings.hang(
                    work.connection,
                    work.context,
                    picking_id,
                    day=parse_day(form.day) if form.day else work.today,
                    place=form.place,
                    days=wait,
                    actor=work.actor(),
                )
            return frame.go(work, f"/harvest/pickings/{picking_id}")
    except BadInput as error:
        with scope.open() as work:
            return _page(work, picking_rows.one(work.connection, picking_id), error=error, status=422)


def _page(
    work: UnitOfWork,
    row: Picked,
    *,
    form: dict[str, Any] | None = None,
    error: BadInput | None = None,
    status: int = 200,
) -> Response:
    crop = work.context.crops[row.crop]
    copy = pickings.copy_of(row)
    shown = form or {
        "id": str(row.id),
        "planting": str(row.planting_id),
        "amount": copy.amount,
        "unit": copy.unit,
        "use": copy.use,
        "day": copy.day.isoformat(),
        "note": copy.note,
        "part": copy.part,
        "group": str(copy.class_group_id or ""),
        "team": copy.team,
        "quality": copy.quality,
        "lost_to": copy.lost_to,
        "parts": dict(copy.parts),
    }
    sign = crop.parts.get(row.part)
    values = {
        **room_of_pickings.form_values(work, shown, error=error),
        "line": room_of_pickings.line(work, row),
        "row": row,
        "part_choices": picking.parts_of(crop),
        "own_units": picking.units_of(crop, picking_rows.weighings(work.connection).get(crop.kind, ())),
        "curing": curing_words(work, row),
        "usual_days": crop.cure_days or 14,
        "sign": (sign.sign, sign.how) if sign else (crop.ready_sign, crop.how_to_pick),
        "stock": _stock(work, row),
    }
    return frame.page(work, "harvest", "A picking", values, template="harvest/kept_picking.html", status=status)


def _stock(work: UnitOfWork, row: Picked) -> str:
    """What the picking could become when it is set again."""
    crop = work.context.crops[row.crop]
    found = planting_stock().get(crop.kind)
    if found is None or row.part != crop.part:
        return ""
    low, high = found.pieces
    many = f"{low} to {high}" if low != high else str(low)
    plural = f"{found.piece}s" if high != 1 else found.piece
    return f"One {found.unit} holds {many} {plural} to set again."


def curing_words(work: UnitOfWork, row: Picked) -> dict[str, str]:
    """Where it hangs, until when, and what it lost."""
    if row.hung_on is None or row.ready_on is None:
        return {}
    units = work.context.school.units
    state = f"ready about {words.short_day(row.ready_on)}"
    if row.cured_on is not None:
        state = f"cured on {words.short_day(row.cured_on)}"
    elif row.ready_on <= work.today:
        state = f"should be ready since {words.short_day(row.ready_on)}"
    loss = ""
    if row.cured_g is not None:
        loss = f"{format_mass(row.cured_g, units)} cured"
        if row.grams is not None:
            about = "about " if row.estimated else ""
            loss += f", {about}{float(1 - row.cured_g / row.grams):.0%} less than the {format_mass(row.grams, units)} picked"
    return {
        "hung": words.short_day(row.hung_on),
        "place": row.place or "",
        "state": state,
        "loss": loss,
        "open": "1" if row.cured_on is None else "",
        "due": "1" if row.cured_on is None and row.ready_on <= work.today else "",
    }


def mass(text: str, units: Units, *, field: str = "weight") -> Decimal:
    """A mass [g] as typed; a bare number is ounces in a US school, else grams."""
    try:
        return parse_mass(text, bare_unit="oz" if units == "us" else "g")
    except BadInput as error:
        raise error.at(field) from None


@router.get("/harvest/curing")
def hanging(scope: Look, error: str = "") -> Response:
    """What hangs or hung, and what was tasted."""
    with scope.open() as work:
        return _hanging(work)


class TastingForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    crop: str = ""
    day: str = ""
    group: str = ""
    how: str = ""
    tried: str = ""
    liked: str = ""
    note: str = ""


@router.post("/harvest/tastings")
def taste(scope: Pick, sent: Annotated[TastingForm, Form()]) -> Response:
    """Keep how many tried something and how many liked it."""
    form = sent.model_dump()
    try:
        with scope.open() as work:
            on = parse_day(sent.day) if sent.day else work.today
            kept = Tasting(
                forms.row_id(sent.id),
                work.context.crops[sent.crop].key,
                on,
                room_of_pickings.group_of(work, sent.group),
                forms.optional_name(sent.how, field="how", most=60),
                forms.whole(sent.tried, field="tried", least=1, most=2000, what="tried"),
                forms.whole(sent.liked, field="liked", least=0, most=2000, what="liked"),
                forms.optional_name(sent.note, field="note", most=400),
            )
            tastings.keep(work.connection, work.context, kept, work.actor())
            return frame.go(work, "/harvest/curing")
    except BadInput as error:
        with scope.open() as work:
            return _hanging(work, form=form, error=error, status=422)


def _hanging(
    work: UnitOfWork, *, form: dict[str, str] | None = None, error: BadInput | None = None, status: int = 200
) -> Response:
    rows = picking_rows.recent(work.connection, until=work.day, curing=True, limit=200)
    names = work.context.group_names(work.today)
    tasted = tasting.tastings(work.connection, until=work.day)
    values = {
        "rows": [{**room_of_pickings.line(work, row), **curing_words(work, row)} for row in rows],
        "tastings": [_tasting(work, t, names) for t in tasted[:40]],
        "liked": _liked(work, tasted),
        "crops": [(crop.key, crop.name.en) for crop in sorted(work.context.crops, key=lambda c: c.name.en)],
        "groups": [("", "everybody"), *names.items()],
        "form": form
        or {
            "id": str(uuid4()),
            "crop": "",
            "day": work.today.isoformat(),
            "group": "",
            "how": "",
            "tried": "",
            "liked": "",
            "note": "",
        },
        "error": error.message if error else "",
    }
    return frame.page(
        work, "harvest", "Curing and tasting", values, template="harvest/curing_and_tasting.html", status=status
    )


def _tasting(work: UnitOfWork, row: Tasting, names: dict[str, str]) -> dict[str, str]:
    crop = work.context.crops[row.crop].name.en if row.crop in work.context.crops else row.crop
    return {
        "day": words.short_day(row.on_day),
        "crop": crop,
        "words": picking.tasted(row.tried, row.liked),
        "facts": words.joined([names.get(str(row.class_group_id), ""), row.how, row.note]),
    }


def _liked(work: UnitOfWork, rows: list[Tasting]) -> list[dict[str, str]]:
    """All tastings of a crop together, the best liked first."""
    sums: dict[str, tuple[int, int, int]] = {}
    for row in rows:
        tried, liked, times = sums.get(row.crop, (0, 0, 0))
        sums[row.crop] = (tried + row.tried, liked + row.liked, times + 1)
    return [
        {
            "crop": work.context.crops[crop].name.en if crop in work.context.crops else crop,
            "words": picking.tasted(tried, liked),
            "share": f"{liked / tried:.0%}",
            "times": words.count(times, "tasting"),
        }
        for crop, (tried, liked, times) in sorted(sums.items(), key=lambda s: -s[1][1] / s[1][0])
    ]


@router.get("/harvest/weights")
def weights(scope: Look, crop: str = "") -> Response:
    """What one of each unit weighs, crop by crop, and where that comes from."""
    with scope.open() as work:
        return _weights(work, {"id": str(uuid4()), "crop": crop})


class WeighingForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    crop: str = ""
    amount: str = ""
    unit: str = ""
    own_unit: str = ""
    weight: str = ""


@router.post("/harvest/weights")
def weigh(scope: Pick, sent: Annotated[WeighingForm, Form()]) -> Response:
    """Keep a weighing of a unit; pickings that were counted in it get their weight anew."""
    form = sent.model_dump()
    try:
        with scope.open() as work:
            changed = pickings.weigh_unit(
                work.connection,
                work.context,
                forms.row_id(sent.id),
                sent.crop,
                sent.amount,
                sent.own_unit.strip() or sent.unit,
                mass(sent.weight, work.context.school.units),
                day=work.today,
                actor=work.actor(),
            )
            return frame.go(work, "/harvest/weights", crop=sent.crop, changed=str(changed))
    except BadInput as error:
        with scope.open() as work:
            return _weights(work, form, error=error, status=422)


def _weights(work: UnitOfWork, form: dict[str, str], *, error: BadInput | None = None, status: int = 200) -> Response:
    units = work.context.school.units
    weighings = picking_rows.weighings(work.connection)
    rows = []
    for crop in sorted(work.context.crops, key=lambda c: c.name.en):
        own = weighings.get(crop.kind, [])
        found = [
            {
                "unit": unit,
                "one": format_mass(one.grams, units),
                "range": room_of_pickings.mass_range(one.low, one.high, work),
                "source": one.source,
            }
            for unit in picking.units_of(crop, own)
            if unit not in picking.WEIGHED
            and (one := picking.unit_weight(crop, unit, own, bushels_lb())) is not None
            and (unit in crop.weights_g or any(w.unit == unit for w in own) or unit == "bushel")
        ]
        if found:
            rows.append({"key": crop.key, "crop": crop.name.en, "units": found, "own": bool(own)})
    changed = work.scope.request.query_params.get("changed", "")
    values = {
        "rows": sorted(rows, key=lambda r: not r["own"]),
        "crops": [(crop.key, crop.name.en) for crop in sorted(work.context.crops, key=lambda c: c.name.en)],
        "unit_choices": [(unit, unit) for unit in picking.COUNTED],
        "form": {"amount": "1", "unit": "bunch", "own_unit": "", "weight": "", **form},
        "error": error.message if error else "",
        "changed": f"Kept. {words.count(int(changed), 'picking')} in that unit got a new weight."
        if changed.isdigit()
        else "",
    }
    return frame.page(work, "harvest", "What a unit weighs", values, template="harvest/weights.html", status=status)
