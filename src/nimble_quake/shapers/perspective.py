"""Perspective."""

from __future__ import annotations

import math

import cv2
import numpy as np

from nimble_quake.operators.base import Context
from nimble_quake.operators.coordinates import Coordinate
from nimble_quake.operators.quantities import an_angle
from nimble_quake.params.kinds import Choice, Number, Place, When, options
from nimble_quake.raster.warps.operations import PERSPECTIVE, Bend

CORNERS, TURNS = When("by", "corners"), When("by", "turns")


class Perspective(Coordinate):
    """Lays the map in perspective, by its four corners or by three turns and a depth; far parts are averaged."""

    title = "Perspective"
    group = "Space"
    help = "Lays the map down like a floor or water"
    looks = (("Floor", "Laid down to a horizon", {"by": "turns", "tilt": 68.0, "depth": 900.0}),)

    by = Choice(
        label="By",
        help="How it is laid",
        default="corners",
        row=True,
        options=options(corners="Corners: where the four of them lie", turns="Turns: three, and a depth"),
    )
    top_left = Place(
        label="Top left", help="Where the map's corner comes to lie", default=(0.25, 0.1), shown_when=CORNERS
    )
    top_right = Place(
        label="Top right", help="Where the map's corner comes to lie", default=(0.75, 0.1), shown_when=CORNERS
    )
    bottom_right = Place(
        label="Low right", help="Where the map's corner comes to lie", default=(1.1, 1.0), shown_when=CORNERS
    )
    bottom_left = Place(
        label="Low left", help="Where the map's corner comes to lie", default=(-0.1, 1.0), shown_when=CORNERS
    )
    tilt = an_angle("Turns the top away from you", 60.0, "Tilt", TURNS)
    swing = an_angle("Turns the right side away from you", 0.0, "Swing", TURNS)
    roll = an_angle("Turns it in its own plane", 0.0, "Roll", TURNS)
    depth = Number(
        label="Depth",
        help="Distance of the eye; nearer is steeper",
        default=1200.0,
        hard=(50, 100_000),
        usual=(300, 4000),
        unit="px",
        decimals=0,
        shown_when=TURNS,
    )
    beyond = Choice(
        label="Beyond",
        help="What is seen outside the map",
        default="hold",
        row=True,
        options=options(hold="Its border", wrap="Repeated", mirror="Mirrored"),
    )

    @classmethod
    def handles(cls) -> tuple[tuple[str, str], ...]:
        return (
            ("top_left", "top_right"),
            ("top_right", "bottom_right"),
            ("bottom_right", "bottom_left"),
            ("bottom_left", "top_left"),
        )

    def bends(self, ctx: Context) -> tuple[Bend, ...]:
        size = (float(ctx.at.width), float(ctx.at.height))
        matrix = self._back(*size)
        if matrix is None:
            return ()
        rule = ("hold", "wrap", "mirror").index(self.beyond)
        numbers = (matrix * _middle_depth(matrix, size)).ravel()
        return ((PERSPECTIVE, (*(float(n) for n in numbers / np.abs(numbers).max()), *size, float(rule))),)

    def _back(self, width: float, height: float) -> np.ndarray | None:
        """The matrix from a place in the result to a place in the map; None where the map would be edge on."""
        flat = np.array([(0, 0), (width, 0), (width, height), (0, height)], np.float32)
        if self.by == "turns":
            return self._turned(flat, width, height)
        laid = np.array((self.top_left, self.top_right, self.bottom_right, self.bottom_left), np.float32)
        found = cv2.getPerspectiveTransform(laid, flat)
        return found if np.isfinite(found).all() and abs(np.linalg.det(found)) > 1e-12 else None

    def _turned(self, flat: np.ndarray, width: float, height: float) -> np.ndarray | None:
        a, b, c = (math.radians(v) for v in (self.tilt, self.swing, self.roll))
        about_x = np.array([[1, 0, 0], [0, math.cos(a), -math.sin(a)], [0, math.sin(a), math.cos(a)]])
        about_y = np.array([[math.cos(b), 0, math.sin(b)], [0, 1, 0], [-math.sin(b), 0, math.cos(b)]])
        about_z = np.array([[math.cos(c), -math.sin(c), 0], [math.sin(c), math.cos(c), 0], [0, 0, 1]])
        # a small square stands for the whole: corners behind the eye cannot be projected, its own can
        small = (flat - (width / 2, height / 2)) * 0.01
        points = np.column_stack([small, np.zeros(4)]) @ (about_y @ about_x @ about_z).T
        seen = points[:, :2] * (self.depth / (self.depth - points[:, 2]))[:, None]
        forth = cv2.getPerspectiveTransform(small.astype(np.float32), seen.astype(np.float32))
        if not np.isfinite(forth).all() or abs(np.linalg.det(forth)) < 1e-9:
            return None
        middle = np.array([[1, 0, width / 2], [0, 1, height / 2], [0, 0, 1.0]])
        return np.asarray(middle @ np.linalg.inv(forth) @ np.linalg.inv(middle))


def _middle_depth(back: np.ndarray, size: tuple[float, float]) -> float:
    """The sign of depth where the map's own middle lies: the side of the horizon that is seen."""
    x, y, w = np.linalg.inv(back) @ np.array([size[0] / 2, size[1] / 2, 1.0])
    w = w if abs(w) > 1e-12 else 1e-12
    return float(np.sign(back[2, 0] * x / w + back[2, 1] * y / w + back[2, 2])) or 1.0
