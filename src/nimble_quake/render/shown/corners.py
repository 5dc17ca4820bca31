"""Where effects give themselves away: the frame's corners and borders, and a loop's seam, enlarged side by side."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from nimble_quake.conventions import Bytes8
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.job import FrameJob
from nimble_quake.render.shown.views import screen_of_picture

PART = 12
"""Each cell shows so small a part of the frame's width and height, computed at full size."""
LINE = 2
"""Screen pixels between two cells."""
SMALL = 96
"""Columns of the small frames in which the place is looked for where the seam shows most."""
DARK = 27


@dataclass(frozen=True)
class Enlarged:
    """What is shown: BGRX bytes (H, W, 4), and how many screen pixels a pixel of the frame takes."""

    picture: Bytes8
    factor: float


def enlarged(job: FrameJob, scale: float, at_frame: Callable[[int], FrameJob], *, shutter: bool) -> Enlarged:
    """Return nine cells: corners and borders in their places, the seam of what loops in the middle.

    scale: of what is shown. at_frame: another frame of the same shot. The seam is cut where its two frames differ
    most: at the left the loop's last frame, at the right its first.
    """
    shot = job.shot
    whole = frame_grid(shot.width, shot.height, scale)
    out = np.full((*whole.shape, 4), DARK, np.uint8)
    wide, high = max(1, shot.width // PART), max(1, shot.height // PART)
    rows, columns = _thirds(whole.height), _thirds(whole.width)
    for row, (top, low) in enumerate(rows):
        for column, (left, right) in enumerate(columns):
            size = (low - top, right - left)
            if row == column == 1:
                cell = _seam(job, at_frame, (wide, high), size, shutter=shutter)
            else:
                x = (0, (shot.width - wide) // 2, shot.width - wide)[column]
                y = (0, (shot.height - high) // 2, shot.height - high)[row]
                cell = _part(job, Grid(x, y, wide, high), size, shutter=shutter)
            out[top:low, left:right] = cell
    return Enlarged(out, (columns[0][1] - columns[0][0]) / wide)


def _thirds(side: int) -> list[tuple[int, int]]:
    cuts = [round(side * n / 3) for n in range(4)]
    return [(a + (LINE if n else 0), b) for n, (a, b) in enumerate(zip(cuts, cuts[1:], strict=False))]


def _part(job: FrameJob, grid: Grid, size: tuple[int, int], *, shutter: bool) -> Bytes8:
    """A part of the frame, each pixel repeated until it fills (rows, columns)."""
    part = screen_of_picture(frame_picture(job, grid=grid, shutter=shutter), "result", job.shot.ground[:3])
    ys, xs = ((np.arange(n) * count // n) for n, count in zip(size, grid.shape, strict=True))
    return np.asarray(part[ys[:, None], xs[None]])


def _seam(
    job: FrameJob, at_frame: Callable[[int], FrameJob], part: tuple[int, int], size: tuple[int, int], *, shutter: bool
) -> Bytes8:
    """The last frame of what loops beside its first, where they differ most."""
    shot = job.shot
    first, end = shot.loop or (0, shot.length)
    then = at_frame(end - 1), at_frame(first)
    small = frame_grid(shot.width, shot.height, min(1.0, SMALL / shot.width))
    last, begin = (frame_picture(each, grid=small, shutter=False) for each in then)
    apart = np.abs(last - begin).sum(axis=2)
    row, column = np.unravel_index(int(apart.argmax()), apart.shape)
    x = min(max(round((column + 0.5) * small.step) - part[0] // 2, 0), shot.width - part[0])
    y = min(max(round((row + 0.5) * small.step) - part[1] // 2, 0), shot.height - part[1])
    left, right = (_part(each, Grid(x, y, *part), size, shutter=shutter) for each in then)
    left[:, size[1] // 2 :] = right[:, size[1] // 2 :]
    return left
