"""The height of moving water: a sum of travelling waves.

Along a row each wave is cos(a + b) = cos a cos b - sin a sin b with a of the column and b of the row alone, so a wave
costs two multiplications a sample.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.threads.rows import run_rows


@kernel(error_model="numpy", fastmath={"contract"})
def _waves(cosines, sines, row_cosines, row_sines, amounts, out, first, last):
    for j in range(first, last):
        row = out[j]
        for n in range(len(amounts)):
            c, s = np.float32(row_cosines[n, j] * amounts[n]), np.float32(row_sines[n, j] * amounts[n])
            for i in range(len(row)):
                row[i] += cosines[n, i] * c - sines[n, i] * s


def waves(
    grid: Grid,
    kx: NDArray[np.float64],
    ky: NDArray[np.float64],
    phases: NDArray[np.float64],
    amounts: NDArray[np.float64],
    out: Field,
) -> None:
    """Add sum amounts cos(kx x + ky y + phases) to out (H, W, 1); kx, ky in radians a shot pixel."""
    xs = grid.x0 + (np.arange(grid.width) + 0.5) * grid.step
    ys = grid.y0 + (np.arange(grid.height) + 0.5) * grid.step
    across, down = np.outer(kx, xs), np.outer(ky, ys) + phases[:, None]
    # what is shorter than two samples cannot be seen, and is the mean: nothing
    long = np.sinc(kx * grid.step / (2 * np.pi)) * np.sinc(ky * grid.step / (2 * np.pi))
    tables = (np.cos(across).astype(np.float32), np.sin(across).astype(np.float32), np.cos(down), np.sin(down))
    run_rows(_waves, grid.height, *tables, amounts * long, out.reshape(grid.shape))
