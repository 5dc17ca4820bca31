"""Which frame each pixel of a delayed picture shows."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.kernels import kernel
from nimble_quake.raster.threads.rows import clamped, run_rows

ENDS = ("hold", "loop", "mirror")
LIMIT = 1e7
"""Frames; times farther off than this are taken to be this far."""


@kernel(error_model="numpy")
def _frames(amounts, far, now, step, length, ends, out, first, last):
    turn = max(1, 2 * length - 2)
    for j in range(first, last):
        for i in range(amounts.shape[1]):
            later = int(np.rint(clamped(amounts[j, i] * far, np.float32(-LIMIT), np.float32(LIMIT))))
            frame = now if later == 0 else int(np.rint((now + later) / step)) * step
            if ends == 1:
                frame = frame % length
            elif ends == 2:
                frame = frame % turn
                frame = frame if frame < length else turn - frame
            out[j, i] = min(max(frame, 0), length - 1)


def delayed_frames(
    amounts: NDArray[np.float32], far: float, now: int, step: int, length: int, ends: str
) -> NDArray[np.int32]:
    """Return the frame that each pixel shows, (H, W), 0...length-1.

    amounts: (H, W), 1 shows `far` frames later than `now`. Frames lie on steps of the shot, not of now: the next frame
    finds most of them kept; what is not delayed shows now. ends: what is shown past the shot, one of `ENDS`.
    """
    out = np.empty(amounts.shape, np.int32)
    run_rows(_frames, amounts.shape[0], amounts, np.float32(far), now, step, length, ENDS.index(ends), out)
    return out
