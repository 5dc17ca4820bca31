"""Beats: where a sound hits, how fast its beat is, and where it falls.

Onsets by half-wave rectified spectral flux of log magnitudes (Bello et al., 2005); tempo by the autocorrelation of the
onset strength; beats by dynamic programming between onsets and a steady tempo (Ellis, 2007).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Seconds

RATE = 200
"""Onset strengths a second."""
SIZE = 0.0232
"""Seconds of a window of the spectrum."""
SLOWEST, FASTEST = 50.0, 220.0
"""Beats a minute."""


@dataclass(frozen=True)
class Found:
    """What was found. beats, hits: seconds. tempo: beats a minute, 0 where there is none."""

    tempo: float
    beats: tuple[Seconds, ...]
    hits: tuple[Seconds, ...]


def strength(
    mono: NDArray[np.float32],
    rate: int,
    low: float = 0.0,
    high: float = 1e9,
    step: Callable[[float], bool] = lambda fraction: True,
) -> NDArray[np.float64]:
    """Return how strongly a sound begins anew, RATE times a second. low, high: Hz that count.

    step: is told the share that is done; answers whether to go on.
    """
    size = 1 << max(8, round(np.log2(rate * SIZE)))
    hop = rate / RATE
    count = max(1, int(len(mono) / hop) + 1)
    padded = np.pad(mono, (size // 2, size))
    window = np.hanning(size).astype(np.float32)
    bins = np.fft.rfftfreq(size, 1 / rate)
    counts = (bins >= low) & (bins <= high)
    if not counts.any():
        counts[np.argmin(np.abs(bins - low))] = True
    out, before = np.zeros(count), None
    for first in range(0, count, 512):
        starts = np.rint(np.arange(first, min(first + 512, count)) * hop).astype(np.int64)
        frames = padded[starts[:, None] + np.arange(size)] * window
        logs = np.log1p(1000 * np.abs(np.fft.rfft(frames, axis=1))[:, counts] / size)
        both = np.vstack([np.zeros_like(logs[:1]) if before is None else before, logs])
        out[first : first + len(starts)] = np.maximum(np.diff(both, axis=0), 0).sum(axis=1)
        before = logs[-1:]
        if not step(min(1.0, (first + 512) / count)):
            break
    return out


def hits(onsets: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the seconds of the hits: peaks well above what is usual about them."""
    if onsets.max(initial=0) <= 0:
        return np.zeros(0)
    from scipy.ndimage import maximum_filter1d, median_filter  # SciPy takes 0.3 s to load

    usual = median_filter(onsets, size=RATE // 5, mode="nearest")
    wide = median_filter(onsets, size=RATE, mode="nearest")
    floor = np.maximum(usual, wide) * 1.6 + 0.12 * onsets.max()
    peaks = (onsets == maximum_filter1d(onsets, size=RATE // 12)) & (onsets > floor)
    at = np.flatnonzero(peaks)
    return np.array([_fine(onsets, int(n)) for n in at]) / RATE


def _fine(onsets: NDArray[np.float64], n: int) -> float:
    """A peak between samples: the top of a parabola through three of them."""
    if not 0 < n < len(onsets) - 1:
        return float(n)
    a, b, c = onsets[n - 1 : n + 2]
    bend = a - 2 * b + c
    return float(n + (0.5 * (a - c) / bend if bend < 0 else 0.0))


def tempo_of(onsets: NDArray[np.float64]) -> float:
    """Return beats a minute; 0 where nothing repeats."""
    signal = onsets - onsets.mean()
    if len(signal) < RATE or np.abs(signal).max() <= 0:
        return 0.0
    size = 1 << int(np.ceil(np.log2(2 * len(signal))))
    power = np.abs(np.fft.rfft(signal, size)) ** 2
    again = np.fft.irfft(power)[: len(signal)]
    lags = np.arange(int(RATE * 60 / FASTEST), min(int(RATE * 60 / SLOWEST) + 1, len(signal) // 2))
    if len(lags) == 0:
        return 0.0
    peak = np.maximum(again, np.maximum(np.roll(again, 1), np.roll(again, -1)))
    scores = peak[lags] + 0.5 * peak[np.minimum(2 * lags, len(peak) - 1)]
    usual = np.exp(-0.5 * (np.log2(60 * RATE / lags / 120.0) / 0.9) ** 2)
    best = int(lags[np.argmax(scores * usual)])
    multiple = max(1, min(8, (len(again) - 2) // (best + 1)))
    near = np.arange(max(1, best * multiple - 2 * multiple), min(len(again) - 1, best * multiple + 2 * multiple + 1))
    lag = _fine(again, int(near[np.argmax(again[near])])) / multiple
    if scores.max() <= 0 or not SLOWEST / 2 <= 60.0 * RATE / max(lag, 1e-9) <= FASTEST * 2:
        return 0.0
    return 60.0 * RATE / lag


def beats_at(onsets: NDArray[np.float64], tempo: float) -> NDArray[np.float64]:
    """Return the seconds of beats of about this tempo that fall on onsets as well as they can."""
    period = RATE * 60 / tempo
    scale = onsets.std() or 1.0
    width = max(1, int(period / 32))
    kernel = np.exp(-0.5 * (np.arange(-width * 3, width * 3 + 1) / width) ** 2)
    local = np.convolve(onsets / scale, kernel, "same")
    score, back = local.copy(), np.full(len(local), -1, np.int64)
    steps = np.arange(-round(period * 2), -round(period / 2) + 1)
    cost = -100.0 * np.log(-steps / period) ** 2
    for n in range(len(local)):
        from_ = n + steps
        good = from_ >= 0
        if not good.any():
            continue
        reached = score[from_[good]] + cost[good]
        best = int(np.argmax(reached))
        if reached[best] > 0:
            score[n] += reached[best]
            back[n] = from_[good][best]
    tail = max(0, len(score) - round(period))
    at, found = tail + int(np.argmax(score[tail:])), []
    while at >= 0:
        found.append(at)
        at = int(back[at])
    return np.array(sorted(found)) / RATE


def _is_halved(onsets: NDArray[np.float64], beats: NDArray[np.float64], at: NDArray[np.float64], tempo: float) -> bool:
    """Whether between most beats there is a hit as strong as those on them: then the beat is twice as fast."""
    if tempo * 2 > FASTEST or len(beats) < 3:
        return False
    strong, between = np.median(onsets[np.rint(beats * RATE).astype(np.int64)]), 0
    for a, b in zip(beats, beats[1:], strict=False):
        inside = at[np.abs(at - (a + b) / 2) < 0.2 * (b - a)]
        peaks = [onsets[max(0, round(hit * RATE) - 3) : round(hit * RATE) + 4].max() for hit in inside]
        between += any(peak > 0.7 * strong for peak in peaks)
    return bool(between > 0.7 * (len(beats) - 1))


def found_in(
    mono: NDArray[np.float32],
    rate: int,
    low: float = 0.0,
    high: float = 1e9,
    step: Callable[[float], bool] = lambda fraction: True,
) -> Found:
    """Return tempo, beats and hits of a sound, or of a band of it; nothing of a silent one."""
    onsets = strength(mono, rate, low, high, step)
    at = hits(onsets)
    tempo = tempo_of(onsets) if len(at) >= 2 else 0.0
    if not tempo:
        return Found(0.0, (), tuple(at.tolist()))
    beats = beats_at(onsets, tempo)
    if _is_halved(onsets, beats, at, tempo):
        tempo *= 2
        beats = beats_at(onsets, tempo)
    beats = beats[(beats >= at[0] - 30 / tempo) & (beats <= at[-1] + 30 / tempo)]
    near = [float(at[np.argmin(np.abs(at - beat))]) for beat in beats]
    drawn = [hit if abs(hit - beat) < 0.07 else float(beat) for hit, beat in zip(near, beats, strict=True)]
    return Found(tempo, tuple(sorted(set(drawn))), tuple(at.tolist()))
