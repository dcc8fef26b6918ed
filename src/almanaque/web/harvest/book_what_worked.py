"""The book: first pickings against their forecast, and what worked, with a proposal for next year."""

from dataclasses import dataclass
from functools import partial
from typing import Annotated

from fastapi import APIRouter, Depends, Form, Response
from markupsafe import Markup

from almanaque.commands.growth import forecasts
from almanaque.commands.harvest import harvest_book, learning
from almanaque.commands.harvest.harvest_book import Book
from almanaque.core.harvest import forecast_error, what_worked
from almanaque.core.units import format_distance
from almanaque.store.garden import garden
from almanaque.store.harvest import bed_paces, lessons
from almanaque.store.journal import sightings
from almanaque.web import frame, words
from almanaque.web.harvest import promised_range
from almanaque.web.harvest.harvest_book import MOST_BARS
from almanaque.web.pictures import charts
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
TAKES_DAYS = 60  # of a crop by which a bed's pace is told: our own choice


@router.get("/harvest/forecast")
def forecast(scope: Look, error: str = "") -> Response:
    """First pickings against what was forecast when they were started, and what next year's forecast can learn of them."""
    with scope.open() as work:
        found = harvest_book.read(work.connection, work.context, today=work.today, until=work.day)
        return frame.page(
            work,
            "harvest",
            "Forecast and fact",
            {
                **vars(forecast_picture(work, found)),
                "learns": work.context.school.learns,
                "shares_lessons": work.context.school.shares_lessons,
                "within": format_distance(lessons.WITHIN_KM, work.context.school.units),
                "growing": _growing(work),
                "bed_paces": _bed_paces(work),
            },
            template="harvest/forecast_and_fact.html",
        )


@router.post("/harvest/forecast")
def let_move(scope: Annotated[RequestScope, Depends(may("plan"))], learns: Annotated[str, Form()] = "") -> Response:
    """Whether the school's own pickings move its dates by themselves."""
    with scope.open() as work:
        learning.let_pickings_move_dates(work.connection, work.context, learns=learns == "1")
        return frame.go(work, "/harvest/forecast")


@router.post("/harvest/forecast/nearby")
def learn_with_others(
    scope: Annotated[RequestScope, Depends(may("people"))], agreed: Annotated[str, Form()] = ""
) -> Response:
    """Whether the school learns with others near by; its coordinator agrees for it."""
    with scope.open() as work:
        learning.learn_with_others(work.connection, work.context, agreed=agreed == "1")
        return frame.go(work, "/harvest/forecast")


@router.post("/harvest/forecast/{crop}")
def correct(
    scope: Annotated[RequestScope, Depends(may("plan"))], crop: str, use: Annotated[str, Form()] = ""
) -> Response:
    """Put a crop's own correction to use, or leave it again; all its dates are made anew."""
    with scope.open() as work:
        kind = work.context.crops[crop].kind
        harvest_book.put_correction_to_use(work.connection, work.context, kind, use=use == "1", today=work.today)
        return frame.go(work, "/harvest/forecast")


@dataclass(frozen=True)
class ForecastPointView(View):
    """A row of `ForecastPictureView`."""

    name: str
    early: int
    late: int
    error: int
    last_early: int | None
    last_late: int | None


@dataclass(frozen=True)
class ForecastFactRowView(View):
    """A row of `ForecastPictureView`."""

    name: str
    season: str
    started: str
    forecast: str
    eve: str
    first: str
    error: str
    last: str
    last_error: str


@dataclass(frozen=True)
class ForecastErrorRowView(View):
    """A row of `ForecastPictureView`."""

    crop: str
    name: str
    words: str
    usable: int
    offer: str
    in_use: tuple[int, int] | None
    in_use_words: str
    seasons: int
    heard: str


@dataclass(frozen=True)
class ForecastPictureView(View):
    """Filled by `forecast_picture`, read by its template."""

    chart: Markup | None
    sentence: str
    facts: list[ForecastFactRowView]
    errors: list[ForecastErrorRowView]
    left: list[tuple[str, str, str, str]]


