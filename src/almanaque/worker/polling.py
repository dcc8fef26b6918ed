"""What the worker does by the clock, school by school: ask stations, hand mail over, make the stations' jobs of the weeks to come."""

import smtplib
import urllib.error
import urllib.request
from email.message import EmailMessage
from email.utils import formatdate
from typing import Protocol
from urllib.parse import quote, unquote, urlsplit
from uuid import UUID

import structlog

from almanaque.clock import Clock
from almanaque.commands import context as contexts
from almanaque.commands.harvest import learning
from almanaque.commands.place import weather_station
from almanaque.commands.place.weather_station import NoAnswer
from almanaque.commands.week import stations
from almanaque.settings import Settings
from almanaque.standins.outbox import Outbox
from almanaque.store import errors, queue
from almanaque.store.db import Database
from almanaque.store.place import weather_stations
from almanaque.store.school import outgoing_mail
from almanaque.store.school.outgoing_mail import Mail

log = structlog.get_logger()
PATIENCE_S = 2.0  # a station that is slower is asked again in ten minutes


class Post(Protocol):
    """Whoever takes mail: a mail server, or the demo's folder."""

    def send(self, message: EmailMessage) -> None: ...


class Rounds:
    """The worker's rounds through all schools. One school's trouble is logged and does not hold up the others."""

    def __init__(self, database: Database, clock: Clock, chosen: Settings) -> None:
        self.database, self.clock, self.chosen = database, clock, chosen

    def stations(self) -> bool:
        """Ask every station for its readings, then let mail wait for what cannot wait. True when all of them answered."""
        answered = True
        for school_id in self._schools():
            with self.database.school(school_id) as connection:
                context = contexts.load(connection)
                today, now = self.clock.today(context.school.zone), self.clock.now()
                for row in weather_stations.devices(connection) if self.chosen.station_url else ():
                    kept = weather_station.poll(connection, context, row, self._fetch, today=today, now=now)
                    answered = answered and kept > 0
                    log.info("asked a station", school=str(school_id), days=kept)
                weather_station.tell(connection, context, today=today, now=now)
        return answered

    def mail(self) -> None:
        """Hand over what waits; what cannot be handed over waits on, with the reason."""
        post = self._post()
        if post is None:
            return
        for school_id in self._schools():
            with self.database.school(school_id) as connection:
                waiting = outgoing_mail.mails(connection, waiting=True)
            for one in waiting:
                problem = ""
                try:
                    post.send(_message(one, self.chosen.mail_from))
                except (OSError, smtplib.SMTPException) as error:
                    problem = f"The mail server did not take it: {type(error).__name__}."
                    log.warning("mail not sent", school=str(school_id), problem=problem)
                with self.database.school(school_id) as connection:
                    if problem:
                        outgoing_mail.failed(connection, one.id, problem)
                    else:
                        outgoing_mail.sent(connection, one.id, now=self.clock.now())

    def routines(self) -> None:
        """Make the stations' jobs of the weeks to come, and hear what pickings here and near by teach."""
        for school_id in self._schools():
            with self.database.school(school_id) as connection:
                context = contexts.load(connection)
                today = self.clock.today(context.school.zone)
                stations.renew_all(connection, context, today=today)
                if learning.learn(connection, context, today=today) is not context:
                    queue.recompute_school(connection, school_id)

    def _schools(self) -> list[UUID]:
        try:
            with self.database.transaction() as connection:
                return weather_stations.all_schools(connection)
        except errors.StoreError as error:
            log.warning("rounds put off", problem=str(error))
            return []

    def _fetch(self, name: str) -> bytes:
        """Ask one device. The address is the server's own setting; a school only names the device."""
        address = f"{self.chosen.station_url.rstrip('/')}/stations/{quote(name, safe='')}/readings"
        try:
            with urllib.request.urlopen(address, timeout=PATIENCE_S) as reply:  # noqa: S310 - http by the setting
                return bytes(reply.read(weather_station.MOST_BYTES + 1))
        except (TimeoutError, urllib.error.URLError, OSError):
            raise NoAnswer("The station did not answer in time.") from None

    def _post(self) -> Post | None:
        if self.chosen.smtp_url:
            return Server(self.chosen.smtp_url)
        return Outbox(self.chosen.outbox) if self.chosen.outbox else None


class Server:
    """A mail server, by its address."""

    def __init__(self, url: str) -> None:
        self.url = urlsplit(url)

    def send(self, message: EmailMessage) -> None:
        kind = smtplib.SMTP_SSL if self.url.scheme == "smtps" else smtplib.SMTP
        with kind(self.url.hostname or "localhost", self.url.port or 0, timeout=20) as server:
            server.ehlo()
            if self.url.scheme == "smtp" and server.has_extn("starttls"):
                server.starttls()
            if self.url.username:
                server.login(unquote(self.url.username), unquote(self.url.password or ""))
            server.send_message(message)


def _message(one: Mail, sender: str) -> EmailMessage:
    message = EmailMessage()
    message["Message-ID"] = f"<{one.id}@almanaque>"
    message["Date"] = formatdate(one.made_at.timestamp())
    message["From"] = sender
    message["To"] = one.mail_to
    message["Subject"] = " ".join(one.subject.split())
    message.set_content(one.body)
    return message
