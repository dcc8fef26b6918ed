"""Harvest: a class's plantings through all its years on one page, with the grade it was in then and what each gave."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Response

from almanaque.commands.harvest import harvest_book
from almanaque.commands.harvest.harvest_book import Book
from almanaque.core.school import classes
from almanaque.store import errors
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.web import frame, words
from almanaque.web.harvest.harvest_book import cohorts, heavy
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
SINCE = date(1990, 1, 1)  # earlier than any planting on file


@dataclass(frozen=True)
class ClassPlantingView(View):
    """A planting of the class: where, when, and what it gave; `theirs` is False for one that they only picked from."""

    id: str
    crop: str
    bed: str
    started: str
    picked: str
    gave: str
    theirs: bool


@dataclass(frozen=True)
class ClassYearView(View):
    """A school year of the class with the grade it was in."""

    year: str
    grade: str
    rows: list[ClassPlantingView]


@router.get("/harvest/classes/{group_id}")
def page(scope: Look, group_id: UUID) -> Response:
    with scope.open() as work:
        group = next((g for g in work.context.groups if g.id == group_id), None)
        if group is None:
            raise errors.NotFound("There is no such class in this school.")
        found = harvest_book.read(work.connection, work.context, today=work.today, until=work.day)
        years = _years(work, found, group_id)
        name = cohorts(work)[str(group_id)]
        rows = sum(len(year.rows) for year in years)
        values = {
            "name": name,
            "years": years,
            "facts": words.joined([words.count(rows, "planting"), words.count(len(years), "school year")]),
        }
        title = f"The garden of a class: {name}"
        return frame.page(work, "harvest", title, values, template="harvest/class_garden.html")


def _years(work: UnitOfWork, found: Book, group_id: UUID) -> list[ClassYearView]:
    """The school years in which something of theirs was started, the newest first."""
    beds = {bed.id: bed for bed in garden.beds(work.connection)}
    picked = {s.planting for s in found.sums if s.group == str(group_id)}
    group = next(g for g in work.context.groups if g.id == group_id)
    grades, calendar = work.context.school.grades, work.context.calendar
    years: dict[str, tuple[date, list[Planting]]] = {}
    for planting in garden.plantings(work.connection, since=SINCE, until=work.day):
        if planting.status in ("pencilled", "planned"):
            continue
        if planting.class_group_id == group_id or str(planting.id) in picked or _in_their_bed(planting, beds, group_id):
            day = planting.events.get("started", planting.start_on)
            year = calendar.year_of(day)
            _, there = years.setdefault(year.name if year else str(day.year), (day, []))
            there.append(planting)
    ordered = sorted(years.items(), key=lambda item: item[1][0], reverse=True)
    return [
        ClassYearView(
            year=name,
            grade=""
            if (grade := classes.grade_on(group.cohort, day, calendar, grades)) is None
            else grades.name(grade),
            rows=[_row(work, found, p, beds[p.bed_id], group_id) for p in sorted(there, key=lambda p: p.start_on)],
        )
        for name, (day, there) in ordered
    ]


def _in_their_bed(planting: Planting, beds: dict[UUID, Bed], group_id: UUID) -> bool:
    """True for what stands now in the bed that they have now, and belongs to nobody else; beds of earlier years are not on record."""
    bed = beds[planting.bed_id]
    return planting.class_group_id is None and planting.status == "in the ground" and bed.class_group_id == group_id


def _row(work: UnitOfWork, found: Book, planting: Planting, bed: Bed, group_id: UUID) -> ClassPlantingView:
    mine = [s for s in found.sums if s.planting == str(planting.id) and s.group in ("", str(group_id))]
    grams = sum(s.weighed_g + s.estimated_g for s in mine)
    started = planting.events.get("started", planting.start_on)
    first = min((s.first for s in mine), default=None)
    return ClassPlantingView(
        id=str(planting.id),
        crop=work.context.crop_name(planting.crop),
        bed=bed.name,
        started=words.short_day(started),
        picked=words.short_day(first) if first else "lost" if planting.status == "lost" else "",
        gave=heavy(grams, work.context.school.units) if grams else "",
        theirs=planting.class_group_id == group_id or _in_their_bed(planting, {bed.id: bed}, group_id),
    )
