"""Sounds: whatever the bundled FFmpeg libraries decode, and the sound of clips, as samples."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass

import av
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Seconds
from nimble_quake.errors import LimitError, MediaError
from nimble_quake.files.plain import plain_file
from nimble_quake.media.clips import CONTAINERS as CLIPS
from nimble_quake.media.pool import as_it_is, file_stamp

SUFFIXES = (".wav", ".flac", ".mp3", ".m4a", ".aac", ".ogg", ".oga", ".opus", ".aif", ".aiff")
CONTAINERS = CLIPS | {"wav", "flac", "mp3", "aac", "ogg", "aiff"}
"""The readers we allow: none of them follows references to other files."""

MOST_SECONDS = 1800
MOST_KEPT = 256 * 2**20
"""Bytes of decoded sounds that are kept."""
STEREO = 2


@dataclass(frozen=True)
class Recording:
    """A decoded sound. samples: (n, 2) float32, -1...1; rate: samples a second, as it was recorded."""

    samples: NDArray[np.float32]
    rate: int

    @property
    def seconds(self) -> Seconds:
        """How long it lasts."""
        return len(self.samples) / self.rate

    def mono(self) -> NDArray[np.float32]:
        """Return both sides together, (n,)."""
        return self.samples.mean(axis=1, dtype=np.float32)


def read_sound(path: str) -> Recording:
    """Return a sound, decoded at its own rate. Raises MediaError, LimitError.

    What is damaged or ends early is read as far as it goes; one side is heard on both.
    """
    parts: list[NDArray[np.float32]] = []
    try:
        plain_file(path)
        with open(path, "rb") as file, av.open(file, "r") as container:
            if container.format.name not in CONTAINERS:
                raise MediaError("this kind of file is not read as sound", where=path, cure="save it as WAV or FLAC")
            if not container.streams.audio:
                raise MediaError("there is no sound in it", where=path, cure="choose another file")
            stream = container.streams.audio[0]
            rate = int(stream.rate or 0)
            if not 1000 <= rate <= 768_000 or not stream.channels:
                raise MediaError("its sound has no rate or no channels", where=path, cure="save it again as WAV")
            _decoded(container, stream, rate, parts, path)
    except FileNotFoundError as wrong:
        raise MediaError("the file is not there", where=path, cure="find it, or choose another") from wrong
    except (av.FFmpegError, OSError, ValueError, IndexError) as wrong:
        raise MediaError("cannot be read as sound", where=path, cure="save it again as WAV or FLAC") from wrong
    if not parts:
        raise MediaError("there is no sound in it", where=path, cure="choose another file")
    return Recording(np.ascontiguousarray(np.concatenate(parts)), rate)


def seconds_of(path: str) -> Seconds:
    """Return how long the sound of a file lasts, by its header where that says so. Raises MediaError, LimitError."""
    try:
        plain_file(path)
        with open(path, "rb") as file, av.open(file, "r") as container:
            stream = container.streams.audio[0] if container.streams.audio else None
            if container.format.name in CONTAINERS and stream is not None and stream.duration and stream.time_base:
                return float(stream.duration * stream.time_base)
    except (av.FFmpegError, OSError, ValueError, IndexError):
        pass  # said when it is read
    return read_sound(path).seconds


def _decoded(
    container: av.container.InputContainer,
    stream: av.AudioStream,
    rate: int,
    parts: list[NDArray[np.float32]],
    path: str,
) -> None:
    """Fill `parts` with what can be decoded."""
    resampler = av.AudioResampler(format="fltp", layout="stereo", rate=rate)
    count = 0
    try:
        for frame in container.decode(stream):
            frame.pts = None
            for piece in resampler.resample(frame):
                found = piece.to_ndarray().T.astype(np.float32)
                parts.append(np.nan_to_num(found, nan=0.0, posinf=1.0, neginf=-1.0))
                count += len(found)
            if count > MOST_SECONDS * rate:
                raise LimitError(f"it lasts over {MOST_SECONDS // 60} minutes", where=path, cure="cut it shorter")
        parts += [piece.to_ndarray().T.astype(np.float32) for piece in resampler.resample(None)]
    except av.FFmpegError:
        if not parts:
            raise


class Recordings:
    """Decoded sounds by path, the least lately used let go. May be asked from any thread. local: as for MediaPool."""

    def __init__(self, local: Callable[[str], str] = as_it_is) -> None:
        self._local = local
        self._kept: OrderedDict[tuple[str, int, int], Recording | MediaError | LimitError] = OrderedDict()
        self._lock = threading.RLock()

    def stamp(self, path: str) -> tuple[str, int, int]:
        """Return what tells one state of a file from another: path, time of change, size."""
        try:
            return path, *file_stamp(self._local(path))
        except MediaError:
            return path, 0, 0

    def known(self, path: str) -> Recording | None:
        """Return a sound that is decoded already; None where it is not, or cannot be."""
        found = self._kept.get(self.stamp(path))
        return found if isinstance(found, Recording) else None

    def failed(self, path: str) -> str:
        """Return what is wrong with a sound; empty where nothing is known to be."""
        found = self._kept.get(self.stamp(path))
        return found.line() if isinstance(found, MediaError | LimitError) else ""

    def read(self, path: str) -> Recording:
        """Return a sound, decoded now where it is not yet. Raises MediaError, LimitError."""
        key = self.stamp(path)
        with self._lock:
            found = self._kept.get(key)
            if found is None:
                try:
                    found = read_sound(self._local(path))
                except (MediaError, LimitError) as wrong:
                    found = wrong.anew()
                self._kept[key] = found
                self._let_go()
            else:
                self._kept.move_to_end(key)
        if not isinstance(found, Recording):
            raise found.anew()
        return found

    def _let_go(self) -> None:
        sizes = {k: v.samples.nbytes for k, v in self._kept.items() if isinstance(v, Recording)}
        while sum(sizes.values()) > MOST_KEPT and len(sizes) > 1:
            oldest = next(iter(sizes))
            del sizes[oldest], self._kept[oldest]
