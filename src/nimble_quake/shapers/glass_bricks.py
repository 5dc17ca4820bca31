"""Glass bricks."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Warp
from nimble_quake.operators.base import Context
from nimble_quake.operators.common import a_share, a_size
from nimble_quake.operators.steps import Bender
from nimble_quake.params.kinds import Toggle


class GlassBricks(Bender):
    """Every brick shows its part of the map drawn together, as a thick pane does."""

    title = "Glass bricks"
    group = "Cells"
    help = "A wall of thick panes, each with its own small view"
    far = 0.25

    size_x = a_size("Brick across", "Width of a brick", 120.0, (20, 400))
    size_y = a_size("Brick down", "Height of a brick", 120.0, (20, 400))
    power = a_share("Power", "How much more than itself each pane shows", 1.2, (-5, 20))
    round = a_share("Round", "How much a pane bulges: flat in the middle, steep at its rim", 0.5)
    stagger = Toggle(label="Stagger", help="Every other row is moved by half a brick")

    def idle(self) -> bool:
        return self.power == 0

    def look(self, places: Warp, ctx: Context) -> Warp:
        x, y = places
        row = np.floor(y / np.float32(self.size_y))
        shift = (row - 2 * np.floor(row / 2)) * np.float32(0.5 * self.size_x) if self.stagger else np.float32(0)
        u = (x - shift) / np.float32(self.size_x)
        v = y / np.float32(self.size_y)
        for plane, place, size in ((x, u, self.size_x), (y, v, self.size_y)):
            p = 2 * (place - np.floor(place)) - 1
            bulged = p * (1 - np.float32(self.round)) + p * p * p * np.float32(self.round)
            plane += bulged * np.float32(0.5 * size * self.power)
        return places
