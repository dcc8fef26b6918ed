"""Sites, beds and what stands in them."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import Any, Literal
from uuid import UUID, uuid4

from psycopg import Connection, sql
from psycopg.rows import class_row, dict_row, scalar_row
from psycopg.types.json import Jsonb

from almanaque.core.crops.crop import Method
from almanaque.core.findings import Finding, from_store, stored
from almanaque.core.garden.bed import Cell, Grid, Rectangle, grid_of, layer_litres, pockets_of
from almanaque.core.garden.layout import Arrangement, Follows, LayoutWish
from almanaque.core.garden.outline import Point, Shape
from almanaque.core.growth.covers import CoverKey
from almanaque.core.growth.growth_dates import GrowthDates
from almanaque.core.growth.school_fit import Fit
from almanaque.core.growth.sowing_days import Verdict
from almanaque.core.year.tending import Tended
from almanaque.store import errors
from almanaque.store.sql import load

SQL = load("garden/garden")

EXTRAS = ("cover", "series_id", "theme_id")  # what a planting has besides how it is laid out
SPACING = ("arrangement", "spacing_from", "in_row_mm", "row_mm", "sow_mm", "edge_mm", "wanted", "with_others")
Status = Literal["pencilled", "planned", "in the ground", "finished", "lost"]


@dataclass(frozen=True)
class Bed:
    """Sizes are the inside [mm]; x and y place its box on its site, turned clockwise by `turn_deg` about the middle.

    `outline_mm` are corners within the box, none for the whole of it; `light_h` and `warmth_c` are measured on an indoor sill;
    `drip_l_h` is what its whole drip line gives in an hour [L].
    """

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
    turn_deg: float = 0.0
    outline_mm: tuple[Point, ...] = ()
    volume_l: float | None = None
    pockets: int | None = None
    light_h: float | None = None
    warmth_c: float | None = None
    drip_l_h: float | None = None
    pace: float = 1.0

    def stood_on(self, day: date) -> bool:
        """False for a day before the year in which it was built."""
        return self.built_year is None or self.built_year <= day.year

    def grid(self, day: date | None = None) -> Grid:
        """Its squares, less what is kept on a day; without a day, less all that is ever kept."""
        if self.pockets:
            return pockets_of(self.length_mm, self.width_mm, self.pockets)
        kept = self.kept if day is None else [part for part in self.kept if part.overlaps(day, day)]
        return grid_of(self.length_mm, self.width_mm, self.cell_mm, tuple(kept), self.outline_mm)

    @property
    def shape(self) -> Shape:
        return Shape(self.x_mm, self.y_mm, self.length_mm, self.width_mm, self.turn_deg, self.outline_mm, self.name)

    @property
    def area_m2(self) -> float:
        return self.shape.area_mm2 / 1_000_000

    @property
    def litres(self) -> float:
        """Soil it holds [L]: the volume given, or its area times its depth."""
        return self.volume_l or layer_litres(self.shape.area_mm2, self.depth_mm)

    @property
    def indoors(self) -> bool:
        return self.kind == "sill"


@dataclass(frozen=True)
class Site:
    """`north_deg` is where north lies, clockwise from the map's upper edge; the corner is its top-left one in WGS 84."""

    id: UUID
    name: str
    width_mm: float
    depth_mm: float
    north_deg: float = 0.0
    latitude: float | None = None
    longitude: float | None = None


@dataclass(frozen=True)
class Planting:
    """A planting with its squares; `dates`, `verdict` and `findings` are the stored forecast, `events` what happened.

    `steps` are the days that somebody set by hand, `cover` what lies over this planting alone, `tended` what was said of its tending.
    """

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
    arrangement: Arrangement = "squares"
    spacing_from: Follows = "count"
    in_row_mm: float | None = None
    row_mm: float | None = None
    sow_mm: float | None = None
    edge_mm: float | None = None
    wanted: int | None = None
    with_others: bool = False
    cover: CoverKey | None = None
    series_id: UUID | None = None
    theme_id: UUID | None = None
    steps: Mapping[str, date] = field(default_factory=dict)
    tended: Tended = field(default_factory=Tended)

    @property
    def wish(self) -> LayoutWish:
        """How it is to stand, as the rules read it."""
        return LayoutWish(
            self.arrangement,
            self.spacing_from,
            self.per_square,
            self.in_row_mm,
            self.row_mm,
            self.sow_mm,
            self.edge_mm,
            self.wanted,
        )

    def area_m2(self, bed: Bed) -> float:
        """Ground of its squares [m²]."""
        return len(self.cells) * bed.cell_mm**2 / 1_000_000

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
            "school": school_id,
            "id": bed.id,
            "site": bed.site_id,
            "name": bed.name,
            "purpose": bed.purpose,
            "kind": bed.kind,
            "material": bed.material,
            "built_year": bed.built_year,
            "x": bed.x_mm,
            "y": bed.y_mm,
            "length": bed.length_mm,
            "width": bed.width_mm,
            "depth": bed.depth_mm,
            "cell": bed.cell_mm,
            "group": bed.class_group_id,
            "turn": bed.turn_deg,
            "outline": Jsonb(bed.outline_mm) if bed.outline_mm else None,
            "volume": bed.volume_l,
            "pockets": bed.pockets,
            "light": bed.light_h,
            "warmth": bed.warmth_c,
            "drip": bed.drip_l_h,
        },
    )


