"""Garden: the run sheet of a bed's planting day, and how the day came out."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Response

from almanaque.commands.week import planting_day as commands
from almanaque.commands.week.planting_day import Goes, RunSheet
from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.core.findings import Finding
from almanaque.core.garden.bed import cell_name
from almanaque.core.garden.needs import MaterialNeed
from almanaque.core.growth.growth_dates import GrowthDates
from almanaque.core.school import classes
from almanaque.core.units import Units, format_length, format_water
from almanaque.core.week.planting_day import MEANWHILE, GroupShare
from almanaque.core.year.steps import SOIL_CAUTION
from almanaque.formats.crops import portraits
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed
from almanaque.store.week.planting_day_results import Planted
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View
from almanaque.web.week import planting_day_picture as pictures
from almanaque.web.week.planting_day_picture import Gauge, Plan

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Tick = Annotated[RequestScope, Depends(may("tick"))]
MEASURED = 5  # distances that a class measures


@router.get("/garden/beds/{bed_id}/planting-day")
def page(scope: Look, bed_id: UUID, on: str = "") -> Response:
    """The run sheet for one day, the next on which something goes in if none is named."""
    with scope.open() as work:
        bed, values = page_values(work, bed_id, on)
        return frame.page(work, "garden", f"Planting day, {bed.name}", values, template="week/planting_day.html")


@dataclass(frozen=True)
class PlantingDayNeedView(View):
    """A row of `RunSheetView`."""

    what: str
    amount: str
    lacking: str


@dataclass(frozen=True)
class RunSheetView(View):
    """Filled by `_values`, read by its template."""

    facts: str
    parts: list[dict[str, str]]
    whole: int
    finding: Finding | None
    plan: Plan
    groups: list[dict[str, str]]
    crops: list[dict[str, str]]
    gauge: Gauge | None
    needs: list[PlantingDayNeedView]
    cautions: list[str]
    meanwhile: tuple[str, ...]
    begun: bool
    can_note: bool
    latest: str
    unit: str


@dataclass(frozen=True)
class PlantingDayView(View):
    """Filled by `page_values`, read by its template."""

    bed: Bed
    days: list[tuple[str, str]]
    on: str
    sheet: RunSheetView | None
    day_words: str


def page_values(work: UnitOfWork, bed_id: UUID, on: str) -> tuple[Bed, PlantingDayView]:
    """What the run sheet shows, on the page and on paper."""
    bed = garden.bed(work.connection, bed_id)
    known = commands.days(work.connection, bed.id, work.today)
    day = parse_day(on, field="on") if on.strip() else (known[0] if known else work.today)
    found = commands.run_sheet(work.connection, work.context, bed, day, today=work.today)
    return bed, PlantingDayView(
        bed=bed,
        days=[(d.isoformat(), words.weekday_day(d)) for d in known],
        on=day.isoformat(),
        sheet=_values(work, found) if found else None,
        day_words=words.weekday_day(day),
    )


@router.post("/garden/beds/{bed_id}/planting-day")
def came_out(scope: Tick, bed_id: UUID) -> Response:
    """How many really went in, what is left over, and the distances measured; from then on they are in the ground."""
    form = {key: str(value) for key, value in scope.request.state.form.items()}
    with scope.open() as work:
        bed = garden.bed(work.connection, bed_id)
        day = parse_day(form.get("on_day", ""), field="on_day")
        mine = {str(p.id): p for p in garden.plantings(work.connection, bed_id=bed.id)}
        rows = []
        for name, value in form.items():
            key = name.removeprefix("plants-")
            if key == name or not value.strip():
                continue
            if key not in mine:
                raise BadInput("forms.incomplete")
            rows.append(_row(work, mine[key].id, value, form.get(f"left-{key}", ""), form.get(f"apart-{key}", "")))
        commands.came_out(work.connection, work.context, rows, day, work.actor())
        return frame.leave(work, f"/garden/beds/{bed_id}")


def _row(work: UnitOfWork, planting_id: UUID, plants: str, left: str, apart: str) -> Planted:
    measured = [text for text in apart.replace(";", ",").split(",") if text.strip()]
    if len(measured) > 20:
        raise BadInput("week.too_many_distances", field="apart")
    return Planted(
        planting_id,
        forms.whole(plants, field="plants", least=0, most=100_000, what="went_in"),
        forms.whole(left, field="left", least=0, most=100_000, what="left_over") if left.strip() else None,
        tuple(forms.length(text, work.context.school.units, field="apart") for text in measured),
    )


def _values(work: UnitOfWork, found: RunSheet) -> RunSheetView:
    units = work.context.school.units
    crops = {g.to_plant.key: work.context.crops[g.planting.crop] for g in found.goes}
    names = work.context.group_names(found.day)
    who = names[str(found.group.id)] if found.group else "nobody's class yet"
    sown = [crops[g.to_plant.key] for g in found.goes if g.planting.method in ("direct", "cloves")]
    cautions = [SOIL_CAUTION, *(c.caution for c in crops.values() if c.caution)]
    return RunSheetView(
        facts=words.joined(
            [
                words.weekday_day(found.day),
                who,
                words.count(found.children, "child", "children"),
                f"{found.minutes} min",
                words.count(len({s.cell for s in found.order}), "square"),
                words.count(sum(s.holes for s in found.order), "hole"),
            ]
        ),
        parts=_parts(found, units),
        whole=sum(part.minutes for part in found.parts),
        finding=found.finding,
        plan=pictures.plan(found, {crop.name.en: crop.code for crop in crops.values()}),
        groups=[_group(share, found, crops) for share in found.shares],
        crops=[_crop(g, crops[g.to_plant.key], found.bed, units) for g in found.goes],
        gauge=pictures.gauge(_by_depth(sown), units),
        needs=[
            PlantingDayNeedView(
                what=n.what, amount=_amount(n), lacking=f"{n.to_get:g} to get" if n.to_get else "in the shed"
            )
            for n in found.needs
        ],
        cautions=list(dict.fromkeys([*cautions, *classes.flag_words(found.flags)])),
        meanwhile=MEANWHILE,
        begun=found.day <= work.today,
        can_note=found.day <= work.today,
        latest=min(found.day, work.today).isoformat(),
        unit="in" if units == "us" else "cm",
    )


def _amount(need: MaterialNeed) -> str:
    unit = need.unit.removesuffix("s") if need.amount == 1 else need.unit
    return f"{need.amount:g} {unit}".strip()


def _by_depth(crops: list[Crop]) -> list[Crop]:
    """Each depth once by crop, the shallowest first."""
    return sorted({crop.key: crop for crop in crops}.values(), key=lambda crop: (crop.depth_mm, crop.name.en))


def _parts(found: RunSheet, units: Units) -> list[dict[str, str]]:
    """The parts of the day in words, with the minute at which each begins in the lesson, if it is done in it."""
    said = {
        "gather": ("Gather at the bed", "Say what goes in and why here; make the groups; hand out what each carries."),
        "prepare": ("Clear and prepare", "Old roots out, leaves raked, compost worked into the top."),
        "soak": ("Soak the ground", f"{format_water(found.soak_l, units)} before anything goes in."),
        "string": ("String the grid", _strings(found, units)),
        "lay out": (
            "Lay the plan out",
            "First on the floor or the path, one crop and one row at a time; then on the bed.",
        ),
        "plant": ("Plant", _turns(found)),
        "measure": (
            "Measure",
            f"Distances between neighbours, written down, and held against the plan: {_distances(found, units)}.",
        ),
        "label": ("Label", f"{words.count(len(found.goes), 'label')}: crop, day, class or group."),
        "water": ("Water in", f"{format_water(found.water_l, units)}, gently, the rose turned up.{_moist(found)}"),
        "clean up": (
            "Clean up",
            "Tools counted and brushed, strings off or left until all is up; hands washed with soap.",
        ),
    }
    at, rows = 0, []
    for part in found.parts:
        title, text = said[part.key]
        rows.append(
            {
                "at": f"0:{at:02}" if at < 60 else f"{at // 60}:{at % 60:02}",
                "minutes": f"{part.minutes} min",
                "title": title,
                "words": text,
                "beforehand": "can be done beforehand" if part.beforehand else "",
            }
        )
        at += part.minutes
    return rows


def _strings(found: RunSheet, units: Units) -> str:
    if found.strung is None:
        return ""
    along, down = (
        ", ".join(format_length(mark, units) for mark in marks)
        for marks in (found.strung.along_mm, found.strung.down_mm)
    )
    return (
        f"Mark the long sides at {along or 'no place'}; the short ones at {down or 'no place'}. "
        f"{words.count(found.strung.strings, 'string')}, long ones first."
    )


def _turns(found: RunSheet) -> str:
    who = found.crew
    each = (
        f"{words.count(who.groups, 'group')} of about {who.group_of}, "
        f"each with its squares, row by row, two children at a square."
    )
    if who.elsewhere:
        each += (
            f" There is no square for {words.count(who.elsewhere, 'child', 'children')}: "
            f"{', '.join(MEANWHILE[:3])}; then change over."
        )
    if not who.waiting:
        return each
    return (
        f"{each} {who.at_once} groups reach the bed at once, "
        f"so there are {who.turns} turns; the others wait: {', '.join(MEANWHILE[:3])}."
    )


def _distances(found: RunSheet, units: Units) -> str:
    several = [(g, commands.gaps(g)) for g in found.goes]
    return ", ".join(
        f"{MOST_GAPS_WORDS if gaps == commands.MOST_GAPS else gaps} of {g.to_plant.name.lower()}, meant {_meant(g, found.bed, units)}"
        for g, gaps in several
        if gaps
    )


def _meant(goes: Goes, bed: Bed, units: Units) -> str:
    along = goes.layout.reading.along
    return format_length(bed.grid().pitch_x_mm / along, units, feet=False) if along else goes.layout.words


def _moist(found: RunSheet) -> str:
    last = max((dates.emerge_to for dates in _sown(found) if dates.emerge_to), default=None)
    return f" Then keep it moist every day until the seed is up, about {words.short_day(last)}." if last else ""


def _sown(found: RunSheet) -> list[GrowthDates]:
    return [g.planting.dates for g in found.goes if g.planting.dates and g.planting.method == "direct"]


def _group(share: GroupShare, found: RunSheet, crops: dict[str, Crop]) -> dict[str, str]:
    runs: dict[str, list[str]] = {}
    for square in share.squares:
        runs.setdefault(square.key, []).append(cell_name(square.cell))
    turn = (share.number - 1) // found.crew.at_once + 1
    return {
        "number": str(share.number),
        "turn": f"turn {turn}" if found.crew.turns > 1 else "",
        "carries": "; ".join(f"{crops[key].name.en} in {', '.join(cells)}" for key, cells in runs.items()),
        "holes": words.count(share.holes, "hole"),
        "minutes": f"about {max(1, round(share.seconds / 60))} min",
    }


DRAWN_PX = 56.0
MOST_GAPS_WORDS = "five"
LEAST_GAPS = 3  # under which distances say nothing: as the rule that judges them


def _crop(goes: Goes, crop: Crop, bed: Bed, units: Units) -> dict[str, str]:
    thin = (
        format_length(crop.thin_to_mm, units, feet=False)
        if crop.thin_to_mm and goes.planting.method == "direct"
        else ""
    )
    deep = crop.depth_for(goes.planting.method)
    return {
        "id": str(goes.planting.id),
        "name": crop.name.en,
        "code": crop.code,
        "stands": goes.layout.words,
        "plants": words.count(goes.layout.plants, "plant"),
        "deep": f"{format_length(deep, units, feet=False)} deep"
        if deep is not None
        else "as deep as in the pot: soil level with soil level, roots loosened, firmed",
        "thin": f"thin to {thin} when they are up" if thin else "",
        "count": str(goes.layout.plants),
        "meant": _meant(goes, bed, units),
        "gaps": MOST_GAPS_WORDS.capitalize() if commands.gaps(goes) == commands.MOST_GAPS else str(commands.gaps(goes)),
        "measured": "yes" if commands.gaps(goes) >= LEAST_GAPS else "",
        "grown": portraits.address(crop, "grown", px=DRAWN_PX),
        "comes_up": portraits.address(crop, "seedling", px=DRAWN_PX) if goes.planting.method == "direct" else "",
    }


def next_day(work: UnitOfWork, bed: Bed) -> date | None:
    """The next day on which something goes into a bed; None when nothing is planned."""
    known = commands.days(work.connection, bed.id, work.today)
    return known[0] if known else None
