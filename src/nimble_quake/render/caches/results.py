"""Results remembered under what they depend on, within a byte budget; the least lately used go first."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, TypeVar, cast

import numpy as np

T = TypeVar("T")

MOST_ASKED = 512
"""So many keys of results that were not kept are known, to keep them the next time."""
DEFAULT_BUDGET = 64 * 2**20
"""Bytes; two 1280x720 float pictures take 30 MB. More of them are seldom asked for again: those that move are not."""


LARGE = 3
"""Room for so many of the largest result, where they are larger than the budget: a frame asks for one several times."""


class Same:
    """A key that is equal only for the very same object, and keeps it alive so that its id stays its own."""

    __slots__ = ("thing",)

    def __init__(self, thing: object) -> None:
        self.thing = thing

    def __hash__(self) -> int:
        return id(self.thing)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Same) and other.thing is self.thing


class Tokens:
    """Short names for long keys, so that a key may hold others without being as long as all of them.

    What is forgotten gets another name later: then something is computed once more, no more than that.
    """

    def __init__(self, most: int = 4096) -> None:
        self._most, self._next = most, 0
        self._known: OrderedDict[Hashable, int] = OrderedDict()
        self._lock = threading.Lock()

    def of(self, key: Hashable) -> int:
        """Return the name of a key, the same for equal keys."""
        with self._lock:
            found = self._known.get(key)
            if found is None:
                self._next += 1
                found = self._known[key] = self._next
                if len(self._known) > self._most:
                    self._known.popitem(last=False)
            else:
                self._known.move_to_end(key)
            return found


class Weighed:
    """A result that is no array, and says how much memory it takes."""

    nbytes: int


class ResultCache:
    """A thread-safe cache of arrays (or of anything with `nbytes`). What it hands out must not be written to."""

    def __init__(self, budget: int = DEFAULT_BUDGET) -> None:
        self.budget = budget
        self.hits = self.misses = 0
        self._used = self._largest = 0
        self._items: OrderedDict[Hashable, tuple[Any, int]] = OrderedDict()
        self._asked: OrderedDict[Hashable, None] = OrderedDict()
        self._lock = threading.Lock()

    @property
    def nbytes(self) -> int:
        """Bytes held now."""
        return self._used

    def _found(self, key: Hashable) -> tuple[Any, int] | None:
        """An item, counted as used; the lock is held."""
        found = self._items.get(key)
        if found is None:
            self.misses += 1
            return None
        self._items.move_to_end(key)
        self.hits += 1
        return found

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """Return the remembered result, or make and remember it."""
        with self._lock:
            found = self._found(key)
            if found is not None:
                return cast(T, found[0])
        made = make()
        self.put(key, made)
        return made

    def get_again(self, key: Hashable, make: Callable[[], T]) -> T:
        """As `get`, but remember only what was asked for before: large pictures that move are not asked for again."""
        with self._lock:
            found = self._found(key)
            if found is not None:
                return cast(T, found[0])
            again = key in self._asked
            self._asked[key] = None
            while len(self._asked) > MOST_ASKED:
                self._asked.popitem(last=False)
        made = make()
        if again:
            self.put(key, made)
        return made

    def put(self, key: Hashable, made: object) -> None:
        """Remember a result; others go until all fit the budget, or a few of the largest there is."""
        parts = made if isinstance(made, tuple) else (made,)
        size = sum(part.nbytes if isinstance(part, np.ndarray | Weighed) else 256 for part in parts)
        with self._lock:
            old = self._items.pop(key, None)
            self._used += size - (old[1] if old else 0)
            self._items[key] = (made, size)
            self._largest = max(self._largest, size)
            while self._used > max(self.budget, LARGE * self._largest):
                gone = self._items.popitem(last=False)[1][1]
                self._used -= gone
                if gone == self._largest:
                    self._largest = max((taken for _, taken in self._items.values()), default=0)

    def stored(self) -> list[Hashable]:
        """Return the keys of what is remembered, the oldest first."""
        with self._lock:
            return list(self._items)

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._items.clear()
            self._asked.clear()
            self._used = self._largest = 0
