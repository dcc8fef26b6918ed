"""Pages for a class: made for a group and a lesson, opened by a code that ends with it."""

import hmac
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from typing import Any, TypeVar
from uuid import UUID, uuid5

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.school import turn_of_year
from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.core.journal import class_counts, class_page, class_sorting
from almanaque.core.journal.class_counts import CountKey
from almanaque.core.journal.class_page import Activity
from almanaque.core.journal.class_sorting import SortBy
from almanaque.core.school import class_flags, classes
from almanaque.data import code_words
from almanaque.store import errors
from almanaque.store.garden import garden
from almanaque.store.journal import class_pages
from almanaque.store.journal.class_pages import ClassCrop, ClassPage, ClassTeam
from almanaque.store.school import turn_of_year as ballots

MOST_CROPS = 24  # to draw with: our own choice
LONGEST_SEASON = timedelta(days=300)  # in which what is drawn is begun: our own rule
KNOWN_FROM = timedelta(days=365)  # what the garden had or has within a year comes first: our own choice
OF_ALL_AGES = 7  # what a group of mixed ages is offered: our own rule
MOST_TABLETS = 80  # on one page: a class, a projector and some that came in twice: our own rule
MOST_TURNS = 20  # a code is drawn anew when another page has it: our own rule


@dataclass(frozen=True)
class ClassPageWish:
    """What a page is to be. Without a bed teams draw on a dream garden; a season says when what they draw with can be begun."""

    class_group_id: UUID
    on_day: date
    until: time
    does: Sequence[str]
    teams: str
    season: tuple[date, date]
    bed_id: UUID | None = None
    dream: tuple[int, int] = (8, 6)
    ballot_id: UUID | None = None
    counts: Sequence[str] = ()
    count_bed_id: UUID | None = None
    sorts_by: SortBy = "part"


def make(
    connection: Connection[Any],
    context: Context,
    page_id: UUID,
    wish: ClassPageWish,
    *,
    key: str,
    now: datetime,
    today: date,
    by: UUID | None,
) -> None:
    """Make a page with its teams and its code. `now` is local time by the wall clock, `key` the server's.

    Raises BadInput for what cannot be, and NotFound for a class, bed or ballot of another school.
    """
    opens, ends = class_page.open_from_to(wish.on_day, wish.until, today=today, now=now)
    does = class_page.check_activities(wish.does)
    names = class_page.read_teams(wish.teams)
    dream = class_page.check_dream(*wish.dream)
    if wish.class_group_id not in {group.id for group in context.groups_on(wish.on_day)}:
        raise errors.NotFound("There is no such class in this school on that day.")
    for bed_id in (wish.bed_id, wish.count_bed_id):
        if bed_id is not None:
            garden.bed(connection, bed_id)
    counts = [one for one in class_counts.COUNT_KEYS if one in wish.counts]
    _check_parts(connection, wish, does, counts)
    page = ClassPage(
        page_id,
        wish.class_group_id,
        wish.on_day,
        wish.until,
        list(does),
        wish.bed_id,
        dream.columns,
        dream.rows,
        wish.ballot_id if "vote" in does else None,
        counts if "count" in does or "measure" in does else [],
        wish.count_bed_id,
        wish.sorts_by,
    )
    class_pages.save(connection, context.school.id, page, by=by)
    if "draw" in does or "sort" in does:
        class_pages.save_crops(connection, context.school.id, page_id, _crops(connection, context, wish, does))
    teams = [ClassTeam(uuid5(page_id, name), name, None) for name in names]
    class_pages.save_teams(connection, context.school.id, page_id, teams)
    for turn in range(MOST_TURNS):
        hashed = code_hash(key, code_of(key, page_id, turn))
        if class_pages.save_code(connection, context.school.id, page_id, hashed, turn, opens, ends):
            return
    raise errors.Busy("No code is free at the moment. Try again.")


def _check_parts(
    connection: Connection[Any], wish: ClassPageWish, does: Sequence[Activity], counts: Sequence[CountKey]
) -> None:
    if "vote" in does:
        if wish.ballot_id is None:
            raise BadInput("journal.class_ballot_missing", field="ballot")
        if ballots.ballot(connection, wish.ballot_id).closed_on is not None:
            raise BadInput("school.ballot_ended", field="ballot")
    if ("count" in does or "measure" in does) and not counts:
        raise BadInput("journal.class_counts_nothing", field="counts")
    starts, ends = wish.season
    if "draw" in does and not timedelta(0) <= ends - starts <= LONGEST_SEASON:
        raise BadInput("journal.class_season", field="season_to", days=LONGEST_SEASON.days)


