"""The one way to write a bed and what stands in it: hold it, read it then, change what was read.

Nobody else writes a held bed until the transaction ends. Whoever wants several holds them all first, in one order, so that
two who want the same wait for each other and never both.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from datetime import date
from functools import cached_property
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.growth import forecasts
from almanaque.store.garden import changes, garden, tending_words
from almanaque.store.garden.changes import Change
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.garden.tending_words import Word


class HeldBed:
    """A bed and its plantings as they are while nobody else can change them. Made by `hold`, `hold_all` and `hold_of`."""

    def __init__(self, connection: Connection[Any], context: Context, bed_id: UUID, actor: Actor) -> None:
        self._version = changes.lock_bed(connection, bed_id, version=actor.version)
        self.connection, self.context, self.actor, self.id = connection, context, actor, bed_id
        self._read: dict[UUID, Planting] = {}
        self._all_read = False

    @cached_property
    def bed(self) -> Bed:
        return garden.bed(self.connection, self.id)

    def plantings(self, since: date | None = None) -> list[Planting]:
        """What stands or is planned here, all of it or what may hold squares from a day on, with what was written meanwhile."""
        if since is not None:
            found = garden.plantings(self.connection, bed_id=self.id, since=since)
            self._read |= {p.id: p for p in found}
            return found
        if not self._all_read:
            self._read = {p.id: p for p in garden.plantings(self.connection, bed_id=self.id)}
            self._all_read = True
        return list(self._read.values())

    def planting(self, planting_id: UUID) -> Planting:
        """One of its plantings, with what was written meanwhile. Raises NotFound for any other."""
        if planting_id not in self._read:
            found = garden.planting(self.connection, planting_id)
            if found.bed_id != self.id:
                raise ValueError("a planting of a bed that is not held")
            self._read[planting_id] = found
        return self._read[planting_id]

    def change(self, planting_id: UUID, how: Callable[[Planting], Planting]) -> None:
        """Make another of a planting as it is now, with the dates and jobs that follow from it."""
        self._write(how(self.planting(planting_id)), anew=False)

    def add(self, planting: Planting) -> Planting:
        """Plant or pencil in what was not there; return it with its dates."""
        self._write(planting, anew=True)
        return self.planting(planting.id)

    def put_back(self, planting: Planting) -> None:
        """Let a planting be what it was, as an earlier command kept it."""
        self._write(planting, anew=True)

    def remove(self, planting_id: UUID) -> None:
        """Take out a plan on which nothing hangs."""
        garden.delete_planting(self.connection, planting_id)
        self._forget(planting_id)

    def has_history(self, planting_id: UUID) -> bool:
        """True when events, pickings or finished jobs hang on it, so that it may not be rubbed out."""
        return garden.has_history(self.connection, planting_id)

    def note(self, planting_id: UUID, kind: str, day: date | None) -> None:
        """What happened to a planting on a day, or with no day that it did not. Status and dates are `change`'s affair."""
        if day is None:
            garden.delete_event(self.connection, planting_id, kind)
        else:
            garden.save_event(
                self.connection,
                self.context.school.id,
                planting_id,
                event_id=uuid4(),
                kind=kind,
                day=day,
                by=self.actor.by,
            )
        self._forget(planting_id)

    def tend(self, planting_id: UUID, step: str, word: Word, day: date | None) -> None:
        """What was said of a planting's tending, or with no day that it was not; its jobs follow."""
        if day is None:
            tending_words.unsay(self.connection, planting_id, step, word)
        else:
            tending_words.say(self.connection, self.context.school.id, planting_id, step, word, day)
        self._forget(planting_id)
        self.refresh(planting_id)

    def refresh(self, planting_id: UUID, *, today: date | None = None) -> None:
        """Bring a planting's dates and jobs up to date, by the weather until today or an earlier day."""
        planting = self.planting(planting_id)
        forecasts.refresh(self.connection, self.context, planting, self.bed, today=today or self.actor.today)
        self._forget(planting_id)

    def done(self, command: str, *, put_back: Iterable[Planting] = (), made: Iterable[UUID] = ()) -> None:
        """Keep a command under its name, with what undoes it: plantings as they were, and those that it made."""
        before = {"put_back": [changes.planting_out(p) for p in put_back], "made": [str(one) for one in made]}
        self._record(command, before)

    def changed_itself(self) -> None:
        """The bed was written anew: what is read of it from now on is that."""
        self.done_for_good("the bed itself was changed")
        vars(self).pop("bed", None)

    def touched(self) -> None:
        """Something beside the plantings was changed, so that others who look at the bed see it; it is no command to undo."""
        self._version = changes.raise_version(self.connection, self.id, self._version)

    def done_for_good(self, command: str) -> None:
        """Keep a command that undo does not go behind."""
        self._record(command, {})

    def undone(self, change: Change, after: Mapping[str, Any]) -> None:
        """The bed's last command was taken back; `after` does it again."""
        self._version = changes.mark_undone(self.connection, self.id, change.id, dict(after), held=self._version)

    def redone(self, change: Change) -> None:
        self._version = changes.mark_redone(self.connection, self.id, change.id, held=self._version)

    def _record(self, command: str, before: dict[str, Any]) -> None:
        self._version = changes.record_change(
            self.connection,
            self.context.school.id,
            self.id,
            change_id=uuid4(),
            command=command,
            before=before,
            by=self.actor.by,
            held=self._version,
        )

    def _write(self, planting: Planting, *, anew: bool) -> None:
        garden.save_planting(self.connection, self.context.school.id, planting)
        if anew:
            self._forget(planting.id)
            planting = self.planting(planting.id)  # with the events that it has, whatever was kept of it
        forecasts.refresh(self.connection, self.context, planting, self.bed, today=self.actor.today, force=anew)
        self._forget(planting.id)

    def _forget(self, planting_id: UUID) -> None:
        self._read.pop(planting_id, None)
        self._all_read = False


def hold(connection: Connection[Any], context: Context, bed_id: UUID, actor: Actor) -> HeldBed:
    """Hold a bed until the transaction ends. Raises NotFound, and Stale when it is not as the actor saw it."""
    return HeldBed(connection, context, bed_id, actor)


def hold_of(connection: Connection[Any], context: Context, planting_id: UUID, actor: Actor) -> HeldBed:
    """Hold the bed of a planting. Raises NotFound also for a planting that went before the bed could be held."""
    held = HeldBed(connection, context, garden.bed_of(connection, planting_id), actor)
    held.planting(planting_id)
    return held


def hold_all(
    connection: Connection[Any], context: Context, planting_ids: Sequence[UUID], actor: Actor
) -> dict[UUID, HeldBed]:
    """Hold the beds of several plantings; by the bed's id. What any of them saw of a bed's version is not asked."""
    return hold_beds(connection, context, {garden.bed_of(connection, one) for one in planting_ids}, actor)


def hold_beds(
    connection: Connection[Any], context: Context, bed_ids: Iterable[UUID], actor: Actor
) -> dict[UUID, HeldBed]:
    """Hold several beds, for what writes into them one after the other; by the bed's id."""
    unversioned = replace(actor, version=None)
    return {bed_id: HeldBed(connection, context, bed_id, unversioned) for bed_id in sorted(set(bed_ids))}


def hold_garden(connection: Connection[Any], context: Context, actor: Actor) -> None:
    """Hold every bed in which something stands or is planned, for what changes the jobs of many."""
    hold_beds(connection, context, garden.beds_in_use(connection), actor)
