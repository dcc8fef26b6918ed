"""Making a garden pass: from which day to which it opens the garden, and when these days begin and end by the server's clock."""

from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from typing import Any, Literal
from uuid import UUID, uuid4
from zoneinfo import ZoneInfo

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.errors import BadInput
from almanaque.core.school.school_year import Calendar, Span
from almanaque.store.accounts import audit, garden_passes

When = Literal["term", "break", "days"]
MOST_DAYS = 200  # a long term or a whole summer: our own rule
USUAL_DAYS = 14  # where the calendar says nothing


@dataclass(frozen=True)
class PassWish:
    """A pass for one class, or for a carer without `group_id`. `now` is the server's instant, `today` the school's day."""

    label: str
    group_id: UUID | None
    starts: date
    ends: date
    now: datetime
    today: date


def usual_spans(calendar: Calendar, today: date) -> dict[When, Span]:
    """For which days a pass is usually made, from today on: to the end of the term at hand, or of the break at hand or to come.

    One for the break opens before it, so that carers can take their rounds while there is still time to find others.
    """
    found: dict[When, Span] = {}
    term, pause = calendar.term_of(today), calendar.next_break(today)
    if pause is not None:
        found["break"] = Span(pause.name, today, pause.ends)
    if term is not None and (pause is None or today < pause.starts):
        found["term"] = Span(term.name, today, term.ends)
    return dict(sorted(found.items(), key=lambda one: one[1].ends))


def make(connection: Connection[Any], context: Context, wish: PassWish, token_hash: bytes, *, by: UUID | None) -> None:
    """Make a pass whose secret has this hash. Raises BadInput for days that are over, the wrong way round, or too many."""
    if wish.group_id is not None and wish.group_id not in {g.id for g in context.groups}:
        raise BadInput("accounts.no_such_group", field="group")
    if wish.ends < wish.starts or wish.ends < wish.today:
        raise BadInput("accounts.pass_days_over", field="ends")
    if (wish.ends - wish.starts).days >= MOST_DAYS or (wish.starts - wish.today).days > 366:
        raise BadInput("accounts.pass_too_long", field="ends", most=MOST_DAYS)
    opens = _midnight(context.school.zone, wish.now, wish.starts - wish.today)
    garden_passes.save(
        connection,
        context.school.id,
        uuid4(),
        label=wish.label,
        group_id=wish.group_id,
        token_hash=token_hash,
        opens_at=min(opens, wish.now) if wish.starts <= wish.today else opens,
        expires_at=_midnight(context.school.zone, wish.now, wish.ends - wish.today + timedelta(days=1)),
        by=by,
    )
    audit.note(connection, context.school.id, by, "pass made", wish.label)


def day_of(zone: str, moment: datetime, *, now: datetime, today: date) -> date:
    """The school's day of an instant; in a demo, whose day stands still, as far from its day as the instant is from now."""
    local = ZoneInfo(zone)
    return today + (moment.astimezone(local).date() - now.astimezone(local).date())


def _midnight(zone: str, now: datetime, away: timedelta) -> datetime:
    """The beginning of the day that is so far from today at the school."""
    local = ZoneInfo(zone)
    return datetime.combine(now.astimezone(local).date() + away, time(), local)
