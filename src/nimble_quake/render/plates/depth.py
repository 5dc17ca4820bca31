"""Plates turned in depth, and the shot camera they are seen by; and the motion of four tracked points.

Space: x right, y down (shot pixels), z towards the eye. A plate lies in the plane z = 0 until it is turned. All of it
comes down to one homography, a coordinate step that acts before the plate's own effects: it is composed with them, and
the picture is sampled once.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.operators.base import Context
from nimble_quake.operators.coordinates import Coordinate
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.raster.warps.operations import PERSPECTIVE, Bend
from nimble_quake.render.plan.groups import eyes, is_there

if TYPE_CHECKING:
    from nimble_quake.render.job import FrameJob

Matrix = NDArray[np.float64]

LEAST = 1e-9
FIELD = 40.0
"""The field of view of a shot without a camera plate, degrees from the top of the frame to its foot."""


@dataclass(frozen=True)
class Camera:
    """An eye at `eye` that looks at `target` (x, y, z) and sees `field` degrees from top to foot of the frame."""

    eye: tuple[float, float, float]
    target: tuple[float, float, float]
    field: float
    roll: float = 0.0

    def seen(self, frame: tuple[float, float]) -> Matrix:
        """Return the matrix (3, 4) from points in space (x, y, z, 1) to the frame, homogeneous."""
        eye, ahead = np.array(self.eye), np.subtract(self.target, self.eye)
        ahead = ahead / max(float(np.linalg.norm(ahead)), LEAST)
        right = np.cross((0.0, -1.0, 0.0), ahead)
        length = float(np.linalg.norm(right))
        right = right / length if length > LEAST else np.array((1.0, 0.0, 0.0))
        down = np.cross(ahead, right) * -1.0
        turn = math.radians(self.roll)
        right, down = (math.cos(turn) * right + math.sin(turn) * down, math.cos(turn) * down - math.sin(turn) * right)
        world = np.stack([right, down, ahead])
        view = np.concatenate([world, -(world @ eye)[:, None]], axis=1)
        focal = frame[1] / 2 / math.tan(math.radians(min(max(self.field, 1.0), 170.0)) / 2)
        lens = np.array([[focal, 0, frame[0] / 2], [0, focal, frame[1] / 2], [0, 0, 1]])
        return np.asarray(lens @ view)


def plain_camera(frame: tuple[float, float], field: float = FIELD) -> Camera:
    """Return the camera that sees the plane z = 0 at its own size, straight on."""
    far = frame[1] / 2 / math.tan(math.radians(field) / 2)
    middle = (frame[0] / 2, frame[1] / 2)
    return Camera((*middle, far), (*middle, 0.0), field)


def plane(about: tuple[float, float], tilt: float, swing: float, away: float) -> Matrix:
    """Return the matrix (4, 3) from a place in a plate's plane to space: turned about a place, and moved in depth."""
    a, b = math.radians(tilt), math.radians(swing)
    about_x = np.array([[1, 0, 0], [0, math.cos(a), -math.sin(a)], [0, math.sin(a), math.cos(a)]])
    about_y = np.array([[math.cos(b), 0, math.sin(b)], [0, 1, 0], [-math.sin(b), 0, math.cos(b)]])
    turned = (about_y @ about_x)[:, :2]
    x, y = about
    moved = np.array((x, y, -away)) - turned @ np.array((x, y))
    return np.vstack([np.column_stack([turned, moved]), (0.0, 0.0, 1.0)])


def placed_by(operator: PlateKind, camera: Camera | None, frame: tuple[float, float]) -> Matrix | None:
    """Return the homography from where a plate lies flat to where it is seen; None where it is seen as it lies."""
    flat = operator.tilt == operator.swing == operator.away == 0
    if flat and (camera is None or camera == plain_camera(frame, camera.field)):
        return None
    seen = (camera or plain_camera(frame)).seen(frame)
    return np.asarray(seen @ plane(operator.position, operator.tilt, operator.swing, operator.away))


def carried(before: NDArray[np.float64], after: NDArray[np.float64]) -> Matrix | None:
    """Return the homography that carries four points, or more, nearest to where they went; None for none."""
    if len(before) < 4:
        return None
    found, _ = cv2.findHomography(before.astype(np.float64), after.astype(np.float64), 0)
    good = found is not None and np.isfinite(found).all() and abs(float(np.linalg.det(found))) > LEAST
    return np.asarray(found, np.float64) if good else None


class InDepth(Coordinate):
    """A homography before a plate's own effects. matrix: from where it lies to where it is seen."""

    title = "Depth"
    help = "A plate turned in depth"

    def __init__(self, matrix: Matrix, middle: tuple[float, float]) -> None:
        super().__init__({})
        self.matrix, self.middle = matrix, middle

    def bends(self, ctx: Context) -> tuple[Bend, ...]:
        back = np.linalg.inv(self.matrix) if abs(float(np.linalg.det(self.matrix))) > LEAST else None
        if back is None:  # it is seen edge on: nothing is seen of it
            return ((PERSPECTIVE, (0.0,) * 8 + (-1.0, 1.0, 1.0, 0.0)),)
        x, y, w = self.matrix @ np.array((*self.middle, 1.0))
        if w < 0:  # its middle is behind the eye
            return ((PERSPECTIVE, (0.0,) * 8 + (-1.0, 1.0, 1.0, 0.0)),)
        depth = float(back[2] @ np.array((x, y, w)) / max(w, LEAST))
        numbers = (back * math.copysign(1.0, depth)).ravel()
        numbers = numbers / np.abs(numbers).max()
        return ((PERSPECTIVE, (*(float(n) for n in numbers), 1.0, 1.0, 0.0)),)


def camera_of(job: FrameJob) -> Camera | None:
    """Return the camera the shot is seen by now: that of the topmost camera plate that is there; None for none."""
    for plate in eyes(job):
        if not is_there(plate, job.moment.frame):
            continue
        operator = job.operator("plate", plate, f"plates/{plate.id}")
        found = operator.seen_from((job.moment.width, job.moment.height)) if isinstance(operator, PlateKind) else None
        if found is not None:
            return Camera(*found)
    return None
