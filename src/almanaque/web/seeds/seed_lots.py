"""Seeds: the box with its lots; a lot with its age, tests, what was taken from it, where it came from, and packets to give away."""

from dataclasses import dataclass
from typing import Annotated
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.seeds import seed_box as commands
from almanaque.core.errors import BadInput
from almanaque.core.seeds import seed_lots as rules
from almanaque.core.units import format_length
from almanaque.formats.crops import portraits
from almanaque.store.garden import garden
from almanaque.store.seeds import seed_box
from almanaque.store.seeds.seed_box import Count, GerminationTest, LotRow, TakenSeed
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.seeds.seed_lot_form import FIELDS, lot_form, read_lot
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
Note = Annotated[RequestScope, Depends(may("note"))]
MOST_LABELS = 60


@router.get("/seeds/box")
def box(scope: Look, crop: str = "", planting: str = "") -> Response:
    """Every lot with its age, its test and what is left."""
    with scope.open() as work:
        form = {"crop": crop}
        if forms.is_id(planting):
            source = garden.planting(work.connection, UUID(planting))
            form = {"crop": source.crop, "origin": "saved", "from_planting": planting, "variety": source.variety}
        return _box(work, form)


@router.post("/seeds/box")
def keep(scope: Plan) -> Response:
    """Put a lot into the box, or put one right."""
    sent = scope.request.state.form
    form = {name: str(sent.get(name, "")) for name in FIELDS}
    try:
        with scope.open() as work:
            lot = read_lot(work, form)
            commands.keep_lot(work.connection, work.context, lot, today=work.today)
            return frame.go(work, f"/seeds/lots/{lot.id}")
    except BadInput as error:
        with scope.open() as work:
            known = next((lot for lot in seed_box.lots(work.connection) if str(lot.id) == form["id"]), None)
            return (
                _page(work, known, form=form, error=error, status=422)
                if known
                else _box(work, form, error=error, status=422)
            )


def _box(work: UnitOfWork, form: dict[str, str], *, error: BadInput | None = None, status: int = 200) -> Response:
    lots = [lot for lot in seed_box.lots(work.connection) if lot.crop in work.context.crops]
    values = {
        "rows": [line(work, lot) for lot in lots if lot.closed_on is None],
        "closed": [line(work, lot) for lot in lots if lot.closed_on is not None],
        "due": [
            {
                "id": str(lot.id),
                "name": commands.name_of(work.context, lot),
                "day": words.short_day(day),
                "late": day <= work.today,
                "started": words.short_day(test.started_on),
            }
            for lot, test, day in commands.due(work.context, lots)
        ],
        "making": error is not None or bool(form.get("crop")),
        **lot_form(work, form, error=error),
    }
    return frame.page(work, "seeds", "The seed box", values, template="seeds/seed_box.html", status=status)


LARGEST_SEED_PX = 90  # of one that is shown in a list in its true size: our own choice


def line(work: UnitOfWork, lot: LotRow) -> dict[str, str]:
    """A lot in finished words: what is left, how old, what its test says."""
    crop = work.context.crops[lot.crop]
    left, rate, life = (
        commands.left_of(crop, lot),
        commands.rate_of(lot),
        commands.life_of(work.context, lot, work.today),
    )
    seed_px = portraits.true_size_px(crop)
    running = any(test.ended_on is None for test in lot.tests)
    said = rules.told(rate, crop.germination).sentence if rate else "" if running else "not tested"
    return {
        "id": str(lot.id),
        "name": commands.name_of(work.context, lot),
        "origin": lot.origin + (f", {lot.whom}" if lot.whom else ""),
        "left": "–" if lot.closed_on else f"{left:,} seeds" if left is not None else "number not known",
        "life": life.sentence,
        "state": life.state,
        "test": f"{said} {'A test is running.' if running else ''}".strip(),
        "where": words.joined([lot.place, lot.where_kept]),
        "seed": portraits.address(crop, "seed", px=24) if seed_px <= LARGEST_SEED_PX else "",
        "seed_px": str(seed_px),
        "facts": words.joined(
            [
                "pelleted" if lot.pelleted else "",
                "hybrid" if lot.hybrid else "",
                f"{lot.closed_why} {words.short_day(lot.closed_on)}" if lot.closed_on else "",
                lot.note,
            ]
        ),
    }


