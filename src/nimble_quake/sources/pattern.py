"""Patterns."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_count, a_distance, a_fraction, a_level, a_size, an_angle, linked_to
from nimble_quake.operators.steps import Source
from nimble_quake.params.kinds import Choice, Pairs, Place, Seed, Toggle, Velocity, options
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.shapes.patterns import pattern, ringed_pattern


class Pattern(Source):
    """A repeating pattern with clean edges: stripes, tiles, dots, scales, rays."""

    title = "Pattern"
    group = "Lines"
    help = "Stripes, grids, dots, tiles: hard edges that tear"
    lively = {"offset": (30.0, 20.0)}
    looks = (
        ("Grid", "Lines across and down", {"form": "grid", "share": 0.06}),
        ("Dots", "Round dots in rows", {"form": "dots", "share": 0.6, "size_x": 40.0, "size_y": 40.0}),
        ("Scales", "Fish scales", {"form": "scales", "size_x": 90.0, "size_y": 90.0}),
        (
            "Arcs",
            "Quarter arcs that join into winding lines",
            {"form": "arcs", "share": 0.3, "size_x": 70.0, "size_y": 70.0},
        ),
        ("Leaves", "Quarter arcs, filled", {"form": "leaves", "size_x": 70.0, "size_y": 70.0}),
        ("Loops", "Three arcs side by side", {"form": "loops", "size_x": 90.0, "size_y": 90.0}),
        ("Hexagons", "Honeycomb", {"form": "hexagons", "share": 0.9, "size_x": 70.0, "size_y": 70.0}),
        ("Bricks", "A wall", {"form": "bricks", "share": 0.08, "size_x": 100.0, "size_y": 40.0}),
        ("Rays", "Bright and dark beams from a centre", {"form": "rays", "rings": True}),
        ("Waves", "Soft stripes that sway", {"form": "waves", "size_x": 90.0, "size_y": 240.0}),
        ("Nested", "Outlines of squares within each other", {"form": "nested", "size_x": 120.0, "size_y": 120.0}),
        ("Circles", "Rings within rings", {"form": "circles", "size_x": 120.0, "size_y": 120.0}),
        ("Checker", "Squares, light and dark", {"form": "checker"}),
    )

    form = Choice(
        label="Kind",
        help="Which pattern",
        default="stripes",
        options=options(
            stripes="Stripes",
            checker="Checker",
            grid="Grid",
            dots="Dots",
            scales="Scales",
            arcs="Arcs: quarter arcs",
            leaves="Leaves: quarter arcs, filled",
            loops="Loops: three arcs side by side",
            hexagons="Hexagons",
            bricks="Bricks",
            rays="Rays",
            waves="Waves",
            nested="Nested: squares within squares",
            circles="Circles: rings within rings",
        ),
    )
    size_x = a_size("Cell across", "Width of a cell", 40.0, (4, 400))
    size_y = linked_to("size_x", a_size("Cell down", "Height of a cell", 40.0, (4, 400)))
    share = a_fraction("Fill", "How much of a cell is light, or how thick a line is", 0.5)
    offset = Velocity(label="Drift", help="How fast and which way it travels")
    shift = Pairs(label="Shift", help="How far it lies aside, beside its drift", unit="px", decimals=0)
    turn = an_angle("Turns the pattern clockwise")
    soft = a_distance("Softness", "Width of its edges", 0.0, (0, 40))
    low = a_level("Dark", "Value of the dark parts", 0.0)
    high = a_level("Light", "Value of the light parts", 1.0)
    rings = Toggle(label="In rings", help="Laid round a centre: across becomes round, down becomes outwards")
    count = a_count("Round", "Cells in one turn; always whole, so there is no seam", 24, 2000, (3, 72))
    centre = Place(label="Centre", help="What rings and rays lie round")
    seed = Seed(label="Seed", help="Another arrangement of the arcs", default=1)

    def make(self, grid: Grid, ctx: Context) -> Field:
        soft = self.soft / min(self.size_x, self.size_y)
        x, y = self.offset[0] + self.shift[0], self.offset[1] + self.shift[1]
        fractions = self._shares()
        if self.rings or self.form == "rays":
            gone = (x / self.size_x / self.count - self.turn / 360, y / self.size_y)
            out = ringed_pattern(
                grid, self.form, self.centre, int(self.count), gone[0], self.size_y, gone[1], soft, fractions, self.seed
            )
        else:
            middle = (ctx.at.width / 2, ctx.at.height / 2)
            there = affine.compose(affine.shift(-x - middle[0], -y - middle[1]), affine.turn(-self.turn))
            there = affine.compose(there, affine.shift(*middle))
            cells = affine.compose(there, affine.stretch(1 / self.size_x, 1 / self.size_y))
            out = pattern(grid, self.form, cells, soft, fractions, self.seed)
        if (self.low, self.high) != (0.0, 1.0):
            out *= np.float32(self.high - self.low)
            out += np.float32(self.low)
        return out

    def _shares(self) -> tuple[float, float]:
        """The fill across and down; lines keep one width both ways."""
        if self.form in ("grid", "bricks") and not self.rings:
            width = self.share * min(self.size_x, self.size_y)
            return width / self.size_x, width / self.size_y
        return self.share, self.share
