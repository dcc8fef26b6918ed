"""Year: beds promised for something from a day on, when they must be clear, and what may stand there before."""

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated
from uuid import uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.garden.free_squares import free_cells
from almanaque.commands.year import promises, shortlist
from almanaque.core.words import terms
from almanaque.core.year.bed_promises import Promised, last_day_to_clear
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.year import promises_and_themes
from almanaque.store.year.promises_and_themes import Promise
from almanaque.web import forms, frame, words
from almanaque.web.garden.sheet_parts import VERDICT_CLASS
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
OPEN = ("pencilled", "planned", "in the ground")
BEFORE = 8  # crops to show that may stand in a promised bed before


@router.get("/year/summer")
def summer(scope: Look) -> Response:
    """Beds promised from a day on: what stands in the way, by when it must go, and what may stand there before."""
    with scope.open() as work:
        beds = {bed.id: bed for bed in garden.beds(work.connection)}
        rows = [
            _promise(work, promise, beds[promise.bed_id])
            for promise in promises_and_themes.promises(work.connection)
            if promise.from_day >= work.day
        ]
        year = work.context.calendar.year_of(work.day)
        values = {
            "promises": rows,
            "beds": [(str(b.id), b.name) for b in beds.values()],
            "new_id": str(uuid4()),
            "usual": _usual_start(work),
            "ends": words.short_day(year.ends) if year else "",
            "facts": words.joined(
                [
                    words.count(len(rows), "promise"),
                    f"{words.count(sum(bool(r.standing) for r in rows), 'bed')} still to be cleared in time",
                ]
            ),
        }
        return frame.page(work, "year", "Summer first", values, template="year/bed_promises.html")


class BedPromiseForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    bed: str = ""
    from_day: str = ""
    what_for: str = ""
    action: str = "save"


@router.post("/year/summer")
def promise_bed(scope: Plan, form: Annotated[BedPromiseForm, Form()]) -> Response:
    """Promise a bed from a day on, or take a promise back."""
    with scope.open() as work:
        row_id = forms.row_id(form.id)
        if forms.one_of(form.action, ("save", "delete"), field="action") == "delete":
            promises_and_themes.delete_promise(work.connection, row_id)
            return frame.go(work, "/year/summer")
        found = Promise(
            row_id,
            forms.row_id(form.bed),
            parse_day(form.from_day, field="from_day"),
            forms.name(form.what_for, field="what_for", what="promise", most=120),
        )
        promises.promise(work.connection, work.context, found, today=work.today)
        return frame.go(work, "/year/summer")


def _usual_start(work: UnitOfWork) -> str:
    """The first Monday of the last full school month, when beds are usually cleared for summer."""
    year = work.context.calendar.year_of(work.day)
    last = work.context.calendar.last_school_day(year) if year else None
    day = (last or work.day) - timedelta(days=28)
    return max(day, work.today).isoformat()


@dataclass(frozen=True)
class BeforeView(View):
    """A crop that may stand before a promise."""

    name: str
    method: str
    picking: str
    verdict: str
    verdict_class: str
    href: str


@dataclass(frozen=True)
class PromiseView(View):
    """A promised bed: when it must be clear, what stands in the way, and what may stand before."""

    id: str
    bed: str
    bed_id: str
    what: str
    from_day: str
    clear_on: str
    school: bool
    standing: list[dict[str, str]]
    before: list[BeforeView]
    later: bool
    all: str


def _promise(work: UnitOfWork, promise: Promise, bed: Bed) -> PromiseView:
    promised = Promised(promise.from_day, promise.what_for)
    clear = last_day_to_clear(promised)
    standing = [
        p
        for p in garden.plantings(work.connection, bed_id=bed.id, since=promise.from_day)
        if p.status in OPEN and p.bed_from < promise.from_day and work.context.crops[p.crop].life != "perennial"
    ]
    start = max(work.today, work.day)
    before: list[BeforeView] = []
    if start < clear:
        cells = free_cells(work.connection, bed, start, promise.from_day, work.today)
        space = shortlist.space_of(work.connection, work.context, bed, cells, start, until=clear, today=work.today)
        good = [item for item in shortlist.for_space(work.context, bed, space, start) if item.verdict != "misses"]
        before = [
            BeforeView(
                name=i.crop.name.en,
                method=terms("method")[i.fit.method],
                picking=words.span(i.fit.dates.first_pick, min(i.fit.dates.last_pick, clear)),
                verdict=i.verdict,
                verdict_class=VERDICT_CLASS[i.verdict],
                href=frame.address(work, f"/garden/beds/{bed.id}", crop=i.crop.key),
            )
            for i in good[:BEFORE]
        ]
    return PromiseView(
        id=str(promise.id),
        bed=bed.name,
        bed_id=str(bed.id),
        what=promise.what_for,
        from_day=words.long_day(promise.from_day),
        clear_on=words.weekday_day(clear),
        school=work.context.calendar.children_here(clear),
        standing=[_in_the_way(work, p, clear) for p in standing],
        before=before,
        later=start >= clear,
        all=frame.address(
            work, f"/garden/beds/{bed.id}/fits", **{"from": start.isoformat(), "until": clear.isoformat()}
        ),
    )


def _in_the_way(work: UnitOfWork, planting: Planting, clear: date) -> dict[str, str]:
    crop, dates = work.context.crops[planting.crop], planting.dates
    assert dates is not None
    if dates.first_pick_late <= clear:
        said = f"ready {words.span(dates.first_pick_early, dates.first_pick_late)}: pick it and clear it by then"
    elif dates.first_pick_early <= clear:
        said = f"ready {words.span(dates.first_pick_early, dates.first_pick_late)}: not in every year in time"
    else:
        said = f"not ready before {words.short_day(dates.first_pick_early)}: it must go unripe, or the promise waits"
    return {
        "id": str(planting.id),
        "name": crop.name.en,
        "until": words.short_day(planting.bed_to(work.today)),
        "said": said,
    }
