"""`calc plan`: a season planned from a file, without server or database."""

import argparse
from dataclasses import replace
from pathlib import Path
from typing import Any

from almanaque.calc.arguments import body_of, climate_of
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import grid_of, parse_cells
from almanaque.core.garden.rotation import Stood
from almanaque.core.garden.site_suitability import Closed
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.weather_record import Record
from almanaque.core.planner import plan, wishes
from almanaque.core.planner.problem import PlanBed, PlanClass, PlanLimits, PlanProblem, PlanSpan, Taken, Wish
from almanaque.core.planner.why_not import why_not
from almanaque.core.school import calendar_import
from almanaque.core.school.classes import FlagKind
from almanaque.core.school.school_year import Calendar, Slot
from almanaque.core.year import themes
from almanaque.core.year.bed_promises import Promised
from almanaque.data import catalogue, neighbour_pairs
from almanaque.formats.planner import problem_json, proposal_json
from almanaque.formats.planner.problem_json import ClassPart, PlanBedPart, PlanFile, WishPart
from almanaque.formats.school import calendar_csv

WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


def season(given: argparse.Namespace) -> dict[str, Any]:
    """The proposal for the season in a file."""
    path = Path(given.file)
    asked = problem_json.read(body_of(given.file, field="file"), path.name)
    problem = problem_of(asked, path)
    if given.plan:
        problem = replace(problem, aims=plan.aims_of(given.plan, problem.aims))
    last = list(plan.progress(problem))[-1]
    found = plan.filled(problem, plan.proposal(last, neighbour_pairs()), neighbour_pairs())
    told = proposal_json.answer(found)
    if given.why_not:
        chosen = last.step.chosen
        known = last.options.problem.wishes
        for line, left in zip(told["left"], found.left, strict=True):
            said = why_not(last.options, chosen, known.index(left.wish)) if left.wish in known else left.findings
            line["reasons"] = [f.message for f in said if f.code != "wish_enters"]
            line["enters"] = [f.message for f in said if f.code == "wish_enters"]
    return told


def problem_of(asked: PlanFile, path: Path) -> PlanProblem:
    """What the file asks, with the weather and the calendar that it names. Raises BadInput."""
    crops, here = catalogue(), path.parent
    years = calendar_import.assemble(
        calendar_csv.read(body_of(str(here / asked.calendar), field="calendar"), Path(asked.calendar).name)
    )
    slots = tuple(
        Slot(one.name, WEEKDAYS.index(lesson.weekday), lesson.at, lesson.minutes)
        for one in asked.classes
        for lesson in one.lessons
    )
    calendar = Calendar(years, slots).carried_on
    setting = Setting(calendar, Record(climate_of(str(here / asked.weather), asked.latitude)), "us")
    classes = {one.name for one in asked.classes}
    beds = tuple(_bed(bed, asked, setting) for bed in asked.beds)
    for name in [*(bed.group for bed in asked.beds), *(wish.group for wish in asked.wishes)]:
        if name is not None and name not in classes:
            raise BadInput("planner.class_unknown", field="class", name=path.name, group=name)
    for name in [bed for wish in asked.wishes for bed in wish.beds]:
        if name not in {bed.key for bed in beds}:
            raise BadInput("planner.bed_unknown", field="beds", name=path.name, bed=name)
    return PlanProblem(
        crops=crops,
        calendar=calendar,
        today=asked.today,
        span=PlanSpan(asked.span.starts, asked.span.ends, asked.span.free_from),
        beds=beds,
        classes=tuple(_class(one) for one in asked.classes),
        wishes=tuple(wish for n, part in enumerate(asked.wishes, 1) for wish in _wishes(part, f"{n}", beds)),
        limits=PlanLimits(**asked.limits.model_dump()),
        aims=asked.aims,
        rest_years=asked.rest_years,
        at_hand=frozenset(asked.seed_at_hand),
        old_seed=frozenset(asked.old_seed),
        prices=asked.prices,
        barred=frozenset(asked.not_grown),
    )


def _class(part: ClassPart) -> PlanClass:
    flags: list[tuple[FlagKind, str]] = [("must not eat", what) for what in part.must_not_eat]
    flags += [("must not touch", what) for what in part.must_not_touch]
    return PlanClass(part.name, part.name, part.children, part.age, flags, part.minutes)


def _bed(part: PlanBedPart, asked: PlanFile, setting: Setting) -> PlanBed:
    grid = grid_of(*part.size, part.cell)
    crops = catalogue()
    sun = part.sun_h if isinstance(part.sun_h, tuple) else (part.sun_h,) * 12
    return PlanBed(
        key=part.name,
        name=part.name,
        grid=grid,
        cells=frozenset(grid.cells),
        setting=setting,
        depth_mm=part.depth,
        sun_h=sun,
        group=part.group,
        pot=part.pot,
        taken=[Taken(frozenset(parse_cells(t.squares, grid)), t.starts, t.ends, t.what) for t in part.taken],
        closed=[Closed(c.starts, c.ends, c.why) for c in part.closed],
        promised=[Promised(p.from_day, p.what_for) for p in part.promised],
        history=[
            Stood(
                crops[s.crop].family,
                crops[s.crop].name.en,
                frozenset(parse_cells(s.squares, grid) if s.squares else grid.cells),
                s.until,
            )
            for s in part.stood
        ],
        lead=part.lead,
        manured_on=part.raw_manure,
    )


def _wishes(part: WishPart, key: str, beds: tuple[PlanBed, ...]) -> list[Wish]:
    """The single wishes of one line of the file."""
    crops = (part.crop,) if isinstance(part.crop, str) else part.crop
    names = [catalogue()[crop].name.en.lower() for crop in crops]
    kind = part.kind
    if part.theme is not None:
        if part.theme not in themes.IDEAS:
            raise BadInput("planner.theme_unknown", field="theme", theme=part.theme)
        crops = crops or themes.IDEAS[part.theme]
    text = part.text or part.theme or " or ".join(names) or kind
    wish = Wish(
        key=key,
        text=text,
        crops=crops,
        kind=kind,
        squares=part.squares,
        plants=part.plants,
        grams=None if part.weight_of_it is None else max(1, round(part.weight_of_it)),
        group=part.group,
        ready_by=part.ready_by,
        ready_to=part.ready_to,
        weight=part.weight,
        votes=part.votes,
        beds=frozenset(part.beds),
    )
    if part.theme is not None:
        return wishes.of_theme(wish, crops)
    if part.kinds is not None:
        return wishes.of_kinds(wish, part.kinds)
    if part.fill:
        return wishes.filling(wish, [(bed.key, len(bed.cells) * bed.grid.cell_mm**2) for bed in beds])
    if part.amount_a_week is not None:
        if wish.ready_by is None or wish.ready_to is None or len(crops) != 1:
            raise BadInput("planner.weekly_without_days", field="amount_a_week")
        return wishes.of_weeks(wish, catalogue()[crops[0]], part.amount_a_week)
    return [wish]
