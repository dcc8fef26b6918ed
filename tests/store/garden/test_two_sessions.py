"""Two people at one bed: whatever one does while the other is about to, the end is as if one had come after the other.

Every command of the first session is stopped where it wants to hold the bed, and the second session does its own and keeps
it. What is in the database then must be what the same two give one after the other.
"""

import ast
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace
from datetime import date, timedelta
from pathlib import Path
from uuid import UUID, uuid4, uuid5

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule, run_state_machine_as_test
from psycopg import Connection

import almanaque
from almanaque.commands import context as contexts
from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import drafts, held_bed, map_drawing, painting, planting_events, plantings, renewal, undo
from almanaque.commands.garden.painting import Paint
from almanaque.commands.harvest import pickings
from almanaque.commands.harvest.pickings import PickingWish
from almanaque.commands.year import schedule
from almanaque.core.errors import BadInput
from almanaque.core.garden.layout import LayoutWish
from almanaque.core.growth.covers import CoverKey
from almanaque.host.postgres import Addresses
from almanaque.store.db import Database, translated
from almanaque.store.errors import StoreError
from almanaque.store.garden import bed_sections, garden
from almanaque.store.garden.bed_sections import Section
from almanaque.store.garden.garden import Bed, Planting
from tests.database import NORTH, bed_id

TODAY = date(2027, 4, 14)
ACTOR = Actor(None, TODAY)
BED = bed_id("Bed 4")
CROPS = ("radish", "bush-bean", "tomato")


@dataclass(frozen=True)
class Doing:
    """What one of the two does: a command, at which of the plantings or squares, and a number for the rest."""

    kind: str
    at: int
    number: int


@dataclass(frozen=True)
class Turn:
    """Somebody's turn at a bed: what they may do it to, and with which numbers."""

    connection: Connection
    context: Context
    bed: UUID
    chosen: Planting | None
    doing: Doing

    @property
    def squares(self) -> str:
        return f"{'ABCD'[self.doing.at % 4]}{1 + self.doing.number // 30}"

    @property
    def day(self) -> date:
        return TODAY + timedelta(days=self.doing.number)

    @property
    def planting(self) -> UUID:
        """The planting it is done to."""
        if self.chosen is None:
            raise NothingThere
        return self.chosen.id


class NothingThere(Exception):
    """There is no planting to do it to."""


def do(connection: Connection, context: Context, bed: UUID, doing: Doing, seen: list[Planting]) -> None:
    """Do it to what the person sees. What is refused changes nothing."""
    chosen = seen[doing.at % len(seen)] if seen else None
    with suppress(BadInput, StoreError, NothingThere), translated(), connection.transaction():
        COMMANDS[doing.kind](Turn(connection, context, bed, chosen, doing))


def _paint(turn: Turn) -> None:
    crop = CROPS[turn.doing.number % 3]
    wish = Paint(turn.squares, crop, turn.context.crops[crop].methods[0], turn.day, turn.doing.number % 2 == 0)
    painting.paint(turn.connection, turn.context, turn.bed, wish, ACTOR)


def _ink(turn: Turn) -> None:
    ink = turn.doing.number % 3 != 0
    plantings.set_ink(turn.connection, turn.context, turn.bed, turn.squares, ink=ink, shown=TODAY, actor=ACTOR)


def _move(turn: Turn) -> None:
    way = turn.context.crops[turn.chosen.crop if turn.chosen else "radish"].methods[-1]
    plantings.move(turn.connection, turn.context, turn.planting, method=way, start_on=turn.day, actor=ACTOR)


def _shift(turn: Turn) -> None:
    plantings.shift(turn.connection, turn.context, turn.bed, turn.squares, columns=1, rows=0, shown=TODAY, actor=ACTOR)


def _spacing(turn: Turn) -> None:
    plantings.change_spacing(
        turn.connection,
        turn.context,
        turn.bed,
        turn.squares,
        LayoutWish(follows="figures"),
        with_others=turn.doing.number % 2 == 0,
        shown=TODAY,
        actor=ACTOR,
    )


def _rub(turn: Turn) -> None:
    painting.rub_out(turn.connection, turn.context, turn.bed, turn.squares, shown=TODAY, actor=ACTOR)


def _happened(kind: str) -> Callable[[Turn], None]:
    return lambda turn: planting_events.happened(turn.connection, turn.context, turn.planting, kind, TODAY, ACTOR)


def _take_back(turn: Turn) -> None:
    planting_events.did_not_happen(turn.connection, turn.context, turn.planting, "started", ACTOR)


def _pick(turn: Turn) -> None:
    wish = PickingWish(uuid4(), turn.planting, "20", "g", "kitchen", TODAY, sure=True)
    pickings.pick(turn.connection, turn.context, wish, ACTOR)


