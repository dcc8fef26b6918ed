"""Year: what beds do together. Summer first, themes over several beds and groups, and the bloom calendar."""

from datetime import date, timedelta
from typing import Annotated, Any
from uuid import UUID, uuid4

import numpy as np
from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel, Field

from almanaque.commands.garden import drafts, free_squares, plantings
from almanaque.commands.garden.free_squares import free_cells
from almanaque.commands.garden.plantings import Paint
from almanaque.commands.growth import forecasts
from almanaque.commands.year import shortlist
from almanaque.core.crops.crop import METHOD_WORDS, Crop, Method
from almanaque.core.errors import BadInput
from almanaque.core.findings import Finding
from almanaque.core.growth import nearest_fit
from almanaque.core.growth.sowing_days import ripe_on
from almanaque.core.year import bloom, themes
from almanaque.core.year.bed_promises import Promised, last_day_to_clear
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.year import promises_and_themes
from almanaque.store.year.promises_and_themes import Promise, Theme
from almanaque.web import forms, frame, words
from almanaque.web.garden.sheet_parts import VERDICT_CLASS
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.year import bloom_picture

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
OPEN = ("pencilled", "planned", "in the ground")
BEFORE = 8  # crops to show that may stand in a promised bed before
POLLINATORS = ("pollinator", "butterfl", "bees", "flower", "herb")


@router.get("/year/summer")
def summer(scope: Look) -> Response:
    """Beds promised from a day on: what stands in the way, by when it must go, and what may stand there before."""
    with scope.open() as work:
        beds = {bed.id: bed for bed in garden.beds(work.connection)}
        rows = [
            _promise(work, promise, beds[promise.bed_id])
            for promise in promises_and_themes.promises(work.connection)
            if promise.from_day >= work.day
        ]
        year = work.context.calendar.year_of(work.day)
        values = {
            "promises": rows,
            "beds": [(str(b.id), b.name) for b in beds.values()],
            "new_id": str(uuid4()),
            "usual": _usual_start(work),
            "ends": words.short_day(year.ends) if year else "",
            "facts": words.joined(
                [
                    words.count(len(rows), "promise"),
                    f"{words.count(sum(bool(r['standing']) for r in rows), 'bed')} still to be cleared in time",
                ]
            ),
        }
        return frame.page(work, "year", "Summer first", values, template="year/bed_promises.html")


class BedPromiseForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    bed: str = ""
    from_day: str = ""
    what_for: str = ""
    action: str = "save"


@router.post("/year/summer")
def promise_bed(scope: Plan, form: Annotated[BedPromiseForm, Form()]) -> Response:
    """Promise a bed from a day on, or take a promise back."""
    with scope.open() as work:
        row_id = forms.row_id(form.id)
        if forms.one_of(form.action, ("save", "delete"), field="action") == "delete":
            promises_and_themes.delete_promise(work.connection, row_id)
            return frame.go(work, "/year/summer")
        day = parse_day(form.from_day, field="from_day")
        if day < work.today:
            raise BadInput("That day has passed. Promise the bed from today or a later day on.", field="from_day")
        chosen = garden.bed(work.connection, forms.row_id(form.bed))
        found = Promise(
            row_id,
            chosen.id,
            day,
            forms.name(form.what_for, field="what_for", what="words for what it is promised for", most=120),
        )
        promises_and_themes.save_promise(work.connection, work.context.school.id, found)
        return frame.go(work, "/year/summer")


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
            "notes": [_note(f, n) for n, f in enumerate(themes.findings(parts, theme.ready_on), start=1)],
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
        method, day = _best_way(work, found, chosen, theme)
        where = form.squares_.strip() or free_squares.picked(
            work.connection, work.context, chosen, found, method, day, today=work.today
        )
        wish = Paint(
            where, found.key, method, day, False, class_group_id=forms.optional_id(form.group), theme_id=theme.id
        )
        plantings.paint(work.connection, work.context, chosen.id, wish, work.actor())
        return frame.go(work, f"/year/themes/{theme_id}")


