"""Picking: keep, change or take back what was picked, hang it to cure, weigh a unit once and for all."""

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from decimal import Decimal
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import planting_events
from almanaque.commands.garden.held_bed import hold_all, hold_of
from almanaque.commands.growth.forecasts import layout_of
from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.core.growth.growth_dates import ready_until
from almanaque.core.harvest import coming_harvest, picking
from almanaque.core.harvest.picking import Weighing, Weight
from almanaque.data import bushels_lb
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.harvest import pickings
from almanaque.store.harvest.pickings import NewPicking, Picked

LONGEST_NOTE = 1000
MOST_TOGETHER = 12  # plantings in one basket
APART = Decimal("0.3")  # how far the part of one planting may be off when several were weighed together; our own rule


@dataclass(frozen=True)
class PickingWish:
    """A picking as typed. `id` is made by the page and keeps it single however often it is sent.

    `parts` are amounts that went to other uses than `use`, in the same unit; `sure` says that a doubtful amount is right, `last` that
    nothing more is to come, `others` the plantings whose pickings lie in the same basket.
    """

    id: UUID
    planting_id: UUID
    amount: str
    unit: str
    use: str
    day: date
    class_group_id: UUID | None = None
    note: str = ""
    part: str = ""
    quality: str = ""
    team: str = ""
    lost_to: str = ""
    parts: Mapping[str, str] = field(default_factory=dict)
    sure: bool = False
    last: bool = False
    others: Sequence[UUID] = ()


def pick(connection: Connection[Any], context: Context, wish: PickingWish, actor: Actor) -> NewPicking:
    """Keep a picking; the first of a planting is noted as its event, the last clears it.

    Raises BadInput with the field that is wrong, and field `sure` for an amount that is far above what is usual.
    """
    ids = list(dict.fromkeys([wish.planting_id, *wish.others]))
    if len(ids) > MOST_TOGETHER:
        raise BadInput("harvest.basket_too_many", field="others", most=MOST_TOGETHER)
    hold_all(connection, context, ids, actor)
    plantings = [garden.planting(connection, pid) for pid in ids]
    for planting in plantings:
        _pickable(context, planting, wish.day, actor)
    unit = picking.read_unit(wish.unit)
    amount = picking.parse_amount(wish.amount, unit)
    shares = _shares(wish, amount)
    kept = [
        NewPicking(
            id=wish.id if planting.id == wish.planting_id else _id_of(wish.id, planting.id),
            planting_id=planting.id,
            picked_on=wish.day,
            part=_part(wish.part, context.crops[planting.crop]),
            amount=part,
            unit=unit,
            weight=weight,
            class_group_id=wish.class_group_id,
            note=_note(wish.note),
            uses=shares,
            lost_to=_line(wish.lost_to, "lost_to", 80),
            quality=_line(wish.quality, "quality", 60),
            team=_line(wish.team, "team", 60),
            basket_id=wish.id if len(plantings) > 1 else None,
        )
        for planting, (part, weight) in zip(
            plantings, _weights(connection, context, plantings, amount, unit), strict=True
        )
    ]
    if not wish.sure:
        _believe(connection, context, plantings, kept)
    for planting, new in zip(plantings, kept, strict=True):
        if pickings.save(connection, context.school.id, new, by=actor.by):
            _mark(connection, context, planting, wish, actor)
    return kept[0]


def _pickable(context: Context, planting: Planting, day: date, actor: Actor) -> None:
    name = context.crops[planting.crop].name.en.lower()
    if day > actor.today:
        raise BadInput("harvest.picking_in_future", field="day")
    if planting.status in ("pencilled", "planned"):
        raise BadInput("harvest.planting_not_in_ground", field="planting", name=name)
    if day < planting.bed_from:
        raise BadInput("harvest.went_in_later", field="day", name=name)
    gone = planting.events.get("cleared") or planting.events.get("lost")
    if gone is not None and day > gone:
        raise BadInput("harvest.out_of_bed_by_then", field="day", name=name)


def _shares(wish: PickingWish, amount: Decimal) -> dict[str, Decimal]:
    parts = {use: picking.parse_amount(text, wish.unit) for use, text in wish.parts.items() if text.strip()}
    return picking.split(amount, parts, wish.use)


