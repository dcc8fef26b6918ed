"""What one request knows: who asks, with which rights, on which day; and its unit of work, one transaction in the visitor's school."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import date
from typing import Any

from fastapi import Request
from psycopg import Connection

from almanaque.clock import Clock
from almanaque.commands import context as contexts
from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.core.accounts.permissions import RIGHTS, Right
from almanaque.core.errors import BadInput
from almanaque.core.words import terms
from almanaque.store.accounts import accounts, garden_passes
from almanaque.store.accounts.accounts import Visitor
from almanaque.store.db import Database
from almanaque.store.school import written_once
from almanaque.web import once, security


@dataclass(frozen=True)
class UnitOfWork:
    """An open transaction in the visitor's school. `day` is the ribbon's, `today` the clock's."""

    scope: "RequestScope"
    connection: Connection[Any]
    context: Context
    today: date
    day: date
    day_problem: str

    def actor(self, version: int | None = None) -> Actor:
        return Actor(self.scope.visitor.account_id, self.today, version)

    @property
    def moved(self) -> bool:
        """True when the ribbon stands on another day than today."""
        return self.day != self.today


@dataclass(frozen=True)
class RequestScope:
    request: Request
    visitor: Visitor
    token_hash: bytes

    @property
    def database(self) -> Database:
        database: Database = self.request.app.state.database
        return database

    @property
    def clock(self) -> Clock:
        clock: Clock = self.request.app.state.clock
        return Clock(self.visitor.demo_day or clock.demo_day) if clock.demo_day else clock

    def may(self, right: Right) -> bool:
        return right in RIGHTS.get(self.visitor.role, frozenset())

    def refuse_taken(self) -> None:
        """For what is checked before its transaction. Raises TakenBefore for a form that was written before."""
        number = once.peeked(self.request)
        if number is not None:
            with self.database.school(self.visitor.school_id) as connection:
                written_once.look(connection, number)

    @contextmanager
    def open(self, *, only_looks: bool = False) -> Iterator[UnitOfWork]:
        """One transaction: it is kept when the block ends and undone when it raises.

        The first one of a request that writes keeps the number of its form, unless it `only_looks`. Raises TakenBefore for a
        form that was written before.
        """
        number = None if only_looks else once.number_of(self.request)
        with self.database.school(self.visitor.school_id) as connection:
            if number is not None:
                written_once.begin(connection, self.visitor.school_id, number)
            context = contexts.load(connection)
            today = self.clock.today(context.school.zone)
            day, problem = read_day(self.request.query_params.get("day", ""), today)
            yield UnitOfWork(self, connection, context, today, day, problem)
            if number is not None and (address := once.leads_to(self.request)):
                written_once.led_to(connection, number, address)


def may(right: Right) -> Callable[[Request], RequestScope]:
    """The request of a visitor who has this right; others are sent to log in, or told what it would take."""

    def scope(request: Request) -> RequestScope:
        holds_pass = right == "pass"
        token = security.cookie(request, security.PASS_COOKIE if holds_pass else security.SESSION_COOKIE)
        if not token:
            raise security.NotLoggedIn
        hashed = security.token_hash(token)
        with request.app.state.database.transaction() as connection:
            visitor = (garden_passes if holds_pass else accounts).visitor(connection, hashed)
        if visitor is None:
            raise security.NotLoggedIn
        found = RequestScope(request, visitor, hashed)
        if not found.may(right):
            article = "An" if visitor.role == "educator" else "A"
            raise security.NotAllowed(
                f"{article} {visitor.role} cannot {terms('right')[right]}. Ask the school's coordinator if you should."
            )
        return found

    scope.right = right  # type: ignore[attr-defined]  # read before anything large is parsed
    return scope


def read_day(text: str, today: date) -> tuple[date, str]:
    """The day in the address, or today with a sentence when it is none."""
    if not text:
        return today, ""
    try:
        return parse_day(text), ""
    except BadInput as error:
        return today, f"{error.message} Today is shown."


def parse_day(text: str, *, field: str = "day") -> date:
    """A date as forms send it. Raises BadInput for 31 February and for years far away."""
    try:
        found = date.fromisoformat(text.strip())
    except ValueError:
        raise BadInput("forms.not_a_day", field=field, text=text.strip()[:20]) from None
    if not 1950 <= found.year <= 2150:
        raise BadInput("forms.year_too_far", field=field, year=found.year)
    return found
