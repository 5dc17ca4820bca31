"""Wave."""

from __future__ import annotations

import math

from nimble_quake.conventions import Pixels
from nimble_quake.operators.base import Context
from nimble_quake.operators.graphs import Curve, Graph, plotted
from nimble_quake.operators.quake import FreeQuake
from nimble_quake.operators.quantities import a_distance, a_size, an_angle
from nimble_quake.params.kinds import Choice, Number, options
from nimble_quake.raster.warps.operations import WAVE, Bend

FORMS = ("sine", "triangle", "square")


class Wave(FreeQuake):
    """Shifts rows or columns by a wave that travels: p shows p + amplitude sin(2 pi (p.n / length - phase)) along d."""

    title = "Wave"
    called = "ripple"
    group = "Move"
    rank = 2030
    help = "Rows or columns swing to and fro, and the swing travels"
    idle_because = "Its amplitude is 0"

    way = Choice(
        label="Swings",
        help="Across the way it travels, as a flag, or along it, as sound",
        default="across",
        row=True,
        options=options(across="Across", along="Along"),
    )
    form = Choice(
        label="Form",
        help="The form of the wave",
        default="sine",
        row=True,
        options=options(sine="Sine", triangle="Zigzag", square="Steps"),
    )
    amplitude = a_distance("Amplitude", "How far it swings to each side", 24.0, (0, 200), (-1e6, 1e6))
    length = a_size("Wavelength", "From one crest to the next", 220.0, (10, 1500))
    turn = an_angle("Which way it travels; 0 is right, 90 is down", 90.0, "Travels")
    speed = Number(
        label="Speed",
        help="How fast the crests travel",
        default=120.0,
        hard=(-1e5, 1e5),
        usual=(-600, 600),
        unit="px/s",
        decimals=0,
        accumulates=True,
    )
    phase = an_angle("Shifts the wave along: 360 is one wavelength", 0.0, "Phase")

    def idle(self) -> bool:
        return self.amplitude * self.strength == 0

    def ops(self, ctx: Context) -> tuple[Bend, ...]:
        c, s = math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))
        far = self.amplitude * self.strength
        moved = (c * far, s * far) if self.way == "along" else (-s * far, c * far)
        phase = (self.speed / self.length + self.phase / 360) % 1.0
        return ((WAVE, (c, s, 1 / self.length, phase, *moved, float(FORMS.index(self.form)))),)

    def reach_of_offsets(self, ctx: Context) -> Pixels:
        return abs(self.amplitude * self.strength) * self.most_weight(ctx)

    def summary(self) -> str:
        return f"{self.amplitude * self.strength:.0f} px"

    def graph(self, rest: float) -> Graph:
        def swing(t: float) -> float:
            turn = (t + 0.5) % 1.0 - 0.5
            if self.form == "sine":
                return math.sin(2 * math.pi * turn)
            if self.form == "square":
                return 1.0 if turn >= 0 else -1.0
            return 4 * turn if abs(turn) <= 0.25 else math.copysign(2 - 4 * abs(turn), turn)

        far = self.amplitude * self.strength
        points = tuple((swing(t) * far, t / 2) for t, _ in plotted(lambda t: t, 0.0, 2.0, 97))
        return Graph((Curve(points),), max(abs(far), 1.0), "px", "2 waves")
