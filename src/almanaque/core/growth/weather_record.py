"""A place's weather record with what was worked out from it: conditions by cover, runs by crop and way of starting.

Answers are kept by everything they depend on: the crop's values, the way of starting, the practice of readiness, the cover. The
weather itself is fixed; another record is another object. The runs used last of all records share one store, so that memory
stays bounded however many schools and crops there are.
"""

import threading
from collections import OrderedDict
from functools import cached_property

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.growth.conditions import Conditions
from almanaque.core.growth.covers import Covering
from almanaque.core.growth.crop_runs import NOTHING, Behind, ReadyBy, Runs, grow
from almanaque.core.growth.usual_weeks import UsualWeeks, of_climate
from almanaque.core.place.climate import Climate

MOST_BYTES = 150_000_000  # of kept answers, over all records; one of 37 years takes about 135 kB: our own rule
MOST_CONDITIONS = 6  # about 8 MB each

_Key = tuple[object, ...]


class _KeptRuns:
    """The answers used last, whichever record they belong to, within so many bytes."""

    def __init__(self, most_bytes: int) -> None:
        self._most_bytes, self._bytes = most_bytes, 0
        self._kept: OrderedDict[_Key, Runs] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: _Key) -> Runs | None:
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        return None

    def put(self, key: _Key, runs: Runs) -> None:
        with self._lock:
            before = self._kept.pop(key, None)
            self._kept[key] = runs
            self._bytes += runs.nbytes - (before.nbytes if before else 0)
            while self._bytes > self._most_bytes and len(self._kept) > 1:
                self._bytes -= self._kept.popitem(last=False)[1].nbytes


_runs = _KeptRuns(MOST_BYTES)


class Record:
    """The weather of one place, ready to be asked."""

    def __init__(self, climate: Climate) -> None:
        self.climate = climate
        self.name = object()  # tells this record's answers from those of any other
        self._conditions: OrderedDict[_Key, Conditions] = OrderedDict()
        self._lock = threading.Lock()

    @cached_property
    def usual_weeks(self) -> UsualWeeks:
        """Spring and autumn of the place, from which usual weeks are counted."""
        return of_climate(self.climate)

    def conditions(self, covering: Covering | None = None, indoors_c: float | None = None) -> Conditions:
        """What plants feel there: in the open, under a cover, or indoors at one warmth [°C]."""
        key = (covering, indoors_c)
        with self._lock:
            if key in self._conditions:
                self._conditions.move_to_end(key)
                return self._conditions[key]
        found = Conditions(self.climate, covering, indoors_c=indoors_c)
        with self._lock:
            self._conditions[key] = found
            while len(self._conditions) > MOST_CONDITIONS:
                self._conditions.popitem(last=False)
        return found

    def runs(
        self,
        crop: Crop,
        method: Method,
        *,
        ready_by: ReadyBy,
        covering: Covering | None = None,
        indoors_c: float | None = None,
        quicker: float = 1.0,
        behind: Behind = NOTHING,
    ) -> Runs:
        """The crop started on any day of the record, from memory where it was asked before. Raises BadInput as `grow` does.

        What goes on from something `behind` it is asked for once, so that is not kept.
        """
        if behind is not NOTHING:
            conditions = self.conditions(covering, indoors_c)
            return grow(crop, method, conditions, ready_by=ready_by, quicker=quicker, behind=behind)
        key = (self.name, crop.digest, method, ready_by, covering, indoors_c, quicker)
        kept = _runs.get(key)
        if kept is None:
            conditions = self.conditions(covering, indoors_c)
            kept = grow(crop, method, conditions, ready_by=ready_by, quicker=quicker)
            _runs.put(key, kept)
        return kept
