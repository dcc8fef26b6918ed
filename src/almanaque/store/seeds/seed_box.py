"""The seed box: lots, what was taken from them, germination tests, trays."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row, dict_row

from almanaque.core.seeds.seed_lots import Origin, Place
from almanaque.store import errors
from almanaque.store.sql import load

SQL = load("seeds/seed_box")


@dataclass(frozen=True)
class Count:
    """How many were up on a day, all together."""

    on_day: date
    up: int


@dataclass(frozen=True)
class GerminationTest:
    id: UUID
    lot_id: UUID
    started_on: date
    sown: int
    place: str
    ended_on: date | None
    counts: tuple[Count, ...] = ()

    @property
    def up(self) -> int | None:
        """The last count; None before the first."""
        return self.counts[-1].up if self.counts else None


@dataclass(frozen=True)
class TakenSeed:
    """Seeds that were taken from a lot, and what for."""

    id: UUID
    lot_id: UUID
    planting_id: UUID | None
    on_day: date
    seeds: int
    what: str


@dataclass(frozen=True)
class LotRow:
    """A lot of seed. `taken` are seeds taken so far; `tests` with their counts, oldest first."""

    id: UUID
    crop: str
    variety: str
    origin: Origin
    whom: str
    from_planting: UUID | None
    year: int
    grams: Decimal | None
    seeds: int | None
    pelleted: bool
    hybrid: bool
    place: Place
    where_kept: str
    packets: int | None
    price_minor: int | None
    note: str
    got_on: date
    closed_on: date | None
    closed_why: str
    taken: int = 0
    tests: tuple[GerminationTest, ...] = ()


@dataclass(frozen=True)
class TraySowing:
    """Cells of a tray that one sowing takes, from first to last, row by row from 1."""

    id: UUID
    tray_id: UUID
    first_cell: int
    last_cell: int
    crop: str
    planting_id: UUID | None
    lot_id: UUID | None
    sown_on: date
    per_cell: int
    goes_home: int
    up: int | None
    gone_on: date | None

    @property
    def cells(self) -> int:
        return self.last_cell - self.first_cell + 1


@dataclass(frozen=True)
class Tray:
    id: UUID
    name: str
    columns: int
    rows: int
    place: str
    emptied_on: date | None
    sowings: tuple[TraySowing, ...] = ()

    @property
    def cells(self) -> int:
        return self.columns * self.rows


def lots(connection: Connection[Any]) -> list[LotRow]:
    """All lots, those in use first, by crop and year."""
    return [_lot(row) for row in connection.cursor(row_factory=dict_row).execute(SQL["lots"], {"id": None}).fetchall()]


def lot(connection: Connection[Any], lot_id: UUID) -> LotRow:
    row = connection.cursor(row_factory=dict_row).execute(SQL["lots"], {"id": lot_id}).fetchone()
    if row is None:
        raise errors.NotFound("There is no such seed in this school's box.")
    return _lot(row)


def _lot(row: dict[str, Any]) -> LotRow:
    tests = [
        GerminationTest(
            UUID(t["id"]),
            row["id"],
            date.fromisoformat(t["started_on"]),
            t["sown"],
            t["place"],
            date.fromisoformat(t["ended_on"]) if t["ended_on"] else None,
            tuple(Count(date.fromisoformat(day), up) for day, up in t["counts"]),
        )
        for t in row["tests"]
    ]
    return LotRow(**{**row, "tests": tuple(tests)})


def save_lot(connection: Connection[Any], school_id: UUID, kept: LotRow) -> None:
    """Write a lot under its id, new or changed."""
    connection.execute(
        SQL["save_lot"],
        {
            "school": school_id,
            "id": kept.id,
            "crop": kept.crop,
            "variety": kept.variety,
            "origin": kept.origin,
            "whom": kept.whom,
            "from_planting": kept.from_planting,
            "year": kept.year,
            "grams": kept.grams,
            "seeds": kept.seeds,
            "pelleted": kept.pelleted,
            "hybrid": kept.hybrid,
            "place": kept.place,
            "where": kept.where_kept,
            "packets": kept.packets,
            "price": kept.price_minor,
            "note": kept.note,
            "got_on": kept.got_on,
            "closed_on": kept.closed_on,
            "closed_why": kept.closed_why,
        },
    )


def take(connection: Connection[Any], school_id: UUID, taken: TakenSeed) -> bool:
    """Keep that seeds were taken; False when the same is kept already."""
    done = connection.execute(
        "INSERT INTO lot_use (school_id, id, lot_id, planting_id, on_day, seeds, what) VALUES (%s, %s, %s, %s, %s, %s, %s)"
        " ON CONFLICT (school_id, id) DO NOTHING",
        [school_id, taken.id, taken.lot_id, taken.planting_id, taken.on_day, taken.seeds, taken.what],
    )
    return done.rowcount == 1


def put_back(connection: Connection[Any], use_id: UUID) -> None:
    connection.execute("DELETE FROM lot_use WHERE id = %s", [use_id])


def taken(
    connection: Connection[Any], *, lot_id: UUID | None = None, planting_id: UUID | None = None
) -> list[TakenSeed]:
    """What was taken from a lot, or for a planting, the last first."""
    return (
        connection.cursor(row_factory=class_row(TakenSeed))
        .execute(
            "SELECT id, lot_id, planting_id, on_day, seeds, what FROM lot_use"
            " WHERE (%(lot)s::uuid IS NULL OR lot_id = %(lot)s) AND (%(planting)s::uuid IS NULL OR planting_id = %(planting)s)"
            " ORDER BY on_day DESC, id",
            {"lot": lot_id, "planting": planting_id},
        )
        .fetchall()
    )


def start_test(connection: Connection[Any], school_id: UUID, test: GerminationTest) -> bool:
    """Keep a test; False when it is kept already."""
    done = connection.execute(
        "INSERT INTO germination_test (school_id, id, lot_id, started_on, sown, place) VALUES (%s, %s, %s, %s, %s, %s)"
        " ON CONFLICT (school_id, id) DO NOTHING",
        [school_id, test.id, test.lot_id, test.started_on, test.sown, test.place],
    )
    return done.rowcount == 1


def count(connection: Connection[Any], school_id: UUID, test_id: UUID, counted: Count) -> None:
    """Keep how many were up on a day; the same day again is put right."""
    connection.execute(
        "INSERT INTO germination_count (school_id, test_id, on_day, up) VALUES (%s, %s, %s, %s)"
        " ON CONFLICT (school_id, test_id, on_day) DO UPDATE SET up = excluded.up",
        [school_id, test_id, counted.on_day, counted.up],
    )


def end_test(connection: Connection[Any], test_id: UUID, day: date | None) -> None:
    connection.execute("UPDATE germination_test SET ended_on = %s WHERE id = %s", [day, test_id])


def trays(connection: Connection[Any]) -> list[Tray]:
    """All trays, those in use first, with what stands in them now."""
    return [
        _tray(row) for row in connection.cursor(row_factory=dict_row).execute(SQL["trays"], {"id": None}).fetchall()
    ]


def tray(connection: Connection[Any], tray_id: UUID) -> Tray:
    row = connection.cursor(row_factory=dict_row).execute(SQL["trays"], {"id": tray_id}).fetchone()
    if row is None:
        raise errors.NotFound("There is no such tray in this school.")
    return _tray(row)


def _tray(row: dict[str, Any]) -> Tray:
    def sowing(given: dict[str, Any]) -> TraySowing:
        ids = {key: UUID(given[key]) if given[key] else None for key in ("id", "tray_id", "planting_id", "lot_id")}
        days = {key: date.fromisoformat(given[key]) if given[key] else None for key in ("sown_on", "gone_on")}
        return TraySowing(**{**{k: v for k, v in given.items() if k != "school_id"}, **ids, **days})

    return Tray(**{**row, "sowings": tuple(sowing(s) for s in row["sowings"])})


def save_tray(connection: Connection[Any], school_id: UUID, kept: Tray) -> None:
    connection.execute(
        "INSERT INTO tray (school_id, id, name, columns, rows, place, emptied_on) VALUES (%s, %s, %s, %s, %s, %s, %s)"
        " ON CONFLICT (school_id, id) DO UPDATE SET name = excluded.name, place = excluded.place, emptied_on = excluded.emptied_on",
        [school_id, kept.id, kept.name, kept.columns, kept.rows, kept.place, kept.emptied_on],
    )


def sow(connection: Connection[Any], school_id: UUID, sowing: TraySowing) -> None:
    """Keep what is in some cells, or change how many go home, are up, or that they are empty."""
    connection.execute(
        SQL["sow"],
        {
            "school": school_id,
            "id": sowing.id,
            "tray": sowing.tray_id,
            "first": sowing.first_cell,
            "last": sowing.last_cell,
            "crop": sowing.crop,
            "planting": sowing.planting_id,
            "lot": sowing.lot_id,
            "sown_on": sowing.sown_on,
            "per_cell": sowing.per_cell,
            "home": sowing.goes_home,
            "up": sowing.up,
            "gone_on": sowing.gone_on,
        },
    )
