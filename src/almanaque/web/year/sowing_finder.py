"""Year: when to sow a crop. All candidate weeks against the school year, back from a day, and from a week to a pencil planting."""

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated, cast

import numpy as np
from fastapi import APIRouter, Depends, Form, Response

from almanaque.commands.garden import free_squares, painting, plantings
from almanaque.commands.garden.painting import Paint
from almanaque.commands.growth import forecasts
from almanaque.core.errors import BadInput
from almanaque.core.growth import school_fit
from almanaque.core.growth.chart_beside_record import where_they_differ
from almanaque.core.growth.covers import COVERS, Covering, CoverKey
from almanaque.core.growth.nearest_fit import Aim
from almanaque.core.growth.school_fit import Fit
from almanaque.core.growth.setting import Setting, chart_months
from almanaque.core.growth.sowing_days import Weighed, weigh
from almanaque.core.units import format_temperature
from almanaque.core.words import terms
from almanaque.store.garden import garden
from almanaque.web import forms, frame, words
from almanaque.web.garden import sheet_parts
from almanaque.web.garden.paint_form import FIRST_CROP, read_method
from almanaque.web.htmx import vary
from almanaque.web.pictures.families import family
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.year import finder_picture as picture
from almanaque.web.year.short_reasons import SHORT, short_reason
from almanaque.web.year.sowing_chosen import DeadlineView, chosen_view, deadline_of
from almanaque.web.year.sowing_query import AIMS, FinderForm, FinderQuery, address

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
LINES, WEEKS = 22, 56  # lines on a page, and weeks looked at for them
HOPELESS = 0.05  # a week whose sowings ripen in fewer years than this share is left out and said in words


@dataclass(frozen=True)
class FinderRow:
    """One sowing week as the table shows it. `told` says in words what the picture shows."""

    day: str
    iso: str
    verdict: str
    verdict_class: str
    short: str
    years: str
    told: str
    mark: str
    line: picture.FinderLine


@router.get("/year/finder")
def finder(scope: Look, form: Annotated[FinderForm, Depends()]) -> Response:
    with scope.open() as work:
        return _page(work, form)


@router.get("/year/finder/day")
def chosen_day(scope: Look, form: Annotated[FinderForm, Depends()]) -> Response:
    """The part of the page about the chosen day."""
    with scope.open() as work:
        asked = _read(work, form)
        return vary(
            frame.part(work, "year/_sowing_chosen.html", {"chosen": chosen_view(work, asked, form), "form": form})
        )


@router.post("/year/finder")
def pencil(
    scope: Plan,
    form: Annotated[FinderForm, Form()],
    squares_: Annotated[str, Form(alias="squares")] = "",
    group: Annotated[str, Form()] = "",
) -> Response:
    """Pencil the crop into a bed for the chosen week, or move the planting from which the finder was opened."""
    with scope.open() as work:
        asked = _read(work, form)
        if asked.bed is None:
            raise BadInput("year.bed_missing", field="bed")
        if asked.sow is None:
            raise BadInput("year.week_missing", field="sow")
        if form.planting:
            moved = garden.planting(work.connection, forms.row_id(form.planting))
            if moved.crop != asked.crop.key:
                raise BadInput(
                    "year.moves_its_own_crop", field="crop", name=work.context.crops[moved.crop].name.en.lower()
                )
            bed_id = plantings.move(
                work.connection,
                work.context,
                moved.id,
                method=asked.method,
                start_on=asked.sow,
                cover=asked.cover or "",
                actor=work.actor(),
            )
            return frame.leave(
                work, f"/garden/beds/{bed_id}", day=max(asked.sow, work.today).isoformat(), **{frame.PEEK: "1"}
            )
        chosen = squares_.strip() or free_squares.picked(
            work.connection, work.context, asked.bed, asked.crop, asked.method, asked.sow, today=work.today
        )
        wish = Paint(
            chosen,
            asked.crop.key,
            asked.method,
            asked.sow,
            False,
            cover=asked.cover,
            class_group_id=forms.optional_id(group),
        )
        painting.paint(work.connection, work.context, asked.bed.id, wish, work.actor())
        return frame.leave(
            work, f"/garden/beds/{asked.bed.id}", day=max(asked.sow, work.today).isoformat(), **{frame.PEEK: "1"}
        )