def _cover(turn: Turn) -> None:
    cover: CoverKey | None = "row cover" if turn.doing.number % 2 else None
    schedule.set_cover(turn.connection, turn.context, turn.planting, cover, ACTOR)


def _series(turn: Turn) -> None:
    soon = TODAY + timedelta(days=50)
    schedule.make_series(turn.connection, turn.context, turn.planting, "every", 20, ACTOR, until=soon)


COMMANDS: dict[str, Callable[[Turn], object]] = {
    "paint": _paint,
    "ink": _ink,
    "move": _move,
    "shift": _shift,
    "spacing": _spacing,
    "rub": _rub,
    "undo": lambda turn: undo.undo(turn.connection, turn.context, turn.bed, actor=ACTOR),
    "redo": lambda turn: undo.redo(turn.connection, turn.context, turn.bed, actor=ACTOR),
    "start": _happened("started"),
    "set out": _happened("set out"),
    "clear": _happened("cleared"),
    "take back": _take_back,
    "pick": _pick,
    "step": lambda turn: schedule.set_step(turn.connection, turn.context, turn.planting, "clear", turn.day, ACTOR),
    "cover": _cover,
    "series": _series,
    "choose": lambda turn: drafts.choose(turn.connection, turn.context, [turn.planting], ACTOR),
    "renew": lambda turn: renewal.renew_bed(turn.connection, turn.context, turn.bed, today=TODAY),
}
# What stands in the bed at first, in the order in which plantings are read.
IN_GROUND, IN_INK, IN_PENCIL = 0, 1, 2
STANDS = [Doing("paint", 0, 0), Doing("start", 0, 0), Doing("paint", 1, 4), Doing("paint", 2, 9)]
AT = {"pick": IN_GROUND, "take back": IN_GROUND, "clear": IN_GROUND, "step": IN_INK, "start": IN_INK}

# Painting more often than the rest, so that there is something to do it to.
DOINGS = st.builds(Doing, st.sampled_from(["paint", "paint", *COMMANDS]), st.integers(0, 7), st.integers(0, 40))

# What the bed and its plantings are, without ids that are drawn and instants.
STATE = """
SELECT coalesce(jsonb_agg(t ORDER BY t::text), '[]')::text FROM (
  SELECT p.crop, p.status, p.method, p.start_on, p.cover, p.with_others, p.draft_id, p.spacing_from, p.series_id IS NULL AS alone,
    (SELECT jsonb_agg(jsonb_build_array(a.col, a.row) ORDER BY a.row, a.col) FROM patch a WHERE a.planting_id = p.id) AS squares,
    (SELECT jsonb_object_agg(e.kind, e.on_day) FROM event e WHERE e.planting_id = p.id) AS events,
    (SELECT jsonb_object_agg(d.step, d.on_day) FROM step_day d WHERE d.planting_id = p.id) AS steps,
    (SELECT to_jsonb(f) - 'planting_id' - 'computed_at' FROM forecast f WHERE f.planting_id = p.id) AS forecast,
    (SELECT jsonb_agg(jsonb_build_array(k.step, k.ordinal, k.from_day, k.to_day, k.status) ORDER BY k.step, k.ordinal)
     FROM task k WHERE k.planting_id = p.id) AS jobs,
    (SELECT count(*) FROM harvest h WHERE h.planting_id = p.id) AS pickings,
    (SELECT count(*) FROM forecast_made m WHERE m.planting_id = p.id) AS promised
  FROM planting p WHERE p.bed_id = %(bed)s) t
"""
HISTORY = """
SELECT coalesce(jsonb_agg(jsonb_build_array(c.version, c.command, c.undone, c.void) ORDER BY c.version), '[]')::text,
  (SELECT version FROM bed WHERE id = %(bed)s)
FROM change c WHERE c.bed_id = %(bed)s
"""


def state(connection: Connection, bed: UUID) -> tuple[object, ...]:
    """All that the two could have changed."""
    rows = [connection.execute(statement.encode(), {"bed": bed}).fetchone() for statement in (STATE, HISTORY)]
    return tuple(value for row in rows if row is not None for value in row)


@contextmanager
def before_holding(monkeypatch: pytest.MonkeyPatch, meanwhile: Callable[[str], None]) -> Iterator[None]:
    """Let `meanwhile` happen where a bed is about to be held for the first time, or after all if none is."""
    once = [meanwhile]
    hold = held_bed.changes.lock_bed

    def late(connection: Connection, held: UUID, *, version: int | None) -> int:
        while once:
            once.pop()("held")
        return hold(connection, held, version=version)

    monkeypatch.setattr(held_bed.changes, "lock_bed", late)
    yield
    monkeypatch.setattr(held_bed.changes, "lock_bed", hold)
    while once:
        once.pop()("not held")


