"""Garden: rival pencil plans side by side, copying a season in pencil, and the seasons of one bed."""

from dataclasses import dataclass, replace
from typing import Annotated, Literal
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.garden import drafts as commands
from almanaque.core.errors import BadInput
from almanaque.core.findings import worst_first
from almanaque.core.school.seasons import Season, map_day, seasons
from almanaque.store.garden import drafts, garden
from almanaque.store.garden.drafts import Draft
from almanaque.store.garden.garden import Bed, Planting
from almanaque.web import forms, frame, words
from almanaque.web.garden import bed_picture, sheet_parts
from almanaque.web.garden.bed_picture import BedPicture, PlantingPicture
from almanaque.web.garden.paint_form import judge_sheet, on_sheet
from almanaque.web.garden.sheet_parts import NoteView
from almanaque.web.garden.site_map import season_of
from almanaque.web.pictures.families import FAMILIES
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
SMALL_W, SMALL_H = 380.0, 230.0
SEASONS_SHOWN = 4


@router.get("/garden/drafts")
def page(scope: Look, said: str = "") -> Response:
    with scope.open() as work:
        names = work.context.group_names(work.day)
        every = seasons(work.context.calendar)
        now = season_of(work)
        values = {
            "drafts": [_row(work, draft) for draft in drafts.drafts(work.connection)],
            "new_id": str(uuid4()),
            "groups": [("", "nobody by name")]
            + [(str(g.id), names[str(g.id)]) for g in work.context.groups_on(work.day)],
            "from_seasons": [(s.starts.isoformat(), s.name) for s in every if s.starts <= work.today],
            "onto_seasons": [(s.starts.isoformat(), s.name) for s in every if s.ends >= work.today],
            "season_now": now.starts.isoformat() if now else "",
            "beds": [(str(bed.id), bed.name) for bed in garden.beds(work.connection)],
        }
        return frame.page(work, "garden", "Drafts", values, template="garden/drafts.html", message=said)


class DraftForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    name: str = ""
    made_by: str = ""
    group: str = ""
    action: Literal["save", "close", "open", "delete"] = "save"


@router.post("/garden/drafts")
def save(scope: Plan, form: Annotated[DraftForm, Form()]) -> Response:
    """Begin, rename, close, open again or delete a draft."""
    with scope.open() as work:
        draft_id = forms.row_id(form.id)
        if form.action == "delete":
            drafts.delete(work.connection, draft_id)
        elif form.action in ("close", "open"):
            commands.close(
                work.connection, work.context, draft_id, open_again=form.action == "open", actor=work.actor()
            )
        else:
            group_id = forms.group(form.group, {g.id for g in work.context.groups})
            known = next((d for d in drafts.drafts(work.connection) if d.id == draft_id), None)
            wish = Draft(
                draft_id,
                forms.name(form.name, what="name_of_draft"),
                forms.optional_name(form.made_by, field="made_by"),
                group_id,
                None,
            )
            drafts.save(
                work.connection, work.context.school.id, replace(wish, closed_on=known.closed_on) if known else wish
            )
        return frame.go(work, "/garden/drafts")


@router.post("/garden/drafts/copy")
def copy(
    scope: Plan,
    source: Annotated[str, Form()] = "",
    onto: Annotated[str, Form()] = "",
    draft: Annotated[str, Form()] = "",
) -> Response:
    """Copy a season as pencil for a later one."""
    with scope.open() as work:
        every = {s.starts.isoformat(): s for s in seasons(work.context.calendar)}
        if source not in every or onto not in every:
            raise BadInput("garden.two_seasons_missing", field="source")
        season = every[source]
        done = commands.copy_season(
            work.connection,
            work.context,
            starts=season.starts,
            ends=season.ends,
            onto=every[onto].starts,
            draft_id=forms.row_id(draft),
            actor=work.actor(),
        )
        left = f" Left out: {'; '.join(done.left)}." if done.left else ""
        said = f"{words.count(done.plantings, 'planting')} pencilled in {words.count(done.beds, 'bed')} for {every[onto].name}.{left}"
        return frame.go(work, "/garden/drafts", said=said[:900])


@router.get("/garden/drafts/compare")
def compare(scope: Look, bed: str = "") -> Response:
    """The open drafts of a bed side by side: drawing, count, findings and picking dates."""
    with scope.open() as work:
        beds = garden.beds(work.connection)
        chosen = next((b for b in beds if str(b.id) == bed), beds[0] if beds else None)
        open_ones = [d for d in drafts.drafts(work.connection) if d.closed_on is None]
        columns = [_column(work, chosen, draft) for draft in open_ones] if chosen else []
        values = {
            "columns": columns,
            "bed": chosen,
            "beds": [(str(b.id), b.name) for b in beds],
            "hatches": list(FAMILIES.values()),
            "season": (season_of(work) or Season(words.month_name(work.day), work.day, work.day)).name,
        }
        return frame.page(work, "garden", "Drafts side by side", values, template="garden/compare_drafts.html")


@router.post("/garden/drafts/choose")
def choose(
    scope: Plan, bed: Annotated[str, Form()] = "", planting: Annotated[list[str] | None, Form()] = None
) -> Response:
    """Turn one draft, or parts of several, to ink."""
    with scope.open() as work:
        bed_id = forms.row_id(bed)
        commands.choose(work.connection, work.context, [forms.row_id(text) for text in planting or []], work.actor())
        return frame.go(work, f"/garden/beds/{bed_id}")


