"""Garden: one planting with its steps, what was planned and what happened, its cover, and sowings that follow it."""

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated, Literal, cast
from uuid import UUID

from fastapi import APIRouter, Depends, Form, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel

from almanaque.commands.garden import plantings, propagation
from almanaque.commands.growth import forecasts
from almanaque.commands.journal.timeline import TimelineEntry, entries
from almanaque.commands.seeds import seed_box as seed_commands
from almanaque.commands.week import planting_day
from almanaque.commands.year import schedule
from almanaque.core.crops.crop import Crop
from almanaque.core.growth.covers import COVERS, CoverKey
from almanaque.core.growth.growth_dates import GrowthDates, picking_window
from almanaque.core.growth.setting import Setting
from almanaque.core.units import format_length
from almanaque.core.week import planting_day as core_day
from almanaque.core.words import terms
from almanaque.core.year.steps import as_they_stand
from almanaque.core.year.succession import Sowing
from almanaque.formats.crops import portraits
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.harvest import pickings
from almanaque.store.journal import photos, sightings
from almanaque.store.journal.photos import Photo
from almanaque.store.seeds import seed_box
from almanaque.store.week import planting_day_results
from almanaque.web import forms, frame, words
from almanaque.web.garden import neighbour_trials, planting_steps, sheet_parts
from almanaque.web.garden.neighbour_trials import NeighboursView
from almanaque.web.garden.planting_steps import StepView
from almanaque.web.garden.sheet_parts import NoteView
from almanaque.web.harvest import picking_form as harvest_room
from almanaque.web.harvest import promised_range
from almanaque.web.pictures import photo_strip
from almanaque.web.pictures.families import Hatch, family
from almanaque.web.pictures.photo_strip import PhotoStripView, StripPhotoView
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
ENDINGS = {"": "not decided", "deadhead": "cut off, so that it flowers on", "seed": "left to set seed"}


@router.get("/garden/plantings/{planting_id}")
def page(scope: Look, planting_id: UUID, rhythm: str = "", every: str = "14") -> Response:
    with scope.open() as work:
        planting = garden.planting(work.connection, planting_id)
        return frame.page(
            work,
            "garden",
            _title(work, planting),
            _values(work, planting, rhythm, every),
            template="garden/planting.html",
        )


@router.get("/garden/plantings/{planting_id}/days")
def days(scope: Plan, planting_id: UUID, step: Literal["start", "transplant"] = "start") -> Response:
    """What every day to come would make of the planting, for a step that is being dragged."""
    with scope.open() as work:
        planting = garden.planting(work.connection, planting_id)
        bed = garden.bed(work.connection, planting.bed_id)
        found = schedule.choices(work.context, planting, bed, step, today=work.today)
        return JSONResponse(
            [
                {
                    "day": c.day.isoformat(),
                    "verdict": c.verdict,
                    "first": c.first_pick.isoformat(),
                    "last": c.last_pick.isoformat(),
                    "words": (
                        f"{words.short_day(c.day)}: {c.verdict}, "
                        f"picking {words.span(c.first_pick, c.last_pick)}{f', {c.n} of {c.of} years' if c.of else ''}"
                    ),
                }
                for c in found
            ]
        )


@router.post("/garden/plantings/{planting_id}/cover")
def set_cover(scope: Plan, planting_id: UUID, cover: Annotated[str, Form()] = "") -> Response:
    with scope.open() as work:
        key = cast(CoverKey | None, forms.one_of(cover, list(COVERS), field="cover") if cover else None)
        schedule.set_cover(work.connection, work.context, planting_id, key, work.actor())
        return frame.go(work, f"/garden/plantings/{planting_id}")


@router.post("/garden/plantings/{planting_id}/group")
def set_group(scope: Plan, planting_id: UUID, group: Annotated[str, Form()] = "") -> Response:
    """Say which class grows it."""
    with scope.open() as work:
        group_id = forms.group(group, {g.id for g in work.context.groups})
        plantings.give_to(work.connection, work.context, planting_id, group_id, work.actor())
        return frame.go(work, f"/garden/plantings/{planting_id}")


