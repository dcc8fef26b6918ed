"""Harvest: the weekly sheet for kitchen and stall on screen, as PDF and as CSV, and what they asked for."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Annotated
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.context import Context
from almanaque.commands.harvest import kitchen as commands
from almanaque.commands.harvest.kitchen import AskedFor, KitchenWeek
from almanaque.core.errors import BadInput
from almanaque.core.harvest.kitchen_sheet import TO_SUNDAY, KitchenLine
from almanaque.core.units import MASS_UNIT, Units, format_mass_range, mass_in
from almanaque.data import ways_to_eat
from almanaque.formats import csv_table
from almanaque.formats.crops import portraits
from almanaque.store.harvest import kitchen_requests
from almanaque.store.harvest.kitchen_requests import RequestRow
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View
from almanaque.web.week import pdf_pages

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
NOBODY = "nobody at school: carers"


@router.get("/harvest/kitchen")
def page(scope: Look) -> Response:
    with scope.open() as work:
        return _page(work)


@router.get("/harvest/kitchen.csv")
def as_csv(scope: Look) -> Response:
    """All weeks of the sheet, amounts in the school's unit of weight."""
    with scope.open() as work:
        units, names = work.context.school.units, work.context.group_names(work.today)
        unit = MASS_UNIT[units]
        header = [
            "week",
            "crop",
            f"least_{unit}",
            f"most_{unit}",
            "from_day",
            "beds",
            "brought_by",
            "brought_on",
            "sure",
        ]
        rows = [
            [
                week.monday.isoformat(),
                line.crop.name.en,
                mass_in(line.low_g, units),
                mass_in(line.high_g, units),
                line.from_day.isoformat(),
                line.beds,
                names.get(line.bringer.group_id or "", "carers"),
                line.bringer.day.isoformat() if line.bringer.day else "",
                "yes" if line.sure else "partly planned",
            ]
            for week in commands.weeks(work.connection, work.context, today=work.today)
            for line in week.lines
        ]
        headers = {"Content-Disposition": "attachment; filename=kitchen.csv"}
        return Response(csv_table.write(header, rows), media_type="text/csv; charset=utf-8", headers=headers)


@router.post("/harvest/kitchen/pdf")
def pdf(scope: Plan) -> Response:
    """Ask for the sheet as a PDF; the worker makes it."""
    with scope.open() as work:
        paper = pdf_pages.usual_paper(work)
        part = frame.paper_part(
            work,
            "harvest/kitchen_paper.html",
            "For kitchen and stall",
            {"weeks": _weeks(work), "whose": work.context.school.name},
            paper=paper,
        )
        return frame.go(work, f"/prints/{pdf_pages.ask(work, 'For kitchen and stall', [part], paper=paper)}")


class RequestForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    crop: str = ""
    what: str = ""
    amount: str = ""
    from_day: str = ""
    to_day: str = ""


@router.post("/harvest/kitchen/requests")
def ask(scope: Plan, form: Annotated[RequestForm, Form()]) -> Response:
    """Keep what kitchen or stall asked for."""
    try:
        with scope.open() as work:
            commands.ask(work.connection, work.context, read(form), today=work.today)
            return frame.go(work, "/harvest/kitchen#asked")
    except BadInput as error:
        with scope.open() as work:
            return _page(work, form, error=error, status=422)


@router.post("/harvest/kitchen/requests/{request_id}")
def settle(scope: Plan, request_id: UUID, action: Annotated[str, Form()] = "close") -> Response:
    """Settle a request, or open it again."""
    with scope.open() as work:
        kitchen_requests.close(work.connection, request_id, None if action == "open" else work.today)
        return frame.go(work, "/harvest/kitchen#asked")


def read(form: RequestForm) -> AskedFor:
    """The request that the form describes; one day when only the first is given."""
    first = parse_day(form.from_day, field="from_day")
    last = forms.optional_day(form.to_day, field="to_day") or first
    return AskedFor(forms.row_id(form.id), form.crop, form.what, form.amount, first, last)


@dataclass(frozen=True)
class KitchenLineView(View):
    """A crop of a week as the sheet shows it."""

    key: str
    name: str
    picture: str
    amount: str
    starts: str
    beds: str
    who: str
    sure: bool
    ways: list[tuple[str, str]]
    caution: str


@dataclass(frozen=True)
class KitchenWeekView(View):
    """A week of the sheet."""

    days: str
    this: bool
    lines: list[KitchenLineView]


def view(context: Context, found: Sequence[KitchenWeek], today: date) -> list[KitchenWeekView]:
    """Weeks as the sheet shows them, those that bring nothing left out."""
    names = context.group_names(today)
    return [
        KitchenWeekView(
            days=words.span(week.monday, week.monday + TO_SUNDAY),
            this=week.monday <= today,
            lines=[_line(line, names, context.school.units) for line in week.lines],
        )
        for week in found
        if week.lines
    ]


def _weeks(work: UnitOfWork) -> list[KitchenWeekView]:
    return view(work.context, commands.weeks(work.connection, work.context, today=work.today), work.today)


def _line(line: KitchenLine, names: dict[str, str], units: Units) -> KitchenLineView:
    bringer = line.bringer
    who = (
        f"{names.get(bringer.group_id, 'a class')}, {words.weekday_day(bringer.day)}"
        if bringer.group_id and bringer.day
        else NOBODY
    )
    return KitchenLineView(
        key=line.crop.key,
        name=line.crop.name.en,
        picture=portraits.address(line.crop, "ripe", px=48),
        amount=format_mass_range(line.low_g, line.high_g, units),
        starts=words.short_day(line.from_day),
        beds=line.beds,
        who=who,
        sure=line.sure,
        ways=list(line.ways),
        caution=line.crop.allergy,
    )


@dataclass(frozen=True)
class RequestView(View):
    """A request as the list shows it."""

    id: str
    what: str
    days: str
    said: str


def request_view(row: RequestRow) -> RequestView:
    return RequestView(
        id=str(row.id),
        what=words.joined([row.amount, row.what]),
        days=words.span(row.from_day, row.to_day),
        said=f"asked {words.short_day(row.asked_on)}{' by the link' if row.by_link else ''}",
    )


@dataclass(frozen=True)
class KitchenView(View):
    """What `harvest/kitchen.html` is given."""

    weeks: list[KitchenWeekView]
    asked: list[RequestView]
    crops: list[tuple[str, str]]
    form: RequestForm
    error: str
    error_field: str


def crops_to_ask_for(context: Context) -> list[tuple[str, str]]:
    """Crops that a kitchen cooks with, by name."""
    found = [(c.key, c.name.en) for c in context.crops if c.kind in ways_to_eat()]
    return sorted(found, key=lambda pair: pair[1])


def _page(
    work: UnitOfWork, form: RequestForm | None = None, *, error: BadInput | None = None, status: int = 200
) -> Response:
    values = KitchenView(
        weeks=_weeks(work),
        asked=[request_view(row) for row in commands.wanted(work.connection, work.today)],
        crops=[("", "something else"), *crops_to_ask_for(work.context)],
        form=form or RequestForm(id=str(uuid4()), from_day=work.today.isoformat()),
        error=error.message if error else "",
        error_field=error.field if error else "",
    )
    return frame.page(work, "harvest", "For kitchen and stall", values, template="harvest/kitchen.html", status=status)
