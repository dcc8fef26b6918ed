"""Pages for a class: what each can do, its teams, its code (of which only a hash is kept) and the tablets that came in."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.core.crops.crop import Method
from almanaque.core.journal.class_counts import CountKey
from almanaque.core.journal.class_page import Activity
from almanaque.core.journal.class_sorting import SortBy
from almanaque.store import errors

GONE = "There is no such class page in this school."


@dataclass(frozen=True)
class ClassPage:
    """A page for a class and a lesson. `bed_id` is the bed that is drawn on; without it an empty garden of so many squares."""

    id: UUID
    class_group_id: UUID | None
    on_day: date
    until: time
    does: list[Activity]
    bed_id: UUID | None
    dream_columns: int
    dream_rows: int
    ballot_id: UUID | None
    counts: list[CountKey]
    count_bed_id: UUID | None
    sorts_by: SortBy
    answers_shown: bool = False


@dataclass(frozen=True)
class ClassCrop:
    """A crop to draw with, as it would be started."""

    crop: str
    method: Method
    start_on: date


@dataclass(frozen=True)
class ClassTeam:
    """A team by its made-up name, and the planting that it measures, if one is its own."""

    id: UUID
    name: str
    planting_id: UUID | None


@dataclass(frozen=True)
class ClassCode:
    """When the code of a page lets in; `turn` is how often it was drawn anew."""

    turn: int
    opens_at: datetime
    ends_at: datetime
    ended_at: datetime | None

    def is_open(self, now: datetime) -> bool:
        return self.opens_at <= now < self.ends_at and self.ended_at is None


@dataclass(frozen=True)
class FoundTablet:
    """A browser that came in by a code; `open` while its lesson lasts."""

    school_id: UUID
    class_page_id: UUID
    tablet_id: UUID
    class_team_id: UUID | None
    open: bool


_COLUMNS = """SELECT id, class_group_id, on_day, until, does, bed_id, dream_columns, dream_rows, ballot_id, counts, count_bed_id, sorts_by,
  answers_shown FROM class_page"""


def class_pages(connection: Connection[Any], *, limit: int = 60) -> list[ClassPage]:
    """Newest first."""
    rows = connection.cursor(row_factory=class_row(ClassPage))
    return rows.execute(f"{_COLUMNS} ORDER BY on_day DESC, made_at DESC, id LIMIT %s", [limit]).fetchall()


def class_page(connection: Connection[Any], page_id: UUID) -> ClassPage:
    rows = connection.cursor(row_factory=class_row(ClassPage))
    found = rows.execute(f"{_COLUMNS} WHERE id = %s", [page_id]).fetchone()
    if found is None:
        raise errors.NotFound(GONE)
    return found


def save(connection: Connection[Any], school_id: UUID, page: ClassPage, *, by: UUID | None) -> None:
    """Keep a new page."""
    connection.execute(
        """INSERT INTO class_page (school_id, id, class_group_id, on_day, until, does, bed_id, dream_columns, dream_rows, ballot_id,
             counts, count_bed_id, sorts_by, made_by)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)""",
        [
            school_id,
            page.id,
            page.class_group_id,
            page.on_day,
            page.until,
            page.does,
            page.bed_id,
            page.dream_columns,
            page.dream_rows,
            page.ballot_id,
            page.counts,
            page.count_bed_id,
            page.sorts_by,
            by,
        ],
    )


def show_answers(connection: Connection[Any], page_id: UUID, shown: bool) -> None:
    """Let the teams see which heaps are right, or hide it again."""
    connection.execute("UPDATE class_page SET answers_shown = %s WHERE id = %s", [shown, page_id])


def delete(connection: Connection[Any], page_id: UUID) -> None:
    """Take a page out with all that was drawn and counted on it. Ballots that children filled in stay with the ballot."""
    if connection.execute("DELETE FROM class_page WHERE id = %s", [page_id]).rowcount == 0:
        raise errors.NotFound(GONE)


def crops(connection: Connection[Any], page_id: UUID) -> list[ClassCrop]:
    rows = connection.cursor(row_factory=class_row(ClassCrop))
    return rows.execute(
        "SELECT crop, method, start_on FROM class_page_crop WHERE class_page_id = %s ORDER BY ordinal", [page_id]
    ).fetchall()


def save_crops(connection: Connection[Any], school_id: UUID, page_id: UUID, chosen: Sequence[ClassCrop]) -> None:
    connection.cursor().executemany(
        "INSERT INTO class_page_crop (school_id, class_page_id, crop, method, start_on, ordinal) VALUES (%s, %s, %s, %s, %s, %s)",
        [(school_id, page_id, c.crop, c.method, c.start_on, n) for n, c in enumerate(chosen)],
    )


def teams(connection: Connection[Any], page_id: UUID) -> list[ClassTeam]:
    rows = connection.cursor(row_factory=class_row(ClassTeam))
    return rows.execute(
        "SELECT id, name, planting_id FROM class_team WHERE class_page_id = %s ORDER BY ordinal", [page_id]
    ).fetchall()


def save_teams(connection: Connection[Any], school_id: UUID, page_id: UUID, made: Sequence[ClassTeam]) -> None:
    """Keep the teams of a new page, each with a plan that is empty yet."""
    rows = connection.cursor()
    rows.executemany(
        "INSERT INTO class_team (school_id, id, class_page_id, name, ordinal, planting_id) VALUES (%s, %s, %s, %s, %s, %s)",
        [(school_id, team.id, page_id, team.name, n, team.planting_id) for n, team in enumerate(made)],
    )
    rows.executemany(
        "INSERT INTO class_plan (school_id, class_team_id) VALUES (%s, %s)", [(school_id, t.id) for t in made]
    )


def set_planting(connection: Connection[Any], page_id: UUID, team_id: UUID, planting_id: UUID | None) -> None:
    """Say whose heights a team measures."""
    done = connection.execute(
        "UPDATE class_team SET planting_id = %s WHERE id = %s AND class_page_id = %s", [planting_id, team_id, page_id]
    )
    if done.rowcount == 0:
        raise errors.NotFound("There is no such team on this page.")


def code(connection: Connection[Any], page_id: UUID) -> ClassCode | None:
    """The code of a page; None in a school that was restored, which has no codes."""
    rows = connection.cursor(row_factory=class_row(ClassCode))
    return rows.execute(
        "SELECT turn, opens_at, ends_at, ended_at FROM class_code WHERE class_page_id = %s", [page_id]
    ).fetchone()


def save_code(
    connection: Connection[Any],
    school_id: UUID,
    page_id: UUID,
    code_hash: bytes,
    turn: int,
    opens_at: datetime,
    ends_at: datetime,
) -> bool:
    """Give a page a code. False, and nothing is written, when the code is another page's."""
    done = connection.execute(
        """INSERT INTO class_code (school_id, class_page_id, code_hash, turn, opens_at, ends_at) VALUES (%s, %s, %s, %s, %s, %s)
           ON CONFLICT ON CONSTRAINT class_code_once DO NOTHING""",
        [school_id, page_id, code_hash, turn, opens_at, ends_at],
    )
    return done.rowcount == 1


