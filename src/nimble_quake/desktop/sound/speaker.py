"""Playing the shot's sound in step with the picture. A machine without a sound device plays silently."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from typing import Any

import numpy as np
from PyQt6.QtCore import QIODevice, QLoggingCategory

from nimble_quake.media.sound import Recording
from nimble_quake.render.heard import Placed
from nimble_quake.render.mixing import mixed, rate_of

AHEAD = 0.08
"""Seconds of sound that are handed to the device at a time: small, so that a jump is soon heard."""
SLIP = 0.02
"""Seconds the sound may be away from the picture before it is set right."""
BYTES = 4
"""Bytes of a stereo sample of 16 bits."""


class Mix(QIODevice):
    """The mix as the device asks for it: goes round in the loop, and is set right when it slips from the picture."""

    def __init__(
        self,
        sounds: list[tuple[Placed, Recording]],
        rate: float,
        span: tuple[int, int],
        start: int,
        clock: Callable[[], float],
    ) -> None:
        super().__init__()
        self.sample_rate = rate_of(sounds)
        self._sounds, self._clock = sounds, clock
        self._first, self._end = (round(frame / rate * self.sample_rate) for frame in span)
        self._start = round(start / rate * self.sample_rate)
        self._at = self._start
        self._sent = 0
        self.latency: Callable[[], float] = lambda: 0.0
        self.open(QIODevice.OpenModeFlag.ReadOnly)

    def wanted(self) -> int:
        """Return the sample that should be heard now."""
        length = max(1, self._end - self._first)
        return self._first + (self._start - self._first + round(self._clock() * self.sample_rate)) % length

    def readData(self, maxlen: int) -> bytes:
        count = maxlen // BYTES
        length = max(1, self._end - self._first)
        expected = self._first + (self.wanted() - self._first + round(self.latency() * self.sample_rate)) % length
        slip = (self._at - expected + length // 2) % length - length // 2
        if self._sent and abs(slip) > SLIP * self.sample_rate:
            self._at = expected
        parts, left = [], count
        while left > 0:
            part = min(left, self._end - self._at)
            if part <= 0:
                self._at = self._first
                continue
            parts.append(mixed(self._sounds, self.sample_rate, self._at, part))
            self._at += part
            left -= part
        self._sent += count
        whole = np.concatenate(parts) if parts else np.zeros((0, 2), np.float32)
        return (np.clip(whole, -1, 1) * 32767).astype("<i2").tobytes()

    def bytesAvailable(self) -> int:
        return 1 << 20

    def isSequential(self) -> bool:
        return True

    def writeData(self, data: object) -> int:
        return -1


class Speaker:
    """Plays a mix while the picture plays. Qt's sound library is loaded when it is first wanted."""

    def __init__(self) -> None:
        self.mix: Mix | None = None
        self._sink: Any = None

    def play(self, sounds: list[tuple[Placed, Recording]], rate: float, span: tuple[int, int], start: int) -> None:
        """Begin at a frame, going round in a span."""
        self.stop()
        if not sounds:
            return
        began = time.perf_counter()
        self.mix = Mix(sounds, rate, span, start, lambda: time.perf_counter() - began)
        self._sink = _sink(self.mix.sample_rate)
        if self._sink is None:
            return
        sink, size = self._sink, self._sink.bufferSize
        self.mix.latency = lambda: (size() - sink.bytesFree()) / BYTES / max(1, self.mix.sample_rate if self.mix else 1)
        sink.start(self.mix)

    def stop(self) -> None:
        """Be silent."""
        if self._sink is not None:
            self._sink.stop()
            self._sink.deleteLater()
            self._sink = None
        if self.mix is not None:
            self.mix.close()
            self.mix = None


def _sink(rate: int) -> Any:
    """A sound device's end that takes 16-bit stereo; None where there is none."""
    QLoggingCategory.setFilterRules("qt.multimedia.*=false")
    try:
        from PyQt6.QtMultimedia import QAudioFormat, QAudioSink, QMediaDevices  # it takes a third of a second to load
    except ImportError as wrong:
        logging.getLogger(__name__).info("no sound: %s", wrong)
        return None
    device = QMediaDevices.defaultAudioOutput()
    form = QAudioFormat()
    form.setSampleRate(rate)
    form.setChannelCount(2)
    form.setSampleFormat(QAudioFormat.SampleFormat.Int16)
    if device.isNull() or not device.isFormatSupported(form):
        return None
    sink = QAudioSink(device, form)
    sink.setBufferSize(int(AHEAD * rate) * BYTES)
    return sink
