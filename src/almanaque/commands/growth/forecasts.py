"""Dates, verdict and jobs of a planting, computed from the rules and written where they are missing or out of date."""

import hashlib
import json
from collections.abc import Iterator, Sequence
from dataclasses import replace
from datetime import date, timedelta
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands import class_skills
from almanaque.commands.context import Context, vars_or_text
from almanaque.core.crops.catalogue import Catalogue
from almanaque.core.crops.crop import Crop
from almanaque.core.findings import Finding
from almanaque.core.garden import layout
from almanaque.core.garden.bed import MOVABLE_POTS
from almanaque.core.garden.spacing import Layout
from almanaque.core.growth import covers, crop_runs, nearest_fit, observed_stages, school_fit
from almanaque.core.growth.covers import Covering, CoverKey
from almanaque.core.growth.growth_dates import GrowthDates
from almanaque.core.growth.school_fit import Fit
from almanaque.core.growth.season_to_date import SeasonToDate, season_to_date
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import weigh
from almanaque.core.units import Units
from almanaque.core.week import jobs
from almanaque.core.year import steps, tending
from almanaque.core.year.steps import Step
from almanaque.core.year.tending import Frost, Tended
from almanaque.data import tending as tending_table
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.harvest import pickings
from almanaque.store.week import tasks as task_store

RULES_VERSION = 15  # raise it when a rule changes what it answers, so that every forecast is made anew


LINGERS = timedelta(days=7)  # so long past its best what still stands draws pests: our own rule
COVER_LOOKED_FOR = timedelta(days=300)  # a cover that lies over the bed within so many days counts


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
                place
                for other in plantings
                if other.id != planting.id and other.cells & planting.cells and not other.with_others
                for place in found[other.id].positions_mm
            ]
            mine = found[planting.id]
            apart = layout.pitch(mine, grid, layout.figures(crops[planting.crop], planting.wish, grid.cell_mm))
            found[planting.id] = layout.beside(mine, theirs, apart, apart)
    return found


def setting_of(context: Context, planting: Planting, bed: Bed) -> Setting:
    """What the planting's verdict depends on: under its own cover, one over its bed at that time, in winter quarters, or on a sill."""
    if (
        planting.cover is None
        and (quarters := _winter_quarters(context, context.crops[planting.crop], bed)) is not None
    ):
        return context.setting_for(covering=quarters, pace=bed.pace)
    return setting_in(context, bed, planting.start_on, planting.cover)


def setting_in(context: Context, bed: Bed, start: date, cover: CoverKey | None) -> Setting:
    """The same for what is to be started in a bed on a day, under a cover of its own or what lies over the bed."""
    if bed.indoors:
        warmth = bed.warmth_c if bed.warmth_c is not None else crop_runs.INDOORS_C
        return context.setting_for(indoors_c=warmth, pace=bed.pace)
    covering = Covering(cover) if cover else _over_bed(context, bed, start)
    return context.setting_for(covering=covering, pace=bed.pace)


def corrected_by(context: Context, planting: Planting, setting: Setting) -> int:
    """Days by which the school's own pickings have moved a planting's dates: its crop's and its bed's together."""
    return context.corrected_by(planting.crop) + _of_its_bed(context.crops[planting.crop], planting, setting)


def _of_its_bed(crop: Crop, planting: Planting, setting: Setting) -> int:
    """Days between its first picking at its bed's pace and at the usual one; few for what has its warmth in a short while, as garlic."""
    if setting.pace_of(crop) == 1:
        return 0
    start = planting.events.get("started", planting.start_on)
    here, usual = (
        weigh(crop, planting.method, [start], each).first[0, 1] for each in (setting, replace(setting, pace=1.0))
    )
    return int(here - usual) if min(here, usual) > 0 else 0


def _winter_quarters(context: Context, crop: Crop, bed: Bed) -> Covering | None:
    """A room from the day on which its pot is carried in to that on which it is carried out; None for what stays outdoors."""
    if bed.kind not in MOVABLE_POTS:
        return None
    carried = {one.step: one for one in tending.of(crop, tending_table()) if one.potted}
    frost = _frost(context)
    if "bring in" not in carried or frost.begins is None or frost.ends is None:
        return None
    into, out = carried["bring in"].begins, carried["bring out"].begins
    if into is None or out is None:
        return None
    return Covering("frame", _moved(frost.begins, into.days), _moved(frost.ends, out.days), quarters=True)


def _moved(day: tuple[int, int], days: int) -> tuple[int, int]:
    return _month_day(date(2001, *day) + timedelta(days=days))