@router.get("/year/bloom")
def bloom_page(scope: Look, beds: str = "") -> Response:
    """What flowers when: in the beds for pollinators, or in all of them."""
    with scope.open() as work:
        year = work.context.calendar.year_of(work.day)
        starts = (
            date(work.day.year, 1, 1)
            if work.context.school.latitude >= 0
            else date(work.day.year - (work.day.month < 7), 7, 1)
        )
        ends = starts.replace(year=starts.year + 1) - timedelta(days=1)
        all_beds = garden.beds(work.connection)
        chosen = [b for b in all_beds if any(word in f"{b.name} {b.purpose}".lower() for word in POLLINATORS)]
        shown = all_beds if beds == "all" or not chosen else chosen
        season = _growing_season(work, starts)
        present = [
            p
            for p in drafts.on_table(work.connection, garden.plantings(work.connection, since=starts, until=ends))
            if p.dates and p.status != "lost" and any(p.bed_id == b.id for b in shown)
        ]
        rows, found = [], []
        names = {b.id: b.name for b in shown}
        for planting in present:
            crop = work.context.crops[planting.crop]
            assert planting.dates is not None
            to = ends if crop.life == "perennial" and planting.status != "finished" else planting.bed_to(work.today)
            mine = bloom.blooms(
                crop, planting.dates, starts, ends, bed_to=to, southern=work.context.school.latitude < 0
            )
            found += mine
            if mine or crop.host_for:
                rows.append((crop, names[planting.bed_id], mine))
        hosts = [(crop.name.en, crop.host_for) for crop, _, _ in rows if crop.host_for]
        said = bloom.findings(found, hosts, *season)
        values = {
            "chart": bloom_picture.draw(rows, starts, ends, season, bloom.gaps(found, *season), day=work.day),
            "notes": [_note(f, n) for n, f in enumerate(said, start=1)],
            "hosts": hosts,
            "all": shown is all_beds,
            "some": bool(chosen),
            "facts": words.joined(
                [
                    ", ".join(b.name for b in shown) if shown is not all_beds else "all beds",
                    words.count(len(rows), "planting"),
                    f"growing season {words.span(*season)}",
                ]
            ),
            "would": _would_fill(work, bloom.gaps(found, *season)),
            "year": year.name if year else "",
        }
        return frame.page(work, "year", f"In bloom {starts.year}", values, template="year/bloom.html")


def _usual_start(work: UnitOfWork) -> str:
    """The first Monday of the last full school month, when beds are usually cleared for summer."""
    year = work.context.calendar.year_of(work.day)
    last = work.context.calendar.last_school_day(year) if year else None
    day = (last or work.day) - timedelta(days=28)
    return max(day, work.today).isoformat()


def _promise(work: UnitOfWork, promise: Promise, bed: Bed) -> dict[str, Any]:
    promised = Promised(promise.from_day, promise.what_for)
    clear = last_day_to_clear(promised)
    standing = [
        p
        for p in garden.plantings(work.connection, bed_id=bed.id, since=promise.from_day)
        if p.status in OPEN and p.bed_from < promise.from_day and work.context.crops[p.crop].life != "perennial"
    ]
    start = max(work.today, work.day)
    before: list[dict[str, Any]] = []
    if start < clear:
        cells = free_cells(work.connection, bed, start, promise.from_day, work.today)
        space = shortlist.space_of(work.connection, work.context, bed, cells, start, until=clear, today=work.today)
        good = [item for item in shortlist.for_space(work.context, bed, space, start) if item.verdict != "misses"]
        before = [
            {
                "name": i.crop.name.en,
                "method": METHOD_WORDS[i.fit.method],
                "picking": words.span(i.fit.dates.first_pick, min(i.fit.dates.last_pick, clear)),
                "verdict": i.verdict,
                "verdict_class": VERDICT_CLASS[i.verdict],
                "href": frame.address(work, f"/garden/beds/{bed.id}", crop=i.crop.key),
            }
            for i in good[:BEFORE]
        ]
    return {
        "id": str(promise.id),
        "bed": bed.name,
        "bed_id": str(bed.id),
        "what": promise.what_for,
        "from": words.long_day(promise.from_day),
        "clear_on": words.weekday_day(clear),
        "school": work.context.calendar.children_here(clear),
        "standing": [_in_the_way(work, p, clear) for p in standing],
        "before": before,
        "later": start >= clear,
        "all": frame.address(
            work, f"/garden/beds/{bed.id}/fits", **{"from": start.isoformat(), "until": clear.isoformat()}
        ),
    }


def _in_the_way(work: UnitOfWork, planting: Planting, clear: date) -> dict[str, str]:
    crop, dates = work.context.crops[planting.crop], planting.dates
    assert dates is not None
    if dates.first_pick_late <= clear:
        said = f"ready {words.span(dates.first_pick_early, dates.first_pick_late)}: pick it and clear it by then"
    elif dates.first_pick_early <= clear:
        said = f"ready {words.span(dates.first_pick_early, dates.first_pick_late)}: not in every year in time"
    else:
        said = f"not ready before {words.short_day(dates.first_pick_early)}: it must go unripe, or the promise waits"
    return {
        "id": str(planting.id),
        "name": crop.name.en,
        "until": words.short_day(planting.bed_to(work.today)),
        "said": said,
    }


