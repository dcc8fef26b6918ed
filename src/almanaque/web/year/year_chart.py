"""Year: the beds by weeks of the school year or of a term, filtered, with what ripens in a break; steps can be dragged."""

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Response

from almanaque.commands.garden import drafts
from almanaque.commands.week.carer_rounds import ahead
from almanaque.commands.year import schedule
from almanaque.core.findings import lead
from almanaque.core.school.school_year import SchoolYear
from almanaque.core.year.moon import phases
from almanaque.store.garden import bed_closures, garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.year import promises_and_themes
from almanaque.web import frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View
from almanaque.web.week.carer_rounds import gaps
from almanaque.web.year import year_picture
from almanaque.web.year.year_picture import YearChart

router = APIRouter()
OPEN = ("pencilled", "planned", "in the ground")
VERDICTS = {"fits": "fits", "with care": "with care", "misses": "misses"}
DAY = timedelta(days=1)
NOTES_SHOWN = 6


@dataclass(frozen=True)
class YearFilter:
    """What of the year is shown; empty for all of it."""

    term: str = ""
    group: str = ""
    crop: str = ""
    verdict: str = ""
    year: str = ""

    @property
    def any(self) -> bool:
        return bool(self.group or self.crop or self.verdict)


@router.get("/year")
def year(
    scope: Annotated[RequestScope, Depends(may("look"))],
    term: str = "",
    group: str = "",
    crop: str = "",
    verdict: str = "",
    year: str = "",
) -> Response:
    with scope.open() as work:
        shown = _year(work, year)
        if shown is None:
            empty: dict[str, object] = {
                "chart": None,
                "summary": "",
                "groups": [],
                "rows": [],
                "terms": [],
                "years": [],
                "filter": YearFilter(),
                "choices": {},
            }
            return frame.page(work, "year", "School year", empty)
        wanted = YearFilter(term, group, crop, verdict, shown.name)
        starts, ends, name = _span(work, shown, term)
        beds = garden.beds(work.connection)
        present = drafts.on_table(work.connection, garden.plantings(work.connection, since=starts, until=ends))
        seen = [p for p in present if _wanted(p, beds, wanted)]
        values = _values(work, shown, wanted, starts, ends, beds, present, seen)
        return frame.page(work, "year", f"School year {shown.name}{f', {name.lower()}' if name else ''}", values)


def _year(work: UnitOfWork, name: str) -> SchoolYear | None:
    """The school year that was chosen, else the one of the day, else the nearest to it; None where none is on file."""
    years = work.context.calendar.years
    chosen = next((y for y in years if y.name == name), None) or work.context.calendar.year_of(work.day)
    return chosen or min(
        years, key=lambda y: min(abs((y.starts - work.day).days), abs((y.ends - work.day).days)), default=None
    )


def _span(work: UnitOfWork, shown: SchoolYear, term: str) -> tuple[date, date, str]:
    """The whole year, or one of its terms with two weeks around it."""
    for number, found in enumerate(shown.terms, start=1):
        if term == str(number):
            return found.starts - 14 * DAY, found.ends + 21 * DAY, found.name
    return shown.starts, shown.ends, ""


def _wanted(planting: Planting, beds: list[Bed], wanted: YearFilter) -> bool:
    if wanted.crop and planting.crop != wanted.crop:
        return False
    if wanted.verdict and planting.verdict != wanted.verdict:
        return False
    if not wanted.group:
        return True
    bed = next(bed for bed in beds if bed.id == planting.bed_id)
    return wanted.group == str(planting.class_group_id or bed.class_group_id)


@dataclass(frozen=True)
class YearChartChoicesView(View):
    """A row of `YearChartView`."""

    groups: list[tuple[str, str]]
    crops: list[tuple[str, str]]
    verdicts: list[tuple[str, str]]


@dataclass(frozen=True)
class YearNoteView(View):
    """A planting that misses or needs a hand, with the first thing to do about it."""

    id: str
    bed: str
    bed_id: str
    crop: str
    lead: str
    fix: str


