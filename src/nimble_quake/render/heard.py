"""What is heard of a shot, and when: its recordings, and the clips' own sounds, which go along with their bars.

Over a crossing the sound of the plate that goes fades out and that of the plate that comes fades in, as loud throughout
(equal power: the squares of both weights add up to 1).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Seconds
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.media.pool import is_shot
from nimble_quake.media.sound import Recording
from nimble_quake.motion.motion import Motion
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.operators.registry import registry
from nimble_quake.render.values.resolving import resolved
from nimble_quake.shot.crossings import CROSSING, span_of
from nimble_quake.shot.groups import holders_of
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import plate_path
from nimble_quake.shot.spans import bar_of

Read = Callable[[str], Recording | None]
OF_A_CLIP = ("file", "trim", "speed", "beyond", "gain")
MOST_ROUNDS = 1000
"""A looping clip is heard no more often than this in its bar."""
IN_STEP = 5e-4
"""Seconds: nearer than this two sounds are one."""


@dataclass(frozen=True)
class Ramp:
    """How a clip's sound comes or goes over a part of the shot. begins, ends: seconds of the shot."""

    begins: Seconds
    ends: Seconds
    comes: bool
    crosses: bool = False
    """Another one goes or comes meanwhile: by equal power, and outside it is as it was."""

    def weights(self, at: NDArray[np.float64]) -> NDArray[np.float64]:
        """Return its weight at times of the shot; 1 outside."""
        gone = (at - self.begins) / (self.ends - self.begins)
        way = np.clip(gone if self.comes else 1 - gone, 0, 1)
        return np.where((gone >= 0) & (gone < 1), np.sin(way * (np.pi / 2)) if self.crosses else way, 1.0)


@dataclass(frozen=True)
class Placed:
    """A sound of the shot. begins, lasts, fades: seconds, on the shot's time; first: seconds into the recording."""

    id: str
    """Of a recording of the shot; a clip's own sound has its plate's path."""
    file: str
    begins: Seconds
    first: Seconds
    lasts: Seconds
    gain: float
    """A factor."""
    fade_in: Seconds = 0.0
    fade_out: Seconds = 0.0
    speed: float = 1.0
    """How much faster than it was recorded it runs; its pitch goes along."""
    ramps: tuple[Ramp, ...] = ()

    @property
    def changed(self) -> bool:
        """Whether it is anything but copied."""
        return self.gain != 1 or bool(self.fade_in or self.fade_out or self.ramps)

    def fractions(self, at: NDArray[np.float64]) -> NDArray[np.float32]:
        """Return how loud it is at times of the shot (seconds): its gain and fades, 0 where it is not heard."""
        gone, left = at - self.begins, self.begins + self.lasts - at
        fraction = np.where((gone >= 0) & (left > 0), self.gain, 0.0)
        if self.fade_in > 0:
            fraction *= np.clip(gone / self.fade_in, 0, 1)
        if self.fade_out > 0:
            fraction *= np.clip(left / self.fade_out, 0, 1)
        for ramp in self.ramps:
            fraction *= ramp.weights(at)
        return fraction.astype(np.float32)


def sound_files(shot: Shot) -> list[str]:
    """Return the files of all that is heard, each once."""
    files = [str(node.values.get("file") or "") for node in shot.sounds if node.on]
    files += [str(plate.values.get("file") or "") for plate in shot.plates if own_sound(plate)]
    return sorted(set(files) - {""})


def may_sound(plate: Plate) -> bool:
    """Return whether a plate shows what may have a sound of its own."""
    kind = registry().get("plate", plate.kind)
    return kind is not None and issubclass(kind, PlateKind) and kind.sounds


def own_sound(plate: Plate) -> bool:
    """Return whether a plate's own sound is heard, as far as it says itself."""
    return may_sound(plate) and plate.values.get("heard") is True


def placed(shot: Shot, read: Read) -> list[tuple[Placed, Recording]]:
    """Return the sounds that are heard, each with its recording. read: gives None for one that is not there."""
    clips = (each for plate in shot.plates for each in own_sounds(shot, plate, read))
    return [*_recordings(shot, read), *clips]


