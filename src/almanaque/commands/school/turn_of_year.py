"""The turn of the year: what is still open, plantings finished, a sentence for each bed, next calendar and map, the book closed."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import planting_events
from almanaque.commands.garden.held_bed import hold_all, hold_beds
from almanaque.commands.garden.painting import Paint, paint
from almanaque.commands.harvest import harvest_book
from almanaque.commands.school import calendar
from almanaque.commands.year import shortlist
from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import cell_name
from almanaque.core.school import turn_of_year as rules
from almanaque.core.school.school_year import SchoolYear
from almanaque.core.units import format_mass
from almanaque.core.year import next_season_map
from almanaque.core.year.next_season_map import Left, MapWish, Placed, RestedBed
from almanaque.core.year.shortlist import Sowable
from almanaque.store import errors
from almanaque.store.garden import drafts, garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.school import turn_of_year
from almanaque.store.school.school import YearRow
from almanaque.store.school.turn_of_year import Ballot, BedYear

LEAST_SQUARES = 4  # of a crop that is only wished for
MOST_ON_BALLOT = 14


def year_of(context: Context, year_id: UUID | None, today: date) -> YearRow:
    """The year that is turned: the one asked for, else the one that has begun last. Raises BadInput without any."""
    if year_id is not None:
        found = next((year for year in context.years if year.id == year_id), None)
        if found is None:
            raise errors.NotFound("There is no such school year.")
        return found
    begun = [year for year in context.years if year.starts <= today]
    if not begun:
        raise BadInput("school.no_year_begun")
    return begun[-1]


def following(context: Context, year: YearRow) -> YearRow | None:
    return next((other for other in context.years if other.starts > year.starts), None)


def last_day(context: Context, year: YearRow) -> date:
    """The last day that belongs to a year: the summer after it too, until the next one's first day."""
    after = following(context, year)
    return after.starts - timedelta(days=1) if after else year.ends


@dataclass(frozen=True)
class Open:
    """A planting that is in the ground at the end of a year. `stays` when it holds its place into the next one."""

    planting: Planting
    bed: Bed
    crop: Crop
    stays: bool


def still_in(connection: Connection[Any], context: Context, year: YearRow, today: date) -> list[Open]:
    """What is in the ground now, in the order of the beds; what stays into the next year last."""
    after = last_day(context, year) + timedelta(days=1)
    beds = {bed.id: bed for bed in garden.beds(connection)}
    rows = [p for p in garden.plantings(connection, since=year.starts, until=today) if p.status == "in the ground"]
    found = [
        Open(p, beds[p.bed_id], context.crops[p.crop], bool(p.dates and rules.stays(p.dates.clear_by, after)))
        for p in rows
    ]
    return sorted(found, key=lambda o: (o.stays, o.bed.ordinal, o.crop.name.en))


def finish(connection: Connection[Any], context: Context, chosen: Sequence[UUID], day: date, actor: Actor) -> int:
    """Note several plantings as cleared on a day; return how many."""
    hold_all(connection, context, chosen, actor)
    for planting_id in dict.fromkeys(chosen):
        planting_events.happened(connection, context, planting_id, "cleared", day, actor)
    return len(set(chosen))


def suggested(connection: Connection[Any], context: Context, year: YearRow, today: date) -> dict[UUID, str]:
    """A first sentence for each bed from the book, for a person to change."""
    found = harvest_book.read(connection, context, today=today, until=min(today, last_day(context, year)))
    beds = garden.beds(connection)
    standing = still_in(connection, context, year, today)
    words: dict[UUID, str] = {}
    units = context.school.units
    for bed in beds:
        totals = found.totals(
            [s for s in found.within(year.name) if found.grown[s.planting].bed == bed.name],
            lambda s: found.crop_of(s).name.en,
        )
        given = [
            (crop, format_mass(t.grams, units))
            for crop, t in sorted(totals.items(), key=lambda p: -p[1].grams)
            if t.known
        ]
        stays = [o.crop.name.en for o in standing if o.bed.id == bed.id]
        words[bed.id] = rules.bed_sentence(bed.name, given, stays)
    return words


def keep_beds(connection: Connection[Any], context: Context, year: YearRow, rows: Sequence[BedYear]) -> None:
    known = {bed.id for bed in garden.beds(connection)}
    for row in rows:
        if row.bed_id not in known:
            raise errors.NotFound("There is no such bed in this school.")
        if row.state not in rules.STATES:
            raise BadInput("school.bed_turn_unknown", field="state")
        if len(row.sentence) > 600:
            raise BadInput("school.bed_sentence_too_long", field="sentence")
        turn_of_year.save_bed_year(connection, context.school.id, year.id, row)