@router.get("/garden/beds/{bed_id}/seasons")
def bed_seasons(scope: Look, bed_id: UUID) -> Response:
    """One bed through its seasons: what stood, stands and will stand there."""
    with scope.open() as work:
        bed = garden.bed(work.connection, bed_id)
        every = seasons(work.context.calendar)
        at = next((n for n, season in enumerate(every) if work.day in season), max(0, len(every) - 1))
        first = max(0, min(at - 1, len(every) - SEASONS_SHOWN))
        present = garden.plantings(work.connection, bed_id=bed.id)
        values = {
            "bed": bed,
            "hatches": list(FAMILIES.values()),
            "columns": [_season(work, bed, season, present) for season in every[first : first + SEASONS_SHOWN]],
            "earlier": every[first - 1].starts.isoformat() if first else "",
            "later": every[first + SEASONS_SHOWN].starts.isoformat() if first + SEASONS_SHOWN < len(every) else "",
        }
        return frame.page(work, "garden", f"{bed.name} through the seasons", values, template="garden/bed_seasons.html")


@dataclass(frozen=True)
class DraftSeasonView(View):
    """Filled by `_season`, read by its template."""

    name: str
    day: str
    on: str
    now: bool
    picture: BedPicture
    lines: list[str]


def _season(work: UnitOfWork, bed: Bed, season: Season, present: list[Planting]) -> DraftSeasonView:
    """A season of a bed: everything whose time there overlaps it, drawn as on the day in its middle with what is else listed."""
    day = map_day(season, work.today)
    overlapping = [p for p in present if p.status != "lost" and p.overlaps(season.starts, season.ends, work.today)]
    ink = [p for p in overlapping if p.status != "pencilled"]
    shown = bed_picture.shown_on(
        [p for p in ink if p.bed_to(work.today) >= day],
        bed,
        work.context.crops,
        day=day,
        today=work.today,
        units=work.context.school.units,
    )
    return DraftSeasonView(
        name=season.name,
        day=day.isoformat(),
        on=words.short_day(day),
        now=work.today in season,
        picture=bed_picture.draw(bed, shown, units=work.context.school.units, day=day, widest=SMALL_W, highest=SMALL_H),
        lines=[
            (
                f"{work.context.crops[p.crop].name.en}: "
                f"{words.stay(p.bed_from, p.bed_to(work.today))}{' (pencil)' if p.status == 'pencilled' else ''}"
            )
            for p in overlapping
        ],
    )


@dataclass(frozen=True)
class DraftColumnView(View):
    """Filled by `_column`, read by its template."""

    id: str
    name: str
    made_by: str
    picture: BedPicture
    count: str
    faults: int
    cares: int
    lines: list[dict[str, str]]
    notes: list[NoteView]


def _column(work: UnitOfWork, bed: Bed, draft: Draft) -> DraftColumnView:
    """A draft of a bed, from the ribbon's day on."""
    shown = on_sheet(work, bed, draft)
    mine = [item for item in shown if item.planting.status == "pencilled"]
    _, said = judge_sheet(work, bed, shown)
    pairs = [
        (finding, item)
        for item in mine
        for finding in (*item.planting.findings, *said.get(item.planting.id, ()))
        if finding.severity != "note"
    ]
    found = worst_first([finding for finding, _ in pairs])
    pairs.sort(key=lambda pair: found.index(pair[0]))
    plants = sum(item.layout.plants for item in mine)
    return DraftColumnView(
        id=str(draft.id),
        name=draft.name,
        made_by=_by(work, draft),
        picture=bed_picture.draw(
            bed, shown, units=work.context.school.units, day=work.day, widest=SMALL_W, highest=SMALL_H
        ),
        count=words.joined(
            [words.count(plants, "plant"), words.count(len({c for i in mine for c in i.cells}), "square")]
        ),
        faults=sum(finding.severity == "fault" for finding in found),
        cares=sum(finding.severity == "care" for finding in found),
        lines=[_line(item) for item in mine],
        notes=[
            sheet_parts.note(finding, number, work.today, planting=item.planting)
            for number, (finding, item) in enumerate(pairs, start=1)
        ],
    )


def _line(item: PlantingPicture) -> dict[str, str]:
    dates = item.planting.dates
    return {
        "id": str(item.planting.id),
        "crop": item.crop.name.en,
        "count": words.count(item.layout.plants, "plant"),
        "picked": f"picked {words.span(dates.first_pick_early, dates.last_pick)}" if dates else "",
        "starts": words.short_day(item.planting.start_on),
        "verdict": sheet_parts.VERDICT_CLASS.get(item.planting.verdict or "", ""),
        "says": {"fits": "fits", "with care": "with care", "misses": "misses"}.get(item.planting.verdict or "", ""),
    }


def _row(work: UnitOfWork, draft: Draft) -> dict[str, str]:
    return {
        "id": str(draft.id),
        "name": draft.name,
        "made_by": draft.made_by,
        "group": str(draft.class_group_id or ""),
        "by": _by(work, draft),
        "plantings": words.count(draft.plantings, "planting") + " in pencil",
        "closed": f"closed {words.short_day(draft.closed_on)}" if draft.closed_on else "",
    }


def _by(work: UnitOfWork, draft: Draft) -> str:
    names = work.context.group_names(work.day)
    return words.joined([draft.made_by, names.get(str(draft.class_group_id), "")])
