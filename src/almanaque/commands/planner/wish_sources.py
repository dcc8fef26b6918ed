"""Where wishes come from besides being typed: ballots, last year's plantings, themes, seed that grows old, what fills a bed."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any, Literal
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.harvest import kitchen
from almanaque.commands.planner import asking
from almanaque.core.errors import BadInput
from almanaque.core.planner.problem import Kind, Origin, Weight
from almanaque.core.school import turn_of_year as rules
from almanaque.core.year import themes
from almanaque.store.garden import garden
from almanaque.store.planner import season_plans
from almanaque.store.planner.season_plans import SeasonPlanRow, WishRow
from almanaque.store.school import turn_of_year
from almanaque.store.seeds import seed_box
from almanaque.store.year import promises_and_themes

MOST_LINES = 120  # of a wish list: our own rule
VOTED_SQUARES, THEME_SQUARES, OLD_SQUARES, KITCHEN_SQUARES = 4, 2, 2, 4  # that a wish from there asks for: our own rule
MANY_KINDS = 12  # that “as many kinds as possible” asks for: our own rule
Group = Literal["Voted for", "Asked for", "Grown before", "Themes", "Seed", "What is left"]


@dataclass(frozen=True)
class WishSource:
    """A button that takes wishes in: its key, its words, and under which heading it stands."""

    key: str
    words: str
    group: Group


def sources(connection: Connection[Any], context: Context, row: SeasonPlanRow, *, today: date) -> list[WishSource]:
    """What wishes can be taken from, as far as there is anything."""
    found = [
        WishSource(f"ballot:{ballot.id}", ballot.name, "Voted for")
        for ballot in turn_of_year.ballots(connection)
        if rules.winners(_tally(connection, ballot.id))
    ]
    if _of_kitchen(connection, row, today):
        found.append(WishSource("kitchen", "what kitchen and stall asked for", "Asked for"))
    if _last_year(connection, context, row):
        found.append(WishSource("last year", "what grew a year before", "Grown before"))
    for theme in promises_and_themes.themes(connection):
        if theme.name in themes.IDEAS and theme.ready_on >= row.starts:
            found.append(WishSource(f"theme:{theme.id}", theme.name, "Themes"))
    found += [WishSource(f"idea:{name}", name, "Themes") for name in themes.IDEAS]
    if _old_seed(connection, context, today):
        found.append(WishSource("seed box", "seed that grows old", "Seed"))
    found.append(WishSource("kinds", "as many kinds as possible", "What is left"))
    found.append(WishSource("fill:flowers", "flowers in what is left", "What is left"))
    found.append(WishSource("fill:green manure", "green manure in what is left", "What is left"))
    return found


def take_in(connection: Connection[Any], context: Context, row: SeasonPlanRow, source: str, *, today: date) -> int:
    """Write the wishes of a source into the list and return how many; those that are there already stay as they are.

    Raises BadInput for a source that there is not, and for more lines than a list may have.
    """
    there = season_plans.wishes(connection, row.id)
    what, _, key = source.partition(":")
    if what == "ballot":
        made = _of_ballot(connection, row, _id_in(key))
    elif what == "kitchen":
        made = _of_kitchen(connection, row, today)
    elif what == "last year":
        made = _last_year(connection, context, row)
    elif what == "theme":
        theme = promises_and_themes.theme(connection, _id_in(key))
        made = _of_theme(row, theme.name, themes.IDEAS.get(theme.name, ()), theme.ready_on)
    elif what == "idea" and key in themes.IDEAS:
        made = _of_theme(row, key, themes.IDEAS[key], None)
    elif what == "seed box":
        made = [
            _made(row, crops=[crop], squares=OLD_SQUARES, origin="seed box", weight="if room")
            for crop in _old_seed(connection, context, today)
        ]
    elif what == "kinds":
        made = [_made(row, kind="any food", kinds=MANY_KINDS, label="As many kinds as possible", weight="if room")]
    elif what == "fill" and key in ("flowers", "green manure"):
        kind: Kind = "flowers" if key == "flowers" else "green manure"
        made = [_made(row, kind=kind, fill=True, origin="filling", weight="if room")]
    else:
        raise BadInput("planner.no_such_source", field="source")
    known = {_same(line) for line in there}
    new = [line for line in made if line.crops_known(context) and _same(line.row) not in known]
    if len(there) + len(new) > MOST_LINES:
        raise BadInput("planner.too_many_wishes", field="source", most=MOST_LINES)
    first = max((line.number for line in there), default=0) + 1
    rows = [line.numbered(first + n) for n, line in enumerate(new)]
    season_plans.add_wishes(connection, context.school.id, rows)
    return len(rows)


def _id_in(text: str) -> UUID:
    """The id in a source's key. Raises BadInput for one that is none."""
    try:
        return UUID(text)
    except ValueError:
        raise BadInput("planner.no_such_source", field="source") from None