class TwoSessions(RuleBasedStateMachine):
    """An empty bed, and whatever two people do to it at once or one of them alone."""

    database: Database
    monkeypatch: pytest.MonkeyPatch
    examples = 0

    @initialize()
    def new_bed(self) -> None:
        """Each example has a bed of its own, which lies below those of the examples before: in pencil, in ink, in the ground."""
        type(self).examples += 1
        self.bed = uuid5(BED, str(self.examples))
        with self.database.school(NORTH) as connection:
            old = garden.bed(connection, BED)
            below = replace(old, id=self.bed, name=f"Bed {self.bed}", kept=[], y_mm=self.examples * 10_000.0)
            garden.save_bed(connection, NORTH, below)
        for doing in STANDS:
            self._do(doing, self._seen())

    @rule(first=DOINGS, second=DOINGS)
    def together(self, first: Doing, second: Doing) -> None:
        """Both at once: the second is done and kept while the first waits for the bed."""
        seen, met = self._seen(), list[str]()
        one_after_the_other = self._in_order((second, first), seen)

        def meanwhile(where: str) -> None:
            met.append(where)
            if where == "held":
                self._do(second, seen)

        with self.database.school(NORTH) as here, before_holding(self.monkeypatch, meanwhile):
            do(here, contexts.load(here), self.bed, first, seen)
        if met == ["not held"]:
            self._do(second, seen)
        with self.database.school(NORTH) as connection:
            found = state(connection, self.bed)
        assert found == one_after_the_other, (first, second, met)

    @rule(doing=DOINGS)
    def alone(self, doing: Doing) -> None:
        self._do(doing, self._seen())

    @invariant()
    def nothing_hangs_in_the_air(self) -> None:
        """Squares, dates and a state that follows from what happened, for every planting."""
        for planting in self._seen():
            assert planting.cells, planting
            assert planting.dates is not None, planting
            begun = {"set out" if planting.method == "indoors" else "started", "cleared"} & set(planting.events)
            assert bool(begun) == (planting.status in ("in the ground", "finished")), planting

    def _seen(self) -> list[Planting]:
        with self.database.school(NORTH) as connection:
            return garden.plantings(connection, bed_id=self.bed)

    def _do(self, doing: Doing, seen: list[Planting]) -> None:
        with self.database.school(NORTH) as connection:
            do(connection, contexts.load(connection), self.bed, doing, seen)

    def _in_order(self, pair: Sequence[Doing], seen: list[Planting]) -> tuple[object, ...]:
        """What the two give one after the other, of which nothing is kept."""
        with self.database.school(NORTH) as connection, connection.transaction(force_rollback=True):
            for doing in pair:
                do(connection, contexts.load(connection), self.bed, doing, seen)
            return state(connection, self.bed)


def test_a_command_that_waited_finds_what_was_done_meanwhile(
    demo: Addresses, database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    two = TwoSessions()
    two.database, two.monkeypatch = database, monkeypatch
    for first in COMMANDS:
        at = AT.get(first, IN_PENCIL)
        for second in ("cover", "rub", "start"):
            two.new_bed()
            two.together(Doing(first, at, 8), Doing(second, at, 5))
            two.nothing_hangs_in_the_air()


def test_two_sessions_never_lose_what_either_did(
    demo: Addresses, database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    two = type("TwoSessionsHere", (TwoSessions,), {"database": database, "monkeypatch": monkeypatch})
    run_state_machine_as_test(two, settings=settings(max_examples=8, stateful_step_count=8))


def test_two_who_draw_parts_in_one_bed_both_keep_theirs(
    demo: Addresses, database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    hold, once = garden.hold_ground, [True]

    def draw(connection: Connection, name: str, x_mm: float) -> None:
        def with_part(bed: Bed, sections: list[Section]) -> tuple[Bed, list[Section]]:
            return bed, [*sections, Section(name, None, x_mm, 0, 600, 600)]

        map_drawing.change_bed(connection, contexts.load(connection), BED, with_part, ACTOR)

    def late(connection: Connection, school: UUID) -> None:
        if once:
            once.pop()
            with database.school(NORTH) as other:
                draw(other, "Theirs", 0)
        hold(connection, school)

    monkeypatch.setattr(garden, "hold_ground", late)
    with database.school(NORTH) as here:
        draw(here, "Ours", 900)
        assert {"Ours", "Theirs"} <= {section.purpose for section in bed_sections.sections(here, BED)}


WRITES = {"save_planting", "delete_planting", "save_event", "delete_event", "lock_bed", "record_change"}


def test_only_a_held_bed_writes_what_stands_in_it() -> None:
    found = set()
    for path in Path(almanaque.__file__).parent.rglob("*.py"):
        tree = ast.parse(path.read_text(encoding="utf-8"))
        if WRITES & {node.attr for node in ast.walk(tree) if isinstance(node, ast.Attribute)}:
            found.add(path.name)
    assert found == {"held_bed.py"}
