"""Year: themes, what several beds and groups grow for one day."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated
from uuid import UUID, uuid4

import numpy as np
from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel, Field

from almanaque.commands.garden import free_squares, painting
from almanaque.commands.garden.painting import Paint
from almanaque.commands.growth import forecasts
from almanaque.commands.year import themes as commands_themes
from almanaque.core.growth.sowing_days import ripe_on
from almanaque.core.year import themes
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.year import promises_and_themes
from almanaque.store.year.promises_and_themes import Theme
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View
from almanaque.web.year.numbered_notes import note

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]


@router.get("/year/themes")
def theme_list(scope: Look) -> Response:
    with scope.open() as work:
        all_plantings = garden.plantings(work.connection)
        values = {
            "themes": [
                _theme_line(work, theme, [p for p in all_plantings if p.theme_id == theme.id])
                for theme in promises_and_themes.themes(work.connection)
            ],
            "ideas": [
                (name, ", ".join(work.context.crops[key].name.en.lower() for key in keys))
                for name, keys in themes.IDEAS.items()
            ],
            "new_id": str(uuid4()),
            "feasts": _feasts(work),
        }
        return frame.page(work, "year", "Themes", values, template="year/themes.html")


class ThemeForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    name: str = ""
    ready_on: str = ""
    note: str = ""
    action: str = "save"


@router.post("/year/themes")
def save_theme(scope: Plan, form: Annotated[ThemeForm, Form()]) -> Response:
    """Begin a theme, change it, or take it out; its plantings stay."""
    with scope.open() as work:
        row_id = forms.row_id(form.id)
        if forms.one_of(form.action, ("save", "delete"), field="action") == "delete":
            promises_and_themes.delete_theme(work.connection, row_id)
            return frame.go(work, "/year/themes")
        theme = Theme(
            row_id,
            forms.name(form.name),
            parse_day(form.ready_on, field="ready_on"),
            forms.optional_name(form.note, field="note", most=400),
        )
        promises_and_themes.save_theme(work.connection, work.context.school.id, theme)
        return frame.go(work, f"/year/themes/{row_id}")


@router.get("/year/themes/{theme_id}")
def theme_page(scope: Look, theme_id: UUID) -> Response:
    with scope.open() as work:
        theme = promises_and_themes.theme(work.connection, theme_id)
        beds = {bed.id: bed for bed in garden.beds(work.connection)}
        mine = [p for p in garden.plantings(work.connection) if p.theme_id == theme.id and p.dates]
        parts = [_part(work, p, beds[p.bed_id], theme.ready_on) for p in mine]
        idea = themes.IDEAS.get(theme.name, ())
        names = work.context.group_names(work.day)
        values = {
            "theme": theme,
            "ready": words.long_day(theme.ready_on),
            "parts": [_part_row(work, part, p, beds[p.bed_id], theme) for part, p in zip(parts, mine, strict=True)],
            "notes": [note(f, n) for n, f in enumerate(themes.findings(parts, theme.ready_on), start=1)],
            "crops": [
                (c.key, c.name.en)
                for c in sorted(
                    work.context.crops,
                    key=lambda c: (c.key not in idea or any(p.crop == c.key for p in mine), c.name.en),
                )
            ],
            "beds": [(str(b.id), b.name) for b in beds.values()],
            "groups": [
                ("", "the bed's own class"),
                *((str(g.id), names[str(g.id)]) for g in work.context.groups_on(work.day)),
            ],
            "missing": [
                work.context.crops[key].name.en.lower() for key in idea if not any(p.crop == key for p in mine)
            ],
            "summary": words.joined(
                [
                    words.count(len(parts), "part"),
                    f"{sum(p.ready_on(theme.ready_on) for p in parts)} ready on the day in the middle year",
                ]
            ),
        }
        return frame.page(work, "year", theme.name, values, template="year/theme.html")


class ThemePartForm(BaseModel):
    """What the form sends, as it was typed."""

    crop: str = ""
    bed: str = ""
    squares_: str = Field("", alias="squares")
    group: str = ""


@router.post("/year/themes/{theme_id}/parts")
def add_part(scope: Plan, theme_id: UUID, form: Annotated[ThemePartForm, Form()]) -> Response:
    """Pencil a part in on the day that is best for the theme's day."""
    with scope.open() as work:
        theme = promises_and_themes.theme(work.connection, theme_id)
        chosen, found = garden.bed(work.connection, forms.row_id(form.bed)), work.context.crops[form.crop]
        method, day = commands_themes.best_way(work.context, found, chosen, theme, today=work.today)
        where = form.squares_.strip() or free_squares.picked(
            work.connection, work.context, chosen, found, method, day, today=work.today
        )
        wish = Paint(
            where, found.key, method, day, False, class_group_id=forms.optional_id(form.group), theme_id=theme.id
        )
        painting.paint(work.connection, work.context, chosen.id, wish, work.actor())
        return frame.go(work, f"/year/themes/{theme_id}")


def _feasts(work: UnitOfWork) -> list[tuple[str, str]]:
    return [
        (f.starts.isoformat(), f"{f.name}, {words.short_day(f.starts)} {f.starts.year}")
        for year in work.context.calendar.years
        for f in year.feasts
        if f.starts > work.today
    ]


@dataclass(frozen=True)
class ThemeLineView(View):
    """Filled by `_theme_line`, read by its template."""

    id: str
    name: str
    when: str
    facts: str


def _theme_line(work: UnitOfWork, theme: Theme, mine: list[Planting]) -> ThemeLineView:
    beds = {p.bed_id for p in mine}
    return ThemeLineView(
        id=str(theme.id),
        name=theme.name,
        when=words.long_day(theme.ready_on),
        facts=words.joined(
            [
                words.count(len(mine), "part"),
                words.count(len(beds), "bed") if beds else "",
                ", ".join(sorted({work.context.crops[p.crop].name.en.lower() for p in mine})),
            ]
        ),
    )


def _part(work: UnitOfWork, planting: Planting, bed: Bed, ready_on: date) -> themes.ThemePart:
    crop = work.context.crops[planting.crop]
    assert planting.dates is not None
    setting = forecasts.setting_of(work.context, planting, bed)
    start = planting.events.get("started", planting.start_on)
    years, of = ripe_on(
        crop, planting.method, np.array([start.toordinal()]), ready_on.toordinal(), setting, keeps=False
    )
    return themes.ThemePart(
        f"{crop.name.en} in {bed.name}", crop, planting.dates, int(years[0]), int(of[0]) if setting.measured else 0
    )


@dataclass(frozen=True)
class PartRowView(View):
    """Filled by `_part_row`, read by its template."""

    id: str
    crop: str
    bed: str
    bed_id: str
    status: str
    group: str
    start: str
    picking: str
    years: str
    ready: str
    verdict_class: str


def _part_row(work: UnitOfWork, part: themes.ThemePart, planting: Planting, bed: Bed, theme: Theme) -> PartRowView:
    names = work.context.group_names(work.day)
    ready = part.ready_on(theme.ready_on)
    return PartRowView(
        id=str(planting.id),
        crop=part.crop.name.en,
        bed=bed.name,
        bed_id=str(bed.id),
        status=planting.status,
        group=names.get(str(planting.class_group_id or bed.class_group_id), ""),
        start=words.short_day(planting.start_on),
        picking=words.span(part.dates.first_pick, part.dates.last_pick),
        years=f"{part.years} of {part.of} years" if part.of else "",
        ready="ready" if ready else "not ready",
        verdict_class="fits" if ready else "misses",
    )
