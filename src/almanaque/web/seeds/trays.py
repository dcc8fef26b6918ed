"""Seeds: trays indoors, what is in which cell, when it is potted up and hardened off, and what goes home in a pot."""

from dataclasses import dataclass
from typing import Annotated
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.seeds import seed_box as commands
from almanaque.commands.seeds import what_to_buy
from almanaque.core.errors import BadInput
from almanaque.core.seeds import seed_lots as rules
from almanaque.store.garden import garden
from almanaque.store.seeds import seed_box
from almanaque.store.seeds.seed_box import Tray, TraySowing
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.seeds import tray_picture as pictures
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Note = Annotated[RequestScope, Depends(may("note"))]
SIZES = (
    ("6x4", "24 cells, 6 × 4"),
    ("6x6", "36 cells, 6 × 6"),
    ("8x6", "48 cells, 8 × 6"),
    ("12x6", "72 cells, 12 × 6"),
    ("12x12", "144 cells, 12 × 12"),
)


@router.get("/seeds/trays")
def page(scope: Look) -> Response:
    with scope.open() as work:
        return _list(work)


class TrayForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    name: str = ""
    size: str = ""
    columns: str = ""
    rows: str = ""
    place: str = ""


@router.post("/seeds/trays")
def make(scope: Note, form: Annotated[TrayForm, Form()]) -> Response:
    """Add a tray of a usual size, or of one's own."""
    try:
        with scope.open() as work:
            across, down = (
                form.size.split("x")
                if form.size in dict(SIZES) and not form.columns.strip()
                else (form.columns, form.rows)
            )
            tray = Tray(
                forms.row_id(form.id),
                forms.name(form.name, most=60),
                forms.whole(across, field="columns", least=1, most=40, what="cells_across"),
                forms.whole(down, field="rows", least=1, most=40, what="cells_down"),
                forms.optional_name(form.place, field="place", most=60),
                None,
            )
            seed_box.save_tray(work.connection, work.context.school.id, tray)
            return frame.go(work, f"/seeds/trays/{tray.id}")
    except BadInput as error:
        with scope.open() as work:
            return _list(work, error=error, status=422)


def _list(work: UnitOfWork, *, error: BadInput | None = None, status: int = 200) -> Response:
    found = [t for t in seed_box.trays(work.connection) if t.emptied_on is None]
    values = {
        "trays": [
            {
                "id": str(t.id),
                "name": t.name,
                "place": t.place,
                "cells": words.count(t.cells, "cell"),
                "free": commands.free_cells(t),
                "picture": pictures.draw(t, work.context.crops),
                "holds": _holds(work, t),
            }
            for t in found
        ],
        "sizes": SIZES,
        "new_id": str(uuid4()),
        "error": error.message if error else "",
        "coming": _coming(work),
    }
    return frame.page(work, "seeds", "Trays", values, template="seeds/trays.html", status=status)


def _holds(work: UnitOfWork, tray: Tray) -> str:
    return ", ".join(
        f"{work.context.crops[s.crop].name.en.lower()} in {words.count(s.cells, 'cell')}"
        for s in tray.sowings
        if s.gone_on is None and s.crop in work.context.crops
    )


@dataclass(frozen=True)
class ComingSowingView(View):
    """Filled by `_coming`, read by its template."""

    id: str
    crop: str
    bed: str
    by: str
    cells: int
    plants: int


def _coming(work: UnitOfWork) -> list[ComingSowingView]:
    """Plans that start indoors and have not been sown, with the cells they need."""
    return [
        ComingSowingView(
            id=str(a.planting.id),
            crop=a.crop.name.en,
            bed=a.bed.name,
            by=words.short_day(a.planting.start_on),
            cells=rules.cells_needed(a.plants, a.crop),
            plants=a.plants,
        )
        for a in what_to_buy.asked(work.connection, work.context, since=work.day)
        if a.planting.method == "indoors"
    ]


@router.get("/seeds/trays/{tray_id}")
def one(scope: Look, tray_id: UUID, planting: str = "") -> Response:
    with scope.open() as work:
        return _page(work, seed_box.tray(work.connection, tray_id), {"planting": planting})


@router.post("/seeds/trays/{tray_id}")
def sow(scope: Note, tray_id: UUID) -> Response:
    """Sow some cells, note how they do, or empty the tray."""
    form = {key: str(value) for key, value in scope.request.state.form.items()}
    try:
        with scope.open() as work:
            tray = seed_box.tray(work.connection, tray_id)
            action = form.get("action", "sow")
            if action == "sow":
                sowing = _sowing(work, tray, form)
                commands.sow(work.connection, work.context, sowing, use_id=sowing.id, today=work.today)
            elif action == "tend":
                commands.tend(
                    work.connection,
                    work.context,
                    tray_id,
                    forms.row_id(form.get("sowing", "")),
                    up=forms.whole(form["up"], field="up", least=0, most=1600, what="cells_up")
                    if form.get("up", "").strip()
                    else None,
                    goes_home=forms.whole(
                        form.get("home", "").strip() or "0",
                        field="home",
                        least=0,
                        most=1600,
                        what="go_home",
                    ),
                    gone_on=forms.optional_day(form.get("gone_on", ""), field="gone_on"),
                    today=work.today,
                )
            else:
                commands.put_away(work.connection, work.context, tray, today=work.today)
                return frame.go(work, "/seeds/trays")
            return frame.go(work, f"/seeds/trays/{tray_id}")
    except BadInput as error:
        with scope.open() as work:
            return _page(work, seed_box.tray(work.connection, tray_id), form, error=error, status=422)


