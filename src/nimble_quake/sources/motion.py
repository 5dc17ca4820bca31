"""Motion."""

from __future__ import annotations

import cv2
import numpy as np

from nimble_quake.conventions import Field, Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance
from nimble_quake.operators.steps import Source
from nimble_quake.params.kinds import Choice, Number, PlateRef, Toggle, options
from nimble_quake.raster.blur.filters import gaussian
from nimble_quake.raster.colour.channels import luminance
from nimble_quake.raster.geometry.grid import Grid

LARGEST = 640
"""Samples along the longer side of what motion is measured on: finer would be noise."""


class Motion(Source):
    """How a plate's picture moves, pixel by pixel, as a vector map; or how fast, as values.

    Dense inverse search (Kroeger et al., 2016), from one frame of the shot to the next.
    """

    title = "Motion"
    group = "Pictures"
    help = "How a clip moves: its optical flow, or its speed"
    looks = (("Speed", "Light where much moves", {"shows": "speed"}),)

    plate = PlateRef(label="Plate", help="The plate whose picture is looked at", effects_by="with_effects")
    with_effects = Toggle(label="Effects too", help="Its effects are looked at too")
    shows = Choice(
        label="Shows",
        help="Which way it moves, across and down, or how fast",
        default="ways",
        row=True,
        options=options(ways="Ways", speed="Speed"),
    )
    full = Number(
        label="Full at",
        help="The motion, shot pixels a frame, that is pure white",
        default=12.0,
        hard=(0.1, 10000),
        usual=(1, 60),
        unit="px",
        decimals=1,
    )
    smooth = a_distance("Smoothness", "Softens the motion", 10.0, (0, 60), (0, 400))

    def timed(self) -> bool:
        return True

    def looks_back(self) -> bool:
        return True

    def make(self, grid: Grid, ctx: Context) -> Field:
        rest = np.full((*grid.shape, 1 if self.shows == "speed" else 2), self.rest(ctx), np.float32)
        if not self.plate:
            return rest
        before = ctx.at.seconds - 1 / float(ctx.at.rate)
        now, _ = ctx.services.plate_picture(self.plate, grid, with_effects=self.with_effects)
        then, _ = ctx.services.plate_picture(self.plate, grid, with_effects=self.with_effects, seconds=max(before, 0.0))
        flow = _flow(then, now) * np.float32(grid.step)
        sigma = self.smooth * grid.scale
        flow = np.asarray(gaussian(np.ascontiguousarray(flow), sigma, sigma) if sigma > 0.05 else flow, np.float32)
        if self.shows == "speed":
            return np.asarray(np.hypot(flow[..., :1], flow[..., 1:]) / np.float32(self.full), np.float32)
        return np.asarray(rest + flow * np.float32(0.5 / self.full), np.float32)

    def rest(self, ctx: Context) -> float:
        return 0.0 if self.shows == "speed" else 0.5


def _flow(first: Picture, then: Picture) -> Field:
    """How far each sample has come since the frame before, (H, W, 2) samples; looked up backwards, so it lies now."""
    height, width = first.shape[:2]
    size = min(1.0, LARGEST / max(height, width))
    small = (max(16, round(width * size)), max(16, round(height * size)))
    greys = [
        cv2.resize(
            np.clip(np.rint(luminance(picture) * 255), 0, 255).astype(np.uint8), small, interpolation=cv2.INTER_AREA
        )
        for picture in (then, first)
    ]
    search = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_MEDIUM)
    back = search.calc(greys[0], greys[1], np.zeros((small[1], small[0], 2), np.float32))
    wide = cv2.resize(back, (width, height), interpolation=cv2.INTER_LINEAR)
    return np.asarray(-wide * np.array((width / small[0], height / small[1]), np.float32), np.float32)
