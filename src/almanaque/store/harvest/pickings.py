"""Pickings and what became of them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any, NamedTuple
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row, dict_row

from almanaque.core.crops.crop import Method
from almanaque.core.growth.range_moved import Cause
from almanaque.core.harvest.picking import Weighing, Weight
from almanaque.core.harvest.yields import PickedSum, Seasons
from almanaque.store import errors
from almanaque.store.sql import load

SQL = load("harvest/pickings")


@dataclass(frozen=True)
class Use:
    """What became of a share of a picking; `to_what` says what it was lost to."""

    use: str
    share: Decimal
    to_what: str = ""


@dataclass(frozen=True)
class Picked:
    """A picking with its uses and, when it hangs or hung to cure, where and since when."""

    id: UUID
    planting_id: UUID
    bed_id: UUID
    bed_name: str
    crop: str
    variety: str
    picked_on: date
    part: str
    amount: Decimal
    unit: str
    grams: Decimal | None
    low_g: Decimal | None
    high_g: Decimal | None
    estimated: bool
    quality: str
    class_group_id: UUID | None
    team: str
    note: str
    basket_id: UUID | None
    taken_back_on: date | None
    uses: tuple[Use, ...]
    hung_on: date | None
    place: str | None
    ready_on: date | None
    cured_on: date | None
    cured_g: Decimal | None
    curing_note: str


@dataclass(frozen=True)
class NewPicking:
    """A picking as it is to be kept; `id` comes from whoever made it and keeps it single."""

    id: UUID
    planting_id: UUID
    picked_on: date
    part: str
    amount: Decimal
    unit: str
    weight: Weight
    class_group_id: UUID | None
    note: str
    uses: Mapping[str, Decimal]
    lost_to: str = ""
    quality: str = ""
    team: str = ""
    basket_id: UUID | None = None


class GrownRow(NamedTuple):
    """A planting as the book needs it. `plants` and `area_m2` are None while its forecast does not say them."""

    planting: str
    bed: str
    bed_id: str
    bed_ordinal: int
    crop: str
    variety: str
    status: str
    method: Method
    start_on: date
    plants: int | None
    area_m2: float | None
    bed_from: date
    started: date | None
    first: date | None
    bed_to: date
    first_pick_early: date | None
    first_pick: date | None
    first_pick_late: date | None
    last_pick: date | None
    corrected: int
    last_early: date | None
    last_first: date | None
    last_late: date | None
    moved_by: Cause | None


@dataclass(frozen=True)
class UseSum:
    season: str
    crop: str
    use: str
    grams: Decimal
    pickings: int
    without_weight: int


@dataclass(frozen=True)
class MonthSum:
    crop: str
    month: date
    grams: Decimal
    pickings: int
    without_weight: int


@dataclass(frozen=True)
class Loss:
    planting: str
    to_what: str
    grams: Decimal | None
    pickings: int


def recent(
    connection: Connection[Any],
    *,
    until: date | None = None,
    planting: UUID | None = None,
    curing: bool = False,
    limit: int = 12,
) -> list[Picked]:
    """The last pickings up to a day, of one planting or of all, newest first; those that were taken back are left out."""
    return _picked(connection, until=until, planting=planting, curing=curing, limit=limit)


def one(connection: Connection[Any], picking_id: UUID) -> Picked:
    """A picking, taken back or not."""
    found = _picked(connection, one=picking_id)
    if not found:
        raise errors.NotFound("There is no such picking in this school.")
    return found[0]


def _picked(
    connection: Connection[Any],
    *,
    until: date | None = None,
    planting: UUID | None = None,
    one: UUID | None = None,
    curing: bool = False,
    limit: int = 1,
) -> list[Picked]:
    values = {"until": until, "planting": planting, "one": one, "curing": curing, "limit": limit}
    rows = connection.cursor(row_factory=dict_row).execute(SQL["recent"], values).fetchall()
    for row in rows:
        row["uses"] = tuple(Use(use, Decimal(share), to_what) for use, share, to_what in row["uses"])
    return [Picked(**row) for row in rows]


def save(connection: Connection[Any], school_id: UUID, new: NewPicking, *, by: UUID | None) -> bool:
    """Keep a picking with its uses; False when the same one is kept already. Other content under its id is refused."""
    done = connection.execute(
        SQL["save"],
        {**_values(new), "school": school_id, "planting": new.planting_id, "basket": new.basket_id, "by": by},
    )
    if done.rowcount == 0:
        row = connection.execute(
            "SELECT planting_id, picked_on, part, amount, unit, note FROM harvest WHERE id = %s", [new.id]
        ).fetchone()
        if row != (new.planting_id, new.picked_on, new.part, new.amount, new.unit, new.note):
            raise errors.IdTaken("A picking with this number is kept already and differs. Enter it as a new picking.")
        return False
    _save_uses(connection, school_id, new)
    return True


def change(connection: Connection[Any], school_id: UUID, changed: NewPicking) -> None:
    """Write a picking anew with exactly its uses."""
    connection.execute(SQL["change"], _values(changed))
    connection.execute("DELETE FROM use_of_harvest WHERE harvest_id = %s", [changed.id])
    _save_uses(connection, school_id, changed)


def _values(new: NewPicking) -> dict[str, Any]:
    return {
        "id": new.id,
        "day": new.picked_on,
        "part": new.part,
        "amount": new.amount,
        "unit": new.unit,
        "grams": new.weight.grams,
        "low": new.weight.low,
        "high": new.weight.high,
        "estimated": new.weight.estimated,
        "quality": new.quality,
        "group": new.class_group_id,
        "team": new.team,
        "note": new.note,
    }


def _save_uses(connection: Connection[Any], school_id: UUID, new: NewPicking) -> None:
    connection.cursor().executemany(
        "INSERT INTO use_of_harvest (school_id, harvest_id, use, share, to_what) VALUES (%s, %s, %s, %s, %s)",
        [(school_id, new.id, use, share, new.lost_to if use == "lost" else "") for use, share in new.uses.items()],
    )


def take_back(connection: Connection[Any], picking_id: UUID, day: date | None) -> None:
    """Mark a picking as noted by mistake, or as right after all (None). It is never deleted."""
    connection.execute("UPDATE harvest SET taken_back_on = %s WHERE id = %s", [day, picking_id])


def given(connection: Connection[Any], planting_ids: Sequence[UUID]) -> dict[UUID, Decimal]:
    """What plantings have given so far [g], as far as it has a weight."""
    rows = connection.execute(
        "SELECT planting_id, sum(grams) FROM harvest WHERE planting_id = ANY(%s) AND taken_back_on IS NULL AND grams IS NOT NULL"
        " GROUP BY planting_id",
        [list(planting_ids)],
    ).fetchall()
    return dict(rows)


def hang(
    connection: Connection[Any],
    school_id: UUID,
    picking_id: UUID,
    *,
    hung_on: date,
    place: str,
    ready_on: date,
    note: str,
) -> None:
    """Note that a picking hangs to cure or dry; again with another place or day."""
    connection.execute(
        "INSERT INTO curing (school_id, harvest_id, hung_on, place, ready_on, note) VALUES (%s, %s, %s, %s, %s, %s)"
        " ON CONFLICT (school_id, harvest_id) DO UPDATE SET hung_on = excluded.hung_on, place = excluded.place,"
        " ready_on = excluded.ready_on, note = excluded.note",
        [school_id, picking_id, hung_on, place, ready_on, note],
    )


def cured(connection: Connection[Any], picking_id: UUID, *, day: date, grams: Decimal | None) -> None:
    """Note the cured weight [g], or that it is cured and was not weighed."""
    connection.execute("UPDATE curing SET cured_on = %s, cured_g = %s WHERE harvest_id = %s", [day, grams, picking_id])


def weighings(connection: Connection[Any]) -> dict[str, list[Weighing]]:
    """The school's own weighings by crop, in their order."""
    found: dict[str, list[Weighing]] = {}
    for crop, unit, amount, grams in connection.execute(
        "SELECT crop, unit, amount, grams FROM weighing ORDER BY weighed_on, noted_at, id"
    ):
        found.setdefault(crop, []).append(Weighing(unit, amount, grams))
    return found


