"""The seed box at work: lots, tests, trays, saving seed, and where a lot came from."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.growth import forecasts
from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.core.findings import Finding
from almanaque.core.seeds import seed_lots as rules
from almanaque.core.seeds import seed_saving
from almanaque.core.seeds.seed_saving import Other, Saving
from almanaque.data import seed_saving as saving_table
from almanaque.store import errors
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.seeds import seed_box
from almanaque.store.seeds.seed_box import Count, GerminationTest, LotRow, TakenSeed, Tray, TraySowing

WAITS = timedelta(
    days=3
)  # so long after the day on which it usually is up in the warmth a test is counted out: our own rule
MOST_BACK = 30  # generations of a lot's descent that are followed


def keep_lot(connection: Connection[Any], context: Context, lot: LotRow, *, today: date) -> None:
    """Keep a lot, new or changed. Raises BadInput for what cannot be, NotFound for a planting of another school."""
    crop = context.crops[lot.crop]
    if lot.got_on > today or lot.year > today.year:
        raise BadInput("seeds.seed_in_future", field="year")
    if lot.grams is None and lot.seeds is None:
        raise BadInput("seeds.amount_missing", field="seeds")
    if lot.origin == "saved":
        if lot.from_planting is None:
            raise BadInput("seeds.saved_from_missing", field="from_planting")
        source = garden.planting(connection, lot.from_planting)
        if context.crops[source.crop].kind != crop.kind:
            raise BadInput(
                "seeds.saved_from_other_crop",
                field="from_planting",
                crop=context.crops[source.crop].name.en.lower(),
                wanted=crop.name.en.lower(),
            )
        if source.status in ("pencilled", "planned"):
            raise BadInput("seeds.saved_from_not_in_ground", field="from_planting")
    elif lot.from_planting is not None:
        raise BadInput("seeds.only_saved_has_parent", field="origin")
    known = next((other for other in seed_box.lots(connection) if other.id == lot.id), None)
    left = rules.seeds_in(crop, grams=float(lot.grams) if lot.grams else None, seeds=lot.seeds)
    if known is not None and left is not None and known.taken > left:
        raise BadInput("seeds.more_was_taken", field="seeds", taken=known.taken)
    seed_box.save_lot(connection, context.school.id, lot)


def left_of(crop: Crop, lot: LotRow) -> int | None:
    """Seeds left of a lot; None when nobody knows how many a gram holds; 0 once it is closed."""
    if lot.closed_on is not None:
        return 0
    whole = rules.seeds_in(crop, grams=float(lot.grams) if lot.grams is not None else None, seeds=lot.seeds)
    return None if whole is None else max(0, whole - lot.taken)


def take(connection: Connection[Any], context: Context, taken: TakenSeed, *, today: date) -> None:
    """Take seed from a lot for a planting or a purpose. Raises BadInput for more than is left, and for another crop."""
    lot = seed_box.lot(connection, taken.lot_id)
    crop = context.crops[lot.crop]
    if lot.closed_on is not None:
        raise BadInput("seeds.lot_closed", field="lot", why=lot.closed_why)
    if not lot.got_on <= taken.on_day <= today:
        raise BadInput("seeds.taken_on_wrong_day", field="day")
    if taken.planting_id is not None:
        planting = garden.planting(connection, taken.planting_id)
        if context.crops[planting.crop].kind != crop.kind:
            raise BadInput(
                "seeds.lot_of_other_crop",
                field="planting",
                crop=context.crops[planting.crop].name.en.lower(),
                seed=crop.name.en.lower(),
            )
    left = left_of(crop, lot)
    known = any(one.id == taken.id for one in seed_box.taken(connection, lot_id=lot.id))
    if left is not None and taken.seeds > left and not known:
        raise BadInput("seeds.too_few_left", field="seeds", left=left)
    seed_box.take(connection, context.school.id, taken)


def start_test(
    connection: Connection[Any], context: Context, test: GerminationTest, *, use_id: UUID, today: date
) -> None:
    """Begin a germination test; its seeds are taken from the lot."""
    if test.started_on > today:
        raise BadInput("seeds.test_in_future", field="day")
    lot = seed_box.lot(connection, test.lot_id)
    if any(known.id == test.id for known in lot.tests):
        return
    take(
        connection,
        context,
        TakenSeed(use_id, lot.id, None, test.started_on, test.sown, "germination test"),
        today=today,
    )
    seed_box.start_test(connection, context.school.id, test)


def count(
    connection: Connection[Any],
    context: Context,
    lot_id: UUID,
    test_id: UUID,
    counted: Count,
    *,
    today: date,
    end: bool,
) -> None:
    """Note how many are up. Raises BadInput for more than were sown, fewer than before, or a day before the start."""
    lot = seed_box.lot(connection, lot_id)
    test = next((t for t in lot.tests if t.id == test_id), None)
    if test is None:
        raise errors.NotFound("There is no such test of this lot.")
    if not test.started_on <= counted.on_day <= today:
        raise BadInput("seeds.test_counted_on_wrong_day", field="day")
    rules.wilson(counted.up, test.sown)  # refuses more than were sown
    earlier = max((c.up for c in test.counts if c.on_day < counted.on_day), default=0)
    if counted.up < earlier:
        raise BadInput("seeds.fewer_up_than_before", field="up", earlier=earlier)
    seed_box.count(connection, context.school.id, test_id, counted)
    seed_box.end_test(connection, test_id, counted.on_day if end else None)


def rate_of(lot: LotRow) -> rules.Rate | None:
    """The result of the last test that was counted out; None without one. What still runs may yet come up."""
    counted = [test for test in lot.tests if test.up is not None and test.ended_on is not None]
    if not counted:
        return None
    last = counted[-1]
    return rules.wilson(last.up or 0, last.sown)


def name_of(context: Context, lot: LotRow) -> str:
    """Crop, variety and year of a lot."""
    return f"{context.crops[lot.crop].name.en} {lot.variety} {lot.year}".replace("  ", " ")


def due(context: Context, lots: Sequence[LotRow]) -> list[tuple[LotRow, GerminationTest, date]]:
    """Tests that run, with the day on which they are to be counted out, the earliest first."""
    found = []
    for lot in lots:
        for test in lot.tests:
            if test.ended_on is None:
                crop = context.crops[lot.crop]
                found.append((lot, test, test.started_on + timedelta(days=crop.emerges[0]) + WAITS))
    return sorted(found, key=lambda row: row[2])


def life_of(context: Context, lot: LotRow, today: date) -> rules.SeedLife:
    return rules.life(context.crops[lot.crop], lot.year, today.year, place=lot.place, pelleted=lot.pelleted)


@dataclass(frozen=True)
class Savable:
    """A planting whose seed could be saved, and what speaks for and against it."""

    planting: Planting
    bed: Bed
    crop: Crop
    saving: Saving
    findings: list[Finding]

    @property
    def good(self) -> bool:
        return all(finding.severity == "note" for finding in self.findings)


def savable(connection: Connection[Any], context: Context, day: date) -> list[Savable]:
    """Plantings in the ground on a day of which seed can be saved, the easiest first."""
    table = saving_table()
    beds = {bed.id: bed for bed in garden.beds(connection)}
    standing = [p for p in garden.plantings(connection, since=day, until=day) if p.status == "in the ground"]
    hybrids = {lot.id for lot in seed_box.lots(connection) if lot.hybrid}
    from_hybrid = {t.planting_id for t in seed_box.taken(connection) if t.lot_id in hybrids}
    found = []
    for planting in standing:
        crop = context.crops[planting.crop]
        saving = table.get(crop.kind)
        if saving is None:
            continue
        others = [
            Other(context.crops[o.crop].name.en + (f" {o.variety}" if o.variety else ""), beds[o.bed_id].name)
            for o in standing
            if o.id != planting.id
            and (o.crop, o.variety) != (planting.crop, planting.variety)
            and seed_saving.species(context.crops[o.crop]) == seed_saving.species(crop)
        ]
        plants = forecasts.layout_of(planting, beds[planting.bed_id], crop).plants
        findings = seed_saving.judge(
            crop,
            saving,
            plants=plants,
            others=others,
            hybrid=planting.id in from_hybrid,
            units=context.school.units,
            bolted="bolted" in planting.events,
        )
        found.append(Savable(planting, beds[planting.bed_id], crop, saving, findings))
    order = {"note": 0, "care": 1, "fault": 2}
    return sorted(found, key=lambda s: (order[s.findings[0].severity], s.crop.name.en))


@dataclass(frozen=True)
class Ancestor:
    """A step back in a lot's descent: the lot, and the planting that its seed was saved from."""

    lot: LotRow
    planting: Planting | None
    bed: str