def _recordings(shot: Shot, read: Read) -> Iterator[tuple[Placed, Recording]]:
    for node in shot.sounds:
        kind = registry().get("sound", node.kind)
        if not node.on or kind is None or not kind.file_names:
            continue
        at = Moment(0, shot.rate, shot.length, shot.width, shot.height)
        try:
            n = resolved(kind, node, at, f"sounds/{node.id}").values
        except NimbleQuakeError:
            continue
        recording = read(str(n["file"])) if n["file"] else None
        if recording is None:
            continue
        most = max(0.0, recording.seconds - n["first"])
        lasts = min(n["lasts"], most) if n["lasts"] else most
        begins, gain = float(n["start"]) / float(shot.rate), _factor(n["gain"])
        yield Placed(node.id, n["file"], begins, n["first"], lasts, gain, n["fade_in"], n["fade_out"]), recording


def own_sounds(shot: Shot, plate: Plate, read: Read) -> Iterator[tuple[Placed, Recording]]:
    """Yield a clip's own sound, once for each round of it in its bar; nothing where it is not heard.

    One whose trim or speed moves, that stands or runs backwards, is silent.
    """
    kind = registry().get("plate", plate.kind)
    if kind is None or not own_sound(plate):
        return
    around = [plate, *holders_of(shot.plates, plate)]
    n = {name: kind.given(plate.values, name) for name in OF_A_CLIP}
    if not all(each.on for each in around) or any(isinstance(v, Motion) for v in n.values()) or n["speed"] <= 0:
        return
    file = str(n["file"] or "")
    recording = read(file) if file and not is_shot(file) else None  # of a shot within a shot only the picture is taken
    if recording is None:
        return
    ramps = (*_fades(shot, plate), *_cross_fades(shot, {each.id for each in around}, plate))
    room, path, gain = (recording.seconds - n["trim"]) / n["speed"], plate_path(plate.id), _factor(n["gain"])
    for at, lasts in _rounds(shot, plate, room, loops=n["beyond"] == "loop"):
        yield Placed(path, n["file"], at, n["trim"], lasts, gain, speed=n["speed"], ramps=ramps), recording


def _rounds(shot: Shot, plate: Plate, room: Seconds, *, loops: bool) -> Iterator[tuple[Seconds, Seconds]]:
    """When a clip is heard in its bar, and how long: again and again where it loops. room: how long its sound lasts."""
    at, ends = (edge / float(shot.rate) for edge in bar_of(plate, shot.length))
    for _ in range(MOST_ROUNDS if loops else 1):
        if room <= 0 or at >= ends:
            return
        yield at, min(room, ends - at)
        at += room


def _fades(shot: Shot, plate: Plate) -> Iterator[Ramp]:
    """A clip is heard as it is seen while its bar fades."""
    (start, end), (come, go), rate = bar_of(plate, shot.length), plate.fades, float(shot.rate)
    if come:
        yield Ramp(start / rate, (start + come) / rate, comes=True)
    if go:
        yield Ramp((end - go) / rate, end / rate, comes=False)


def _cross_fades(shot: Shot, ids: set[str], clip: Plate) -> Iterator[Ramp]:
    """The crossings that a clip, or a group it lies in, is a side of.

    Over one from a clip into the same sound going on, the weights themselves add up to 1: both are in step, and by
    equal power they would be 3 dB louder in the middle.
    """
    rate = float(shot.rate)
    for plate in shot.plates:
        if plate.kind == CROSSING and plate.on and plate.values.get("sound", "fade") == "fade":
            sides = (str(plate.values.get("before", "")), str(plate.values.get("after", "")))
            for side, other in (sides, sides[::-1]):
                if side in ids:
                    start, end = span_of(plate)
                    crosses = not _in_step(shot, clip, shot.plate(other))
                    yield Ramp(start / rate, end / rate, comes=side == sides[1], crosses=crosses)


def _in_step(shot: Shot, one: Plate, other: Plate | None) -> bool:
    """Whether two clips are the same one going on: at each moment both are heard at the same place of the same file."""
    if (
        other is None
        or not own_sound(other)
        or any(one.values.get(n) != other.values.get(n) for n in ("file", "speed"))
    ):
        return False
    trims = [plate.values.get("trim", 0.0) for plate in (one, other)]
    speed = one.values.get("speed", 1.0)
    if any(isinstance(value, Motion) for value in (*trims, speed)):
        return False
    later = ((other.start or 0) - (one.start or 0)) / float(shot.rate) * speed
    return bool(abs(trims[1] - trims[0] - later) < IN_STEP)


def _factor(decibels: float) -> float:
    return 10 ** (float(decibels) / 20)
