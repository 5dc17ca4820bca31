"""Hits: when something happens, how often, and how far into it each one is at a moment."""

from __future__ import annotations

import math
from dataclasses import dataclass

from nimble_quake.operators.common import a_time
from nimble_quake.params.kinds import Number

MOST = 64
"""How many can be alive at once; the youngest are kept."""

FIRST = a_time("First hit", "When the first one happens", 0.0, (0, 5), low=-3600.0)
COUNT = Number(
    label="Hits", help="How many follow each other", default=3, hard=(1, 1000), usual=(1, 12), whole=True, decimals=0
)
STAGGER = a_time("Stagger", "Time from one to the next", 0.2, (0, 1))
EVERY = a_time("Again", "The whole row of hits begins again after so long; 0 never", 0.0, (0, 6))


@dataclass(frozen=True)
class Hit:
    """One of them: its number from the start (for chance values) and its age in seconds."""

    number: int
    age: float


def living(now: float, first: float, count: int, stagger: float, every: float, life: float) -> list[Hit]:
    """Return the hits under way at a time, the oldest first: begun, and younger than `life`."""
    found = []
    every, stagger = (max(v, 0.01) if v > 0 else 0.0 for v in (every, stagger))
    rounds = [0]
    if every > 0:
        newest = math.floor((now - first) / every)
        oldest = math.floor((now - first - life - stagger * (count - 1)) / every)
        rounds = list(range(max(0, oldest, newest - 400), newest + 1))
    for turn in rounds:
        begun = now - first - turn * every
        low = 0 if stagger <= 0 else max(0, math.ceil((begun - life) / stagger))
        high = count - 1 if stagger <= 0 else min(count - 1, math.floor(begun / stagger + 1e-9))
        for n in range(max(low, high - MOST), high + 1):
            age = begun - n * stagger
            if age + 1e-9 >= 0 and age < life:
                found.append(Hit(turn * count + n, max(0.0, age)))
    return sorted(found, key=lambda hit: -hit.age)[-MOST:]
