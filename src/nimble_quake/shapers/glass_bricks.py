"""Glass bricks."""

from __future__ import annotations

from nimble_quake.operators.base import Context
from nimble_quake.operators.coordinates import Coordinate
from nimble_quake.operators.quantities import a_fraction, a_size, linked_to
from nimble_quake.params.kinds import Toggle
from nimble_quake.raster.warps.operations import BRICKS, Bend


class GlassBricks(Coordinate):
    """Every brick shows its part of the map drawn together, as a thick pane does."""

    title = "Glass bricks"
    group = "Cells"
    rank = 1200
    help = "A wall of thick panes, each with its own small view"
    far = 0.25

    size_x = a_size("Brick across", "Width of a brick", 120.0, (20, 400))
    size_y = linked_to("size_x", a_size("Brick down", "Height of a brick", 120.0, (20, 400)))
    power = a_fraction("Power", "How much more than itself each pane shows", 1.2, (-5, 20))
    round = a_fraction("Round", "How much a pane bulges: flat in the middle, steep at its rim", 0.5)
    stagger = Toggle(label="Stagger", help="Every other row is moved by half a brick")

    def idle(self) -> bool:
        return self.power == 0

    def bends(self, ctx: Context) -> tuple[Bend, ...]:
        return ((BRICKS, (self.size_x, self.size_y, self.power, self.round, float(self.stagger))),)