def make_next_year(connection: Connection[Any], context: Context, year: YearRow) -> SchoolYear:
    """Write next year's calendar from this one's, 52 weeks on, to be edited. Raises BadInput when there is one already."""
    if following(context, year) is not None:
        raise BadInput("school.next_year_on_file")
    made = rules.next_year(year.core())
    calendar.write_years(connection, context, [made])
    return made


def close(
    connection: Connection[Any], context: Context, year: YearRow, *, today: date, at: datetime, by: UUID | None
) -> date:
    """Close a year's book up to yesterday, or to its last day, and return that day. Raises BadInput when nothing is to be closed.

    What is closed already stays; in the summer it is closed once more for the days that have passed since.
    """
    to_day = min(last_day(context, year), today - timedelta(days=1))
    shut = [c for c in turn_of_year.closed_times(connection) if c.reopened_at is None and c.school_year_id == year.id]
    from_day = max([year.starts, *(c.to_day + timedelta(days=1) for c in shut)])
    if to_day < from_day:
        raise BadInput("school.all_closed_already" if shut else "school.year_just_begun")
    last = context.calendar.last_school_day(year.core())
    if last is not None and today <= last:
        raise BadInput("school.school_still_in", last=last.isoformat())
    turn_of_year.close(
        connection, context.school.id, uuid4(), year.id, from_day=from_day, to_day=to_day, day=today, at=at, by=by
    )
    return to_day


def reopen(
    connection: Connection[Any], closing_id: UUID, *, today: date, at: datetime, by: UUID | None, why: str
) -> None:
    """Open a closed time again. Raises BadInput without a reason: it is logged."""
    reason = " ".join(why.split())
    if not reason or len(reason) > 200:
        raise BadInput("school.reopening_reason", field="why")
    turn_of_year.reopen(connection, closing_id, day=today, at=at, by=by, why=reason)


def let_late_in(connection: Connection[Any], day: date, noted_at: datetime) -> None:
    """Let an entry in, marked, that was noted before its day's book was closed."""
    for closing in turn_of_year.closed_times(connection):
        if closing.reopened_at is None and closing.from_day <= day <= closing.to_day and noted_at < closing.closed_at:
            turn_of_year.let_in(connection, "on")
            return


def crops_that_fit(context: Context, starts: date, ends: date) -> list[Sowable]:
    """What a class can begin between two days and pick while children are here, the surest first; no perennials, no ground cover."""
    rank = {"fits": 0, "with care": 1}
    found = [
        item
        for item in shortlist.to_sow(context, starts, ends, context.setting).sowable
        if item.verdict in rank
        and not item.crop.for_guests
        and item.crop.group != "cover crops"
        and item.crop.life != "perennial"
    ]
    return sorted(
        found,
        key=lambda item: (
            rank[item.verdict],
            -(item.fit.n / item.fit.of if item.fit.of else 0),
            -item.days,
            item.crop.name.en,
        ),
    )


def begin_ballot(connection: Connection[Any], context: Context, ballot: Ballot, *, today: date) -> int:
    """Keep a ballot with crops that can be started in its days, in beds that have room, the surest first; return how many.

    Raises BadInput when nothing fits then.
    """
    if ballot.to_day < ballot.from_day:
        raise BadInput("school.season_ends_before_start", field="to_day")
    if (ballot.to_day - ballot.from_day).days > 200:
        raise BadInput("school.ballot_too_long", field="to_day")
    if ballot.from_day < today:
        raise BadInput("school.ballot_in_past", field="from_day")
    chosen: dict[str, str] = {}
    for item in crops_that_fit(context, ballot.from_day, ballot.to_day)[:MOST_ON_BALLOT]:
        years = f", in {item.fit.n} of {item.fit.of} years" if item.fit.of else ""
        chosen[item.crop.key] = f"picked from {item.fit.dates.first_pick.isoformat()} on{years}"[:200]
    if not chosen:
        raise BadInput("school.ballot_nothing_fits", field="from_day")
    turn_of_year.save_ballot(connection, context.school.id, ballot, list(chosen.items()))
    return len(chosen)


def vote(
    connection: Connection[Any],
    context: Context,
    ballot_id: UUID,
    group_id: UUID,
    counts: dict[str, int],
    *,
    most_each: int,
) -> None:
    """Keep how many of a class voted for each crop. Raises BadInput for more votes than heads, and for a ballot that has ended."""
    ballot = turn_of_year.ballot(connection, ballot_id)
    if ballot.closed_on is not None:
        raise BadInput("school.ballot_ended")
    group = next((g for g in context.groups if g.id == group_id), None)
    if group is None:
        raise errors.NotFound("There is no such class in this school.")
    known = {crop for crop, _ in turn_of_year.ballot_crops(connection, ballot_id)}
    if set(counts) - known:
        raise BadInput("school.not_on_ballot")
    if (
        any(count < 0 or count > group.head_count for count in counts.values())
        or sum(counts.values()) > group.head_count * most_each
    ):
        raise BadInput("school.too_many_votes", field="votes", head_count=group.head_count, most=most_each)
    turn_of_year.vote(connection, context.school.id, ballot_id, group_id, counts)


