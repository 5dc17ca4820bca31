"""Lens."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Affine, Field, Pixels
from nimble_quake.operators.base import Context
from nimble_quake.operators.plate_kind import PlateKind, Raster
from nimble_quake.operators.quantities import a_distance, a_size, linked_to
from nimble_quake.params.kinds import Choice, Toggle, When, options
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.feathered import feathered_box
from nimble_quake.raster.geometry.grid import Grid


class Lens(PlateKind):
    """A plate with no picture of its own: it shows what lies beneath it, changed by its effects, inside its shape."""

    title = "Lens"
    rank = 60
    help = "Its effects act on all that lies beneath it, inside a shape or everywhere"
    beneath = True
    without = frozenset({"crop_sides", "crop_ends", "crop_soft"})  # its shape says where it is seen

    shape = Choice(
        label="Shape",
        help="Where it is seen",
        default="none",
        row=True,
        options=options(none="None", ellipse="Ellipse", rectangle="Rectangle"),
    )
    width = a_size("Width", "How wide the shape is", 480.0, (20, 1920), when=When("shape", "ellipse", "rectangle"))
    height = linked_to(
        "width",
        a_size("Height", "How high the shape is", 360.0, (20, 1080), when=When("shape", "ellipse", "rectangle")),
    )
    soft = a_distance(
        "Softness",
        "How wide its edge fades, half inwards, half outwards",
        2.0,
        (0, 200),
        when=When("shape", "ellipse", "rectangle"),
    )
    outside = Toggle(
        label="Invert", help="It is seen outside the shape", shown_when=When("shape", "ellipse", "rectangle")
    )

    def box(self, ctx: Context) -> tuple[float, float]:
        return (ctx.at.width, ctx.at.height) if self.shape == "none" else (self.width, self.height)

    def raster(self, ctx: Context, zoom: tuple[float, float], bleed: Pixels) -> Raster | None:
        return None

    def seen_through(self, place: Affine, grid: Grid) -> Field | None:
        if self.shape == "none":
            return None
        back = affine.inverse(place)
        if back is None:
            return np.zeros((*grid.shape, 1), np.float32)
        if abs(place[0] - place[4]) < 1e-9 and abs(place[1] + place[3]) < 1e-9:  # turned and scaled evenly: exact
            centre, scale = affine.apply(place, self.width / 2, self.height / 2), math.hypot(place[0], place[3])
            size, turn = (self.width * scale, self.height * scale), math.degrees(math.atan2(place[3], place[0]))
            seen = feathered_box(grid, centre, size, turn, self.soft, 0.0, is_round=self.shape == "ellipse")
            return np.asarray(1 - seen if self.outside else seen, np.float32)[..., None]
        a, b, c, d, e, f = (np.float32(v) for v in back)
        xs, ys = grid.xs()[None], grid.ys()[:, None]
        half = (np.float32(self.width / 2), np.float32(self.height / 2))
        u, v = a * xs + b * ys + c - half[0], d * xs + e * ys + f - half[1]
        if self.shape == "ellipse":
            away = np.hypot(u / half[0], v / half[1])
            steep = np.hypot(u / half[0] ** 2, v / half[1] ** 2) / np.maximum(away, np.float32(1e-6))
            far = (away - 1) / np.maximum(steep, np.float32(1e-9))  # about the distance from its rim, own pixels
        else:
            far = np.maximum(np.abs(u) - half[0], np.abs(v) - half[1])
        scale = float(np.sqrt(max(affine.scales(place)[0] * affine.scales(place)[1], 1e-12)))
        wide = max(self.soft, grid.step)  # never harder than a pixel
        t = np.clip(np.float32(0.5) - far * np.float32(scale / wide), 0, 1)
        fraction = t * t * (3 - 2 * t) if self.soft > 2 * grid.step else t
        return np.asarray(1 - fraction if self.outside else fraction, np.float32)[..., None]
