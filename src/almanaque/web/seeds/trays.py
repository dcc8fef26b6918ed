"""Seeds: trays indoors, what is in which cell, when it is potted up and hardened off, and what goes home in a pot."""

from typing import Annotated, Any
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response

from almanaque.commands.seeds import seed_box as commands
from almanaque.core.errors import BadInput
from almanaque.core.seeds import seed_lots as rules
from almanaque.store.garden import garden
from almanaque.store.seeds import seed_box
from almanaque.store.seeds.seed_box import Sowing, Tray
from almanaque.web import forms, frame, words
from almanaque.web.desk import Desk, Room, may, parse_day
from almanaque.web.seeds import tray_picture as pictures

router = APIRouter()
Look = Annotated[Desk, Depends(may("look"))]
Note = Annotated[Desk, Depends(may("note"))]
SIZES = (
    ("6x4", "24 cells, 6 × 4"),
    ("6x6", "36 cells, 6 × 6"),
    ("8x6", "48 cells, 8 × 6"),
    ("12x6", "72 cells, 12 × 6"),
    ("12x12", "144 cells, 12 × 12"),
)


@router.get("/seeds/trays")
def page(desk: Look) -> Response:
    with desk.open() as room:
        return _list(room)


@router.post("/seeds/trays")
def make(
    desk: Note,
    id: Annotated[str, Form()] = "",
    name: Annotated[str, Form()] = "",
    size: Annotated[str, Form()] = "",
    columns: Annotated[str, Form()] = "",
    rows: Annotated[str, Form()] = "",
    place: Annotated[str, Form()] = "",
) -> Response:
    """Add a tray of a usual size, or of one's own."""
    try:
        with desk.open() as room:
            across, down = size.split("x") if size in dict(SIZES) and not columns.strip() else (columns, rows)
            tray = Tray(
                forms.row_id(id),
                forms.name(name, most=60),
                forms.whole(across, field="columns", least=1, most=40, what="The number across"),
                forms.whole(down, field="rows", least=1, most=40, what="The number down"),
                forms.optional_name(place, field="place", most=60),
                None,
            )
            seed_box.save_tray(room.connection, room.context.school.id, tray)
            return frame.go(room, f"/seeds/trays/{tray.id}")
    except BadInput as error:
        with desk.open() as room:
            return _list(room, error=error, status=422)


def _list(room: Room, *, error: BadInput | None = None, status: int = 200) -> Response:
    found = [t for t in seed_box.trays(room.connection) if t.emptied_on is None]
    values = {
        "trays": [
            {
                "id": str(t.id),
                "name": t.name,
                "place": t.place,
                "cells": words.count(t.cells, "cell"),
                "free": commands.free_cells(t),
                "picture": pictures.draw(t, room.context.crops),
                "holds": _holds(room, t),
            }
            for t in found
        ],
        "sizes": SIZES,
        "new_id": str(uuid4()),
        "error": error.message if error else "",
        "coming": _coming(room),
    }
    return frame.page(room, "seeds", "Trays", values, template="seeds/trays.html", status=status)


def _holds(room: Room, tray: Tray) -> str:
    return ", ".join(
        f"{room.context.crops[s.crop].name.en.lower()} in {words.count(s.cells, 'cell')}"
        for s in tray.sowings
        if s.gone_on is None and s.crop in room.context.crops
    )


def _coming(room: Room) -> list[dict[str, Any]]:
    """Plans that start indoors and have not been sown, with the cells they need."""
    return [
        {
            "id": str(a.planting.id),
            "crop": a.crop.name.en,
            "bed": a.bed.name,
            "by": words.short_day(a.planting.start_on),
            "cells": rules.cells_needed(a.plants, a.crop),
            "plants": a.plants,
        }
        for a in commands.asked(room.connection, room.context, since=room.day)
        if a.planting.method == "indoors"
    ]


@router.get("/seeds/trays/{tray_id}")
def one(desk: Look, tray_id: UUID, planting: str = "") -> Response:
    with desk.open() as room:
        return _page(room, seed_box.tray(room.connection, tray_id), {"planting": planting})


@router.post("/seeds/trays/{tray_id}")
def sow(desk: Note, tray_id: UUID) -> Response:
    """Sow some cells, note how they do, or empty the tray."""
    form = {key: str(value) for key, value in desk.request.state.form.items()}
    try:
        with desk.open() as room:
            tray = seed_box.tray(room.connection, tray_id)
            action = form.get("action", "sow")
            if action == "sow":
                sowing = _sowing(room, tray, form)
                commands.sow(room.connection, room.context, sowing, use_id=sowing.id, today=room.today)
            elif action == "tend":
                commands.tend(
                    room.connection,
                    room.context,
                    tray_id,
                    forms.row_id(form.get("sowing", "")),
                    up=forms.whole(form["up"], field="up", least=0, most=1600, what="The number of cells that are up")
                    if form.get("up", "").strip()
                    else None,
                    goes_home=forms.whole(
                        form.get("home", "").strip() or "0",
                        field="home",
                        least=0,
                        most=1600,
                        what="The number that go home",
                    ),
                    gone_on=forms.optional_day(form.get("gone_on", ""), field="gone_on"),
                    today=room.today,
                )
            else:
                if any(s.gone_on is None for s in tray.sowings):
                    raise BadInput(
                        "Something stands in it still. Say first when its cells were emptied.", field="action"
                    )
                seed_box.save_tray(
                    room.connection,
                    room.context.school.id,
                    Tray(tray.id, tray.name, tray.columns, tray.rows, tray.place, room.today),
                )
                return frame.go(room, "/seeds/trays")
            return frame.go(room, f"/seeds/trays/{tray_id}")
    except BadInput as error:
        with desk.open() as room:
            return _page(room, seed_box.tray(room.connection, tray_id), form, error=error, status=422)


