"""The book read from the store: all pickings added up, what they were picked from, forecasts and what came, what worked."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from functools import cached_property
from itertools import zip_longest
from typing import Any, TypeVar
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.growth.forecasts import layout_of
from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.core.harvest import coming_harvest, forecast_error, what_worked, yields
from almanaque.core.harvest.coming_harvest import ComingShare, GrowingCrop
from almanaque.core.harvest.forecast_error import ForecastOutcome
from almanaque.core.harvest.learned_shift import Nearby
from almanaque.core.harvest.picking import WEIGHED, Weighing, unit_weight
from almanaque.core.harvest.yields import GrownPlanting, PickedSum, Seasons, Total
from almanaque.data import bushels_lb
from almanaque.store import queue
from almanaque.store.garden import garden
from almanaque.store.harvest import ledger, pickings
from almanaque.store.harvest.pickings import GrownRow

Answer = TypeVar("Answer")


@dataclass(frozen=True)
class Book:
    """Everything the pages of the book add up: sums of pickings, plantings, and the seasons that school years make."""

    context: Context
    sums: tuple[PickedSum, ...]
    rows: tuple[GrownRow, ...]
    seasons: Seasons

    @cached_property
    def grown(self) -> dict[str, GrownPlanting]:
        return {
            r.planting: GrownPlanting(
                r.planting,
                r.bed,
                r.crop,
                r.variety,
                r.area_m2 or 0.0,
                r.plants or 0,
                r.bed_from,
                max(r.bed_from, r.bed_to),
            )
            for r in self.rows
        }

    @cached_property
    def known_seasons(self) -> list[str]:
        """Seasons in which something was picked, oldest first."""
        order = {season: number for number, season in enumerate(self.seasons)}
        return sorted({s.season for s in self.sums}, key=lambda season: (order.get(season, -1), season))

    @cached_property
    def crops(self) -> dict[str, Crop]:
        """The crop of each planting."""
        return {row.planting: self.context.crops[row.crop] for row in self.rows}

    def crop_of(self, one: PickedSum) -> Crop:
        return self.crops[one.planting]

    def within(self, season: str = "", crop: str = "") -> list[PickedSum]:
        """Sums of a season, of a crop with its varieties, or of all."""
        return [
            s
            for s in self.sums
            if (not season or s.season == season) and (not crop or crop in (self.crop_of(s).key, self.crop_of(s).kind))
        ]

    def totals(self, sums: Iterable[PickedSum], key: Any) -> dict[Any, Total]:
        return yields.totals_by(sums, self.grown, key, self.seasons)

    @cached_property
    def _kept(self) -> dict[Any, Any]:
        return {}

    def once(self, key: Hashable, make: Callable[[], Answer]) -> Answer:
        """What `make` gives, made once for as long as this book holds; `key` names all it depends on besides the book."""
        if key not in self._kept:
            self._kept[key] = make()
        found: Answer = self._kept[key]
        return found

    @cached_property
    def facts(self) -> list[ForecastOutcome]:
        """Plantings of annual crops whose first picking can be measured against the forecast made when they were started."""
        last = {s.planting: s.last for s in self.sums}
        for one in self.sums:
            last[one.planting] = max(last[one.planting], one.last)
        order = [(season, span) for season, span in self.seasons.items()]
        return [
            ForecastOutcome(
                self.context.crops[r.crop].kind,
                r.bed,
                _season_of(r.first, order),
                r.method,
                r.started,
                r.first_pick_early,
                r.first_pick,
                r.first_pick_late,
                r.last_pick,
                r.first,
                last.get(r.planting, r.first),
                r.corrected,
                (r.last_early, r.last_first, r.last_late) if r.last_early and r.last_first and r.last_late else None,
                r.moved_by,
                r.bed_id,
            )
            for r in self.rows
            if r.first
            and r.started
            and r.first_pick
            and r.first_pick_early
            and r.first_pick_late
            and r.last_pick
            and r.crop in self.context.crops
            and self.context.crops[r.crop].life != "perennial"
        ]


def _season_of(day: date, seasons: list[tuple[str, tuple[date, date]]]) -> str:
    return next((name for name, (first, last) in seasons if first <= day <= last), str(day.year))


def seasons_of(context: Context) -> Seasons:
    """First and last day of each season: a school year and the summer after it, until the next one's first day."""
    years = context.years
    found: dict[str, tuple[date, date]] = {}
    for year, following in zip_longest(years, years[1:]):
        last = following.starts - timedelta(days=1) if following else year.ends
        found[year.name] = (year.starts, max(last, year.ends) if following is None else last)
    return found