def _part(text: str, crop: Crop) -> str:
    part = " ".join(text.split()) or crop.part
    if len(part) > 30:
        raise BadInput("harvest.part_too_long", field="part")
    return part


def _note(text: str) -> str:
    if len(text) > LONGEST_NOTE:
        raise BadInput("harvest.picking_note_too_long", field="note")
    return text.strip()


def _line(text: str, name: str, most: int) -> str:
    plain = " ".join(text.split())
    if len(plain) > most:
        raise BadInput("harvest.text_too_long", field=name, most=most)
    return plain


def _id_of(basket: UUID, planting: UUID) -> UUID:
    """The id of another planting's part of a basket: the same however often the basket is sent."""
    return UUID(bytes=hashlib.sha256(basket.bytes + planting.bytes).digest()[:16])


def _weights(
    connection: Connection[Any], context: Context, plantings: Sequence[Planting], amount: Decimal, unit: str
) -> list[tuple[Decimal, Weight]]:
    """Amount and weight of each planting's part; several in a basket share it by what they usually give, as estimates."""
    weighings = pickings.weighings(connection)
    crops = [context.crops[planting.crop] for planting in plantings]

    def weighed(crop: Crop, part: Decimal) -> Weight:
        return picking.weigh(crop, part, unit, weighings.get(crop.kind, ()), bushels_lb())

    if len(plantings) == 1:
        return [(amount, weighed(crops[0], amount))]
    beds = {planting.bed_id: garden.bed(connection, planting.bed_id) for planting in plantings}
    usual = [
        Decimal(str(sum(coming_harvest.usual_yield(crop, area_m2=area, plants=plants)[:2])))
        for planting, crop in zip(plantings, crops, strict=True)
        for area, plants in [size_of(context, planting, beds[planting.bed_id])]
    ]
    found: list[tuple[Decimal, Weight]] = []
    left = amount
    for number, (crop, share) in enumerate(zip(crops, usual, strict=True), start=1):
        step = Decimal("0.001")
        part = left if number == len(crops) else max((amount * share / sum(usual)).quantize(step), step)
        if part <= 0:
            raise BadInput("harvest.too_little_for_so_many_beds", field="others")
        left -= part
        weight = weighed(crop, part)
        if weight.grams is not None:
            low, high = (weight.grams * factor for factor in (1 - APART, 1 + APART))
            weight = Weight(
                weight.grams, True, max(low.quantize(picking.CENT), picking.CENT), high.quantize(picking.CENT)
            )
        found.append((part, weight))
    return found


def size_of(context: Context, planting: Planting, bed: Bed) -> tuple[float, int]:
    """Ground [m²] and number of plants of a planting."""
    crop = context.crops[planting.crop]
    return planting.area_m2(bed), layout_of(planting, bed, crop, context.school.units).plants


def _believe(
    connection: Connection[Any], context: Context, plantings: Sequence[Planting], kept: Sequence[NewPicking]
) -> None:
    before = pickings.given(connection, [planting.id for planting in plantings])
    for planting, new in zip(plantings, kept, strict=True):
        crop = context.crops[planting.crop]
        area, plants = size_of(context, planting, garden.bed(connection, planting.bed_id))
        earlier = before.get(planting.id, Decimal(0)) if crop.life != "perennial" else Decimal(0)
        times = picking.doubt(crop, new.weight.grams, area_m2=area, plants=plants, before=earlier)
        if times and not _kept_before(connection, new):
            raise BadInput("harvest.far_above_usual", field="sure", times=times)


def _kept_before(connection: Connection[Any], new: NewPicking) -> bool:
    return connection.execute("SELECT 1 FROM harvest WHERE id = %s", [new.id]).fetchone() is not None


def _mark(connection: Connection[Any], context: Context, planting: Planting, wish: PickingWish, actor: Actor) -> None:
    """Events after a picking: the first one, the part that cures, the last one."""
    first = planting.events.get("first picking")
    if first is None:
        planting_events.first_picked(connection, context, planting.id, wish.day, actor)
    if wish.last and context.crops[planting.crop].life != "perennial" and "cleared" not in planting.events:
        planting_events.happened(connection, context, planting.id, "cleared", wish.day, actor)


