"""Push by a map."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Warp
from nimble_quake.operators.base import Context
from nimble_quake.operators.common import a_distance
from nimble_quake.operators.steps import Bender
from nimble_quake.params.kinds import MapRef
from nimble_quake.raster.bent import at_index
from nimble_quake.raster.colour import channel
from nimble_quake.raster.grid import Grid


class PushMap(Bender):
    """Pushes this map by another, as a push moves a picture; without another map, by itself."""

    title = "Push by map"
    group = "Space"
    far = 0.5
    help = "One map shakes the other; or itself"

    other = MapRef(label="By", help="The map that pushes; none: what the steps before made")
    reach_x = a_distance("Across", "How far full white pushes", 60.0, (-200, 200), (-20000, 20000))
    reach_y = a_distance("Down", "How far full white pushes", 60.0, (-200, 200), (-20000, 20000))

    def idle(self) -> bool:
        return self.reach_x == 0 and self.reach_y == 0

    def look(self, places: Warp, ctx: Context) -> Warp:
        grid = _grid_over(places, ctx)
        field = ctx.feed.map_values(self.other, grid) if self.other else ctx.below(grid)
        if field is None:
            return places
        us = (places[0] - np.float32(grid.x0)) * np.float32(grid.scale) - np.float32(0.5)
        vs = (places[1] - np.float32(grid.y0)) * np.float32(grid.scale) - np.float32(0.5)
        pair = np.stack([channel(field, "value", 0), channel(field, "value", 1)], axis=2)
        moved = at_index(np.ascontiguousarray(pair), us, vs)
        places[0] += (moved[..., 0] - np.float32(ctx.rest)) * np.float32(2 * self.reach_x)
        places[1] += (moved[..., 1] - np.float32(ctx.rest)) * np.float32(2 * self.reach_y)
        return places


def _grid_over(places: Warp, ctx: Context) -> Grid:
    """Return a grid over the places, about as fine as they lie, no larger than the frame grown by half."""
    height, width = places.shape[1:]
    steps = [float(np.median(np.abs(np.diff(places[0], axis=1)))) if width > 1 else 1.0,
             float(np.median(np.abs(np.diff(places[1], axis=0)))) if height > 1 else 1.0]  # fmt: skip
    step = min(max(min(steps), 0.25), max(ctx.at.width, ctx.at.height) / 16)
    ends = []
    for plane, side in ((places[0], ctx.at.width), (places[1], ctx.at.height)):
        low, high = max(float(plane.min()), -0.5 * side), min(float(plane.max()), 1.5 * side)
        first = np.floor(min(low, high) / step / 16 - 0.1) * 16  # aligned, so that coarser levels are too
        ends.append((first * step, max(2, int(np.ceil((max(high, low) - first * step) / step)) + 2)))
    return Grid(ends[0][0], ends[1][0], ends[0][1], ends[1][1], 1 / step)
