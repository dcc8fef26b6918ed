"""Carers' rounds that somebody has taken. A round without a row is nobody's yet."""

from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store import errors


@dataclass(frozen=True)
class TakenRound:
    """Who walks a round, which pass or account took it, the day on which it was walked, and whether it is offered to others."""

    week: date
    ordinal: int
    taken_by: str
    pass_id: UUID | None
    account_id: UUID | None
    done_on: date | None
    offered: bool = False

    @property
    def key(self) -> tuple[date, int]:
        return self.week, self.ordinal


def taken(connection: Connection[Any], start: date, end: date) -> list[TakenRound]:
    """Rounds of the weeks from `start` to `end` that somebody has taken."""
    rows = connection.cursor(row_factory=class_row(TakenRound))
    return rows.execute(
        """SELECT week, ordinal, taken_by, pass_id, account_id, done_on, offered FROM carer_round
           WHERE week BETWEEN %s AND %s ORDER BY week, ordinal""",
        [start, end],
    ).fetchall()


def take(
    connection: Connection[Any],
    school_id: UUID,
    week: date,
    ordinal: int,
    *,
    by: str,
    pass_id: UUID | None = None,
    account_id: UUID | None = None,
) -> None:
    """Give a round to somebody, one that is offered too. Raises Refused when another has it: two people taking one at once get it once."""
    done = connection.execute(
        """INSERT INTO carer_round (school_id, week, ordinal, taken_by, pass_id, account_id) VALUES (%s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, week, ordinal) DO UPDATE SET taken_by = excluded.taken_by, pass_id = excluded.pass_id,
             account_id = excluded.account_id, offered = false
           WHERE carer_round.offered AND carer_round.done_on IS NULL""",
        [school_id, week, ordinal, by, pass_id, account_id],
    )
    if done.rowcount == 0:
        raise errors.Refused(
            "Somebody has taken that round already. Choose another one.", constraint="carer_round_pkey"
        )


def give_back(
    connection: Connection[Any],
    week: date,
    ordinal: int,
    *,
    pass_id: UUID | None = None,
    account_id: UUID | None = None,
) -> None:
    """Make a round nobody's again; where a pass or an account is named, one that it took itself only.

    Raises NotFound when there is nothing to give back.
    """
    done = connection.execute(
        """DELETE FROM carer_round WHERE week = %(week)s AND ordinal = %(ordinal)s AND done_on IS NULL
           AND (coalesce(%(pass)s::uuid, %(account)s::uuid) IS NULL OR pass_id = %(pass)s OR account_id = %(account)s)""",
        {"week": week, "ordinal": ordinal, "pass": pass_id, "account": account_id},
    )
    if done.rowcount == 0:
        raise errors.NotFound("That round is nobody's, or it was walked already.")


def offer(
    connection: Connection[Any],
    week: date,
    ordinal: int,
    offered: bool,
    *,
    pass_id: UUID | None = None,
    account_id: UUID | None = None,
) -> None:
    """Offer a round to others, who may take it then, or keep it after all; until somebody takes it, it stays whose it is.

    Where a pass or an account is named, one that it took itself only. Raises NotFound when there is nothing to offer.
    """
    done = connection.execute(
        """UPDATE carer_round SET offered = %(offered)s WHERE week = %(week)s AND ordinal = %(ordinal)s AND done_on IS NULL
           AND (coalesce(%(pass)s::uuid, %(account)s::uuid) IS NULL OR pass_id = %(pass)s OR account_id = %(account)s)""",
        {"offered": offered, "week": week, "ordinal": ordinal, "pass": pass_id, "account": account_id},
    )
    if done.rowcount == 0:
        raise errors.NotFound("That round is nobody's, or it was walked already.")


def walked(
    connection: Connection[Any],
    week: date,
    ordinal: int,
    day: date,
    *,
    pass_id: UUID | None = None,
    account_id: UUID | None = None,
) -> None:
    """Note that a round was walked; where a pass or an account is named, one that it took itself only.

    Raises NotFound when it is not taken.
    """
    done = connection.execute(
        """UPDATE carer_round SET done_on = %(day)s WHERE week = %(week)s AND ordinal = %(ordinal)s
           AND (coalesce(%(pass)s::uuid, %(account)s::uuid) IS NULL OR pass_id = %(pass)s OR account_id = %(account)s)""",
        {"week": week, "ordinal": ordinal, "day": day, "pass": pass_id, "account": account_id},
    )
    if done.rowcount == 0:
        raise errors.NotFound("Take the round first; then it can be ticked off.")
