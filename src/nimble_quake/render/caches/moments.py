"""An image at many moments at once: kept as 8 bits in a ring of frames, within a budget, while nothing changes.

A delay shows hundreds of moments of what lies beneath it in one frame, and nearly the same ones in the next.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable

import numpy as np
from numpy.typing import NDArray

from nimble_quake.kernels import kernel, prefetch
from nimble_quake.raster.threads.extremes import ends_of
from nimble_quake.raster.threads.rows import run_rows

BUDGET = 384 * 2**20
"""Bytes that all rings together may hold."""

Values = NDArray[np.float32]


@kernel(error_model="numpy")
def _packed(values, low, span, out, first, last):
    for j in range(first, last):
        for i in range(values.shape[1]):
            for k in range(values.shape[2]):
                v = (values[j, i, k] - low) / span
                out[j, i, k] = np.uint8(min(max(v, np.float32(0)), np.float32(1)) * np.float32(255) + np.float32(0.5))


@kernel()
def _marked(frames, base, asked, first, last):
    for j in range(first, last):
        for i in range(frames.shape[1]):
            asked[frames[j, i] - base] = True


AHEAD = 32
"""How many pixels later what is asked for early is read."""


@kernel(error_model="numpy", slp=True)
def _gathered(ring, slots, frames, base, low, span, now, exact, out, first, last):
    """All pixels from the ring, then those of this moment, which are not rounded, from where they are exact."""
    scale, channels, per_slot = span / np.float32(255), np.uint64(out.shape[2]), ring[0].size
    kept, wide, row_size = ring.reshape(-1), out.shape[1], out.shape[1] * out.shape[2]
    at = np.zeros(wide + AHEAD, np.int64)
    for j in range(first, last):
        row, moments = out[j].reshape(-1), frames[j]
        here = np.int32(0)
        for i in range(wide):
            at[i] = slots[moments[i] - base] * per_slot + j * row_size + i * out.shape[2]
            here = np.int32(here + (1 if moments[i] == now else 0))
        for i in range(wide):
            prefetch(kept, at[i + AHEAD])
            p, to = np.uint64(at[i]), np.uint64(i) * channels
            for k in range(channels):
                row[to + k] = np.float32(kept[p + k]) * scale + low
        if here:
            for i in range(wide):
                if moments[i] == now:
                    for k in range(out.shape[2]):
                        out[j, i, k] = exact[j, i, k]


class Ring:
    """Frames of one image on one grid, the oldest overwritten."""

    def __init__(self, shape: tuple[int, ...], count: int) -> None:
        self.frames = np.empty((count, *shape), np.uint8)
        self.slots: OrderedDict[int, int] = OrderedDict()
        self.lock = threading.Lock()

    @property
    def nbytes(self) -> int:
        """Bytes held."""
        return self.frames.nbytes

    def slot_for(self, frame: int, wanted: set[int]) -> int:
        """Return a free slot for a frame, or that of the one longest unused that is not wanted."""
        if len(self.slots) < len(self.frames):
            slot = len(self.slots)
        else:
            old = next(known for known in self.slots if known not in wanted)
            slot = self.slots.pop(old)
        self.slots[frame] = slot
        return slot


class Moments:
    """The rings of an engine, within one budget; the least lately used go first."""

    def __init__(self, budget: int = BUDGET) -> None:
        self.budget = budget
        self._rings: OrderedDict[Hashable, Ring] = OrderedDict()
        self._lock = threading.Lock()

    def most(self, samples: int, channels: int = 4) -> int:
        """Return how many moments of so many samples the budget holds."""
        return max(2, self.budget // max(1, samples * channels))

    def _ring(self, key: Hashable, shape: tuple[int, ...], count: int) -> Ring:
        with self._lock:
            ring = self._rings.pop(key, None)
            if ring is None or len(ring.frames) < count or ring.frames.shape[1:] != shape:
                ring = Ring(shape, count)
            self._rings[key] = ring
            while len(self._rings) > 1 and sum(r.nbytes for r in self._rings.values()) > self.budget:
                self._rings.popitem(last=False)
            return ring

    def shown(
        self,
        key: Hashable,
        frames: NDArray[np.int32],
        make: Callable[[int], Values],
        ends: tuple[float, float],
        now: tuple[int, Values],
    ) -> Values:
        """Return an image whose pixel at (j, i) is that of the moment `frames[j, i]`.

        make: the image at a frame, (H, W, C), asked only for frames that are not there yet. ends: the values that the
        8 bits span. now: the frame that is made and its image, which is not rounded to 8 bits.
        """
        base, most = ends_of(frames)
        asked = np.zeros(most - base + 1, np.bool_)
        run_rows(_marked, frames.shape[0], frames, base, asked)
        wanted = [int(n) + base for n in np.flatnonzero(asked)]
        low, span = np.float32(ends[0]), np.float32(ends[1] - ends[0])
        height, width, channels = now[1].shape
        shape = height, width, channels
        room = min(self.most(height * width, channels), len(wanted) * 5 // 4 + 8)
        ring = self._ring(key, shape, max(room, len(wanted)))
        with ring.lock:
            need = set(wanted)
            for frame in wanted:
                if frame in ring.slots:
                    ring.slots.move_to_end(frame)
                    continue
                values = now[1] if frame == now[0] else make(frame)
                slot = ring.slot_for(frame, need)
                run_rows(_packed, values.shape[0], values, low, span, ring.frames[slot])
            slots = np.zeros(wanted[-1] - base + 1, np.int64)
            for frame in wanted:
                slots[frame - base] = ring.slots[frame]
            out = np.empty(shape, np.float32)
            run_rows(_gathered, out.shape[0], ring.frames, slots, frames, base, low, span, *now, out)
        return out

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._rings.clear()
