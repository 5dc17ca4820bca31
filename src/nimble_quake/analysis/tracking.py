"""Following feature points through a clip.

Corners are picked by the smaller eigenvalue of the local gradients (Shi & Tomasi, 1994) and followed from frame to
frame by pyramidal Lucas-Kanade (Bouguet, 2000). Each step is checked by following it back again (forward-backward
error, Kalal et al., 2010), then put right against the patch where the point was first seen, so that small errors do
not add up. Where points are lost, new ones are picked.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Pixels

Grey = NDArray[np.uint8]

MOST_POINTS = 4000
"""Points that are followed at once, at most."""
MOST_TRACKS = 20_000
LONGEST_SIDE = 1280
"""Larger clips are looked at this large: finer detail is noise to a tracker."""
OUT_AND_BACK: Pixels = 0.7
"""A point that does not come back to within so many pixels is lost."""
DRIFTED: Pixels = 3.0
"""Where the first patch is found farther off than this, it is not the same thing any more: a new one is taken."""
ANCHORED = 40
"""Frames after which a point's first patch is taken anew: things turn and change."""


@dataclass(frozen=True)
class Settings:
    """How points are picked and followed. spacing: least distance between two, pixels of the clip."""

    count: int = 400
    spacing: Pixels = 14.0
    thorough: bool = False


@dataclass(frozen=True)
class Tracks:
    """Points of a clip: `places` (frames, points, 2) in pixels of the clip, NaN where a point is not seen.

    errors: (points,) the mean error out and back, pixels. thrown: (points,) those that were thrown out by hand.
    """

    size: tuple[int, int]
    places: NDArray[np.float32]
    errors: NDArray[np.float32]
    thrown: NDArray[np.bool_]

    @property
    def seen(self) -> NDArray[np.int64]:
        """In how many frames each point is seen."""
        return np.asarray(np.isfinite(self.places[..., 0]).sum(axis=0))

    def at(self, frame: int) -> NDArray[np.int64]:
        """Return the numbers of the points that are seen in a frame and were not thrown out."""
        frame = min(max(frame, 0), len(self.places) - 1)
        return np.flatnonzero(np.isfinite(self.places[frame, :, 0]) & ~self.thrown)


def track(frames: Iterable[Grey], scale: float, settings: Settings) -> Tracks:
    """Follow points through frames (H, W) uint8. scale: pixels of the clip for one of the frames'."""
    follower = _Follower(settings, scale)
    size = (0, 0)
    for grey in frames:
        size = (round(grey.shape[1] * scale), round(grey.shape[0] * scale))
        follower.step(grey)
    return follower.tracks(size)