def change(connection: Connection[Any], context: Context, wish: PickingWish, actor: Actor) -> None:
    """Write a picking anew with what is right; its weight is reckoned again. The planting stays."""
    held = hold_of(connection, context, pickings.one(connection, wish.id).planting_id, actor)
    known = pickings.one(connection, wish.id)
    planting = held.planting(known.planting_id)
    _pickable(context, planting, wish.day, actor)
    unit = picking.read_unit(wish.unit)
    amount = picking.parse_amount(wish.amount, unit)
    weight = Weight(known.grams, known.estimated, known.low_g, known.high_g)
    if (amount, unit) != (known.amount, known.unit):
        ((_, weight),) = _weights(connection, context, [planting], amount, unit)
    changed = NewPicking(
        id=known.id,
        planting_id=planting.id,
        picked_on=wish.day,
        part=_part(wish.part, context.crops[planting.crop]),
        amount=amount,
        unit=unit,
        weight=weight,
        class_group_id=wish.class_group_id,
        note=_note(wish.note),
        uses=_shares(wish, amount),
        lost_to=_line(wish.lost_to, "lost_to", 80),
        quality=_line(wish.quality, "quality", 60),
        team=_line(wish.team, "team", 60),
        basket_id=known.basket_id,
    )
    if not wish.sure:
        area, plants = size_of(context, planting, held.bed)
        times = picking.doubt(context.crops[planting.crop], weight.grams, area_m2=area, plants=plants)
        if times:
            raise BadInput("harvest.far_above_usual", field="sure", times=times)
    pickings.change(connection, context.school.id, changed)
    _first_again(connection, context, planting.id, actor)


def take_back(connection: Connection[Any], context: Context, picking_id: UUID, actor: Actor, *, back: bool) -> None:
    """Take back a picking that was noted by mistake, or bring it in again. It stays on record."""
    known = pickings.one(connection, picking_id)
    hold_of(connection, context, known.planting_id, actor)
    pickings.take_back(connection, picking_id, actor.today if back else None)
    _first_again(connection, context, known.planting_id, actor)


def _first_again(connection: Connection[Any], context: Context, planting_id: UUID, actor: Actor) -> None:
    """The event of the first picking follows the pickings that are left."""
    days = [row.picked_on for row in pickings.recent(connection, planting=planting_id, limit=10_000)]
    planting_events.first_picked(connection, context, planting_id, min(days, default=None), actor)


def hang(
    connection: Connection[Any],
    context: Context,
    picking_id: UUID,
    *,
    day: date,
    place: str,
    days: int | None,
    actor: Actor,
    note: str = "",
) -> date:
    """Hang a picking up to cure or dry and return when it should be ready: after the crop's days, or as many as given."""
    known = pickings.one(connection, picking_id)
    if not known.picked_on <= day <= actor.today:
        raise BadInput("harvest.hung_up_on_wrong_day", field="day")
    usual = context.crops[known.crop].cure_days or 14
    wait = usual if days is None else days
    if not 0 <= wait <= 200:
        raise BadInput("harvest.curing_out_of_range", field="days")
    ready = day + timedelta(days=wait)
    pickings.hang(
        connection,
        context.school.id,
        picking_id,
        hung_on=day,
        place=_line(place, "place", 80),
        ready_on=ready,
        note=_line(note, "note", 400),
    )
    return ready


def cured(
    connection: Connection[Any], picking_id: UUID, *, day: date, grams: Decimal | None, actor: Actor
) -> float | None:
    """Note that a picking is cured, and its weight [g] if it was weighed; return the share it lost if that can be said."""
    known = pickings.one(connection, picking_id)
    if known.hung_on is None:
        raise BadInput("harvest.not_hung_up", field="day")
    if not known.hung_on <= day <= actor.today:
        raise BadInput("harvest.cured_on_wrong_day", field="day")
    loss = None
    if grams is not None and known.grams is not None:
        picking.curing_loss(known.high_g or known.grams, grams)  # refuses what cannot be
        loss = float(1 - grams / known.grams)
    pickings.cured(connection, picking_id, day=day, grams=grams)
    return loss


