"""School: which weather station fills which source, who is told by mail, and what was sent."""

from dataclasses import dataclass
from datetime import timedelta
from typing import Annotated
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Depends, Form, Response

from almanaque.commands.place import readings
from almanaque.core.place.weather_station import FIELDS
from almanaque.store.place import weather_stations
from almanaque.store.school import outgoing_mail
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Plan = Annotated[RequestScope, Depends(may("plan"))]
DOUBTS_BACK = timedelta(days=14)


@router.post("/school/weather/device")
def link(scope: Plan, source: Annotated[str, Form()] = "", device: Annotated[str, Form()] = "") -> Response:
    """Let a source be filled by a device; a new source of the garden's own is made for it."""
    with scope.open() as work:
        readings.link_device(work.connection, work.context, forms.name(source, field="source", most=60), device.strip())
        return frame.go(work, "/school/weather")


@router.post("/school/weather/mail")
def tell(scope: Plan, mail_to: Annotated[str, Form()] = "") -> Response:
    """Say who gets warnings by mail."""
    with scope.open() as work:
        readings.warn_by_mail(work.connection, [part.strip() for part in mail_to.split(",") if part.strip()])
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
                "state": _state(one, zone),
            }
            for one in outgoing_mail.mails(work.connection)
        ]
        return frame.page(work, "school", "Mail", {"mails": rows}, template="place/mail.html")


def _state(one: outgoing_mail.Mail, zone: ZoneInfo) -> str:
    if one.sent_at:
        return f"sent {words.short_day(one.sent_at.astimezone(zone).date())}"
    tries = f" after {words.count(one.tries, 'try', 'tries')}" if one.tries else ""
    return f"given up{tries}" if one.given_up_at else f"waiting{tries}"


@dataclass(frozen=True)
class DeviceRowView(View):
    """A row of `DevicesView`."""

    source: str
    device: str
    state: str
    doubt_count: str
    doubts: list[str]


@dataclass(frozen=True)
class DevicesView(View):
    """Filled by `device_values`, read by its template."""

    devices: list[DeviceRowView]
    mail_to: str


def device_values(work: UnitOfWork) -> DevicesView:
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
            DeviceRowView(
                source=row.source,
                device=row.device,
                state=f"{answered}. {row.problem}".strip(),
                doubt_count=words.count(len(doubts), "doubtful reading"),
                doubts=[f"{words.short_day(d.day)}: {FIELDS.get(d.what, 'day')} {d.value} {d.why}" for d in doubts],
            )
        )
    return DevicesView(devices=rows, mail_to=work.context.school.mail_to)