def forecast_picture(work: UnitOfWork, found: Book, season: str = "") -> ForecastPictureView:
    """Forecast and fact with chart, table and sentence, and the errors crop by crop."""
    facts = sorted(
        (f for f in found.facts if not season or f.season == season),
        key=lambda f: (f.first, f.crop, f.bed),
        reverse=True,
    )
    nearby = lessons.near_by(work.connection)
    heard = {one.crop: one.schools for one in nearby}
    in_use = {crop: (days, seasons) for crop, days, seasons in work.context.corrections}

    def label(fact: forecast_error.ForecastOutcome) -> str:
        return f"{work.context.crops[fact.crop].name.en}, {fact.bed}, {words.short_day(fact.first)} {fact.first.year}"

    points = [
        ForecastPointView(
            name=label(f),
            early=(f.early - f.forecast).days,
            late=(f.late - f.forecast).days,
            error=f.error,
            last_early=(f.last_range[0] - f.forecast).days if f.last_range else None,
            last_late=(f.last_range[2] - f.forecast).days if f.last_range else None,
        )
        for f in facts[:MOST_BARS]
    ]
    inside = sum(f.inside for f in facts)
    sentence = (
        f"First pickings against the range that was forecast at the start: {inside} of {len(facts)} fell into it."
        if facts
        else "No planting yet whose first picking can be measured against a forecast made when it was started."
    )
    return ForecastPictureView(
        chart=charts.forecast_and_fact(points, description=sentence) if points else None,
        sentence=sentence,
        facts=[
            ForecastFactRowView(
                name=label(f),
                season=f.season,
                started=words.short_day(f.started),
                forecast=words.span(f.early, f.late),
                eve=_eve(f),
                first=words.short_day(f.first),
                error=_days_off(f.error),
                last=words.short_day(f.last),
                last_error=_days_off((f.last - f.last_forecast).days),
            )
            for f in facts[:200]
        ],
        errors=[
            ForecastErrorRowView(
                crop=e.crop,
                name=work.context.crops[e.crop].name.en,
                words=forecast_error.words(e),
                usable=e.usable,
                offer=f"{abs(e.usable)} days {'later' if e.usable > 0 else 'earlier'}" if e.usable else "",
                in_use=in_use.get(e.crop),
                in_use_words=_in_use(*in_use[e.crop]) if e.crop in in_use else "",
                seasons=e.seasons,
                heard=_heard(heard.get(e.crop, 0)),
            )
            for e in forecast_error.errors(facts, nearby)
        ],
        left=[
            (crop, work.context.crops[crop].name.en, _in_use(days, seasons), _heard(heard.get(crop, 0)))
            for crop, (days, seasons) in in_use.items()
            if crop in work.context.crops
        ],
    )


def _in_use(days: int, seasons: int) -> str:
    own = f", from {words.count(seasons, 'season')}" if seasons else ""
    return f"{words.count(abs(days), 'day')} {'later' if days > 0 else 'sooner'}{own}"


def _heard(schools: int) -> str:
    return f"{words.count(schools, 'school')} near by heard too" if schools else ""


def _eve(fact: forecast_error.ForecastOutcome) -> str:
    """The range on the eve of the first picking and what had moved it; empty where it was not kept."""
    if fact.last_range is None:
        return ""
    why = promised_range.cause_words(fact.moved_by)
    return f"{words.span(fact.last_range[0], fact.last_range[2])}{f', by {why}' if why else ''}"


def _growing(work: UnitOfWork) -> list[tuple[str, str, str]]:
    """What stands and has not been picked from: its name, its page, and how its promised range has moved since, and why."""
    found = []
    beds = {bed.id: bed for bed in garden.beds(work.connection)}
    for planting in garden.plantings(work.connection, since=work.today):
        if planting.status == "in the ground" and "first picking" not in planting.events:
            bed = beds[planting.bed_id]
            said = promised_range.sentence(work, planting, forecasts.setting_of(work.context, planting, bed))
            if said:
                name = f"{work.context.crops[planting.crop].name.en}, {bed.name}"
                found.append((name, frame.address(work, f"/garden/plantings/{planting.id}"), said))
    return sorted(found)


def _bed_paces(work: UnitOfWork) -> list[tuple[str, str]]:
    """The beds that do not go like the others, and how they go, in the order of the round."""
    known = bed_paces.paces(work.connection)
    return [(bed.name, _pace_words(known[bed.id])) for bed in garden.beds(work.connection) if bed.id in known]


