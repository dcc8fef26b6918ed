"""What fits the empty spaces of beds: the spaces as the rules see them, gathered from the database, and the crops for one."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.garden import sunlight
from almanaque.commands.garden.bed_findings import FAMILY_NAMES
from almanaque.commands.garden.free_squares import among
from almanaque.commands.growth import forecasts
from almanaque.commands.kept_answers import KeptAnswers
from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.core.garden import rotation
from almanaque.core.garden.bed import Cell
from almanaque.core.garden.rotation import Stood
from almanaque.core.growth.covers import CoverKey
from almanaque.core.growth.school_fit import Fit
from almanaque.core.growth.setting import Setting
from almanaque.core.school import classes
from almanaque.core.year import shortlist
from almanaque.core.year.shortlist import Listed, Sowable, Space
from almanaque.store.garden import bed_closures, garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.year import promises_and_themes

LOOK_AHEAD = timedelta(days=400)
FREE_FOR = timedelta(days=45)  # squares that are free as long as this count as free: our own rule


def space_of(
    connection: Connection[Any],
    context: Context,
    bed: Bed,
    cells: Sequence[Cell],
    start: date,
    *,
    until: date | None,
    today: date,
) -> Space:
    """Sun, depth, history, class and how long some squares of a bed are free from a day on, at most until `until`.

    Raises BadInput when that does not come after the first day.
    """
    if until is not None and until <= start:
        raise BadInput("year.gone_before_free", field="until")
    return spaces(connection, context, [(bed, cells)], start, until=until, today=today)[0]


def free_spaces(
    connection: Connection[Any], context: Context, start: date, *, today: date, beds: Sequence[Bed]
) -> list[Space]:
    """The free squares of each of these beds from a day on; beds without any are left out, and what stands indoors."""
    present = garden.plantings(connection, since=start)
    outdoors = [(bed, among(present, bed, start, start + FREE_FOR, today)) for bed in beds if not bed.indoors]
    wanted = [(bed, cells) for bed, cells in outdoors if cells]
    return spaces(connection, context, wanted, start, until=None, today=today, present=present)


def spaces(
    connection: Connection[Any],
    context: Context,
    wanted: Sequence[tuple[Bed, Sequence[Cell]]],
    start: date,
    *,
    until: date | None,
    today: date,
    present: Sequence[Planting] | None = None,
) -> list[Space]:
    """The squares of several beds as spaces, in their order; each table is read once.

    `present` are the plantings from that day on, where they were read before.
    """
    since = date(start.year - rotation.MOST_YEARS - 1, 1, 1)
    history: dict[UUID, list[Stood]] = {}
    for row in garden.stood(connection, [bed.id for bed, _ in wanted], since):
        crop = context.crops[row.crop]
        history.setdefault(row.bed_id, []).append(Stood(crop.family, crop.name.en, row.cells, row.bed_to or today))
    only = wanted[0][0].id if len(wanted) == 1 else None
    if present is None:
        present = garden.plantings(connection, bed_id=only, since=start)
    ends = [(c.bed_id, c.starts) for c in bed_closures.closures(connection, only)]
    ends += [(p.bed_id, p.from_day) for p in promises_and_themes.promises(connection, only)]
    names = context.group_names(start)
    lights = {
        place.id: sunlight.light(connection, context, place, [bed for bed, _ in wanted])
        for place in garden.sites(connection)
    }
    found = []
    for bed, cells in wanted:
        squares = frozenset(cells)
        days = (until, _free_to(bed, squares, start, present, ends))
        found.append(
            Space(
                name=bed.name,
                sun_h=lights[bed.site_id].by_month(bed, start.year),
                depth_mm=bed.depth_mm,
                history=history.get(bed.id, []),
                cells=squares,
                free_to=min((day for day in days if day), default=None),
                rest_years=context.school.rest_years,
                youngest=youngest_in(context, bed.class_group_id, start),
                group=names.get(str(bed.class_group_id), ""),
                flags=context.flags_of(bed.class_group_id),
                narrow_mm=bed.shape.narrow_mm,
                family_names=FAMILY_NAMES,
            )
        )
    return found


def _free_to(
    bed: Bed, cells: frozenset[Cell], start: date, present: Iterable[Planting], ends: Iterable[tuple[UUID, date]]
) -> date | None:
    """The last day before something else is to stand in these squares, or the bed is promised or closed; None for no such day."""
    coming = [
        p.bed_from
        for p in present
        if p.bed_id == bed.id and p.status == "planned" and p.bed_from > start and (not cells or p.cells & cells)
    ]
    coming += [day for bed_id, day in ends if bed_id == bed.id and day > start]
    ahead = [day for day in coming if day <= start + LOOK_AHEAD]
    return min(ahead) - timedelta(days=1) if ahead else None


def youngest_in(context: Context, group_id: UUID | None, day: date) -> int | None:
    """Age of a class on a day; None for a group without a grade, or nobody."""
    group = next((g for g in context.groups if g.id == group_id), None)
    if group is None:
        return None
    grade = classes.grade_on(group.cohort, day, context.calendar, context.school.grades)
    return None if grade is None else grade + classes.AGE_OF_FIRST_GRADE - 1


@dataclass(frozen=True)
class MonthToSow:
    """What can be started between two days, the best first, and the other crops, each with the one reason against it."""

    sowable: tuple[Sowable, ...]
    others: tuple[tuple[Crop, str], ...]


_months: KeptAnswers[MonthToSow] = KeptAnswers(16)  # some 300 kB each: our own choice
_ways: KeptAnswers[list[Fit]] = KeptAnswers(16)  # some 500 kB each


def to_sow(context: Context, starts: date, ends: date, setting: Setting) -> MonthToSow:
    """What can be started between two days in one of the school's settings; from memory where it was asked before."""

    def weigh() -> MonthToSow:
        found = shortlist.to_sow(context.crops, starts, ends, setting)
        return MonthToSow(tuple(found), tuple(shortlist.not_to_sow(context.crops, found, starts, ends, setting)))

    return _months.of((context.judged_by(setting), starts, ends), weigh)


def for_space(context: Context, bed: Bed, space: Space, start: date, *, cover: CoverKey | None = None) -> list[Listed]:
    """All crops for the space, the best first."""
    setting = forecasts.setting_in(context, bed, start, cover)
    ways = _ways.of((context.judged_by(setting), start), lambda: shortlist.judged_ways(context.crops, start, setting))
    return shortlist.for_space(ways, space, context.school.units)
