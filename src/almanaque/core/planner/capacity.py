"""Rows for room over time: what stands in a bed at once may not want more squares than there are free."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt


@dataclass(frozen=True, slots=True)
class Stay:
    """Something that takes `amount` from its first to its last day (numbers of days, both included)."""

    first: int
    last: int
    amount: int


@dataclass(frozen=True)
class RoomRow:
    """The room that is left on a day, and which stays count against it."""

    day: int
    room: int
    members: tuple[int, ...]


def rows_over_time(stays: Sequence[Stay], taken: Sequence[Stay], most: int) -> list[RoomRow]:
    """The rows that are needed so that never more than `most` is taken.

    `taken` is there in any case. Days on which the same stays meet, or fewer, and no less room is left, need no row of their own:
    these are the maximal cliques of the intervals where nothing is taken.
    """
    days = np.array(sorted({stay.first for stay in stays} | {there.first for there in taken}), dtype=np.int64)
    here = _meeting(days, stays)
    room = most - _meeting(days, taken) @ np.array([there.amount for there in taken], dtype=np.int64)
    amounts = np.array([stay.amount for stay in stays], dtype=np.int64)
    short = np.flatnonzero(here @ amounts > room)
    here, room, days = here[short], np.maximum(room[short], 0), days[short]
    within = here @ here.T == here.sum(axis=1)[:, None]  # whether all that meets on one day meets on another
    told = within & (room[None, :] <= room[:, None])
    again = told & told.T  # two days alike: the first one speaks
    told &= ~again | (np.arange(len(short))[None, :] < np.arange(len(short))[:, None])
    np.fill_diagonal(told, val=False)
    return [
        RoomRow(int(days[at]), int(room[at]), tuple(np.flatnonzero(here[at]).tolist()))
        for at in np.flatnonzero(~told.any(axis=1)).tolist()
    ]


def _meeting(days: npt.NDArray[np.int64], stays: Sequence[Stay]) -> npt.NDArray[np.int64]:
    """1 where a stay is there on a day, array (days, stays)."""
    first = np.array([stay.first for stay in stays], dtype=np.int64)
    last = np.array([stay.last for stay in stays], dtype=np.int64)
    return ((first[None, :] <= days[:, None]) & (days[:, None] <= last[None, :])).astype(np.int64)
