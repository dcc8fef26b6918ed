"""What to sow this month: every crop that can be started while children are here, with the beds that can take it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated

from fastapi import APIRouter, Depends, Response

from almanaque.commands.growth import forecasts
from almanaque.commands.year import shortlist
from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.core.words import terms
from almanaque.core.words.days import MONTH_NAMES
from almanaque.core.year.shortlist import Places, Sowable, places_for
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.year.short_reasons import short_reason

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
COLUMNS = (("fits", "Fits"), ("with care", "Fits with care"))
BEDS_SHOWN = 3  # names of beds in a line before they are counted


@dataclass(frozen=True)
class SowRow:
    """A crop that can be started, as the page shows it."""

    verdict: str
    group: str
    name: str
    method: str
    when: str
    picking: str
    years: str
    why: str
    beds: str
    all_beds: str
    finder: str


@router.get("/year/sow")
def sow(scope: Look, month: str = "", show: str = "", bed: str = "") -> Response:
    """What can be started in a month while children are here, in any bed or in one."""
    with scope.open() as work:
        first = _month(month, work.day)
        following = (first + timedelta(days=32)).replace(day=1)
        starts = max(first, work.today) if first <= work.today < following else first
        ends = following - timedelta(days=1)
        beds = garden.beds(work.connection)
        chosen = garden.bed(work.connection, forms.row_id(bed)) if bed.strip() else None
        shown, others = _lists(work, chosen, beds, starts, ends)
        here = work.context.calendar.days_here_between(starts, ends)
        values = {
            "columns": [
                (title, [row for row in shown if row.verdict == key and show in ("", row.group)])
                for key, title in COLUMNS
            ],
            "others": [
                {"key": crop.key, "name": crop.name.en, "why": why} for crop, why in others if show in ("", crop.group)
            ],
            "before": _step(first - timedelta(days=1)),
            "after": _step(following),
            "month": first.strftime("%Y-%m"),
            "show": show,
            "groups": [("", "all kinds"), *((g, g) for g in sorted({crop.group for crop in work.context.crops}))],
            "beds": [("", "any bed with room"), *((str(b.id), b.name) for b in beds if not b.indoors or b == chosen)],
            "bed": bed.strip(),
            "facts": words.joined(
                [
                    f"{words.span(starts, ends)} {ends.year}",
                    chosen.name if chosen else "",
                    f"{len(shown)} of {len(work.context.crops)} crops",
                    words.count(here, "school day"),
                ]
            ),
            "nobody": "" if here else "Nobody is at school in this month.",
        }
        return frame.page(
            work, "year", f"What to sow in {MONTH_NAMES[first.month - 1]}", values, template="year/what_to_sow.html"
        )


def _lists(
    work: UnitOfWork, chosen: Bed | None, beds: Sequence[Bed], starts: date, ends: date
) -> tuple[list[SowRow], list[tuple[Crop, str]]]:
    """The crops that can be started, and the others with the one reason against each."""
    context = work.context
    setting = forecasts.setting_in(context, chosen, starts, None) if chosen else context.setting
    spaces = shortlist.free_spaces(
        work.connection, context, starts, today=work.today, beds=[chosen] if chosen else beds
    )
    month = shortlist.to_sow(context, starts, ends, setting)
    placed = [(item, places_for(item.fit, spaces, context.school.units)) for item in month.sowable]
    shown = [_row(work, item, places, chosen, len(spaces)) for item, places in placed if places.names]
    nowhere = [(item.crop, places.against) for item, places in placed if not places.names]
    return shown, sorted([*nowhere, *month.others], key=lambda other: other[0].name.en)


def _row(work: UnitOfWork, item: Sowable, places: Places, chosen: Bed | None, of: int) -> SowRow:
    dates, crop = item.fit.dates, item.crop
    verdict = "with care" if places.against else item.verdict
    names = list(places.names)
    everywhere = len(names) == of and of > 1
    more = f" and {len(names) - BEDS_SHOWN} more" if len(names) > BEDS_SHOWN else ""
    beds = "any bed with room" if everywhere else "" if chosen else ", ".join(names[:BEDS_SHOWN]) + more
    return SowRow(
        verdict,
        crop.group,
        crop.name.en,
        terms("method")[item.method],
        words.span(item.first, item.last),
        words.span(dates.first_pick, dates.last_pick)
        + ("" if dates.first_pick.year == item.first.year else f" {dates.first_pick.year}"),
        f"{item.fit.n} of {item.fit.of} years" if item.fit.of else "",
        places.against or short_reason(item.fit.findings),
        beds,
        ", ".join(names) if more and not everywhere else "",
        frame.address(
            work,
            "/year/finder",
            crop=crop.key,
            method=item.method,
            sow=item.first.isoformat(),
            **({"bed": str(chosen.id)} if chosen else {}),
        ),
    )


def _month(text: str, day: date) -> date:
    if not text.strip():
        return day.replace(day=1)
    try:
        found = date.fromisoformat(f"{text.strip()}-01")
    except ValueError:
        raise BadInput("year.not_a_month", field="month", text=text.strip()[:12]) from None
    if not 1950 <= found.year <= 2150:
        raise BadInput("year.month_too_far", field="month", year=found.year)
    return found


def _step(day: date) -> tuple[str, str]:
    """A month as the address writes it, and its name."""
    return day.strftime("%Y-%m"), MONTH_NAMES[day.month - 1]
