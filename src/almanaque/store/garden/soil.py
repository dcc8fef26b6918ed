"""Soil tests and what was put on a bed."""

from dataclasses import dataclass
from datetime import date
from typing import Any, Literal, get_args
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.core.garden.site_suitability import Soil
from almanaque.store import errors

Amount = Literal["", "low", "middling", "high"]
Drainage = Literal["", "slow", "good", "fast"]
AmendmentKind = Literal[
    "compost", "composted manure", "raw manure", "fertiliser", "lime", "sulphur", "mulch", "leaf mould", "soil", "other"
]
AMENDMENTS: tuple[AmendmentKind, ...] = get_args(AmendmentKind)


@dataclass(frozen=True)
class SoilTest:
    """A laboratory's result, as it was entered."""

    id: UUID
    bed_id: UUID
    taken_on: date
    laboratory: str
    ph: float | None
    nitrogen: Amount
    phosphorus: Amount
    potassium: Amount
    texture: str
    drainage: Drainage
    lead_ppm: float | None
    advice: str


@dataclass(frozen=True)
class Amendment:
    """What was put on, by volume or by weight; `label` is what the bag says."""

    id: UUID
    bed_id: UUID
    on_day: date
    kind: AmendmentKind
    litres: float | None
    grams: float | None
    label: str


def tests(connection: Connection[Any], bed_id: UUID) -> list[SoilTest]:
    """Newest first."""
    return (
        connection.cursor(row_factory=class_row(SoilTest))
        .execute(
            """SELECT id, bed_id, taken_on, laboratory, ph::float8, nitrogen, phosphorus, potassium, texture,
            drainage, lead_ppm::float8, advice
           FROM soil_test WHERE bed_id = %s ORDER BY taken_on DESC, id""",
            [bed_id],
        )
        .fetchall()
    )


def newest_test(connection: Connection[Any], bed_id: UUID) -> Soil | None:
    """The newest value of each kind, as the rules read it: a later test that did not look for lead does not hide it."""
    found = tests(connection, bed_id)
    if not found:
        return None

    def newest(name: str) -> Any:
        return next((value for test in found if (value := getattr(test, name)) not in (None, "")), None)

    return Soil(
        found[0].taken_on,
        newest("ph"),
        newest("nitrogen") or "",
        newest("phosphorus") or "",
        newest("potassium") or "",
        newest("lead_ppm"),
    )


def save_test(connection: Connection[Any], school_id: UUID, test: SoilTest) -> None:
    connection.execute(
        """INSERT INTO soil_test (school_id, id, bed_id, taken_on, laboratory, ph, nitrogen, phosphorus, potassium, texture, drainage,
             lead_ppm, advice) VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s) ON CONFLICT (school_id, id) DO NOTHING""",
        [
            school_id,
            test.id,
            test.bed_id,
            test.taken_on,
            test.laboratory,
            test.ph,
            test.nitrogen,
            test.phosphorus,
            test.potassium,
            test.texture,
            test.drainage,
            test.lead_ppm,
            test.advice,
        ],
    )


def amendments(connection: Connection[Any], bed_id: UUID) -> list[Amendment]:
    """Newest first."""
    return (
        connection.cursor(row_factory=class_row(Amendment))
        .execute(
            """SELECT id, bed_id, on_day, kind, litres::float8, grams::float8, label FROM amendment
           WHERE bed_id = %s ORDER BY on_day DESC, id""",
            [bed_id],
        )
        .fetchall()
    )


def raw_manure(connection: Connection[Any], bed_id: UUID) -> list[date]:
    """The days on which raw manure went on."""
    rows = connection.execute(
        "SELECT DISTINCT on_day FROM amendment WHERE bed_id = %s AND kind = 'raw manure' ORDER BY on_day", [bed_id]
    )
    return [day for (day,) in rows.fetchall()]


def save_amendment(connection: Connection[Any], school_id: UUID, amendment: Amendment) -> None:
    connection.execute(
        """INSERT INTO amendment (school_id, id, bed_id, on_day, kind, litres, grams, label) VALUES (%s, %s, %s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO NOTHING""",
        [
            school_id,
            amendment.id,
            amendment.bed_id,
            amendment.on_day,
            amendment.kind,
            amendment.litres,
            amendment.grams,
            amendment.label,
        ],
    )


def delete(connection: Connection[Any], what: Literal["soil_test", "amendment"], row_id: UUID) -> None:
    """Take out what was entered by mistake."""
    statement = {
        "soil_test": "DELETE FROM soil_test WHERE id = %s",
        "amendment": "DELETE FROM amendment WHERE id = %s",
    }[what]
    if connection.execute(statement.encode(), [row_id]).rowcount == 0:
        raise errors.NotFound("That is not on file any more.")