def weigh_unit(
    connection: Connection[Any],
    context: Context,
    weighing_id: UUID,
    crop: str,
    amount: str,
    unit: str,
    grams: Decimal,
    *,
    day: date,
    actor: Actor,
) -> int:
    """Keep a weighing of a unit and reckon earlier pickings in it anew; return how many that were. Raises BadInput."""
    kind = context.crops[crop].kind
    name = picking.read_unit(unit)
    if name in picking.WEIGHED:
        raise BadInput("harvest.weights_need_no_weighing", field="unit")
    if day > actor.today:
        raise BadInput("harvest.weighed_in_future", field="day")
    if not 0 < grams <= picking.MOST_GRAMS:
        raise BadInput("harvest.weight_out_of_range", field="weight")
    pickings.save_weighing(
        connection,
        context.school.id,
        weighing_id,
        kind,
        Weighing(name, picking.parse_amount(amount, name), grams),
        day=day,
        by=actor.by,
    )
    own = pickings.weighings(connection)[kind]
    changed = 0
    for one in [c for c in context.crops if c.kind == kind]:
        for picking_id, counted in pickings.unweighed(connection, one.key, name):
            pickings.reweigh(connection, picking_id, picking.weigh(one, counted, name, own, bushels_lb()))
            changed += 1
    return changed


def ready(
    connection: Connection[Any], context: Context, day: date, standing: Sequence[Planting] | None = None
) -> list[tuple[Planting, Crop, Bed]]:
    """Plantings that can be picked on a day, in the order of the walk; `standing` are those of the day if they were read before."""
    beds = {bed.id: bed for bed in garden.beds(connection)}
    found = []
    for planting in standing if standing is not None else garden.plantings(connection, since=day, until=day):
        crop = context.crops[planting.crop]
        if planting.status != "in the ground" or planting.dates is None:
            continue
        if ready_until(crop, planting.dates, first_picked=planting.events.get("first picking"), day=day) is not None:
            found.append((planting, crop, beds[planting.bed_id]))
    return sorted(found, key=lambda row: (row[2].ordinal, row[1].name.en))


@dataclass(frozen=True)
class AtHand:
    """A planting that can be picked, with what its form offers; `ask_above` are amounts above which to ask whether they are right."""

    planting: Planting
    crop: Crop
    bed: Bed
    units: list[str]
    parts: list[str]
    taps: list[tuple[str, str]]
    ask_above: dict[str, float]


def at_hand(connection: Connection[Any], context: Context, day: date) -> list[AtHand]:
    """What can be picked on a day with units, parts, amounts at a tap and the limits of belief."""
    weighings = pickings.weighings(connection)
    found = []
    for planting, crop, bed in ready(connection, context, day):
        own = weighings.get(crop.kind, [])
        area, plants = size_of(context, planting, bed)
        most = picking.most_believed(crop, area_m2=area, plants=plants)
        limit = max(picking.ALWAYS_BELIEVED_G, (most or 0.0) * picking.ASK_ABOVE)
        units = picking.units_of(crop, own)
        ask = {}
        for unit in units if most else ():
            weighed = float(picking.WEIGHED[unit]) if unit in picking.WEIGHED else None
            one = picking.unit_weight(crop, unit, own, bushels_lb()) if weighed is None else None
            if weighed or one:
                ask[unit] = round(limit / (weighed or (one.grams if one else 1.0)), 2)
        found.append(
            AtHand(
                planting, crop, bed, units, picking.parts_of(crop), picking.at_a_tap(crop, context.school.units), ask
            )
        )
    return found


def copy_of(picked: Picked) -> PickingWish:
    """A picking as its form shows it."""
    uses = list(picked.uses)
    first = uses[0].use if uses else picking.USES[0]
    parts = {use.use: f"{(picked.amount * use.share).quantize(Decimal('0.001')).normalize():f}" for use in uses[1:]}
    lost_to = next((use.to_what for use in uses if use.to_what), "")
    return PickingWish(
        picked.id,
        picked.planting_id,
        f"{picked.amount.normalize():f}",
        picked.unit,
        first,
        picked.picked_on,
        picked.class_group_id,
        picked.note,
        picked.part,
        picked.quality,
        picked.team,
        lost_to,
        parts,
    )