class _Follower:
    """The points being followed now, and all that were."""

    def __init__(self, settings: Settings, scale: float) -> None:
        self.settings, self.scale = settings, scale
        side = 31 if settings.thorough else 21
        self.flow: dict[str, Any] = {
            "winSize": (side, side),
            "maxLevel": 4 if settings.thorough else 3,
            "criteria": (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 60 if settings.thorough else 30, 0.003),
            "minEigThreshold": 1e-4,
        }
        self.most = min(settings.count * (2 if settings.thorough else 1), MOST_POINTS)
        self.ids = np.zeros(0, np.int64)
        self.places = np.zeros((0, 2), np.float32)
        self.anchors: list[tuple[Grey, int]] = []
        self.anchor_of = np.zeros(0, np.int64)
        self.anchor_places = np.zeros((0, 2), np.float32)
        self.rows: list[tuple[NDArray[np.int64], NDArray[np.float32]]] = []
        self.errors: list[float] = []
        self.counts: list[int] = []
        self.before: Grey | None = None
        self.number = 0

    def step(self, grey: Grey) -> None:
        """Follow all points into the next frame, and pick new ones where there are too few."""
        if self.before is not None and len(self.ids):
            self._follow(self.before, grey)
        if self.number == 0 or len(self.ids) < 0.85 * self.most:
            self._pick(grey)
        self.rows.append((self.ids.copy(), self.places.copy()))
        self.before, self.number = grey, self.number + 1

    def _looked_up(
        self, first: Grey, then: Grey, places: NDArray[np.float32], guess: NDArray[np.float32] | None = None
    ) -> tuple[NDArray[np.float32], NDArray[np.bool_]]:
        flags = 0 if guess is None else cv2.OPTFLOW_USE_INITIAL_FLOW
        start = (places if guess is None else guess).reshape(-1, 1, 2).copy()
        got: Any = cv2.calcOpticalFlowPyrLK(first, then, places.reshape(-1, 1, 2), start, flags=flags, **self.flow)
        return np.asarray(got[0], np.float32).reshape(-1, 2), np.asarray(got[1], bool).reshape(-1)

    def _follow(self, before: Grey, grey: Grey) -> None:
        on, good = self._looked_up(before, grey, self.places)
        back, again = self._looked_up(grey, before, on)
        error = np.hypot(*(back - self.places).T)
        height, width = grey.shape
        inside = (on[:, 0] >= 1) & (on[:, 1] >= 1) & (on[:, 0] < width - 2) & (on[:, 1] < height - 2)
        kept = good & again & inside & (error < OUT_AND_BACK)
        for id, miss in zip(self.ids[kept], error[kept], strict=True):
            self.errors[id] += float(miss)
            self.counts[id] += 1
        self._keep(kept)
        self.places = on[kept]
        self._put_right(grey)

    def _keep(self, kept: NDArray[np.bool_]) -> None:
        self.ids, self.places = self.ids[kept], self.places[kept]
        self.anchor_of, self.anchor_places = self.anchor_of[kept], self.anchor_places[kept]

    def _put_right(self, grey: Grey) -> None:
        """Look each point's first patch up near where it was followed to."""
        fresh = np.zeros(len(self.ids), bool)
        for number in np.unique(self.anchor_of):
            first, born = self.anchors[number]
            own = self.anchor_of == number
            if self.number - born > ANCHORED:
                fresh |= own
                continue
            found, good = self._looked_up(first, grey, self.anchor_places[own], self.places[own])
            near = good & (np.hypot(*(found - self.places[own]).T) < DRIFTED)
            places = self.places[own]
            places[near] = found[near]
            self.places[own] = places
            fresh[np.flatnonzero(own)[~near]] = True
        self._anchor(grey, fresh)

    def _anchor(self, grey: Grey, which: NDArray[np.bool_]) -> None:
        if which.any():
            self.anchors.append((grey, self.number))
            self.anchor_of[which] = len(self.anchors) - 1
            self.anchor_places[which] = self.places[which]
        used = set(self.anchor_of.tolist())
        self.anchors = [(grey if n in used else grey[:1, :1], born) for n, (grey, born) in enumerate(self.anchors)]

    def _pick(self, grey: Grey) -> None:
        free = np.full(grey.shape, 255, np.uint8)
        apart = max(2, round(self.settings.spacing / self.scale))
        for x, y in np.rint(self.places).astype(int):
            cv2.circle(free, (int(x), int(y)), apart, 0, -1)
        room = min(self.most - len(self.ids), MOST_TRACKS - len(self.errors))
        if room <= 0:
            return
        quality = 0.002 if self.settings.thorough else 0.01
        found = cv2.goodFeaturesToTrack(grey, room, quality, apart, mask=free, blockSize=5)
        if found is None:
            return
        new = cv2.cornerSubPix(grey, found, (3, 3), (-1, -1), (cv2.TERM_CRITERIA_COUNT, 10, 0.01)).reshape(-1, 2)
        ids = np.arange(len(self.errors), len(self.errors) + len(new))
        self.errors += [0.0] * len(new)
        self.counts += [0] * len(new)
        self.ids, self.places = np.concatenate([self.ids, ids]), np.concatenate([self.places, new])
        self.anchor_of = np.concatenate([self.anchor_of, np.full(len(new), -1)])
        self.anchor_places = np.concatenate([self.anchor_places, new])
        self._anchor(grey, self.anchor_of < 0)

    def tracks(self, size: tuple[int, int]) -> Tracks:
        """Return all points; those that were seen in fewer than three frames are no use and left out."""
        places = np.full((len(self.rows), len(self.errors), 2), np.nan, np.float32)
        for frame, (ids, found) in enumerate(self.rows):
            places[frame, ids] = (found + np.float32(0.5)) * np.float32(self.scale)
        lasting = np.isfinite(places[..., 0]).sum(axis=0) >= min(3, len(self.rows))
        errors = np.array(self.errors, np.float32) / np.maximum(np.array(self.counts, np.float32), 1)
        return Tracks(
            size,
            np.ascontiguousarray(places[:, lasting]),
            errors[lasting] * np.float32(self.scale),
            np.zeros(int(lasting.sum()), bool),
        )


def greys(read: Callable[[int], NDArray[np.float32]], count: int) -> Iterator[Grey]:
    """Return frames as 8-bit brightness; `read` gives the premultiplied picture of a frame."""
    for number in range(count):
        picture = read(number)
        grey = picture[..., :3] @ np.array((0.2126, 0.7152, 0.0722), np.float32)
        yield np.clip(np.rint(grey * 255), 0, 255).astype(np.uint8)