@router.get("/seeds/lots/{lot_id}")
def one(scope: Look, lot_id: UUID) -> Response:
    with scope.open() as work:
        return _page(work, seed_box.lot(work.connection, lot_id))


class SeedTakenForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    planting: str = ""
    count: str = ""
    day: str = ""
    what: str = ""
    back: str = ""


@router.post("/seeds/lots/{lot_id}/taken")
def take(scope: Note, lot_id: UUID, form: Annotated[SeedTakenForm, Form()]) -> Response:
    """Note seed taken for a planting or given away; or that it was not."""
    try:
        with scope.open() as work:
            lot = seed_box.lot(work.connection, lot_id)
            if form.back:
                seed_box.put_back(work.connection, forms.row_id(form.back))
            else:
                number = forms.whole(
                    form.count.replace(",", ""), field="count", least=1, most=100_000_000, what="seeds"
                )
                taken = TakenSeed(
                    forms.row_id(form.id),
                    lot.id,
                    forms.optional_id(form.planting),
                    parse_day(form.day) if form.day else work.today,
                    number,
                    forms.optional_name(form.what, field="what"),
                )
                commands.take(work.connection, work.context, taken, today=work.today)
            return frame.go(work, f"/seeds/lots/{lot_id}")
    except BadInput as error:
        with scope.open() as work:
            return _page(work, seed_box.lot(work.connection, lot_id), error=error, status=422)


class GerminationTestForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    sown: str = ""
    day: str = ""
    place: str = ""
    test_id: str = ""
    up: str = ""
    end: str = ""


@router.post("/seeds/lots/{lot_id}/tests")
def try_out(scope: Note, lot_id: UUID, form: Annotated[GerminationTestForm, Form()]) -> Response:
    """Begin a germination test, or count one."""
    try:
        with scope.open() as work:
            on = parse_day(form.day) if form.day else work.today
            if form.test_id:
                counted = Count(on, forms.whole(form.up, field="up", least=0, most=10_000, what="up"))
                commands.count(
                    work.connection,
                    work.context,
                    lot_id,
                    forms.row_id(form.test_id),
                    counted,
                    today=work.today,
                    end=form.end == "1",
                )
            else:
                number = forms.whole(form.sown, field="sown", least=1, most=10_000, what="sown")
                begun = GerminationTest(
                    forms.row_id(form.id), lot_id, on, number, forms.optional_name(form.place, field="place"), None
                )
                commands.start_test(work.connection, work.context, begun, use_id=begun.id, today=work.today)
            return frame.go(work, f"/seeds/lots/{lot_id}")
    except BadInput as error:
        with scope.open() as work:
            return _page(work, seed_box.lot(work.connection, lot_id), error=error, status=422)


def _page(
    work: UnitOfWork,
    lot: LotRow,
    *,
    form: dict[str, str] | None = None,
    error: BadInput | None = None,
    status: int = 200,
) -> Response:
    crop = work.context.crops[lot.crop]
    beds = {bed.id: bed.name for bed in garden.beds(work.connection)}
    rate = commands.rate_of(lot)
    told = rules.told(rate, crop.germination) if rate else None
    typed = form or {
        "id": str(lot.id),
        "crop": lot.crop,
        "variety": lot.variety,
        "origin": lot.origin,
        "whom": lot.whom,
        "from_planting": str(lot.from_planting or ""),
        "year": str(lot.year),
        "weight": f"{lot.grams.normalize():f} g" if lot.grams else "",
        "seeds": str(lot.seeds or ""),
        "pelleted": "1" if lot.pelleted else "",
        "hybrid": "1" if lot.hybrid else "",
        "place": lot.place,
        "where_kept": lot.where_kept,
        "packets": str(lot.packets or ""),
        "price": f"{lot.price_minor / 100:.2f}" if lot.price_minor else "",
        "note": lot.note,
        "got_on": lot.got_on.isoformat(),
        "closed_why": lot.closed_why,
    }
    open_plantings = [
        p
        for p in garden.plantings(work.connection, crops=_kin(work, crop.kind))
        if p.status in ("planned", "in the ground") and p.start_on.toordinal() > work.today.toordinal() - 400
    ]
    values = {
        **lot_form(work, typed, error=error),
        "lot": line(work, lot),
        "crop_name": crop.name.en,
        "told": told.sentence if told else "",
        "advice": told.advice if told else "",
        "tests": [_test(crop.germination, t) for t in reversed(lot.tests)],
        "taken": [
            {
                "id": str(t.id),
                "day": words.short_day(t.on_day),
                "seeds": f"{t.seeds:,}",
                "what": t.what,
                "planting": _planting(work, t.planting_id, beds) if t.planting_id else None,
            }
            for t in seed_box.taken(work.connection, lot_id=lot.id)
        ],
        "choices": [
            ("", "no planting"),
            *(
                (
                    str(p.id),
                    f"{work.context.crops[p.crop].name.en}, {beds[p.bed_id]}, {words.short_day(p.start_on)} {p.start_on.year}",
                )
                for p in open_plantings
            ),
        ],
        "descent": [_ancestor(work, a) for a in commands.descent(work.connection, lot)],
        "usual": f"{crop.germination:.0%}",
        "emerges": f"{crop.emerges[0]} to {crop.emerges[1]}",
        "new_id": str(uuid4()),
        "test_new_id": str(uuid4()),
        "closed_whys": [
            ("", "in use"),
            ("used up", "used up"),
            ("thrown away", "thrown away"),
            ("given away", "given away"),
        ],
    }
    return frame.page(
        work, "seeds", commands.name_of(work.context, lot), values, template="seeds/seed_lot.html", status=status
    )


