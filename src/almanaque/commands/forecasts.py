"""Dates, verdict and jobs of a planting, computed from the rules and written where they are missing or out of date."""

import hashlib
import json
from collections.abc import Iterator, Sequence
from dataclasses import replace
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context, vars_or_text
from almanaque.core import fit, layout, tasks
from almanaque.core.crops import Catalogue, Crop
from almanaque.core.findings import Finding
from almanaque.core.growth import GrowthDates, forecast
from almanaque.core.spacing import Layout
from almanaque.core.tasks import Step
from almanaque.core.units import Units
from almanaque.store import garden
from almanaque.store import tasks as task_store
from almanaque.store.garden import Bed, Planting

RULES_VERSION = 3  # raise it when a rule changes what it answers, so that every forecast is made anew


def layout_of(planting: Planting, bed: Bed, crop: Crop, units: Units = "us") -> Layout:
    """Where this planting's plants stand in its bed, by the way it is laid out and the figure it follows."""
    grid = bed.grid()
    cells = [cell for cell in planting.cells if cell[0] < grid.columns and cell[1] < grid.rows]
    kept = [part for part in bed.kept if part.overlaps(planting.bed_from, planting.bed_from)]
    return layout.lay_out(cells, grid, crop, planting.wish, units=units, kept=kept, outline_mm=bed.outline_mm)


def layouts(plantings: Sequence[Planting], bed: Bed, crops: Catalogue, units: Units = "us") -> dict[UUID, Layout]:
    """Where the plants of each planting stand; those among others on purpose keep away from whom they share squares with."""
    found = {p.id: layout_of(p, bed, crops[p.crop], units) for p in plantings}
    grid = bed.grid()
    for planting in plantings:
        if planting.with_others:
            theirs = [
                place for other in plantings if other.id != planting.id and other.cells & planting.cells and not other.with_others
                for place in found[other.id].positions_mm
            ]  # fmt: skip
            mine = found[planting.id]
            apart = layout.pitch(mine, grid, layout.figures(crops[planting.crop], planting.wish, grid.cell_mm))
            found[planting.id] = layout.beside(mine, theirs, apart, apart)
    return found


def dates_of(planting: Planting, crop: Crop) -> GrowthDates:
    """Forecast dates that follow from what really happened, where it has."""
    started = planting.events.get("started", planting.start_on)
    return forecast(crop, planting.method, started, set_out=planting.events.get("set out"))


def refresh(
    connection: Connection[Any], context: Context, planting: Planting, bed: Bed, *, today: date, force: bool = False
) -> None:
    """Bring a planting's forecast and jobs up to date, if what they depend on has changed.

    What would mend a plan that does not fit is looked for from `today` on and kept with its first finding.
    """
    crop = context.crops[planting.crop]
    depends_on = _digest(context, planting, bed, crop)
    if planting.depends_on == depends_on and not force:
        return
    judged = fit.judge(crop, planting.method, planting.events.get("started", planting.start_on), context.setting)
    dates = dates_of(planting, crop)
    judged = replace(judged, dates=dates, findings=_with_mends(context, planting, judged, today))
    garden.save_forecast(connection, context.school.id, planting.id, judged, depends_on)
    wanted = list(tasks.from_today(_steps_to_come(context, planting, bed, crop, dates), today))
    adopted = planting.class_group_id or bed.class_group_id
    given = tasks.assign(
        wanted,
        context.calendar,
        adopted_by=str(adopted) if adopted else None,
        names=context.group_names(dates.bed_from),
        load=task_store.work_load(connection, start=dates.start, without=planting.id),
    )
    task_store.save_assignments(connection, context.school.id, given, planting_id=planting.id, bed_id=bed.id)


def _with_mends(context: Context, planting: Planting, judged: fit.Fit, today: date) -> tuple[Finding, ...]:
    """The findings, the first of them with the nearest changes that would make an open plan fit."""
    if judged.verdict == "fits" or planting.status not in ("pencilled", "planned") or planting.events:
        return judged.findings
    first, *others = judged.findings
    mends = tuple(fit.mends(judged, context.setting, not_before=today))
    other_fixes = tuple(f for f in first.fixes if not f.action.startswith("start:"))
    return (replace(first, fixes=(*mends, *other_fixes)), *others)


def refresh_school(connection: Connection[Any], context: Context, *, today: date) -> int:
    """Bring every planting that is not over up to date after a wider change; return how many were looked at."""
    beds = {bed.id: bed for bed in garden.beds(connection)}
    open_ones = [p for p in garden.plantings(connection) if p.status in ("pencilled", "planned", "in the ground")]
    for planting in open_ones:
        refresh(connection, context, planting, beds[planting.bed_id], today=today)
    return len(open_ones)


def _steps_to_come(context: Context, planting: Planting, bed: Bed, crop: Crop, dates: GrowthDates) -> Iterator[Step]:
    """The steps that still ask for a job. Pencil makes none; what has happened needs none."""
    if planting.status not in ("planned", "in the ground"):
        return
    laid = layout_of(planting, bed, crop)
    past: dict[str, tuple[str, ...]] = {
        "started": ("start indoors",) if planting.method == "indoors" else ("prepare bed", "sow", "transplant"),
        "set out": ("harden off", "prepare bed", "transplant"),
        "emerged": ("keep moist",),
    }
    done = {step for kind, steps in past.items() if kind in planting.events for step in steps}
    for step in tasks.steps(
        crop, planting.method, dates, plants=laid.plants, squares=laid.squares, units=context.school.units
    ):
        if step.step not in done:
            yield step


def _digest(context: Context, planting: Planting, bed: Bed, crop: Crop) -> str:
    """A hash of everything the dates, verdict and jobs depend on."""
    parts = [
        RULES_VERSION, crop.model_dump(), context.weather_digest, context.calendar_digest, context.school.units,
        planting.status, planting.method, planting.start_on, planting.wish, planting.events,
        planting.class_group_id, bed.class_group_id, sorted(planting.cells), bed.cell_mm, bed.length_mm, bed.width_mm,
        bed.outline_mm, bed.kept,
    ]  # fmt: skip
    text = json.dumps(parts, default=vars_or_text, sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()[:24]