def descent(connection: Connection[Any], lot: LotRow) -> list[Ancestor]:
    """Where a lot came from, lot by lot, the newest first: saved from a planting that was sown from an earlier lot, and so on."""
    by_id = {known.id: known for known in seed_box.lots(connection)}
    found: list[Ancestor] = []
    seen: set[UUID] = set()
    current: LotRow | None = lot
    while current is not None and current.id not in seen and len(found) < MOST_BACK:
        seen.add(current.id)
        planting = garden.planting(connection, current.from_planting) if current.from_planting else None
        bed = garden.bed(connection, planting.bed_id).name if planting else ""
        found.append(Ancestor(current, planting, bed))
        used = seed_box.taken(connection, planting_id=planting.id) if planting else []
        current = next((by_id[t.lot_id] for t in used if t.lot_id in by_id), None)
    return found


def sow(connection: Connection[Any], context: Context, sowing: TraySowing, *, use_id: UUID, today: date) -> None:
    """Sow cells of a tray, taking the seed from its lot if one is named. Raises BadInput for cells that the tray
    lacks or that are taken."""
    tray = seed_box.tray(connection, sowing.tray_id)
    crop = context.crops[sowing.crop]
    if any(known.id == sowing.id for known in tray.sowings):
        return
    if sowing.sown_on > today:
        raise BadInput("seeds.sown_in_future", field="day")
    if not 1 <= sowing.first_cell <= sowing.last_cell <= tray.cells:
        raise BadInput("seeds.no_such_cells", field="first", cells=tray.cells)
    clash = next(
        (
            s
            for s in tray.sowings
            if s.gone_on is None and s.first_cell <= sowing.last_cell and s.last_cell >= sowing.first_cell
        ),
        None,
    )
    if clash is not None:
        raise BadInput(
            "seeds.cells_taken",
            field="first",
            first_cell=clash.first_cell,
            last_cell=clash.last_cell,
            crop=context.crops[clash.crop].name.en.lower(),
        )
    if sowing.planting_id is not None:
        planting = garden.planting(connection, sowing.planting_id)
        if context.crops[planting.crop].kind != crop.kind:
            raise BadInput("seeds.sowing_of_other_crop", field="planting")
    if sowing.lot_id is not None:
        taken = TakenSeed(
            use_id,
            sowing.lot_id,
            sowing.planting_id,
            sowing.sown_on,
            sowing.cells * sowing.per_cell,
            f"sown in {tray.name}",
        )
        take(connection, context, taken, today=today)
    seed_box.sow(connection, context.school.id, sowing)


