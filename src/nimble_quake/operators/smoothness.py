"""The smoothness of what takes a slope, in a shot of another size."""

from __future__ import annotations

from nimble_quake.motion.motion import is_moving
from nimble_quake.params.kinds import Number
from nimble_quake.params.refit import Refit, Values
from nimble_quake.raster.warps.slopes import blur_before_slope


def refit_smoothness(values: Values, smooth: Number, by: Refit, kernel: int = 3) -> Values:
    """Return values whose smoothness is what softens as much in the new shot, the slope's own blur counted too.

    A smoothness that moves is scaled as any other length. smooth: its parameter.
    """
    now = values.get(smooth.name, smooth.default)
    if by.scale == 1 or is_moving(now):
        return values
    return {**values, smooth.name: smooth.clamp(blur_before_slope(float(now) / by.scale, by.scale, kernel))}
