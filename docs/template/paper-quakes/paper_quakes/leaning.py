"""Paper that leans and creases."""

import numpy as np

from nimble_quake.operators.quake import FreeQuake
from nimble_quake.params.kinds import Number


class Lean(FreeQuake):
    """Rows shift by their height over the middle: the picture leans."""

    title = "Lean"
    group = "Move"
    help = "The picture leans to one side, as paper in a draught"
    simple = False

    lean = Number(label="Lean", help="How far its top is moved", default=60.0, hard=(-5000, 5000), usual=(-300, 300), unit="px")

    def idle(self):
        return self.lean * self.strength == 0

    def own_offsets(self, places, ctx):
        """Where each place looks, as an offset in shot pixels, (2, rows, columns) float32."""
        at = places.absolute()
        share = 0.5 - at[1] / np.float32(ctx.at.height)
        return np.stack([-share * np.float32(2 * self.lean * self.strength), np.zeros_like(share)])

    def reach_of_offsets(self, ctx):
        """How far it moves anything at most: what lies farther away need not be made."""
        return abs(2 * self.lean * self.strength)

    def summary(self):
        return f"{self.lean * self.strength:.0f} px"


class Crease(Lean):
    """Leans one way above a line and the other way below it."""

    title = "Crease"
    help = "Folds the picture along a line"

    line = Number(label="Line", help="Where it is folded, from the top", default=0.5, hard=(0, 1), unit="%", factor=100)

    def own_offsets(self, places, ctx):
        at = places.absolute()
        away = np.abs(at[1] / np.float32(ctx.at.height) - np.float32(self.line))
        return np.stack([-away * np.float32(2 * self.lean * self.strength), np.zeros_like(away)])
