"""The orders there are, in order, and what can be done with them. Any number of programs may look on and ask."""

from __future__ import annotations

import contextlib
import os
import secrets
import shutil
import subprocess
import sys
import time
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

import msgspec

from nimble_quake.errors import BadInput, SaveFailed
from nimble_quake.export.order import Order, is_folder, refuse_impossible, stamps_of
from nimble_quake.export.stored import Stored, is_placed, stored
from nimble_quake.farm.where import Where
from nimble_quake.files.unfinished import sweep
from nimble_quake.render.engine import Engine
from nimble_quake.session.queue.stored import FINISHED, RUNNING, WAITING, Status, Wish, put, take, wish_of
from nimble_quake.session.storage.locks import is_locked, take_lock
from nimble_quake.session.storage.preferences import folder
from nimble_quake.shotfile.files import cure_of

NEVER_CAME = 60.0
"""Seconds after which a folder without an order is none that is just being put in."""


@dataclass(frozen=True)
class Entry:
    """One order of the queue."""

    id: str
    folder: Path
    order: Stored
    status: Status
    wish: Wish
    running: bool
    """Whether it is being rendered now."""

    @property
    def parts(self) -> Path:
        """Where its parts are kept: beside the file, on the same disk."""
        file = self.order.file
        return file.parent / f".{file.stem.strip('#_')}-{self.id}.parts"

    @property
    def state(self) -> str:
        """What is shown: one of the states of `stored`, or "paused"."""
        if self.status.state in FINISHED and self.wish.again == self.status.answered:
            return self.status.state
        if self.running:
            return RUNNING
        return "paused" if self.wish.paused else WAITING

    @property
    def finished(self) -> bool:
        """Whether nothing more will be done."""
        return self.state in FINISHED


