"""What all finishes share that make alpha from a picture's colours."""

from __future__ import annotations

from nimble_quake.conventions import Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.quantities import a_distance
from nimble_quake.operators.steps import Finish
from nimble_quake.params.kinds import Number, Toggle
from nimble_quake.raster.blur.filters import blur_margin
from nimble_quake.raster.finishes.rims import Coverage, grown, softened
from nimble_quake.raster.geometry.grid import Grid


class Keyer(Finish):
    """Keeps some of a picture; what is kept can be drawn in and softened."""

    group = "Keys"
    shrink = Number(
        label="Shrink",
        help="How far what is kept is drawn in; below 0 let out",
        default=0.0,
        hard=(-300, 300),
        usual=(-20, 20),
        unit="px",
        decimals=1,
    )
    blur = a_distance("Blur", "How soft its edge becomes", 0.0, (0, 30), (0, 300))
    invert = Toggle(label="Invert", help="Takes away what would be kept")

    def margin(self, at: Moment) -> Pixels:
        return min(blur_margin(self.blur) + abs(self.shrink) + 2, at.width, at.height)

    def edged(self, kept: Coverage, outer: Grid, grid: Grid) -> Coverage:
        """Return how much is kept on `grid`, drawn in and softened, from how much is on `outer`."""
        fraction = softened(grown(kept, -self.shrink * grid.scale), self.blur * grid.scale)
        return fraction[grid.inside(outer)]