@dataclass(frozen=True)
class YearNotesView(View):
    """Those of one verdict: some to show, and the rest."""

    title: str
    shown: list[YearNoteView]
    more: list[YearNoteView]


@dataclass(frozen=True)
class YearChartView(View):
    """Filled by `_values`, read by its template."""

    chart: YearChart
    filter: YearFilter
    groups: list[YearNotesView]
    summary: str
    rounds: str
    rows: list[tuple[str, ...]]
    terms: list[tuple[str, str]]
    years: list[tuple[str, str]]
    choices: YearChartChoicesView


def _values(
    work: UnitOfWork,
    shown: SchoolYear,
    wanted: YearFilter,
    starts: date,
    ends: date,
    beds: list[Bed],
    present: list[Planting],
    seen: list[Planting],
) -> YearChartView:
    shown_beds = [bed for bed in beds if not wanted.any or any(p.bed_id == bed.id for p in seen)]
    movable = frozenset(p.id for p in seen if _movable(p)) if work.scope.may("plan") else frozenset[UUID]()
    extras = year_picture.YearPlanting(
        bed_closures.closures(work.connection),
        promises_and_themes.promises(work.connection),
        list(phases(starts, ends)) if work.context.school.moon else (),
        movable,
    )
    chart = year_picture.draw(
        work.context, starts, ends, shown_beds, seen, day=work.day, today=work.today, shown=extras
    )
    judged = [p for p in seen if p.status in OPEN and p.dates and p.dates.last_pick >= work.day]
    fits = sum(p.verdict == "fits" for p in judged)
    over = sum(p.status in ("finished", "lost") for p in seen)
    names = work.context.group_names(work.day)
    crops = sorted({(p.crop, work.context.crops[p.crop].name.en) for p in present}, key=lambda pair: pair[1])
    return YearChartView(
        chart=chart,
        filter=wanted,
        groups=_notes(work, beds, judged),
        summary=words.joined(
            [words.count(len(seen), "planting"), f"{over} over", f"{fits} of {len(judged)} to come fit the school year"]
        ),
        rounds=gaps(work, ahead(work.connection, work.context, work.today)) if ends >= work.today else "",
        rows=[(row.name, bar.id, bar.label) for row in chart.rows for bar in row.bars],
        terms=[("", "Whole year"), *((str(n), t.name) for n, t in enumerate(shown.terms, start=1))],
        years=[(y.name, y.name) for y in reversed(work.context.calendar.years)],
        choices=YearChartChoicesView(
            groups=[("", "all classes"), *((str(g.id), names[str(g.id)]) for g in work.context.groups_on(work.day))],
            crops=[("", "all crops"), *crops],
            verdicts=[("", "any verdict"), *VERDICTS.items()],
        ),
    )


def _movable(planting: Planting) -> bool:
    """True where a step can be dragged: the first day of an open plan, or the setting out of what was sown indoors."""
    indoors = planting.method == "indoors" and "started" in planting.events and "set out" not in planting.events
    return schedule.is_open(planting) or (planting.status == "planned" and indoors)


def _notes(work: UnitOfWork, beds: list[Bed], judged: list[Planting]) -> list[YearNotesView]:
    """What misses and what needs a hand, each with the first thing to do about it."""
    names = {bed.id: bed.name for bed in beds}
    groups = []
    for verdict, title in (("misses", "In a break, or lost"), ("with care", "Needs a hand")):
        items = [
            YearNoteView(
                id=str(p.id),
                bed=names[p.bed_id],
                bed_id=str(p.bed_id),
                crop=work.context.crops[p.crop].name.en,
                lead=lead(p.findings),
                fix=_fix(p),
            )
            for p in judged
            if p.verdict == verdict
        ]
        groups.append(YearNotesView(title=title, shown=items[:NOTES_SHOWN], more=items[NOTES_SHOWN:]))
    return groups


def _fix(planting: Planting) -> str:
    fixes = [fix for finding in planting.findings if finding.severity != "note" for fix in finding.fixes]
    return fixes[0].label if fixes else ""
