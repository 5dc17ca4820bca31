"""Transform."""

from __future__ import annotations

from nimble_quake.operators.base import Context
from nimble_quake.operators.coordinates import Coordinate
from nimble_quake.operators.quantities import an_angle
from nimble_quake.params.kinds import Number, Pairs, Place, Toggle
from nimble_quake.raster.warps.operations import Bend, placed


def _stretch(label: str, help: str) -> Number:
    return Number(
        label=label, help=help, default=1.0, hard=(0.001, 1000), usual=(0.1, 4), unit="%", factor=100, decimals=0
    )


class Transform(Coordinate):
    """Stretches, moves, turns, scales and flips the map about a place; its border goes on."""

    title = "Transform"
    group = "Space"
    far = 1.0
    help = "Stretch, move, turn, scale, flip"
    lively = {"turn": 24.0, "scale": 0.7}
    looks = (("Stretch across", "Three times as wide", {"stretch_x": 3.0}),)

    move = Pairs(label="Move", help="How far it is moved", decimals=0)
    scale = _stretch("Scale", "Both ways")
    stretch_x = _stretch("Across", "Width alone")
    stretch_y = _stretch("Down", "Height alone")
    turn = an_angle()
    flip_x = Toggle(label="Flip across", help="Left becomes right")
    flip_y = Toggle(label="Flip down", help="Top becomes bottom")
    about = Place(label="About", help="The place that stays")

    def idle(self) -> bool:
        return (*self.move, self.scale, self.stretch_x, self.stretch_y, self.turn, self.flip_x, self.flip_y) == (
            0,
            0,
            1,
            1,
            1,
            0,
            False,
            False,
        )

    def bends(self, ctx: Context) -> tuple[Bend, ...]:
        across = self.scale * self.stretch_x * (-1 if self.flip_x else 1)
        down = self.scale * self.stretch_y * (-1 if self.flip_y else 1)
        return (placed(self.about, self.move, self.turn, across, down),)
