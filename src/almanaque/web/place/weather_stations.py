"""School: which weather station fills which source, who is told by mail, and what was sent."""

import re
from datetime import timedelta
from typing import Annotated, Any
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Depends, Form, Response

from almanaque.core.errors import BadInput
from almanaque.core.place.weather_station import FIELDS
from almanaque.store.place import weather, weather_stations
from almanaque.store.school import outgoing_mail, school
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may

router = APIRouter()
Plan = Annotated[RequestScope, Depends(may("plan"))]
ADDRESS = re.compile(r"[^@\s,<>\"]{1,64}@[A-Za-z0-9.-]{1,190}")
MOST_ADDRESSES = 8
DOUBTS_BACK = timedelta(days=14)


@router.post("/school/weather/device")
def link(scope: Plan, source: Annotated[str, Form()] = "", device: Annotated[str, Form()] = "") -> Response:
    """Let a source be filled by a device; a new source of the garden's own is made for it."""
    with scope.open() as work:
        name, wanted = forms.name(source, field="source", most=60), device.strip()
        if not re.fullmatch(r"[A-Za-z0-9-]{0,64}", wanted):
            raise BadInput(
                "The name of a device has letters, digits and hyphens. Ask whoever runs this server.", field="device"
            )
        known = next((s for s in weather.sources(work.connection) if s.name == name), None)
        if known is not None and known.kind != "garden":
            raise BadInput("A station fills a source of the garden's own. Choose another name.", field="source")
        if known is None:
            weather.save_source(work.connection, work.context.school.id, name, "garden", "Filled by a station.")
        weather_stations.link(work.connection, name, wanted)
        return frame.go(work, "/school/weather")


@router.post("/school/weather/mail")
def tell(scope: Plan, mail_to: Annotated[str, Form()] = "") -> Response:
    """Say who gets warnings by mail."""
    with scope.open() as work:
        addresses = [part.strip() for part in mail_to.split(",") if part.strip()]
        if len(addresses) > MOST_ADDRESSES or any(not ADDRESS.fullmatch(one) for one in addresses):
            raise BadInput(
                f"Write at most {MOST_ADDRESSES} addresses with commas between, such as garden@school.example.",
                field="mail_to",
            )
        school.set_mail_to(work.connection, ", ".join(addresses))
        return frame.go(work, "/school/weather")


@router.get("/school/mail")
def sent(scope: Plan) -> Response:
    with scope.open() as work:
        zone = ZoneInfo(work.context.school.zone)
        rows = [
            {
                "subject": one.subject,
                "body": one.body,
                "mail_to": one.mail_to,
                "problem": one.problem,
                "state": f"sent {words.short_day(one.sent_at.astimezone(zone).date())}" if one.sent_at else "waiting",
            }
            for one in outgoing_mail.mails(work.connection)
        ]
        return frame.page(work, "school", "Mail", {"mails": rows}, template="place/mail.html")


def device_values(work: UnitOfWork) -> dict[str, Any]:
    """What the page on weather shows of stations and mail."""
    zone = ZoneInfo(work.context.school.zone)
    rows = []
    for row in weather_stations.devices(work.connection):
        doubts = weather_stations.doubts(work.connection, row.source, work.today - DOUBTS_BACK)
        answered = (
            f"answered {words.short_day(row.answered_at.astimezone(zone).date())} {words.clock(row.answered_at.astimezone(zone).time())}"
            if row.answered_at
            else "has not answered yet"
        )
        rows.append(
            {
                "source": row.source,
                "device": row.device,
                "state": f"{answered}. {row.problem}".strip(),
                "doubt_count": words.count(len(doubts), "doubtful reading"),
                "doubts": [f"{words.short_day(d.day)}: {FIELDS.get(d.what, 'day')} {d.value} {d.why}" for d in doubts],
            }
        )
    return {"devices": rows, "mail_to": work.context.school.mail_to}
