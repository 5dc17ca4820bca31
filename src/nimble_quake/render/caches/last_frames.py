"""The last finished frames: where nothing moves from one frame to the next, the next one is the one before."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Hashable
from dataclasses import dataclass, field
from typing import Any

from nimble_quake.conventions import Picture

MOST = 4
"""Frames: two are computed at a time while a shot plays, and small ones beside them tell whether a finish is seen."""
MOST_BYTES = 80 * 2**20
"""What all of them take; a float picture of 1920 x 1080 takes 33 MB. What takes more than half of it is not kept."""


@dataclass
class Finished:
    """A frame's picture, read-only, and each plate's layer by id, where those were asked for."""

    picture: Picture
    layers: dict[str, Any] | None = None


@dataclass
class LastFrames:
    """Thread-safe; holds the last few frames under what they depend on."""

    _kept: OrderedDict[Hashable, Finished] = field(default_factory=OrderedDict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def get(self, key: Hashable, *, layers: bool) -> Finished | None:
        """Return a frame, with its layers where they are wanted; None where it is not kept so."""
        with self._lock:
            found = self._kept.get(key)
        return None if found is None or (layers and found.layers is None) else found

    def clear(self) -> None:
        """Forget all."""
        with self._lock:
            self._kept.clear()

    def put(self, key: Hashable, frame: Finished) -> None:
        """Keep a frame in place of the oldest ones."""
        if frame.picture.nbytes > MOST_BYTES // 2:
            return
        with self._lock:
            self._kept.pop(key, None)
            self._kept[key] = frame
            while len(self._kept) > MOST or sum(each.picture.nbytes for each in self._kept.values()) > MOST_BYTES:
                self._kept.popitem(last=False)
