"""The sound of a shot: its recordings placed, trimmed, made louder, faded and added up."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.analysis.bands import HOP_RATE, band_power, hops
from nimble_quake.analysis.level_store import LevelStore
from nimble_quake.media.sound import STEREO, Recording, Recordings
from nimble_quake.render.heard import Placed, Read, placed, sound_files
from nimble_quake.shot.model import Shot

COMMON_RATE = 48_000
"""Samples a second where the sounds of a shot differ."""


def rate_of(sounds: list[tuple[Placed, Recording]]) -> int:
    """Return the samples a second a mix is made at: the sounds' own where they agree, so that nothing is resampled."""
    rates = {recording.rate for _, recording in sounds}
    return rates.pop() if len(rates) == 1 else COMMON_RATE


def mixed(sounds: list[tuple[Placed, Recording]], rate: int, first: int, count: int) -> NDArray[np.float32]:
    """Return `count` samples of the mix from sample `first` of the shot on, (count, 2), not clipped.

    A sound at its own rate, with gain 0 dB and no fades, is copied sample by sample.
    """
    out = np.zeros((count, STEREO), np.float32)
    for sound, recording in sounds:
        begins = round(sound.begins * rate)
        ends = begins + round(sound.lasts * rate)
        a, b = max(first, begins), min(first + count, ends)
        if b <= a:
            continue
        part = _samples(recording, rate / sound.speed, a - begins + round(sound.first * rate / sound.speed), b - a)
        if sound.changed:
            part = part * sound.fractions((np.arange(a, b) + 0.5) / rate)[:, None]
        out[a - first : b - first] += part
    return out


def _samples(recording: Recording, rate: float, first: int, count: int) -> NDArray[np.float32]:
    """Samples of a recording at a rate; drawn between neighbours where its own is another (cubic, Catmull-Rom)."""
    own = recording.samples
    if recording.rate == rate:
        found = own[max(0, first) : max(0, first + count)]
        return found if len(found) == count else np.pad(found, ((0, count - len(found)), (0, 0)))
    at = (np.arange(first, first + count) + 0.5) * (recording.rate / rate) - 0.5
    low = np.floor(at).astype(np.int64)
    t = (at - low).astype(np.float32)[:, None]
    p0, p1, p2, p3 = (own[np.clip(low + n, 0, len(own) - 1)] for n in (-1, 0, 1, 2))
    slope = (p2 - p0) * 0.5, (p3 - p1) * 0.5
    t2, t3 = t * t, t * t * t
    found = p1 * (2 * t3 - 3 * t2 + 1) + slope[0] * (t3 - 2 * t2 + t) + p2 * (3 * t2 - 2 * t3) + slope[1] * (t3 - t2)
    return np.asarray(found, np.float32)


class Levels:
    """How loud bands are over a shot. Levels of files are kept, so that a dragged edge costs one filter."""

    def __init__(self, recordings: Recordings) -> None:
        self.recordings, self.store = recordings, LevelStore()
        self._kept: dict[tuple[str, int, int, float, float], NDArray[np.float32]] = {}

    def of(self, shot: Shot, of: str, low: float, high: float, read: Read) -> NDArray[np.float32]:
        """Return the levels of a band over the shot, HOP_RATE a second; the loudest it ever gets is 1.

        of: the sound it listens to, empty for all.
        """
        count = int(shot.length / float(shot.rate) * HOP_RATE) + 2
        at, power = np.arange(count) / HOP_RATE, np.zeros(count)
        for sound, recording in placed(shot, read):
            if of and sound.id != of:
                continue
            own = self._of_file(sound.file, recording, low, high)
            where = ((at - sound.begins) * sound.speed + sound.first) * HOP_RATE
            values = np.interp(where, np.arange(len(own)), own, left=0.0, right=0.0)
            power += values * np.square(sound.fractions(at))
        levels = np.sqrt(2 * power)
        top = levels.max(initial=0.0)
        return (levels / top if top > FAINTEST else levels * 0).astype(np.float32)

    def _of_file(self, file: str, recording: Recording, low: float, high: float) -> NDArray[np.float32]:
        key = (*self.recordings.stamp(file), low, high)
        found = self._kept.get(key)
        if found is None:
            if len(self._kept) > MOST_KEPT:
                self._kept.clear()
            found = self.store.find(file, (low, high), hops(len(recording.samples), recording.rate))
            if found is None:
                found = band_power(recording.mono(), recording.rate, low, high)
            self._kept[key] = found
        return found

    def keep(self, shot: Shot) -> None:
        """Keep what was found of the sounds of a shot in files, beside it and in the cache."""
        for file in sound_files(shot):
            stamp = self.recordings.stamp(file)
            found = {key[-2:]: levels for key, levels in reversed(self._kept.items()) if key[:-2] == stamp}
            if found:
                self.store.keep(file, found)


FAINTEST = 1e-5
"""A band that never gets louder than this is silence (-100 dB)."""
MOST_KEPT = 64