def _pace_words(found: forecast_error.BedPace) -> str:
    here = round(TAKES_DAYS * found.pace)
    return (
        f"what takes {TAKES_DAYS} days elsewhere takes {here} here, by {words.count(found.plantings, 'first picking')}"
    )


def _days_off(days: int) -> str:
    return "on the day" if days == 0 else f"{words.count(abs(days), 'day')} {'later' if days > 0 else 'earlier'}"


@router.get("/harvest/worked")
def worked(scope: Look, crop: str = "") -> Response:
    """What worked, per crop and bed, with a proposal for next year."""
    with scope.open() as work:
        found = harvest_book.read(work.connection, work.context, today=work.today, until=work.day)
        values = {
            "rows": worked_rows(work, found, crop),
            "crop": crop,
            "crops": [
                ("", "all crops"),
                *sorted(
                    {
                        (c.key, c.name.en)
                        for c in (work.context.crops[r.crop] for r in found.rows if r.crop in work.context.crops)
                    },
                    key=lambda p: p[1],
                ),
            ],
        }
        return frame.page(work, "harvest", "What worked", values, template="harvest/what_worked.html")


@dataclass(frozen=True)
class WorkedRowView(View):
    """Filled by `worked_rows`, read by its template."""

    crop: str
    name: str
    bed: str
    n: int
    sown: str
    lost: str
    remedies: str
    proposal: str
    for_all: bool


def worked_rows(work: UnitOfWork, found: Book, crop: str = "") -> list[WorkedRowView]:
    """A row for each crop and bed: when sown, what came, what was lost, which remedies helped, what to do next year."""
    remedies = _remedies(work, found)
    rows = []
    calendar = work.context.calendar
    by_crop = harvest_book.seasons_by_crop_and_bed(work.connection, found, until=work.day)
    everywhere: dict[str, list[what_worked.CropSeason]] = {}
    for (kind, _), seasons in by_crop.items():
        everywhere.setdefault(kind, []).extend(seasons)
    for (kind, bed), seasons in sorted(by_crop.items(), key=lambda p: (work.context.crops[p[0][0]].name.en, p[0][1])):
        if crop and crop != kind:
            continue
        here = found.once(("propose", kind, bed), partial(what_worked.propose, seasons, calendar))
        over_all = (
            found.once(("propose", kind), partial(what_worked.propose, everywhere[kind], calendar))
            if len(everywhere[kind]) > len(seasons)
            else None
        )
        proposal = here or over_all
        lost = [s for s in seasons if s.lost or s.lost_share]
        rows.append(
            WorkedRowView(
                crop=kind,
                name=work.context.crops[kind].name.en,
                bed=bed,
                n=len(seasons),
                sown=what_worked.sown_words(seasons[-4:]),
                lost="; ".join(_lost(s) for s in lost),
                remedies=remedies.get((kind, bed), ""),
                proposal=proposal.sentence if proposal else "",
                for_all=bool(proposal and proposal is over_all),
            )
        )
    return rows


def _lost(season: what_worked.CropSeason) -> str:
    to = f" to {', '.join(season.lost_to)}" if season.lost_to else ""
    share = "all" if season.lost else f"{season.lost_share:.0%}" if season.lost_share else "some"
    return f"{season.season}: {share} lost{to}"


def _remedies(work: UnitOfWork, book_found: Book) -> dict[tuple[str, str], str]:
    """What was done against what, and whether it helped, by crop and bed."""
    found: dict[tuple[str, str], dict[tuple[str, str], list[str]]] = {}
    for remedy, planting, crop in sightings.remedies(work.connection):
        grown = book_found.grown.get(planting)
        if grown is not None and crop in work.context.crops and remedy.applied_on <= work.day:
            key = (work.context.crops[crop].kind, grown.bed)
            found.setdefault(key, {}).setdefault((remedy.what, remedy.against), []).append(
                remedy.outcome or "not answered yet"
            )
    return {
        key: "; ".join(
            f"{what} against {against or 'it'}: {_outcomes(outcomes)}"
            for (what, against), outcomes in sorted(rows.items())
        )
        for key, rows in found.items()
    }


def _outcomes(outcomes: list[str]) -> str:
    counts = {outcome: outcomes.count(outcome) for outcome in dict.fromkeys(outcomes)}
    return ", ".join(
        f"{outcome} {n} of {len(outcomes)}" if len(outcomes) > 1 else outcome for outcome, n in counts.items()
    )
