"""Moving pictures of starters: all frames beside and below each other in one JPEG, so showing one costs nothing."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Bytes8
from nimble_quake.raster.colour.convert import to_screen
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import render_frame
from nimble_quake.shot.model import Shot

WIDTH, HEIGHT, FRAMES, COLUMNS, RATE = 176, 99, 24, 6, 12
"""Pixels of a frame, how many there are, how many lie in a row, how many go by in a second."""
QUALITY = 76


def drawn(shot: Shot) -> Bytes8:
    """Return the frames of a shot from a fourth of it on, in one picture, BGR; wide ones with bars at their sides."""
    engine, step = Engine(), float(shot.rate) / RATE
    frames = [_small(render_frame(engine, shot, _frame(shot, n * step), _scale(shot)), shot) for n in range(FRAMES)]
    rows = [np.hstack(frames[first : first + COLUMNS]) for first in range(0, FRAMES, COLUMNS)]
    return np.vstack(rows)


def _frame(shot: Shot, gone: float) -> int:
    return round(shot.length / 4 + gone) % shot.length


def _scale(shot: Shot) -> float:
    """Twice as fine as it is shown, and no finer than it is."""
    return min(1.0, 2 * min(WIDTH / shot.width, HEIGHT / shot.height))


def _small(picture: NDArray[np.float32], shot: Shot) -> Bytes8:
    times = min(WIDTH / shot.width, HEIGHT / shot.height)
    wide, tall = max(1, round(shot.width * times)), max(1, round(shot.height * times))
    seen = cv2.resize(np.ascontiguousarray(to_screen(picture)[..., :3]), (wide, tall), interpolation=cv2.INTER_AREA)
    out = np.full((HEIGHT, WIDTH, 3), 27, np.uint8)
    left, top = (WIDTH - wide) // 2, (HEIGHT - tall) // 2
    out[top : top + tall, left : left + wide] = seen
    return out


def draw(shot: Shot, target: Path) -> None:
    """Draw a shot's moving picture into a file."""
    done, data = cv2.imencode(".jpg", drawn(shot), [cv2.IMWRITE_JPEG_QUALITY, QUALITY])
    if done:
        target.write_bytes(data.tobytes())