def _over_bed(context: Context, bed: Bed, start: date) -> Covering | None:
    begins, ends = start, start + COVER_LOOKED_FOR
    for row in context.over_beds:
        here = (
            row.site_id == bed.site_id
            and (row.to_day is None or row.to_day > begins)
            and (row.from_day is None or row.from_day <= ends)
        )
        if here and row.feature.shape.polygon.intersects(bed.shape.polygon):
            return covers.covering(row.feature.kind, row.from_day, row.to_day)
    return None


def judged(planting: Planting, crop: Crop, setting: Setting, *, today: date) -> Fit:
    """Verdict and dates of a planting: from what really happened where it has, and days set by hand where they were.

    What stands in the bed goes by how far it is in this season's weather, until somebody has picked from it.
    """
    start = planting.events.get("started", planting.start_on)
    out = planting.events.get("set out") or planting.steps.get("transplant")
    after = (out - start).days if out and planting.method == "indoors" and out > start else None
    weighed = weigh(crop, planting.method, [start], setting, set_out_after=after)
    found = school_fit.at(weighed, 0, crop, planting.method, setting)
    far = how_far(planting, crop, setting, found.dates.bed_from, today=today)
    if far is not None:
        found = school_fit.going_on(crop, planting.method, found.dates, far, setting)
    return replace(found, dates=_after_events(planting, found.dates, crop))


def how_far(planting: Planting, crop: Crop, setting: Setting, bed_from: date, *, today: date) -> SeasonToDate | None:
    """How far a planting in the bed is by this season's weather; None where packet days speak, or once it was picked from."""
    if (
        planting.status != "in the ground"
        or ("first picking" in planting.events and crop.season_warmth is None)
        or not setting.measured
        or setting.ready_by != "warmth"
    ):
        return None
    assert setting.record is not None
    return season_to_date(
        crop,
        planting.method,
        setting.record.conditions(setting.covering, setting.indoors_c),
        bed_from=bed_from,
        today=today,
        seen_up=planting.events.get("emerged"),
        pace=setting.pace_of(crop),
    )


def _after_events(planting: Planting, dates: GrowthDates, crop: Crop) -> GrowthDates:
    """Dates that follow what was seen: up, in flower, ready, picked, bolted, and a day set for clearing."""
    up = planting.events.get("emerged")
    if up is not None and dates.emerge_to is not None:
        dates = replace(dates, emerge_from=up, emerge_to=up)
    dates = observed_stages.by_stages(crop, dates, planting.events)
    clear = planting.steps.get("clear")
    if clear is not None and crop.life == "perennial":
        return replace(dates, clear_by=max(clear, dates.bed_from))
    if clear is not None and clear >= dates.bed_from:
        dates = replace(dates, clear_by=clear, last_pick=min(dates.last_pick, max(clear, dates.first_pick)))
        dates = replace(dates, clear_by=max(clear, dates.last_pick))
        stands = min(dates.stands_until or dates.last_pick, dates.clear_by)
        dates = replace(dates, stands_until=max(dates.last_pick, stands))
    return dates


def refresh(
    connection: Connection[Any], context: Context, planting: Planting, bed: Bed, *, today: date, force: bool = False
) -> None:
    """Bring a planting's forecast and jobs up to date, if what they depend on has changed.

    What would mend a plan that does not fit is looked for from `today` on and kept with its first finding.
    """
    crop = context.crops[planting.crop]
    setting = setting_of(context, planting, bed)
    season = today.year if crop.life == "perennial" else 0  # its jobs of the next year are due for making
    recorded = _recorded_to(planting, setting, today)
    depends_on = _digest(context, planting, bed, crop, setting, season, recorded)
    if planting.depends_on == depends_on and not force:
        return
    found = judged(planting, crop, setting, today=today)
    found = replace(found, findings=_with_mends(setting, planting, found, today))
    garden.save_forecast(connection, context.school.id, planting.id, found, depends_on)
    plants = layout_of(planting, bed, crop, context.school.units).plants
    pickings.save_size(connection, planting.id, plants=plants, area_m2=planting.area_m2(bed))
    wanted = list(steps.from_today(_steps_to_come(context, planting, bed, found.dates, today), today))
    adopted = planting.class_group_id or bed.class_group_id
    can = class_skills.asker(context)
    given = jobs.assign(
        wanted,
        context.calendar,
        adopted_by=str(adopted) if adopted else None,
        names=context.group_names(found.dates.bed_from),
        able=lambda step: can(step.step, crop, step.from_day),
        load=task_store.work_load(
            connection, start=min((s.from_day for s in wanted), default=today), without=planting.id
        ),
    )
    task_store.save_assignments(connection, context.school.id, given, planting_id=planting.id, bed_id=bed.id)