def let_last(connection: Connection[Any], page_id: UUID, code_hash: bytes, ends_at: datetime) -> None:
    """Let a code last to another moment; one that was ended is open again."""
    connection.execute(
        "UPDATE class_code SET code_hash = %s, ends_at = %s, ended_at = NULL WHERE class_page_id = %s",
        [code_hash, ends_at, page_id],
    )


def end(connection: Connection[Any], page_id: UUID) -> None:
    """Let a code lead nowhere from now on; tablets that are in can look and write no more."""
    connection.execute("UPDATE class_code SET ended_at = coalesce(ended_at, now()) WHERE class_page_id = %s", [page_id])


def find(connection: Connection[Any], code_hash: bytes) -> tuple[UUID, UUID] | None:
    """School and page behind a code that lets in now, in a transaction of no school."""
    row = connection.execute("SELECT school_id, class_page_id FROM class_page_by(%s)", [code_hash]).fetchone()
    return None if row is None else (row[0], row[1])


def find_tablet(connection: Connection[Any], token_hash: bytes) -> FoundTablet | None:
    """The tablet behind a token, in a transaction of no school."""
    rows = connection.cursor(row_factory=class_row(FoundTablet))
    return rows.execute("SELECT * FROM class_tablet_by(%s)", [token_hash]).fetchone()


def join(connection: Connection[Any], school_id: UUID, page_id: UUID, tablet_id: UUID, token_hash: bytes) -> None:
    """Let a browser in."""
    connection.execute(
        "INSERT INTO class_tablet (school_id, id, class_page_id, token_hash) VALUES (%s, %s, %s, %s)",
        [school_id, tablet_id, page_id, token_hash],
    )


def tablets(connection: Connection[Any], page_id: UUID) -> dict[UUID | None, int]:
    """How many browsers came in, by team; None for those that have chosen none."""
    return dict(
        connection.execute(
            "SELECT class_team_id, count(*) FROM class_tablet WHERE class_page_id = %s GROUP BY 1", [page_id]
        ).fetchall()
    )


def choose_team(connection: Connection[Any], tablet_id: UUID, page_id: UUID, team_id: UUID) -> None:
    """Put a tablet into a team of its page."""
    done = connection.execute(
        """UPDATE class_tablet t SET class_team_id = m.id FROM class_team m
           WHERE t.id = %s AND m.school_id = t.school_id AND m.class_page_id = t.class_page_id AND m.id = %s AND t.class_page_id = %s""",
        [tablet_id, team_id, page_id],
    )
    if done.rowcount == 0:
        raise errors.NotFound("There is no such team on this page. Choose one from the list.")