def save_weighing(
    connection: Connection[Any],
    school_id: UUID,
    weighing_id: UUID,
    crop: str,
    weighing: Weighing,
    *,
    day: date,
    by: UUID | None,
) -> bool:
    """Keep a weighing; False when it is kept already."""
    done = connection.execute(
        "INSERT INTO weighing (school_id, id, crop, unit, amount, grams, weighed_on, noted_by) VALUES (%s, %s, %s, %s, %s, %s, %s, %s)"
        " ON CONFLICT (school_id, id) DO NOTHING",
        [school_id, weighing_id, crop, weighing.unit, weighing.amount, weighing.grams, day, by],
    )
    return done.rowcount == 1


def unweighed(connection: Connection[Any], crop: str, unit: str) -> list[tuple[UUID, Decimal]]:
    """Id and amount of the pickings of a crop that were counted in a unit."""
    return connection.execute(SQL["unweighed"], {"crop": crop, "unit": unit}).fetchall()


def reweigh(connection: Connection[Any], picking_id: UUID, weight: Weight) -> None:
    connection.execute(
        "UPDATE harvest SET grams = %s, low_g = %s, high_g = %s WHERE id = %s",
        [weight.grams, weight.low, weight.high, picking_id],
    )


def sums(connection: Connection[Any], seasons: Seasons, *, until: date) -> list[PickedSum]:
    """Pickings up to a day added up by planting, season, part, class and team, in the order of the seasons."""
    names = list(seasons)
    found = connection.execute(SQL["sums"], _within(seasons, until)).fetchall()
    rows = [PickedSum(row[0], _season(names, row[1], row[11]), *row[2:]) for row in found]
    return sorted(rows, key=lambda s: (s.season, s.planting, s.part, s.group, s.team))