def _read(work: UnitOfWork, form: FinderForm) -> FinderQuery:
    crop = work.context.crops[form.crop or FIRST_CROP]
    method = read_method(form.method) if form.method and form.method in crop.methods else crop.methods[0]
    bed = garden.bed(work.connection, forms.row_id(form.bed)) if form.bed.strip() else None
    cover = cast(CoverKey | None, forms.one_of(form.cover, list(COVERS), field="cover") if form.cover else None)
    aim = cast(Aim, forms.one_of(form.aim or "ready", list(AIMS), field="aim"))
    sow = forms.optional_day(form.sow, field="sow")
    first = forms.optional_day(form.starts, field="starts") or max(work.day, work.today)
    setting = forecasts.setting_in(work.context, bed, first, cover) if bed else _open(work, cover)
    return FinderQuery(crop, method, bed, cover, setting, aim, forms.optional_day(form.by, field="by"), sow, first)


def _open(work: UnitOfWork, cover: CoverKey | None) -> Setting:
    return work.context.setting_for(covering=Covering(cover) if cover else None)


def _page(work: UnitOfWork, form: FinderForm) -> Response:
    asked = _read(work, form)
    monday = asked.first - timedelta(days=asked.first.weekday())
    mondays = [monday + timedelta(weeks=n) for n in range(WEEKS)]
    days = [_day_in_week(work, day) for day in mondays]
    weighed = weigh(asked.crop, asked.method, days, asked.setting)
    hopeful = np.flatnonzero(weighed.ripe > HOPELESS * np.maximum(weighed.of, 1))
    rows = [int(row) for row in hopeful[:LINES]]
    drawn = picture.draw(
        weighed,
        rows,
        asked.setting.calendar,
        day=work.day,
        goal=asked.goal,
        chart=chart_months(asked.crop, asked.method, asked.setting),
    )
    deadline = deadline_of(work, asked)
    chosen = asked.sow or _proposed(work, weighed, rows, deadline)
    asked_for = form.model_copy(
        update={"sow": chosen.isoformat() if chosen else "", "method": asked.method, "crop": asked.crop.key}
    )
    following = days[rows[-1]] + timedelta(weeks=1) if len(hopeful) > LINES else None
    values = {
        "asked": asked,
        "form": asked_for,
        "crops": [(c.key, c.name.en) for c in sorted(work.context.crops, key=lambda c: c.name.en)],
        "methods": sheet_parts.method_choices(asked.crop),
        "covers": [("", "in the open"), *terms("cover").items()],
        "beds": [("", "any bed"), *((str(bed.id), bed.name) for bed in garden.beds(work.connection))],
        "aims": list(AIMS.items()),
        "feasts": _feasts(work),
        "facts": _facts(work, asked, weighed),
        "drawn": drawn,
        "rows": [
            _row(work, asked, weighed, row, line, deadline, chosen) for row, line in zip(rows, drawn.lines, strict=True)
        ],
        "hatch": family(asked.crop.family),
        "chart_differs": where_they_differ(asked.crop, asked.method, asked.setting, after=asked.first),
        "left_out": _left_out(work, asked, weighed, rows),
        "deadline": deadline,
        "later": address(work, asked_for, starts=following.isoformat(), sow="") if following else "",
        "back_from": [(address(work, asked_for, by=iso, sow=""), name) for iso, name in _feasts(work)[:3]],
        "chosen": chosen_view(work, _with(asked, chosen), asked_for),
    }
    return frame.page(
        work, "year", f"When to sow {asked.crop.name.en.lower()}", values, template="year/sowing_finder.html"
    )


def _with(asked: FinderQuery, chosen: date | None) -> FinderQuery:
    return FinderQuery(
        asked.crop, asked.method, asked.bed, asked.cover, asked.setting, asked.aim, asked.goal, chosen, asked.first
    )


def _day_in_week(work: UnitOfWork, monday: date) -> date:
    """The first day of a week, from today on, on which children are here; its first day when there is none."""
    first = max(monday, work.today) if work.today < monday + timedelta(days=7) else monday
    here = work.context.setting.calendar.next_day_here(first)
    return here if here is not None and here < monday + timedelta(days=7) else first


def _proposed(work: UnitOfWork, weighed: Weighed, rows: list[int], deadline: DeadlineView | None) -> date | None:
    """The week to begin with: the best one for the day asked for, else the first that fits, else that needs care, in season first."""
    if deadline and deadline.best_day:
        return deadline.best_day
    for rank in range(3):
        found = next((row for row in rows if weighed.ranks[row] == rank), None)
        if found is not None:
            return date.fromordinal(int(weighed.days[found]))
    return date.fromordinal(int(weighed.days[rows[0]])) if rows else None