@router.post("/garden/plantings/{planting_id}/series")
def make_series(
    scope: Plan, planting_id: UUID, rhythm: Annotated[str, Form()] = "every", every: Annotated[str, Form()] = "14"
) -> Response:
    """Pencil in what follows the planting."""
    with scope.open() as work:
        kind, days = _rhythm(rhythm, every)
        schedule.make_series(work.connection, work.context, planting_id, kind, days, work.actor())
        return frame.go(work, f"/garden/plantings/{planting_id}")


@router.post("/garden/plantings/{planting_id}/ending")
def set_ending(
    scope: Annotated[RequestScope, Depends(may("note"))], planting_id: UUID, ending: Annotated[str, Form()] = ""
) -> Response:
    """Decide what becomes of faded flowers."""
    with scope.open() as work:
        sightings.set_ending(work.connection, planting_id, forms.one_of(ending, list(ENDINGS), field="ending"))
        return frame.go(work, f"/garden/plantings/{planting_id}")


class NewPlantsForm(BaseModel):
    """What the form sends, as it was typed."""

    how: str = ""
    bed: str = ""
    squares: str = ""
    start_on: str = ""


@router.post("/garden/plantings/{planting_id}/new-plants")
def new_plants(scope: Plan, planting_id: UUID, form: Annotated[NewPlantsForm, Form()]) -> Response:
    """Plan plants that come from this planting, with their origin."""
    with scope.open() as work:
        kind = cast(propagation.How, forms.one_of(form.how, propagation.HOWS, field="how"))
        wish = propagation.NewPlantsWish(
            kind, forms.row_id(form.bed), form.squares, parse_day(form.start_on, field="start_on")
        )
        new_id = propagation.make(work.connection, work.context, planting_id, wish, work.actor())
        return frame.go(work, f"/garden/plantings/{new_id}")


def _title(work: UnitOfWork, planting: Planting) -> str:
    return f"{work.context.crops[planting.crop].name.en}, {garden.bed(work.connection, planting.bed_id).name}"


def _rhythm(rhythm: str, every: str) -> tuple[schedule.Rhythm, int]:
    kind = cast(schedule.Rhythm, forms.one_of(rhythm, ("every", "twice a term"), field="rhythm"))
    return kind, forms.whole(every, field="every", least=5, most=90, what="days_between") if kind == "every" else 14


def _sowings(work: UnitOfWork, planting: Planting, rhythm: str, every: str) -> list[Sowing]:
    kind, count = _rhythm(rhythm, every)
    bed = garden.bed(work.connection, planting.bed_id)
    return schedule.sowings(work.context, planting, bed, kind, count, until=None, today=work.today)


@dataclass(frozen=True)
class PlantingFollowingView(View):
    """A row of `PlantingView`."""

    day: str
    verdict: str
    verdict_class: str
    picking: str
    years: str


@dataclass(frozen=True)
class PlantingSeriesView(View):
    """A row of `PlantingView`."""

    id: str
    day: str
    status: str
    here: bool


@dataclass(frozen=True)
class SeenBesideView(View):
    """The last photo beside the plant as the forecast has it on that day, drawn."""

    photo: StripPhotoView
    drawn: str


@dataclass(frozen=True)
class PlantingView(View):
    """Filled by `_values`, read by its template."""

    planting: Planting
    crop: Crop
    bed: Bed
    hatch: Hatch
    picture: str
    facts: str
    verdict: str
    verdict_class: str
    years: str
    dates: list[str]
    season_to_date: str
    promised: str
    came_out: str
    steps: list[StepView]
    beside: NeighboursView
    notes: list[NoteView]
    covers: list[tuple[str, str]]
    groups: list[tuple[str, str]]
    stays: bool
    out_on: str
    open: bool
    over: bool
    rhythm: str
    every: str
    following: list[PlantingFollowingView]
    asked: bool
    series: list[PlantingSeriesView]
    next_day: str
    ends: str
    seen: list[TimelineEntry]
    photos: PhotoStripView | None
    seen_beside: SeenBesideView | None
    relatives: list[dict[str, str]]
    picked: list[dict[str, str]]
    sown_from: list[dict[str, str]]
    endings: list[tuple[str, str]]
    ending: str
    hows: tuple[str, ...]
    beds: list[tuple[str, str]]
    bolted: bool
    today_iso: str
    height: str
    min_day: str


