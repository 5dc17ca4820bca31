"""Births over time: which of many numbered things live now and when each was born, where the rate may change."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Seconds

Numbers = NDArray[np.float64]


def step_for(span: Seconds, step: Seconds, most: int) -> Seconds:
    """Return a step, doubled until `most` of them are enough for any time so long; it does not hang on the frame."""
    while span / step > most - 2:
        step *= 2
    return step


def knots(first: Seconds, last: Seconds, step: Seconds) -> Numbers:
    """Return times that cover first...last, whole multiples of a step.

    They lie in the same places whatever the frame, so what is read off them for one birth never changes.
    """
    return np.arange(math.floor(first / step), math.ceil(last / step) + 1, dtype=np.float64) * np.float64(step)


def born(times: Numbers, counts: Numbers, first: Seconds, now: Seconds, most: int) -> tuple[NDArray[np.int64], Numbers]:
    """Return the numbers of those born from `first` to before `now`, the oldest first and at most so many, and when.

    counts: how many had been born at each of `times` (K,), which cover first...now; a rate below 0 counts as 0.
    """
    counts = np.maximum.accumulate(counts)
    low, high = np.interp([first, now], times, counts)
    newest = math.ceil(high - 1e-9) - 1
    oldest = max(math.ceil(low - 1e-9), newest - most + 1)
    numbers = np.arange(oldest, newest + 1, dtype=np.int64)
    after = np.searchsorted(counts, numbers, side="left").clip(1, len(times) - 1)
    before = after - 1
    gone = numbers - counts[before]
    span = np.maximum(counts[after] - counts[before], 1e-12)
    return numbers, times[before] + (times[after] - times[before]) * np.clip(gone / span, 0, 1)
