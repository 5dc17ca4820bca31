"""Rings."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import REST, Field
from nimble_quake.operators import hits
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance, a_fraction, a_size, a_time
from nimble_quake.operators.steps import Made
from nimble_quake.params.kinds import Choice, Number, Place, Seed, Toggle, options
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.noise.hashes import mixed
from nimble_quake.raster.shapes.rings import Ring, add_rings, blast_radius, blast_ring, plain_ring, ripple_ring


class Rings(hits.ByHits):
    """Rings that grow from where something hits: shockwaves, ripples on water, blast fronts."""

    title = "Rings"
    group = "Shapes"
    help = "Shockwaves and ripples that grow from a hit"
    called = "shockwave, ripple, on beats"
    lively = {"again": 1.8}
    looks = (
        (
            "Ripples",
            "A drop on water: long waves run ahead",
            {"form": "ripples", "width": 70.0, "speed": 160.0, "life": 3.0, "count": 1, "again": 1.5},
        ),
        (
            "Blast",
            "A front that slows down, dark behind",
            {"form": "blast", "width": 110.0, "speed": 460.0, "life": 1.2, "count": 1, "again": 1.5},
        ),
        (
            "Rain rings",
            "Many small rings, here and there",
            {"count": 40, "stagger": 0.12, "spread": 900.0, "width": 16.0, "speed": 90.0, "life": 0.9, "again": 4.8},
        ),
    )

    form = Choice(
        label="Kind",
        help="How rings grow and what they look like",
        default="plain",
        row=True,
        options=options(
            plain="Plain: at one speed",
            ripples="Ripples: waves on deep water",
            blast="Blast: radius as time^0.4, slowing down",
        ),
    )
    centre = Place(label="Centre", help="Where it hits")
    spread = a_distance("Spread", "How far hits lie from the centre, by chance", 0.0, (0, 600))
    when = hits.WHEN
    first = hits.FIRST
    count = hits.COUNT
    named = hits.NAMED
    each = hits.EACH
    stagger = hits.STAGGER
    again = hits.EVERY
    width = a_size("Width", "Width of a ring, or length of a wave; wider is stronger", 60.0, (8, 300))
    speed = Number(
        label="Speed",
        help="How fast it grows; of a blast, its radius after one second",
        default=420.0,
        hard=(0, 50000),
        usual=(50, 1500),
        unit="px/s",
        decimals=0,
    )
    life = a_time("Life", "How long a ring lives; it fades all the way", 1.5, (0.3, 4), low=0.05)
    soft = a_fraction("Softness", "How soft its edges are", 0.6)
    bright = a_fraction("Bright side", "How far its outer side rises above rest", 1.0, (0, 10))
    dark = a_fraction("Dark side", "How far its inner side sinks below rest", 1.0, (0, 10))
    fade = a_fraction("Fade", "How much it weakens over its life", 1.0)
    follow = Toggle(label="Follow", help="Rings go along with a centre that moves, instead of staying where they began")
    clear = Toggle(label="Clear", help="What no ring touches is clear, so that what lies beneath shows")
    seed = Seed(label="Seed", help="Other chance places", default=1)

    def timed(self) -> bool:
        return True

    placed_by = "centre"

    def looks_back(self) -> bool:
        return super().looks_back() or not self.follow

    def goes_round(self) -> bool:
        return True

    def make(self, grid: Grid, ctx: Context) -> Made:
        out = np.zeros((*grid.shape, 1), np.float32)
        found = hits.living_at(self, ctx, self.life)
        add_rings(grid, [ring for hit in found if (ring := self._ring(hit, ctx)) is not None], out)
        return self._finished(out)

    def _finished(self, out: Field) -> Made:
        cover = np.clip(np.abs(out) * np.float32(2.0), 0, 1) if self.clear else None
        out *= np.float32(0.5)
        out += np.float32(REST)
        return out if cover is None else (out, cover)

    def _ring(self, hit: hits.Hit, ctx: Context) -> Ring | None:
        if self.follow:
            centre = self.centre
        elif self.when == "times" or "centre" not in ctx.moving:
            centre = hits.place_of(self, hit, ctx)
        else:
            centre = ctx.other(ctx.at.seconds - hit.age).centre
        x, y = (at + (mixed(hit.number, axis, 3, self.seed) - 0.5) * self.spread for axis, at in enumerate(centre))
        power = 1 - self.fade * (hit.age / self.life) ** 1.5
        grown = min(1.0, hit.age / min(0.08, self.life))
        power *= grown
        if power <= 0:
            return None
        if self.form == "ripples":
            ring = ripple_ring(x, y, hit.age, self.width, max(self.speed, 1.0), 4 * max(ctx.at.width, ctx.at.height))
            values = np.where(ring.values > 0, ring.values * self.bright, ring.values * self.dark)
            return Ring(ring.x, ring.y, ring.start, ring.per, (values * power).astype(np.float32))
        if self.form == "blast":
            radius = blast_radius(hit.age, self.speed)
            ring = blast_ring(x, y, radius, self.width, self.soft, self.bright, self.dark)
        else:
            ring = plain_ring(x, y, self.speed * hit.age, self.width, self.soft, self.bright, self.dark)
        return Ring(ring.x, ring.y, ring.start, ring.per, (ring.values * np.float32(power)).astype(np.float32))