def read(connection: Connection[Any], context: Context, *, today: date, until: date) -> Book:
    """The book up to a day, kept in memory as long as nothing it is made of changes."""
    key = (context.school.id, today, until, context.calendar_digest, context.crops_digest)
    return _books.of(key, pickings.version(connection), lambda: _read(connection, context, today=today, until=until))


class _Books:
    """The books of the schools seen last, each with the version of what it was made of."""

    SIZE = 8

    def __init__(self) -> None:
        self._kept: OrderedDict[Any, tuple[str, Book]] = OrderedDict()
        self._lock = threading.Lock()

    def of(self, key: Any, version: str, make: Callable[[], Book]) -> Book:
        """The book kept under a key and version, or a new one; without a version it is made for this call alone."""
        if not version:
            return make()
        with self._lock:
            known = self._kept.get(key)
            if known is not None and known[0] == version:
                self._kept.move_to_end(key)
                return known[1]
        found = make()
        with self._lock:
            self._kept[key] = (version, found)
            self._kept.move_to_end(key)
            while len(self._kept) > self.SIZE:
                self._kept.popitem(last=False)
        return found


_books = _Books()


def _read(connection: Connection[Any], context: Context, *, today: date, until: date) -> Book:
    seasons = seasons_of(context)
    rows = pickings.grown(connection, today=today)
    if any(row.plants is None for row in rows):
        size_plantings(connection, context)
        rows = pickings.grown(connection, today=today)
    rows = [row for row in rows if row.crop in context.crops]
    known = {row.planting for row in rows}
    sums = tuple(s for s in pickings.sums(connection, seasons, until=until) if s.planting in known)
    return Book(context, sums, tuple(rows), seasons)


def size_plantings(connection: Connection[Any], context: Context) -> int:
    """Keep ground and plants of plantings from before they were kept; return how many."""
    missing = set(pickings.unsized(connection))
    if not missing:
        return 0
    beds = {bed.id: bed for bed in garden.beds(connection)}
    for planting in garden.plantings(connection):
        if planting.id in missing and planting.crop in context.crops:
            bed = beds[planting.bed_id]
            plants = layout_of(planting, bed, context.crops[planting.crop], context.school.units).plants
            pickings.save_size(connection, planting.id, plants=plants, area_m2=planting.area_m2(bed))
    return len(missing)


def use_sums(connection: Connection[Any], book: Book, *, until: date) -> list[pickings.UseSum]:
    """What became of the pickings of each season and crop."""
    return book.once(("uses", until), lambda: pickings.use_sums(connection, book.seasons, until=until))


def errors(book: Book, nearby: Sequence[Nearby] = ()) -> list[forecast_error.Error]:
    return forecast_error.errors(book.facts, nearby)


def bed_paces(book: Book, nearby: Sequence[Nearby] = ()) -> dict[UUID, forecast_error.BedPace]:
    """How plants go in each bed against the school's others, by its own first pickings."""
    return {UUID(bed): one for bed, one in forecast_error.bed_paces(book.facts, nearby).items()}


def own_yields(book: Book) -> dict[str, list[float]]:
    """The school's own yield per area [g/m²] of each kind of crop, one for each season in which all its weights are known."""
    return book.once("own yields", lambda: _own_yields(book))


def _own_yields(book: Book) -> dict[str, list[float]]:
    main = [s for s in book.sums if s.part == book.crop_of(s).part]
    totals = book.totals(main, lambda s: (book.crop_of(s).kind, s.season))
    found: dict[str, list[float]] = {}
    for (kind, _), total in totals.items():
        if total.complete and total.per_square_metre is not None:
            found.setdefault(kind, []).append(total.per_square_metre)
    return found


