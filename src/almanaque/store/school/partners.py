"""Partners and helpers: what they can give, and when they were last asked."""

from dataclasses import dataclass
from datetime import date
from typing import Any, Literal, get_args
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store import errors

PartnerKind = Literal["hands", "advice", "materials", "money", "place"]
PARTNER_KINDS: tuple[PartnerKind, ...] = get_args(PartnerKind)


@dataclass(frozen=True)
class Partner:
    id: UUID
    name: str
    kind: PartnerKind
    gives: str
    contact: str
    asked_on: date | None
    answer: str


def partners(connection: Connection[Any]) -> list[Partner]:
    """Those not asked for longest first, so that it is not always the same who are asked."""
    return (
        connection.cursor(row_factory=class_row(Partner))
        .execute(
            "SELECT id, name, kind, gives, contact, asked_on, answer FROM partner ORDER BY asked_on NULLS FIRST, name"
        )
        .fetchall()
    )


def hold(connection: Connection[Any]) -> None:
    """Let nobody else change partners until the transaction ends."""
    connection.execute("SELECT FROM partner ORDER BY id FOR UPDATE")


def save(connection: Connection[Any], school_id: UUID, partner: Partner) -> None:
    connection.execute(
        """INSERT INTO partner (school_id, id, name, kind, gives, contact, asked_on, answer)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET name = excluded.name, kind = excluded.kind, gives = excluded.gives,
             contact = excluded.contact, asked_on = excluded.asked_on, answer = excluded.answer""",
        [
            school_id,
            partner.id,
            partner.name,
            partner.kind,
            partner.gives,
            partner.contact,
            partner.asked_on,
            partner.answer,
        ],
    )


def delete(connection: Connection[Any], partner_id: UUID) -> None:
    if connection.execute("DELETE FROM partner WHERE id = %s", [partner_id]).rowcount == 0:
        raise errors.NotFound("That partner is not there any more.")