def _sowing(room: Room, tray: Tray, form: dict[str, str]) -> Sowing:
    planting_id = forms.optional_id(form.get("planting", ""))
    lot_id = forms.optional_id(form.get("lot", ""))
    crop = form.get("crop", "")
    if planting_id is not None:
        crop = garden.planting(room.connection, planting_id).crop
    elif lot_id is not None and not crop:
        crop = seed_box.lot(room.connection, lot_id).crop
    if not crop:
        raise BadInput("Choose a plan, a lot or a crop to sow.", field="planting")
    first = forms.whole(form.get("first", ""), field="first", least=1, most=1600, what="The first cell")
    last = forms.whole(
        form.get("last", "").strip() or str(first), field="last", least=1, most=1600, what="The last cell"
    )
    return Sowing(
        forms.row_id(form.get("id", "")),
        tray.id,
        first,
        last,
        room.context.crops[crop].key,
        planting_id,
        lot_id,
        parse_day(form["day"]) if form.get("day") else room.today,
        forms.whole(
            form.get("per_cell", "").strip() or "1", field="per_cell", least=1, most=20, what="Seeds in a cell"
        ),
        forms.whole(
            form.get("home", "").strip() or "0", field="home", least=0, most=1600, what="The number that go home"
        ),
        None,
        None,
    )


def _page(
    room: Room, tray: Tray, form: dict[str, str], *, error: BadInput | None = None, status: int = 200
) -> Response:
    lots = [lot for lot in seed_box.lots(room.connection) if lot.closed_on is None and lot.crop in room.context.crops]
    free = commands.next_free(tray)
    coming = _coming(room)
    chosen = next((c for c in coming if c["id"] == form.get("planting", "")), None)
    usual = {
        "id": str(uuid4()),
        "planting": "",
        "lot": "",
        "crop": "",
        "first": str(free or ""),
        "per_cell": "1",
        "day": room.today.isoformat(),
        "home": "",
        "last": str(min(tray.cells, free + chosen["cells"] - 1)) if free and chosen else "",
    }
    values = {
        "tray": {
            "id": str(tray.id),
            "name": tray.name,
            "place": tray.place,
            "cells": words.count(tray.cells, "cell"),
            "free": commands.free_cells(tray),
        },
        "picture": pictures.draw(tray, room.context.crops, large=True),
        "rows": [_row(room, i) for i in commands.indoors(room.connection, room.context, tray, room.today)],
        "gone": [
            {
                "crop": room.context.crops[s.crop].name.en if s.crop in room.context.crops else s.crop,
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
            *((c["id"], f"{c['crop']}, {c['bed']}, {c['by']}: {words.count(c['cells'], 'cell')}") for c in coming),
        ],
        "lots": [("", "no lot of the box"), *((str(lot.id), commands.name_of(room.context, lot)) for lot in lots)],
        "crops": [
            ("", "by plan or lot"),
            *((c.key, c.name.en) for c in sorted(room.context.crops, key=lambda c: c.name.en)),
        ],
        "error": error.message if error else "",
    }
    return frame.page(room, "seeds", tray.name, values, template="seeds/tray.html", status=status)


def _row(room: Room, row: commands.Indoors) -> dict[str, Any]:
    sowing = row.sowing
    crop = room.context.crops[sowing.crop]
    dates = [
        (f"Pot up from {words.short_day(row.pot_up)}" if row.pot_up else ""),
        (f"harden off from {words.short_day(row.harden_from)}" if row.harden_from else ""),
        (f"out on {words.short_day(row.out)}" if row.out else ""),
    ]
    return {
        "id": str(sowing.id),
        "code": crop.code,
        "crop": crop.name.en,
        "cells": f"{sowing.first_cell} to {sowing.last_cell}",
        "count": sowing.cells,
        "sown": words.short_day(sowing.sown_on),
        "up": "" if sowing.up is None else str(sowing.up),
        "home": str(sowing.goes_home or ""),
        "expect": f"up {words.short_day(sowing.sown_on.fromordinal(sowing.sown_on.toordinal() + crop.emerges[0]))} or later",
        "dates": words.joined(dates),
        "planting": str(row.planting.id) if row.planting else "",
        "lot": str(sowing.lot_id or ""),
        "per_cell": sowing.per_cell,
    }
