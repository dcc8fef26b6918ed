"""One plan of a season in full: on the map week by week, each proposal to keep, move or take out, and why the others have no place."""

from collections.abc import Container, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated, Any, Literal
from uuid import UUID

from fastapi import APIRouter, Depends, Form, Response

from almanaque.commands.planner import asking, keeping
from almanaque.core.findings import Finding, from_store
from almanaque.core.garden.bed import MOST_SQUARES
from almanaque.core.planner.problem import Which
from almanaque.core.words import terms
from almanaque.store.planner import season_plans
from almanaque.store.planner.season_plans import SeasonPlanRow, What
from almanaque.web import forms, frame, words
from almanaque.web.garden.site_map_picture import SiteMap
from almanaque.web.pictures.families import FAMILIES, Hatch
from almanaque.web.planner import proposal_cards
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
DECIDED: dict[What, str] = {
    "kept": "It is kept as it is.",
    "not so": "It is not proposed like that again.",
    "there": "It stays in that bed.",
    "not there": "It is not proposed in that bed again.",
    "rubbed out": "It is taken out of the plan.",
}


@dataclass(frozen=True)
class PlacedLine:
    """A proposal as it is listed."""

    key: str
    wish: str
    crop: str
    code: str
    how: str
    when: str
    picked: str
    until: str
    squares: str
    chance: str
    who: str
    care: list[str]
    kept: bool
    put: bool
    filling: bool


@dataclass(frozen=True)
class BedLines:
    """The proposals of one bed."""

    id: str
    name: str
    lines: list[PlacedLine]


@dataclass(frozen=True)
class Said:
    """What is said of a wish that has no place, and what would let it in."""

    key: str
    wish: str
    weight: str
    asked: bool
    against: list[Finding]
    enters: list[Finding]
    rubbed_out: bool
    decided: bool


@dataclass(frozen=True)
class DayStep:
    iso: str
    words: str
    current: bool


@dataclass(frozen=True)
class SeasonProposalView(View):
    """What `planner/season_proposal.html` is given."""

    plan: SeasonPlanRow
    which: str
    name: str
    others: list[tuple[str, str]]
    state: str
    working: bool
    granted: str
    maps: list[SiteMap]
    bed_choice: list[tuple[str, str]]
    days: list[DayStep]
    map_day: str
    map_iso: str
    beds: list[BedLines]
    left: list[Said]
    clash: list[str]
    hatches: list[Hatch]


@router.get("/year/plans/{plan_id}/{which}")
def proposal_page(scope: Look, plan_id: UUID, which: Which, on: str = "", said: str = "") -> Response:
    with scope.open() as work:
        row = season_plans.plan(work.connection, plan_id)
        one = season_plans.proposal(work.connection, plan_id, which)
        found = one.found or {"placed": [], "left": [], "clash": [], "counts": None}
        lines = list(found["placed"])
        days = _days(lines, on)
        shown = next((date.fromisoformat(step.iso) for step in days if step.current), row.starts)
        beds = asking.used_beds(work.connection, row)
        names = work.context.group_names(row.starts)
        decided = season_plans.decisions(work.connection, plan_id)
        put = {line.wish for line in decided if line.what == "there"}
        view = SeasonProposalView(
            plan=row,
            which=which,
            name=terms("which")[which],
            others=[
                (other.which, terms("which")[other.which]) for other in season_plans.proposals(work.connection, plan_id)
            ],
            state=proposal_cards.state_words(one),
            working=one.state in ("waits", "works"),
            granted=proposal_cards.granted_words(found) if one.found else "",
            maps=proposal_cards.maps(work, row, beds, lines, shown, at_hand=True),
            bed_choice=[(str(bed.id), bed.name) for bed in beds],
            days=days,
            map_day=words.short_day(shown),
            map_iso=shown.isoformat(),
            beds=[
                BedLines(
                    str(bed.id),
                    bed.name,
                    [_line(work, line, names, put) for line in lines if line["bed"] == str(bed.id)],
                )
                for bed in beds
                if any(line["bed"] == str(bed.id) for line in lines)
            ],
            left=[_left(line, {one.wish for one in decided}) for line in found["left"]],
            clash=list(found["clash"]),
            hatches=list(FAMILIES.values()),
        )
        name = terms("which")[which]
        title = f"{row.name}: {name[:1].lower()}{name[1:]}"
        return frame.page(work, "year", title, view, template="planner/season_proposal.html", message=said)


def _days(lines: Sequence[Mapping[str, Any]], on: str) -> list[DayStep]:
    """The first Mondays of the months in which something stands, one of them shown."""
    if not lines:
        return []
    first = min(date.fromisoformat(line["bed_from"]) for line in lines)
    last = max(date.fromisoformat(line["clear_by"]) for line in lines)
    last = min(last, first + timedelta(days=500))
    days: list[date] = []
    month = first.replace(day=1)
    while month <= last:
        middle = month + timedelta(days=14)
        if middle >= first and middle <= last:
            days.append(middle)
        month = (month + timedelta(days=32)).replace(day=1)
    days = days or [first]
    chosen = next((day for day in days if day.isoformat() == on), None)
    if chosen is None:
        fullest = proposal_cards.fullest_day(lines) or days[0]
        chosen = min(days, key=lambda day: abs(day - fullest))
    return [
        DayStep(
            day.isoformat(),
            words.month(day) + (f" {day.year}" if day.month == 1 or at == 0 else ""),
            day == chosen,
        )
        for at, day in enumerate(days)
    ]


