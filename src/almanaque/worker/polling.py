"""What the worker does by the clock, school by school: ask stations, hand mail over, ask each night for what has gone stale."""

import smtplib
import ssl
import urllib.error
import urllib.request
from collections.abc import Callable
from email.message import EmailMessage
from email.utils import formatdate
from typing import Protocol
from urllib.parse import quote, unquote, urlsplit
from uuid import UUID

import structlog

from almanaque.clock import Clock
from almanaque.commands import context as contexts
from almanaque.commands.place import weather_station
from almanaque.commands.place.weather_station import NoAnswer
from almanaque.commands.week import carer_rounds
from almanaque.settings import Settings
from almanaque.standins.outbox import Outbox
from almanaque.store import errors, queue
from almanaque.store.db import Database
from almanaque.store.place import weather_stations
from almanaque.store.school import outgoing_mail, upkeep
from almanaque.store.school.outgoing_mail import Mail

log = structlog.get_logger()
PATIENCE_S = 2.0  # a station that is slower is asked again in ten minutes


class NoMailServer(Exception):
    """Nobody takes mail at the moment; `str(error)` says what went wrong."""


class Post(Protocol):
    """Whoever takes mail: a mail server, or the demo's folder."""

    def send(self, message: EmailMessage) -> None: ...


class Rounds:
    """The worker's rounds through all schools. One school's trouble is logged and does not hold up the others."""

    def __init__(self, database: Database, clock: Clock, chosen: Settings) -> None:
        self.database, self.clock, self.chosen = database, clock, chosen

    def stations(self) -> bool:
        """Ask every station for its readings, then let mail wait for what cannot wait. True when all of them answered."""
        answered = [True]
        self._through("stations", lambda school_id: answered.append(self._stations_of(school_id)))
        return all(answered)

    def _stations_of(self, school_id: UUID) -> bool:
        with self.database.school(school_id) as connection:
            devices = weather_stations.devices(connection) if self.chosen.station_url else []
        said = {row.device: self._asked(row.device) for row in devices}  # nothing in the database waits for a station
        kept = []
        with self.database.school(school_id) as connection:
            context = contexts.load(connection)
            today, now = self.clock.today(context.school.zone), self.clock.now()
            for row in devices:
                kept.append(weather_station.poll(connection, context, row, said[row.device], today=today, now=now))
                log.info("asked a station", school=str(school_id), days=kept[-1])
            weather_station.tell(connection, context, today=today, now=now)
            carer_rounds.remind(connection, context, today)
        return all(kept)

    def mail(self) -> None:
        """Hand over what is due. What is refused is offered again later; without a mail server all of it waits."""
        post = self._post()
        if post is None:
            return
        away = ""
        for school_id in self._schools():
            try:
                if not away:  # else the others' mail would only wait for it too
                    self._mail_of(school_id, post)
            except NoMailServer as error:
                away = f"The mail server did not take it: {error}."
                log.warning("no mail server", problem=str(error))
            if away:
                with self.database.school(school_id) as connection:
                    outgoing_mail.nobody_there(connection, away)

    def _mail_of(self, school_id: UUID, post: Post) -> None:
        with self.database.school(school_id) as connection:
            waiting = outgoing_mail.due(connection)
        for one in waiting:
            try:
                post.send(_message(one, self.chosen.mail_from))
            except smtplib.SMTPDataError as error:
                self._refused(school_id, one, f"it answered {error.smtp_code}", for_good=error.smtp_code >= 500)
            except smtplib.SMTPRecipientsRefused as error:
                codes = [code for code, _ in error.recipients.values()]
                self._refused(school_id, one, "it knows nobody of that address", for_good=min(codes) >= 500)
            except smtplib.SMTPServerDisconnected:
                self._refused(school_id, one, "it ended the connection", for_good=False)
            except OSError as error:  # away, or it does not take mail from us at all
                raise NoMailServer(type(error).__name__) from error
            else:
                with self.database.school(school_id) as connection:
                    outgoing_mail.sent(connection, one.id, now=self.clock.now())

    def _refused(self, school_id: UUID, one: Mail, said: str, *, for_good: bool) -> None:
        log.warning("mail refused", school=str(school_id), said=said)
        with self.database.school(school_id) as connection:
            outgoing_mail.refused(connection, one.id, f"The mail server did not take it: {said}.", for_good=for_good)

    def overdue(self) -> None:
        """Make up for a nightly round that was missed, as on a computer that is switched off at night."""
        with self.database.transaction() as connection:
            missed = upkeep.overdue(connection, "each night", hours=24)
        if missed:
            self.nightly()

    def nightly(self) -> None:
        """Ask for every school to be brought up to date, with its stations' jobs of the weeks to come and what pickings teach."""
        self._through("nightly", self._owed)
        with self.database.transaction() as connection:
            upkeep.done(connection, "each night")

    def _owed(self, school_id: UUID) -> None:
        with self.database.school(school_id) as connection:
            queue.recompute_school(connection, school_id)

    def _through(self, what: str, visit: Callable[[UUID], object]) -> None:
        """Visit every school; what goes wrong in one is logged, and the others get theirs."""
        for school_id in self._schools():
            try:
                visit(school_id)
            except Exception as error:  # whatever it is, the round goes on
                log.error("a round went wrong", what=what, school=str(school_id), exc_info=error)

    def _asked(self, device: str) -> weather_station.Fetch:
        """What a device said when it was asked just now, or that it did not answer."""
        try:
            body = self._fetch(device)
        except NoAnswer as error:
            silent = error

            def nothing(_: str) -> bytes:
                raise silent

            return nothing
        return lambda _: body

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


HERE = ("localhost", "127.0.0.1", "::1")
PATIENCE_MAIL_S = 20


class Server:
    """A mail server, by its address. It is spoken to under TLS with its certificate checked; in the open only on this computer."""

    def __init__(self, url: str) -> None:
        self.url = urlsplit(url)

    def send(self, message: EmailMessage) -> None:
        """Hand a message over. Raises what `smtplib` and the network raise, also for a certificate that is not the server's."""
        host = self.url.hostname or "localhost"
        with self._opened(host) as server:
            server.ehlo()
            if self.url.scheme == "smtp" and server.has_extn("starttls"):
                server.starttls(context=ssl.create_default_context())
                server.ehlo()
            elif self.url.scheme == "smtp" and host not in HERE:
                raise smtplib.SMTPNotSupportedError("the mail server offers no TLS")
            if self.url.username:
                server.login(unquote(self.url.username), unquote(self.url.password or ""))
            server.send_message(message)

    def _opened(self, host: str) -> smtplib.SMTP:
        if self.url.scheme == "smtps":
            context = ssl.create_default_context()
            return smtplib.SMTP_SSL(host, self.url.port or 0, timeout=PATIENCE_MAIL_S, context=context)
        return smtplib.SMTP(host, self.url.port or 0, timeout=PATIENCE_MAIL_S)


def _message(one: Mail, sender: str) -> EmailMessage:
    message = EmailMessage()
    message["Message-ID"] = f"<{one.id}@almanaque>"
    message["Date"] = formatdate(one.made_at.timestamp())
    message["From"] = sender
    message["To"] = one.mail_to
    message["Subject"] = " ".join(one.subject.split())
    message.set_content(one.body)
    return message