def _values(work: UnitOfWork, planting: Planting, rhythm: str, every: str) -> PlantingView:
    bed, crop = garden.bed(work.connection, planting.bed_id), work.context.crops[planting.crop]
    dates, units = planting.dates, work.context.school.units
    setting = forecasts.setting_of(work.context, planting, bed)
    steps = (
        as_they_stand(
            forecasts.steps_of(work.context, planting, bed, dates, work.today),
            events=_of_season(planting, crop, dates, work.day),
            by_hand=planting.steps,
            today=work.today,
            method=planting.method,
        )
        if dates
        else []
    )
    notes = [sheet_parts.note(f, n, work.today, planting=planting) for n, f in enumerate(planting.findings, start=1)]
    following = _sowings(work, planting, rhythm, every) if rhythm else []
    series = [
        p
        for p in garden.plantings(work.connection, bed_id=bed.id)
        if planting.series_id and p.series_id == planting.series_id
    ]
    ends = planting.bed_to(work.today)
    layout = forecasts.layout_of(planting, bed, crop, units)
    covered = terms("cover")[setting.covering.key] if setting.covering else "in the open"
    pictures = photos.photos(work.connection, until=work.day, planting_id=planting.id, limit=200)
    return PlantingView(
        planting=planting,
        crop=crop,
        bed=bed,
        hatch=family(crop.family),
        photos=photo_strip.strip(pictures, f"{crop.name.en.lower()} in {bed.name}"),
        seen_beside=_seen_beside(work, crop, planting, pictures),
        picture=portraits.side_on(crop, work.day, dates, southern=work.context.school.southern)
        if (dates := planting.dates)
        else "",
        facts=words.joined(
            [
                planting.status,
                terms("method")[planting.method],
                words.count(layout.plants, "plant"),
                words.count(layout.squares, "square"),
                covered,
                "by your own figures" if crop.own else "",
            ]
        ),
        verdict=terms("verdict")[planting.verdict] if planting.verdict else "",
        verdict_class=sheet_parts.VERDICT_CLASS.get(planting.verdict or "", ""),
        years=f"children here to pick in {dates.fit_years} of {dates.of_years} years"
        if dates and dates.of_years
        else "",
        dates=sheet_parts.date_sentences(crop, planting.method, dates, planting, work.day),
        season_to_date=_season_to_date(work, planting, crop, setting),
        promised=promised_range.sentence(work, planting, setting),
        came_out=_came_out(work, planting, bed),
        steps=planting_steps.rows(steps, planting, crop),
        beside=neighbour_trials.view(work, planting),
        notes=notes,
        covers=[
            ("", "in the open" if planting.cover or not setting.covering else "as on the map"),
            *terms("cover").items(),
        ],
        groups=[("", "nobody in particular"), *work.context.group_names(work.day).items()],
        stays=crop.life == "perennial",
        out_on=planting.steps["clear"].isoformat() if "clear" in planting.steps else "",
        open=schedule.is_open(planting),
        over=planting.status in ("finished", "lost"),
        rhythm=rhythm or "every",
        every=every,
        following=[
            PlantingFollowingView(
                day=words.weekday_day(s.day),
                verdict=s.fit.verdict,
                verdict_class=sheet_parts.VERDICT_CLASS[s.fit.verdict],
                picking=words.span(s.fit.dates.first_pick, s.fit.dates.last_pick),
                years=f"{s.fit.n} of {s.fit.of} years" if s.fit.of else "",
            )
            for s in following
        ],
        asked=bool(rhythm),
        series=[
            PlantingSeriesView(id=str(p.id), day=words.short_day(p.start_on), status=p.status, here=p.id == planting.id)
            for p in series
        ],
        next_day=max(ends, work.today).isoformat(),
        ends=words.short_day(ends),
        seen=entries(work.connection, work.context, until=work.day, planting_id=planting.id, limit=6),
        relatives=_relatives(work, planting),
        picked=_picked(work, planting),
        sown_from=_sown_from(work, planting),
        endings=list(ENDINGS.items()),
        ending=sightings.endings(work.connection, [planting.id]).get(str(planting.id), ""),
        hows=propagation.HOWS,
        beds=[(str(b.id), b.name) for b in garden.beds(work.connection)],
        bolted="bolted" in planting.events and "cleared" not in planting.events,
        today_iso=work.today.isoformat(),
        height=format_length(crop.height_mm, units),
        min_day=work.today.isoformat(),
    )


