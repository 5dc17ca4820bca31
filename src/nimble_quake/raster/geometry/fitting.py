"""How a picture of another size is laid into a frame."""

from __future__ import annotations

from nimble_quake.conventions import Affine
from nimble_quake.raster.geometry import affine


def fit_scale(fit: str, size: tuple[float, float], frame: tuple[float, float]) -> tuple[float, float]:
    """Return the scale (x, y) a fit gives a picture of this size."""
    ratio_x, ratio_y = frame[0] / max(size[0], 1e-9), frame[1] / max(size[1], 1e-9)
    if fit == "stretch":
        return ratio_x, ratio_y
    if fit in ("contain", "cover"):
        one = min(ratio_x, ratio_y) if fit == "contain" else max(ratio_x, ratio_y)
        return one, one
    return 1.0, 1.0


def fitted(fit: str, size: tuple[float, float], frame: tuple[float, float]) -> Affine:
    """Return the map from frame place to picture place, the picture in the frame's middle."""
    sx, sy = fit_scale(fit, size, frame)
    to_middle = affine.shift(-frame[0] / 2, -frame[1] / 2)
    scaled = affine.compose(to_middle, affine.stretch(1 / sx, 1 / sy))
    return affine.compose(scaled, affine.shift(size[0] / 2, size[1] / 2))
