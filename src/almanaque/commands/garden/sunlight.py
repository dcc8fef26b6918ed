"""Hours of direct sun on beds and ground, from what stands around and what grows tall; kept until something moves."""

import threading
from collections import OrderedDict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Any
from uuid import UUID

import numpy as np
import numpy.typing as npt
from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.growth.forecasts import layout_of
from almanaque.core.garden import site
from almanaque.core.garden.bed import Cell, Grid, Rectangle
from almanaque.core.garden.site import TallPlants
from almanaque.core.growth import plant_height
from almanaque.core.place import shade
from almanaque.core.place.shade import Obstacle
from almanaque.store.garden import garden, site_features
from almanaque.store.garden.garden import Bed, Planting, Site
from almanaque.store.garden.site_features import FeatureRow

Floats = npt.NDArray[np.float64]
RAISED = frozenset({"raised", "container", "fabric pot", "planter"})
MOST_BODIES = 40  # more plants of one planting are reckoned square by square
GROUND_SQUARES = 30  # along the longer side of the site


@dataclass(frozen=True)
class SunlitGround:
    """Hours of sun over the site: squares of `side_mm`, hours[row][column]."""

    side_mm: float
    hours: Floats


class _KeptSun:
    """Answers by all they depend on; the least used are dropped first, once they take more than their share of memory."""

    MOST_BYTES = 32_000_000

    def __init__(self) -> None:
        self._kept: OrderedDict[Any, Floats] = OrderedDict()
        self._bytes = 0
        self._lock = threading.Lock()

    def hours(
        self,
        points: Floats,
        days: tuple[date, ...],
        obstacles: tuple[Obstacle, ...],
        latitude: float,
        north: float,
        height: float,
    ) -> Floats:
        key = (points.tobytes(), days, obstacles, latitude, north, height)
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        found = shade.hours_of_sun(points, days, obstacles, latitude=latitude, north_deg=north, height_mm=height)
        with self._lock:
            if key not in self._kept:
                self._kept[key] = found
                self._bytes += found.nbytes + points.nbytes
            while self._bytes > self.MOST_BYTES and self._kept:
                (old_points, *_), old = self._kept.popitem(last=False)
                self._bytes -= old.nbytes + len(old_points)
        return found


_kept = _KeptSun()


@dataclass(frozen=True)
class Tall:
    """A planting that throws shade: its bodies, and the squares it stands in itself."""

    body: TallPlants
    bed: UUID
    cells: frozenset[Cell]


@dataclass(frozen=True)
class Light:
    """The light of one site: its features, and the plants that are tall on a day."""

    place: Site
    latitude: float
    rows: tuple[FeatureRow, ...]
    plants: tuple[Tall, ...] = ()
    lasting: tuple["KeptBody", ...] = ()

    def only(self, key: str) -> "Light":
        """The same place with the shade of one planting alone."""
        return replace(self, plants=tuple(p for p in self.plants if p.body.name == key))

    def on(self, bed: Bed, day: date, *, plants: bool = True, without: str = "") -> dict[Cell, float]:
        """Hours of direct sun on a day in each square that can be planted; typed ones on an indoor sill."""
        cells = _all_cells(bed)
        if bed.indoors:
            return dict.fromkeys(cells, bed.light_h) if bed.light_h is not None else {}
        hours = self._hours(bed, (day,), self._standing(day, plants=plants, without=without))[0]
        found = {cell: float(value) for cell, value in zip(cells, hours, strict=True)}
        own = (
            {cell for p in self.plants for cell in p.cells if p.bed == bed.id and p.body.name != without}
            if plants
            else set()
        )
        if own:  # a plant does not stand in its own shade
            open_hours = self._hours(bed, (day,), self._standing(day, plants=False))[0]
            found.update({cell: float(value) for cell, value in zip(cells, open_hours, strict=True) if cell in own})
        return found

    def by_month(self, bed: Bed, year: int) -> list[float | None]:
        """Mean hours over the bed in each month of a year, by what stands then; plants are left out."""
        if bed.indoors:
            return [bed.light_h] * 12
        days = site.month_days(year)
        alike: dict[tuple[Obstacle, ...], list[date]] = {}
        for day in days:
            alike.setdefault(self._standing(day, plants=False), []).append(day)
        found: dict[date, float] = {}
        for obstacles, group in alike.items():
            hours = self._hours(bed, tuple(group), obstacles)
            found.update({day: float(row.mean()) for day, row in zip(group, hours, strict=True)})
        return [found[day] for day in days]

    def ground(self, day: date) -> SunlitGround:
        """The whole site on a day, at the height of the ground."""
        side = max(self.place.width_mm, self.place.depth_mm) / GROUND_SQUARES
        across, down = int(np.ceil(self.place.width_mm / side)), int(np.ceil(self.place.depth_mm / side))
        points = np.array([((c + 0.5) * side, (r + 0.5) * side) for r in range(down) for c in range(across)])
        hours = _kept.hours(points, (day,), self._standing(day, plants=True), self.latitude, self.place.north_deg, 0.0)
        return SunlitGround(side, hours[0].reshape(down, across))

    def bodies(self, day: date) -> tuple[Obstacle, ...]:
        """Everything that throws shade on a day, the tall plants with it."""
        return self._standing(day, plants=True)

    def in_shade(self, beds: Sequence[Bed], day: date, altitude_deg: float, azimuth_deg: float) -> dict[UUID, int]:
        """How many squares of each bed that can be planted lie in shade with the sun at a place [°]; no plant shades its own."""
        found: dict[UUID, int] = {}
        heights: dict[float, list[Bed]] = {}
        for bed in beds:
            if bed.site_id == self.place.id and not bed.indoors:
                heights.setdefault(bed.depth_mm if bed.kind in RAISED else 0.0, []).append(bed)
        every, lasting = self._standing(day, plants=True), self._standing(day, plants=False)
        for height, some in heights.items():
            points = np.concatenate([_middles(bed) for bed in some])
            dark, without = (
                shade.in_shade(
                    points, altitude_deg, azimuth_deg, bodies, north_deg=self.place.north_deg, height_mm=height
                )
                for bodies in (every, lasting)
            )
            first = 0
            for bed in some:
                cells, wanted = _all_cells(bed), set(bed.grid(day).cells)
                own = {cell for p in self.plants for cell in p.cells if p.bed == bed.id}
                here = slice(first, first + len(cells))
                each = zip(cells, dark[here], without[here], strict=True)
                found[bed.id] = sum(bool(w if cell in own else d) for cell, d, w in each if cell in wanted)
                first += len(cells)
        return found

    def _hours(self, bed: Bed, days: tuple[date, ...], obstacles: tuple[Obstacle, ...]) -> Floats:
        height = bed.depth_mm if bed.kind in RAISED else 0.0
        return _kept.hours(_middles(bed), days, obstacles, self.latitude, self.place.north_deg, height)

    def _standing(self, day: date, *, plants: bool, without: str = "") -> tuple[Obstacle, ...]:
        around = [body for row in self.rows if row.stands_on(day) for body in site.bodies(row.feature)]
        around += site.plant_bodies([kept.body for kept in self.lasting if kept.part.overlaps(day, day)])
        tall = site.plant_bodies([p.body for p in self.plants if p.body.name != without]) if plants else []
        return (*around, *tall)


