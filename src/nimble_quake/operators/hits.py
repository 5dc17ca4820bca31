"""Hits: when something happens, how often, and how far into it each one is at a moment."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import ClassVar

from nimble_quake.conventions import Frames
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_time
from nimble_quake.operators.steps import Source
from nimble_quake.params.kinds import Choice, Number, When, Words, options

MOST = 64
"""How many can be alive at once; the youngest are kept."""

WHEN = Choice(
    label="When",
    help="When the hits happen; by times each pin of its place is one: drag it along its row, or in the picture",
    default="own",
    row=True,
    options=options(own="Own", beats="Beats", markers="Markers", times="Times: at each pin of its place, there"),
)
OWN = When("when", "own")
FIRST = replace(a_time("First hit", "When the first one happens", 0.0, (0, 5), low=-3600.0), shown_when=OWN)
COUNT = Number(
    label="Hits",
    help="How many follow each other",
    default=3,
    hard=(1, 1000),
    usual=(1, 12),
    whole=True,
    decimals=0,
    shown_when=OWN,
)
EACH = Number(
    label="At each",
    help="How many follow each other at every beat, marker or pin, by the stagger",
    default=1,
    hard=(1, 64),
    usual=(1, 6),
    whole=True,
    decimals=0,
    shown_when=When("when", "beats", "markers", "times"),
)
NAMED = Words(
    label="Named",
    help="Only markers with these names, commas between them; empty: all",
    most=500,
    shown_when=When("when", "markers"),
)
STAGGER = a_time("Stagger", "Time from one to the next", 0.2, (0, 1))
AGAIN = a_time("Again", "The whole row of hits begins again after so long; 0 never", 0.0, (0, 6))
EVERY = replace(AGAIN, shown_when=OWN)


@dataclass(frozen=True)
class Hit:
    """One of them: its number from the start (for chance values) and its age in seconds."""

    number: int
    age: float
    frame: Frames = 0.0
    """The beat, marker or pin it follows."""


def on_frames(
    now: float, frames: tuple[float, ...], rate: float, life: float, each: int = 1, stagger: float = 0.0
) -> list[Hit]:
    """Return the hits under way at a time, the oldest first: at each of these frames so many, one after the other."""
    ages = (
        (n * each + k, now - frame / rate - k * stagger, frame)
        for n, frame in enumerate(frames)
        for k in range(max(1, each))
    )
    found = [Hit(n, max(0.0, age), frame) for n, age, frame in ages if -1e-9 <= age < life]
    return sorted(found, key=lambda hit: -hit.age)[-MOST:]


class ByHits(Source):
    """A source that does the same at every hit. Subclasses declare when: these parameters, in their own order."""

    when: ClassVar[Choice]
    first: ClassVar[Number]
    count: ClassVar[Number]
    named: ClassVar[Words]
    each: ClassVar[Number]
    stagger: ClassVar[Number]
    again: ClassVar[Number]
    placed_by: ClassVar[str]
    """The place whose pins are hits, by times."""

    def looks_back(self) -> bool:
        return bool(self.when == "times")

    def hears_beats(self) -> bool:
        return self.when in ("beats", "markers")


def place_of(source: ByHits, hit: Hit, ctx: Context) -> tuple[float, float]:
    """Return where a source hits: by times where the pin lies, else where its place is now."""
    there = ctx.other(hit.frame / float(ctx.at.rate)) if source.when == "times" else source
    place: tuple[float, float] = there.values[source.placed_by]
    return place


def living_at(source: ByHits, ctx: Context, life: float) -> list[Hit]:
    """Return the hits of a source that declares `when`, named, first, count, each, stagger and again, at a moment."""
    at = ctx.at
    if source.when == "own":
        return living(at.seconds, source.first, int(source.count), source.stagger, source.again, life)
    if source.when == "times":
        frames = ctx.pin_frames(source.placed_by) or (0.0,)
    else:
        frames = at.beat_frames() if source.when == "beats" else at.marker_frames(source.named)
    return on_frames(at.seconds, frames, float(at.rate), life, int(source.each), source.stagger)


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
