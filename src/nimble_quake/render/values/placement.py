"""Where a plate lies: the map from its own pixels to shot pixels."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Affine
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.fitting import fit_scale

Matrix: TypeAlias = NDArray[np.float64]


@dataclass(frozen=True)
class Placement:
    """`place`: own pixels -> shot pixels. `pose`: the plate's turn and scale alone, without its fit."""

    box: tuple[float, float]
    place: Affine
    linear_part: Affine
    seen: Matrix | None = None
    """The homography from where it lies flat to where it is seen, (3, 3); None where it is seen as it lies."""
    home: Affine = affine.IDENTITY
    """Own pixels -> shot pixels at its own place: in the middle of the frame, neither scaled nor turned."""

    def shown(self, x: float, y: float) -> tuple[float, float]:
        """Return where a place of its own is seen, shot pixels."""
        x, y = affine.apply(self.place, x, y)
        return (x, y) if self.seen is None else through(self.seen, x, y)

    def travel(self) -> Matrix:
        """Return how it has come from its own place to where it is seen, (3, 3); the identity while it is there."""
        back = affine.inverse(self.home) or affine.IDENTITY
        moved = np.array((*affine.compose(back, self.place), 0.0, 0.0, 1.0)).reshape(3, 3)
        return moved if self.seen is None else np.asarray(self.seen @ moved)

    def own(self, x: float, y: float) -> tuple[float, float] | None:
        """Return which place of its own is seen at a place of the shot; None where there is none."""
        back = affine.inverse(self.place)
        if back is None:
            return None
        if self.seen is not None:
            if abs(float(np.linalg.det(self.seen))) < 1e-12:
                return None
            x, y = through(inverse(self.seen), x, y)
        return affine.apply(back, x, y)


def through(matrix: Matrix, x: float, y: float) -> tuple[float, float]:
    """Return where a homography takes a place."""
    u, v, w = (float(n) for n in matrix @ np.array((x, y, 1.0)))
    w = w if abs(w) > 1e-9 else 1e-9
    return u / w, v / w


def inverse(matrix: Matrix) -> Matrix:
    """Return the homography back. Raises LinAlgError where there is none."""
    return np.asarray(np.linalg.inv(matrix), np.float64)


def in_frame(plate: PlateKind, box: tuple[float, float], frame: tuple[float, float]) -> Placement:
    """Return where a plate with its own size `box` lies in the frame; one that fills everything lies over it."""
    if plate.endless:
        return Placement(box, affine.IDENTITY, affine.IDENTITY)
    fit = fit_scale(plate.fit_in_frame(), box, frame) if plate.fits else (1.0, 1.0)
    linear_part = affine.compose(affine.stretch(plate.scale_x, plate.scale_y), affine.turn(plate.turn))
    to_anchor = affine.shift(-plate.anchor[0] * box[0], -plate.anchor[1] * box[1])
    laid = affine.compose(to_anchor, affine.stretch(*fit))
    place = affine.compose(laid, linear_part)
    home = affine.compose(laid, affine.shift(frame[0] / 2, frame[1] / 2))
    return Placement(box, affine.compose(place, affine.shift(*plate.position)), linear_part, home=home)
