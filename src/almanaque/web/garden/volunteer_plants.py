"""Garden: plants that nobody sowed, put on the sheet, named, and noted as gone."""

from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.garden import site_map
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import cell_name
from almanaque.store.garden import garden
from almanaque.store.garden import volunteer_plants as volunteer_rows
from almanaque.store.garden.volunteer_plants import VolunteerPlant
from almanaque.web import forms
from almanaque.web.garden.bed_sheet import after
from almanaque.web.garden.paint_form import SheetForm
from almanaque.web.htmx import HtmxRequest
from almanaque.web.request_scope import RequestScope, may

router = APIRouter()
USUAL_WIDTH_MM = 150.0


class VolunteerPlantForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    square: str = ""
    width: str = ""
    name: str = ""
    intent: str = "undecided"
    action: Literal["save", "gone"] = "save"


@router.post("/garden/beds/{bed_id}/found")
def found(
    scope: Annotated[RequestScope, Depends(may("note"))],
    htmx: HtmxRequest,
    bed_id: UUID,
    form: Annotated[VolunteerPlantForm, Form()],
) -> Response:
    """Put a plant that nobody sowed on the sheet, name it, or note that it is gone."""
    with scope.open() as work:
        bed, units = garden.bed(work.connection, bed_id), work.context.school.units
        plant_id = forms.row_id(form.id)
        named = forms.optional_name(form.name, field="name")
        want = forms.one_of(form.intent, ("undecided", "keep", "weed out"), field="intent")
        decided: volunteer_rows.Intent = "keep" if want == "keep" else "weed out" if want == "weed out" else "undecided"
        if any(plant.id == plant_id for plant in volunteer_rows.found_plants(work.connection, bed_id)):
            site_map.change_found(
                work.connection,
                work.context,
                bed_id,
                plant_id,
                name=named,
                intent=decided,
                gone=form.action == "gone",
                actor=work.actor(),
            )
            said = "Noted that it is gone." if form.action == "gone" else "Noted."
        else:
            grid = bed.grid()
            cell = next(
                (
                    c
                    for c in ((c, r) for r in range(grid.rows) for c in range(grid.columns))
                    if cell_name(c) == form.square.strip().upper()
                ),
                None,
            )
            if cell is None:
                raise BadInput("garden.square_missing", field="square")
            middle = ((cell[0] + 0.5) * grid.pitch_x_mm, (cell[1] + 0.5) * grid.pitch_y_mm)
            wide = forms.length(form.width, units, field="width") if form.width.strip() else USUAL_WIDTH_MM
            plant = VolunteerPlant(plant_id, bed_id, *middle, wide, named, work.today, None, decided)
            site_map.found_here(work.connection, work.context, plant, work.actor())
            said = f"{named or 'An unknown plant'} is on the sheet at {form.square.strip().upper()}."
        return after(work, htmx.part, bed_id, said, SheetForm())