def light(
    connection: Connection[Any],
    context: Context,
    place: Site,
    beds: Sequence[Bed],
    present: Iterable[Planting] = (),
    *,
    day: date | None = None,
) -> Light:
    """Read what stands on a site; of `present` plantings those that are tall throw shade too: as high as they are by a day, or grown."""
    rows = tuple(row for row in site_features.features(connection) if row.site_id == place.id)
    by_id = {bed.id: bed for bed in beds if bed.site_id == place.id and not bed.indoors}
    plants = tuple(
        tall(planting, by_id[planting.bed_id], context, height)
        for planting in present
        if planting.bed_id in by_id and (height := height_on(planting, context, day)) >= site.TALL_MM
    )
    lasting = tuple(
        body for bed in by_id.values() for part in bed.kept if (body := kept_body(part, bed, context)) is not None
    )
    latitude = place.latitude if place.latitude is not None else context.school.latitude
    return Light(place, latitude, rows, plants, lasting)


@dataclass(frozen=True)
class KeptBody:
    """A plant that is kept in a bed, as a body, for the days on which it is there."""

    body: TallPlants
    part: Rectangle


def kept_body(part: Rectangle, bed: Bed, context: Context) -> KeptBody | None:
    """What is kept as a plant that throws shade; None for what is no plant, or low."""
    crop = context.crops[part.crop] if part.crop and part.crop in context.crops else None
    height = part.height_mm or (crop.height_mm if crop else None)
    if height is None or height < site.TALL_MM:
        return None
    spread = part.spread_mm or max(min(part.length_mm, part.width_mm), crop.width_mm if crop else 0.0)
    base = bed.depth_mm if bed.kind in RAISED else 0.0
    ((x, y),) = bed.shape.to_site((part.middle_mm,))
    bare = crop.bare_in(southern=context.school.southern) if crop else frozenset()
    return KeptBody(TallPlants(part.label, ((float(x), float(y)),), base + height, spread, bare), part)


def height_on(planting: Planting, context: Context, day: date | None) -> float:
    """Height [mm] by a day; grown without a day, or without dates."""
    crop = context.crops[planting.crop]
    return (
        crop.height_mm if day is None or planting.dates is None else plant_height.height_mm(crop, day, planting.dates)
    )


def tall(planting: Planting, bed: Bed, context: Context, height_mm: float) -> Tall:
    """A planting as bodies on the site, plant by plant or square by square; its name is its id."""
    crop = context.crops[planting.crop]
    places = layout_of(planting, bed, crop).positions_mm
    width = crop.width_mm
    if len(places) > MOST_BODIES:
        grid = bed.grid()
        places = tuple(((c + 0.5) * grid.pitch_x_mm, (r + 0.5) * grid.pitch_y_mm) for c, r in sorted(planting.cells))
        width = max(width, min(grid.pitch_x_mm, grid.pitch_y_mm))
    base = bed.depth_mm if bed.kind in RAISED else 0.0
    on_site = tuple((float(x), float(y)) for x, y in bed.shape.to_site(places)) if places else ()
    bare = crop.bare_in(southern=context.school.southern)
    return Tall(TallPlants(str(planting.id), on_site, base + height_mm, width, bare), bed.id, planting.cells)


def _all_cells(bed: Bed) -> list[Cell]:
    """Every square within the outline, kept ones too, so that the answer does not change with what is kept."""
    grid: Grid = bed.grid()
    return [(c, r) for r in range(grid.rows) for c in range(grid.columns) if (c, r) not in grid.outside]


def _middles(bed: Bed) -> Floats:
    grid = bed.grid()
    middles = [((c + 0.5) * grid.pitch_x_mm, (r + 0.5) * grid.pitch_y_mm) for c, r in _all_cells(bed)]
    return bed.shape.to_site(middles)


def site_of(connection: Connection[Any], bed: Bed) -> Site:
    return next(place for place in garden.sites(connection) if place.id == bed.site_id)
