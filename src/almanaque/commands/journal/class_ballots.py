"""Ballots filled in by children, at the class page or at home; counted for the class when an educator says so."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.school import turn_of_year
from almanaque.core.errors import BadInput
from almanaque.core.journal import class_ballots as rules
from almanaque.core.journal.class_ballots import ChildBallot
from almanaque.store.journal import class_ballots as store
from almanaque.store.journal.class_ballots import CastBallot
from almanaque.store.school import turn_of_year as ballots


@dataclass(frozen=True)
class BallotBox:
    """What lies in a ballot's box for a class, beside how many children it has."""

    group_id: UUID
    children: int
    cast: Sequence[CastBallot]

    @property
    def at_school(self) -> int:
        return sum(not one.from_home for one in self.cast)

    @property
    def from_home(self) -> int:
        return sum(one.from_home for one in self.cast)

    @property
    def dots(self) -> dict[str, int]:
        return rules.dots(one.filled for one in self.cast)

    @property
    def wishes(self) -> list[CastBallot]:
        return [one for one in self.cast if one.wish]


def box(connection: Connection[Any], context: Context, ballot_id: UUID, group_id: UUID) -> BallotBox:
    """What a class has put in so far."""
    children = next((g.head_count for g in context.groups if g.id == group_id), 0)
    return BallotBox(group_id, children, store.cast(connection, ballot_id, group_id))


def cast(
    connection: Connection[Any],
    context: Context,
    ballot_id: UUID,
    group_id: UUID,
    number: UUID,
    filled: ChildBallot,
    *,
    day: date,
    tablet: UUID | None = None,
    reader: bytes | None = None,
) -> None:
    """Put a ballot in. Raises BadInput when the ballot has ended, and when more lie in the box than the class has children."""
    store.hold(connection, ballot_id)
    if ballots.ballot(connection, ballot_id).closed_on is not None:
        raise BadInput("school.ballot_ended")
    there = box(connection, context, ballot_id, group_id)
    again = number in {one.id for one in there.cast} or (
        reader is not None and store.has_cast(connection, ballot_id, group_id, reader)
    )
    if not again and not rules.room(len(there.cast), there.children):
        raise BadInput("journal.class_all_ballots_in", field="dots")
    store.save(
        connection,
        context.school.id,
        ballot_id,
        group_id,
        number,
        filled,
        day=day,
        tablet=tablet,
        reader=reader,
    )


def count(connection: Connection[Any], context: Context, ballot_id: UUID, group_id: UUID) -> None:
    """Take the dots in the box as the class's votes, in place of what was counted before."""
    known = dict(ballots.ballot_crops(connection, ballot_id))
    dots = box(connection, context, ballot_id, group_id).dots
    turn_of_year.vote(
        connection,
        context,
        ballot_id,
        group_id,
        {crop: dots.get(crop, 0) for crop in known},
        most_each=rules.DOTS,
    )