def _crops(
    connection: Connection[Any], context: Context, wish: ClassPageWish, does: Sequence[Activity]
) -> list[ClassCrop]:
    """What can be begun in the season and picked while children are here; for sorting alone what the garden has, and kin of it.

    What somebody in the class must not touch is not offered, so that nobody need say why; nor what is for older children.
    """
    suits = _suits(context, wish)
    known = {
        p.crop for p in garden.plantings(connection, since=wish.on_day - KNOWN_FROM, until=wish.on_day + KNOWN_FROM)
    }
    if "draw" in does:
        fit = [one for one in turn_of_year.crops_that_fit(context, *wish.season) if suits(one.crop)]
        if not fit:
            raise BadInput("journal.class_nothing_fits", field="season_from")
        fit.sort(key=lambda one: one.crop.key not in known)
        chosen = by_turns(fit, lambda one: one.crop.group)[:MOST_CROPS]
        chosen.sort(key=lambda one: one.crop.name.en)
        return [ClassCrop(one.crop.key, one.method, one.first) for one in chosen]
    every = sorted(context.crops, key=lambda crop: (crop.key not in known, crop.based_on is not None, crop.key))
    asked = [crop for crop in every if suits(crop) and class_sorting.cards(wish.sorts_by, [crop, crop])]
    sorted_by = by_turns(asked, lambda crop: crop.group)[: class_sorting.MOST_CARDS]
    return [ClassCrop(crop.key, crop.methods[0], wish.on_day) for crop in sorted_by]


def _suits(context: Context, wish: ClassPageWish) -> Callable[[Crop], bool]:
    """Whether a crop is for a class: by its flags, and by its age where that is known."""
    group = next(group for group in context.groups if group.id == wish.class_group_id)
    grade = classes.grade_on(group.cohort, wish.on_day, context.calendar, context.school.grades)
    age = OF_ALL_AGES if grade is None else grade + classes.AGE_OF_FIRST_GRADE
    flags = context.flags_of(group.id)
    return lambda crop: crop.ages_from <= age and not class_flags.flagged(crop, flags, "")


T = TypeVar("T")


def by_turns(found: Sequence[T], group: Callable[[T], str]) -> list[T]:
    """The first of each group, then the second of each, so that no group is left out of the first few."""
    groups: dict[str, list[T]] = {}
    for one in found:
        groups.setdefault(group(one), []).append(one)
    longest = max(map(len, groups.values()), default=0)
    return [some[n] for n in range(longest) for some in groups.values() if n < len(some)]


def code_of(key: str, page_id: UUID, turn: int) -> str:
    """The words of a page's code, known to whoever has the server's `key`, so that they can be shown for as long as they hold."""
    drawn = hmac.digest(key.encode(), f"class code {page_id} {turn}".encode(), "sha256")
    return class_page.code_words(int.from_bytes(drawn, "big"), code_words())


def code_hash(key: str, code: str) -> bytes:
    """What is kept of a code; without the server's key nobody finds the words by trying."""
    return hmac.digest(key.encode(), f"class code is {code}".encode(), "sha256")


def extend(
    connection: Connection[Any], context: Context, page_id: UUID, minutes: int, *, key: str, now: datetime
) -> None:
    """Let the lesson last some minutes longer; one that is over goes on from now, under words that the server's `key` makes.

    A page that was restored gets words again.
    """
    held = class_pages.code(connection, page_id)
    hashed = code_hash(key, code_of(key, page_id, held.turn if held else 0))
    if held is None:
        ends = now + timedelta(minutes=minutes)
        if not class_pages.save_code(connection, context.school.id, page_id, hashed, 0, now, ends):
            raise errors.Busy("No code is free at the moment. Try again.")
        return
    was_to_end = now if held.ended_at and held.opens_at <= now else held.ends_at
    ends = class_page.let_last(held.opens_at, was_to_end, minutes, now=now)
    class_pages.let_last(connection, page_id, hashed, ends)


def join(connection: Connection[Any], school_id: UUID, page_id: UUID, tablet_id: UUID, token_hash: bytes) -> None:
    """Let a browser in. Raises BadInput when too many are in already."""
    if sum(class_pages.tablets(connection, page_id).values()) >= MOST_TABLETS:
        raise BadInput("journal.class_full", field="code", most=MOST_TABLETS)
    class_pages.join(connection, school_id, page_id, tablet_id, token_hash)