def use_sums(connection: Connection[Any], seasons: Seasons, *, until: date) -> list[UseSum]:
    names = list(seasons)
    found = connection.execute(SQL["uses"], _within(seasons, until)).fetchall()
    return [UseSum(_season(names, row[0], until), *row[1:]) for row in found]


def unbalanced(connection: Connection[Any]) -> int:
    """How many pickings have uses that do not come to the whole; none, unless rows came from elsewhere."""
    row = connection.execute(
        "SELECT count(*) FROM (SELECT FROM use_of_harvest GROUP BY harvest_id HAVING abs(sum(share) - 1) > 0.0001) x"
    ).fetchone()
    return int(row[0]) if row else 0


def _season(names: Sequence[str], number: int, day: date) -> str:
    """Name of the season with a number from 1; before the first one on file there is none, so the year stands for it."""
    return names[number - 1] if number else f"before {names[0]}" if names else str(day.year)


def version(connection: Connection[Any]) -> str:
    """A text that changes with every change of what the book is made of; empty while this transaction changes it."""
    row = connection.execute(SQL["version"]).fetchone()
    return str(row[0]) if row else ""


def losses(connection: Connection[Any], *, until: date) -> list[Loss]:
    return connection.cursor(row_factory=class_row(Loss)).execute(SQL["losses"], {"until": until}).fetchall()


def months(connection: Connection[Any], first: date, last: date) -> list[MonthSum]:
    return (
        connection.cursor(row_factory=class_row(MonthSum))
        .execute(SQL["months"], {"first": first, "last": last})
        .fetchall()
    )


def grown(connection: Connection[Any], *, today: date) -> list[GrownRow]:
    """Every planting that is in the ground or was."""
    return [GrownRow(*row) for row in connection.execute(SQL["grown"], {"today": today}).fetchall()]


def unsized(connection: Connection[Any]) -> list[UUID]:
    """Plantings of which nobody has kept yet how much ground and how many plants they have."""
    return [row[0] for row in connection.execute(SQL["unsized"])]


def save_size(connection: Connection[Any], planting_id: UUID, *, plants: int, area_m2: float) -> None:
    connection.execute(
        "UPDATE forecast SET plants = %s, area_m2 = %s WHERE planting_id = %s", [plants, area_m2, planting_id]
    )


def corrections(connection: Connection[Any]) -> list[tuple[str, int, int]]:
    """Crop, days and seasons of each correction that the school has put to use."""
    return connection.execute("SELECT crop, days, seasons FROM correction ORDER BY crop").fetchall()


def set_correction(
    connection: Connection[Any], school_id: UUID, crop: str, *, days: int, seasons: int, day: date
) -> None:
    """Put a correction to use; 0 days takes it away. Of two who do so at once the later one stands."""
    if not days:
        connection.execute("DELETE FROM correction WHERE crop = %s", [crop])
        return
    connection.execute(
        "INSERT INTO correction (school_id, crop, days, seasons, applied_on) VALUES (%s, %s, %s, %s, %s)"
        " ON CONFLICT (school_id, crop) DO UPDATE"
        " SET days = excluded.days, seasons = excluded.seasons, applied_on = excluded.applied_on",
        [school_id, crop, days, seasons, day],
    )


def _within(seasons: Seasons, until: date) -> dict[str, Any]:
    return {"firsts": [first for first, _ in seasons.values()], "until": until}
