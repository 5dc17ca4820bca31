"""Makes the sample sound: eight seconds of drums over a hum, 120 beats a minute, and keeps it as FLAC.

python -m nimble_quake.samples.draw_sound
"""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

RATE, SECONDS, TEMPO = 44_100, 8.0, 120.0
FILE = Path(__file__).parent / "media" / "market-drums.flac"


def _at(out: NDArray[np.float64], seconds: float, sound: NDArray[np.float64]) -> None:
    first = round(seconds * RATE)
    part = sound[: max(0, len(out) - first)]
    out[first : first + len(part)] += part


def kick() -> NDArray[np.float64]:
    """A low drum: a tone that falls from 130 to 52 Hz and dies away."""
    t = np.arange(round(0.34 * RATE)) / RATE
    hertz = 52 + 78 * np.exp(-t * 28)
    return np.asarray(0.85 * np.sin(np.cumsum(hertz) / RATE * np.pi * 2) * np.exp(-t * 9))


def clap(rng: np.random.Generator) -> NDArray[np.float64]:
    """A burst of noise about 1.4 kHz."""
    t = np.arange(round(0.2 * RATE)) / RATE
    noise = rng.standard_normal(len(t))
    smooth = np.convolve(noise, np.ones(5) / 5, "same")
    return np.asarray(0.5 * (smooth - np.convolve(noise, np.ones(60) / 60, "same")) * np.exp(-t * 24))


def tick(rng: np.random.Generator) -> NDArray[np.float64]:
    """A short high hiss."""
    t = np.arange(round(0.06 * RATE)) / RATE
    return np.asarray(0.13 * np.diff(rng.standard_normal(len(t) + 1)) * np.exp(-t * 80))


def drums() -> NDArray[np.int16]:
    """Return the sound, (n, 2), the same at every call."""
    rng = np.random.default_rng(12)
    out = np.zeros(round(SECONDS * RATE))
    beat = 60 / TEMPO
    for number in range(round(SECONDS / beat)):
        _at(out, number * beat, kick() * (1.0 if number % 4 == 0 else 0.8))
        if number % 2:
            _at(out, number * beat, clap(rng))
        for half in (0.0, 0.5):
            _at(out, (number + half) * beat, tick(rng))
    t = np.arange(len(out)) / RATE
    swell = 0.5 - 0.5 * np.cos(t / SECONDS * np.pi * 4)
    hum = sum(np.sin(t * np.pi * 2 * hertz) / n for n, hertz in enumerate((220.0, 277.2, 329.6, 440.0), 1))
    out += 0.045 * hum * (0.3 + 0.7 * swell)
    wide = 0.02 * np.sin(t * np.pi * 2 * 660) * swell
    both = np.stack([out + wide, out - wide], axis=1)
    return np.asarray(np.rint(np.clip(both / np.abs(both).max() * 0.9, -1, 1) * 32767), np.int16)


def main() -> None:
    """Write the file."""
    samples = drums()
    with av.open(str(FILE), "w") as container:
        stream = container.add_stream("flac", rate=RATE, layout="stereo")
        stream.codec_context.format = "s16"
        for first in range(0, len(samples), 4096):
            part = np.ascontiguousarray(samples[first : first + 4096].reshape(1, -1))
            frame = av.AudioFrame.from_ndarray(part, format="s16", layout="stereo")
            frame.sample_rate, frame.pts = RATE, first
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))


if __name__ == "__main__":
    main()