class Queue:
    """The queue in a folder."""

    def __init__(self, root: Path | None = None) -> None:
        self.root = folder("state") / "queue" if root is None else root
        self._orders: dict[str, Stored] = {}
        """Those that were read: an order never changes."""

    def entries(self) -> list[Entry]:
        """Return the orders, the first to be rendered first; what is damaged is passed over."""
        at_work, found = self.at_work(), []
        for place in self.root.glob("*/order.json"):
            order = self._orders.get(place.parent.name) or take(place, Stored)
            if order is None:
                continue
            self._orders[place.parent.name] = order
            status = take(place.with_name("status.json"), Status) or Status()
            wish = wish_of(place.parent) or Wish()
            if not wish.cancelled:
                running = at_work and status.state == RUNNING
                found.append(Entry(place.parent.name, place.parent, order, status, wish, running))
        return sorted(found, key=lambda entry: (entry.wish.rank, entry.id))

    def entry(self, id: str) -> Entry:
        """Return an order by its id. Raises BadInput."""
        found = next((entry for entry in self.entries() if entry.id == id), None)
        if found is None:
            raise BadInput(f'there is no order "{id}"', cure="nimble-quake queue lists them")
        return found

    def add(self, order: Order, engine: Engine, home: Path | None, where: Where | None = None) -> str:
        """Put an order at the end; returns its id. where: other machines that render it.

        Raises BadInput or SaveFailed.
        """
        order = replace(order, path=order.path.parent.resolve() / order.path.name)
        refuse_impossible(order)
        if not is_folder(order.path.parent):
            raise BadInput("its folder is not there", where=str(order.path), cure="make the folder first")
        entries = self.entries()
        if any(entry.order.file == order.path and not entry.finished for entry in entries):
            raise BadInput("an order for this file waits already", where=str(order.path), cure="choose another name")
        id = f"{time.time_ns():x}-{secrets.token_hex(2)}"
        rank = max([entry.wish.rank for entry in entries], default=0.0) + 1
        place = self.root / id
        try:
            place.mkdir(parents=True)
            put(place / "wish.json", Wish(rank))
            if where is not None:
                put(place / "machines.json", where)
            put(place / "order.json", stored(order, stamps_of(order.shot, engine), home))
        except (OSError, SaveFailed) as wrong:
            shutil.rmtree(place, ignore_errors=True)
            if isinstance(wrong, SaveFailed):
                raise
            why = f"cannot be kept: {wrong.strerror}"
            raise SaveFailed(why, where=str(self.root), cure=cure_of(wrong)) from wrong
        return id

    def _wish(self, entry: Entry, **values: float | bool) -> None:
        with contextlib.suppress(SaveFailed):  # who removed it meanwhile wished for more
            put(entry.folder / "wish.json", msgspec.structs.replace(entry.wish, **values))

    def pause(self, id: str, *, paused: bool = True) -> None:
        """Let an order wait, or go on."""
        self._wish(self.entry(id), paused=paused)

    def cancel(self, id: str) -> None:
        """Give an order up, with all that was kept of it; finished files stay."""
        self._wish(self.entry(id), cancelled=True)
        self.sweep()

    def again(self, id: str) -> None:
        """Render what is missing of an order that failed, or that has frames that failed."""
        entry = self.entry(id)
        self._wish(entry, again=entry.wish.again + 1, paused=False)

    def move(self, id: str, by: int) -> None:
        """Put an order so many places later."""
        entries = self.entries()
        at = next((n for n, entry in enumerate(entries) if entry.id == id), None)
        if at is None:
            return
        entries.insert(min(max(at + by, 0), len(entries) - 1), entries.pop(at))
        for rank, entry in enumerate(entries, 1):
            if entry.wish.rank != rank:
                self._wish(entry, rank=float(rank))

    @property
    def _mark(self) -> Path:
        return self.root / "paused"

    @property
    def paused(self) -> bool:
        """Whether the whole queue waits."""
        return self._mark.exists()

    def pause_all(self, *, paused: bool = True) -> None:
        """Let the whole queue wait, or go on."""
        with contextlib.suppress(OSError):
            if paused:
                self.root.mkdir(parents=True, exist_ok=True)
                self._mark.touch()
            else:
                self._mark.unlink(missing_ok=True)

    @contextlib.contextmanager
    def lock(self) -> Iterator[bool]:
        """Hold the right to render; gives False where another process has it."""
        self.root.mkdir(parents=True, exist_ok=True)
        handle = take_lock(self._lock)
        try:
            yield handle is not None
        finally:
            if handle is not None:
                os.close(handle)

    @property
    def _lock(self) -> Path:
        return self.root / "lock"

    def at_work(self) -> bool:
        """Return whether a process renders the queue now."""
        return is_locked(self._lock)

    def sweep(self) -> None:
        """Remove what was cancelled, unless it is being rendered: who renders it will."""
        if self.at_work():
            return
        with self.lock() as locked:
            if locked:
                self.remove_cancelled()

    def remove_cancelled(self) -> None:
        """Remove what was cancelled. Only for who holds the lock."""
        for place in self.root.glob("*/wish.json"):
            wish, order = take(place, Wish), take(place.with_name("order.json"), Stored)
            if wish is not None and wish.cancelled:
                if order is not None and is_placed(order.file):
                    entry = Entry(place.parent.name, place.parent, order, Status(), wish, False)
                    shutil.rmtree(entry.parts, ignore_errors=True)
                shutil.rmtree(place.parent, ignore_errors=True)

    def remove_leftovers(self) -> None:
        """Remove what killed programs left here: files that are half written, orders that never came to be."""
        for place in self.root.glob("*/"):
            sweep(place)
            if not (place / "order.json").exists() and time.time() - place.stat().st_mtime > NEVER_CAME:
                shutil.rmtree(place, ignore_errors=True)

    def next(self) -> Entry | None:
        """Return the order to render now."""
        if self.paused:
            return None
        return next((entry for entry in self.entries() if not entry.finished and not entry.wish.paused), None)

    def start(self) -> None:
        """Start a process that renders the queue, where there is something to render and none does."""
        if self.next() is None or self.at_work():
            return
        words = [sys.executable, "-m", "nimble_quake", "queue", "--run"]
        nowhere = subprocess.DEVNULL
        subprocess.Popen(words, stdin=nowhere, stdout=nowhere, stderr=nowhere, start_new_session=True)