def _line(work: UnitOfWork, line: Mapping[str, Any], names: Mapping[str, str], put: Container[str]) -> PlacedLine:
    known = line["crop"] in work.context.crops
    crop = work.context.crops[line["crop"]] if known else None

    def day(name: str) -> date:
        return date.fromisoformat(line[name])

    first, last = date.fromisoformat(line["first_pick"]["p10"]), date.fromisoformat(line["first_pick"]["p90"])
    how = terms("method")[line["method"]] + (f" {terms('cover')[line['cover']]}" if line["cover"] else "")
    care = [from_store(finding) for finding in line["findings"]]
    return PlacedLine(
        key=line["key"],
        wish=line["wish"],
        crop=crop.name.en if crop else line["crop"],
        code=crop.code if crop else "",
        how=how,
        when=words.short_day(day("start")),
        picked=words.span(first, last),
        until=words.short_day(day("clear_by")),
        squares=words.joined([words.count(len(line["squares"]), "square"), words.count(line["plants"], "plant")]),
        chance="by packet days, without weather"
        if line["chance"] is None
        else f"in {round(100 * line['chance'])} years of 100",
        who=names.get(line["class"] or "", ""),
        care=[finding.message for finding in care if finding.severity != "note"],
        kept=line["kept"],
        put=line["key"] in put,
        filling=line["filling"],
    )


def _left(line: Mapping[str, Any], decided: Container[str]) -> Said:
    findings = [from_store(finding) for finding in line["findings"]]
    return Said(
        key=line["key"],
        wish=line["wish"],
        weight=line["weight"],
        asked=line["asked"],
        against=[finding for finding in findings if finding.code != "wish_enters"],
        enters=[finding for finding in findings if finding.code == "wish_enters"],
        rubbed_out=any(finding.case == "rubbed_out" for finding in findings),
        decided=line["key"] in decided,
    )


@router.post("/year/plans/{plan_id}/{which}/decide")
def decide(
    scope: Plan,
    plan_id: UUID,
    which: Which,
    wish: Annotated[str, Form()] = "",
    what: Annotated[Literal["kept", "not so", "not there", "rubbed out", "take back"], Form()] = "kept",
) -> Response:
    """Say of one proposal what is to become of it; the next plan goes around that."""
    with scope.open() as work:
        if what == "take back":
            season_plans.hold(work.connection, plan_id)
            season_plans.take_back(work.connection, plan_id, wish)
            said = "What was decided of it is taken back."
        else:
            keeping.decide(work.connection, work.context, plan_id, which, wish, what)
            said = DECIDED[what]
        keeping.ask(work.connection, work.context, plan_id, today=work.today)
        return frame.go(work, f"/year/plans/{plan_id}/{which}", said=f"{said} The plan is made again around it.")


@router.post("/year/plans/{plan_id}/{which}/move")
def move(
    scope: Plan,
    plan_id: UUID,
    which: Which,
    wish: Annotated[str, Form()] = "",
    bed: Annotated[str, Form()] = "",
    columns: Annotated[int | None, Form(ge=-MOST_SQUARES, le=MOST_SQUARES)] = None,
    rows: Annotated[int | None, Form(ge=-MOST_SQUARES, le=MOST_SQUARES)] = None,
    on: Annotated[str, Form()] = "",
) -> Response:
    """Put a proposal into a bed, by so many columns and rows from where it lies where it was dropped with a hand."""
    with scope.open() as work:
        by = None if columns is None or rows is None else (columns, rows)
        held = keeping.move(work.connection, work.context, plan_id, which, wish, forms.row_id(bed), by)
        keeping.ask(work.connection, work.context, plan_id, today=work.today)
        said = (
            "It is put there"
            if held or by is None
            else "It does not fit on those squares and is put anywhere in that bed"
        )
        return frame.go(
            work, f"/year/plans/{plan_id}/{which}", on=on[:10], said=f"{said}. The plan is made again around it."
        )


@router.post("/year/plans/{plan_id}/{which}/pencil")
def pencil(scope: Plan, plan_id: UUID, which: Which) -> Response:
    """Pencil the plan into a draft of its own."""
    with scope.open() as work:
        done = keeping.pencil(work.connection, work.context, plan_id, which, work.actor())
        left = f" Left out: {'; '.join(done.left)}" if done.left else ""
        if done.overdue:
            left = (
                f" Still in ink and not begun in time: {', '.join(done.overdue)}; rub it out before you choose.{left}"
            )
        said = f"{words.count(done.plantings, 'planting')} pencilled. Choose from them here, bed by bed.{left}"
        return frame.go(work, "/garden/drafts", said=said[:900])