def tend(
    connection: Connection[Any],
    context: Context,
    tray_id: UUID,
    sowing_id: UUID,
    *,
    up: int | None,
    goes_home: int,
    gone_on: date | None,
    today: date,
) -> None:
    """Note how many cells are up, how many go home in a pot, and when the cells are empty again."""
    tray = seed_box.tray(connection, tray_id)
    sowing = next((s for s in tray.sowings if s.id == sowing_id), None)
    if sowing is None:
        raise errors.NotFound("There is no such sowing in this tray.")
    if up is not None and not 0 <= up <= sowing.cells:
        raise BadInput("seeds.more_cells_than_sown", field="up", cells=sowing.cells)
    if not 0 <= goes_home <= (sowing.cells if up is None else up):
        raise BadInput("seeds.more_home_than_up", field="home")
    if gone_on is not None and not sowing.sown_on <= gone_on <= today:
        raise BadInput("seeds.emptied_on_wrong_day", field="gone_on")
    seed_box.sow(connection, context.school.id, replace(sowing, up=up, goes_home=goes_home, gone_on=gone_on))


def free_cells(tray: Tray) -> int:
    return tray.cells - sum(s.cells for s in tray.sowings if s.gone_on is None)


def next_free(tray: Tray) -> int | None:
    """The first cell that is free; None in a full tray."""
    taken = {cell for s in tray.sowings if s.gone_on is None for cell in range(s.first_cell, s.last_cell + 1)}
    return next((cell for cell in range(1, tray.cells + 1) if cell not in taken), None)


@dataclass(frozen=True)
class Indoors:
    """A sowing under glass with what its plan says comes next."""

    sowing: TraySowing
    planting: Planting | None
    pot_up: date | None
    harden_from: date | None
    out: date | None


def indoors(connection: Connection[Any], context: Context, tray: Tray, today: date) -> list[Indoors]:
    """What stands in a tray with its days for potting up, hardening off and setting out."""
    found = []
    for sowing in tray.sowings:
        if sowing.gone_on is not None:
            continue
        planting = garden.planting(connection, sowing.planting_id) if sowing.planting_id else None
        days: dict[str, date] = {}
        if planting is not None and planting.dates is not None:
            bed = garden.bed(connection, planting.bed_id)
            for step in forecasts.steps_of(context, planting, bed, planting.dates, today):
                days.setdefault(step.step, step.from_day)
        found.append(
            Indoors(
                sowing, planting, days.get("pot up"), days.get("harden off"), planting.bed_from if planting else None
            )
        )
    return found


def put_away(connection: Connection[Any], context: Context, tray: Tray, *, today: date) -> None:
    """Put an empty tray away. Raises BadInput while something stands in it."""
    if any(sowing.gone_on is None for sowing in tray.sowings):
        raise BadInput("seeds.tray_not_empty", field="action")
    seed_box.save_tray(connection, context.school.id, replace(tray, emptied_on=today))
