"""Live copy."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.params.kinds import Exceptions, Number, Pairs, PlateRef, Toggle
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.part import Patch

STAGGER = "Staggered"
"""The section of the settings that show it several times, each a little later."""


class Copy(PlateKind):
    """A plate or group shown once more, with a place, blend and effects of its own: change it, and the copy follows.

    Values of the original can be other ones in the copy (exceptions). Shown several times, each is so many frames
    later than the one before it, the first one on top.
    """

    title = "Live copy"
    rank = 80
    help = "Shows another plate or group once more, and follows it"
    sections = (STAGGER, *PlateKind.sections)
    gathers = True
    shows_param = "of"

    of = PlateRef(label="Copy of", help="The plate or group it shows", effects_by="with_effects")
    with_effects = Toggle(
        label="Effects too", help="It shows the other's effects too, not its plain picture", default=True
    )
    exceptions = Exceptions(label="Exceptions", help="Values of the original that are other ones here")
    copies = Number(
        label="Copies",
        help="How often it is shown",
        default=1,
        nothing_at=1,
        hard=(1, 60),
        usual=(1, 12),
        whole=True,
        decimals=0,
        section=STAGGER,
    )
    later = Number(
        label="Later",
        help="How many frames each is later than the one before",
        default=4.0,
        hard=(-10_000, 10_000),
        usual=(-12, 12),
        unit="f",
        decimals=1,
        section=STAGGER,
    )
    aside = Pairs(label="Aside", help="How far each lies from the one before", unit="px", section=STAGGER)
    fainter = Number(
        label="Fainter",
        help="How much less each covers than the one before",
        default=0.0,
        hard=(0, 1),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
        section=STAGGER,
    )

    def looks_back(self) -> bool:
        """Whether it shows other moments than its own."""
        return self.copies > 1 and self.later != 0

    def timed(self) -> bool:
        return self.looks_back()

    def shows_plainly(self) -> tuple[str, bool, tuple[tuple[str, str], ...]] | None:
        plain = bool(self.of) and int(self.copies) == 1
        return (self.of, self.with_effects, self.exceptions) if plain else None

    def gathered(self, ctx: Context, grid: Grid) -> Patch | None:
        if not self.of:
            return None
        count = int(self.copies)
        if count == 1:
            return Patch(self._one(ctx, grid, 0), grid)
        out = np.zeros((*grid.shape, 4), np.float32)
        for number in reversed(range(count)):
            fraction = np.float32((1 - self.fainter) ** number)
            above = self._one(ctx, grid, number)
            if fraction > 0:
                out *= 1 - above[..., 3:] * fraction
                out += above * fraction
        return Patch(out, grid)

    def _one(self, ctx: Context, grid: Grid, number: int) -> Picture:
        dx, dy = (number * step for step in self.aside)
        seen = Grid(grid.x0 - dx, grid.y0 - dy, grid.width, grid.height, grid.scale) if dx or dy else grid
        seconds = None
        if number and self.later:
            seconds = max(0.0, ctx.at.seconds - number * self.later / float(ctx.at.rate))
        picture, _ = ctx.services.plate_picture(
            self.of, seen, with_effects=self.with_effects, seconds=seconds, exceptions=self.exceptions
        )
        return picture
