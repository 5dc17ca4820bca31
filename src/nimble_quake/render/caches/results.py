"""Results remembered under what they depend on, within a byte budget; the least lately used go first."""

from __future__ import annotations

import threading
from collections import Counter, OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, NamedTuple, TypeVar, cast

import numpy as np

T = TypeVar("T")

MOST_ASKED = 4096
"""So many results that were made are known by the hashes of their keys, to keep them when they are made once more."""
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


class _Item(NamedTuple):
    """A result and the memory it takes."""

    made: Any
    owners: tuple[tuple[int, int], ...]

    @property
    def nbytes(self) -> int:
        return sum(size for _, size in self.owners)


def _owner(part: object) -> tuple[int, int]:
    """What memory a result takes: a name of it, the same for all views into it, and how many bytes that is."""
    if isinstance(part, np.ndarray):
        while isinstance(part.base, np.ndarray):
            part = part.base
        return id(part), part.nbytes
    return id(part), part.nbytes if isinstance(part, Weighed) else 256


class ResultCache:
    """A thread-safe cache of arrays (or of anything with `nbytes`). What it hands out must not be written to.

    What had to be made a second time lasts: it goes after all that was asked for once only. So what stands still is not
    driven out, in every frame, by what moves. An array that several results share, or are parts of, is counted once.
    """

    def __init__(self, budget: int = DEFAULT_BUDGET) -> None:
        self.budget = budget
        self.hits = self.misses = 0
        self._used = self._largest = 0
        self._items: OrderedDict[Hashable, _Item] = OrderedDict()
        self._lasting: OrderedDict[Hashable, _Item] = OrderedDict()
        self._asked: OrderedDict[int, None] = OrderedDict()
        self._owners: Counter[int] = Counter()
        self._lock = threading.Lock()

    @property
    def nbytes(self) -> int:
        """Bytes held now."""
        return self._used

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """Return the remembered result, or make and remember it."""
        return self._get(key, make, True)

    def get_again(self, key: Hashable, make: Callable[[], T]) -> T:
        """As `get`, but remember only what was asked for before: large pictures that move are not asked for again."""
        return self._get(key, make, False)

    def _get(self, key: Hashable, make: Callable[[], T], at_once: bool) -> T:
        with self._lock:
            items = self._items if key in self._items else self._lasting
            found = items.get(key)
            if found is not None:
                items.move_to_end(key)
                self.hits += 1
                return cast(T, found.made)
            self.misses += 1
            name = hash(key)  # the key itself would keep shots alive
            again = name in self._asked
            self._asked[name] = None
            self._asked.move_to_end(name)
            while len(self._asked) > MOST_ASKED:
                self._asked.popitem(last=False)
        made = make()
        if again or at_once:
            self.put(key, made, lasts=again)
        return made

    def put(self, key: Hashable, made: object, *, lasts: bool = False) -> None:
        """Remember a result; others go until all fit the budget, or a few of the largest there is.

        lasts: it goes after those that do not; of these there is never more than fits half the budget.
        """
        item = _Item(made, tuple(_owner(part) for part in (made if isinstance(made, tuple) else (made,))))
        with self._lock:
            for items in (self._items, self._lasting):
                old = items.pop(key, None)
                if old is not None:
                    self._forget(old)
            self._take(item)
            (self._lasting if lasts else self._items)[key] = item
            self._largest = max(self._largest, item.nbytes)
            half = max(self.budget, LARGE * self._largest) // 2
            while len(self._lasting) > 1 and sum(each.nbytes for each in self._lasting.values()) > half:
                oldest, kept = self._lasting.popitem(last=False)
                self._items[oldest] = kept
            while self._used > max(self.budget, LARGE * self._largest):
                gone = (self._items or self._lasting).popitem(last=False)[1]
                self._forget(gone)
                if gone.nbytes == self._largest:
                    left = (*self._items.values(), *self._lasting.values())
                    self._largest = max((each.nbytes for each in left), default=0)

    def _take(self, item: _Item) -> None:
        for owner, size in item.owners:
            self._used += 0 if self._owners[owner] else size
            self._owners[owner] += 1

    def _forget(self, item: _Item) -> None:
        for owner, size in item.owners:
            self._owners[owner] -= 1
            if not self._owners[owner]:
                del self._owners[owner]
                self._used -= size

    def stored(self) -> list[Hashable]:
        """Return the keys of what is remembered, the first to go first."""
        with self._lock:
            return [*self._items, *self._lasting]

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            for kept in (self._items, self._lasting, self._asked, self._owners):
                kept.clear()
            self._used = self._largest = 0