@dataclass(frozen=True)
class _Line:
    """A line to be added."""

    row: WishRow

    def crops_known(self, context: Context) -> bool:
        return all(crop in context.crops for crop in self.row.crops)

    def numbered(self, number: int) -> WishRow:
        return WishRow(**{**vars(self.row), "number": number})


def _made(
    plan: SeasonPlanRow,
    *,
    crops: Sequence[str] = (),
    kind: Kind = "crop",
    label: str = "",
    squares: int | None = None,
    kinds: int | None = None,
    fill: bool = False,
    grams: int | None = None,
    ready_by: date | None = None,
    ready_to: date | None = None,
    weight: Weight = "would like",
    votes: int = 0,
    origin: Origin = "typed",
    group_id: UUID | None = None,
) -> _Line:
    return _Line(
        WishRow(
            id=uuid4(),
            plan_id=plan.id,
            number=0,
            label=label,
            crops=list(crops),
            kind=kind,
            squares=squares,
            plants=None,
            grams=grams,
            a_week=False,
            kinds=kinds,
            fill=fill,
            group_id=group_id,
            bed_id=None,
            ready_by=ready_by,
            ready_to=ready_to,
            weight=weight,
            votes=votes,
            origin=origin,
        )
    )


def _same(line: WishRow) -> tuple[object, ...]:
    """What makes two lines the same wish."""
    return line.origin, tuple(line.crops), line.kind, line.fill, line.kinds, line.ready_by, line.group_id


def _tally(connection: Connection[Any], ballot_id: UUID) -> list[rules.Tally]:
    return rules.tally(
        turn_of_year.votes(connection, ballot_id),
        [crop for crop, _ in turn_of_year.ballot_crops(connection, ballot_id)],
    )


def _of_ballot(connection: Connection[Any], row: SeasonPlanRow, ballot_id: UUID) -> list[_Line]:
    """Every crop that got a vote, for the class that wanted it most."""
    turn_of_year.ballot(connection, ballot_id)
    found = []
    for tally in rules.winners(_tally(connection, ballot_id)):
        most = max(tally.by_class, key=lambda group: (tally.by_class[group], group))
        found.append(
            _made(
                row,
                crops=[tally.crop],
                squares=VOTED_SQUARES,
                votes=tally.total,
                origin="ballot",
                group_id=_id_in(most) if tally.by_class[most] else None,
            )
        )
    return found


def _of_kitchen(connection: Connection[Any], row: SeasonPlanRow, today: date) -> list[_Line]:
    """What kitchen and stall asked for within the plan's days: crops, with the weight and the days that they named."""
    return [
        _made(
            row,
            crops=[one.crop],
            squares=None if one.grams else KITCHEN_SQUARES,
            grams=max(1, round(one.grams)) if one.grams else None,
            label=one.what,
            ready_by=max(one.from_day, row.starts),
            ready_to=min(one.to_day, row.ends) if one.to_day > one.from_day else None,
            origin="kitchen",
        )
        for one in kitchen.wanted(connection, today)
        if one.crop is not None and one.from_day <= row.ends and one.to_day >= row.starts
    ]


def _last_year(connection: Connection[Any], context: Context, row: SeasonPlanRow) -> list[_Line]:
    """What was grown in the same days a year before, once for each crop and class, by its squares."""
    since, until = row.starts - rules.WEEKS_ON, row.ends - rules.WEEKS_ON
    squares: dict[tuple[str, UUID | None], int] = {}
    for planting in garden.plantings(connection, since=since, until=until):
        grown = context.crops.crops.get(planting.crop)
        if grown is None or grown.life == "perennial" or planting.status not in ("in the ground", "finished"):
            continue
        if since <= planting.bed_from <= until:
            key = (planting.crop, planting.class_group_id)
            squares[key] = squares.get(key, 0) + len(planting.cells)
    return [
        _made(row, crops=[crop], squares=min(400, many), origin="last year", group_id=group)
        for (crop, group), many in sorted(squares.items(), key=lambda item: (item[0][0], str(item[0][1])))
    ]


def _of_theme(row: SeasonPlanRow, name: str, crops: Sequence[str], ready_on: date | None) -> list[_Line]:
    return [
        _made(
            row,
            crops=[crop],
            squares=THEME_SQUARES,
            label=f"{name}: {crop.replace('-', ' ')}",
            ready_by=ready_on,
            origin="theme",
        )
        for crop in crops
    ]


def _old_seed(connection: Connection[Any], context: Context, today: date) -> list[str]:
    """Crops whose seed is near its end."""
    return sorted(asking.seed_there(seed_box.lots(connection), context, today)[1])
