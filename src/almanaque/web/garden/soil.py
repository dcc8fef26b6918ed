"""Garden: a bed's soil — what a laboratory found, what was put on, and what the crops there would like."""

from dataclasses import dataclass
from typing import Annotated, Literal
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.garden import soil as commands
from almanaque.core.errors import BadInput
from almanaque.core.garden import site_suitability
from almanaque.core.units import format_mass, format_volume, parse_mass
from almanaque.store.garden import garden, soil
from almanaque.store.garden.soil import AMENDMENTS, Amendment, SoilTest
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
AMOUNTS = (("", "not measured"), ("low", "low"), ("middling", "middling"), ("high", "high"))
DRAINAGE = (("", "not looked at"), ("slow", "slow"), ("good", "good"), ("fast", "fast"))


@router.get("/garden/beds/{bed_id}/soil")
def page(scope: Look, bed_id: UUID) -> Response:
    with scope.open() as work:
        bed, units = garden.bed(work.connection, bed_id), work.context.school.units
        tests, given = soil.tests(work.connection, bed_id), soil.amendments(work.connection, bed_id)
        newest = soil.newest_test(work.connection, bed_id)
        values = {
            "bed": bed,
            "beds": [(str(b.id), b.name) for b in garden.beds(work.connection)],
            "new_test": str(uuid4()),
            "new_amendment": str(uuid4()),
            "amounts": AMOUNTS,
            "drainage": DRAINAGE,
            "kinds": [(kind, kind) for kind in AMENDMENTS],
            "tests": [_test(test) for test in tests],
            "amendments": [
                {
                    "id": str(a.id),
                    "day": words.short_day(a.on_day),
                    "year": str(a.on_day.year),
                    "kind": a.kind,
                    "label": a.label,
                    "amount": words.joined(
                        [
                            format_volume(a.litres, units) if a.litres else "",
                            format_mass(a.grams, units) if a.grams else "",
                        ]
                    ),
                    "wait": _wait(a),
                }
                for a in given
            ],
            "likes": _likes(work, bed_id, newest),
            "school_feeds": work.context.school.feeding,
            "lead": newest is not None
            and newest.lead_ppm is not None
            and newest.lead_ppm >= site_suitability.LEAD_CAUTION_PPM,
        }
        return frame.page(work, "garden", f"Soil of {bed.name}", values, template="garden/soil.html")


class SoilTestForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    taken_on: str = ""
    laboratory: str = ""
    ph: str = ""
    nitrogen: str = ""
    phosphorus: str = ""
    potassium: str = ""
    texture: str = ""
    drainage: str = ""
    lead: str = ""
    advice: str = ""
    action: Literal["save", "delete"] = "save"


@router.post("/garden/beds/{bed_id}/soil")
def save_test(scope: Plan, bed_id: UUID, form: Annotated[SoilTestForm, Form()]) -> Response:
    """Keep a laboratory's result, or take one out that was entered by mistake."""
    with scope.open() as work:
        row_id = forms.row_id(form.id)
        if form.action == "delete":
            soil.delete(work.connection, "soil_test", row_id)
            return frame.go(work, f"/garden/beds/{bed_id}/soil")
        n, p, k = (
            _amount(text, field)
            for text, field in (
                (form.nitrogen, "nitrogen"),
                (form.phosphorus, "phosphorus"),
                (form.potassium, "potassium"),
            )
        )
        test = SoilTest(
            row_id,
            bed_id,
            parse_day(form.taken_on, field="taken_on"),
            forms.optional_name(form.laboratory, field="laboratory"),
            forms.number(form.ph, field="ph", what="ph", within=(2, 12)),
            n,
            p,
            k,
            forms.optional_name(form.texture, field="texture", most=40),
            _drainage(form.drainage),
            forms.number(form.lead, field="lead", what="lead_in_ppm", within=(0, 1_000_000)),
            form.advice.strip(),
        )
        commands.save_test(work.connection, work.context, test, today=work.today)
        return frame.go(work, f"/garden/beds/{bed_id}/soil")


class AmendmentForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    on_day: str = ""
    kind: str = "compost"
    volume: str = ""
    weight: str = ""
    label: str = ""
    action: Literal["save", "delete"] = "save"


