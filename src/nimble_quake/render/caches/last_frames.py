"""The last finished frames: where nothing moves from one frame to the next, the next one is the one before."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Hashable
from dataclasses import dataclass, field
from typing import Any

from nimble_quake.conventions import Picture

MOST = 2
"""Frames, as two are computed at a time while a shot plays."""
MOST_BYTES = 40 * 2**20
"""What is larger is not kept; a float picture of 1920 x 1080 takes 33 MB."""


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
        """Keep a frame in place of the oldest one."""
        if frame.picture.nbytes > MOST_BYTES:
            return
        with self._lock:
            self._kept.pop(key, None)
            self._kept[key] = frame
            while len(self._kept) > MOST:
                self._kept.popitem(last=False)
