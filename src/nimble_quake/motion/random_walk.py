"""Random numbers that depend on a number alone: the same at every look, on every machine."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Numeric


def random_of(n: float) -> float:
    """A number 0...1 that depends on n alone (splitmix64 of its nearest 1/1024)."""
    x = (int(round(n * 1024)) + 0x9E3779B97F4A7C15) & (2**64 - 1)
    x = ((x ^ (x >> 30)) * 0xBF58476D1CE4E5B9) & (2**64 - 1)
    x = ((x ^ (x >> 27)) * 0x94D049BB133111EB) & (2**64 - 1)
    return ((x ^ (x >> 31)) >> 11) / 2**53


def wander(n: float, period: int = 0, first: float = 0.0) -> float:
    """A smooth random walk, -1...1, through a new value at every whole n.

    period: after so many whole numbers it begins again (0: never). first: added to the whole number, as a seed is.
    """
    low = math.floor(n)
    fraction = n - low
    fraction = fraction * fraction * (3 - 2 * fraction)
    ends = (low % period, (low + 1) % period) if period else (low, low + 1)
    a, b = (random_of(end + first) * 2 - 1 for end in ends)
    return float(a + (b - a) * fraction)


def randoms_of(n: Numeric) -> Numeric:
    """`random_of` of many numbers at once."""
    with np.errstate(over="ignore"):
        whole = np.round(np.asarray(n, np.float64) * 1024).astype(np.int64).astype(np.uint64)
        x = whole + np.uint64(0x9E3779B97F4A7C15)
        x = (x ^ (x >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        x = (x ^ (x >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return ((x ^ (x >> np.uint64(31))) >> np.uint64(11)).astype(np.float64) / 2**53


def wanders(n: Numeric, period: int = 0, first: float = 0.0) -> Numeric:
    """`wander` of many numbers at once."""
    low = np.floor(n)
    fraction = n - low
    fraction = fraction * fraction * (3 - 2 * fraction)
    ends = (low % period, (low + 1) % period) if period else (low, low + 1)
    a, b = (randoms_of(end + first) * 2 - 1 for end in ends)
    return a + (b - a) * fraction
