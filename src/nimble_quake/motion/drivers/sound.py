"""Sound."""

from __future__ import annotations

from nimble_quake.conventions import Value, Values
from nimble_quake.motion.driver import Driver
from nimble_quake.motion.timing import Moment
from nimble_quake.params.kinds import BandRef, Number


class Sound(Driver):
    """Goes as loud as a band of the shot's sound is."""

    title = "Sound"
    help = "Goes as loud as a band of the shot's sound is"
    rank = 50
    amount = ("Loud adds", "What is added where the band is at its loudest")
    base = ("Silent", "The value in silence")
    asks_shot = True

    band = BandRef(label="Band", help="The range of the sound it listens to")
    quiet = Number(
        label="Quiet at",
        help="Levels up to this count as silence",
        default=0.0,
        hard=(0, 1),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
    )
    loud = Number(
        label="Loud at",
        help="Levels from this on count as loudest",
        default=1.0,
        hard=(0, 1),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
    )
    attack = Number(
        label="Attack",
        help="How long it takes to rise",
        default=5.0,
        hard=(0, 10_000),
        usual=(0, 200),
        unit="ms",
        decimals=0,
    )
    release = Number(
        label="Release",
        help="How long it takes to fall",
        default=180.0,
        hard=(0, 60_000),
        usual=(0, 1000),
        unit="ms",
        decimals=0,
    )
    gate = Number(
        label="Gate",
        help="Below this it is nothing at all: only hits get through",
        default=0.0,
        hard=(0, 1),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
    )

    def course(self, moment: Moment, number: int, size: int) -> float:
        level = moment.level(self.band, self.attack, self.release)
        span = max(self.loud - self.quiet, 1e-6)
        found = min(max((level - self.quiet) / span, 0.0), 1.0)
        return found if found >= self.gate else 0.0

    def said(self) -> str:
        return self.band

    @classmethod
    def begun(cls, base: Value, usual: tuple[float, float], size: int) -> tuple[Value, Value, Values]:
        swing = round((usual[1] - usual[0]) / 4, 4)
        return base, (swing,) * size if size > 1 else swing, {}
