"""Grain."""

from __future__ import annotations

import math

from nimble_quake.conventions import Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_fraction, a_rate, a_size
from nimble_quake.operators.steps import Finish
from nimble_quake.params.kinds import Seed, Toggle
from nimble_quake.raster.finishes.finishing import grained
from nimble_quake.raster.geometry.grid import Grid


class Grain(Finish):
    """Random specks of brightness or colour, new ones as often as asked; most in the mid tones, as in film."""

    title = "Grain"
    called = "film noise"
    group = "Film"
    rank = 510
    help = "Film grain, video noise, static"
    lively = {"amount": 0.6}
    looks = (
        ("Video noise", "Fine coloured noise", {"size": 1.0, "colour": True, "amount": 0.2, "tones": 0.0}),
        ("Static", "Snow of a lost signal", {"size": 3.0, "amount": 1.6, "tones": 0.0, "rate": 24.0}),
    )

    amount = a_fraction("Amount", "How strong it is", 0.18, (0, 10))
    size = a_size("Size", "How large the grains are", 2.0, (1, 12))
    rate = a_rate("Changes", "How often the grain changes; 0 stands still", 24.0)
    colour = Toggle(label="Colour", help="Red, green and blue have grain of their own")
    tones = a_fraction("Mid tones", "How much it spares black and white", 0.6)
    seed = Seed(label="Seed", help="Other grain")

    def idle(self) -> bool:
        return self.amount <= 0

    def timed(self) -> bool:
        return self.rate > 0

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        tick = math.floor(ctx.at.seconds * self.rate + 1e-6) if self.rate > 0 else 0
        return grained(field, grid, self.size, tick, int(self.seed), self.amount, self.tones, colour=self.colour)