@router.post("/garden/beds/{bed_id}/amendment")
def save_amendment(scope: Plan, bed_id: UUID, form: Annotated[AmendmentForm, Form()]) -> Response:
    """Log what was put on a bed, or take out what was logged by mistake."""
    with scope.open() as work:
        row_id, units = forms.row_id(form.id), work.context.school.units
        if form.action == "delete":
            soil.delete(work.connection, "amendment", row_id)
            return frame.go(work, f"/garden/beds/{bed_id}/soil")
        which = next((known for known in AMENDMENTS if known == form.kind), None)
        if which is None:
            raise BadInput("garden.amendment_missing", field="kind")
        try:
            grams = (
                float(parse_mass(form.weight, bare_unit="lb" if units == "us" else "kg"))
                if form.weight.strip()
                else None
            )
        except BadInput as error:
            raise error.at("weight") from None
        given = Amendment(
            row_id,
            bed_id,
            parse_day(form.on_day, field="on_day"),
            which,
            forms.volume(form.volume, units, field="volume"),
            grams,
            forms.optional_name(form.label, field="label", most=120),
        )
        commands.save_amendment(work.connection, work.context, given, today=work.today)
        return frame.go(work, f"/garden/beds/{bed_id}/soil")


def _test(test: SoilTest) -> dict[str, str]:
    found = [
        f"pH {test.ph:.1f}" if test.ph is not None else "",
        *(
            f"{name} {value}"
            for name, value in (
                ("nitrogen", test.nitrogen),
                ("phosphorus", test.phosphorus),
                ("potassium", test.potassium),
            )
            if value
        ),
        test.texture,
        f"drains {'well' if test.drainage == 'good' else test.drainage}" if test.drainage else "",
        f"lead {test.lead_ppm:g} ppm" if test.lead_ppm is not None else "",
    ]
    return {
        "id": str(test.id),
        "day": f"{words.short_day(test.taken_on)} {test.taken_on.year}",
        "laboratory": test.laboratory,
        "found": words.joined(found),
        "advice": test.advice,
    }


def _wait(amendment: Amendment) -> str:
    """The days that must pass after raw manure."""
    return (
        "nothing eaten raw for 120 days where it touches the soil, 90 where it does not"
        if amendment.kind == "raw manure"
        else ""
    )


@dataclass(frozen=True)
class CropLikesView(View):
    """Filled by `_likes`, read by its template."""

    crop: str
    ph: str
    feeding: str
    says: str
    care: bool


def _likes(work: UnitOfWork, bed_id: UUID, test: site_suitability.Soil | None) -> list[CropLikesView]:
    """What the crops that stand or are planned here would like, beside what was measured."""
    rows: dict[str, CropLikesView] = {}
    for planting in garden.plantings(work.connection, bed_id=bed_id, since=work.day):
        crop = work.context.crops[planting.crop]
        if planting.status == "lost":
            continue
        sour = test is not None and test.ph is not None and test.ph < crop.ph[0] - 0.05
        sweet = test is not None and test.ph is not None and test.ph > crop.ph[1] + 0.05
        rows[crop.key] = CropLikesView(
            crop=crop.name.en,
            ph=f"{crop.ph[0]:g} – {crop.ph[1]:g}",
            feeding=crop.feeding,
            says="the soil is sour for it"
            if sour
            else "the soil is sweet for it"
            if sweet
            else "suits it"
            if test and test.ph is not None
            else "no test yet",
            care=sour or sweet,
        )
    return sorted(rows.values(), key=lambda row: row.crop)


def _amount(text: str, field: str) -> soil.Amount:
    known: tuple[soil.Amount, ...] = ("", "low", "middling", "high")
    found = next((value for value in known if value == text), None)
    if found is None:
        raise BadInput("garden.level_unknown", field=field)
    return found


def _drainage(text: str) -> soil.Drainage:
    known: tuple[soil.Drainage, ...] = ("", "slow", "good", "fast")
    found = next((value for value in known if value == text), None)
    if found is None:
        raise BadInput("garden.drainage_unknown", field="drainage")
    return found
