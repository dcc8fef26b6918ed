"""The plans of all teams side by side: drawn, in figures, with the dots they were given."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.journal import class_drawings as commands
from almanaque.core.journal import class_drawings as rules
from almanaque.core.journal.class_drawings import PlanFigures
from almanaque.store.journal import class_drawings as store
from almanaque.store.journal.class_pages import ClassPage, ClassTeam
from almanaque.web import words
from almanaque.web.journal import class_plan_picture
from almanaque.web.journal.class_plan_picture import PlanPicture

LEADS = {
    "kinds": "the most kinds",
    "plants": "the most plants",
    "for_bees": "the most for bees",
    "picked_at_school": "the most that is picked at school",
    "worries": "the fewest worries",
}


@dataclass(frozen=True)
class GalleryPlan:
    """A team's plan: its picture, its figures as rows, what it leads in, what it is told, and its dots."""

    id: str
    team: str
    picture: PlanPicture
    rows: list[tuple[str, str]]
    leads: list[str]
    notes: list[tuple[str, bool]]
    counts: list[tuple[str, str, int, int]]
    drawn: bool
    dots: int
    dot_words: str


def plans(
    connection: Connection[Any],
    context: Context,
    page: ClassPage,
    teams: Sequence[ClassTeam],
    *,
    today: date,
    line: bool = False,
) -> list[GalleryPlan]:
    """The plans in the order of the teams; in `line` for crayons."""
    on = commands.board(connection, context, page)
    drawn = commands.plans(connection, context, on, teams, today=today)
    judged = {team.id: commands.judge(connection, context, on, drawn[team.id], today=today) for team in teams}
    figures = {str(t.id): commands.figures(context, on, drawn[t.id], judged[t.id]) for t in teams}
    leading, dots = rules.leading(figures), store.votes(connection, page.id)
    return [
        GalleryPlan(
            id=str(team.id),
            team=team.name,
            picture=class_plan_picture.draw(context, on, drawn[team.id], team.name, line=line),
            rows=rows(figures[str(team.id)]),
            leads=[LEADS[name] for name, best in leading.items() if str(team.id) in best],
            notes=[
                (str(note), rules.is_praise(note)) for note in commands.notes(context, drawn[team.id], judged[team.id])
            ],
            counts=class_plan_picture.counts(context, drawn[team.id]),
            drawn=bool(drawn[team.id].squares),
            dots=dots.get(team.id, 0),
            dot_words=words.count(dots.get(team.id, 0), "dot"),
        )
        for team in teams
    ]


def rows(found: PlanFigures) -> list[tuple[str, str]]:
    """A plan's figures in words, one a row."""
    return [
        ("Plants", f"{found.plants:,}"),
        ("Kinds", str(found.kinds)),
        ("Squares used", f"{found.used} of {found.squares}"),
        ("Plants that bees visit", str(found.for_bees)),
        ("Kinds picked while children are here", f"{found.picked_at_school} of {found.kinds}"),
        ("Worries", str(found.worries)),
    ]
