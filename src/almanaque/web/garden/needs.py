"""Garden: what beds, classes and seasons need; the shed; closing and rebuilding a bed; how the school gardens."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Literal
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.garden import needs as commands
from almanaque.commands.garden import site_map as ground_commands
from almanaque.core.errors import BadInput
from almanaque.core.findings import said_by
from almanaque.core.garden import bed_rebuild, bed_strings
from almanaque.core.garden import needs as core
from almanaque.core.garden.needs import MaterialNeed
from almanaque.core.growth.crop_runs import ReadyBy
from almanaque.core.growth.setting import Leads
from almanaque.core.harvest import money
from almanaque.core.units import format_length, format_volume
from almanaque.core.words import terms
from almanaque.formats import csv_table
from almanaque.store import queue
from almanaque.store.garden import bed_closures, garden, shed
from almanaque.store.garden.bed_closures import Closure
from almanaque.store.garden.garden import Bed
from almanaque.store.garden.shed import Supply
from almanaque.store.school import school
from almanaque.web import forms, frame, words
from almanaque.web.garden.site_map import season_of, season_steps
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
NEIGHBOURS: tuple[tuple[school.Neighbours, str], ...] = (
    ("traditional", "all, each saying what it rests on"),
    ("evidence", "only those with evidence"),
    ("off", "none"),
)
FEEDING: tuple[tuple[school.Feeding, str], ...] = (
    ("compost", "compost and manure only"),
    ("fertiliser", "organic fertiliser too"),
)

READY: tuple[tuple[ReadyBy, str], ...] = (
    ("warmth", "the warmth of the place, year by year"),
    ("packet", "the days on the packet"),
)
LEADS: tuple[tuple[Leads, str], ...] = (
    ("record", "the weather on file; the chart is a note"),
    ("chart", "the chart"),
    ("all", "both: a day must suit them both"),
)


@router.get("/garden/needs")
def page(scope: Look, bed: str = "", group: str = "") -> Response:
    with scope.open() as work:
        found, span = _needs(work, bed, group)
        cost, unpriced = core.total_minor(found)
        names = work.context.group_names(work.day)
        beds = garden.beds(work.connection)
        chosen = next((b for b in beds if str(b.id) == bed), None)
        values = {
            "sections": [
                (terms("need")[kind], [_line(work, need) for need in found if need.kind == kind])
                for kind in terms("need")
                if any(need.kind == kind for need in found)
            ],
            "beds": [("", "the whole garden")] + [(str(b.id), b.name) for b in beds],
            "bed": bed,
            "groups": [("", "any class")] + [(str(g.id), names[str(g.id)]) for g in work.context.groups_on(work.day)],
            "group": group,
            "span": f"{words.short_day(span[0])} – {words.short_day(span[1])} {span[1].year}",
            "seasons": season_steps(work),
            "total": _money(work, cost),
            "unpriced": unpriced,
            "query": {"bed": bed, "group": group},
            "strung": _stringing(work, chosen) if chosen else None,
            "bed_name": chosen.name if chosen else "",
        }
        return frame.page(work, "garden", "What it needs", values, template="garden/needs.html")


@router.get("/garden/needs.csv")
def needs_csv(scope: Look, bed: str = "", group: str = "") -> Response:
    """The list as CSV, one line for each thing."""
    with scope.open() as work:
        found, _ = _needs(work, bed, group)
        currency = work.context.school.currency
        rows = [
            [
                terms("need")[n.kind],
                n.what,
                _plain(n.amount),
                n.unit,
                _plain(n.have),
                _plain(n.to_get),
                "" if n.price_minor is None else f"{n.price_minor / 100:.2f}",
                "" if n.cost_minor is None else f"{n.cost_minor / 100:.2f}",
                n.why,
            ]
            for n in found
        ]
        head = [
            "kind",
            "what",
            "needed",
            "unit",
            "in the shed",
            "to get",
            f"price each ({currency})",
            f"cost ({currency})",
            "for",
        ]
        return Response(
            csv_table.write(head, rows),
            media_type="text/csv; charset=utf-8",
            headers={"Content-Disposition": 'attachment; filename="needs.csv"'},
        )


@router.get("/garden/shed")
def shed_page(scope: Look) -> Response:
    with scope.open() as work:
        practice = work.context.school
        values = {
            "supplies": [
                {
                    "id": str(s.id),
                    "kind": s.kind,
                    "name": s.name,
                    "unit": s.unit,
                    "have": _plain(s.have),
                    "low": "" if s.low is None else _plain(s.low),
                    "told": s.told,
                    "price": "" if s.price_minor is None else f"{s.price_minor / 100:.2f}",
                }
                for s in shed.supplies(work.connection)
            ],
            "new_id": str(uuid4()),
            "currency": practice.currency,
            "neighbours": NEIGHBOURS,
            "feeding": FEEDING,
            "ready": READY,
            "leads": LEADS,
            "practice": practice,
            "hand": format_length(practice.hand_span_mm, practice.units, feet=False) if practice.hand_span_mm else "",
            "tools": [tool for tool, _ in core.TOOLS],
        }
        return frame.page(work, "garden", "The shed, and how we garden", values, template="garden/shed.html")


class SupplyForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    kind: str = "tool"
    name: str = ""
    unit: str = ""
    have: str = ""
    price: str = ""
    low: str = ""
    told: str = ""
    action: Literal["save", "delete"] = "save"


@router.post("/garden/shed")
def save_supply(scope: Plan, form: Annotated[SupplyForm, Form()]) -> Response:
    """Say how many of a thing there are, and what one costs."""
    with scope.open() as work:
        row_id = forms.row_id(form.id)
        if form.action == "delete":
            shed.delete(work.connection, row_id)
            return frame.go(work, "/garden/shed")
        amount, cost = (
            forms.number(form.have, field="have", what="how_many", within=(0, 1_000_000)),
            forms.number(form.price, field="price", what="price", within=(0, 1_000_000)),
        )
        which: shed.SupplyKind = (
            "tool" if forms.one_of(form.kind, ("tool", "material"), field="kind") == "tool" else "material"
        )
        supply = Supply(
            row_id,
            which,
            forms.name(form.name, what="name_of_need"),
            forms.optional_name(form.unit, field="unit", most=30),
            amount or 0.0,
            None if cost is None else round(cost * 100),
            forms.number(form.low, field="low", what="low_mark", within=(0, 1_000_000)),
            forms.optional_name(form.told, field="told"),
            next((s.station_id for s in shed.supplies(work.connection) if s.id == row_id), None),
        )
        shed.save(work.connection, work.context.school.id, supply)
        return frame.go(work, "/garden/shed")


class PracticeForm(BaseModel):
    """What the form sends, as it was typed."""

    rest_years: str = "3"
    neighbours: str = "traditional"
    feeding: str = "compost"
    hand: str = ""
    invasive: str = ""
    currency: str = "USD"
    ready_by: str = "warmth"
    leads: str = "record"
    moon: str = ""


@router.post("/garden/practice")
def save_practice(scope: Plan, form: Annotated[PracticeForm, Form()]) -> Response:
    """How the school gardens where practice divides; the sheets say it from then on."""
    with scope.open() as work:
        units, known = work.context.school.units, work.context.school.hand_span_mm
        shown = format_length(known, units, feet=False) if known else ""
        span = (
            known
            if known and form.hand == shown
            else (forms.length(form.hand, units, field="hand") if form.hand.strip() else None)
        )
        code = form.currency.strip().upper()
        if len(code) != 3 or not code.isascii() or not code.isalpha():
            raise BadInput("garden.not_a_currency", field="currency")
        said = next((key for key, _ in NEIGHBOURS if key == form.neighbours), None)
        fed = next((key for key, _ in FEEDING if key == form.feeding), None)
        ready = next((key for key, _ in READY if key == form.ready_by), None)
        leads = next((key for key, _ in LEADS if key == form.leads), None)
        if said is None or fed is None or ready is None or leads is None:
            raise BadInput("forms.incomplete")
        school.save_practice(
            work.connection,
            rest_years=forms.whole(form.rest_years, field="rest_years", least=2, most=4, what="years_of_rest"),
            neighbours=said,
            feeding=fed,
            hand_span_mm=span,
            invasive_here=forms.optional_name(form.invasive, field="invasive", most=400),
            currency=code,
            ready_by=ready,
            leads=leads,
            moon=form.moon == "yes",
        )
        if (ready, leads) != (work.context.school.ready_by, work.context.school.leads):
            queue.recompute_school(
                work.connection, work.context.school.id
            )  # a large school takes too long for a request
        return frame.go(work, "/garden/shed")


def _end_words(early: int, late: int, life: bed_rebuild.BedLife) -> str:
    said = f"Usually lasts {life.least} to {life.most} years: until {early} to {late}."
    return f"{said} {said_by(life.source).capitalize()}."


@router.get("/garden/beds/{bed_id}/rebuild")
def rebuild_page(scope: Look, bed_id: UUID, bricks: bool = False) -> Response:
    """What a new wall and new soil take, when the bed is closed, and what would still stand there."""
    with scope.open() as work:
        bed, units = garden.bed(work.connection, bed_id), work.context.school.units
        stock = {s.name: (s.have, s.price_minor) for s in shed.supplies(work.connection)}
        found = core.gathered(commands.rebuild_needs(bed, work.context, bricks=bricks), stock)
        cost, unpriced = core.total_minor(found)
        end = bed_rebuild.likely_end(bed.material, bed.built_year)
        closures = bed_closures.closures(work.connection, bed_id)
        values = {
            "bed": bed,
            "needs": [_line(work, need) for need in found],
            "total": _money(work, cost),
            "unpriced": unpriced,
            "bricks": bricks,
            "wall": format_length(sum(bed_rebuild.sides(bed.shape.own_corners_mm)), units),
            "soil": format_volume(bed.litres, units),
            "end": _end_words(*end) if end else "",
            "closures": [
                {
                    "id": str(c.id),
                    "span": f"{words.short_day(c.starts)} – {words.short_day(c.ends)} {c.ends.year}",
                    "reason": c.reason,
                    "paid_by": c.paid_by,
                    "standing": _standing(work, bed, c),
                }
                for c in closures
            ],
            "new_id": str(uuid4()),
        }
        return frame.page(work, "garden", f"Rebuild {bed.name}", values, template="garden/bed_rebuild.html")


class BedClosureForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    starts: str = ""
    ends: str = ""
    reason: str = ""
    paid_by: str = ""
    action: Literal["save", "delete"] = "save"


@router.post("/garden/beds/{bed_id}/closure")
def close(scope: Plan, bed_id: UUID, form: Annotated[BedClosureForm, Form()]) -> Response:
    """Take a bed out of use for some days, or open it again."""
    with scope.open() as work:
        row_id = forms.row_id(form.id)
        if form.action == "delete":
            bed_closures.delete_closure(work.connection, row_id)
        else:
            closure = Closure(
                row_id,
                bed_id,
                parse_day(form.starts, field="starts"),
                parse_day(form.ends, field="ends"),
                forms.name(form.reason, field="reason", what="reason", most=120),
                forms.optional_name(form.paid_by, field="paid_by"),
            )
            ground_commands.close_bed(work.connection, work.context, closure, work.actor())
        return frame.go(work, f"/garden/beds/{bed_id}/rebuild")


def _standing(work: UnitOfWork, bed: Bed, closure: Closure) -> list[str]:
    """What would still stand there, or already, while the bed is closed."""
    present = garden.plantings(work.connection, bed_id=bed.id, since=closure.starts, until=closure.ends)
    return [
        f"{work.context.crops[p.crop].name.en}, {p.status}, {words.stay(p.bed_from, p.bed_to(work.today))}"
        for p in present
        if p.status not in ("lost", "finished")
    ]


def _needs(work: UnitOfWork, bed: str, group: str) -> tuple[list[MaterialNeed], tuple[date, date]]:
    season = season_of(work)
    span = (max(work.day, season.starts), season.ends) if season else (work.day, date(work.day.year, 12, 31))
    found = commands.gather(
        work.connection,
        work.context,
        starts=span[0],
        ends=span[1],
        today=work.today,
        bed_id=forms.optional_id(bed),
        group_id=forms.optional_id(group),
    )
    return found, span


def _line(work: UnitOfWork, need: MaterialNeed) -> dict[str, str]:
    full = core.barrows(need.litres, work.context.school.units) if need.litres else 0
    return {
        "what": need.what,
        "needed": f"{_plain(need.amount)} {need.unit[:-1] if need.amount == 1 and need.unit.endswith('s') else need.unit}".strip()
        + (f", {words.count(full, 'wheelbarrow')}" if full else ""),
        "have": _plain(need.have) if need.have else "",
        "lacking": _plain(need.to_get),
        "cost": _money(work, need.cost_minor) if need.cost_minor is not None else "",
        "why": need.why,
        "enough": "yes" if need.to_get == 0 else "",
    }


@dataclass(frozen=True)
class StringingView(View):
    """Filled by `_stringing`, read by its template."""

    along: list[str]
    down: list[str]
    words: str


def _stringing(work: UnitOfWork, bed: Bed) -> StringingView:
    """The distances to mark along both sides."""
    units = work.context.school.units
    strung = bed_strings.stringing(bed.length_mm, bed.width_mm, bed.grid())
    return StringingView(
        along=[format_length(round(mark, 1), units) for mark in strung.along_mm],
        down=[format_length(round(mark, 1), units) for mark in strung.down_mm],
        words=(
            f"{words.count(strung.strings, 'string')}, {words.count(strung.sticks, 'stick')}, "
            f"{format_length(strung.with_knots_mm, units)} of string with knots"
        ),
    )


def _money(work: UnitOfWork, minor: int) -> str:
    return money.write(minor, work.context.school.currency)


def _plain(value: float) -> str:
    return f"{value:g}" if value < 1e6 else f"{value:.0f}"