def _with_mends(setting: Setting, planting: Planting, judged: Fit, today: date) -> tuple[Finding, ...]:
    """The findings, the first of them with the nearest changes that would make an open plan fit."""
    if judged.verdict == "fits" or planting.status not in ("pencilled", "planned") or planting.events:
        return judged.findings
    first, *others = judged.findings
    mends = tuple(nearest_fit.mends(judged, setting, not_before=today))
    other_fixes = tuple(f for f in first.fixes if not f.action.startswith("start:"))
    return (replace(first, fixes=(*mends, *other_fixes)), *others)


def steps_of(context: Context, planting: Planting, bed: Bed, dates: GrowthDates, today: date) -> list[Step]:
    """All steps of a planting, whatever stage it is in; of one that comes again, those of the season at hand."""
    crop = context.crops[planting.crop]
    laid = layout_of(planting, bed, crop)
    found = list(
        steps.steps(
            crop,
            planting.method,
            dates,
            plants=laid.plants,
            squares=laid.squares,
            units=context.school.units,
            by_hand=planting.steps,
            southern=context.school.southern,
            since=today,
        )
    )
    found += tending.steps(
        crop,
        dates,
        tending_table(),
        tended=_tended(planting, crop, dates, today),
        since=today,
        cover=planting.cover,
        southern=context.school.southern,
        frost=_frost(context),
        potted=bed.kind in MOVABLE_POTS,
        picked=planting.events.get("first picking") if crop.life != "perennial" else None,
    )
    return sorted(found, key=lambda step: (step.from_day, step.to_day))


def _tended(planting: Planting, crop: Crop, dates: GrowthDates, today: date) -> Tended:
    """What was said of a planting's tending, with what its own course calls for: it bolted, or lingers past its best."""
    lingers = dates.last_pick + LINGERS
    past = planting.events.get("bolted") or (
        lingers if planting.status == "in the ground" and lingers <= today else None
    )
    if past is None or crop.life == "perennial":
        return planting.tended
    return replace(planting.tended, called={**planting.tended.called, "bait": past})


def _frost(context: Context) -> Frost:
    """When hard frost usually begins and the last freeze is past; neither where no hard frost comes.

    Without weather on file the freeze dates that somebody typed, which may be of lighter freezes.
    """
    record, typed = context.setting.record, context.setting.typed
    if record is None:
        usual = (typed.first_usual, typed.last_usual) if typed is not None else (None, None)
        begins, ends = (_month_day(date.fromisoformat(f"2000-{day}")) if day else None for day in usual)
        return Frost(begins, ends)
    climate = record.climate
    found = climate.date_of(climate.freezes(tending.HARD_FREEZE_C).first(0.5), climate.season_start(climate.first_day))
    last = climate.date_of(climate.last_freeze(0.5), climate.season_start(climate.first_day))
    if found is None:
        return tending.NO_FROST
    return Frost(_month_day(found), _month_day(last) if last else None)


def _month_day(day: date) -> tuple[int, int]:
    return day.month, min(day.day, 28)


def _steps_to_come(context: Context, planting: Planting, bed: Bed, dates: GrowthDates, today: date) -> Iterator[Step]:
    """The steps that still ask for a job. Pencil makes none; what has happened needs none."""
    if planting.status not in ("planned", "in the ground"):
        return
    happened = ("started", "set out", *steps.UP)
    done = steps.done_steps({k: d for k, d in planting.events.items() if k in happened}, planting.method)
    done.pop("first picking", None)  # what has begun to be picked is picked on
    for step in steps_of(context, planting, bed, dates, today):
        if step.job and step.step not in done:
            yield step


def _recorded_to(planting: Planting, setting: Setting, today: date) -> date | None:
    """The last day whose weather a planting in the bed has felt, as far as it is on file."""
    if planting.status != "in the ground" or setting.record is None:
        return None
    climate = setting.record.climate
    return min(today, climate.first_day + timedelta(days=len(climate.tmin_c)))


def _digest(
    context: Context, planting: Planting, bed: Bed, crop: Crop, setting: Setting, season: int, recorded: date | None
) -> str:
    """A hash of everything the dates, verdict and jobs depend on."""
    parts = [
        RULES_VERSION,
        season,
        recorded,
        crop.digest,
        setting.covering,
        setting.indoors_c,
        setting.pace,
        planting.steps,
        planting.tended,
        context.weather_digest,
        context.calendar_digest,
        context.school.units,
        planting.status,
        planting.method,
        planting.start_on,
        planting.wish,
        planting.events,
        planting.class_group_id,
        bed.class_group_id,
        sorted(planting.cells),
        bed.cell_mm,
        bed.length_mm,
        bed.width_mm,
        bed.outline_mm,
        bed.kept,
        context.school.first_grade,
        context.school.last_grade,
        sorted(
            (str(g.id), g.entry_year, g.head_count, g.closed_on, [(f.kind, f.what) for f in g.flags])
            for g in context.groups
        ),
    ]
    text = json.dumps(parts, default=vars_or_text, sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()[:24]
