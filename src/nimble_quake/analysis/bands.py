"""How loud a band of frequencies is over time, and what a sound is made of at a moment."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Seconds
from nimble_quake.kernels import kernel

HOP_RATE = 200
"""Levels a second."""
ORDER = 4
WINDOW = 0.02
"""Seconds that a level is taken over."""
LOWEST, HIGHEST = 1.0, 24_000.0


def band_power(mono: NDArray[np.float32], rate: int, low: float, high: float) -> NDArray[np.float32]:
    """Return the mean square of a band, HOP_RATE times a second: (n,). A full sine of its middle gives 0.5.

    mono: (samples,). low, high: Hz, given in any order. The filter is a Butterworth band-pass run to and fro (here by
    its response, at once), so nothing is late; its edges lie where the level is down by 6 dB.
    """
    from scipy import fft  # SciPy takes 0.3 s to load

    low, high = sorted((max(low, LOWEST), max(high, LOWEST)))
    high = max(high, low * 1.02)
    size = fft.next_fast_len(len(mono) + rate, real=True)  # a second of silence, so that its end is not its beginning
    waves = fft.rfft(mono, size)
    own = min(rate, max(2 * HOP_RATE, math.ceil(high * 4)))  # low bands need few samples
    short = fft.next_fast_len(max(64, math.ceil(size * own / rate)), real=True)
    count = min(len(waves), short // 2 + 1)
    hertz: NDArray[np.float64] = np.arange(count, dtype=np.float64) * float(rate / size)
    part = waves[:count] * butterworth(hertz, low, high).astype(np.float32)
    found = fft.irfft(part, short) * (short / size)
    return _means(np.square(found.astype(np.float64)), rate * short / size, hops(len(mono), rate))


def butterworth(hertz: NDArray[np.float64], low: float, high: float) -> NDArray[np.float64]:
    """Return what a Butterworth band-pass of this ORDER leaves of each frequency when it is run to and fro, 0...1."""
    middle = low * high
    with np.errstate(divide="ignore", over="ignore"):
        off = (hertz * hertz - middle) / (hertz * (high - low))
        return np.asarray(1 / (1 + off ** (2 * ORDER)))


def hops(samples: int, rate: int) -> int:
    """Return how many levels a sound of so many samples has."""
    return max(1, math.ceil(samples / rate * HOP_RATE))


def _means(square: NDArray[np.float64], rate: float, count: int) -> NDArray[np.float32]:
    """The mean over a window about each level's own time."""
    total = np.concatenate([[0.0], np.cumsum(square)])
    middle = np.arange(count) / HOP_RATE * rate
    first = np.clip(np.floor(middle - WINDOW / 2 * rate), 0, len(square) - 1).astype(np.int64)
    last = np.clip(np.ceil(middle + WINDOW / 2 * rate), 1, len(square)).astype(np.int64)
    last = np.maximum(last, first + 1)
    found: NDArray[np.float32] = np.maximum((total[last] - total[first]) / (last - first), 0).astype(np.float32)
    return found


@kernel()
def _followed(levels, rise, fall, out):
    here = 0.0
    for n in range(len(levels)):
        fraction = rise if levels[n] > here else fall
        here += (levels[n] - here) * fraction
        out[n] = here


def followed(levels: NDArray[np.float32], attack: float, release: float) -> NDArray[np.float32]:
    """Return levels as a needle shows them that takes time to rise and to fall (milliseconds to 63 %)."""
    if attack <= 0 and release <= 0:
        return levels
    rise, fall = (1 - math.exp(-1000 / HOP_RATE / time) if time > 0 else 1.0 for time in (attack, release))
    out = np.empty_like(levels)
    _followed(levels, rise, fall, out)
    return out


def spectrum(mono: NDArray[np.float32], rate: int, seconds: Seconds, edges: NDArray[np.float64]) -> NDArray[np.float32]:
    """Return the amplitude between each two of the `edges` (Hz) about a moment: (len(edges) - 1,), a full sine is 1."""
    size = 1 << max(10, round(math.log2(rate * 0.085)))
    first = int(seconds * rate) - size // 2
    part = np.zeros(size, np.float32)
    a, b = max(0, first), min(len(mono), first + size)
    if b > a:
        part[a - first : b - first] = mono[a:b]
    window = np.hanning(size)
    power = np.square(np.abs(np.fft.rfft(part * window)) * 2 / window.sum()) / 1.5
    total = np.concatenate([[0.0], np.cumsum(power)])
    at = np.clip(edges / (rate / size), 0, len(power))
    low = np.interp(at, np.arange(len(total)), total)
    found: NDArray[np.float32] = np.sqrt(np.maximum(np.diff(low), 0)).astype(np.float32)
    return found