def _row(
    work: UnitOfWork,
    asked: FinderQuery,
    weighed: Weighed,
    row: int,
    line: picture.FinderLine,
    deadline: DeadlineView | None,
    chosen: date | None,
) -> FinderRow:
    judged = school_fit.at(weighed, row, asked.crop, asked.method, asked.setting)
    day = judged.dates.start
    told = [
        f"up {words.span(judged.dates.emerge_from, judged.dates.emerge_to)}"
        if judged.dates.emerge_from and judged.dates.emerge_to
        else "",
        f"first picking {words.span(judged.dates.first_pick_early, judged.dates.first_pick_late)}"
        if line.ripens
        else "does not ripen",
        f"may stand until {words.short_day(judged.dates.stands_until)}"
        if line.ripens and line.stand_width and judged.dates.stands_until
        else "",
    ]
    mark = ""
    if deadline:
        week = {day - timedelta(days=day.weekday())}
        mark = next(
            (
                word
                for word, known in (("best", deadline.best_day), ("latest", deadline.latest_day))
                if known and known - timedelta(days=known.weekday()) in week
            ),
            "",
        )
    return FinderRow(
        words.short_day(day),
        day.isoformat(),
        _verdict(judged),
        sheet_parts.VERDICT_CLASS[judged.verdict],
        short_reason(judged.findings),
        f"{judged.n} of {judged.of}" if judged.of else "",
        words.joined(told),
        mark,
        line,
    )


def _verdict(judged: Fit) -> str:
    return "no school" if any(f.code == "sow_no_school" for f in judged.findings) else judged.verdict


def _left_out(work: UnitOfWork, asked: FinderQuery, weighed: Weighed, rows: list[int]) -> str:
    """Which of the weeks on the page are left out, in a sentence."""
    if not rows:
        judged = school_fit.at(weighed, 0, asked.crop, asked.method, asked.setting)
        reason = next((f for f in judged.findings if f.severity == "fault"), None)
        return (
            f"No week of the coming year lets it ripen here. "
            f"{reason.message if reason else ''} {reason.reason if reason else ''}"
        ).strip()
    gone = [row for row in range(rows[0], rows[-1]) if row not in rows]
    if not gone:
        return ""
    first, last = (date.fromordinal(int(weighed.days[row])) for row in (gone[0], gone[-1]))
    judged = school_fit.at(weighed, gone[0], asked.crop, asked.method, asked.setting)
    reason = next((f for f in judged.findings if f.severity == "fault"), None)
    why = f": {SHORT.get(reason.code, '')}" if reason else ""
    return (
        f"{words.month_name(first)} to {words.month_name(last)} left out{why}."
        if first.month != last.month
        else f"{words.month_name(first)} left out{why}."
    )


def _facts(work: UnitOfWork, asked: FinderQuery, weighed: Weighed) -> str:
    years = int(weighed.of.max()) if weighed.measured else 0
    place = asked.bed.name if asked.bed else ""
    cover = terms("cover")[asked.setting.covering.key] if asked.setting.covering else ""
    indoors = (
        f"indoors at {format_temperature(asked.setting.indoors_c, work.context.school.units)}"
        if asked.setting.indoors_c is not None
        else ""
    )
    own = "by your own figures" if asked.crop.own else ""
    return words.joined(
        [
            terms("method")[asked.method],
            place,
            cover,
            indoors,
            f"ready {terms('ready_by')[asked.setting.ready_by]}" if years else "ready by packet days",
            f"{years} years of weather" if years else "no weather on file, so rougher",
            own,
        ]
    )


def _feasts(work: UnitOfWork) -> list[tuple[str, str]]:
    """Days to be ready for: feasts and last days of school to come."""
    found = []
    for year in work.context.calendar.years:
        found += [(f.starts, f.name) for f in year.feasts if f.starts >= work.today]
        last = work.context.calendar.last_school_day(year)
        if last is not None and last >= work.today and not any(day == last for day, _ in found):
            found.append((last, "Last day of school"))
    return [(day.isoformat(), f"{name}, {words.short_day(day)} {day.year}") for day, name in sorted(found)]