def delete_bed(connection: Connection[Any], bed_id: UUID) -> None:
    """Take a bed out that has no history. Raises Refused for one that has."""
    row = connection.execute(SQL["bed_used"], {"bed": bed_id}).fetchone()
    if row and row[0]:
        raise errors.Refused(
            "Something was planted, noted or done on this bed, so it stays with its history.", constraint=""
        )
    connection.execute("DELETE FROM change WHERE bed_id = %s", [bed_id])
    for table in ("kept_part", "section", "bed_closure"):
        connection.execute(sql.SQL("DELETE FROM {} WHERE bed_id = %s").format(sql.Identifier(table)), [bed_id])
    if connection.execute("DELETE FROM bed WHERE id = %s", [bed_id]).rowcount == 0:
        raise errors.NotFound("There is no such bed in this school.")


def save_kept(connection: Connection[Any], school_id: UUID, bed_id: UUID, kept: Sequence[Rectangle]) -> None:
    """Put these parts in the place of all that a bed keeps."""
    connection.execute("DELETE FROM kept_part WHERE bed_id = %s", [bed_id])
    connection.cursor().executemany(
        """INSERT INTO kept_part (school_id, id, bed_id, label, x_mm, y_mm, length_mm, width_mm, from_day, to_day, crop,
                                  height_mm, spread_mm)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)""",
        [
            (
                school_id,
                uuid4(),
                bed_id,
                k.label,
                k.x_mm,
                k.y_mm,
                k.length_mm,
                k.width_mm,
                k.from_day,
                k.to_day,
                k.crop,
                k.height_mm,
                k.spread_mm,
            )
            for k in kept
        ],
    )


def save_site(connection: Connection[Any], school_id: UUID, site: Site) -> None:
    connection.execute(
        """INSERT INTO site (school_id, id, name, width_mm, depth_mm, north_deg, latitude, longitude) VALUES (%s,
        %s, %s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET name = excluded.name, width_mm = excluded.width_mm, depth_mm = excluded.depth_mm,
             north_deg = excluded.north_deg, latitude = excluded.latitude, longitude = excluded.longitude""",
        [school_id, site.id, site.name, site.width_mm, site.depth_mm, site.north_deg, site.latitude, site.longitude],
    )


def hold_ground(connection: Connection[Any], school_id: UUID) -> None:
    """Let nobody else build on this school's ground until the transaction ends: what is checked against all beds stays true."""
    connection.execute("SELECT pg_advisory_xact_lock(hashtextextended(%s, 0))", [f"ground {school_id}"])


def sites(connection: Connection[Any]) -> list[Site]:
    return connection.cursor(row_factory=class_row(Site)).execute(SQL["sites"]).fetchall()


def plantings(
    connection: Connection[Any],
    *,
    bed_id: UUID | None = None,
    since: date | None = None,
    until: date | None = None,
    crops: Sequence[str] | None = None,
) -> list[Planting]:
    """Plantings of one bed or of all, of some crops or of all, those only that may hold squares at some time from `since` to `until`."""
    parameters = {
        "planting": None,
        "bed": bed_id,
        "since": since,
        "until": until,
        "crops": list(crops) if crops is not None else None,
    }
    rows = connection.cursor(row_factory=dict_row).execute(SQL["plantings"], parameters).fetchall()
    return [_planting(row) for row in rows]


@dataclass(frozen=True)
class StoodRow:
    """A planting that was or is in the ground, for rotation; `bed_to` is its last day, or the one expected."""

    bed_id: UUID
    bed_name: str
    crop: str
    cells: frozenset[Cell]
    bed_to: date | None


def stood(connection: Connection[Any], bed_ids: Sequence[UUID], since: date) -> list[StoodRow]:
    """What stood in every bed since a day; the squares are read for some beds only, those for which they count."""
    rows = connection.execute(SQL["stood"], {"beds": list(bed_ids), "since": since}).fetchall()
    return [StoodRow(bed_id, name, crop, cells(kept), bed_to) for bed_id, name, crop, kept, bed_to in rows]