@dataclass(frozen=True)
class Map:
    """What the proposal pencilled, and what it left out and why."""

    draft_id: UUID
    placed: list[Placed]
    left: list[Left]


def pencil_next(
    connection: Connection[Any], context: Context, year: YearRow, *, ballot_id: UUID | None, name: str, actor: Actor
) -> Map:
    """Pencil next season's map into a draft of its own: this year's annual crops moved on by rotation, and what classes voted for.

    Every crop begins 52 weeks after it did this year; a crop that is only wished for on the first day that fits in the ballot's time.
    """
    after = following(context, year)
    if after is None:
        raise BadInput("school.next_year_missing")
    beds = [bed for bed in garden.beds(connection) if not bed.indoors]
    hold_beds(connection, context, [bed.id for bed in beds], actor)
    wishes = _wishes(connection, context, year, ballot_id, {bed.id: bed for bed in beds})
    if not wishes:
        raise BadInput("school.nothing_to_move_on")
    draft = drafts.Draft(uuid4(), name, "from rotation and wishes", None, None)
    drafts.save(connection, context.school.id, draft)
    placed, left = next_season_map.propose(
        [w for w, _ in wishes],
        _ground(connection, context, beds, after, actor.today),
        rest_years=context.school.rest_years,
    )
    by_wish = {id(w): method for w, method in wishes}
    kept = []
    for place in placed:
        squares = ", ".join(cell_name(cell) for cell in place.cells)
        method = by_wish[id(place.wish)]
        try:
            paint(
                connection,
                context,
                UUID(place.bed),
                Paint(squares, place.wish.crop, method, place.wish.start, ink=False, draft_id=draft.id),
                actor,
            )
            kept.append(place)
        except BadInput as error:
            left.append(Left(place.wish, error.message))
    return Map(draft.id, kept, left)


def _wishes(
    connection: Connection[Any], context: Context, year: YearRow, ballot_id: UUID | None, beds: dict[UUID, Bed]
) -> list[tuple[MapWish, Any]]:
    found: list[tuple[MapWish, Any]] = []
    votes = (
        {
            t.crop: t.total
            for t in rules.winners(
                rules.tally(
                    turn_of_year.votes(connection, ballot_id),
                    [c for c, _ in turn_of_year.ballot_crops(connection, ballot_id)],
                )
            )
        }
        if ballot_id
        else {}
    )
    last = last_day(context, year)
    for planting in garden.plantings(connection, since=year.starts, until=last):
        crop = context.crops[planting.crop]
        begun = planting.events.get("started", planting.start_on)
        if (
            planting.bed_id not in beds
            or crop.life == "perennial"
            or planting.status not in ("in the ground", "finished")
            or not year.starts <= begun <= last
        ):
            continue
        bed = beds[planting.bed_id]
        wish = MapWish(
            crop.key,
            crop.family,
            len(planting.cells),
            begun + rules.WEEKS_ON,
            f"grew in {bed.name} this year",
            votes.pop(crop.key, 0),
            depth_least_mm=crop.soil_least_mm,
            cell_mm=bed.cell_mm,
            origin=bed.name,
        )
        found.append((wish, planting.method))
    if ballot_id and votes:
        ballot = turn_of_year.ballot(connection, ballot_id)
        month = shortlist.to_sow(context, ballot.from_day, ballot.to_day, context.setting)
        sowable = {item.crop.key: item for item in reversed(month.sowable)}
        for key, count in votes.items():
            item = sowable.get(key)
            if item is not None:
                crop = context.crops[key]
                wish = MapWish(
                    key,
                    crop.family,
                    LEAST_SQUARES,
                    item.first,
                    f"{count} votes",
                    count,
                    depth_least_mm=crop.soil_least_mm,
                )
                found.append((wish, item.method))
    return found


def _ground(
    connection: Connection[Any], context: Context, beds: Sequence[Bed], after: YearRow, today: date
) -> list[RestedBed]:
    """Beds as they are free from the next year's first day on, with their history."""
    start = max(after.starts, today)
    spaces = {space.name: space for space in shortlist.free_spaces(connection, context, start, today=today, beds=beds)}
    return [
        RestedBed(
            str(bed.id),
            bed.name,
            tuple(sorted(spaces[bed.name].cells, key=lambda c: (c[0], c[1]))),
            spaces[bed.name].history,
            bed.cell_mm,
            bed.depth_mm,
        )
        for bed in beds
        if bed.name in spaces
    ]


def without_weight(connection: Connection[Any], context: Context, year: YearRow, today: date) -> int:
    """Pickings of a year that have no weight yet."""
    found = harvest_book.read(connection, context, today=today, until=min(today, last_day(context, year)))
    return sum(s.without_weight for s in found.within(year.name))
