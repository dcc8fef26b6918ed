"""What fits an empty space of a bed: all crops, each with the one reason that speaks against it."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Depends, Response

from almanaque.commands.garden.free_squares import free_cells
from almanaque.commands.year import shortlist as commands
from almanaque.core.garden.bed import parse_cells
from almanaque.core.words import terms
from almanaque.core.year.shortlist import Listed, Space
from almanaque.store.garden import garden
from almanaque.web import forms, frame, words
from almanaque.web.garden.sheet_parts import VERDICT_CLASS
from almanaque.web.htmx import HtmxRequest, vary
from almanaque.web.pictures.families import Hatch, family
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
SHELF = 10  # crops on the shelf beside the sheet
TITLES = (("fits", "Fits"), ("with care", "Fits with care"), ("misses", "Does not fit here"))


@router.get("/garden/beds/{bed_id}/fits")
def fits(
    scope: Look,
    htmx: HtmxRequest,
    bed_id: UUID,
    squares: str = "",
    from_: str = "",
    until: str = "",
    shelf: bool = False,
) -> Response:
    """What fits a bed, or some squares of it, from a day on; as a page or as the shelf beside the sheet."""
    with scope.open() as work:
        bed = garden.bed(work.connection, bed_id)
        given = from_ or scope.request.query_params.get("from", "")
        start = max(forms.optional_day(given, field="from") or work.day, work.today)
        end = forms.optional_day(until, field="until")
        cells = (
            sorted(parse_cells(squares, bed.grid()))
            if squares.strip()
            else free_cells(work.connection, bed, start, start + commands.FREE_FOR, work.today)
        )
        space = commands.space_of(work.connection, work.context, bed, cells, start, until=end, today=work.today)
        listed = commands.for_space(work.context, bed, space, start)
        values: dict[str, Any] = {
            "bed": bed,
            "squares": squares.strip(),
            "start": start.isoformat(),
            "start_words": words.short_day(start),
        }
        if shelf and htmx.part:
            shown = [_row(work, item, str(bed.id)) for item in listed if item.verdict != "misses"][:SHELF]
            return vary(frame.part(work, "garden/_what_fits_shelf.html", {**values, "shelf": shown, "of": len(listed)}))
        values |= {
            "groups": [
                (title, key, [_row(work, item, str(bed.id)) for item in listed if item.verdict == key])
                for key, title in TITLES
            ],
            "facts": _facts(space, start, f"{words.count(len(cells), 'square')}{'' if squares.strip() else ' free'}"),
            "until": until,
        }
        return vary(frame.page(work, "garden", f"What fits {bed.name}", values, template="garden/what_fits.html"))


@dataclass(frozen=True)
class FitRowView(View):
    """Filled by `_row`, read by its template."""

    key: str
    code: str
    name: str
    method: str
    way: str
    hatch: Hatch
    picking: str
    years: str
    against: str
    verdict_class: str
    own: bool
    finder: str


def _row(work: UnitOfWork, item: Listed, bed: str) -> FitRowView:
    dates, crop = item.fit.dates, item.crop
    return FitRowView(
        key=crop.key,
        code=crop.code,
        name=crop.name.en,
        method=terms("method")[item.fit.method],
        way=item.fit.method,
        hatch=family(crop.family),
        picking=words.span(dates.first_pick, dates.last_pick)
        + ("" if dates.first_pick.year == work.today.year else f" {dates.first_pick.year}"),
        years=f"{item.fit.n} of {item.fit.of} years" if item.fit.of else "",
        against=item.against,
        verdict_class=VERDICT_CLASS[item.verdict],
        own=bool(crop.own),
        finder=frame.address(work, "/year/finder", crop=crop.key, method=item.fit.method, bed=bed),
    )


def _facts(space: Space, start: date, what: str) -> str:
    sun = space.sun_h[start.month - 1]
    return words.joined(
        [
            what,
            f"from {words.short_day(start)}",
            f"free until {words.short_day(space.free_to)}" if space.free_to else "nothing planned after it",
            f"{sun:.1f} h of sun in {words.month_name(start)}" if sun is not None else "",
            f"class from age {space.youngest}" if space.youngest is not None else "",
        ]
    )