def _kin(work: UnitOfWork, kind: str) -> list[str]:
    return [crop.key for crop in work.context.crops if crop.kind == kind]


def _planting(work: UnitOfWork, planting_id: UUID, beds: dict[UUID, str]) -> dict[str, str]:
    planting = garden.planting(work.connection, planting_id)
    return {"id": str(planting.id), "name": f"{work.context.crops[planting.crop].name.en}, {beds[planting.bed_id]}"}


@dataclass(frozen=True)
class GerminationTestView(View):
    """Filled by `_test`, read by its template."""

    id: str
    sown: int
    place: str
    started: str
    running: bool
    counts: list[str]
    result: str


def _test(usual: float, test: GerminationTest) -> GerminationTestView:
    result = ""
    if test.up is not None and test.ended_on is not None:
        result = rules.told(rules.wilson(test.up, test.sown), usual).sentence
    return GerminationTestView(
        id=str(test.id),
        sown=test.sown,
        place=test.place,
        started=words.short_day(test.started_on),
        running=test.ended_on is None,
        counts=[f"{c.up} by {words.short_day(c.on_day)}" for c in test.counts],
        result=result,
    )


def _ancestor(work: UnitOfWork, step: commands.Ancestor) -> dict[str, str]:
    source = ""
    if step.planting is not None:
        source = f"from {work.context.crops[step.planting.crop].name.en.lower()} in {step.bed}, {step.planting.bed_from.year}"
    return {
        "id": str(step.lot.id),
        "name": commands.name_of(work.context, step.lot),
        "how": words.joined([step.lot.origin, step.lot.whom]),
        "source": source,
    }


@router.get("/seeds/lots/{lot_id}/packets")
def packets(scope: Look, lot_id: UUID, count: str = "12", each: str = "") -> Response:
    """Labels for packets to give away, with how to sow."""
    with scope.open() as work:
        lot = seed_box.lot(work.connection, lot_id)
        crop = work.context.crops[lot.crop]
        number = int(count) if count.isascii() and count.isdigit() and 1 <= int(count) <= MOST_LABELS else 12
        seeds_each = int(each) if each.isascii() and each.isdigit() and 0 < int(each) <= 100_000 else None
        units = work.context.school.units
        rate = commands.rate_of(lot)
        label = [
            words.joined([f"{seeds_each:,} seeds" if seeds_each else "", f"seed of {lot.year}"]),
            (
                f"Sow {format_length(crop.depth_mm, units, feet=False)} deep, "
                f"{format_length(crop.in_row_mm, units, feet=False)} apart; up in {crop.emerges[0]} to {crop.emerges[1]} days."
            ),
            f"{rate.up} of {rate.sown} came up when we tried." if rate else "",
            "From hybrid plants: its children will all differ." if lot.hybrid else "",
            crop.poisonous or crop.caution,
        ]
        values = {
            "lot": line(work, lot),
            "name": f"{crop.name.en} {lot.variety}".strip(),
            "labels": range(number),
            "words": [w for w in label if w],
            "count": number,
            "each": seeds_each or "",
            "from_school": work.context.school.name,
        }
        return frame.page(
            work, "seeds", f"Packets: {commands.name_of(work.context, lot)}", values, template="seeds/packets.html"
        )