def _seen_beside(work: UnitOfWork, crop: Crop, planting: Planting, pictures: list[Photo]) -> SeenBesideView | None:
    if not pictures or planting.dates is None:
        return None
    last = pictures[0]  # newest first
    drawn = portraits.side_on(crop, last.noted_on, planting.dates, southern=work.context.school.southern)
    return SeenBesideView(photo=photo_strip.photo_view(last, crop.name.en.lower()), drawn=drawn) if drawn else None


def _picked(work: UnitOfWork, planting: Planting) -> list[dict[str, str]]:
    """The last pickings, as Harvest shows them."""
    return [
        harvest_room.line(work, row)
        for row in pickings.recent(work.connection, until=work.day, planting=planting.id, limit=6)
    ]


def _sown_from(work: UnitOfWork, planting: Planting) -> list[dict[str, str]]:
    """The lots of the seed box that its seed was taken from."""
    return [
        {
            "id": str(taken.lot_id),
            "words": f"{taken.seeds:,} seeds of {seed_commands.name_of(work.context, seed_box.lot(work.connection, taken.lot_id))}",
        }
        for taken in seed_box.taken(work.connection, planting_id=planting.id)
    ]


def _relatives(work: UnitOfWork, planting: Planting) -> list[dict[str, str]]:
    return [
        {
            "id": str(r.planting.id),
            "words": f"{'From' if r.older else 'Gave'} {r.bed_name}, {words.short_day(r.planting.start_on)} {r.planting.start_on.year}",
            "how": r.how,
        }
        for r in propagation.relatives(work.connection, planting.id)
    ]


def _of_season(planting: Planting, crop: Crop, dates: GrowthDates, day: date) -> dict[str, date]:
    """What happened, less the picking of an earlier season."""
    window = picking_window(crop, dates, day, first_picked=planting.events.get("first picking"))
    earlier = window.begun is None
    return {kind: day for kind, day in planting.events.items() if kind != "first picking" or not earlier}


def _came_out(work: UnitOfWork, planting: Planting, bed: Bed) -> str:
    """What was noted on its planting day, in a sentence; empty when nothing was."""
    noted = planting_day_results.planted(work.connection, [planting.id]).get(planting.id)
    if noted is None:
        return ""
    units = work.context.school.units
    said = f"{words.count(noted.plants, 'plant')} went in"
    if noted.left_over is not None:
        said += f", {noted.left_over} left over"
    if not noted.apart_mm:
        return f"{said}."
    meant = planting_day.meant_mm(work.context, planting, bed)
    off = core_day.apart(noted.apart_mm, meant)
    mean = format_length(sum(noted.apart_mm) / len(noted.apart_mm), units, feet=False)
    said += f". {len(noted.apart_mm)} distances measured, {mean} on average where {format_length(meant, units, feet=False)} was meant."
    return f"{said} {off.message} {off.fixes[0].label}." if off else said


def _season_to_date(work: UnitOfWork, planting: Planting, crop: Crop, setting: Setting) -> str:
    """How far it is by this season's weather, in a sentence; empty where packet days speak."""
    far = forecasts.how_far(planting, crop, setting, planting.bed_from, today=work.today)
    if far is None or far.day > work.today:
        return ""
    until = f"By this season's weather until {words.short_day(far.day - timedelta(days=1))}"
    if far.up_on is None:
        return f"{until}: {far.behind.up:.0%} of the way to coming up."
    up = (
        ""
        if "emerged" in planting.events or planting.dates is None or planting.dates.emerge_to is None
        else f" up about {words.short_day(far.up_on)},"
    )
    return f"{until}:{up} {far.share:.0%} of the warmth to its first picking."
