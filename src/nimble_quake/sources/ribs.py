"""Ribs."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_count, a_level, a_size, an_angle
from nimble_quake.operators.steps import Source
from nimble_quake.params.kinds import Choice, Number, When, options
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.shapes.patterns import ribs


class Ribs(Source):
    """A slope again and again: ribbed glass, blinds that bend, pleats. Exact joints at any count."""

    title = "Ribs"
    group = "Lines"
    help = "Ribbed glass: the same slope again and again"
    lively = {"speed": 0.6}
    looks = (("Pleats", "Up and down again, without a jump", {"profile": "both", "size": 80.0}),)

    profile = Choice(
        label="Profile",
        help="How each rib rises",
        default="ramp",
        row=True,
        options=options(
            ramp="Ramp: straight, jumps back", round="Round: as a glass rod", both="Both: up and down, no jump"
        ),
    )
    by = Choice(
        label="By",
        help="What is asked for",
        default="width",
        row=True,
        options=options(width="Width", count="Count: fills the frame exactly"),
    )
    size = a_size("Width", "Width of a rib", 40.0, (8, 200), when=When("by", "width"))
    count = a_count("Count", "How many ribs fill the frame", 48, 1_000_000, (2, 120), When("by", "count"))
    turn = an_angle("Which way the ribs follow each other; 0 across")
    phase = Number(
        label="Phase", help="Moves the ribs along, in ribs", default=0.0, hard=(-1e6, 1e6), usual=(-1, 1), decimals=2
    )
    speed = Number(
        label="Speed",
        help="How many ribs pass a second",
        default=0.0,
        hard=(-1000, 1000),
        usual=(-3, 3),
        unit="/s",
        decimals=2,
        accumulates=True,
    )
    low = a_level("Dark", "Where a rib starts", 0.0)
    high = a_level("Light", "Where a rib ends", 1.0)

    def make(self, grid: Grid, ctx: Context) -> Field:
        out = ribs(grid, self.profile, line_of(self, ctx, self.phase + self.speed))
        if (self.low, self.high) != (0.0, 1.0):
            out *= np.float32(self.high - self.low)
            out += np.float32(self.low)
        return out


def line_of(ribs: Ribs, ctx: Context, phase: float) -> tuple[float, float, float]:
    """Return (a, b, c): a x + b y + c counts ribs, the first beginning at the frame's border."""
    angle = math.radians(ribs.turn)
    x, y = math.cos(angle), math.sin(angle)
    width, height = ctx.at.width, ctx.at.height
    across = abs(width * x) + abs(height * y)
    each = across / ribs.count if ribs.by == "count" else ribs.size
    start = (width * x + height * y - across) / 2
    return x / each, y / each, -start / each - phase
