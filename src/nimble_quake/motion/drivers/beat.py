"""Beat."""

from __future__ import annotations

import math
from bisect import bisect_right

from nimble_quake.errors import FormulaError
from nimble_quake.motion.driver import Driver
from nimble_quake.motion.formula import evaluate, parsed
from nimble_quake.motion.timing import Moment
from nimble_quake.params.kinds import Choice, Number, Toggle, When, Words, options

EDGE = 1e-6
"""Frames: a beat counts from its own frame on, whatever rounding its time went through."""


class Beat(Driver):
    """Does the same at every beat, marker, or so many times a minute."""

    title = "Beat"
    help = "A kick at every beat, at every marker, or so many times a minute"
    rank = 30
    amount = ("Kick", "How much is added at a beat")
    base = ("Rests at", "The value between beats")
    asks_shot = True

    of = Choice(
        label="Of",
        help="When the beats are",
        default="beats",
        row=True,
        options=options(beats="Beats", markers="Markers", tempo="Tempo"),
    )
    tempo = Number(
        label="Tempo",
        help="Beats a minute",
        default=120.0,
        hard=(1, 6000),
        usual=(60, 180),
        unit="/min",
        decimals=1,
        shown_when=When("of", "tempo"),
    )
    curve = Choice(
        label="Curve",
        help="What it does at a beat",
        default="decay",
        options=options(
            decay="Decay: full at once, then dying away",
            fall="Fall: straight down to rest",
            swell="Swell: up and down again, softly",
            ring="Ring: swings out to both sides",
            before="Before: rises to the beat, then is gone",
            own="Own: a formula",
        ),
    )
    own = Words(
        label="Formula",
        help="Of u: 0 at the beat, 1 after its length; as in (1 - u) * cos(u * 20)",
        default="1 - u",
        most=500,
        shown_when=When("curve", "own"),
    )
    lasts = Number(
        label="Lasts",
        help="How long it takes to come to rest",
        default=0.4,
        hard=(0.01, 3600),
        usual=(0.05, 2),
        unit="s",
        decimals=2,
    )
    every = Number(
        label="Every",
        help="Only every so-manieth beat",
        default=1,
        hard=(1, 1000),
        usual=(1, 8),
        whole=True,
        decimals=0,
    )
    first = Number(
        label="From the",
        help="The first beat that counts, from 1",
        default=1,
        hard=(1, 100000),
        usual=(1, 8),
        whole=True,
        decimals=0,
    )
    named = Words(
        label="Named",
        help="Only markers with these names, commas between them; empty: all",
        most=500,
        shown_when=When("of", "markers"),
    )
    alternate = Toggle(label="Alternate", help="Every other beat goes to the other side")

    def course(self, moment: Moment, number: int, size: int) -> float:
        near = self._near(moment)
        if near is None:
            return 0.0
        found = self._shape((near[0]) / self.lasts)
        return -found if self.alternate and near[1] % 2 else found

    def _near(self, moment: Moment) -> tuple[float, int] | None:
        """Seconds since the beat that counts now (until it, for a rise), and its number; None for none."""
        ahead, fps = self.curve == "before", float(moment.rate)
        if self.of == "tempo":
            each = 60 / self.tempo * self.every
            start = (self.first - 1) * 60 / self.tempo
            at = (moment.seconds - start) / each
            n = math.ceil(at - EDGE) if ahead else math.floor(at + EDGE)
            return (abs(at - n) * each, n) if n >= 0 else None
        beats = moment.marker_frames(self.named) if self.of == "markers" else moment.beat_frames()
        counted = beats[int(self.first) - 1 :: int(self.every)]
        n = bisect_right(counted, float(moment.frame) + EDGE) - 1
        if ahead and not (n >= 0 and abs(counted[n] - float(moment.frame)) <= EDGE):
            n += 1
        return (abs(float(moment.frame) - counted[n]) / fps, n) if 0 <= n < len(counted) else None

    def _shape(self, u: float) -> float:
        if self.curve == "decay":
            return math.exp(-4 * u)
        if u > 1:
            return 0.0
        if self.curve in ("fall", "before"):
            return 1 - u if self.curve == "fall" else (1 - u) ** 2
        if self.curve == "swell":
            return math.sin(math.pi * u) ** 2
        if self.curve == "ring":
            return math.cos(6 * math.pi * u) * (1 - u) ** 2
        return self._own(u)

    def _own(self, u: float) -> float:
        parsed(self.own, 1, ("u",))
        try:
            return evaluate(self.own, {"u": u}, 1)[0]
        except FormulaError as wrong:
            raise FormulaError(f"the curve of its beat: {wrong.what}", cure=wrong.cure) from wrong

    def hears_beats(self) -> bool:
        return self.of != "tempo"

    def said(self) -> str:
        which = {"beats": "at beats", "markers": "at markers", "tempo": f"{self.tempo:g} /min"}[self.of]
        return f"{which}, {self.curve} {self.lasts:g} s"