def planting(connection: Connection[Any], planting_id: UUID) -> Planting:
    parameters = {"planting": planting_id, "bed": None, "since": None, "until": None, "crops": None}
    row = connection.cursor(row_factory=dict_row).execute(SQL["plantings"], parameters).fetchone()
    if row is None:
        raise errors.NotFound("There is no such planting in this school.")
    return _planting(row)


def beds_in_use(connection: Connection[Any], *, crops: Collection[str] | None = None) -> list[UUID]:
    """The beds in which something stands or is planned, of some crops or of all, in the order in which beds are held."""
    parameters = {"crops": list(crops) if crops is not None else None}
    rows = connection.execute(SQL["beds_in_use"], parameters).fetchall()
    return [bed_id for (bed_id,) in rows]


def bed_of(connection: Connection[Any], planting_id: UUID) -> UUID:
    """The bed of a planting, which it never leaves. Raises NotFound."""
    row = connection.execute("SELECT bed_id FROM planting WHERE id = %s", [planting_id]).fetchone()
    if row is None:
        raise errors.NotFound("There is no such planting in this school.")
    found: UUID = row[0]
    return found


def save_planting(connection: Connection[Any], school_id: UUID, planting: Planting) -> None:
    """Write a planting and exactly its squares."""
    connection.execute(SQL["save_planting"], {"school_id": school_id, **columns(planting)})
    connection.execute("DELETE FROM patch WHERE planting_id = %s", [planting.id])
    connection.cursor().executemany(
        "INSERT INTO patch (school_id, planting_id, col, row) VALUES (%s, %s, %s, %s)",
        [(school_id, planting.id, column, row) for column, row in sorted(planting.cells)],
    )
    connection.execute("DELETE FROM step_day WHERE planting_id = %s", [planting.id])
    connection.cursor().executemany(
        "INSERT INTO step_day (school_id, planting_id, step, on_day) VALUES (%s, %s, %s, %s)",
        [(school_id, planting.id, step, day) for step, day in sorted(planting.steps.items())],
    )


def delete_planting(connection: Connection[Any], planting_id: UUID) -> None:
    connection.execute("DELETE FROM planting WHERE id = %s", [planting_id])


def save_forecast(connection: Connection[Any], school_id: UUID, planting_id: UUID, fit: Fit, depends_on: str) -> None:
    dates = {name: value for name, value in vars(fit.dates).items() if name != "start"}
    connection.execute(
        SQL["save_forecast"],
        {
            "school_id": school_id,
            "planting_id": planting_id,
            "depends_on": depends_on,
            **dates,
            "verdict": fit.verdict,
            "findings": Jsonb([stored(f) for f in fit.findings]),
        },
    )


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


def columns(planting: Planting) -> dict[str, Any]:
    """What the planting's own row holds, by column."""
    names = (
        "id",
        "bed_id",
        "crop",
        "variety",
        "status",
        "draft_id",
        "method",
        "start_on",
        "per_square",
        "class_group_id",
        *SPACING,
        *EXTRAS,
    )
    return {name: getattr(planting, name) for name in names}


def cells(pairs: list[list[int]]) -> frozenset[Cell]:
    """Squares as the database keeps them."""
    return frozenset((column, row) for column, row in pairs)


def _bed(row: dict[str, Any]) -> Bed:
    kept = [
        Rectangle(float(x), float(y), float(length), float(width), label, _day(first), _day(last), crop, height, spread)
        for x, y, length, width, label, first, last, crop, height, spread in row["kept"]
    ]
    return Bed(**{**row, "kept": kept, "outline_mm": corners(row["outline_mm"])})


def corners(kept: list[list[float]] | None) -> tuple[Point, ...]:
    """An outline as the database keeps it."""
    return tuple((float(x), float(y)) for x, y in kept or ())


def _day(text: str | None) -> date | None:
    return date.fromisoformat(text) if text else None


def _planting(row: dict[str, Any]) -> Planting:
    names = (
        "bed_from",
        "emerge_from",
        "emerge_to",
        "first_pick_early",
        "first_pick",
        "first_pick_late",
        "last_pick",
        "stands_until",
        "clear_by",
        "fit_years",
        "of_years",
    )
    dates = {name: row.pop(name) for name in names}
    row["dates"] = GrowthDates(start=row["start_on"], **dates) if dates["bed_from"] else None
    row["cells"] = cells(row["cells"])
    row["steps"] = {step: date.fromisoformat(day) for step, day in row["steps"].items()}
    row["events"] = {kind: date.fromisoformat(day) for kind, day in row["events"].items()}
    said = {
        kind: {step: date.fromisoformat(day) for word, step, day in row["tended"] if word == kind}
        for kind in ("called", "ended")
    }
    row["tended"] = Tended(**said)
    row["findings"] = tuple(from_store(kept) for kept in row["findings"] or ())
    row["depends_on"] = row["depends_on"] or ""
    return Planting(**row)
