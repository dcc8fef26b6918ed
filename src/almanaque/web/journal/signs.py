"""Signs: codes for beds, plantings, stations and the garden, which of them everybody may see, and the sheets to print."""

from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Depends, Form, Request, Response
from fastapi.responses import RedirectResponse
from psycopg import Connection
from pydantic import BaseModel

from almanaque.commands import context as contexts
from almanaque.commands.context import Context
from almanaque.commands.garden import public_view
from almanaque.commands.garden.public_view import PublicBed, ShownStation
from almanaque.core.errors import BadInput
from almanaque.formats.crops import portraits
from almanaque.store import errors
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Planting
from almanaque.store.journal import signs
from almanaque.store.journal.signs import Kind, Where
from almanaque.store.week import stations
from almanaque.web import forms, frame, links
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View
from almanaque.web.week import pdf_pages

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
MOST = 40
MOST_DRAWN, SIGN_PX = 4, 80.0  # plants on a sign on paper, and how large


@router.get("/garden/signs")
def page(scope: Look) -> Response:
    with scope.open() as work:
        return frame.page(
            work,
            "garden",
            "Signs",
            {"rows": _rows(work), "papers": pdf_pages.PAPERS, "paper": pdf_pages.usual_paper(work)},
            template="journal/signs.html",
        )


class SignsForm(BaseModel):
    """What the form sends, as it was typed."""

    show: list[str] | None = None
    chosen: list[str] | None = None
    action: str = "save"
    paper: str = ""


@router.post("/garden/signs")
def change(scope: Plan, form: Annotated[SignsForm, Form()]) -> Response:
    """Say which signs everybody may see; print the chosen ones."""
    with scope.open() as work:
        rows = {row.key: row for row in _rows(work)}
        for key, row in rows.items():
            wanted = key in (form.show or [])
            if wanted or row.code:
                code = signs.ensure(work.connection, work.context.school.id, row.kind, row.id)
                signs.show(work.connection, code, wanted)
        if form.action != "print":
            return frame.go(work, "/garden/signs")
        picked = [rows[key] for key in form.chosen or [] if key in rows]
        if not 1 <= len(picked) <= MOST:
            raise BadInput("journal.signs_out_of_range", field="chosen", most=MOST)
        here = garden.plantings(work.connection, since=work.today, until=work.today)
        drawn = [
            {
                "name": row.name,
                "about": row.about,
                "qr": links.qr_path(_address(work, row)),
                "drawn": _drawn(work, row, here),
            }
            for row in picked
        ]
        sheet = forms.one_of(form.paper, [key for key, _ in pdf_pages.PAPERS], field="paper")
        part = frame.paper_part(
            work, "journal/sign_sheets.html", "Signs", {"signs": drawn, "school": work.context.school.name}, paper=sheet
        )
        return frame.go(work, f"/prints/{pdf_pages.ask(work, 'Signs', [part], paper=sheet)}")


@router.get("/s/{code}")
def follow(request: Request, code: str) -> Response:
    """Where a sign leads: to what everybody may see, else to its own page for those who are logged in."""
    database = request.app.state.database
    with database.transaction() as connection:
        where = signs.find(connection, code[:20])
    if where is None:
        raise errors.NotFound("No sign has that code. Look at it again, or ask in the school garden.")
    inside = {
        "bed": f"/garden/beds/{where.subject_id}",
        "planting": f"/garden/plantings/{where.subject_id}",
        "station": f"/week/stations/{where.subject_id}",
    }
    to = inside.get(where.kind, "/garden")
    if not where.shown:
        return RedirectResponse(to, status_code=303)
    with database.school(where.school_id) as connection:
        context = contexts.load(connection)
        today = request.app.state.clock.today(context.school.zone)
        values = {"school": context.school.name, "inside": to, **_shown(connection, context, where, today)}
    return frame.bare_page(request, "journal/public_page.html", values)


@dataclass(frozen=True)
class SignView(View):
    """Filled by `_shown`, read by its template."""

    title: str
    station: ShownStation | None
    beds: list[PublicBed]


def _shown(connection: Connection[Any], context: Context, where: Where, today: date) -> SignView:
    """What everybody may see of a sign's subject. Raises NotFound for one that is gone."""
    if where.kind == "station":
        return SignView(
            title=(station := public_view.station(connection, where.subject_id)).name,
            station=station,
            beds=[],
        )
    if where.kind == "garden":
        return SignView(
            title="The garden, bed by bed",
            station=None,
            beds=[
                _pictured(one, today, southern=context.school.southern)
                for one in public_view.whole(connection, context, today=today)
            ],
        )
    find = public_view.bed if where.kind == "bed" else public_view.planting
    found = find(connection, context, where.subject_id, today=today)
    return SignView(title=found.bed, station=None, beds=[_pictured(found, today, southern=context.school.southern)])


def _pictured(bed: PublicBed, today: date, *, southern: bool) -> PublicBed:
    """A bed with the pictures of its plants as they should look today."""
    return replace(
        bed,
        grows=[
            replace(one, picture=portraits.side_on(one.crop, today, one.dates, southern=southern)) if one.dates else one
            for one in bed.grows
        ],
    )


@dataclass(frozen=True)
class SignRowView(View):
    """Filled by `_rows`, read by its template."""

    key: str
    kind: Kind
    id: UUID
    name: str
    about: str
    code: str
    shown: bool


def _drawn(work: UnitOfWork, row: SignRowView, present: list[Planting]) -> list[str]:
    """Pictures of what stands there: of a planting its crop, of a bed each of its crops, when they are ready."""
    mine = [p for p in present if p.status == "in the ground" and row.id in (p.id, p.bed_id)]
    keys = list(dict.fromkeys(p.crop for p in mine))[:MOST_DRAWN]
    return [portraits.address(work.context.crops[key], "ripe", px=SIGN_PX) for key in keys]


def _address(work: UnitOfWork, row: SignRowView) -> str:
    code = signs.ensure(work.connection, work.context.school.id, row.kind, row.id)
    return links.address(work.scope.request, f"/s/{code}")


def _rows(work: UnitOfWork) -> list[SignRowView]:
    """Everything that can have a sign, with its code and whether it is shown."""
    known = {(s.kind, s.subject_id): s for s in signs.signs(work.connection)}
    beds = garden.beds(work.connection)
    names = {bed.id: bed.name for bed in beds}
    standing = [
        p for p in garden.plantings(work.connection, since=work.today, until=work.today) if p.status == "in the ground"
    ]
    subjects: list[tuple[Kind, UUID, str, str]] = [
        ("garden", work.context.school.id, "The whole garden", "every bed and what grows in it")
    ]
    subjects += [("bed", bed.id, bed.name, bed.purpose) for bed in beds]
    subjects += [
        (
            "planting",
            p.id,
            work.context.crops[p.crop].name.en,
            f"{names[p.bed_id]}{f', {p.variety}' if p.variety else ''}",
        )
        for p in standing
    ]
    subjects += [("station", s.id, s.name, s.about) for s in stations.stations(work.connection) if s.closed_on is None]
    found = []
    for kind, subject_id, name, about in subjects:
        sign = known.get((kind, subject_id))
        found.append(
            SignRowView(
                key=f"{kind}:{subject_id}",
                kind=kind,
                id=subject_id,
                name=name,
                about=about,
                code=sign.code if sign else "",
                shown=bool(sign and sign.shown),
            )
        )
    return found