def _feasts(work: UnitOfWork) -> list[tuple[str, str]]:
    return [
        (f.starts.isoformat(), f"{f.name}, {words.short_day(f.starts)} {f.starts.year}")
        for year in work.context.calendar.years
        for f in year.feasts
        if f.starts > work.today
    ]


def _theme_line(work: UnitOfWork, theme: Theme, mine: list[Planting]) -> dict[str, Any]:
    beds = {p.bed_id for p in mine}
    return {
        "id": str(theme.id),
        "name": theme.name,
        "when": words.long_day(theme.ready_on),
        "facts": words.joined(
            [
                words.count(len(mine), "part"),
                words.count(len(beds), "bed") if beds else "",
                ", ".join(sorted({work.context.crops[p.crop].name.en.lower() for p in mine})),
            ]
        ),
    }


def _part(work: UnitOfWork, planting: Planting, bed: Bed, ready_on: date) -> themes.ThemePart:
    crop = work.context.crops[planting.crop]
    assert planting.dates is not None
    setting = forecasts.setting_of(work.context, planting, bed)
    start = planting.events.get("started", planting.start_on)
    years, of = ripe_on(
        crop, planting.method, np.array([start.toordinal()]), ready_on.toordinal(), setting, keeps=crop.cure_days > 0
    )
    return themes.ThemePart(
        f"{crop.name.en} in {bed.name}", crop, planting.dates, int(years[0]), int(of[0]) if setting.measured else 0
    )


def _part_row(work: UnitOfWork, part: themes.ThemePart, planting: Planting, bed: Bed, theme: Theme) -> dict[str, Any]:
    names = work.context.group_names(work.day)
    ready = part.ready_on(theme.ready_on)
    return {
        "id": str(planting.id),
        "crop": part.crop.name.en,
        "bed": bed.name,
        "bed_id": str(bed.id),
        "status": planting.status,
        "group": names.get(str(planting.class_group_id or bed.class_group_id), ""),
        "start": words.short_day(planting.start_on),
        "picking": words.span(part.dates.first_pick, part.dates.last_pick),
        "years": f"{part.years} of {part.of} years" if part.of else "",
        "ready": "ready" if ready else "not ready",
        "verdict_class": "fits" if ready else "misses",
    }


def _best_way(work: UnitOfWork, crop: Crop, bed: Bed, theme: Theme) -> tuple[Method, date]:
    """The way and day of starting that make the theme's day in most years. Raises BadInput when none does."""
    best: tuple[int, Method, date] | None = None
    for method in crop.methods:
        setting = forecasts.setting_in(work.context, bed, theme.ready_on - timedelta(days=crop.days[method][0]), None)
        found = nearest_fit.back_from(crop, method, theme.ready_on, setting, not_before=work.today)
        if found.best is not None and (best is None or found.best_years > best[0]):
            best = (found.best_years, method, found.best)
    if best is None:
        raise BadInput(
            f"{crop.name.en} cannot be ready by {words.short_day(theme.ready_on)} any more. Choose another crop, or a later day.",
            field="crop",
        )
    return best[1], best[2]


def _note(finding: Finding, number: int) -> dict[str, Any]:
    return {
        "number": number,
        "severity": finding.severity,
        "message": f"{finding.subject}: {finding.message[:1].lower()}{finding.message[1:]}",
        "reason": finding.reason,
        "source": finding.source,
        "fixes": [f.label for f in finding.fixes],
    }


def _growing_season(work: UnitOfWork, starts: date) -> tuple[date, date]:
    """From three weeks before the median last freeze to the median first; without freezes the warm half of the year."""
    climate = work.context.climate
    if climate is not None and climate.seasons:
        last = climate.date_of(climate.last_freeze(0.5), climate.season_start(starts))
        first = climate.date_of(climate.first_freeze(0.5), climate.season_start(starts + timedelta(days=200)))
        if last is not None and first is not None and last < first:
            return last - timedelta(days=21), first
    return starts + timedelta(days=60), starts + timedelta(days=305)


def _would_fill(work: UnitOfWork, holes: list[bloom.Gap]) -> list[tuple[str, list[tuple[str, str]]]]:
    """For each gap some plants of the catalogue that flower then, natives and hosts first."""
    southern = work.context.school.latitude < 0
    found = []
    for gap in holes:
        middle = (gap.starts + (gap.ends - gap.starts) / 2).month
        months = {(m + 5) % 12 + 1 for m in (middle,)} if southern else {middle}
        good = [c for c in work.context.crops if c.nectar and months & set(c.blooms)]
        good.sort(key=lambda c: (not c.origin.startswith("native"), not c.host_for, c.name.en))
        found.append((words.span(gap.starts, gap.ends), [(c.key, c.name.en) for c in good[:5]]))
    return found
