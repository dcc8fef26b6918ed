"""The running board of a class page: what each team counted, in a row of its own, compared fairly, with ties."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.journal import class_counts as rules
from almanaque.core.journal import class_sorting
from almanaque.core.journal.class_counts import CountKind, Standing
from almanaque.core.units import Units, format_length, format_rain
from almanaque.store.journal import class_counts, class_pages
from almanaque.store.journal.class_counts import CountedRow
from almanaque.store.journal.class_pages import ClassPage, ClassTeam
from almanaque.web import words


@dataclass(frozen=True)
class BoardLine:
    """A team's row: its place, what it counted, the fair figure, and how long its bar is [%]."""

    place: str
    team: str
    total: str
    fair: str
    share: float


@dataclass(frozen=True)
class BoardOf:
    """The board of one thing, and the one sentence it comes to."""

    name: str
    total: str
    fair: str
    lines: list[BoardLine]
    waiting: str
    told: str


def boards(context: Context, page: ClassPage, teams: Sequence[ClassTeam], rows: Sequence[CountedRow]) -> list[BoardOf]:
    """A board for each thing that the page counts; of visitors one for each kind that was seen, and one for all."""
    names, units = [team.name for team in teams], context.school.units
    found = []
    for key in page.counts:
        kind = rules.KINDS[key]
        counts = [row.count for row in rows if row.count.kind == key]
        if kind.what and key != "visitors":
            for what in kind.what:
                mine = [count for count in counts if count.what == what]
                if mine or what == kind.what[0]:
                    found.append(_board(kind, f"{kind.name}, {what}", rules.standings(kind, mine, names), names, units))
            continue
        if key == "visitors":
            counts = rules.watched(counts)
        found.append(_board(kind, kind.name, rules.standings(kind, counts, names), names, units))
    return found


def _board(kind: CountKind, name: str, placed: Sequence[Standing], names: Sequence[str], units: Units) -> BoardOf:
    most = max((one.compared for one in placed), default=0.0)
    there = {one.team for one in placed}
    left = [team for team in names if team not in there]
    return BoardOf(
        name=name,
        total="Measured last" if not kind.adds_up else "Counted",
        fair=kind.per,
        lines=[
            BoardLine(
                place=f"{one.place}{'=' if one.tied else ''}",
                team=one.team,
                total=amount_words(kind, one.total, units),
                fair=f"{one.fair:.1f}" if one.fair is not None else "",
                share=round(100 * one.compared / most, 1) if most else 0.0,
            )
            for one in placed
        ],
        waiting=f"Not yet: {', '.join(left)}" if left and placed else "",
        told=_told(kind, placed, units),
    )


def amount_words(kind: CountKind, amount: float, units: Units) -> str:
    """An amount in the school's units."""
    if kind.measured == "length":
        return format_length(amount, units, feet=False)
    return format_rain(amount, units) if kind.measured == "rain" else f"{amount:g}"


def _told(kind: CountKind, placed: Sequence[Standing], units: Units) -> str:
    """What all teams have together; of what is measured, from the least to the most."""
    if not placed:
        return "Nothing counted yet."
    if kind.adds_up:
        together = amount_words(kind, sum(one.total for one in placed), units)
        return f"All teams together: {together}."
    values = sorted(one.compared for one in placed)
    ends = [values[0], values[-1]]
    low, high = (f"{v:.1f}" if kind.per else amount_words(kind, v, units) for v in ends)
    spread = low if low == high else f"{low} to {high}"
    return f"{words.count(len(placed), 'team')}: {spread}{f' {kind.per}' if kind.per else ''}."


@dataclass(frozen=True)
class SortLine:
    """How a team's cards lie; what is right is told only when the answers are."""

    team: str
    laid: str
    right: str


def sorting(
    connection: Connection[Any], context: Context, page: ClassPage, teams: Sequence[ClassTeam]
) -> list[SortLine]:
    """How far each team has sorted."""
    crops = [context.crops[c.crop] for c in class_pages.crops(connection, page.id) if c.crop in context.crops]
    asked = class_sorting.cards(page.sorts_by, crops)
    lying = class_counts.cards(connection, [team.id for team in teams])
    found = []
    for team in teams:
        score = class_sorting.score(asked, lying[team.id])
        right = f"{score.right} of {score.of} right" if page.answers_shown else ""
        found.append(SortLine(team.name, f"{score.sorted} of {score.of} laid", right))
    return found
