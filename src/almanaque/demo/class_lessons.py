"""What classes of the demo did on class pages: plans of six teams for a bed, and visitors to flowers in two springs."""

import secrets
from datetime import UTC, date, datetime, time
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.journal import class_counts, class_drawings, class_pages
from almanaque.commands.journal.class_pages import ClassPageWish
from almanaque.core.journal.class_counts import ClassCount
from almanaque.core.journal.class_drawings import DrawnMark
from almanaque.demo.shapes import demo_id
from almanaque.store.journal import class_drawings as drawing_store
from almanaque.store.journal import class_pages as store
from almanaque.store.journal.class_drawings import SentMark

SCHOOL = "Brindlecombe School"
LONG_AGO = datetime(2024, 4, 10, 9, 50, tzinfo=UTC)  # by the clock on the wall, so that its code leads nowhere any more
DRAWN_WITH = {
    "r": "radish",
    "c": "carrot",
    "v": "viola",
    "p": "pea",
    "m": "mesclun",
    "b": "beet",
    "l": "calendula",
    "w": "sweet-corn",
    "u": "pumpkin",
    "k": "kale",
    "a": "arugula",
    "s": "scallion",
    "o": "potato",
    "t": "tomato",
}
# A team's plan, a letter a square, row by row.
PLANS = {
    "The Wrens": ("rrccvvpp", "rrcc..pp", "mmmmbbll", "mmmmbbll"),
    "The Newts": ("wwwwrrrr", "wwwwrrrr", "uuu..lll", "uuu....."),
    "The Badgers": ("oooo....", "oooo.ccc", "ss...ccc", "ssvvvccc"),
    "The Swifts": ("llllllll", "ttttrrmm", "ttttrrmm", "vvvvvvvv"),
    "The Hares": ("cccccccc", "cccccccc", "aaaaaaaa", "........"),
    "The Toads": ("kkkkuuu.", "kkkkuuu.", "bbbbuuup", "bbbb.v.p"),
}
# Class, day, and of each team what it saw: kind, visitors, minutes.
WATCHED: tuple[tuple[str, str, dict[str, tuple[tuple[str, int, int], ...]]], ...] = (
    (
        "Docks",
        "2026-04-22",
        {
            "The Moles": (("bees", 2, 10),),
            "The Owls": (("bees", 1, 10), ("hoverflies", 1, 10)),
            "The Wrens": (("bees", 3, 10),),
        },
    ),
    (
        "Birches",
        "2027-04-07",
        {
            "The Wrens": (("bees", 5, 10), ("butterflies", 1, 10)),
            "The Newts": (("bees", 4, 5),),
            "The Badgers": (("bumblebees", 6, 10),),
            "The Swifts": (("bees", 3, 5), ("hoverflies", 2, 5)),
        },
    ),
)


def write(connection: Connection[Any], context: Context) -> None:
    """Write two class pages with what was done on them."""
    bed = demo_id(SCHOOL, "bed", "Bed 2")
    for group, day, seen in WATCHED:
        on, page_id = date.fromisoformat(day), demo_id(SCHOOL, "class page", day)
        draws = day == "2027-04-07"
        wish = ClassPageWish(
            class_group_id=demo_id(SCHOOL, "group", group),
            on_day=on,
            until=time(10, 45),
            does=("draw", "count") if draws else ("count",),
            teams="\n".join(PLANS if draws else seen),
            season=(date(2027, 4, 14), date(2027, 6, 4)),
            bed_id=bed,
            counts=("visitors",),
            count_bed_id=demo_id(SCHOOL, "bed", "Herb corner"),
        )
        class_pages.make(connection, context, page_id, wish, key=secrets.token_hex(), now=LONG_AGO, today=on, by=None)
        for team in store.teams(connection, page_id):
            if draws:
                _draw(connection, context, page_id, team.id, PLANS[team.name])
            for what, visitors, minutes in seen.get(team.name, ()):
                count = ClassCount("visitors", team.name, on, visitors, minutes, what)
                page = store.class_page(connection, page_id)
                class_counts.keep(connection, context, page, team, uuid4(), count)


def _draw(connection: Connection[Any], context: Context, page_id: UUID, team_id: UUID, rows: tuple[str, ...]) -> None:
    on = class_drawings.board(connection, context, store.class_page(connection, page_id))
    known, cells, stroke = on.known, set(on.bed.grid().cells), str(uuid4())
    marks = [
        SentMark(uuid4(), DrawnMark((column, row), DRAWN_WITH[letter], stroke))
        for row, line in enumerate(rows)
        for column, letter in enumerate(line)
        if (column, row) in cells and DRAWN_WITH.get(letter) in known
    ]
    class_drawings.take(connection, context, on, team_id, team_id, marks)
    others = [team for team in store.teams(connection, page_id) if team.id != team_id]
    drawing_store.vote(
        connection, context.school.id, page_id, team_id, others[len(rows[0].strip(".")) % len(others)].id
    )
