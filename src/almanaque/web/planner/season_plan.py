"""Year, Plan a season: the plans there are, and one with its wishes, days and limits, and what was made of it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Annotated, Literal
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.planner import asking, keeping, wish_sources
from almanaque.commands.seeds import what_to_buy
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import Rectangle, squares_within
from almanaque.core.harvest import money
from almanaque.core.planner.problem import AIMS, LONGEST_SPAN, Aim, PlanSpan
from almanaque.core.school.seasons import seasons
from almanaque.core.units import format_mass
from almanaque.core.words import terms
from almanaque.store.garden import bed_sections, garden
from almanaque.store.garden.garden import Bed
from almanaque.store.planner import season_plans
from almanaque.store.planner.season_plans import ProposalRow, SeasonPlanRow, WishRow
from almanaque.store.seeds import seed_box as lots
from almanaque.web import forms, frame, words
from almanaque.web.htmx import HtmxRequest
from almanaque.web.pictures.families import FAMILIES, Hatch
from almanaque.web.planner import proposal_cards
from almanaque.web.planner.proposal_cards import ProposalCard
from almanaque.web.planner.wish_form import AMOUNTS, KINDS, read_wish
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
COUNTED = ("minutes", "break_beds", "watered_beds", "sill_plants", "row_covers")
MOST_OF_A_PART = 200  # letters: our own choice
WEIGHTS = (("must", "must"), ("would like", "would like"), ("if room", "if there is room"))


@router.get("/year/plans")
def plan_list(scope: Look, said: str = "") -> Response:
    """The plans there are, and a new one."""
    with scope.open() as work:
        values = {
            "plans": [_listed(work, row) for row in season_plans.plans(work.connection)],
            "new_id": str(uuid4()),
            "seasons": spans_to_plan(work),
        }
        return frame.page(work, "year", "Plan a season", values, template="planner/season_plans.html", message=said)


@dataclass(frozen=True)
class ListedPlan:
    id: str
    name: str
    words: str


def _listed(work: UnitOfWork, row: SeasonPlanRow) -> ListedPlan:
    wishes = season_plans.wishes(work.connection, row.id)
    return ListedPlan(
        str(row.id),
        row.name,
        words.joined([words.span(row.starts, row.ends), words.count(len(wishes), "wish", "wishes")]),
    )


def spans_to_plan(work: UnitOfWork) -> list[tuple[str, str]]:
    """Spans that are usually planned, as `first/last`, with their words."""
    return [(f"{first}/{last}", f"{name}, {words.span(first, last)} {last.year}") for first, last, name in _spans(work)]


def _spans(work: UnitOfWork) -> list[tuple[date, date, str]]:
    """What is left of the season, the next ones, a year: first and last day, and a name."""
    every = [season for season in seasons(work.context.setting.calendar) if season.ends > work.today]
    found = [(max(season.starts, work.today), season.ends, season.name) for season in every[:4]]
    if len(every) > SEASONS_OF_YEAR:
        found.append((max(every[1].starts, work.today), every[SEASONS_OF_YEAR].ends, "A whole year"))
    return [*found, (work.today, work.today + timedelta(days=365), "The year from today")]


SEASONS_OF_YEAR = 4  # terms and the summer


def _season_named(work: UnitOfWork, chosen: str) -> str:
    """The name of a chosen span, for a plan without one."""
    return next((name for first, last, name in _spans(work) if f"{first}/{last}" == chosen), "")


class PlanForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    name: str = ""
    starts: str = ""
    ends: str = ""
    free_from: str = ""
    minutes: str = ""
    break_beds: str = ""
    watered_beds: str = ""
    sill_plants: str = ""
    row_covers: str = ""
    money: str = ""
    beds: list[str] | None = None
    squares_of: list[str] | None = None
    squares: list[str] | None = None
    season: str = ""
    action: Literal["save", "delete", "begin"] = "save"


@router.post("/year/plans")
def save(scope: Plan, form: Annotated[PlanForm, Form()]) -> Response:
    """Begin a plan, change what it asks, or take it out; what was pencilled stays."""
    with scope.open() as work:
        plan_id = forms.row_id(form.id)
        if form.action == "delete":
            season_plans.delete(work.connection, plan_id)
            return frame.go(work, "/year/plans", said="The plan is taken out. What was pencilled stays in its draft.")
        starts, _, ends = form.season.partition("/")
        span = PlanSpan(
            parse_day(form.starts or starts, field="starts"),
            parse_day(form.ends or ends, field="ends"),
            forms.optional_day(form.free_from, field="free_from"),
        )
        row = SeasonPlanRow(
            plan_id,
            forms.name(form.name or _season_named(work, form.season)),
            span.starts,
            span.ends,
            span.free_from,
            _chosen_beds(work, form.beds),
            _parts(form.squares_of, form.squares),
            {name: _limit(getattr(form, name), name) for name in COUNTED} | {"money": _money(work, form.money)},
            _aims_of(work, plan_id),
        )
        for bed in asking.used_beds(work.connection, row):
            asking.squares_to_use(bed, row)  # refuses a part that is not there
        season_plans.save(work.connection, work.context.school.id, row)
        return frame.go(work, f"/year/plans/{plan_id}")


def _limit(text: str, name: str) -> int | None:
    return forms.whole(text, field=name, least=0, most=5000, what="limit_of_plan") if text.strip() else None


def _money(work: UnitOfWork, text: str) -> int | None:
    return money.parse(text, work.context.school.currency, field="money") if text.strip() else None


def _parts(beds: Sequence[str] | None, squares: Sequence[str] | None) -> dict[str, str]:
    """The squares that may be used of each bed of which not all may be."""
    sent = zip(beds or (), squares or (), strict=False)
    return {str(forms.row_id(bed)): text.strip()[:MOST_OF_A_PART] for bed, text in sent if text.strip()}


def _aims_of(work: UnitOfWork, plan_id: UUID) -> list[Aim]:
    """The order of aims that a plan has; the usual one for a plan that is begun."""
    known = next((row for row in season_plans.plans(work.connection) if row.id == plan_id), None)
    return list(known.aims) if known else list(AIMS)


@router.post("/year/plans/{plan_id}/aims")
def order_aims(scope: Plan, plan_id: UUID, aim: Annotated[str, Form()] = "") -> Response:
    """Let one aim come before the one that stands before it."""
    with scope.open() as work:
        row = season_plans.hold(work.connection, plan_id)
        order = list(row.aims) or list(AIMS)
        chosen = next((one for one in order if one == aim), order[0])
        at = order.index(chosen)
        order.insert(max(0, at - 1), order.pop(at))
        season_plans.save(work.connection, work.context.school.id, replace(row, aims=order))
        return frame.go(work, f"/year/plans/{plan_id}")


def _chosen_beds(work: UnitOfWork, sent: Sequence[str] | None) -> list[UUID]:
    """The beds that are ticked; none where all are, so that a bed built later may be used too."""
    outdoors = [bed.id for bed in garden.beds(work.connection) if not bed.indoors]
    chosen = {forms.row_id(text) for text in sent or []}
    kept = [bed for bed in outdoors if bed in chosen]
    return [] if not kept or len(kept) == len(outdoors) else kept


@router.get("/year/plans/{plan_id}")
def plan_page(scope: Look, plan_id: UUID, said: str = "") -> Response:
    with scope.open() as work:
        return page_of(work, plan_id, said)


@dataclass(frozen=True)
class WishLine:
    """A line of the wish list as it is shown."""

    id: str
    text: str
    how_much: str
    who: str
    when: str
    weight: str
    origin: str
    votes: int


@dataclass(frozen=True)
class BedTick:
    """A bed that may be used or not, the part that may, and its sections as squares with their purposes."""

    id: str
    name: str
    ticked: bool
    part: str
    sections: list[tuple[str, str]]


@dataclass(frozen=True)
class LimitField:
    name: str
    label: str
    value: str


@dataclass(frozen=True)
class SeasonPlanView(View):
    """What `planner/season_plan.html` is given."""

    plan: SeasonPlanRow
    span: str
    lines: list[WishLine]
    crops: list[tuple[str, str]]
    kinds: tuple[tuple[str, str], ...]
    amounts: tuple[tuple[str, str], ...]
    groups: list[tuple[str, str]]
    weights: tuple[tuple[str, str], ...]
    beds: list[BedTick]
    limits: list[LimitField]
    unpriced: int
    aims: list[tuple[str, str]]
    sources: list[wish_sources.WishSource]
    cards: list[ProposalCard]
    hatches: list[Hatch]
    working: bool
    feasts: list[tuple[str, str]]


def page_of(work: UnitOfWork, plan_id: UUID, said: str = "", status: int = 200) -> Response:
    """The page of a plan."""
    row = season_plans.plan(work.connection, plan_id)
    names = work.context.group_names(row.starts)
    rows = season_plans.proposals(work.connection, plan_id)
    outdoors = [bed for bed in garden.beds(work.connection) if not bed.indoors]
    view = SeasonPlanView(
        plan=row,
        span=words.span(row.starts, row.ends),
        lines=[_line(work, line, names) for line in season_plans.wishes(work.connection, plan_id)],
        crops=[(crop.key, crop.name.en) for crop in sorted(work.context.crops, key=lambda c: c.name.en)],
        kinds=KINDS,
        amounts=AMOUNTS[work.context.school.units],
        groups=[("", "no class by name"), *((str(g.id), names[str(g.id)]) for g in work.context.groups_on(row.starts))],
        weights=WEIGHTS,
        beds=[_bed_tick(work, bed, row) for bed in outdoors],
        limits=[_limit_field(work, name, row) for name in (*COUNTED, "money")],
        unpriced=_unpriced(work, plan_id),
        aims=[(aim, terms("aim")[aim]) for aim in row.aims or AIMS],
        sources=wish_sources.sources(work.connection, work.context, row, today=work.today),
        cards=proposal_cards.cards(work, row, rows),
        hatches=list(FAMILIES.values()),
        working=is_working(rows),
        feasts=_feasts(work, row),
    )
    return frame.page(work, "year", row.name, view, template="planner/season_plan.html", message=said, status=status)


def _bed_tick(work: UnitOfWork, bed: Bed, row: SeasonPlanRow) -> BedTick:
    grid = bed.grid()
    parts = [
        (squares_within(grid, Rectangle(s.x_mm, s.y_mm, s.length_mm, s.width_mm)), s.purpose)
        for s in bed_sections.sections(work.connection, bed.id)
    ]
    ticked = not row.bed_ids or bed.id in row.bed_ids
    return BedTick(str(bed.id), bed.name, ticked, row.parts.get(str(bed.id), ""), [one for one in parts if one[0]])


def _limit_field(work: UnitOfWork, name: str, row: SeasonPlanRow) -> LimitField:
    kept = row.limits.get(name)
    if name == "money":
        currency = work.context.school.currency
        return LimitField(name, f"{terms('limit')[name]} ({currency})", "" if kept is None else f"{kept / 100:.2f}")
    return LimitField(name, terms("limit")[name], "" if kept is None else str(kept))


def _unpriced(work: UnitOfWork, plan_id: UUID) -> int:
    """How many of the crops that are wished for by name have no price in the seed box."""
    wished = {crop for line in season_plans.wishes(work.connection, plan_id) for crop in line.crops}
    return len(wished - set(what_to_buy.prices_of(lots.lots(work.connection))))


def _feasts(work: UnitOfWork, row: SeasonPlanRow) -> list[tuple[str, str]]:
    last = row.ends + LONGEST_SPAN
    return [
        (feast.starts.isoformat(), feast.name)
        for year in work.context.years
        for feast in year.core().feasts
        if row.starts <= feast.starts <= last
    ]


def _line(work: UnitOfWork, line: WishRow, names: dict[str, str]) -> WishLine:
    return WishLine(
        id=str(line.id),
        text=line.label or asking.said_of(work.context, line),
        how_much=how_much(work, line),
        who=names.get(str(line.group_id), ""),
        when=_when(line.ready_by, line.ready_to),
        weight=line.weight,
        origin="" if line.origin == "typed" else terms("origin")[line.origin],
        votes=line.votes,
    )


def how_much(work: UnitOfWork, line: WishRow) -> str:
    """How much a line asks for, in words."""
    if line.fill:
        return "what is left"
    if line.kinds is not None:
        return words.count(line.kinds, "kind")
    if line.plants is not None:
        return words.count(line.plants, "plant")
    if line.grams is not None:
        return format_mass(line.grams, work.context.school.units) + (" a week" if line.a_week else "")
    return words.count(line.squares or 1, "square")


def _when(ready_by: date | None, ready_to: date | None) -> str:
    if ready_by is None:
        return ""
    return words.span(ready_by, ready_to) if ready_to else words.short_day(ready_by)


def is_working(rows: Sequence[ProposalRow]) -> bool:
    return any(row.state in ("waits", "works") for row in rows)


@router.get("/year/plans/{plan_id}/proposals")
def proposals(scope: Look, plan_id: UUID, htmx: HtmxRequest) -> Response:
    """The plans as far as they are; asked again every second while they are worked at."""
    with scope.open() as work:
        row = season_plans.plan(work.connection, plan_id)
        rows = season_plans.proposals(work.connection, plan_id)
        values = {"plan": row, "cards": proposal_cards.cards(work, row, rows), "working": is_working(rows)}
        if not htmx.part:
            return frame.go(work, f"/year/plans/{plan_id}")
        return frame.part(work, "planner/_proposals.html", values)


class WishForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    crop: str = ""
    also: str = ""
    kind: str = "crop"
    label: str = ""
    amount: str = ""
    unit: str = "squares"
    group: str = ""
    ready_by: str = ""
    ready_to: str = ""
    weight: str = "would like"
    action: Literal["add", "delete", "weight"] = "add"


@router.post("/year/plans/{plan_id}/wishes")
def change_wishes(scope: Plan, plan_id: UUID, form: Annotated[WishForm, Form()]) -> Response:
    """Add a wish, give one another weight, or take one out."""
    with scope.open() as work:
        season_plans.hold(work.connection, plan_id)
        wish_id = forms.row_id(form.id)
        if form.action == "delete":
            season_plans.delete_wish(work.connection, plan_id, wish_id)
        elif form.action == "weight":
            weight = next((key for key, _ in WEIGHTS if key == form.weight), "would like")
            season_plans.change_wish(work.connection, plan_id, wish_id, weight)  # type: ignore[arg-type]
        else:
            there = season_plans.wishes(work.connection, plan_id)
            if len(there) >= wish_sources.MOST_LINES:
                raise BadInput("planner.too_many_wishes", field="crop", most=wish_sources.MOST_LINES)
            number = max((line.number for line in there), default=0) + 1
            line = read_wish(work, form, plan_id, wish_id, number)
            season_plans.add_wishes(work.connection, work.context.school.id, [line])
        return frame.go(work, f"/year/plans/{plan_id}")


@router.post("/year/plans/{plan_id}/from")
def wishes_from(scope: Plan, plan_id: UUID, source: Annotated[str, Form()] = "") -> Response:
    """Take wishes in from a ballot, last year, a theme, the seed box, or what fills."""
    with scope.open() as work:
        row = season_plans.hold(work.connection, plan_id)
        count = wish_sources.take_in(work.connection, work.context, row, source, today=work.today)
        said = f"{words.count(count, 'wish', 'wishes')} taken in." if count else "All of these are on the list already."
        return frame.go(work, f"/year/plans/{plan_id}", said=said)


@router.post("/year/plans/{plan_id}/plan")
def make(scope: Plan, plan_id: UUID) -> Response:
    """Plan it: a first plan at once, better ones while one waits."""
    with scope.open() as work:
        keeping.ask(work.connection, work.context, plan_id, today=work.today)
        return frame.go(work, f"/year/plans/{plan_id}")


@router.post("/year/plans/{plan_id}/stop")
def stop(scope: Plan, plan_id: UUID) -> Response:
    """Stop and take the best that was found."""
    with scope.open() as work:
        season_plans.hold(work.connection, plan_id)
        season_plans.stop(work.connection, plan_id)
        return frame.go(work, f"/year/plans/{plan_id}")