def coming(connection: Connection[Any], context: Context, book: Book, *, today: date, until: date) -> list[ComingShare]:
    """What is to come by week, from what is in the ground and what is planned, crop by crop."""
    own = own_yields(book)
    grown = book.grown
    rows = garden.plantings(connection, since=today, until=until)
    beds = {bed.id: bed for bed in garden.beds(connection)}
    season_starts = max((first for first, last in book.seasons.values() if first <= today), default=today)
    given: dict[str, float] = {}
    for one in book.sums:
        if one.last >= season_starts:
            given[one.planting] = given.get(one.planting, 0.0) + float(one.weighed_g + one.estimated_g)
    shares: list[ComingShare] = []
    for planting in rows:
        if planting.dates is None or planting.status not in ("in the ground", "planned"):
            continue
        crop = context.crops[planting.crop]
        if crop.for_guests or crop.group == "cover crops":
            continue
        known = grown.get(str(planting.id))
        bed = beds[planting.bed_id]
        area = known.area_m2 if known else planting.area_m2(bed)
        plants = known.plants if known else layout_of(planting, bed, crop, context.school.units).plants
        standing = GrowingCrop(
            str(planting.id),
            bed.name,
            crop,
            planting.dates,
            area,
            plants,
            given.get(str(planting.id), 0.0),
            planting.events.get("first picking"),
            planting.status == "in the ground",
        )
        shares.extend(coming_harvest.by_week(standing, today=today, until=until, own=own.get(crop.kind, ())))
    return coming_harvest.together(shares)


def values(connection: Connection[Any], context: Context) -> Mapping[str, tuple[int, float, str]]:
    """Local price of each crop: minor units for a unit of so many grams, and whose word it is. Units without a weight are left out."""
    weighings = pickings.weighings(connection)
    found = {}
    for price in ledger.prices(connection):
        if price.crop not in context.crops:
            continue
        crop = context.crops[price.crop]
        grams = grams_of_unit(crop, price.unit, weighings.get(crop.kind, []))
        if grams:
            found[price.crop] = (price.price_minor, grams, price.said_by)
    return found


def grams_of_unit(crop: Crop, unit: str, weighings: Sequence[Weighing]) -> float | None:
    """Mass [g] of one of a unit, weighed or counted; None when nobody knows."""
    if unit in WEIGHED:
        return float(WEIGHED[unit])
    one = unit_weight(crop, unit, weighings, bushels_lb())
    return one.grams if one else None


def seasons_by_crop_and_bed(
    connection: Connection[Any], book: Book, *, until: date
) -> dict[tuple[str, str], list[what_worked.CropSeason]]:
    """Plantings by crop and bed, oldest first, with what was picked and lost."""
    return book.once(("seasons", until), lambda: _seasons_by_crop_and_bed(connection, book, until=until))


def _seasons_by_crop_and_bed(
    connection: Connection[Any], book: Book, *, until: date
) -> dict[tuple[str, str], list[what_worked.CropSeason]]:
    lost: dict[str, list[pickings.Loss]] = {}
    for loss in pickings.losses(connection, until=until):
        lost.setdefault(loss.planting, []).append(loss)
    given: dict[str, float] = {}
    last: dict[str, date] = {}
    for one in book.sums:
        given[one.planting] = given.get(one.planting, 0.0) + float(one.weighed_g + one.estimated_g)
        last[one.planting] = max(last.get(one.planting, one.last), one.last)
    order = list(book.seasons.items())
    found: dict[tuple[str, str], list[what_worked.CropSeason]] = {}
    for row in sorted(book.rows, key=lambda r: r.start_on):
        if row.crop not in book.context.crops or row.bed_from > until or book.context.crops[row.crop].for_guests:
            continue
        losses = lost.get(row.planting, [])
        grams = sum(float(loss.grams or 0) for loss in losses)
        share = grams / given[row.planting] if given.get(row.planting) else None
        found.setdefault((book.context.crops[row.crop].kind, row.bed), []).append(
            what_worked.CropSeason(
                _season_of(row.first or row.start_on, order),
                row.bed,
                row.started or row.start_on,
                row.first,
                last.get(row.planting),
                row.status == "lost",
                share if grams else None,
                tuple(sorted({loss.to_what for loss in losses if loss.to_what})),
                row.status == "in the ground",
            )
        )
    return found


def put_correction_to_use(connection: Connection[Any], context: Context, kind: str, *, use: bool, today: date) -> None:
    """Let a crop's own seasons move its dates, or leave that again; all its dates are made anew.

    Raises BadInput when its seasons say too little.
    """
    found = read(connection, context, today=today, until=today)
    error = next((one for one in errors(found) if one.crop == kind), None)
    if use and (error is None or not error.usable):
        raise BadInput("harvest.correction_needs_seasons")
    pickings.set_correction(
        connection,
        context.school.id,
        kind,
        days=error.usable if error and use else 0,
        seasons=error.seasons if error else 0,
        day=today,
    )
    queue.recompute_school(connection, context.school.id)
