"""School: the calendar with its terms and breaks, classes, the place with its freeze dates, and the people."""

from datetime import date
from typing import Annotated, Any, Literal
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response

from almanaque.commands import calendar as commands
from almanaque.core.errors import BadInput
from almanaque.core.school_year import WEEKDAYS, Span
from almanaque.standins.weather import SOURCE_NAME
from almanaque.store import accounts
from almanaque.web import frame, words
from almanaque.web.desk import Desk, Room, may, parse_day

router = APIRouter()
Change = Annotated[Desk, Depends(may("calendar"))]


@router.get("/school")
def school(desk: Annotated[Desk, Depends(may("look"))]) -> Response:
    with desk.open() as room:
        return _page(room, {})


@router.post("/school/spans")
def save_span(
    desk: Change,
    kind: Annotated[Literal["term", "closure"], Form()],
    year: Annotated[UUID, Form()],
    id: Annotated[str, Form()] = "",
    name: Annotated[str, Form()] = "",
    starts: Annotated[str, Form()] = "",
    ends: Annotated[str, Form()] = "",
    action: Annotated[Literal["save", "delete"], Form()] = "save",
) -> Response:
    """Add, change or delete a term or break. What cannot be kept stays in the form with the reason."""
    try:
        with desk.open() as room:
            span_id = _id(id)
            if action == "delete":
                commands.delete_span(room.connection, room.context, kind, span_id)
            else:
                first, last = parse_day(starts, field="starts"), parse_day(ends or starts, field="ends")
                commands.save_span(room.connection, room.context, kind, year, span_id, Span(name.strip(), first, last))
            return frame.go(room, "/school", changed="yes")
    except BadInput as error:
        with desk.open() as room:
            typed = {"kind": kind, "year": str(year), "id": id, "name": name, "starts": starts, "ends": ends}
            return _page(room, typed, error=error.message, status=422)


def _page(room: Room, typed: dict[str, str], *, error: str = "", status: int = 200) -> Response:
    context = room.context
    shown = next((row for row in context.years if row.starts <= room.day <= row.ends), None)
    names = context.group_names(room.day)
    changed = room.desk.request.query_params.get("changed") == "yes"
    values: dict[str, Any] = {
        "year": shown,
        "years": [(row.name, row.starts.isoformat(), row is shown) for row in context.years],
        "new_ids": {"term": str(uuid4()), "closure": str(uuid4())},
        "typed": typed,
        "error": error,
        "saved": "Saved. Dates and jobs that depend on it are being worked out again in the background."
        if changed
        else "",
        "school_days": _school_days(room, shown.starts, shown.ends) if shown else "",
        "groups": [
            {
                "name": names[str(group.id)],
                "nick": group.name,
                "head": words.count(group.head_count, "child", "children"),
                "slots": ", ".join(
                    f"{WEEKDAYS[s.weekday]} {words.clock(s.starts_at)} ({s.minutes} min)" for s in group.slots
                ),
            }
            for group in context.groups
        ],
        "place": _place(room),
        "people": accounts.people(room.connection),
    }
    return frame.page(room, "school", "School", values, status=status)


def _school_days(room: Room, start: date, end: date) -> str:
    total = room.context.calendar.school_days_between(start, end)
    left = room.context.calendar.school_days_left(room.day)
    return f"{total} school days, {left} of them from {words.short_day(room.day)} on."


def _place(room: Room) -> list[tuple[str, str]]:
    school, climate = room.context.school, room.context.climate
    rows = [
        ("Place", f"{abs(school.latitude):.1f}° {'north' if school.latitude >= 0 else 'south'}, "
                  f"{abs(school.longitude):.1f}° {'east' if school.longitude >= 0 else 'west'}"),
        *([("Theme of the year", school.theme)] if school.theme else []),
        ("Time zone", school.zone),
        ("Units", "feet, inches and °F" if school.units == "us" else "metric"),
    ]  # fmt: skip
    if climate is None or not climate.seasons:
        return [*rows, ("Freeze dates", "No weather on file, so frost is not judged.")]
    start = climate.season_start(room.day)
    last, late = (climate.date_of(climate.last_freeze(p), start) for p in (0.5, 0.9))
    first, early = (climate.date_of(climate.first_freeze(p), start) for p in (0.5, 0.1))
    if last and late:
        rows.append(
            (
                "Last freeze",
                f"in the middle year {words.short_day(last)}; one year in ten still after {words.short_day(late)}",
            )
        )
    if first and early:
        rows.append(
            (
                "First freeze",
                f"in the middle year {words.short_day(first)}; one year in ten before {words.short_day(early)}",
            )
        )
    seasons = f"{climate.seasons} seasons of the {school.weather_source}"
    if climate.seasons_without:
        seasons += f", {climate.seasons_without} of them without a freeze"
    made_up = " Its numbers are made up from a seed." if school.weather_source == SOURCE_NAME else ""
    return [*rows, ("Weather on file", f"{seasons}.{made_up}")]


def _id(text: str) -> UUID:
    try:
        return UUID(text)
    except ValueError:
        raise BadInput("The form was incomplete. Load the page again.") from None
