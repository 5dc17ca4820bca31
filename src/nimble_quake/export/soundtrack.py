"""The sound of a rendered clip: the shot's mix from its first frame to its last, encoded beside the picture."""

from __future__ import annotations

from fractions import Fraction
from typing import cast

import av
import numpy as np
from av.container import OutputContainer
from numpy.typing import NDArray

from nimble_quake.errors import NimbleQuakeError
from nimble_quake.media.sound import Recording
from nimble_quake.render.engine import Engine
from nimble_quake.render.heard import Placed, placed
from nimble_quake.render.job import Problem
from nimble_quake.render.mixing import COMMON_RATE, mixed, rate_of
from nimble_quake.shot.model import Shot

LAYOUT = "stereo"
BITS_A_SECOND = 256_000
FOR_EDITORS = 48_000
RATES = (44_100, FOR_EDITORS, 96_000)
"""Samples a second that are written."""
CHUNK = 4096
"""Samples handed to an encoder that takes any number."""
SAMPLE_FORMATS = {"flac": "s32", "aac": "fltp", "libopus": "flt", "pcm_s24le": "s32"}
ONLY_RATE = {"libopus": 48_000, "pcm_s24le": 48_000}
PLAIN = "pcm_s24le"
"""Samples as they are, at 48 kHz, as editors take them."""


class Soundtrack:
    """The mix of a shot over the frames first…last (included), encoded as it is asked for."""

    def __init__(
        self, sounds: list[tuple[Placed, Recording]], rate: Fraction, first: int, last: int, sample_rate: int = 0
    ) -> None:
        self._sounds, self._rate, self._frames = sounds, rate, (first, last + 1)
        self.sample_rate = sample_rate or rate_of(sounds)
        self._stream: av.AudioStream  # once it is added to a file
        self._at = self._begin = self._end = 0

    def add_to(self, container: OutputContainer, codec: str) -> None:
        """Add its stream to a file that is being written."""
        self.sample_rate = ONLY_RATE.get(codec, self.sample_rate)
        if self.sample_rate not in RATES:
            self.sample_rate = COMMON_RATE
        self._stream = cast(av.AudioStream, container.add_stream(codec, rate=self.sample_rate, layout=LAYOUT))
        context = self._stream.codec_context
        context.format = SAMPLE_FORMATS[codec]
        if codec == "flac":
            context.options = {"bits_per_raw_sample": "24"}
        elif codec != PLAIN:
            context.bit_rate = BITS_A_SECOND
        context.time_base = Fraction(1, self.sample_rate)
        self._begin, self._end = (round(frame / self._rate * self.sample_rate) for frame in self._frames)
        self._at = self._begin

    def write_until(self, container: OutputContainer, seconds: Fraction) -> None:
        """Encode the sound of the first so many seconds that were written."""
        until = min(self._end, round((self._frames[0] / self._rate + seconds) * self.sample_rate))
        size = self._stream.codec_context.frame_size or CHUNK
        while self._at + size <= until or (until == self._end and self._at < until):
            count = min(size, until - self._at)
            self._encode(container, mixed(self._sounds, self.sample_rate, self._at, count))

    def finish(self, container: OutputContainer) -> None:
        """Encode what is left."""
        self.write_until(container, (self._frames[1] - self._frames[0]) / self._rate)
        for packet in self._stream.encode(None):
            container.mux(packet)

    def _encode(self, container: OutputContainer, samples: NDArray[np.float32]) -> None:
        form = SAMPLE_FORMATS[self._stream.codec_context.name]
        frame = av.AudioFrame.from_ndarray(_as_format(samples, form), format=form, layout=LAYOUT)
        frame.sample_rate, frame.time_base = self.sample_rate, Fraction(1, self.sample_rate)
        frame.pts = self._at - self._begin
        self._at += len(samples)
        for packet in self._stream.encode(frame):
            container.mux(packet)


def _as_format(samples: NDArray[np.float32], form: str) -> np.ndarray:
    """Samples as an encoder takes them, held to full scale."""
    clipped = np.clip(samples, -1.0, 1.0)
    if form == "fltp":
        return np.ascontiguousarray(clipped.T)
    if form == "flt":
        return np.ascontiguousarray(clipped.reshape(1, -1))
    whole = np.clip(np.rint(clipped.astype(np.float64) * 2**23), -(2**23), 2**23 - 1).astype(np.int32) << 8
    return np.ascontiguousarray(whole.reshape(1, -1))


def soundtrack_of(
    engine: Engine, shot: Shot, first: int, last: int, sample_rate: int = 0
) -> tuple[Soundtrack | None, list[Problem]]:
    """Return the sound of a range of a shot, None where it has none, and what cannot be heard.

    sample_rate: a second; 0: as it was recorded.
    """
    problems: list[Problem] = []

    def read(file: str) -> Recording | None:
        try:
            return engine.recordings.read(file)
        except NimbleQuakeError as wrong:
            problems.append(Problem("sounds", wrong.line()))
            return None

    sounds = placed(shot, read)
    return (Soundtrack(sounds, shot.rate, first, last, sample_rate) if sounds else None), problems
