"""Journal: a class page at work: its code, what teams drew, voted, counted and sorted, and what an educator makes of it."""

from dataclasses import dataclass
from datetime import datetime
from typing import Annotated
from uuid import UUID, uuid4
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.journal import class_ballots as ballot_commands
from almanaque.commands.journal import class_counts as count_commands
from almanaque.commands.journal import class_drawings as draw_commands
from almanaque.commands.journal import class_pages as commands
from almanaque.commands.journal import team_pots
from almanaque.commands.journal.class_drawings import BuildWish
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import MOVABLE_POTS
from almanaque.core.journal import class_counts
from almanaque.store import errors
from almanaque.store.garden import drafts, garden
from almanaque.store.journal import class_ballots as ballot_store
from almanaque.store.journal import class_counts as count_store
from almanaque.store.journal import class_pages as store
from almanaque.store.journal.class_counts import CountedRow
from almanaque.store.journal.class_pages import ClassCode, ClassPage, ClassTeam
from almanaque.store.school import turn_of_year
from almanaque.web import forms, frame, links, words
from almanaque.web.journal import class_board, class_gallery
from almanaque.web.journal.class_board import BoardOf, SortLine
from almanaque.web.journal.class_gallery import GalleryPlan
from almanaque.web.journal.class_tablet_counts import said
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Note = Annotated[RequestScope, Depends(may("note"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
LONGER = (10, 30)  # minutes by which a lesson can be let last longer


@dataclass(frozen=True)
class ClassTeamLine:
    """A team with how many tablets it has, and the planting that it measures."""

    id: str
    name: str
    tablets: str
    planting: str
    plants: str


@dataclass(frozen=True)
class CountedLine:
    """A class count with what can be made of it."""

    id: str
    team: str
    said: str
    where: str
    taken_over: bool
    can_enter: bool


@dataclass(frozen=True)
class BoxLine:
    """What lies in the ballot's box for the class."""

    ballot_id: str
    name: str
    cast: str
    from_home: int
    missing: int
    dots: list[tuple[str, int]]
    wishes: list[tuple[str, str]]


@dataclass(frozen=True)
class ClassPageView(View):
    """What `journal/class_page.html` is given."""

    id: str
    who: str
    when: str
    does: list[str]
    code: list[str]
    address: str
    qr: tuple[str, int] | None
    state: str
    is_open: bool
    longer: tuple[int, ...]
    teams: list[ClassTeamLine]
    no_team: int
    plantings: list[tuple[str, str]]
    pot_crops: list[tuple[str, str]]
    drawn_on: str
    is_dream: bool
    plans: list[GalleryPlan]
    beds: list[tuple[str, str]]
    drafts: list[tuple[str, str]]
    new_draft: str
    box: BoxLine | None
    boards: list[BoardOf]
    counted: list[CountedLine]
    sorting: list[SortLine]
    answers_shown: bool
    said: str
    error: str
    error_field: str


@router.get("/journal/classes/{page_id}")
def one(scope: Look, page_id: UUID, said: str = "") -> Response:
    with scope.open() as work:
        return _page(work, page_id, said=said)


@router.post("/journal/classes/{page_id}")
def change(scope: Note, page_id: UUID, action: Annotated[str, Form()] = "") -> Response:
    """Let the lesson last longer, close the page, show the answers of the sorting or hide them, take the page out."""
    with scope.open() as work:
        store.class_page(work.connection, page_id)
        kind, _, minutes = action.partition("-")
        if kind == "longer" and minutes in map(str, LONGER):
            commands.extend(
                work.connection,
                work.context,
                page_id,
                int(minutes),
                key=scope.request.app.state.settings.secret,
                now=scope.clock.now(),
            )
        elif action == "end":
            store.end(work.connection, page_id)
        elif action in ("answers", "hide"):
            store.show_answers(work.connection, page_id, action == "answers")
        elif action == "delete":
            if not scope.may("plan"):
                raise BadInput("journal.class_delete_who")
            store.delete(work.connection, page_id)
            return frame.go(work, "/journal/classes")
        else:
            raise BadInput("forms.incomplete")
        return frame.go(work, f"/journal/classes/{page_id}")


class BuildForm(BaseModel):
    """What is built of a team's plan, as it was typed."""

    team: str = ""
    squares: str = ""
    bed: str = ""
    corner: str = ""
    draft: str = ""


@router.post("/journal/classes/{page_id}/build")
def build(scope: Plan, page_id: UUID, form: Annotated[BuildForm, Form()]) -> Response:
    """Pencil a part of a team's plan into a draft."""
    try:
        with scope.open() as work:
            found, team = _team(work, page_id, form.team)
            on = draw_commands.board(work.connection, work.context, found)
            plan = draw_commands.plans(work.connection, work.context, on, [team], today=work.today)[team.id]
            wish = BuildWish(forms.row_id(form.draft), form.squares, forms.optional_id(form.bed), form.corner)
            made = draw_commands.build(work.connection, work.context, on, team, plan, wish, work.actor())
            bed_id = garden.planting(work.connection, made[0]).bed_id
            return frame.leave(work, f"/garden/beds/{bed_id}", draft=str(wish.draft_id))
    except BadInput as error:
        with scope.open() as work:
            return _page(work, page_id, error=error)


def _team(work: UnitOfWork, page_id: UUID, team_id: str) -> tuple[ClassPage, ClassTeam]:
    found = store.class_page(work.connection, page_id)
    team = next((t for t in store.teams(work.connection, page_id) if str(t.id) == team_id), None)
    if team is None:
        raise errors.NotFound("There is no such team on this page.")
    return found, team


@router.post("/journal/classes/{page_id}/teams")
def teams(scope: Plan, page_id: UUID, crop: Annotated[str, Form()] = "") -> Response:
    """Say which planting each team measures, or set out a pot of its own for each that has none."""
    form = {key: str(value) for key, value in scope.request.state.form.items()}
    try:
        with scope.open() as work:
            found = store.class_page(work.connection, page_id)
            there = store.teams(work.connection, page_id)
            if crop:
                made = team_pots.set_out(work.connection, work.context, found, there, crop, work.actor())
                said = f"{words.count(made, 'pot')} set on the map; move them where they stand."
                return frame.go(work, f"/journal/classes/{page_id}", said=said)
            for team in there:
                planting = forms.optional_id(form.get(f"planting-{team.id}", ""))
                if planting is not None:
                    garden.planting(work.connection, planting)
                store.set_planting(work.connection, page_id, team.id, planting)
            return frame.go(work, f"/journal/classes/{page_id}")
    except BadInput as error:
        with scope.open() as work:
            return _page(work, page_id, error=error)


@router.post("/journal/classes/{page_id}/counts")
def counts(
    scope: Note, page_id: UUID, count: Annotated[str, Form()] = "", action: Annotated[str, Form()] = ""
) -> Response:
    """Take a class count back, or make an entry of the journal of it."""
    with scope.open() as work:
        row = next((r for r in count_store.of_page(work.connection, page_id) if str(r.id) == count), None)
        if row is None:
            raise errors.NotFound("That count was taken back already.")
        if action == "enter":
            count_commands.take_over(
                work.connection, work.context, row, by=scope.visitor.account_id, now=scope.clock.now()
            )
        else:
            count_store.take_back(work.connection, row.id)
        return frame.go(work, f"/journal/classes/{page_id}")


@router.post("/journal/classes/{page_id}/ballots")
def box(scope: Note, page_id: UUID, out: Annotated[str, Form()] = "", action: Annotated[str, Form()] = "") -> Response:
    """Take one ballot out of the box, or count what lies in it for the class."""
    try:
        with scope.open() as work:
            found = store.class_page(work.connection, page_id)
            if found.ballot_id is None or found.class_group_id is None:
                raise errors.NotFound("The ballot of this page was taken out.")
            if action == "count":
                ballot_commands.count(work.connection, work.context, found.ballot_id, found.class_group_id)
                return frame.go(work, f"/school/ballots/{found.ballot_id}")
            ballot_store.take_out(work.connection, found.ballot_id, forms.row_id(out))
            return frame.go(work, f"/journal/classes/{page_id}")
    except BadInput as error:
        with scope.open() as work:
            return _page(work, page_id, error=error)


@dataclass(frozen=True)
class ClassPrintView(View):
    """What `journal/class_print.html` is given."""

    who: str
    when: str
    plans: list[GalleryPlan]
    line: bool
    drawn_on: str


@router.get("/journal/classes/{page_id}/print")
def printed(scope: Look, page_id: UUID, how: str = "colour") -> Response:
    """Each team's plan on a sheet: in colour, or in line with the key beside it, to be coloured in."""
    with scope.open() as work:
        found = store.class_page(work.connection, page_id)
        line = how == "line"
        view = ClassPrintView(
            who=work.context.group_names(found.on_day).get(str(found.class_group_id), ""),
            when=f"{words.short_day(found.on_day)} {found.on_day.year}",
            plans=class_gallery.plans(
                work.connection,
                work.context,
                found,
                store.teams(work.connection, page_id),
                today=work.today,
                line=line,
            ),
            line=line,
            drawn_on=draw_commands.board(work.connection, work.context, found).bed.name,
        )
        return frame.page(work, "journal", "Plans of teams", view, template="journal/class_print.html")


def _page(work: UnitOfWork, page_id: UUID, *, said: str = "", error: BadInput | None = None) -> Response:
    found = store.class_page(work.connection, page_id)
    there, held = store.teams(work.connection, page_id), store.code(work.connection, page_id)
    now, scope = work.scope.clock.now(), work.scope
    is_open = held is not None and held.is_open(now)
    key = scope.request.app.state.settings.secret
    code = commands.code_of(key, page_id, held.turn) if held else ""
    address = links.address(scope.request, f"/class?code={code}")
    rows = count_store.of_page(work.connection, page_id)
    tablets = store.tablets(work.connection, page_id)
    draws = "draw" in found.does
    measures = any(class_counts.KINDS[kind].at == "planting" for kind in found.counts)
    standing = _standing(work)
    view = ClassPageView(
        id=str(page_id),
        who=work.context.group_names(found.on_day).get(str(found.class_group_id), "a class"),
        when=f"{words.weekday_day(found.on_day)}, until {words.clock(found.until)}",
        does=list(found.does),
        code=code.split("-"),
        address=address,
        qr=links.qr_path(address) if held and held.ended_at is None and now < held.ends_at else None,
        state=_state(held, now, work),
        is_open=is_open,
        longer=LONGER,
        teams=[
            ClassTeamLine(
                str(t.id),
                t.name,
                words.count(tablets.get(t.id, 0), "tablet"),
                str(t.planting_id or ""),
                dict(standing).get(str(t.planting_id), ""),
            )
            for t in there
        ],
        no_team=tablets.get(None, 0),
        plantings=standing if measures else [],
        pot_crops=_pot_crops(work) if measures else [],
        drawn_on=draw_commands.board(work.connection, work.context, found).bed.name if draws else "",
        is_dream=found.bed_id is None,
        plans=class_gallery.plans(work.connection, work.context, found, there, today=work.today) if draws else [],
        beds=[(str(b.id), b.name) for b in garden.beds(work.connection) if not b.indoors],
        drafts=[(str(d.id), d.name) for d in drafts.drafts(work.connection) if d.closed_on is None],
        new_draft=str(uuid4()),
        box=_box(work, found),
        boards=class_board.boards(work.context, found, there, rows),
        counted=[_counted(work, row) for row in reversed(rows)],
        sorting=class_board.sorting(work.connection, work.context, found, there) if "sort" in found.does else [],
        answers_shown=found.answers_shown,
        said=said[:300],
        error=error.message if error else "",
        error_field=error.field if error else "",
    )
    status = 422 if error else 200
    return frame.page(
        work, "journal", f"Class page, {view.who}", view, template="journal/class_page.html", status=status
    )


def _state(held: ClassCode | None, now: datetime, work: UnitOfWork) -> str:
    """What its code does now, in a sentence."""
    if held is None:
        return "It came with a restored school. Let it last some minutes to open it again."
    if held.ended_at is not None:
        return "Closed. What was drawn and counted is kept."
    if now < held.opens_at:
        return "Made ready. The words let in on the day of the lesson."
    if now >= held.ends_at:
        return "The lesson is over. What was drawn and counted is kept."
    ends = held.ends_at.astimezone(ZoneInfo(work.context.school.zone))
    return f"Open until {words.clock(ends.time())}."


def _standing(work: UnitOfWork) -> list[tuple[str, str]]:
    """Plantings that a team can measure, those in pots first."""
    beds = {bed.id: bed for bed in garden.beds(work.connection)}
    there = [
        p
        for p in garden.plantings(work.connection, since=work.today, until=work.today)
        if p.bed_id in beds and p.status in ("planned", "in the ground")
    ]
    there.sort(key=lambda p: (beds[p.bed_id].kind not in MOVABLE_POTS, beds[p.bed_id].name))
    return [(str(p.id), f"{work.context.crops[p.crop].name.en}, {beds[p.bed_id].name}") for p in there]


def _pot_crops(work: UnitOfWork) -> list[tuple[str, str]]:
    """What is often grown in a pot or bag by a team, potatoes first."""
    usual = [
        key
        for key in ("potato", "bush-bean", "cherry-tomato", "sunflower", "pea", "lettuce")
        if key in work.context.crops
    ]
    return [(key, work.context.crops[key].name.en) for key in usual]


def _box(work: UnitOfWork, found: ClassPage) -> BoxLine | None:
    if found.ballot_id is None or found.class_group_id is None:
        return None
    box = ballot_commands.box(work.connection, work.context, found.ballot_id, found.class_group_id)
    crops = work.context.crops
    return BoxLine(
        ballot_id=str(found.ballot_id),
        name=turn_of_year.ballot(work.connection, found.ballot_id).name,
        cast=f"{words.count(len(box.cast), 'ballot')} of {words.count(box.children, 'child', 'children')}",
        from_home=box.from_home,
        missing=max(0, box.children - len(box.cast)),
        dots=sorted(
            ((crops[c].name.en if c in crops else c, n) for c, n in box.dots.items()), key=lambda row: (-row[1], row[0])
        ),
        wishes=[(str(one.id), one.wish) for one in box.wishes],
    )


def _counted(work: UnitOfWork, row: CountedRow) -> CountedLine:
    crop = work.context.crops[row.crop].name.en if row.crop in work.context.crops else ""
    return CountedLine(
        str(row.id),
        row.count.team,
        said(row.count, work.context.school.units),
        words.joined([part for part in (crop, row.bed_name) if part]),
        row.taken_over,
        row.count.kind in count_commands.TAKEN_OVER and (row.count.kind != "height" or row.planting_id is not None),
    )
