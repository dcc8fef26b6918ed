"""Public holidays of a country and region, ticked one by one; none is added unasked."""

from typing import Annotated

from fastapi import APIRouter, Depends, Request, Response

from almanaque.commands.school import calendar as commands
from almanaque.core.errors import BadInput
from almanaque.core.school.school_year import Span
from almanaque.data import public_holidays
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day

router = APIRouter()
Change = Annotated[RequestScope, Depends(may("calendar"))]


@router.get("/school/holidays")
def offered_holidays(scope: Change, country: str = "", region: str = "", year: str = "") -> Response:
    """Public holidays of a country and region to choose from; none is ticked."""
    with scope.open() as work:
        return _page(work, country, region, year)


@router.post("/school/holidays")
def take_holidays(scope: Change, request: Request) -> Response:
    """Add the ticked ones as closed days."""
    with scope.open() as work:
        chosen = []
        for value in request.state.form.getlist("take"):
            day, _, name = str(value).partition(" ")
            found = parse_day(day)
            chosen.append(Span(forms.name(name), found, found, "holiday"))
        if not chosen:
            raise BadInput("school.no_holiday_ticked")
        commands.add_closures(work.connection, work.context, chosen)
        return frame.go(work, "/school", changed="yes")


def _page(work: UnitOfWork, country: str, region: str, year: str) -> Response:
    regions = public_holidays.regions(country) if country else []
    shown = next((y for y in work.context.years if y.name == year), None) or next(
        (y for y in work.context.years if y.starts <= work.day <= y.ends),
        work.context.years[-1] if work.context.years else None,
    )
    offered: list[dict[str, str]] = []
    if country and shown is not None:
        calendar = work.context.calendar
        for day, name in public_holidays.between(country, region, shown.starts, shown.ends):
            closed = next((r.span.name for r in shown.closures if day in r.span), "")
            state = f"in {closed}" if closed else "" if calendar.in_session(day) else "no school day anyway"
            offered.append(
                {"value": f"{day.isoformat()} {name}", "day": words.weekday_day(day), "name": name, "state": state}
            )
    values = {
        "countries": public_holidays.countries(),
        "country": country,
        "regions": regions,
        "region": region,
        "offered": offered,
        "year_name": shown.name if shown else "",
        "year_names": [y.name for y in work.context.years],
    }
    return frame.page(work, "school", "Public holidays", values, template="school/public_holidays.html")
