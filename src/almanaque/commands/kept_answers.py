"""Answers kept in memory by everything they depend on."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

Answer = TypeVar("Answer")


class KeptAnswers(Generic[Answer]):
    """The answers asked for last, at most `size` of them; two that ask at once may both work them out."""

    def __init__(self, size: int) -> None:
        self._size = size
        self._kept: OrderedDict[Hashable, Answer] = OrderedDict()
        self._lock = threading.Lock()

    def of(self, key: Hashable, make: Callable[[], Answer]) -> Answer:
        """The answer kept under a key, or what `make` gives; `key` names all that it depends on."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        found = make()
        with self._lock:
            self._kept[key] = found
            self._kept.move_to_end(key)
            while len(self._kept) > self._size:
                self._kept.popitem(last=False)
        return found