def _sowing(work: UnitOfWork, tray: Tray, form: dict[str, str]) -> TraySowing:
    planting_id = forms.optional_id(form.get("planting", ""))
    lot_id = forms.optional_id(form.get("lot", ""))
    crop = form.get("crop", "")
    if planting_id is not None:
        crop = garden.planting(work.connection, planting_id).crop
    elif lot_id is not None and not crop:
        crop = seed_box.lot(work.connection, lot_id).crop
    if not crop:
        raise BadInput("seeds.what_is_sown_missing", field="planting")
    first = forms.whole(form.get("first", ""), field="first", least=1, most=1600, what="first_cell")
    last = forms.whole(form.get("last", "").strip() or str(first), field="last", least=1, most=1600, what="last_cell")
    return TraySowing(
        forms.row_id(form.get("id", "")),
        tray.id,
        first,
        last,
        work.context.crops[crop].key,
        planting_id,
        lot_id,
        parse_day(form["day"]) if form.get("day") else work.today,
        forms.whole(
            form.get("per_cell", "").strip() or "1", field="per_cell", least=1, most=20, what="seeds_in_a_cell"
        ),
        forms.whole(form.get("home", "").strip() or "0", field="home", least=0, most=1600, what="go_home"),
        None,
        None,
    )


def _page(
    work: UnitOfWork, tray: Tray, form: dict[str, str], *, error: BadInput | None = None, status: int = 200
) -> Response:
    lots = [lot for lot in seed_box.lots(work.connection) if lot.closed_on is None and lot.crop in work.context.crops]
    free = commands.next_free(tray)
    coming = _coming(work)
    chosen = next((c for c in coming if c.id == form.get("planting", "")), None)
    usual = {
        "id": str(uuid4()),
        "planting": "",
        "lot": "",
        "crop": "",
        "first": str(free or ""),
        "per_cell": "1",
        "day": work.today.isoformat(),
        "home": "",
        "last": str(min(tray.cells, free + chosen.cells - 1)) if free and chosen else "",
    }
    values = {
        "tray": {
            "id": str(tray.id),
            "name": tray.name,
            "place": tray.place,
            "cells": words.count(tray.cells, "cell"),
            "free": commands.free_cells(tray),
        },
        "picture": pictures.draw(tray, work.context.crops, large=True),
        "rows": [_row(work, i) for i in commands.indoors(work.connection, work.context, tray, work.today)],
        "gone": [
            {
                "crop": work.context.crops[s.crop].name.en if s.crop in work.context.crops else s.crop,
                "cells": f"{s.first_cell} to {s.last_cell}",
                "days": f"{words.short_day(s.sown_on)} – {words.short_day(s.gone_on)}",
                "home": s.goes_home,
            }
            for s in tray.sowings
            if s.gone_on is not None
        ],
        "form": {**usual, **{key: value for key, value in form.items() if key in usual and (value or error)}},
        "plans": [
            ("", "no plan"),
            *((c.id, f"{c.crop}, {c.bed}, {c.by}: {words.count(c.cells, 'cell')}") for c in coming),
        ],
        "lots": [("", "no lot of the box"), *((str(lot.id), commands.name_of(work.context, lot)) for lot in lots)],
        "crops": [
            ("", "by plan or lot"),
            *((c.key, c.name.en) for c in sorted(work.context.crops, key=lambda c: c.name.en)),
        ],
        "error": error.message if error else "",
    }
    return frame.page(work, "seeds", tray.name, values, template="seeds/tray.html", status=status)


@dataclass(frozen=True)
class TraysRowView(View):
    """Filled by `_row`, read by its template."""

    id: str
    code: str
    crop: str
    cells: str
    count: int
    sown: str
    up: str
    home: str
    expect: str
    dates: str
    planting: str
    lot: str
    per_cell: int


def _row(work: UnitOfWork, row: commands.Indoors) -> TraysRowView:
    sowing = row.sowing
    crop = work.context.crops[sowing.crop]
    dates = [
        (f"Pot up from {words.short_day(row.pot_up)}" if row.pot_up else ""),
        (f"harden off from {words.short_day(row.harden_from)}" if row.harden_from else ""),
        (f"out on {words.short_day(row.out)}" if row.out else ""),
    ]
    return TraysRowView(
        id=str(sowing.id),
        code=crop.code,
        crop=crop.name.en,
        cells=f"{sowing.first_cell} to {sowing.last_cell}",
        count=sowing.cells,
        sown=words.short_day(sowing.sown_on),
        up="" if sowing.up is None else str(sowing.up),
        home=str(sowing.goes_home or ""),
        expect=f"up {words.short_day(sowing.sown_on.fromordinal(sowing.sown_on.toordinal() + crop.emerges[0]))} or later",
        dates=words.joined(dates),
        planting=str(row.planting.id) if row.planting else "",
        lot=str(sowing.lot_id or ""),
        per_cell=sowing.per_cell,
    )
