"""Chromatic fringe."""

from __future__ import annotations

import math

import cv2
import numpy as np

from nimble_quake.conventions import Picture, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import an_angle
from nimble_quake.operators.steps import Finish
from nimble_quake.params.kinds import Choice, Number, Place, When, options
from nimble_quake.raster.geometry.grid import Grid


class Fringe(Finish):
    """Red and blue come apart: out from a centre, as in a cheap lens, or along a bearing, as in a misprint."""

    title = "Chromatic fringe"
    called = "chromatic aberration"
    group = "Lens"
    rank = 410
    in_light = True
    help = "Red and blue come apart towards the borders"
    holds_border = True
    lively = {"amount": 20.0}
    looks = (("Misprint", "All of it to one side", {"way": "along"}),)

    way = Choice(
        label="Way",
        help="How they come apart",
        default="out",
        row=True,
        options=options(out="Out from a centre", along="Along a bearing"),
    )
    amount = Number(
        label="Amount",
        help="How far red and blue lie apart; out from a centre, at half the frame's width",
        default=6.0,
        hard=(-500, 500),
        usual=(-30, 30),
        unit="px",
        decimals=1,
    )
    centre = Place(label="Centre", help="What they come apart from", shown_when=When("way", "out"))
    bearing = an_angle("Which way red goes", 0.0, "Bearing", When("way", "along"))

    def idle(self) -> bool:
        return self.amount == 0

    def margin(self, at: Moment) -> Pixels:
        return min(abs(self.amount) * 1.5 + 2, at.width, at.height)

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        out = np.empty((*grid.shape, 4), np.float32)
        alphas = []
        for k, side in ((0, 0.5), (1, 0.0), (2, -0.5)):
            moved = self._moved(side * self.amount, outer, grid, ctx)
            pair = np.ascontiguousarray(field[..., (k, 3)])
            got = cv2.warpAffine(pair, moved, (grid.width, grid.height), flags=INTERPOLATED, borderMode=EXTENDED)
            out[..., k] = got[..., 0]
            alphas.append(got[..., 1])
        mean = (alphas[0] + alphas[1] + alphas[2]) * np.float32(1 / 3)
        out[..., 3] = np.maximum(np.clip(mean, 0, 1), out[..., :3].max(axis=2))
        return out

    def _moved(self, shift: float, outer: Grid, grid: Grid, ctx: Context) -> np.ndarray:
        """Result sample -> sample of `outer`, for a colour that lies `shift` farther out or along."""
        left, top = (grid.x0 - outer.x0) * grid.scale, (grid.y0 - outer.y0) * grid.scale
        if self.way == "along":
            turn = math.radians(self.bearing)
            return np.array(
                [[1, 0, left - shift * math.cos(turn) * grid.scale], [0, 1, top - shift * math.sin(turn) * grid.scale]]
            )
        size = 1 / (1 + shift / (ctx.at.width / 2))
        cx, cy = ((self.centre[0] - grid.x0) * grid.scale - 0.5, (self.centre[1] - grid.y0) * grid.scale - 0.5)
        return np.array([[size, 0, left + cx * (1 - size)], [0, size, top + cy * (1 - size)]])


INTERPOLATED, EXTENDED = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, cv2.BORDER_REPLICATE
