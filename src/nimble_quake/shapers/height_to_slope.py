"""Height to slope."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import REST, Field, Pixels, Values
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance
from nimble_quake.operators.steps import Shaper, refit_smoothness
from nimble_quake.params.kinds import Choice, Number, options
from nimble_quake.params.refit import Refit
from nimble_quake.raster.blur.filters import blur_margin, gaussian_inside
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.raster.warps.slopes import blur_before_slope, slopes


class Slope(Shaper):
    """Reads the map as a height and gives its slope across and down: flat parts rest, flanks push."""

    title = "Height to slope"
    group = "Relief"
    works_on = frozenset({"map"})
    help = "Flanks push, flat parts stay: glass, water"
    lively = {"elevation": 260.0, "smooth": 12.0}

    kernel = Choice(
        label="Kernel",
        help="How many samples each slope is taken from",
        default="3",
        row=True,
        options=options(**{"3": "3", "5": "5: smoother"}),
    )
    elevation = Number(
        label="Elevation",
        help="How high white stands above black",
        default=40.0,
        hard=(-10000, 10000),
        usual=(0, 200),
        unit="px",
        decimals=1,
    )
    smooth = a_distance("Smoothness", "Softens the height first", 6.0, (0, 50), (0, 400))
    border = Choice(
        label="Border",
        help="What counts as lying beyond the frame: a height that is cut there has a flank, or none",
        default="on",
        options=options(
            on="As it goes on: what the steps before make there",
            hold="Held: its last values go on, no flank across the border",
            mirror="Mirrored: it is folded back",
            wrap="Wrapped: the other side follows",
        ),
    )

    @classmethod
    def refit_rest(cls, values: Values, by: Refit) -> Values:
        return refit_smoothness(values, cls.smooth, by, int(values.get("kernel", "3")))

    def margin(self, at: Moment) -> Pixels:
        return min(blur_margin(self.smooth) + 3 * 8, at.width, at.height)

    def run(self, grid: Grid, ctx: Context) -> Field:
        if self.border == "on":
            return super().run(grid, ctx)
        outer = grid.grown(grid.samples(self.margin(ctx.at)))
        whole = frame_grid(ctx.at.width, ctx.at.height, grid.scale)
        rows, columns = outer.inside(whole)
        down = _within(np.arange(rows.start, rows.stop), whole.height, self.border)
        across = _within(np.arange(columns.start, columns.stop), whole.width, self.border)
        return self.shape(np.ascontiguousarray(ctx.below(whole)[down][:, across]), outer, grid, ctx)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        sigma = blur_before_slope(self.smooth, grid.scale, int(self.kernel))
        height = gaussian_inside(np.ascontiguousarray(channel(field, "value"))[..., None], sigma, sigma)[..., 0]
        found = slopes(height, int(self.kernel))[grid.inside(outer)]
        found = found * np.float32(0.5 * self.elevation * grid.scale)
        found += np.float32(REST)
        return np.ascontiguousarray(found)


def _within(places: NDArray[np.intp], count: int, border: str) -> NDArray[np.intp]:
    """Return which of `count` samples stand at places that may lie beyond them."""
    if border == "wrap":
        return places % count
    if border == "mirror":
        turned = places % (2 * count)
        return np.minimum(turned, 2 * count - 1 - turned)
    return np.clip(places, 0, count - 1)
