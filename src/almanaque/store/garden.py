"""Sites, beds and what stands in them."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any, Literal
from uuid import UUID, uuid4

from psycopg import Connection
from psycopg.rows import class_row, dict_row, scalar_row
from psycopg.types.json import Jsonb

from almanaque.core.bed import Cell, Grid, Rectangle, grid_of
from almanaque.core.crops import Method
from almanaque.core.findings import Finding, Fix
from almanaque.core.fit import Fit, Verdict
from almanaque.core.growth import GrowthDates
from almanaque.store import errors
from almanaque.store.sql import load

SQL = load("garden")

Status = Literal["pencilled", "planned", "in the ground", "finished", "lost"]


@dataclass(frozen=True)
class Bed:
    """Sizes are the inside [mm]; x and y place it on its site."""

    id: UUID
    site_id: UUID
    ordinal: int
    name: str
    purpose: str
    kind: str
    material: str
    built_year: int | None
    x_mm: float
    y_mm: float
    length_mm: float
    width_mm: float
    depth_mm: float
    cell_mm: float
    class_group_id: UUID | None
    version: int
    kept: list[Rectangle]

    def grid(self) -> Grid:
        return grid_of(self.length_mm, self.width_mm, self.cell_mm, tuple(self.kept))

    @property
    def area_m2(self) -> float:
        return self.length_mm * self.width_mm / 1_000_000


@dataclass(frozen=True)
class Site:
    id: UUID
    name: str
    width_mm: float
    depth_mm: float


@dataclass(frozen=True)
class Feature:
    kind: str
    name: str
    x_mm: float
    y_mm: float
    width_mm: float
    depth_mm: float


@dataclass(frozen=True)
class Planting:
    """A planting with its squares; `dates`, `verdict` and `findings` are the stored forecast, `events` what happened."""

    id: UUID
    bed_id: UUID
    crop: str
    variety: str
    status: Status
    draft_id: UUID | None
    method: Method
    start_on: date
    per_square: int | None
    class_group_id: UUID | None
    cells: frozenset[Cell]
    events: dict[str, date]
    depends_on: str
    dates: GrowthDates | None
    verdict: Verdict | None
    findings: tuple[Finding, ...]

    @property
    def bed_from(self) -> date:
        return self.dates.bed_from if self.dates else self.start_on

    def bed_to(self, today: date) -> date:
        """The last day on which it holds its squares: cleared, lost, or expected to be; never before today while in."""
        gone = [day for kind, day in self.events.items() if kind in ("cleared", "lost")]
        if gone:
            return max(gone)
        expected = self.dates.clear_by if self.dates else self.start_on
        return max(expected, today) if self.status == "in the ground" else expected

    def stands_on(self, day: date, today: date) -> bool:
        return self.bed_from <= day <= self.bed_to(today)

    def overlaps(self, start: date, end: date, today: date) -> bool:
        return self.bed_from <= end and self.bed_to(today) >= start


@dataclass(frozen=True)
class Change:
    id: UUID
    command: str
    before: dict[str, Any]
    version: int


def beds(connection: Connection[Any]) -> list[Bed]:
    rows = connection.cursor(row_factory=dict_row).execute(SQL["beds"], {"bed": None}).fetchall()
    return [_bed(row) for row in rows]


def bed(connection: Connection[Any], bed_id: UUID) -> Bed:
    row = connection.cursor(row_factory=dict_row).execute(SQL["beds"], {"bed": bed_id}).fetchone()
    if row is None:
        raise errors.NotFound("There is no such bed in this school.")
    return _bed(row)


def save_bed(connection: Connection[Any], school_id: UUID, bed: Bed) -> None:
    """Write a bed under its id, new or changed, without its kept parts."""
    connection.execute(
        SQL["save_bed"],
        {
            "school": school_id, "id": bed.id, "site": bed.site_id, "name": bed.name, "purpose": bed.purpose, "kind": bed.kind,
            "material": bed.material, "built_year": bed.built_year, "x": bed.x_mm, "y": bed.y_mm, "length": bed.length_mm,
            "width": bed.width_mm, "depth": bed.depth_mm, "cell": bed.cell_mm, "group": bed.class_group_id,
        },
    )  # fmt: skip


def delete_bed(connection: Connection[Any], bed_id: UUID) -> None:
    """Take a bed out that has no history. Raises Refused for one that has."""
    row = connection.execute(SQL["bed_used"], {"bed": bed_id}).fetchone()
    if row and row[0]:
        raise errors.Refused(
            "Something was planted, noted or done on this bed, so it stays with its history.", constraint=""
        )
    connection.execute("DELETE FROM change WHERE bed_id = %s", [bed_id])
    connection.execute("DELETE FROM kept_part WHERE bed_id = %s", [bed_id])
    if connection.execute("DELETE FROM bed WHERE id = %s", [bed_id]).rowcount == 0:
        raise errors.NotFound("There is no such bed in this school.")


def save_kept(connection: Connection[Any], school_id: UUID, bed_id: UUID, kept: Sequence[Rectangle]) -> None:
    """Put these parts in the place of all that a bed keeps."""
    connection.execute("DELETE FROM kept_part WHERE bed_id = %s", [bed_id])
    connection.cursor().executemany(
        "INSERT INTO kept_part (school_id, id, bed_id, label, x_mm, y_mm, length_mm, width_mm) VALUES (%s, %s, %s, %s, %s, %s, %s, %s)",
        [(school_id, uuid4(), bed_id, k.label, k.x_mm, k.y_mm, k.length_mm, k.width_mm) for k in kept],
    )


def save_site(connection: Connection[Any], school_id: UUID, site: Site) -> None:
    connection.execute(
        """INSERT INTO site (school_id, id, name, width_mm, depth_mm) VALUES (%s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET name = excluded.name, width_mm = excluded.width_mm, depth_mm = excluded.depth_mm""",
        [school_id, site.id, site.name, site.width_mm, site.depth_mm],
    )


def sites(connection: Connection[Any]) -> list[Site]:
    return connection.cursor(row_factory=class_row(Site)).execute(SQL["sites"]).fetchall()


def features(connection: Connection[Any], site_id: UUID, day: date) -> list[Feature]:
    rows = connection.cursor(row_factory=class_row(Feature))
    return rows.execute(SQL["features"], {"site": site_id, "day": day}).fetchall()


def plantings(
    connection: Connection[Any], *, bed_id: UUID | None = None, since: date | None = None, until: date | None = None
) -> list[Planting]:
    """Plantings of one bed or of all, those only that may hold squares at some time from `since` to `until`."""
    parameters = {"planting": None, "bed": bed_id, "since": since, "until": until}
    rows = connection.cursor(row_factory=dict_row).execute(SQL["plantings"], parameters).fetchall()
    return [_planting(row) for row in rows]


def planting(connection: Connection[Any], planting_id: UUID) -> Planting:
    parameters = {"planting": planting_id, "bed": None, "since": None, "until": None}
    row = connection.cursor(row_factory=dict_row).execute(SQL["plantings"], parameters).fetchone()
    if row is None:
        raise errors.NotFound("There is no such planting in this school.")
    return _planting(row)


def save_planting(connection: Connection[Any], school_id: UUID, planting: Planting) -> None:
    """Write a planting and exactly its squares."""
    connection.execute(SQL["save_planting"], {"school_id": school_id, **_columns(planting)})
    connection.execute("DELETE FROM patch WHERE planting_id = %s", [planting.id])
    connection.cursor().executemany(
        "INSERT INTO patch (school_id, planting_id, col, row) VALUES (%s, %s, %s, %s)",
        [(school_id, planting.id, column, row) for column, row in sorted(planting.cells)],
    )


def delete_planting(connection: Connection[Any], planting_id: UUID) -> None:
    connection.execute("DELETE FROM planting WHERE id = %s", [planting_id])


def save_forecast(connection: Connection[Any], school_id: UUID, planting_id: UUID, fit: Fit, depends_on: str) -> None:
    dates = {name: value for name, value in vars(fit.dates).items() if name != "start"}
    connection.execute(
        SQL["save_forecast"],
        {
            "school_id": school_id, "planting_id": planting_id, "depends_on": depends_on, **dates,
            "verdict": fit.verdict, "findings": Jsonb([_finding_out(f) for f in fit.findings]),
        },
    )  # fmt: skip


def save_event(
    connection: Connection[Any],
    school_id: UUID,
    planting_id: UUID,
    *,
    event_id: UUID,
    kind: str,
    day: date,
    by: UUID | None,
) -> None:
    """Note what happened; a second event of one kind is refused by its constraint."""
    connection.execute(
        "INSERT INTO event (school_id, id, planting_id, kind, on_day, noted_by) VALUES (%s, %s, %s, %s, %s, %s)",
        [school_id, event_id, planting_id, kind, day, by],
    )


def delete_event(connection: Connection[Any], planting_id: UUID, kind: str) -> None:
    connection.execute("DELETE FROM event WHERE planting_id = %s AND kind = %s", [planting_id, kind])


def has_history(connection: Connection[Any], planting_id: UUID) -> bool:
    """True when events, pickings or finished jobs hang on it, so that it may not be rubbed out."""
    row = connection.cursor(row_factory=scalar_row).execute(SQL["has_history"], {"planting": planting_id}).fetchone()
    return bool(row)


def draft_id(connection: Connection[Any]) -> UUID:
    """The school's draft for pencil plans."""
    row = connection.execute("SELECT id FROM draft ORDER BY name LIMIT 1").fetchone()
    if row is None:
        raise errors.NotFound("This school has no draft to pencil in.")
    found: UUID = row[0]
    return found


def lock_bed(connection: Connection[Any], bed_id: UUID, *, version: int | None) -> None:
    """Hold the bed until the transaction ends. Raises Stale when its version is not the one the person saw."""
    row = connection.execute("SELECT version FROM bed WHERE id = %s FOR UPDATE", [bed_id]).fetchone()
    if row is None:
        raise errors.NotFound("There is no such bed in this school.")
    if version is not None and row[0] != version:
        raise errors.Stale(
            "Someone else changed this bed in the meantime. Nothing of yours was written; here is the bed as it is now."
        )


def record_change(
    connection: Connection[Any], school_id: UUID, bed_id: UUID, *, change_id: UUID, command: str,
    before: dict[str, Any], by: UUID | None,
) -> int:  # fmt: skip
    """Raise the bed's version and keep the command that did it; return the new version."""
    row = connection.execute(
        "UPDATE bed SET version = version + 1 WHERE id = %s RETURNING version", [bed_id]
    ).fetchone()
    if row is None:
        raise errors.NotFound("There is no such bed in this school.")
    connection.execute(
        "INSERT INTO change (school_id, id, bed_id, command, before, version, account_id) VALUES (%s, %s, %s, %s, %s, %s, %s)",
        [school_id, change_id, bed_id, command, Jsonb(before), row[0], by],
    )
    return int(row[0])


def last_change(connection: Connection[Any], bed_id: UUID) -> Change | None:
    return connection.cursor(row_factory=class_row(Change)).execute(SQL["last_change"], {"bed": bed_id}).fetchone()


def mark_undone(connection: Connection[Any], bed_id: UUID, change_id: UUID) -> None:
    connection.execute("UPDATE change SET undone = true WHERE id = %s", [change_id])
    connection.execute("UPDATE bed SET version = version + 1 WHERE id = %s", [bed_id])


def planting_out(planting: Planting) -> dict[str, Any]:
    """A planting as JSON, enough to put it back as it was."""
    out: dict[str, Any] = json.loads(json.dumps({**_columns(planting), "cells": sorted(planting.cells)}, default=str))
    return out


def planting_in(kept: dict[str, Any]) -> Planting:
    """The inverse of `planting_out`; forecast and events are not part of it."""
    return Planting(
        id=UUID(kept["id"]), bed_id=UUID(kept["bed_id"]), crop=kept["crop"], variety=kept["variety"], status=kept["status"],
        draft_id=UUID(kept["draft_id"]) if kept["draft_id"] else None, method=kept["method"],
        start_on=date.fromisoformat(kept["start_on"]), per_square=kept["per_square"],
        class_group_id=UUID(kept["class_group_id"]) if kept["class_group_id"] else None,
        cells=_cells(kept["cells"]), events={}, depends_on="", dates=None, verdict=None, findings=(),
    )  # fmt: skip


def _columns(planting: Planting) -> dict[str, Any]:
    """What the planting's own row holds, by column."""
    names = (
        "id", "bed_id", "crop", "variety", "status", "draft_id", "method", "start_on", "per_square", "class_group_id",
    )  # fmt: skip
    return {name: getattr(planting, name) for name in names}


def _cells(pairs: list[list[int]]) -> frozenset[Cell]:
    return frozenset((column, row) for column, row in pairs)


def _bed(row: dict[str, Any]) -> Bed:
    kept = [
        Rectangle(float(x), float(y), float(length), float(width), label) for x, y, length, width, label in row["kept"]
    ]
    return Bed(**{**row, "kept": kept})


def _planting(row: dict[str, Any]) -> Planting:
    names = (
        "bed_from",
        "emerge_from",
        "emerge_to",
        "first_pick_early",
        "first_pick",
        "first_pick_late",
        "last_pick",
        "clear_by",
    )
    dates = {name: row.pop(name) for name in names}
    row["dates"] = GrowthDates(start=row["start_on"], **dates) if dates["bed_from"] else None
    row["cells"] = _cells(row["cells"])
    row["events"] = {kind: date.fromisoformat(day) for kind, day in row["events"].items()}
    row["findings"] = tuple(_finding_in(kept) for kept in row["findings"] or ())
    row["depends_on"] = row["depends_on"] or ""
    return Planting(**row)


def _finding_out(finding: Finding) -> dict[str, Any]:
    return {**vars(finding), "fixes": [vars(fix) for fix in finding.fixes]}


def _finding_in(kept: dict[str, Any]) -> Finding:
    return Finding(**{**kept, "fixes": tuple(Fix(**fix) for fix in kept["fixes"])})
